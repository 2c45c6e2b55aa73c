//! `tm1638`: eight grids of ten segment lines, common cathode, with keys, on three wires.
//!
//! ```toml
//! [face.desk]
//! lamps = [{ name = "berth1", node = "grid1.seg9" }]
//! keys = [{ name = "call1", node = "byte0.bit0" }]
//! [face.desk.drive]
//! method = "tm1638"
//! pins = { strobe = "GP16", clock = "GP17", data = "GP18" }
//! clock_hz = 500_000              # at most 1 MHz
//! bus_volts = 5.0                 # the high level at the part, after any level converter
//! brightness = 4                  # 0 to 7
//! segments = "dp g f e d c b a"   # which segment is on lines seg8 to seg1
//! digits = ["grid1", "grid2"]     # from left to right
//! resend = "10s"                  # send everything again so often
//! ```
//!
//! Several parts may share clock and data; each has a strobe of its own. The node of a key is its bit in the four
//! bytes that the part answers: on the common board key i is `byte{i}.bit0` and key i + 4 `byte{i}.bit4`.

mod driver;
mod model;

use serde::de::IgnoredAny;
use serde_spanned::Spanned;

use super::grid::{GridKeys, Grids, usual_order};
use super::{brightness, check_logic, light_of_pulse, resend};
use crate::bus::watch::Limits;
use crate::bus::{Bus, strobe};
use crate::drive::{Drive, Driver, Ends, Line, Method, Model, Needs, Wire};
use crate::face::Face;
use crate::glyph::Common;
use crate::rig::{Controller, DriveTable, Pin, Place, Problem};
use crate::units::{Hertz, Nanos, Volts};

/// The method `tm1638`.
pub struct Tm1638;

/// Grids of the part, and segment lines of each.
const GRIDS: usize = 8;
const LINES: usize = 10;
/// Bytes that the part answers when its keys are read.
const KEY_BYTES: usize = 4;
const MAX_BRIGHTNESS: u8 = 7;
/// What the part takes for sure.
const LIMITS: Limits = Limits { clock: Hertz(1_000_000), setup: Nanos(100), hold: Nanos(100) };
const SUPPLY: (Volts, Volts) = (Volts(4.5), Volts(5.5));

#[derive(serde::Deserialize)]
struct Keys {
    #[serde(rename = "method")]
    _method: IgnoredAny,
    pins: Pins,
    clock_hz: Option<Spanned<u32>>,
}

#[derive(serde::Deserialize)]
#[serde(deny_unknown_fields)]
struct Pins {
    strobe: Spanned<Pin>,
    clock: Spanned<Pin>,
    data: Spanned<Pin>,
}

impl Method for Tm1638 {
    fn name(&self) -> &'static str {
        "tm1638"
    }

    fn common(&self) -> Option<Common> {
        Some(Common::Cathode)
    }

    fn sample(&self) -> Option<&'static str> {
        Some(
            "kind = \"seven-segment\"\ndigits = 8\n[face.tm1638.drive]\npins = { clock = 1, data = 2, strobe = 3 }\n",
        )
    }

    fn plan(&self, face: &Face, controller: &Controller, table: &DriveTable<'_>) -> Option<Drive> {
        let (keys, grid_keys): (Keys, GridKeys) = table.read_both()?;
        super::check_common(face, self.name(), Common::Cathode, table);
        super::check_supply(controller, self.name(), SUPPLY, table);
        check_logic(controller, self.name(), &grid_keys, table);
        let clock = table.or_assume("clock_hz", keys.clock_hz, 500_000);
        let sound = table.check_range(&clock, 1, LIMITS.clock.0);
        let brightness = brightness(&grid_keys, 4, MAX_BRIGHTNESS, table);
        let grids =
            Grids { parts: 1, grids: GRIDS, lines: LINES, grid_name: ("grid", 1), line_name: ("seg", 1) };
        let (wiring, bit_order) = grids.plan(face, &grid_keys, usual_order(face.style), table)?;
        let bits = key_bits(table)?;
        table.claim_shared(&keys.pins.clock, "clock");
        table.claim_shared(&keys.pins.data, "data");
        table.claim(&keys.pins.strobe, "strobe");
        let line = |role: &str, pin: Spanned<Pin>| Line { role: role.to_owned(), pin: pin.into_inner() };
        let part = Part {
            clock: Hertz(*clock.get_ref()),
            brightness,
            bits,
            names: table.keys().iter().map(|(name, _)| (*name).to_owned()).collect(),
            resend: resend(&grid_keys, table)?,
        };
        let lines = vec![
            line("clock", keys.pins.clock),
            line("data", keys.pins.data),
            line("strobe", keys.pins.strobe),
        ];
        sound.then(|| Drive { lines, wiring, bit_order, ends: Box::new(part) })
    }

    fn needs(&self, face: &Face) -> Option<Needs> {
        let fits = face.dots.width == 0 && face.style.segment_count() <= LINES && face.digits <= GRIDS;
        fits.then(|| Needs { pins: 3, parts: "1 tm1638".into() })
    }
}

/// Byte and bit of each key of the face.
fn key_bits(table: &DriveTable<'_>) -> Option<Vec<(usize, u8)>> {
    let bit = |(_, node): &(&str, &Spanned<String>)| {
        let found = super::parse_key_bit(node.get_ref()).filter(|(byte, _)| *byte < KEY_BYTES);
        if found.is_none() {
            let found = format!("{:?}", node.get_ref());
            let allowed = "a bit of what the part answers, from \"byte0.bit0\" to \"byte3.bit7\"".to_owned();
            table.error(Place::Span(node.span()), Problem::WrongValue { found, allowed });
        }
        found
    };
    table.keys().iter().map(bit).collect()
}

/// One part on its three wires.
struct Part {
    clock: Hertz,
    brightness: u8,
    /// Byte and bit of each key of the face.
    bits: Vec<(usize, u8)>,
    names: Vec<String>,
    resend: Option<Nanos>,
}

impl Ends for Part {
    fn summary(&self) -> String {
        format!("1 tm1638, clock {}", self.clock)
    }

    fn driver(&self) -> Box<dyn Driver> {
        Box::new(driver::Memory::new(self.brightness, !self.bits.is_empty()))
    }

    fn bus(&self) -> Box<dyn Bus> {
        Box::new(strobe::Strobe::new(self.clock))
    }

    fn model(&self) -> Box<dyn Model> {
        Box::new(model::Part::new(self.bits.clone()))
    }

    fn explain(&self, bytes: &[u8], _: &[Line]) -> String {
        model::explain(bytes)
    }

    fn max_brightness(&self) -> Option<u8> {
        Some(MAX_BRIGHTNESS)
    }

    fn step_light(&self, step: u8) -> f32 {
        light_of_pulse(step)
    }

    fn full_duty(&self) -> f32 {
        // Brightness 7: 14/16 of a grid's turn; all eight are always scanned.
        14.0 / 16.0 / GRIDS as f32
    }

    fn keys_down(&self, answer: &[u8]) -> Vec<usize> {
        super::keys_down(&self.bits, answer)
    }

    fn key_names(&self) -> Vec<String> {
        self.names.clone()
    }

    fn resend_every(&self) -> Option<Nanos> {
        self.resend
    }

    fn wires(&self) -> Vec<Wire> {
        let wire = |from: &str, to: &str, note: &str| Wire {
            from: format!("tm1638, {from}"),
            to: to.to_owned(),
            note: note.to_owned(),
        };
        vec![wire("VDD (12)", "supply", "5 V, with 100 nF close to the part"), wire("GND (25)", "ground", "")]
    }
}
