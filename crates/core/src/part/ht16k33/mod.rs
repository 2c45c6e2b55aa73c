//! `ht16k33`: eight commons of sixteen rows, common cathode, with keys, on I2C.
//!
//! ```toml
//! [face.sign]
//! kind = "fourteen-segment"
//! [face.sign.drive]
//! method = "ht16k33"
//! pins = { clock = "GP5", data = "GP4" }
//! addresses = [0x70, 0x71]        # up to eight parts, from left to right
//! clock_hz = 400_000              # at most 400 kHz
//! bus_volts = 5.0                 # the high level at the part, after any level converter
//! brightness = 8                  # 0 to 15
//! blink_hz = 0                    # 0, 0.5, 1 or 2: the part's own blinking
//! segments = "dp m l k j i h g2 g1 f e d c b a"   # which segment is on the rows, the highest first
//! digits = ["com0", "com1", "com3", "com4"]       # of several parts "part1.com0"
//! rows = ["com0", "com1", "com2", "com3", "com4", "com5", "com6", "com7"]      # of dots, from the top
//! columns = ["row0", "row1", "row2", "row3", "row4", "row5", "row6", "row7"]   # from the left; or rows on rows
//! green_columns = ["row8", "row9", "row10", "row11", "row12", "row13", "row14", "row15"]   # of two colours
//! resend = "10s"                  # send everything again so often
//! ```
//!
//! The node of a colon or lamp is a common and a row, `com2.row1`; that of a key its bit in the six bytes that the
//! part answers, `byte0.bit3`, of several parts in those of all one after another.

mod driver;
mod model;

use crate::rig::Spanned;
use crate::schema::{JsonSchema, Schema, SchemaGenerator};
use serde::de::IgnoredAny;

use super::expander::straps;
use super::grid::{GridKeys, Grids, Wired, usual_order};
use super::trouble::PartTrouble;
use super::{
    Button, ByteCode, Chip, ChipPin, Component, DECOUPLING, Display, Drive, Header, Method, Needs, NoByte,
    Part, Planned, Sample, Wire, WireEnd, brightness, buttons, check_common, check_logic, check_supply,
    mean_current, parse_button_bit, resend,
};
use crate::bus::watch::Limits;
use crate::bus::{Protocol, Transfer, i2c};
use crate::driver::Driver;
use crate::face::{Channels, Face};
use crate::frame::Level;
use crate::geometry::Geometry;
use crate::glyph::Common;
use crate::meaning::Meaning;
use crate::model::Model;
use crate::rig::{Controller, DriveTable, Pin, Place, Problem};
use crate::units::{Hertz, Milliamps, Nanos, Volts};

/// The method `ht16k33`.
pub struct Ht16k33;

/// The keys of a rig.
pub const METHODS: &[&dyn Method] = &[&Ht16k33];

/// Commons of a part, and rows of each.
const COMMONS: usize = 8;
const ROWS: usize = 16;
/// One for each address.
const MAX_PARTS: usize = 8;
const MAX_BRIGHTNESS: u8 = 15;
/// The current of a row line while its common is selected (data sheet, I_OH of ROW, typical).
const LINE_CURRENT: Milliamps = Milliamps(25.0);
/// Bytes that a part answers when its keys are read.
const KEY_BYTES: usize = 6;
const LIMITS: Limits = Limits { clock: Hertz(400_000), setup: Nanos(100), hold: Nanos(0) };
const SUPPLY: (Volts, Volts) = (Volts(4.5), Volts(5.5));
/// The side of the digits that is joined: commons sink.
const COMMON: Common = Common::Cathode;

#[derive(serde::Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
struct Keys {
    #[serde(rename = "method")]
    #[cfg_attr(feature = "schema", schemars(skip))]
    _method: IgnoredAny,
    /// The controller pins of SDA and SCL.
    pins: Pins,
    /// The address of each part, from left to right: `[0x70, 0x71]`.
    addresses: Option<Spanned<Vec<Spanned<u8>>>>,
    /// The clock rate.
    clock_hz: Option<Spanned<u32>>,
    /// How often a second the display blinks: 0, 0.5, 1 or 2.
    blink_hz: Option<Spanned<f64>>,
}

#[derive(serde::Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
struct Pins {
    /// SCL.
    clock: Spanned<Pin>,
    /// SDA.
    data: Spanned<Pin>,
}

/// How many parts it takes: of dots as many side by side as their width asks for.
fn parts_for(face: &Face) -> usize {
    match face.dots() {
        None => face.digits().div_ceil(COMMONS),
        Some(grid) => (grid.width * grid.channels.count()).div_ceil(ROWS),
    }
}

/// The blink rates of the part, by the bits of its display command.
const BLINK: [f64; 4] = [0.0, 2.0, 1.0, 0.5];

/// Parts on one bus, as a plan.
#[derive(Debug, Clone, PartialEq)]
pub struct Plan {
    /// The address of each part, from left to right.
    pub addresses: Vec<u8>,
    /// Their wiring.
    pub wired: Wired,
    /// The clock rate.
    pub clock: Hertz,
    /// The brightness at power-up.
    pub brightness: u8,
    /// The blink bits of the display command.
    pub blink: u8,
    /// Byte and bit of each push button in what all parts answer one after another.
    pub buttons: Vec<Button>,
    /// The push buttons by the rig's names.
    pub button_names: Vec<String>,
    /// How often everything is sent again.
    pub resend: Option<Nanos>,
}

impl Method for Ht16k33 {
    fn name(&self) -> &'static str {
        "ht16k33"
    }

    fn channels(&self) -> &'static [Channels] {
        &[Channels::One, Channels::Two]
    }

    fn common(&self) -> Option<Common> {
        Some(COMMON)
    }

    fn sample(&self) -> Option<Sample> {
        Some(Sample {
            digits: 8,
            lines: &["clock", "data"],
            addresses: &[0x70, 0x71, 0x72, 0x73, 0x74, 0x75, 0x76, 0x77],
        })
    }

    fn plan(&self, face: &Face, controller: &Controller, table: &DriveTable<'_>) -> Option<Planned> {
        let (keys, grid_keys): (Keys, GridKeys) = table.read_both()?;
        // Of dots either side may be joined in rows: what is a row of one side is a column of the other.
        if face.dots().is_none() {
            check_common(face, self.name(), COMMON, table);
        }
        check_supply(controller, self.name(), SUPPLY, table);
        let level = check_logic(controller, self.name(), grid_keys.bus_volts.clone(), table);
        let clock = table.or_assume("clock_hz", keys.clock_hz, 400_000);
        let mut sound = table.check_range(&clock, 1, LIMITS.clock.0);
        let brightness = brightness(&grid_keys, 8, MAX_BRIGHTNESS, table);
        let blink_rate = table.or_assume("blink_hz", keys.blink_hz, 0.0);
        let blink = BLINK.iter().position(|rate| rate == blink_rate.get_ref());
        if blink.is_none() {
            let allowed = "0, 0.5, 1 or 2".to_owned();
            let found = blink_rate.get_ref().to_string();
            table.error(blink_rate.span(), Problem::WrongValue { found, allowed });
        }
        let blink = blink?;
        let lines =
            vec![table.shared_line(&keys.pins.clock, "clock"), table.shared_line(&keys.pins.data, "data")];
        let addresses = match keys.addresses {
            Some(written) => written.into_inner(),
            None => {
                let wanted = parts_for(face).clamp(1, COMMONS) as u8;
                let list: Vec<_> = (0..wanted).map(|part| format!("{:#04x}", 0x70 + part)).collect();
                table.assume("addresses", format!("[{}]", list.join(", ")));
                (0..wanted).map(|part| Spanned::new(table.place(), 0x70 + part)).collect()
            }
        };
        for address in &addresses {
            if (0x70..=0x77).contains(address.get_ref()) {
                table.claim_address(address, &lines[i2c::CLOCK].known, &lines[i2c::DATA].known);
            } else {
                let found = i64::from(*address.get_ref());
                let allowed = "0x70 to 0x77, with 24 pins to 0x73, with 20 pins only 0x70";
                table.error(address.span(), PartTrouble::Address { part: "ht16k33", found, allowed });
                sound = false;
            }
        }
        if addresses.is_empty() {
            let allowed = "the address of each part".to_owned();
            table.error(
                Place::Drive("addresses"),
                Problem::WrongValue { found: "an empty list".into(), allowed },
            );
            return None;
        }
        let memory = Grids {
            parts: addresses.len(),
            grids: COMMONS,
            lines: ROWS,
            grid_name: ("com", 0),
            line_name: ("row", 0),
        };
        let (wired, wiring) = Wired::plan(memory, face, &grid_keys, usual_order(face.style()), table)?;
        let answered = addresses.len() * KEY_BYTES;
        let is_answered = |name: &str| parse_button_bit(name).filter(|(byte, _)| *byte < answered);
        let allowed =
            format!("a bit of what the parts answer, from \"byte0.bit0\" to \"byte{}.bit7\"", answered - 1);
        let plan = Plan {
            addresses: addresses.iter().map(|address| *address.get_ref()).collect(),
            wired,
            clock: Hertz(*clock.get_ref()),
            brightness,
            blink: blink as u8,
            buttons: buttons(is_answered, &allowed, table)?,
            button_names: table.keys().iter().map(|(name, _)| (*name).to_owned()).collect(),
            resend: resend(grid_keys.resend.as_ref(), table)?,
        };
        let protocol = Protocol::I2c(i2c::I2c { clock: plan.clock });
        sound.then_some(Planned { protocol, lines, wiring, level, drive: Drive::Ht16k33(plan) })
    }

    fn keys(&self, generator: &mut SchemaGenerator) -> Vec<Schema> {
        vec![Keys::json_schema(generator), GridKeys::json_schema(generator)]
    }

    fn needs(&self, face: &Face) -> Option<Needs> {
        let parts = parts_for(face);
        let fits = match face.dots() {
            // A common a character, whose sixteen rows hold all segments but the point of the widest kind.
            None => face.style().point_index() <= ROWS,
            Some(grid) => grid.height <= COMMONS,
        };
        (fits && parts <= MAX_PARTS).then(|| Needs { pins: 2, parts: format!("{parts} ht16k33") })
    }
}

impl Part for Plan {
    fn addresses(&self) -> &[u8] {
        &self.addresses
    }

    fn summary(&self) -> String {
        let addresses: Vec<_> = self.addresses.iter().map(|address| format!("{address:#04x}")).collect();
        format!("{} at {}, clock {}", self.parts(), addresses.join(" "), self.clock)
    }

    fn parts(&self) -> String {
        format!("{} ht16k33", self.addresses.len())
    }

    fn explain(&self, transfer: &Transfer<'_>) -> Meaning {
        let bytes: Vec<u8> = transfer.on_the_wire().collect();
        model::explain(&bytes, self.addresses.iter().copied())
    }

    fn chips(&self) -> Vec<Chip> {
        let lines = vec![(i2c::CLOCK, ChipPin("SCL", None)), (i2c::DATA, ChipPin("SDA", None))];
        let name = |address: &u8| format!("ht16k33 at {address:#04x}");
        let chip = |address: &u8| Chip {
            part: "ht16k33",
            name: name(address),
            // A diode for each address bit that is 1.
            beside: (DECOUPLING.iter().copied())
                .chain((0..(address & 7).count_ones()).map(|_| Component::Diode))
                .collect(),
            lines: lines.clone(),
        };
        self.addresses.iter().map(chip).collect()
    }

    fn header(&self) -> Option<Header> {
        let lines = &[(i2c::CLOCK, "SCL"), (i2c::DATA, "SDA")];
        Some(Header { power: ("VCC", "GND"), feed: "4.5 to 5.5 V", lines, chained: None })
    }

    fn wires(&self) -> Vec<Wire> {
        let of_part = |address: &u8| {
            let chip = format!("ht16k33 at {address:#04x}");
            let wire = |pin, to, note| Wire::of(&chip, pin, to, note);
            let straps = straps(*address, "COM0 through a diode", "open");
            [
                Wire::fed(&chip, "VDD", "4.5 to 5.5 V", DECOUPLING),
                wire("VSS", WireEnd::Ground, ""),
                wire("A0, A1, A2", WireEnd::Other(straps), "the address; smaller packages lack some"),
            ]
        };
        self.addresses.iter().flat_map(of_part).collect()
    }
}

impl Display for Plan {
    fn driver(&self) -> Box<dyn Driver> {
        let has_keys = !self.buttons.is_empty();
        Box::new(driver::Memories::new(&self.addresses, self.brightness, self.blink, has_keys))
    }

    fn model(&self, _: &Face) -> Box<dyn Model> {
        Box::new(model::Parts::new(&self.addresses, self.buttons.clone()))
    }

    fn geometry(&self, face: &Face) -> Geometry {
        self.wired.geometry(face)
    }

    fn byte_code(&self, _: &Face, _: usize) -> Result<ByteCode, NoByte> {
        self.wired.byte_code()
    }

    fn memory_words(&self) -> Option<&'static str> {
        Some("Of each part, from the first address on, the display memory 00 to 0F.")
    }

    fn memory(&self, nodes: &[Level]) -> Option<Vec<u8>> {
        Some(super::packed(nodes, ROWS))
    }

    fn max_brightness(&self) -> Option<u8> {
        Some(MAX_BRIGHTNESS)
    }

    fn step_light(&self, step: u8) -> f32 {
        (f32::from(step.min(MAX_BRIGHTNESS)) + 1.0) / 16.0
    }

    fn full_duty(&self) -> f32 {
        1.0 / COMMONS as f32
    }

    fn buttons_down(&self, answer: &[u8]) -> Vec<usize> {
        super::buttons_down(&self.buttons, answer)
    }

    fn button_names(&self) -> &[String] {
        &self.button_names
    }

    fn draws(&self, lights: usize) -> Option<Milliamps> {
        Some(mean_current(self, lights, LINE_CURRENT, self.brightness))
    }

    fn resend_every(&self) -> Option<Nanos> {
        self.resend
    }
}
