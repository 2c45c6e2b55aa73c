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

mod model;

use serde_spanned::Spanned;

use super::grid::GridKeys;
use super::tm163x::{Facts, Keys, Kind, plan};
use super::{check_logic, keys_down, parse_key_bit};
use crate::bus::watch::Limits;
use crate::bus::{Bus, strobe};
use crate::drive::{Drive, Line, Method, Model, Needs};
use crate::face::Face;
use crate::glyph::Common;
use crate::rig::{Controller, DriveTable, Pin};
use crate::units::{Hertz, Nanos, Volts};

/// The method `tm1638`.
pub struct Tm1638;

/// The figures of its data sheet.
pub(super) static FACTS: Facts = Facts {
    name: "tm1638",
    common: Common::Cathode,
    grids: 8,
    bytes_a_grid: 2,
    lines: 10,
    key_bytes: 4,
    limits: Limits { clock: Hertz(1_000_000), setup: Nanos(100), hold: Nanos(100) },
    usual_clock: 500_000,
    supply: (Volts(4.5), Volts(5.5)),
    wires: [("VDD", "supply", "5 V, with 100 nF close to the part"), ("GND", "ground", "")],
};

#[derive(serde::Deserialize)]
#[serde(deny_unknown_fields)]
struct Pins {
    strobe: Spanned<Pin>,
    clock: Spanned<Pin>,
    data: Spanned<Pin>,
}

impl Method for Tm1638 {
    fn name(&self) -> &'static str {
        FACTS.name
    }

    fn common(&self) -> Option<Common> {
        Some(FACTS.common)
    }

    fn sample(&self) -> Option<&'static str> {
        Some(
            "kind = \"seven-segment\"\ndigits = 8\n[face.tm1638.drive]\npins = { clock = 1, data = 2, strobe = 3 }\n",
        )
    }

    fn plan(&self, face: &Face, controller: &Controller, table: &DriveTable<'_>) -> Option<Drive> {
        let (keys, grid_keys): (Keys<Pins>, GridKeys) = table.read_both()?;
        check_logic(controller, FACTS.name, &grid_keys, table);
        table.claim_shared(&keys.pins.clock, "clock");
        table.claim_shared(&keys.pins.data, "data");
        table.claim(&keys.pins.strobe, "strobe");
        let Pins { strobe, clock, data } = &keys.pins;
        let lines = vec![Line::new("clock", clock), Line::new("data", data), Line::new("strobe", strobe)];
        plan(&Self, face, controller, &keys, &grid_keys, lines, table)
    }

    fn needs(&self, face: &Face) -> Option<Needs> {
        FACTS.needs(face, 3)
    }
}

impl Kind for Tm1638 {
    fn facts(&self) -> &'static Facts {
        &FACTS
    }

    fn bus(&self, clock: Hertz) -> Box<dyn Bus> {
        Box::new(strobe::Strobe::new(clock))
    }

    fn model(&self, keys: &[(usize, u8)]) -> Box<dyn Model> {
        Box::new(model::Part::new(keys.to_vec()))
    }

    /// Its bit in what the part answers.
    fn key(&self, name: &str) -> Option<(usize, u8)> {
        parse_key_bit(name).filter(|(byte, _)| *byte < FACTS.key_bytes)
    }

    fn key_names(&self) -> &'static str {
        "a bit of what the part answers, from \"byte0.bit0\" to \"byte3.bit7\""
    }

    fn keys_down(&self, keys: &[(usize, u8)], answer: &[u8]) -> Vec<usize> {
        keys_down(keys, answer)
    }

    fn explain(&self, bytes: &[u8]) -> String {
        model::explain(bytes)
    }
}
