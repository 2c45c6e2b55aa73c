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

use crate::rig::Spanned;
use crate::schema::{JsonSchema, Schema, SchemaGenerator};

pub use super::tm163x::Plan;

use super::grid::GridKeys;
use super::tm163x::{self, Facts, Keys};
use super::{ChipPin, Drive, Header, Method, Needs, Planned, Sample};
use crate::bus::watch::Limits;
use crate::bus::{Protocol, Transfer, two_wire};
use crate::face::Face;
use crate::glyph::Common;
use crate::rig::{Controller, DriveTable, Pin};
use crate::units::{Hertz, Nanos, Volts};

/// The method `tm1637`.
pub struct Tm1637;

/// The keys of a rig.
pub const METHODS: &[&dyn Method] = &[&Tm1637];

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
    pins: &[(two_wire::CLOCK, ChipPin("CLK", Some(18))), (two_wire::DATA, ChipPin("DIO", Some(17)))],
    feed: ("VDD (16)", "5 V; most modules also run from 3.3 V, dimmer"),
    ground: "GND (1)",
    header: Header {
        power: ("VCC", "GND"),
        feed: "5 V; most also run from 3.3 V, dimmer",
        lines: &[(two_wire::CLOCK, "CLK"), (two_wire::DATA, "DIO")],
        chained: None,
    },
    pulled_up: &["CLK", "DIO"],
    drive: Drive::Tm1637,
    protocol: |clock| Protocol::TwoWire(two_wire::TwoWire { clock }),
    transfer: |bytes, reads| Transfer::TwoWire { bytes, reads },
    model: |buttons| Box::new(model::Part::new(buttons.iter().map(|(_, code)| *code).collect())),
    // The answer of the part for the button: F0 to F7 and E8 to EF (data sheet, key scan data).
    button: |name| {
        let code = u8::from_str_radix(name, 16).ok()?;
        (0xE8..=0xF7).contains(&code).then_some((0, code))
    },
    button_names: "the answer of the part for the button: \"F0\" to \"F7\", \"E8\" to \"EF\"",
    buttons_down: |buttons, answer| {
        let is_down = |button: &usize| answer.first() == Some(&buttons[*button].1);
        (0..buttons.len()).filter(is_down).collect()
    },
    explain: model::explain,
};

#[derive(serde::Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
struct Pins {
    /// CLK.
    clock: Spanned<Pin>,
    /// DIO.
    data: Spanned<Pin>,
}

impl Method for Tm1637 {
    fn name(&self) -> &'static str {
        FACTS.name
    }

    fn common(&self) -> Option<Common> {
        Some(FACTS.common)
    }

    fn sample(&self) -> Option<Sample> {
        Some(Sample { digits: 6, lines: &["clock", "data"], addresses: &[] })
    }

    fn plan(&self, face: &Face, controller: &Controller, table: &DriveTable<'_>) -> Option<Planned> {
        let (keys, grid_keys): (Keys<Pins>, GridKeys) = table.read_both()?;
        let lines = vec![table.shared_line(&keys.pins.clock, "clock"), table.line(&keys.pins.data, "data")];
        tm163x::plan(&FACTS, face, controller, &keys, &grid_keys, lines, table)
    }

    fn keys(&self, generator: &mut SchemaGenerator) -> Vec<Schema> {
        vec![<Keys<Pins>>::json_schema(generator), GridKeys::json_schema(generator)]
    }

    fn needs(&self, face: &Face) -> Option<Needs> {
        FACTS.needs(face, 2)
    }
}
