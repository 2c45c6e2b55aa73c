//! The shopping list of a rig: everything that has to lie on the bench, each thing once with how many of it.

use std::fmt;

use super::budget::{self, Carrier};
use super::wires::{self, Converter, Switching, Through};
use super::{Mount, Rig, buttons, pull_ups};
use crate::bare::circuit::SwitchKind;
use crate::face::{Channels, ExtraKind, Face, Grid, Layout};
use crate::part::{Component, Header, Part};
use crate::rig::controllers::{CircuitComponent, ComponentKind};
use crate::rig::{Pin, Pull};
use crate::units::{Milliamps, Ohms, Volts, counted};
use crate::words::Word;

/// Its kind, in the order of the list.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord)]
#[allow(missing_docs, reason = "the words say it")]
pub enum Kind {
    Controller,
    Supply,
    Display,
    Light,
    Button,
    Chip,
    Switch,
    Resistor,
    Capacitor,
    Diode,
    Crystal,
    Header,
    Converter,
}

impl Kind {
    /// The word for it.
    #[must_use]
    pub const fn name(self) -> &'static str {
        match self {
            Self::Controller => "controller",
            Self::Supply => "supply",
            Self::Display => "display",
            Self::Light => "light",
            Self::Button => "push button",
            Self::Chip => "chip",
            Self::Switch => "transistor",
            Self::Resistor => "resistor",
            Self::Capacitor => "capacitor",
            Self::Diode => "diode",
            Self::Crystal => "crystal",
            Self::Header => "pin header",
            Self::Converter => "level converter",
        }
    }
}

/// A line of the list.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Item {
    /// Its kind.
    pub kind: Kind,
    /// How many.
    pub count: usize,
    /// Which: a value, a part number, a description.
    pub what: String,
    /// Its rating, or its purpose.
    pub note: String,
    /// The faces that it is for; none where it is for all.
    pub faces: Vec<String>,
}

/// The list, by kind, then in the order of the faces.
#[must_use]
pub fn list(rig: &Rig) -> Vec<Item> {
    let mut list = List::default();
    list.controller(rig);
    for mount in &rig.faces {
        list.display(mount);
        list.chips(mount);
        list.circuit(rig, mount);
    }
    list.buses(rig);
    list.pin_buttons(rig);
    list.0.sort_by_key(|item| item.kind);
    list.0
}

/// A standard rating of a resistor, in watts.
#[derive(Debug, Clone, Copy, PartialEq)]
struct Rating(f64);

impl Rating {
    /// The least that is twice what it turns into heat: it stays cool enough to touch.
    fn of(current: Milliamps, ohms: Ohms) -> Self {
        const RATINGS: [f64; 5] = [0.125, 0.25, 0.5, 1.0, 2.0];
        let heat = (current.0 / 1e3).powi(2) * ohms.0;
        Self(RATINGS.into_iter().find(|watts| *watts >= 2.0 * heat).unwrap_or((2.0 * heat).ceil()))
    }
}

impl fmt::Display for Rating {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self.0 {
            0.125 => f.write_str("1/8 W"),
            0.25 => f.write_str("1/4 W"),
            0.5 => f.write_str("1/2 W"),
            watts => write!(f, "{watts} W"),
        }
    }
}

#[derive(Default)]
struct List(Vec<Item>);

impl List {
    /// Adds a number of things; the count of an existing one grows.
    fn add(&mut self, kind: Kind, count: usize, what: impl Into<String>, note: &str, faces: &[&str]) {
        if count == 0 {
            return;
        }
        let what = what.into();
        let there =
            self.0.iter_mut().find(|item| (item.kind, &item.what, &*item.note) == (kind, &what, note));
        let item = match there {
            Some(item) => item,
            None => {
                self.0.push(Item { kind, count: 0, what, note: note.to_owned(), faces: Vec::new() });
                let Some(item) = self.0.last_mut() else { return };
                item
            }
        };
        item.count += count;
        for face in faces {
            if !item.faces.iter().any(|known| known == face) {
                item.faces.push((*face).to_owned());
            }
        }
    }

    fn controller(&mut self, rig: &Rig) {
        let what = rig.controller.part.as_deref().unwrap_or("of your choice");
        self.add(Kind::Controller, 1, what, "", &[]);
        let components = rig.controller.facts.iter().flat_map(|facts| facts.own_circuit().1);
        for CircuitComponent { count, kind, what, note } in components {
            let kind = match kind {
                ComponentKind::Resistor => Kind::Resistor,
                ComponentKind::Capacitor => Kind::Capacitor,
                ComponentKind::Crystal => Kind::Crystal,
                ComponentKind::Header => Kind::Header,
            };
            self.add(kind, count, what, &note, &[]);
        }
        let totals = budget::totals(rig);
        let taken = totals.iter().find(|load| load.carrier == Carrier::Supply).map(|load| load.current);
        let note = taken.map_or_else(String::new, |taken| {
            format!("the faces take up to {taken}, and the controller some more")
        });
        let amps = rig.controller.supply_current.map(|given| given.0 / 1e3);
        let amps = amps.or(taken.map(budget::supply_for));
        let what = match amps {
            Some(amps) => format!("{}, {amps} A", rig.controller.supply_volts),
            None => rig.controller.supply_volts.to_string(),
        };
        self.add(Kind::Supply, 1, what, &note, &[]);
    }

    /// The display itself, its lamps and buttons; of a module, the module.
    fn display(&mut self, mount: &Mount) {
        let face = &mount.face;
        let name = [face.name.as_str()];
        if let Some(header) = mount.header() {
            return self.modules(mount, header);
        }
        let colour = colour_of(face);
        let is_bare = mount.drive.display().circuit().is_some();
        let joined = format!("common {}", face.common.name());
        let package = mount.package.as_ref().map(|package| package.name.as_str());
        let what = match face.dots() {
            None => format!("{}, {colour}, {joined}", face.summary()),
            Some(_) if is_bare => format!("{}, {colour}, {joined} in a row", face.summary()),
            Some(grid) => {
                let (width, height) = mount.drive.display().module().unwrap_or((8, 8));
                let blocks = grid.width.div_ceil(width) * grid.height.div_ceil(height);
                let note = match grid.channels {
                    Channels::One | Channels::Two => MODULE,
                    Channels::Three => "with a cable to its input, and a cable for its supply",
                };
                self.add(Kind::Display, blocks, format!("{width}x{height} dots, {colour}"), note, &name);
                return self.extras(mount);
            }
        };
        let note = match package {
            Some(package) => format!("pins as {package}"),
            None if is_bare => String::new(),
            None => MODULE.to_owned(),
        };
        self.add(Kind::Display, 1, what, &note, &name);
        self.extras(mount);
    }

    /// The modules of a face, each with its chip.
    fn modules(&mut self, mount: &Mount, header: Header) {
        let (face, chips) = (&mount.face, mount.drive.chips());
        let of_each = match face.layout {
            Layout::Dots(grid) => {
                let (width, height) = mount.drive.display().module().unwrap_or((grid.width, grid.height));
                Layout::Dots(Grid { width, height, channels: Channels::One })
            }
            Layout::Digits { style, count } => {
                Layout::Digits { style, count: count.div_ceil(chips.len().max(1)) }
            }
        };
        let mut what = vec![of_each.summary(), colour_of(face).to_owned()];
        let (lamps, buttons) = lamps_and_buttons(mount);
        for (count, one, several) in [(lamps, "lamp", "lamps"), (buttons, "push button", "push buttons")] {
            what.extend((count > 0).then(|| counted(count, one, several)));
        }
        let part = chips.first().map_or("", |chip| chip.part);
        let what = format!("module with {part}: {}", what.join(", "));
        let pins: Vec<_> = [header.power.0, header.power.1]
            .into_iter()
            .chain(header.lines.iter().map(|(_, pin)| *pin))
            .collect();
        self.add(Kind::Display, chips.len(), what, &format!("with pins {}", pins.join(" ")), &[&face.name]);
    }

    fn extras(&mut self, mount: &Mount) {
        let name = [mount.face.name.as_str()];
        let (lamps, buttons) = lamps_and_buttons(mount);
        let lamp = format!("single, {}", mount.face.light.colour.word());
        self.add(Kind::Light, lamps, lamp, "", &name);
        self.add(Kind::Button, buttons, CONTACT, "", &name);
    }

    /// The push buttons on pins of the controller, and the resistors that keep those pins at a level.
    fn pin_buttons(&mut self, rig: &Rig) {
        let of_rig = rig.pin_buttons();
        self.add(Kind::Button, of_rig.len(), CONTACT, "on pins of the controller", &[]);
        let pulls = of_rig.iter().filter(|button| button.pull == Pull::Resistor).count();
        self.add(Kind::Resistor, pulls, buttons::PULL.to_string(), "1/8 W, at push buttons", &[]);
    }

    /// The chips of a face, and what stands beside each.
    fn chips(&mut self, mount: &Mount) {
        let name = [mount.face.name.as_str()];
        if mount.is_module {
            // It is listed as a whole.
            return;
        }
        // The display itself has no part number of a chip.
        for chip in mount.drive.chips().into_iter().filter(|chip| !chip.part.is_empty()) {
            self.add(Kind::Chip, 1, chip.part, "", &name);
            for component in &chip.beside {
                let (kind, note) = match component {
                    Component::Capacitor(_) => (Kind::Capacitor, "close to the supply pins of each chip"),
                    Component::Resistor(_) => (Kind::Resistor, "1/8 W"),
                    Component::Diode => (Kind::Diode, "for the address"),
                };
                self.add(kind, 1, component.to_string(), note, &name);
            }
        }
    }

    /// The resistors and switches of a bare face.
    fn circuit(&mut self, rig: &Rig, mount: &Mount) {
        let display = mount.drive.display();
        let Some(circuit) = display.circuit() else { return };
        let name = [mount.face.name.as_str()];
        let flow = budget::of(mount, &rig.controller).and_then(|budget| budget.flow);
        let peak = flow.as_ref().map_or(Milliamps(0.0), |flow| flow.peak);
        for connection in &wires::list(rig, mount).display {
            for through in &connection.through {
                match through {
                    Through::Resistor(ohms) => {
                        let rating = Rating::of(peak, *ohms).to_string();
                        self.add(Kind::Resistor, 1, ohms.to_string(), &rating, &name);
                    }
                    Through::Base(ohms) => {
                        let high = display.ratings().and_then(|ratings| ratings.high);
                        let across = high.unwrap_or(rig.controller.logic_volts) - Volts(0.7);
                        let rating = Rating::of(ohms.passes(across), *ohms).to_string();
                        self.add(Kind::Resistor, 1, ohms.to_string(), &rating, &name);
                    }
                    Through::Switch(Switching { kind, .. }) => {
                        let joined = flow.as_ref().map_or(peak, |flow| flow.joined);
                        let carries = if connection.is_select { joined } else { peak };
                        let note = switch_note(*kind, carries);
                        self.add(Kind::Switch, 1, kind.name(), &note, &name);
                    }
                }
            }
        }
        let turned = [&circuit.line_switch, &circuit.select_switch]
            .into_iter()
            .zip([circuit.outputs.len() - circuit.selects.len(), circuit.selects.len()]);
        for (switch, count) in turned.filter(|(switch, _)| switch.is_turned_round()) {
            let note = format!("turns the level round before each {}", switch.kind.name());
            self.add(Kind::Switch, count, "npn", &note, &name);
        }
    }

    /// The parts on the buses: pull-ups, and level converters.
    fn buses(&mut self, rig: &Rig) {
        for (bus, _) in rig.buses.iter().enumerate() {
            let mut on_bus = rig.faces.iter().filter(|mount| mount.device.bus == bus);
            let ohms = on_bus.find_map(|mount| Some((mount, pull_ups::of(rig, mount)?)));
            if let Some((mount, ohms)) = ohms {
                // SDA and SCL.
                self.add(Kind::Resistor, 2, ohms.to_string(), "1/8 W", &[&mount.face.name]);
            }
        }
        let mut converters: Vec<(Converter, Vec<&Pin>, Vec<&str>)> = Vec::new();
        for mount in &rig.faces {
            let Some(converter) = Converter::of(rig, mount) else { continue };
            let pins = mount.lines.iter().map(|line| &line.known);
            match converters.iter_mut().find(|(known, ..)| known.volts == converter.volts) {
                Some((known, taken, faces)) => {
                    known.is_two_way |= converter.is_two_way;
                    let more: Vec<_> = pins.filter(|pin| !taken.contains(pin)).collect();
                    taken.extend(more);
                    faces.push(&mount.face.name);
                }
                None => converters.push((converter, pins.collect(), vec![&mount.face.name])),
            }
        }
        for (converter, pins, faces) in converters {
            let note = format!("for {}", counted(pins.len(), "line", "lines"));
            self.add(Kind::Converter, 1, converter.levels(), &note, &faces);
        }
    }
}

/// The colour of a face's lights, in words.
fn colour_of(face: &Face) -> &'static str {
    match face.dots().map(|grid| grid.channels) {
        Some(Channels::Two) => "red and green",
        Some(Channels::Three) => "in all colours",
        Some(Channels::One) | None => face.light.colour.word(),
    }
}

/// The number of lamps and of push buttons beside a face.
fn lamps_and_buttons(mount: &Mount) -> (usize, usize) {
    let lamps = mount.face.extras.iter().filter(|extra| extra.kind == ExtraKind::Lamp).count();
    (lamps, mount.drive.display().button_names().len())
}

/// The contact of a push button.
const CONTACT: &str = "makes while it is pressed";

/// Displays and their driver parts are usually sold as one.
const MODULE: &str = "often on a module with its chip and what that needs";

fn switch_note(kind: SwitchKind, carries: Milliamps) -> String {
    let level = match kind {
        SwitchKind::Nmos | SwitchKind::Pmos => ", logic level",
        _ => "",
    };
    format!("carries {carries}{level}")
}
