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

use serde::de::IgnoredAny;
use serde_spanned::Spanned;

use crate::bus::Bus;
use crate::bus::pins::{PinBits, Pins};
use crate::drive::bare::pins::crossings;
use crate::drive::bare::places::OutputNames;
use crate::drive::bare::port::{Port, Ratings, Receiver, Writer};
use crate::drive::bare::{CircuitKeys, drive, plan};
use crate::drive::{Drive, Line, Method, Needs, Wire};
use crate::face::Face;
use crate::glyph::Common;
use crate::rig::{Controller, DriveTable, Pin, Problem, TextOrList};
use crate::units::{Milliamps, Nanos, Volts};

/// The method `latched`.
pub struct Latched;

/// Latches of one part.
const WIDTH: usize = 8;
const OUTPUTS: OutputNames =
    OutputNames { prefix: "latch", names: &["Q0", "Q1", "Q2", "Q3", "Q4", "Q5", "Q6", "Q7"] };
/// An output at most, and all of a part together (data sheet, absolute maximum ratings).
const OUTPUT_MOST: Milliamps = Milliamps(35.0);
const PART_MOST: Milliamps = Milliamps(70.0);

#[derive(serde::Deserialize)]
struct Keys {
    #[serde(rename = "method")]
    _method: IgnoredAny,
    data: Spanned<DataKey>,
    latches: Vec<LatchKey>,
}

/// The eight data lines: a port, or pins, D0 first.
type DataKey = TextOrList<Spanned<Pin>>;

#[derive(serde::Deserialize)]
#[serde(deny_unknown_fields)]
struct LatchKey {
    latch_enable: Spanned<Pin>,
    output_enable: Option<Spanned<Pin>>,
}

/// What a control pin is connected to.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(crate) enum Control {
    /// A line, by its place in [`Drive::lines`].
    Line(usize),
    /// The ground or the supply.
    Tied(bool),
    /// Nothing.
    Open,
}

/// The control pins of one part.
#[derive(Debug, Clone, Copy)]
struct Controls {
    latch_enable: Control,
    output_enable: Control,
}

impl Method for Latched {
    fn name(&self) -> &'static str {
        "latched"
    }

    fn common(&self) -> Option<Common> {
        None
    }

    fn plan(&self, face: &Face, controller: &Controller, table: &DriveTable<'_>) -> Option<Drive> {
        let (keys, circuit): (Keys, CircuitKeys) = table.read_both()?;
        let bits = face.style.segment_count();
        let numbered = |_: &str, digit: usize, bit: usize| OUTPUTS.numbered(digit, bit, bits);
        let planned = plan(face, &circuit, None, &numbered, table)?;
        let places = OUTPUTS.places(&planned, keys.latches.len(), table)?;

        let (mut lines, mut claimed): (Vec<_>, Vec<_>) = data_lines(&keys.data, table)?.into_iter().unzip();
        let mut control = |pin: &Spanned<Pin>, role: String| match pin.get_ref().name() {
            "LOW" | "GROUND" => Control::Tied(false),
            "HIGH" | "SUPPLY" => Control::Tied(true),
            "OPEN" => Control::Open,
            _ => {
                claimed.push(table.claim(pin, &role));
                lines.push(Line { role, pin: pin.get_ref().clone() });
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
                let controls = Controls {
                    latch_enable: control(&latch.latch_enable, format!("latch enable {index}")),
                    output_enable: control(enable, format!("output enable {index}")),
                };
                check_controls(index, controls, keys.latches.len(), latch, table);
                Some(controls)
            })
            .collect::<Option<_>>()?;
        let pin_bits = crate::drive::bare::pins::bits(&claimed);
        let write = planned.circuit.timing.map_or(Nanos(1_000), |timing| timing.write);
        let latches = Latches {
            lines: lines.len(),
            pin_bits,
            controls,
            places,
            write,
            supply: controller.supply_volts,
        };
        Some(drive(planned, lines, Box::new(latches)))
    }

    fn needs(&self, face: &Face) -> Option<Needs> {
        let (lines, selects) = crossings(face);
        let parts = lines.div_ceil(WIDTH) + selects.div_ceil(WIDTH);
        Some(Needs { pins: WIDTH + parts, parts: format!("{parts} 74hc573") })
    }
}

/// The data lines, each with its pin by the data sheet's name.
fn data_lines(key: &Spanned<DataKey>, table: &DriveTable<'_>) -> Option<Vec<(Line, Pin)>> {
    let pins = match key.get_ref() {
        DataKey::Text(port) => (0..WIDTH)
            .map(|bit| Some(Spanned::new(key.span(), Pin::of_port(&port.to_ascii_uppercase(), bit)?)))
            .collect::<Option<Vec<_>>>(),
        DataKey::List(pins) => Some(pins.clone()).filter(|pins| pins.len() == WIDTH),
    };
    let Some(pins) = pins else {
        let problem = Problem::WrongValue {
            found: "another number of pins".into(),
            allowed: "eight pins, D0 to D7".into(),
        };
        table.error(key.span(), problem);
        return None;
    };
    let line = |(bit, pin): (usize, &Spanned<Pin>)| {
        let role = format!("D{bit}");
        let claimed = table.claim(pin, &role);
        (Line { pin: pin.get_ref().clone(), role }, claimed)
    };
    Some(pins.iter().enumerate().map(line).collect())
}

/// Says what comes of a control pin that is tied wrongly or forgotten.
fn check_controls(index: usize, controls: Controls, latches: usize, keys: &LatchKey, table: &DriveTable<'_>) {
    let warn = |pin, key: &Spanned<Pin>, effect| {
        let tied = match key.get_ref().name() {
            "OPEN" => "left open".to_owned(),
            word => format!("tied {}", word.to_ascii_lowercase()),
        };
        table.warn(key.span(), Problem::ControlPin { part: format!("latch {index}"), pin, tied, effect });
    };
    let enable = keys.output_enable.as_ref().unwrap_or(&keys.latch_enable);
    match controls.output_enable {
        Control::Tied(true) => warn("OE", enable, "its outputs are off and the display stays dark"),
        Control::Open => {
            warn("OE", enable, "a floating pin is low or high as it likes, and the display dark with it")
        }
        _ => {}
    }
    match controls.latch_enable {
        Control::Tied(false) => {
            warn("LE", &keys.latch_enable, "it never takes anything in: the picture is frozen")
        }
        Control::Open => {
            warn("LE", &keys.latch_enable, "a floating pin takes in what it likes: the picture is frozen")
        }
        Control::Tied(true) if latches > 1 => {
            warn(
                "LE",
                &keys.latch_enable,
                "it follows everything on the shared port, the other latches' data too",
            );
        }
        _ => {}
    }
}

/// Latches on a shared port.
struct Latches {
    lines: usize,
    pin_bits: PinBits,
    controls: Vec<Controls>,
    /// By output: `8 latch + Q`.
    places: Vec<usize>,
    write: Nanos,
    supply: Volts,
}

impl Port for Latches {
    fn summary(&self) -> String {
        format!("{} 74hc573 on a port", self.controls.len())
    }

    fn bus(&self) -> Box<dyn Bus> {
        Box::new(Pins::new(self.pin_bits.clone(), self.write))
    }

    fn writer(&self) -> Box<dyn Writer> {
        Box::new(driver::Writer::new(self))
    }

    fn receiver(&self) -> Box<dyn Receiver> {
        let controls = self.controls.iter().map(|pins| (pins.latch_enable, pins.output_enable));
        Box::new(model::Latches::new(controls, self.places.clone()))
    }

    fn explain(&self, bytes: &[u8], _: &mut [Option<bool>]) -> Option<String> {
        let high = |line: usize| self.pin_bits.level(bytes, line) == Some(true);
        let data = (0..WIDTH).fold(0_u8, |data, bit| data | u8::from(high(bit)) << bit);
        let on = |control: Control, level| matches!(control, Control::Line(line) if high(line) == level);
        let open: Vec<_> =
            self.controls.iter().enumerate().filter(|(_, pins)| on(pins.latch_enable, true)).collect();
        let off = self.controls.iter().any(|pins| on(pins.output_enable, true));
        let latches = match &open[..] {
            [] if self.controls.iter().any(|pins| matches!(pins.latch_enable, Control::Line(_))) => {
                "the latches hold".to_owned()
            }
            [] => "straight through".to_owned(),
            open => {
                let numbers =
                    open.iter().map(|(index, _)| index.to_string()).collect::<Vec<_>>().join(" and ");
                format!("taken by latch {numbers}")
            }
        };
        Some(format!("data {data:02X}, {latches}{}", if off { ", outputs off" } else { "" }))
    }

    fn ratings(&self) -> Ratings {
        let outputs = |latch: usize| {
            let outputs = self.places.iter().enumerate().filter(move |(_, place)| **place / WIDTH == latch);
            outputs.map(|(output, _)| output).collect()
        };
        let group = |latch: usize| (format!("latch {latch}"), PART_MOST, outputs(latch));
        Ratings {
            part: "74hc573".into(),
            high: Some(self.supply),
            output: Some(OUTPUT_MOST),
            output_absolute: None,
            output_source: None,
            groups: (0..self.controls.len()).map(group).collect(),
        }
    }

    fn wires(&self) -> Vec<Wire> {
        let mut wires = Vec::new();
        for (index, pins) in self.controls.iter().enumerate() {
            let mut wire = |from: &str, to: &str, note: &str| {
                let from = format!("latch {index}, {from}");
                wires.push(Wire { from, to: to.to_owned(), note: note.to_owned() });
            };
            wire("VCC (20)", "supply", "with 100 nF close to the part");
            wire("GND (10)", "ground", "");
            for (name, control, forgotten) in [
                ("LE (11)", pins.latch_enable, "forgotten, the picture is frozen"),
                ("OE (1)", pins.output_enable, "forgotten, the display stays dark"),
            ] {
                match control {
                    Control::Line(_) => {}
                    Control::Tied(true) => wire(name, "supply", forgotten),
                    Control::Tied(false) => wire(name, "ground", forgotten),
                    Control::Open => wire(name, "nothing", "a floating control pin: tie it"),
                }
            }
        }
        wires
    }
}
