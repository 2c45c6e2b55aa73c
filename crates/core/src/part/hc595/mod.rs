//! `shifted`: 74hc595, a chain of shift registers with latched outputs.
//!
//! ```toml
//! [face.berth.drive]
//! method = "shifted"
//! pins = { data = 11, clock = 13, latch = 10 }    # enable = PIN, where OE is driven
//! output_enable = "low"                           # tied, if it is not
//! clear = "high"                                  # SRCLR
//! first = "right"                                 # static: which digit the controller feeds first
//! segments = "dp g f e d c b a"                   # on QH to QA
//! clock_hz = 1_000_000
//! sent = "msb-first"                              # how the bytes are handed to the serial port
//! ```
//!
//! Without `digits` it is static, a register a digit (two for more than eight segments). With
//! `digits = ["part1.QA", ...]` it is scanned, and the segments are on part 0 unless they are named singly:
//! `segments = { a = "part0.QA", ... }`. Part 0 is the one that the controller feeds.

mod driver;
mod model;

use crate::rig::Spanned;
use crate::schema::{JsonSchema, Schema, SchemaGenerator};
use serde::de::IgnoredAny;

use super::hc::{self, Tie, WIDTH};
use super::pins::crossings;
use super::{Chip, ChipPin, DECOUPLING, Drive, Method, Needs, OutputPlan, Outputs, Part, Planned, Wire};
use crate::bare::places::OutputNames;
use crate::bare::ratings::Ratings;
use crate::bare::trouble::CircuitTrouble;
use crate::bare::{CircuitKeys, plan};
use crate::bus::{Protocol, Transfer, shift};
use crate::driver::Writer;
use crate::face::Face;
use crate::glyph::Common;
use crate::meaning::Meaning;
use crate::model::Model;
use crate::rig::{Controller, DriveTable, End, Pin};
use crate::units::{Hertz, Volts};
use crate::words::words;

/// The keys of a rig.
pub const METHODS: &[&dyn Method] = &[&Shifted];

/// The method `shifted`.
pub struct Shifted;

const OUTPUTS: OutputNames = OutputNames {
    prefix: "part",
    what: ("part", "parts"),
    names: &["QA", "QB", "QC", "QD", "QE", "QF", "QG", "QH"],
};
/// The fastest clock that the part takes for sure at 4.5 V.
const MAX_CLOCK: Hertz = Hertz(20_000_000);
/// The fastest clock at a supply of 2 V, which rises to the full one at 4.5 V (data sheet, timing requirements).
const CLOCK_AT_2_VOLTS: Hertz = Hertz(5_000_000);
/// The fastest clock at a supply, between the data sheet's figures on a straight line.
fn max_clock(supply: Volts) -> Hertz {
    let share = ((supply.0 - 2.0) / 2.5).clamp(0.0, 1.0);
    Hertz(CLOCK_AT_2_VOLTS.0 + (f64::from(MAX_CLOCK.0 - CLOCK_AT_2_VOLTS.0) * share) as u32)
}

#[derive(serde::Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
struct Keys {
    #[serde(rename = "method")]
    #[cfg_attr(feature = "schema", schemars(skip))]
    _method: IgnoredAny,
    /// The controller pins of its lines.
    pins: Pins,
    /// The connection of OE if it is not driven.
    output_enable: Option<Spanned<Tie>>,
    /// How SRCLR is tied.
    clear: Option<Spanned<Tie>>,
    /// The clock rate.
    clock_hz: Option<Spanned<u32>>,
    /// The high level at the part, after any level converter.
    bus_volts: Option<Spanned<f64>>,
    /// How bytes are handed to the serial port.
    sent: Option<Spanned<Sent>>,
    /// Of a static face: which digit the controller feeds first.
    first: Option<Spanned<End>>,
}

#[derive(serde::Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
struct Pins {
    /// SER.
    data: Spanned<Pin>,
    /// SRCLK.
    clock: Spanned<Pin>,
    /// RCLK.
    latch: Spanned<Pin>,
    /// OE, where it is driven.
    enable: Option<Spanned<Pin>>,
}

words! {
    /// Which bit of a byte goes first.
    enum Sent {
        /// The most significant bit first.
        Msb = "msb-first",
        /// The least significant bit first.
        Lsb = "lsb-first",
    }
}

impl Method for Shifted {
    fn name(&self) -> &'static str {
        "shifted"
    }

    fn common(&self) -> Option<Common> {
        None
    }

    fn plan(&self, face: &Face, controller: &Controller, table: &DriveTable<'_>) -> Option<Planned> {
        let (keys, circuit): (Keys, CircuitKeys) = table.read_both()?;
        let is_static = !circuit.is_scanned(table);
        let first = match (is_static && face.digits() > 1, keys.first) {
            (true, first) => *table.or_assume("first", first, End::Right).get_ref(),
            (false, first) => first.map_or(End::Left, Spanned::into_inner),
        };
        let bits = face.style().segment_count();
        let numbered = |_: &str, digit: usize, bit: usize| {
            let from_first = match first {
                End::Left => digit,
                End::Right if is_static => face.digits() - 1 - digit,
                End::Right => digit,
            };
            OUTPUTS.numbered(from_first, bit, bits)
        };
        let planned = plan(face, &circuit, None, &numbered, table)?;
        let parts = OUTPUTS.parts(&planned);
        let places = OUTPUTS.places(&planned, parts, table)?;
        let level = hc::check(controller, "74hc595", keys.bus_volts, table);
        let clock = table.or_assume("clock_hz", keys.clock_hz, 1_000_000);
        if !table.check_range(&clock, 1, max_clock(controller.supply_volts).0) {
            return None;
        }
        let Pins { data, clock: clock_pin, latch, enable } = &keys.pins;
        let mut lines =
            vec![table.line(clock_pin, "clock"), table.line(data, "data"), table.line(latch, "latch")];
        lines.extend(enable.as_ref().map(|enable| table.line(enable, "enable")));
        let clock = Hertz(*clock.get_ref());
        let lsb_first = *table.or_assume("sent", keys.sent, Sent::Msb).get_ref() == Sent::Lsb;
        let has_enable = keys.pins.enable.is_some();
        // A driven OE is not tied to anything.
        let output_enable = match keys.output_enable {
            None if has_enable => Tie::Low,
            written => control("output_enable", "OE", Tie::Low, written, table),
        };
        let registers = Plan {
            parts,
            places,
            clock,
            lsb_first,
            is_enable_driven: has_enable,
            output_enable,
            clear: control("clear", "SRCLR", Tie::High, keys.clear, table),
            supply: controller.supply_volts,
        };
        let protocol = Protocol::Shift(shift::Shift { clock, lsb_first, has_enable });
        let (drive, wiring) = Drive::bare(planned, OutputPlan::Hc595(registers));
        Some(Planned { protocol, lines, wiring, level, drive })
    }

    fn keys(&self, generator: &mut SchemaGenerator) -> Vec<Schema> {
        vec![Keys::json_schema(generator), CircuitKeys::json_schema(generator)]
    }

    fn needs(&self, face: &Face) -> Option<Needs> {
        let (lines, selects) = crossings(face);
        let parts = (lines + selects).div_ceil(WIDTH);
        Some(Needs { pins: 3, parts: format!("{parts} 74hc595") })
    }
}

/// Returns the effects of a control pin that is tied wrongly.
fn mistied(pin: &'static str, tie: Tie) -> CircuitTrouble {
    let effect = match (pin, tie) {
        (_, Tie::Open) => "a floating pin may be low or high at any time, and with it the display dark",
        ("OE", _) => "its outputs are off and the display stays dark",
        _ => "it is cleared all the time and never holds anything",
    };
    CircuitTrouble::ControlPin { part: "every 74hc595".into(), pin, tied: tie.words().to_owned(), effect }
}

/// How a control pin is tied; says what comes of it when that is not as it must be.
fn control(
    key: &str,
    pin: &'static str,
    right: Tie,
    written: Option<Spanned<Tie>>,
    table: &DriveTable<'_>,
) -> Tie {
    let written = table.or_assume(key, written, right);
    let tie = *written.get_ref();
    if tie != right {
        table.warn(written.span(), mistied(pin, tie));
    }
    tie
}

/// A chain of registers, as a plan.
#[derive(Debug, Clone, PartialEq)]
pub struct Plan {
    /// How many there are.
    pub parts: usize,
    /// By output: `8 part + stage`, QA being stage 0.
    pub places: Vec<usize>,
    /// The clock rate.
    pub clock: Hertz,
    /// True if the serial port sends the least significant bit of each byte first.
    pub lsb_first: bool,
    /// True if OE is driven by the controller.
    pub is_enable_driven: bool,
    /// The connections of OE, if it is not driven, and of SRCLR.
    pub output_enable: Tie,
    /// The same for SRCLR.
    pub clear: Tie,
    /// The supply of the parts.
    pub supply: Volts,
}

impl Part for Plan {
    fn summary(&self) -> String {
        let chain = if self.parts > 1 { " in a chain" } else { "" };
        format!("{}{chain}, clock {}", self.parts(), self.clock)
    }

    fn parts(&self) -> String {
        format!("{} 74hc595", self.parts)
    }

    fn explain(&self, transfer: &Transfer<'_>) -> Meaning {
        if let Transfer::OutputsOff = transfer {
            return Meaning::Words("outputs off until the next transfer".to_owned());
        }
        let mut levels = vec![None; self.places.len()];
        model::explain(transfer.bytes(), self.lsb_first, &self.places, &mut levels);
        Meaning::Levels(levels)
    }

    fn handicaps(&self) -> Vec<String> {
        let enable = (!self.is_enable_driven && self.output_enable != Tie::Low)
            .then(|| mistied("OE", self.output_enable));
        let clear = (self.clear != Tie::High).then(|| mistied("SRCLR", self.clear));
        enable.into_iter().chain(clear).map(|trouble| trouble.to_string()).collect()
    }

    fn chips(&self) -> Vec<Chip> {
        let of_part = |part: usize| {
            let mut lines =
                vec![(shift::CLOCK, ChipPin("SRCLK", Some(11))), (shift::LATCH, ChipPin("RCLK", Some(12)))];
            if part == 0 {
                lines.push((shift::DATA, ChipPin("SER", Some(14))));
            }
            if self.is_enable_driven {
                lines.push((shift::ENABLE, ChipPin("OE", Some(13))));
            }
            Chip { part: "74hc595", name: format!("74hc595 part {part}"), beside: DECOUPLING.to_vec(), lines }
        };
        (0..self.parts).map(of_part).collect()
    }

    fn chained(&self) -> Option<(ChipPin, ChipPin)> {
        (self.parts > 1).then_some((ChipPin("QH'", Some(9)), ChipPin("SER", Some(14))))
    }

    fn wires(&self) -> Vec<Wire> {
        let mut wires = Vec::new();
        for part in 0..self.parts {
            let chip = format!("74hc595 part {part}");
            wires.extend(hc::fed(&chip, "VCC (16)", "GND (8)"));
            let mut wire =
                |pin: &str, tie: Tie, note: &str| wires.push(Wire::of(&chip, pin, tie.end(), note));
            if !self.is_enable_driven {
                wire("OE (13)", self.output_enable, "if forgotten, the display stays dark");
            }
            wire("SRCLR (10)", self.clear, "if forgotten, the register is cleared now and then");
        }
        wires
    }
}

/// The numbers of the outputs' pins.
const NUMBERS: [u8; WIDTH] = [15, 1, 2, 3, 4, 5, 6, 7];

impl Outputs for Plan {
    fn pin_of(&self, output: usize) -> Option<(usize, ChipPin)> {
        self.places.get(output).map(|place| ChipPin::of_output(OUTPUTS.names, &NUMBERS, *place))
    }

    fn writer(&self, unused: bool) -> Box<dyn Writer> {
        Box::new(driver::Writer::new(self, unused))
    }

    fn model(&self) -> Box<dyn Model> {
        // A driven enable is high until it is driven low.
        let enable = if self.is_enable_driven { Some(true) } else { self.output_enable.level() };
        Box::new(model::Chain::new(self.parts, self.places.clone(), enable, self.clear.level()))
    }

    fn ratings(&self) -> Ratings {
        let names = (0..self.parts).map(|part| format!("74hc595 part {part}"));
        hc::ratings("74hc595", names, &self.places, self.supply)
    }

    fn bit_of(&self, output: usize) -> Option<(usize, usize)> {
        let place = *self.places.get(output)?;
        // With the least significant bit first, the byte that is handed over is the other way round.
        let bit = place % WIDTH;
        Some((place / WIDTH, if self.lsb_first { WIDTH - 1 - bit } else { bit }))
    }
}
