//! `latched`: 74hc573, eight transparent latches a part, on a port that several parts share.
//!
//! ```toml
//! [face.gauge.drive]
//! method = "latched"
//! data = "P0"                                     # a port, or eight pins, D0 first
//! latches = [
//!     { latch_enable = "P2.0", output_enable = "low" },
//!     { latch_enable = "P2.1", output_enable = "low" },
//! ]
//! segments = "dp g f e d c b a"                   # on Q7 to Q0 of a latch
//! digits = ["latch1.Q0", "latch1.Q1", "latch1.Q2", "latch1.Q3"]
//! ```
//!
//! Without `digits` it is static: digit 0, at the left, is on latch 0. With them it is scanned, and the segments
//! are on latch 0 unless they are named singly. The control pins are a controller pin, or tied to `"low"` or
//! `"high"`, or left `"open"`: then the picture shows what comes of it.

mod driver;
mod model;

use crate::rig::Spanned;
use crate::schema::{JsonSchema, Schema, SchemaGenerator};
use serde::de::IgnoredAny;

use super::hc::{self, Tie, WIDTH};
use super::pins::{self as controller_pins, crossings};
use super::{Chip, ChipPin, DECOUPLING, Drive, Method, Needs, OutputPlan, Outputs, Part, Planned, Wire};
use crate::bare::places::OutputNames;
use crate::bare::ratings::Ratings;
use crate::bare::trouble::CircuitTrouble;
use crate::bare::{CircuitKeys, plan};
use crate::bus::pins::{self, PinBits};
use crate::bus::{Protocol, Transfer};
use crate::driver::Writer;
use crate::face::Face;
use crate::glyph::Common;
use crate::meaning::Meaning;
use crate::model::Model;
use crate::rig::{Controller, DriveTable, Line, Pin, Problem, TextOrList};
use crate::units::{Nanos, Volts};

/// The keys of a rig.
pub const METHODS: &[&dyn Method] = &[&Latched];

/// The method `latched`.
pub struct Latched;

const OUTPUTS: OutputNames = OutputNames {
    prefix: "latch",
    what: ("latch", "latches"),
    names: &["Q0", "Q1", "Q2", "Q3", "Q4", "Q5", "Q6", "Q7"],
};

#[derive(serde::Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
struct Keys {
    #[serde(rename = "method")]
    #[cfg_attr(feature = "schema", schemars(skip))]
    _method: IgnoredAny,
    /// The eight data lines: a port, or pins, D0 first.
    data: Spanned<DataKey>,
    /// The control pins of each latch.
    latches: Vec<LatchKey>,
    /// The high level at the part, after any level converter.
    bus_volts: Option<Spanned<f64>>,
}

/// The eight data lines: a port, or pins, D0 first.
type DataKey = TextOrList<Spanned<Pin>>;

#[derive(serde::Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
struct LatchKey {
    /// LE: a controller pin, or tied `low` or `high`, or left `open`.
    latch_enable: Spanned<Pin>,
    /// OE: the same [default: tied low].
    output_enable: Option<Spanned<Pin>>,
}

/// The connection of a control pin.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Control {
    /// A line, by its number.
    Line(usize),
    /// The ground, the supply, or nothing.
    Tied(Tie),
}

impl Control {
    /// The connection, if the pin is not driven.
    const fn tie(self) -> Option<Tie> {
        match self {
            Self::Line(_) => None,
            Self::Tied(tie) => Some(tie),
        }
    }
}

/// The control pins of one part.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Controls {
    /// LE: data is taken in while it is high.
    pub latch_enable: Control,
    /// OE: the outputs drive while it is low.
    pub output_enable: Control,
}

impl Method for Latched {
    fn name(&self) -> &'static str {
        "latched"
    }

    fn common(&self) -> Option<Common> {
        None
    }

    fn plan(&self, face: &Face, controller: &Controller, table: &DriveTable<'_>) -> Option<Planned> {
        let (keys, circuit): (Keys, CircuitKeys) = table.read_both()?;
        let bits = face.style().segment_count();
        let numbered = |_: &str, digit: usize, bit: usize| OUTPUTS.numbered(digit, bit, bits);
        let planned = plan(face, &circuit, None, &numbered, table)?;
        let places = OUTPUTS.places(&planned, keys.latches.len(), table)?;

        let level = hc::check(controller, "74hc573", keys.bus_volts, table);
        let mut lines = data_lines(&keys.data, table)?;
        let mut control = |pin: &Spanned<Pin>, role: String| match pin.get_ref().name() {
            "LOW" | "GROUND" => Control::Tied(Tie::Low),
            "HIGH" | "SUPPLY" => Control::Tied(Tie::High),
            "OPEN" => Control::Tied(Tie::Open),
            _ => {
                lines.push(table.line(pin, &role));
                Control::Line(lines.len() - 1)
            }
        };
        let controls: Vec<_> = keys
            .latches
            .iter()
            .enumerate()
            .map(|(index, latch)| {
                let low = Spanned::new(latch.latch_enable.span(), Pin::parse("low")?);
                let enable = latch.output_enable.as_ref().unwrap_or(&low);
                if latch.output_enable.is_none() {
                    table.assume(&format!("latches[{index}].output_enable"), "\"low\"");
                }
                let controls = Controls {
                    latch_enable: control(&latch.latch_enable, format!("latch enable {index}")),
                    output_enable: control(enable, format!("output enable {index}")),
                };
                let enable = latch.output_enable.as_ref().unwrap_or(&latch.latch_enable);
                for trouble in mistied(index, controls, keys.latches.len()) {
                    let is_of_outputs = matches!(trouble, CircuitTrouble::ControlPin { pin: "OE", .. });
                    let key = if is_of_outputs { enable } else { &latch.latch_enable };
                    table.warn(key.span(), trouble);
                }
                Some(controls)
            })
            .collect::<Option<_>>()?;
        let claimed: Vec<Pin> = lines.iter().map(|line| line.known.clone()).collect();
        let bits = controller_pins::bits(&claimed);
        let write = planned.circuit.timing.map_or(Nanos(1_000), |timing| timing.write);
        let latches = Plan { bits: bits.clone(), controls, places, supply: controller.supply_volts };
        let protocol = Protocol::Pins(pins::Pins { bits, write });
        let (drive, wiring) = Drive::bare(planned, OutputPlan::Hc573(latches));
        Some(Planned { protocol, lines, wiring, level, drive })
    }

    fn keys(&self, generator: &mut SchemaGenerator) -> Vec<Schema> {
        vec![Keys::json_schema(generator), CircuitKeys::json_schema(generator)]
    }

    fn needs(&self, face: &Face) -> Option<Needs> {
        let (lines, selects) = crossings(face);
        let parts = lines.div_ceil(WIDTH) + selects.div_ceil(WIDTH);
        Some(Needs { pins: WIDTH + parts, parts: format!("{parts} 74hc573") })
    }
}

/// The data lines.
fn data_lines(key: &Spanned<DataKey>, table: &DriveTable<'_>) -> Option<Vec<Line>> {
    let pins = match key.get_ref() {
        DataKey::Text(port) => (0..WIDTH)
            .map(|bit| Some(Spanned::new(key.span(), Pin::of_port(&port.to_ascii_uppercase(), bit)?)))
            .collect::<Option<Vec<_>>>(),
        DataKey::List(pins) => Some(pins.clone()).filter(|pins| pins.len() == WIDTH),
    };
    let Some(pins) = pins else {
        let problem = Problem::WrongValue {
            found: "a different number of pins".into(),
            allowed: "eight pins, D0 to D7".into(),
        };
        table.error(key.span(), problem);
        return None;
    };
    Some(pins.iter().enumerate().map(|(bit, pin)| table.line(pin, &format!("D{bit}"))).collect())
}

/// Returns the effects of the control pins of one of several parts: the pin that is tied wrongly or forgotten, and its effect.
fn mistied(index: usize, controls: Controls, latches: usize) -> Vec<CircuitTrouble> {
    let trouble = |pin, (effect, tie): (&'static str, Tie)| CircuitTrouble::ControlPin {
        part: format!("74hc573 latch {index}"),
        pin,
        tied: tie.words().to_owned(),
        effect,
    };
    let Controls { latch_enable, output_enable } = controls;
    let of_outputs = match output_enable {
        Control::Tied(Tie::High) => Some("its outputs are off and the display stays dark"),
        Control::Tied(Tie::Open) => {
            Some("a floating pin may be low or high at any time, and with it the display dark")
        }
        Control::Tied(Tie::Low) | Control::Line(_) => None,
    };
    let of_latch = match latch_enable {
        Control::Tied(Tie::Low) => Some("it never takes anything in: the picture is frozen"),
        Control::Tied(Tie::Open) => {
            Some("a floating pin may let data in at any time, or never: here the picture is frozen")
        }
        Control::Tied(Tie::High) if latches > 1 => {
            Some("it follows everything on the shared port, the other latches' data too")
        }
        Control::Tied(Tie::High) | Control::Line(_) => None,
    };
    let of_outputs = of_outputs.zip(output_enable.tie()).map(|found| trouble("OE", found));
    let of_latch = of_latch.zip(latch_enable.tie()).map(|found| trouble("LE", found));
    of_outputs.into_iter().chain(of_latch).collect()
}

/// Latches on a shared port, as a plan.
#[derive(Debug, Clone, PartialEq)]
pub struct Plan {
    /// Where each line stands in the bytes of a transfer: D0 to D7, then the control lines.
    pub bits: PinBits,
    /// The control pins of each part.
    pub controls: Vec<Controls>,
    /// By output: `8 latch + Q`.
    pub places: Vec<usize>,
    /// The supply of the parts.
    pub supply: Volts,
}

impl Part for Plan {
    fn summary(&self) -> String {
        format!("{} on a port", self.parts())
    }

    fn parts(&self) -> String {
        format!("{} 74hc573", self.controls.len())
    }

    fn explain(&self, transfer: &Transfer<'_>) -> Meaning {
        let bytes = transfer.bytes();
        let high = |line: usize| self.bits.level(bytes, line) == Some(true);
        let data = (0..WIDTH).fold(0_u8, |data, bit| data | u8::from(high(bit)) << bit);
        let on = |control: Control, level| matches!(control, Control::Line(line) if high(line) == level);
        let takes =
            |pins: &Controls| on(pins.latch_enable, true) || pins.latch_enable == Control::Tied(Tie::High);
        let open: Vec<_> = self.controls.iter().enumerate().filter(|(_, pins)| takes(pins)).collect();
        let off = self.controls.iter().any(|pins| on(pins.output_enable, true));
        let is_plain = |pins: &Controls| pins.latch_enable == Control::Tied(Tie::High);
        let latches = match &open[..] {
            [] => "the latches hold".to_owned(),
            open if open.iter().all(|(_, pins)| is_plain(pins)) => "straight through".to_owned(),
            open => {
                let numbers =
                    open.iter().map(|(index, _)| index.to_string()).collect::<Vec<_>>().join(" and ");
                format!("taken by latch {numbers}")
            }
        };
        Meaning::Words(format!("data {data:02X}, {latches}{}", if off { ", outputs off" } else { "" }))
    }

    fn handicaps(&self) -> Vec<String> {
        let of_part = |(index, controls): (usize, &Controls)| mistied(index, *controls, self.controls.len());
        self.controls.iter().enumerate().flat_map(of_part).map(|trouble| trouble.to_string()).collect()
    }

    fn chips(&self) -> Vec<Chip> {
        let of_latch = |(index, pins): (usize, &Controls)| {
            let data = DATA.iter().copied().enumerate();
            let controls =
                [(pins.latch_enable, ChipPin("LE", Some(11))), (pins.output_enable, ChipPin("OE", Some(1)))];
            let controls = controls.into_iter().filter_map(|(control, pin)| match control {
                Control::Line(line) => Some((line, pin)),
                Control::Tied(_) => None,
            });
            Chip {
                part: "74hc573",
                name: format!("74hc573 latch {index}"),
                beside: DECOUPLING.to_vec(),
                lines: data.chain(controls).collect(),
            }
        };
        self.controls.iter().enumerate().map(of_latch).collect()
    }

    fn wires(&self) -> Vec<Wire> {
        let mut wires = Vec::new();
        for (index, pins) in self.controls.iter().enumerate() {
            let chip = format!("74hc573 latch {index}");
            wires.extend(hc::fed(&chip, "VCC (20)", "GND (10)"));
            for (name, control, forgotten) in [
                ("LE (11)", pins.latch_enable, "if forgotten, the picture is frozen"),
                ("OE (1)", pins.output_enable, "if forgotten, the display stays dark"),
            ] {
                let Control::Tied(tie) = control else { continue };
                let note = if tie == Tie::Open { "a floating control pin: tie it" } else { forgotten };
                wires.push(Wire::of(&chip, name, tie.end(), note));
            }
        }
        wires
    }
}

/// The data pins, as the data sheet names and numbers them.
const DATA: [ChipPin; WIDTH] = [
    ChipPin("D0", Some(2)),
    ChipPin("D1", Some(3)),
    ChipPin("D2", Some(4)),
    ChipPin("D3", Some(5)),
    ChipPin("D4", Some(6)),
    ChipPin("D5", Some(7)),
    ChipPin("D6", Some(8)),
    ChipPin("D7", Some(9)),
];
/// The numbers of the outputs' pins.
const NUMBERS: [u8; WIDTH] = [19, 18, 17, 16, 15, 14, 13, 12];

impl Outputs for Plan {
    fn pin_of(&self, output: usize) -> Option<(usize, ChipPin)> {
        self.places.get(output).map(|place| ChipPin::of_output(OUTPUTS.names, &NUMBERS, *place))
    }

    fn writer(&self, unused: bool) -> Box<dyn Writer> {
        Box::new(driver::Writer::new(self, unused))
    }

    fn model(&self) -> Box<dyn Model> {
        let controls = self.controls.iter().map(|pins| (pins.latch_enable, pins.output_enable));
        Box::new(model::Latches::new(controls, self.places.clone()))
    }

    fn ratings(&self) -> Ratings {
        let names = (0..self.controls.len()).map(|latch| format!("latch {latch}"));
        hc::ratings("74hc573", names, &self.places, self.supply)
    }

    fn bit_of(&self, output: usize) -> Option<(usize, usize)> {
        let place = *self.places.get(output)?;
        Some((place / WIDTH, place % WIDTH))
    }
}
