//! `rgb-panel`: colour panels of shift drivers and row switches behind a connector with 16 pins, without memory: the
//! controller shifts every row again and again, and makes shades by lighting each bit of a colour for twice as long as the
//! one below.
//!
//! ```toml
//! [face.departures.drive]
//! method = "rgb-panel"
//! pins = { r1 = "GP0", g1 = "GP1", b1 = "GP2", r2 = "GP3", g2 = "GP4", b2 = "GP5", a = "GP6", b = "GP7", c = "GP8", d = "GP9", clock = "GP10", latch = "GP11", enable = "GP12" }
//! panel = "64x32"                 # one panel; width and height of the face are those of the whole wall
//! scan = "1/16"                   # printed on its back, often as 16S
//! clock_hz = 10_000_000           # at most 25 MHz
//! depth = 6                       # bits of each colour, 1 to 8
//! gamma = 2.2                     # light = level ^ gamma
//! refresh_hz = 120                # at least; rows are lit for as long as that allows
//! blanking = "1us"
//! brightness = 15                 # 0 to 15: sixteenths of the time
//! colour_order = "rgb"            # which colours the lines R, G and B light
//! column_milliamps = 12.0         # what a light gets while it is lit
//! panels = { first = "right", first_row = "top", serpentine = false, rotate = 0, except = [{ panel = 1, rotate = 180 }] }
//! fold = { block = 8, first = "top", serpentine = false }     # where an address lights several rows of a half
//! ```

mod driver;
pub mod facts;
mod geometry;
mod layout;
mod model;
mod plan;
pub mod times;
mod trouble;
mod wiring;

pub use layout::{Fold, Layout};
pub use plan::{RgbPanel, lines_for};
use times::Times;

use crate::bare::circuit::SwitchKind;
use crate::bus::Transfer;
use crate::bus::panel::{self, Controls};
use crate::dots::places;
use crate::driver::Driver;
use crate::face::{Element, Face};
use crate::frame::Level;
use crate::geometry::Geometry;
use crate::meaning::Meaning;
use crate::model::Model;
use crate::units::{Hertz, Milliamps, Nanos, Volts, counted};

use super::modules::{self, Hung};
use super::{
    ByteCode, Chip, ChipPin, Depth, Display, Method, NoByte, Part, ScanTimes, Wire, WireEnd, mean_current,
};

/// The keys of a rig.
pub const METHODS: &[&dyn Method] = &[&RgbPanel];

/// A chain of panels, as a plan.
#[derive(Debug, Clone, PartialEq)]
pub struct Plan {
    /// How they are made and hang.
    pub layout: Layout,
    /// When rows are lit.
    pub times: Times,
    /// Light is a level to the power of this.
    pub gamma: f64,
    /// The refresh that the rig wants.
    pub wanted: Hertz,
    /// The brightness step at power-up.
    pub brightness: u8,
    /// The current of a lit light.
    pub column: Milliamps,
}

impl Plan {
    /// The current of a panel while every light of the rows of an address is lit: its supply and wires must carry it.
    #[must_use]
    pub fn most_of_a_panel(&self) -> Milliamps {
        let lit = 2 * self.layout.folds() * self.layout.panel.0 * 3;
        Milliamps(facts::OWN_CURRENT.0 + self.column.0 * lit as f64)
    }

    /// The address lines that the scan has, as the connector names them.
    fn address_lines(&self) -> String {
        let lines = &facts::ADDRESS_LINES[..facts::address_lines(self.layout.scan)];
        lines.iter().map(|line| line.to_uppercase()).collect::<Vec<_>>().join(" ")
    }

    /// The pins that must be grounded at the connector, by name and number.
    fn grounds(&self) -> Vec<String> {
        let spare = facts::ADDRESS_LINES.iter().skip(facts::address_lines(self.layout.scan));
        let pin = |line: &&str| facts::CONNECTOR.iter().find(|(known, ..)| known == line);
        spare.filter_map(pin).map(|(_, name, number)| format!("{name} ({number})")).collect()
    }
}

/// Returns a number of panels in words.
fn parts(panels: usize, (width, height): (usize, usize)) -> String {
    counted(panels, &format!("{width}x{height} colour panel"), &format!("{width}x{height} colour panels"))
}

/// The cross-section in square millimetres of the two wires to a panel a metre away, of those on sale, in which a current
/// loses no more than a twentieth of 5 V.
fn wire(current: Milliamps) -> f64 {
    /// Of copper, in ohm square millimetres a metre.
    const RESISTIVITY: f64 = 0.0175;
    const SOLD: [f64; 8] = [0.25, 0.5, 0.75, 1.0, 1.5, 2.5, 4.0, 6.0];
    let least = 2.0 * RESISTIVITY * current.0 / 1e3 / 0.25;
    SOLD.into_iter().find(|sold| *sold >= least).unwrap_or(SOLD[SOLD.len() - 1])
}

impl Part for Plan {
    fn summary(&self) -> String {
        let (Layout { scan, .. }, Times { depth, clock, .. }) = (&self.layout, &self.times);
        let chain = if self.layout.panels() > 1 { " in a chain" } else { "" };
        let refresh = self.times.refresh();
        format!(
            "{}{chain}, scan 1/{scan}, {depth} bits a colour at {refresh:.0} Hz, clock {clock}",
            self.parts()
        )
    }

    fn parts(&self) -> String {
        parts(self.layout.panels(), self.layout.panel)
    }

    fn explain(&self, transfer: &Transfer<'_>) -> Meaning {
        match transfer {
            Transfer::Burst { columns } => {
                let lit = columns.iter().filter(|column| **column >> layout::LINES & 1 == 0).count();
                let while_lit = match lit {
                    0 => "all dark".to_owned(),
                    lit if lit == columns.len() => "the row before lit".to_owned(),
                    lit => format!("the row before lit for {}", counted(lit, "clock", "clocks")),
                };
                let columns = counted(columns.len(), "column", "columns");
                Meaning::words(format!("{columns} shifted in, {while_lit}"))
            }
            Transfer::Ports { levels: [levels], .. } => {
                let controls = Controls { address_lines: facts::address_lines(self.layout.scan) };
                let (latch, dark, address) = controls.read(*levels);
                let latch = if latch { ", the columns are latched" } else { "" };
                let light = if dark { "dark" } else { "lit" };
                Meaning::words(format!("row {address} addressed, {light}{latch}"))
            }
            _ => Meaning::words("nothing that a panel knows"),
        }
    }

    fn chips(&self) -> Vec<Chip> {
        let address = facts::address_lines(self.layout.scan);
        let place = |line: &str| match line {
            "clock" => Some(panel::CLOCK),
            "latch" => Some(panel::LATCH),
            "enable" => Some(panel::ENABLE),
            line => {
                let address_line = facts::ADDRESS_LINES[..address].iter().position(|known| *known == line);
                let data_line =
                    || facts::DATA_LINES.iter().position(|known| *known == line).map(|data| address + data);
                address_line.or_else(data_line).map(|place| panel::ADDRESS + place)
            }
        };
        let pin = |(line, name, number): &(&str, &'static str, u8)| {
            Some((place(line)?, ChipPin(name, Some(*number))))
        };
        let chip = |number: usize| Chip {
            part: "",
            name: format!("panel {number}"),
            beside: Vec::new(),
            lines: if number == 0 { facts::CONNECTOR.iter().filter_map(pin).collect() } else { Vec::new() },
        };
        (0..self.layout.panels()).map(chip).collect()
    }

    fn chained(&self) -> Option<(ChipPin, ChipPin)> {
        (self.layout.panels() > 1).then_some((ChipPin("OUT", None), ChipPin("IN", None)))
    }

    fn wires(&self) -> Vec<Wire> {
        let grounds = self.grounds().into_iter().map(|pin| {
            let note = format!("scan 1/{} does not use it", self.layout.scan);
            Wire::of("panel 0", &pin, WireEnd::Ground, &note)
        });
        let fixed = ["GND (4)", "GND (16)"]
            .map(|pin| Wire::of("panel 0", pin, WireEnd::Ground, "both ground pins are needed"));
        let current = self.most_of_a_panel();
        let fed = (0..self.layout.panels()).map(|number| {
            let note = format!(
                "4.5 to 5.5 V, {:.1} A at most, through wires of {} mm2 if a metre long",
                current.0 / 1e3,
                wire(current)
            );
            Wire::of(&format!("panel {number}"), "power", WireEnd::Supply, &note)
        });
        grounds.chain(fixed).chain(fed).collect()
    }
}

impl Display for Plan {
    fn driver(&self) -> Box<dyn Driver> {
        Box::new(driver::Scanner::new(self.times, self.gamma, self.brightness))
    }

    fn model(&self, _: &Face) -> Box<dyn Model> {
        Box::new(model::Chain::new(self.layout.columns(), self.layout.scan))
    }

    fn geometry(&self, face: &Face) -> Geometry {
        self.layout.geometry(face)
    }

    fn byte_code(&self, _: &Face, _: usize) -> Result<ByteCode, NoByte> {
        Err(NoByte::Dots)
    }

    fn max_brightness(&self) -> Option<u8> {
        Some(facts::MAX_BRIGHTNESS)
    }

    fn step_light(&self, step: u8) -> f32 {
        (f32::from(step.min(facts::MAX_BRIGHTNESS)) + 1.0) / 16.0
    }

    fn full_duty(&self) -> f32 {
        self.times.duty() as f32
    }

    fn usual_light(&self) -> f32 {
        self.step_light(self.brightness)
    }

    fn draws(&self, lights: usize) -> Option<Milliamps> {
        let own = facts::OWN_CURRENT * self.layout.panels() as f64;
        Some(Milliamps(own.0 + mean_current(self, lights, self.column, self.brightness).0))
    }

    fn draws_showing(&self, levels: &[Level]) -> Option<Milliamps> {
        let own = facts::OWN_CURRENT * self.layout.panels() as f64;
        let light: f64 = levels.iter().map(|level| f64::from(self.light_of(*level))).sum();
        let share = self.times.duty() * f64::from(self.usual_light());
        Some(Milliamps(own.0 + self.column.0 * light * share))
    }

    fn light_of(&self, level: Level) -> f32 {
        f32::from(level.step(self.times.depth, self.gamma)) / self.grey_steps() as f32
    }

    fn module(&self) -> Option<(usize, usize)> {
        let (width, height) = self.layout.panel;
        let is_upright = self.layout.turns.first().is_some_and(|turn| turn.is_upright());
        Some(if is_upright { (height, width) } else { (width, height) })
    }

    fn hung(&self) -> Vec<Hung> {
        let Layout { across, down, first, first_row, serpentine, ref turns, .. } = self.layout;
        modules::hung((across, down), first, first_row, serpentine, turns.iter().copied())
    }

    fn grey_steps(&self) -> u32 {
        (1 << self.times.depth) - 1
    }

    fn scan(&self) -> Option<ScanTimes> {
        let Times { addresses, depth, .. } = self.times;
        Some(ScanTimes {
            turn: self.times.turn(),
            slots: addresses * usize::from(depth),
            slot: self.times.slot(0),
            ahead: self.times.slot(depth - 1),
            blanking: self.times.gap(),
            lit: Nanos((self.times.turn().0 as f64 * self.times.duty()).round() as u64),
            switch: (SwitchKind::Pmos, facts::ROW_TURN_OFF),
        })
    }

    fn selected(&self, face: &Face) -> Vec<(String, Vec<Element>)> {
        let Some(grid) = face.dots() else { return Vec::new() };
        let mut selected: Vec<_> =
            (0..self.layout.scan).map(|address| (format!("address {address}"), Vec::new())).collect();
        for (x, y) in places(grid.width, grid.height) {
            let of_dot = self.layout.address(x, y);
            if let (Some((_, elements)), Some(Element(first))) = (selected.get_mut(of_dot), face.dot(x, y)) {
                elements.extend((first..first + 3).map(Element));
            }
        }
        selected
    }

    fn depths(&self) -> Vec<Depth> {
        let wanted = f64::from(self.wanted.0);
        let of_depth = |times: Times| Depth {
            bits: times.depth,
            fastest: Times { unit: 1, spare: Nanos(0), ..times }.refresh(),
            lit: (times.refresh() >= wanted).then(|| times.duty() * times.addresses as f64),
            is_chosen: times.depth == self.times.depth,
        };
        self.times.depths(self.wanted).map(of_depth).collect()
    }

    fn remarks(&self) -> Vec<String> {
        let Layout { scan, .. } = self.layout;
        let grounds = match &self.grounds()[..] {
            [] => "all five are lines of the connector".to_owned(),
            [pin] => format!("{pin} is ground"),
            pins => format!("{} are ground", pins.join(", ")),
        };
        let most = self.most_of_a_panel();
        let panels = self.layout.panels();
        let all = Milliamps(most.0 * panels as f64);
        let each = if panels == 1 { "the panel".to_owned() } else { format!("each of the {panels} panels") };
        let in_all = if panels == 1 { String::new() } else { format!(", {:.1} A in all", all.0 / 1e3) };
        let white = self.draws(self.layout.node_count()).unwrap_or_default();
        vec![
            format!("scan 1/{scan} needs the address lines {}; {grounds}", self.address_lines()),
            "to find the scan of an unknown panel out, look for 8S, 16S or 32S on its back, or see with a meter whether \
             pin 8 is joined to the grounds 4 and 16: if not it is line E, and the scan 1/32"
                .to_owned(),
            format!(
                "feed {each} with {:.1} A at {}: every light of the rows that are lit together at {}{in_all}",
                most.0 / 1e3,
                Volts(5.0),
                self.column
            ),
            format!(
                "all white takes {:.1} A on average, through two wires of {} mm2 to a panel a metre away",
                white.0 / 1e3,
                wire(most)
            ),
        ]
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn wires_lose_no_more_than_a_twentieth() {
        // 4.7 A through twice a metre of 0.75 mm2 lose 0.22 V.
        assert_eq!(wire(Milliamps(4_700.0)), 0.75);
        assert_eq!(wire(Milliamps(100.0)), 0.25);
        assert_eq!(wire(Milliamps(60_000.0)), 6.0, "the thickest there is");
    }
}
