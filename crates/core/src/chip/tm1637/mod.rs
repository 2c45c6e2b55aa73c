//! `tm1637`: six grids of eight segment lines, common anode, on two wires.
//!
//! ```toml
//! [face.clock]
//! colons = [{ after = 2, node = "grid2.seg8" }]
//! [face.clock.drive]
//! method = "tm1637"
//! pins = { clock = "GP16", data = "GP17" }
//! clock_hz = 100_000              # at most 250 kHz
//! brightness = 4                  # 0 to 7
//! segments = "dp g f e d c b a"   # which segment is on lines seg8 to seg1
//! digits = ["grid1", "grid2", "grid3", "grid4"]
//! resend = "10s"                  # send everything again so often
//! ```
//!
//! The node of a key is what the part answers for it: `F7`.

mod driver;
mod model;

use serde::de::IgnoredAny;
use serde_spanned::Spanned;

use super::grid::{GridKeys, Grids, usual_order};
use super::{brightness, light_of_pulse, resend};
use crate::bus::watch::Limits;
use crate::bus::{Bus, two_wire};
use crate::drive::{Drive, Driver, Ends, Line, Method, Model, Needs, Wire};
use crate::face::Face;
use crate::glyph::Common;
use crate::rig::{Controller, DriveTable, Pin, Place, Problem};
use crate::units::{Hertz, Nanos, Volts};

/// The method `tm1637`.
pub struct Tm1637;

/// Grids of the part, and segment lines of each.
const GRIDS: usize = 6;
const LINES: usize = 8;
const MAX_BRIGHTNESS: u8 = 7;
/// What the part takes for sure.
const LIMITS: Limits = Limits { clock: Hertz(250_000), setup: Nanos(100), hold: Nanos(100) };
const SUPPLY: (Volts, Volts) = (Volts(3.3), Volts(5.5));

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
    clock: Spanned<Pin>,
    data: Spanned<Pin>,
}

impl Method for Tm1637 {
    fn name(&self) -> &'static str {
        "tm1637"
    }

    fn common(&self) -> Option<Common> {
        Some(Common::Anode)
    }

    fn sample(&self) -> Option<&'static str> {
        Some("kind = \"seven-segment\"\ndigits = 6\n[face.tm1637.drive]\npins = { clock = 1, data = 2 }\n")
    }

    fn plan(&self, face: &Face, controller: &Controller, table: &DriveTable<'_>) -> Option<Drive> {
        let (keys, grid_keys): (Keys, GridKeys) = table.read_both()?;
        super::check_common(face, self.name(), Common::Anode, table);
        super::check_supply(controller, self.name(), SUPPLY, table);
        let clock = table.or_assume("clock_hz", keys.clock_hz, 100_000);
        let sound = table.check_range(&clock, 1, LIMITS.clock.0);
        let brightness = brightness(&grid_keys, 4, MAX_BRIGHTNESS, table);
        let grids =
            Grids { parts: 1, grids: GRIDS, lines: LINES, grid_name: ("grid", 1), line_name: ("seg", 1) };
        let (wiring, bit_order) = grids.plan(face, &grid_keys, usual_order(face.style), table)?;
        let codes = key_codes(table)?;
        table.claim_shared(&keys.pins.clock, "clock");
        table.claim(&keys.pins.data, "data");
        let line = |role: &str, pin: Spanned<Pin>| Line { role: role.to_owned(), pin: pin.into_inner() };
        let part = Part {
            clock: Hertz(*clock.get_ref()),
            brightness,
            codes,
            names: table.keys().iter().map(|(name, _)| (*name).to_owned()).collect(),
            resend: resend(&grid_keys, table)?,
        };
        let lines = vec![line("clock", keys.pins.clock), line("data", keys.pins.data)];
        sound.then(|| Drive { lines, wiring, bit_order, ends: Box::new(part) })
    }

    fn needs(&self, face: &Face) -> Option<Needs> {
        let fits = face.dots.width == 0 && face.style.segment_count() <= LINES && face.digits <= GRIDS;
        fits.then(|| Needs { pins: 2, parts: "1 tm1637".into() })
    }
}

/// What the part answers for each key of the face: F0 to F7 and E8 to EF (data sheet, key scan data).
fn key_codes(table: &DriveTable<'_>) -> Option<Vec<u8>> {
    let code = |(_, node): &(&str, &Spanned<String>)| {
        let code = u8::from_str_radix(node.get_ref(), 16).ok();
        let code = code.filter(|code| (0xE8..=0xF7).contains(code));
        if code.is_none() {
            let found = format!("{:?}", node.get_ref());
            let allowed = "what the part answers for the key: \"F0\" to \"F7\", \"E8\" to \"EF\"".to_owned();
            table.error(Place::Span(node.span()), Problem::WrongValue { found, allowed });
        }
        code
    };
    table.keys().iter().map(code).collect()
}

/// One part on its two wires.
struct Part {
    clock: Hertz,
    brightness: u8,
    /// What it answers for each key of the face.
    codes: Vec<u8>,
    names: Vec<String>,
    resend: Option<Nanos>,
}

impl Ends for Part {
    fn summary(&self) -> String {
        format!("1 tm1637, clock {}", self.clock)
    }

    fn driver(&self) -> Box<dyn Driver> {
        Box::new(driver::Memory::new(self.brightness, !self.codes.is_empty()))
    }

    fn bus(&self) -> Box<dyn Bus> {
        Box::new(two_wire::TwoWire::new(self.clock))
    }

    fn model(&self) -> Box<dyn Model> {
        Box::new(model::Part::new(self.codes.clone()))
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
        // Brightness 7: 14/16 of a grid's turn; all six are always scanned.
        14.0 / 16.0 / GRIDS as f32
    }

    fn keys_down(&self, answer: &[u8]) -> Vec<usize> {
        let is_down = |index: &usize| answer.first() == self.codes.get(*index);
        (0..self.codes.len()).filter(is_down).collect()
    }

    fn key_names(&self) -> Vec<String> {
        self.names.clone()
    }

    fn resend_every(&self) -> Option<Nanos> {
        self.resend
    }

    fn wires(&self) -> Vec<Wire> {
        let wire = |from: &str, to: &str, note: &str| Wire {
            from: format!("tm1637, {from}"),
            to: to.to_owned(),
            note: note.to_owned(),
        };
        vec![
            wire("VDD (16)", "supply", "5 V; most modules also run from 3.3 V, dimmer"),
            wire("GND (1)", "ground", ""),
        ]
    }
}
