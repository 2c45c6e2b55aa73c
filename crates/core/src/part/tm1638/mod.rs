//! `tm1638`: eight grids of ten segment lines, common cathode, with keys, on three wires.
//!
//! ```toml
//! [face.desk]
//! lamps = [{ name = "berth1", node = "grid1.seg9" }]
//! buttons = [{ name = "call1", node = "byte0.bit0" }]
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

use crate::rig::Spanned;
use crate::schema::{JsonSchema, Schema, SchemaGenerator};

pub use super::tm163x::Plan;

use super::grid::GridKeys;
use super::tm163x::{self, Facts, Keys};
use super::{ChipPin, Drive, Header, Method, Needs, Planned, Sample, buttons_down, parse_button_bit};
use crate::bus::watch::Limits;
use crate::bus::{Protocol, Transfer, strobe};
use crate::face::Face;
use crate::glyph::Common;
use crate::rig::{Controller, DriveTable, Pin};
use crate::units::{Hertz, Nanos, Volts};

/// The method `tm1638`.
pub struct Tm1638;

/// The keys of a rig.
pub const METHODS: &[&dyn Method] = &[&Tm1638];

/// Bytes that it answers when its keys are read.
const KEY_BYTES: usize = 4;

/// The figures of its data sheet.
pub(super) static FACTS: Facts = Facts {
    name: "tm1638",
    common: Common::Cathode,
    grids: 8,
    bytes_a_grid: 2,
    lines: 10,
    key_bytes: KEY_BYTES,
    limits: Limits { clock: Hertz(1_000_000), setup: Nanos(100), hold: Nanos(100) },
    usual_clock: 500_000,
    supply: (Volts(4.5), Volts(5.5)),
    pins: &[
        (strobe::CLOCK, ChipPin("CLK", None)),
        (strobe::DATA, ChipPin("DIO", None)),
        (strobe::STROBE, ChipPin("STB", None)),
    ],
    feed: ("VDD", "5 V"),
    ground: "GND",
    header: Header {
        power: ("VCC", "GND"),
        feed: "5 V",
        lines: &[(strobe::CLOCK, "CLK"), (strobe::DATA, "DIO"), (strobe::STROBE, "STB")],
        chained: None,
    },
    pulled_up: &["DIO"],
    drive: Drive::Tm1638,
    protocol: |clock| Protocol::Strobe(strobe::Strobe { clock }),
    transfer: |bytes, reads| Transfer::Strobe { bytes, reads },
    model: |buttons| Box::new(model::Part::new(buttons.to_vec())),
    // Its bit in what the part answers.
    button: |name| parse_button_bit(name).filter(|(byte, _)| *byte < KEY_BYTES),
    button_names: "a bit of what the part answers, from \"byte0.bit0\" to \"byte3.bit7\"",
    buttons_down,
    explain: model::explain,
};

#[derive(serde::Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
struct Pins {
    /// STB.
    strobe: Spanned<Pin>,
    /// CLK.
    clock: Spanned<Pin>,
    /// DIO.
    data: Spanned<Pin>,
}

impl Method for Tm1638 {
    fn name(&self) -> &'static str {
        FACTS.name
    }

    fn common(&self) -> Option<Common> {
        Some(FACTS.common)
    }

    fn sample(&self) -> Option<Sample> {
        Some(Sample { digits: 8, lines: &["clock", "data", "strobe"], addresses: &[] })
    }

    fn plan(&self, face: &Face, controller: &Controller, table: &DriveTable<'_>) -> Option<Planned> {
        let (keys, grid_keys): (Keys<Pins>, GridKeys) = table.read_both()?;
        let Pins { strobe, clock, data } = &keys.pins;
        let lines = vec![
            table.shared_line(clock, "clock"),
            table.shared_line(data, "data"),
            table.line(strobe, "strobe"),
        ];
        tm163x::plan(&FACTS, face, controller, &keys, &grid_keys, lines, table)
    }

    fn keys(&self, generator: &mut SchemaGenerator) -> Vec<Schema> {
        vec![<Keys<Pins>>::json_schema(generator), GridKeys::json_schema(generator)]
    }

    fn needs(&self, face: &Face) -> Option<Needs> {
        FACTS.needs(face, 3)
    }
}
