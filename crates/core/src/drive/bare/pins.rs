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

use serde::de::IgnoredAny;
use serde_spanned::Spanned;

use super::port::{Port, Ratings, Receiver, Writer};
use super::{CircuitKeys, Planned, drive, plan};
use crate::bus::pins::{PinBits, Pins};
use crate::bus::{Bus, Edge, Ops, Role};
use crate::drive::{Drive, Line, Method, Needs};
use crate::face::Face;
use crate::glyph::Common;
use crate::rig::{Controller, DriveTable, Limits, Pin, Problem};
use crate::units::{Milliamps, Nanos};

/// The method `static`.
pub struct Static;

/// The method `scanned`.
pub struct Scanned;

/// The one key that is not of the circuit.
#[derive(serde::Deserialize)]
struct Keys {
    #[serde(rename = "method")]
    _method: IgnoredAny,
}

impl Method for Static {
    fn name(&self) -> &'static str {
        "static"
    }

    fn common(&self) -> Option<Common> {
        None
    }

    fn plan(&self, face: &Face, controller: &Controller, table: &DriveTable<'_>) -> Option<Drive> {
        plan_pins(face, controller, false, table)
    }

    fn needs(&self, face: &Face) -> Option<Needs> {
        Some(Needs { pins: face.element_count(), parts: String::new() })
    }
}

impl Method for Scanned {
    fn name(&self) -> &'static str {
        "scanned"
    }

    fn common(&self) -> Option<Common> {
        None
    }

    fn plan(&self, face: &Face, controller: &Controller, table: &DriveTable<'_>) -> Option<Drive> {
        plan_pins(face, controller, true, table)
    }

    fn needs(&self, face: &Face) -> Option<Needs> {
        let (lines, selects) = crossings(face);
        Some(Needs { pins: lines + selects, parts: String::new() })
    }
}

/// How many lines and selects it takes to scan a face. Colons and lamps share one more select.
pub fn crossings(face: &Face) -> (usize, usize) {
    let segments = if face.digits > 0 { face.style.segment_count() } else { 0 };
    let selects = face.digits + face.dots.height + usize::from(!face.extras.is_empty());
    (segments.max(face.dots.width).max(face.extras.len()), selects)
}

fn plan_pins(face: &Face, controller: &Controller, scanned: bool, table: &DriveTable<'_>) -> Option<Drive> {
    let (_, keys): (Keys, CircuitKeys) = table.read_both()?;
    let on_port =
        |port: &str, _: usize, bit: usize| if port.is_empty() { None } else { Pin::of_port(port, bit) };
    let planned = plan(face, &keys, Some(scanned), &on_port, table)?;
    let claimed = claim(&planned, table);
    warn_of_weak_sources(&planned, controller, table);
    let lines = planned.circuit.outputs.iter();
    let lines = lines.map(|output| Line { role: output.role.clone(), pin: output.pin.clone() }).collect();
    let port = ControllerPins {
        bits: bits(&claimed),
        ports: ports(&claimed).iter().map(ToString::to_string).collect(),
        rest: planned.circuit.rest(),
        write: planned.circuit.timing.map_or(Nanos(1_000), |timing| timing.write),
        ratings: ratings(controller, &claimed),
    };
    Some(drive(planned, lines, Box::new(port)))
}

/// Takes the pin of each output, by the data sheet's name.
fn claim(planned: &Planned, table: &DriveTable<'_>) -> Vec<Pin> {
    let outputs = planned.circuit.outputs.iter();
    let claim = |output: &super::circuit::Output| {
        table.claim(&Spanned::new(output.span.clone(), output.pin.clone()), &output.role)
    };
    outputs.map(claim).collect()
}

/// A controller whose pins give next to no current cannot light what has to be fed by them.
fn warn_of_weak_sources(planned: &Planned, controller: &Controller, table: &DriveTable<'_>) {
    let circuit = &planned.circuit;
    let straight = circuit.line_switch.kind == super::circuit::SwitchKind::None;
    if let (Some(part), Some(most)) = (controller.part, controller.limits.pin_source)
        && circuit.common == Common::Cathode
        && straight
    {
        let problem = Problem::WeakSource { part: part.to_owned(), source_most: most };
        table.warn(circuit.places.lines.clone(), problem);
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
pub(crate) fn bits(pins: &[Pin]) -> PinBits {
    let ports = ports(pins);
    if ports.is_empty() {
        return PinBits::in_order(pins.len());
    }
    let index = |wanted: &str| ports.iter().position(|port| *port == wanted).unwrap_or_default();
    let places = pins.iter().filter_map(Pin::port_bit);
    PinBits::on_ports(places.map(|(port, bit)| (index(port), bit)).collect())
}

fn ratings(controller: &Controller, pins: &[Pin]) -> Ratings {
    let Limits { pin, pin_absolute, pin_source, port, port_0, .. } = controller.limits;
    let mut groups: Vec<(String, Milliamps, Vec<usize>)> = Vec::new();
    for (output, pin) in pins.iter().enumerate() {
        let Some((name, _)) = pin.port_bit() else { continue };
        let Some(limit) = (if name == "P0" { port_0.or(port) } else { port }) else { continue };
        let name = format!("port {name}");
        match groups.iter_mut().find(|(known, ..)| *known == name) {
            Some((.., outputs)) => outputs.push(output),
            None => groups.push((name, limit, vec![output])),
        }
    }
    Ratings {
        part: controller.part.unwrap_or("controller").to_owned(),
        high: None,
        output: pin,
        output_absolute: pin_absolute,
        output_source: pin_source,
        groups,
    }
}

/// The controller's pins as outputs.
struct ControllerPins {
    bits: PinBits,
    /// The ports that the bytes of an operation are the values of.
    ports: Vec<String>,
    rest: Vec<bool>,
    write: Nanos,
    ratings: Ratings,
}

impl Port for ControllerPins {
    fn summary(&self) -> String {
        match &self.ports[..] {
            [] => format!("{} controller pins", self.rest.len()),
            [port] => format!("{} controller pins on port {port}", self.rest.len()),
            ports => format!("{} controller pins on ports {}", self.rest.len(), ports.join(" and ")),
        }
    }

    fn bus(&self) -> Box<dyn Bus> {
        Box::new(Pins::new(self.bits.clone(), self.write))
    }

    fn writer(&self) -> Box<dyn Writer> {
        // Bits of a port that nothing is wired to rest where dark lines do.
        let unused = self.rest.first().copied().unwrap_or(false);
        Box::new(PinWriter { bits: self.bits.clone(), unused })
    }

    fn receiver(&self) -> Box<dyn Receiver> {
        Box::new(PinLevels { levels: vec![None; self.rest.len()] })
    }

    fn explain(&self, bytes: &[u8], levels: &mut [Option<bool>]) -> Option<String> {
        for (line, level) in levels.iter_mut().enumerate() {
            *level = self.bits.level(bytes, line);
        }
        None
    }

    fn ratings(&self) -> Ratings {
        self.ratings.clone()
    }
}

/// Writes levels as the values of ports.
struct PinWriter {
    bits: PinBits,
    unused: bool,
}

impl Writer for PinWriter {
    fn power_up(&mut self, levels: &[bool], ops: &mut Ops) {
        self.write(Role::PowerUp, levels, ops);
    }

    fn write(&mut self, role: Role, levels: &[bool], ops: &mut Ops) {
        ops.push(role, self.bits.bytes(self.unused, |line| levels.get(line).copied().unwrap_or(self.unused)));
    }
}

/// The levels that edges bring: each line is an output.
struct PinLevels {
    levels: Vec<Option<bool>>,
}

impl Receiver for PinLevels {
    fn take(&mut self, edges: &[Edge]) {
        for edge in edges {
            if let Some(level) = self.levels.get_mut(edge.line) {
                *level = Some(edge.level);
            }
        }
    }

    fn levels(&self) -> &[Option<bool>] {
        &self.levels
    }
}
