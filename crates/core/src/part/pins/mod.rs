//! `static` and `scanned`: bare displays at the controller's own pins.
//!
//! ```toml
//! [face.gauge.drive]
//! method = "scanned"
//! segments = { a = "GP2", b = "GP3", c = "GP4", d = "GP5", e = "GP6", f = "GP7", g = "GP8", dp = "GP9" }
//! digits = ["GP10", "GP11", "GP12", "GP13"]       # from left to right
//! digit_switch = "npn"                            # or "none": straight to the pin
//! resistor = { ohms = 220, in = "segments" }
//! refresh_hz = 120
//! blanking = "30us"
//! ```
//!
//! With `static` every segment of every digit has a pin of its own, and the common sides are at a rail.

mod driver;
mod model;

use crate::schema::{JsonSchema, Schema, SchemaGenerator};
use serde::de::IgnoredAny;

use super::{Drive, Method, Needs, OutputPlan, Outputs, Part, Planned};
use crate::bare::circuit::{Output, SwitchKind};
use crate::bare::ratings::{Group, Ratings};
use crate::bare::trouble::CircuitTrouble;
use crate::bare::{CircuitKeys, PlannedCircuit, plan};
use crate::bus::pins::{self, PinBits};
use crate::bus::{Protocol, Transfer};
use crate::driver::Writer;
use crate::face::Face;
use crate::glyph::Common;
use crate::meaning::Meaning;
use crate::model::Model;
use crate::rig::controllers::{Facts, Together};
use crate::rig::{Controller, DriveTable, Limits, Line, Pin, Spanned};
use crate::units::Nanos;

/// The keys of a rig.
pub const METHODS: &[&dyn Method] = &[&Static, &Scanned];

/// The method `static`.
pub struct Static;

/// The method `scanned`.
pub struct Scanned;

/// The one key that is not of the circuit.
#[derive(serde::Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
struct Keys {
    #[serde(rename = "method")]
    #[cfg_attr(feature = "schema", schemars(skip))]
    _method: IgnoredAny,
}

impl Method for Static {
    fn name(&self) -> &'static str {
        "static"
    }

    fn common(&self) -> Option<Common> {
        None
    }

    fn plan(&self, face: &Face, controller: &Controller, table: &DriveTable<'_>) -> Option<Planned> {
        plan_pins(face, controller, false, table)
    }

    fn keys(&self, generator: &mut SchemaGenerator) -> Vec<Schema> {
        vec![CircuitKeys::json_schema(generator)]
    }

    fn needs(&self, face: &Face) -> Option<Needs> {
        face.dots().is_none().then(|| Needs { pins: face.element_count(), parts: String::new() })
    }
}

impl Method for Scanned {
    fn name(&self) -> &'static str {
        "scanned"
    }

    fn common(&self) -> Option<Common> {
        None
    }

    fn plan(&self, face: &Face, controller: &Controller, table: &DriveTable<'_>) -> Option<Planned> {
        plan_pins(face, controller, true, table)
    }

    fn keys(&self, generator: &mut SchemaGenerator) -> Vec<Schema> {
        vec![CircuitKeys::json_schema(generator)]
    }

    fn needs(&self, face: &Face) -> Option<Needs> {
        let (lines, selects) = crossings(face);
        (selects > 0).then(|| Needs { pins: lines + selects, parts: String::new() })
    }
}

/// How many lines and selects it takes to scan a face; one digit alone needs no select. Colons and lamps share one more.
pub fn crossings(face: &Face) -> (usize, usize) {
    let (lines, selects) = match face.dots() {
        None if face.digits() == 1 && face.extras.is_empty() => (face.style().segment_count(), 0),
        None => (face.style().segment_count(), face.digits()),
        Some(grid) => (grid.width, grid.height),
    };
    (lines.max(face.extras.len()), selects + usize::from(!face.extras.is_empty()))
}

fn plan_pins(face: &Face, controller: &Controller, scanned: bool, table: &DriveTable<'_>) -> Option<Planned> {
    let (_, keys): (Keys, CircuitKeys) = table.read_both()?;
    let on_port =
        |port: &str, _: usize, bit: usize| if port.is_empty() { None } else { Pin::of_port(port, bit) };
    let planned = plan(face, &keys, Some(scanned), &on_port, table)?;
    let lines = claim(&planned, table);
    warn_of_weak_sources(&planned, controller, table);
    let claimed: Vec<Pin> = lines.iter().map(|line| line.known.clone()).collect();
    let bits = bits(&claimed);
    let is_open_drain = |pin: &Pin| controller.facts.iter().any(|facts| facts.is_open_drain(pin));
    let write = planned.circuit.timing.map_or(Nanos(1_000), |timing| timing.write);
    let outputs = Plan {
        bits: bits.clone(),
        ports: ports(&claimed).iter().map(ToString::to_string).collect(),
        outputs: claimed.len(),
        open_drains: (0..claimed.len()).filter(|output| is_open_drain(&claimed[*output])).collect(),
        ratings: ratings(controller, &claimed),
    };
    let protocol = Protocol::Pins(pins::Pins { bits, write });
    let (drive, wiring) = Drive::bare(planned, OutputPlan::Pins(outputs));
    Some(Planned { protocol, lines, wiring, level: controller.logic_volts, drive })
}

/// Takes the pin of each output.
fn claim(planned: &PlannedCircuit, table: &DriveTable<'_>) -> Vec<Line> {
    let outputs = planned.circuit.outputs.iter();
    let claim =
        |output: &Output| table.line(&Spanned::new(output.place.0.clone(), output.pin.clone()), &output.role);
    outputs.map(claim).collect()
}

/// A controller whose pins give next to no current cannot light what has to be fed by them.
fn warn_of_weak_sources(planned: &PlannedCircuit, controller: &Controller, table: &DriveTable<'_>) {
    let circuit = &planned.circuit;
    let straight = circuit.line_switch.kind == SwitchKind::None;
    if let (Some(part), Some(most)) = (&controller.part, controller.limits.pin_source)
        && circuit.common == Common::Cathode
        && straight
    {
        let problem = CircuitTrouble::WeakSource { part: part.to_owned(), source_most: most };
        table.warn(circuit.places.lines.0.clone(), problem);
    }
}

/// The ports of pins that are all named by port and bit, in the order of their names; none otherwise.
fn ports(pins: &[Pin]) -> Vec<&str> {
    let places = pins.iter().map(|pin| pin.port_bit().map(|(port, _)| port)).collect::<Option<Vec<_>>>();
    let mut ports = places.unwrap_or_default();
    ports.sort_unstable();
    ports.dedup();
    ports
}

/// Where each pin stands in the bytes of an operation: by ports, when all are named by port and bit.
pub(in crate::part) fn bits(pins: &[Pin]) -> PinBits {
    let ports = ports(pins);
    if ports.is_empty() {
        return PinBits::in_order(pins.len());
    }
    let index = |wanted: &str| ports.iter().position(|port| *port == wanted).unwrap_or_default();
    let places = pins.iter().filter_map(Pin::port_bit);
    PinBits::on_ports(places.map(|(port, bit)| (index(port), bit)).collect())
}

fn ratings(controller: &Controller, pins: &[Pin]) -> Ratings {
    let Limits { pin, pin_absolute, pin_sink_absolute, pin_source, port, port_0, .. } = controller.limits;
    let together = controller.facts.iter().flat_map(Facts::together).filter_map(|together| {
        let outputs = pins.iter().enumerate().filter(|(_, pin)| together.pins.contains(pin));
        let outputs: Vec<_> = outputs.map(|(output, _)| output).collect();
        let Together { words, sink, source, .. } = together;
        (!outputs.is_empty()).then_some(Group { name: words, sink, source, is_absolute: true, outputs })
    });
    let mut groups: Vec<Group> = together.collect();
    for (output, pin) in pins.iter().enumerate() {
        let Some((name, _)) = pin.port_bit() else { continue };
        let Some(limit) = (if name == "P0" { port_0.or(port) } else { port }) else { continue };
        let name = format!("port {name}");
        match groups.iter_mut().find(|known| known.name == name) {
            Some(group) => group.outputs.push(output),
            None => groups.push(Group {
                name,
                sink: Some(limit),
                source: Some(limit),
                is_absolute: false,
                outputs: vec![output],
            }),
        }
    }
    Ratings {
        part: controller.called().to_owned(),
        high: None,
        output: pin,
        output_absolute: pin_absolute,
        output_sink_absolute: pin_sink_absolute,
        output_source: pin_source,
        groups,
    }
}

/// The controller's pins as outputs, as a plan.
#[derive(Debug, Clone, PartialEq)]
pub struct Plan {
    /// Where each output stands in the bytes of a transfer.
    pub bits: PinBits,
    /// The ports that those bytes are the values of; none where the pins are named singly.
    pub ports: Vec<String>,
    /// How many outputs there are.
    pub outputs: usize,
    /// Those that drive no high level.
    pub open_drains: Vec<usize>,
    /// Their ratings.
    pub ratings: Ratings,
}

impl Part for Plan {
    fn summary(&self) -> String {
        let plural = if self.outputs == 1 { "" } else { "s" };
        match &self.ports[..] {
            [] => format!("{} controller pin{plural}", self.outputs),
            [port] => format!("{} controller pin{plural} on port {port}", self.outputs),
            ports => format!("{} controller pins on ports {}", self.outputs, ports.join(" and ")),
        }
    }

    fn parts(&self) -> String {
        String::new()
    }

    fn explain(&self, transfer: &Transfer<'_>) -> Meaning {
        let level = |output| self.bits.level(transfer.bytes(), output);
        Meaning::Levels((0..self.outputs).map(level).collect())
    }
}

impl Outputs for Plan {
    fn writer(&self, unused: bool) -> Box<dyn Writer> {
        Box::new(driver::PinWriter::new(self, unused))
    }

    fn model(&self) -> Box<dyn Model> {
        Box::new(model::PinLevels::new(self))
    }

    fn ratings(&self) -> Ratings {
        self.ratings.clone()
    }

    fn bit_of(&self, output: usize) -> Option<(usize, usize)> {
        let (byte, bit) = self.bits.place(output).filter(|_| self.bits.are_ports())?;
        // As they are written: the first port holds the most significant byte.
        Some((self.bits.byte_count() - 1 - byte, bit.into()))
    }
}
