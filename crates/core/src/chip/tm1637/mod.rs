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

mod model;

use serde_spanned::Spanned;

use super::grid::GridKeys;
use super::tm163x::{Facts, Keys, Kind, plan};
use crate::bus::watch::Limits;
use crate::bus::{Bus, two_wire};
use crate::drive::{Drive, Line, Method, Model, Needs};
use crate::face::Face;
use crate::glyph::Common;
use crate::rig::{Controller, DriveTable, Pin};
use crate::units::{Hertz, Nanos, Volts};

/// The method `tm1637`.
pub struct Tm1637;

/// The figures of its data sheet.
pub(super) static FACTS: Facts = Facts {
    name: "tm1637",
    common: Common::Anode,
    grids: 6,
    bytes_a_grid: 1,
    lines: 8,
    key_bytes: 1,
    limits: Limits { clock: Hertz(250_000), setup: Nanos(100), hold: Nanos(100) },
    usual_clock: 100_000,
    supply: (Volts(3.3), Volts(5.5)),
    wires: [
        ("VDD (16)", "supply", "5 V; most modules also run from 3.3 V, dimmer"),
        ("GND (1)", "ground", ""),
    ],
};

#[derive(serde::Deserialize)]
#[serde(deny_unknown_fields)]
struct Pins {
    clock: Spanned<Pin>,
    data: Spanned<Pin>,
}

impl Method for Tm1637 {
    fn name(&self) -> &'static str {
        FACTS.name
    }

    fn common(&self) -> Option<Common> {
        Some(FACTS.common)
    }

    fn sample(&self) -> Option<&'static str> {
        Some("kind = \"seven-segment\"\ndigits = 6\n[face.tm1637.drive]\npins = { clock = 1, data = 2 }\n")
    }

    fn plan(&self, face: &Face, controller: &Controller, table: &DriveTable<'_>) -> Option<Drive> {
        let (keys, grid_keys): (Keys<Pins>, GridKeys) = table.read_both()?;
        table.claim_shared(&keys.pins.clock, "clock");
        table.claim(&keys.pins.data, "data");
        let lines = vec![Line::new("clock", &keys.pins.clock), Line::new("data", &keys.pins.data)];
        plan(&Self, face, controller, &keys, &grid_keys, lines, table)
    }

    fn needs(&self, face: &Face) -> Option<Needs> {
        FACTS.needs(face, 2)
    }
}

impl Kind for Tm1637 {
    fn facts(&self) -> &'static Facts {
        &FACTS
    }

    fn bus(&self, clock: Hertz) -> Box<dyn Bus> {
        Box::new(two_wire::TwoWire::new(clock))
    }

    fn model(&self, keys: &[(usize, u8)]) -> Box<dyn Model> {
        Box::new(model::Part::new(keys.iter().map(|(_, code)| *code).collect()))
    }

    /// What the part answers for the key: F0 to F7 and E8 to EF (data sheet, key scan data).
    fn key(&self, name: &str) -> Option<(usize, u8)> {
        let code = u8::from_str_radix(name, 16).ok()?;
        (0xE8..=0xF7).contains(&code).then_some((0, code))
    }

    fn key_names(&self) -> &'static str {
        "what the part answers for the key: \"F0\" to \"F7\", \"E8\" to \"EF\""
    }

    fn keys_down(&self, keys: &[(usize, u8)], answer: &[u8]) -> Vec<usize> {
        let is_down = |key: &usize| answer.first() == Some(&keys[*key].1);
        (0..keys.len()).filter(is_down).collect()
    }

    fn explain(&self, bytes: &[u8]) -> String {
        model::explain(bytes)
    }
}
