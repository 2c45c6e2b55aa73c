//! The plan of a whole rig: everything that follows from its file, as plain data.
//!
//! [`Rig::read`] takes the text through three steps, each apart: the document with its places ([`rig`](crate::rig)), the
//! checks and plans of the parts ([`part`]), and here the rig as a whole: its controller, its buses with the
//! devices on them, and its faces. [`budget`] works currents out, [`scan`] the timing of a scan, [`wires`] what to connect.

pub mod budget;
mod built;
pub mod buttons;
mod face;
mod lack;
pub mod parts;
pub mod pull_ups;
pub mod scan;
#[cfg(feature = "schema")]
pub mod schema;
pub mod teller;
pub mod wires;

use crate::bus::Protocol;
use crate::dots::reduce::Inks;
use crate::face::{Channels, Face};
use crate::geometry::Geometry;
use crate::glyph::Common;
use crate::part::{Chip, ChipPin, Drive, Header, Method, Part, Wire};
use crate::rig::document::Document;
use crate::rig::face::RigKeys;
use crate::rig::value::Value;
use crate::rig::{Claims, Controller, Finding, Findings, Line, Package, Pin, Problem, reader};
use crate::units::Volts;
use crate::wiring::Wiring;

pub use built::{BothRigs, BuiltError};
pub use buttons::{ButtonId, Keypad, PinButton, PinButtons};
pub use face::unfit_name;
pub use lack::Lack;

use face::{FacePlan, Unseated};

/// The most faces of one controller.
pub const MAX_FACES: usize = 64;

/// The hardware: a controller, buses, and the faces on them.
#[derive(Debug, Clone, PartialEq)]
pub struct Rig {
    /// Its name in the file.
    pub name: Option<String>,
    /// The source of the lines.
    pub controller: Controller,
    /// The buses: one transfer at a time on each.
    pub buses: Vec<Bus>,
    /// The faces in the file's order.
    pub faces: Vec<Mount>,
    /// The push buttons on pins of the controller, if there are any.
    pub buttons: Option<PinButtons>,
}

/// Lines that belong together: devices that share a pin share the time.
#[derive(Debug, Clone, PartialEq)]
pub struct Bus {
    /// The controller's pins, by the data sheet's names.
    pub pins: Vec<Pin>,
    /// The devices on them.
    pub devices: Vec<Device>,
}

/// Something that is spoken to: the parts of a face.
#[derive(Debug, Clone, PartialEq)]
pub struct Device {
    /// How.
    pub protocol: Protocol,
    /// Its lines, numbered as the protocol says, by their places in [`Bus::pins`].
    pub lines: Vec<usize>,
}

/// A device of a rig.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord)]
pub struct DeviceId {
    /// The bus, by its place in [`Rig::buses`].
    pub bus: usize,
    /// The device, by its place in [`Bus::devices`].
    pub device: usize,
}

/// A face on its drive.
#[derive(Debug, Clone, PartialEq)]
pub struct Mount {
    /// The display.
    pub face: Face,
    /// The method's name, as in the file.
    pub method: &'static str,
    /// The common side of the lights that the method drives; `None` if it drives either.
    pub drives: Option<Common>,
    /// The pins of the display itself, where the file tells.
    pub package: Option<Package>,
    /// True if it is a module, connected by a row of pins.
    pub is_module: bool,
    /// Its lines, numbered as its device's protocol says.
    pub lines: Vec<Line>,
    /// Where its parts are on the buses.
    pub device: DeviceId,
    /// From elements to nodes.
    pub wiring: Wiring,
    /// The high level of its lines where they arrive: that of the controller, unless a level converter stands between.
    pub level: Volts,
    /// The part between the lines and its lights.
    pub drive: Drive,
}

/// The result of reading a rig file.
pub struct Reading {
    /// The rig, unless a finding keeps it from being used.
    pub rig: Option<Rig>,
    /// Everything there is to say about the file, in the order of its places.
    pub findings: Vec<Finding>,
}

impl Mount {
    /// Where its lights are, as the receiving side knows it. Of lights that are the other way round none lights.
    #[must_use]
    pub fn geometry(&self) -> Geometry {
        let geometry = self.drive.display().geometry(&self.face);
        if self.is_turned_round() { Geometry::dark(geometry.node_count()) } else { geometry }
    }

    /// The pins by which it is connected, if it is a module.
    #[must_use]
    pub fn header(&self) -> Option<Header> {
        self.drive.header().filter(|_| self.is_module)
    }

    /// The chips that a person connects, the one that the controller feeds first; of modules, those.
    #[must_use]
    pub fn chips(&self) -> Vec<Chip> {
        let chips = self.drive.chips();
        match self.header() {
            Some(header) => chips.iter().map(|chip| header.module(chip)).collect(),
            None => chips,
        }
    }

    /// The pins by which each of them feeds the next: of the one before, and of the one after. `None` if they do not.
    #[must_use]
    pub fn chained(&self) -> Option<(ChipPin, ChipPin)> {
        let chained = self.drive.chained();
        match self.header() {
            Some(header) => chained
                .and(header.chained)
                .map(|(before, after)| (ChipPin(before, None), ChipPin(after, None))),
            None => chained,
        }
    }

    /// Their connections besides the lines, in the order in which to plug them.
    #[must_use]
    pub fn wires(&self) -> Vec<Wire> {
        let wires = self.drive.wires();
        match self.header() {
            Some(header) => header.wires(&self.drive.chips(), &wires),
            None => wires,
        }
    }

    /// Returns true if the lights are the other way round than the method drives them.
    fn is_turned_round(&self) -> bool {
        self.drives.is_some_and(|drives| drives != self.face.common)
    }

    /// The colours of its dots: shades where the drive makes them. `None` where it has digits.
    #[must_use]
    pub fn inks(&self) -> Option<Inks> {
        let has_greys = self.drive.display().grey_steps() > 1;
        Some(match (self.face.dots()?.channels, has_greys) {
            (Channels::One, true) => Inks::Greys,
            (Channels::One, false) => Inks::One,
            (_, true) => Inks::Shades,
            (_, false) => Inks::Eight,
        })
    }

    /// Why the face cannot show what is sent to it: control pins that are open or tied wrongly, lights that are the
    /// other way round than the part drives them.
    #[must_use]
    pub fn handicaps(&self) -> Vec<String> {
        let mut handicaps = self.drive.handicaps();
        if self.is_turned_round() {
            let (common, method) = (self.face.common.name(), self.method);
            handicaps.push(format!(
                "the lights have their {common}s joined, and the {method} drives them the other way round: none can light"
            ));
        }
        handicaps
    }
}

impl Rig {
    /// Reads and checks a rig file.
    #[must_use]
    pub fn read(source: &str) -> Reading {
        Self::read_with(source, &[])
    }

    /// Reads and checks a rig file in which faces may also have these methods, of parts that another crate knows. A method
    /// of this crate comes first if the names are equal.
    #[must_use]
    pub fn read_with(source: &str, outside: &[&'static dyn Method]) -> Reading {
        let findings = Findings::default();
        let document = Document::parse(source, &findings);
        Self::reading(document.as_ref(), findings, outside)
    }

    /// Checks a rig that a program has built, or read before.
    #[must_use]
    pub fn of(document: &Document) -> Reading {
        Self::of_with(document, &[])
    }

    /// Checks such a rig that a program has built, or read before.
    #[must_use]
    pub fn of_with(document: &Document, outside: &[&'static dyn Method]) -> Reading {
        Self::reading(Some(document), Findings::default(), outside)
    }

    fn reading(document: Option<&Document>, findings: Findings, outside: &[&'static dyn Method]) -> Reading {
        let planned = document.and_then(|document| Self::plan(document, outside, &findings));
        let rig = planned.filter(|_| !findings.are_blocking());
        rig.iter().flat_map(budget::check).for_each(|finding| findings.add(finding));
        Reading { rig, findings: findings.in_order() }
    }

    /// The controller of a rig file that has no face yet; `None` when it has one, or the file or the controller has errors.
    #[must_use]
    pub fn controller_alone(source: &str) -> Option<Controller> {
        let findings = Findings::default();
        let document = Document::parse(source, &findings)?;
        if document.get(&["face"]).is_some() {
            return None;
        }
        let (root, whole) = document.root();
        let keys: RigKeys = reader::read(root, whole, &findings)?;
        Controller::plan(keys.controller, &findings).filter(|_| !findings.are_blocking())
    }

    /// The face of this name.
    #[must_use]
    pub fn face(&self, name: &str) -> Option<&Mount> {
        self.faces.iter().find(|mount| mount.face.name == name)
    }

    /// The device of a face.
    #[must_use]
    pub fn device(&self, id: DeviceId) -> Option<&Device> {
        self.buses.get(id.bus)?.devices.get(id.device)
    }

    /// How a face's parts are spoken to.
    #[must_use]
    pub fn protocol(&self, mount: &Mount) -> Option<&Protocol> {
        Some(&self.device(mount.device)?.protocol)
    }

    fn plan(document: &Document, outside: &[&'static dyn Method], findings: &Findings) -> Option<Self> {
        let (root, whole) = document.root();
        let keys: RigKeys = reader::read(root, whole, findings)?;
        let controller = Controller::plan(keys.controller, findings)?;

        let root = root.as_table()?;
        let faces = match root.get("face").map(|face| (face.get_ref(), face.span())) {
            Some((Value::Table(faces), _)) if !faces.is_empty() => faces,
            Some((Value::Table(_), span)) => return findings.stop(span, Problem::NoFaces),
            Some((other, span)) => {
                let found = reader::describe(other);
                return findings
                    .stop(span, Problem::WrongValue { found, allowed: "a table of faces".into() });
            }
            None => return findings.stop(0..0, Problem::NoFaces),
        };
        if faces.len() > MAX_FACES {
            let problem = Problem::TooMany { what: "faces", found: faces.len(), most: MAX_FACES };
            return findings.stop(root.get("face").map_or(0..0, |face| face.span()), problem);
        }
        let claims = Claims::default();
        let planned: Vec<_> = faces
            .iter()
            .map(|(name, value)| {
                let plan = FacePlan { root, findings, claims: &claims, controller: &controller, outside };
                plan.mount(name.get_ref(), value)
            })
            .collect();
        let buttons = buttons::plan(keys.buttons, &controller, &claims, findings);
        let unseated = planned.into_iter().collect::<Option<Vec<_>>>()?;
        let (mut buses, faces) = seat(unseated);
        let buttons = PinButtons::seat(buttons?, &mut buses);
        Some(Self { name: keys.name, controller, buses, faces, buttons })
    }
}

/// Puts the devices of faces on buses: those that share a pin are on one.
fn seat(unseated: Vec<Unseated>) -> (Vec<Bus>, Vec<Mount>) {
    let pins_of =
        |unseated: &Unseated| -> Vec<Pin> { unseated.lines.iter().map(|line| line.known.clone()).collect() };
    // Buses by pins first; one that turns out to join two of them takes both.
    let mut groups: Vec<Vec<Pin>> = Vec::new();
    for face in &unseated {
        let mut pins = pins_of(face);
        groups.retain(|group| {
            let joined = group.iter().any(|pin| pins.contains(pin));
            if joined {
                let more: Vec<_> = group.iter().filter(|pin| !pins.contains(pin)).cloned().collect();
                pins.splice(0..0, more);
            }
            !joined
        });
        groups.push(pins);
    }
    // Each pin once, in the order in which the faces name them.
    let mut buses: Vec<Bus> = Vec::new();
    let mut faces = Vec::new();
    for face in unseated {
        let group = groups.iter().find(|group| pins_of(&face).iter().any(|pin| group.contains(pin)));
        let known = |bus: &Bus| group.is_some_and(|group| bus.pins.iter().any(|pin| group.contains(pin)));
        let bus = buses.iter().position(known).unwrap_or_else(|| {
            buses.push(Bus { pins: Vec::new(), devices: Vec::new() });
            buses.len() - 1
        });
        let Bus { pins, devices } = &mut buses[bus];
        let lines = face.lines.iter().map(|line| {
            pins.iter().position(|pin| *pin == line.known).unwrap_or_else(|| {
                pins.push(line.known.clone());
                pins.len() - 1
            })
        });
        devices.push(Device { protocol: face.protocol, lines: lines.collect() });
        faces.push(Mount {
            face: face.face,
            method: face.method,
            drives: face.drives,
            package: face.package,
            is_module: face.is_module,
            lines: face.lines,
            device: DeviceId { bus, device: devices.len() - 1 },
            wiring: face.wiring,
            level: face.level,
            drive: face.drive,
        });
    }
    (buses, faces)
}

#[cfg(test)]
mod tests {
    use super::*;

    fn rig(faces: &[(&str, &str)]) -> Rig {
        let face = |(name, pins): &(&str, &str)| {
            format!(
                "[face.{name}]\nkind = \"seven-segment\"\ndigits = 8\n[face.{name}.drive]\nmethod = \"max7219\"\n\
                 pins = {{ data = {pins} }}\n"
            )
        };
        Rig::read(&faces.iter().map(face).collect::<String>()).rig.unwrap()
    }

    #[test]
    fn devices_that_share_pins_are_on_one_bus() {
        let rig = rig(&[
            ("desk", "1, clock = 2, select = 3"),
            ("gauge", "4, clock = 5, select = 6"),
            ("sign", "1, clock = 2, select = 7"),
        ]);
        let pins: Vec<Vec<_>> =
            rig.buses.iter().map(|bus| bus.pins.iter().map(ToString::to_string).collect()).collect();
        assert_eq!(pins, [vec!["2", "1", "3", "7"], vec!["5", "4", "6"]]);
        let devices: Vec<_> = rig.faces.iter().map(|mount| (mount.device.bus, mount.device.device)).collect();
        assert_eq!(devices, [(0, 0), (1, 0), (0, 1)]);
        assert_eq!(rig.buses[0].devices[1].lines, [0, 1, 3]);
    }

    #[test]
    fn plans_are_plain_data() {
        fn plain<T: Clone + PartialEq + Send + Sync + std::fmt::Debug>(_: &T) {}
        let one = rig(&[("desk", "1, clock = 2, select = 3")]);
        plain(&one);
        assert_eq!(one, one.clone());
        assert_ne!(one, rig(&[("desk", "1, clock = 2, select = 4")]));
    }
}
