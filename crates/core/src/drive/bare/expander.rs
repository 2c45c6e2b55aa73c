//! `expander`: I2C port expanders, static.
//!
//! ```toml
//! [face.berth.drive]
//! method = "expander"
//! part = "mcp23017"
//! pins = { data = "GP4", clock = "GP5" }
//! addresses = [0x20, 0x21]
//! segments = "dp g f e d c b a"                   # on each part's outputs, highest first
//! clock_hz = 100_000
//! ```
//!
//! Digit 0, at the left, has the lowest outputs of the first address; a digit takes eight outputs, or sixteen.
//! Outputs can be named singly: `segments = [{ a = "part0.GPA0", ... }, ...]`.

use std::ops::RangeInclusive;

use serde::de::IgnoredAny;
use serde_spanned::Spanned;

use super::places::{OutputNames, values};
use super::port::{Port, Ratings, Receiver, Writer};
use super::{CircuitKeys, drive, plan};
use crate::bus::{Bus, Edge, Ops, Role, i2c};
use crate::drive::{Drive, Line, Method, Needs, Note, Notebook, Wire};
use crate::face::Face;
use crate::glyph::Common;
use crate::rig::{Controller, DriveTable, Pin, Problem};
use crate::units::{Hertz, Milliamps, Nanos, Volts};

/// The method `expander`.
pub struct Expander;

/// A port expander: an implementer is a folder under `chip/`, and a line in [`PARTS`].
pub trait Part: Sync {
    /// Its part number.
    fn name(&self) -> &'static str;
    /// Its outputs by the data sheet's names, 8 or 16 of them.
    fn outputs(&self) -> &'static [&'static str];
    /// The 7-bit addresses that its straps can make, and the same in words.
    fn addresses(&self) -> (&'static [RangeInclusive<u8>], &'static str);
    /// The fastest clock.
    fn max_clock(&self) -> Hertz;
    /// The side of the lights that it can drive; `None` for both.
    fn common(&self) -> Option<Common>;
    /// The most that an output takes, that it gives, and that all together do.
    fn ratings(&self) -> (Milliamps, Milliamps, Milliamps);
    /// Its supply and control pins, with what they want and why.
    fn wires(&self) -> &'static [(&'static str, &'static str, &'static str)];
    /// The transfers that bring the outputs from power-up to this value with nothing between.
    fn power_up(&self, address: u8, value: u16, ops: &mut Ops);
    /// The transfer that brings the outputs to this value.
    fn write(&self, role: Role, address: u8, value: u16, ops: &mut Ops);
    /// The receiving end of one part.
    fn model(&self) -> Box<dyn PartModel>;
    /// What a transfer says after its address byte, in words.
    fn explain(&self, data: &[u8]) -> String;
}

/// The receiving end of one part, after its address was heard.
pub trait PartModel {
    /// A transfer to this part begins.
    fn begin(&mut self);
    /// A byte of it.
    fn byte(&mut self, value: u8);
    /// The transfer ends.
    fn end(&mut self) {}
    /// The level of each output; `None` where it drives nothing, or too weakly to light anything.
    fn levels(&self, levels: &mut [Option<bool>]);
}

/// The known expanders.
pub const PARTS: &[&dyn Part] = &[&crate::chip::pcf8574::Pcf8574, &crate::chip::mcp23017::Mcp23017];

#[derive(serde::Deserialize)]
struct Keys {
    #[serde(rename = "method")]
    _method: IgnoredAny,
    part: Spanned<String>,
    pins: Pins,
    addresses: Spanned<Vec<Spanned<i64>>>,
    clock_hz: Option<Spanned<u32>>,
}

#[derive(serde::Deserialize)]
#[serde(deny_unknown_fields)]
struct Pins {
    data: Spanned<Pin>,
    clock: Spanned<Pin>,
}

impl Method for Expander {
    fn name(&self) -> &'static str {
        "expander"
    }

    fn common(&self) -> Option<Common> {
        None
    }

    fn plan(&self, face: &Face, controller: &Controller, table: &DriveTable<'_>) -> Option<Drive> {
        let (keys, circuit): (Keys, CircuitKeys) = table.read_both()?;
        let Some(part) = PARTS.iter().copied().find(|part| part.name() == keys.part.get_ref()) else {
            let names: Vec<_> = PARTS.iter().map(|part| part.name()).collect();
            table.error(keys.part.span(), Problem::unknown_name("expander", keys.part.get_ref(), &names));
            return None;
        };
        if let Some(wants) = part.common().filter(|wants| *wants != face.common) {
            let problem = Problem::WrongCommon { method: part.name(), wants };
            table.error(crate::rig::Place::Face("common"), problem);
        }
        let addresses = addresses(part, &keys.addresses, table)?;
        let clock = table.or_assume("clock_hz", keys.clock_hz, 100_000);
        let clock_sound = table.check_range(&clock, 1, part.max_clock().0);
        let outputs = OutputNames { prefix: "part", names: part.outputs() };
        // A digit takes whole bytes, so that on sixteen outputs there is room for two of eight segments.
        let bits = face.style.segment_count().next_multiple_of(8);
        let numbered = |_: &str, digit: usize, bit: usize| outputs.pin(digit * bits + bit);
        let planned = plan(face, &circuit, Some(false), &numbered, table)?;
        let places = outputs.places(&planned, addresses.len(), table)?;
        let Pins { data, clock: clock_pin } = keys.pins;
        let mut lines = Vec::new();
        for (role, pin) in [("clock", clock_pin), ("data", data)] {
            table.claim_shared(&pin, role);
            lines.push(Line { role: role.to_owned(), pin: pin.into_inner() });
        }
        let port = Expanders {
            part,
            addresses,
            places,
            clock: Hertz(*clock.get_ref()),
            supply: controller.supply_volts,
        };
        clock_sound.then(|| drive(planned, lines, Box::new(port)))
    }

    fn needs(&self, face: &Face) -> Option<Needs> {
        // Static: dots at crossings have no output of their own.
        let parts = face.element_count().div_ceil(16);
        (face.dots.width == 0).then(|| Needs { pins: 2, parts: format!("{parts} mcp23017") })
    }
}

fn addresses(
    part: &dyn Part,
    written: &Spanned<Vec<Spanned<i64>>>,
    table: &DriveTable<'_>,
) -> Option<Vec<u8>> {
    let (known, allowed) = part.addresses();
    let mut addresses = Vec::new();
    for address in written.get_ref() {
        let found = *address.get_ref();
        match u8::try_from(found).ok().filter(|found| known.iter().any(|range| range.contains(found))) {
            None => table.error(address.span(), Problem::Address { part: part.name(), found, allowed }),
            Some(found) if addresses.contains(&found) => {
                table.error(address.span(), Problem::AddressTwice { address: found });
            }
            Some(found) => addresses.push(found),
        }
    }
    if written.get_ref().is_empty() {
        let problem =
            Problem::WrongCount { found: "no addresses".into(), needed: "one for each part".into() };
        table.error(written.span(), problem);
    }
    (addresses.len() == written.get_ref().len() && !addresses.is_empty()).then_some(addresses)
}

/// Expanders on one bus.
struct Expanders {
    part: &'static dyn Part,
    addresses: Vec<u8>,
    /// By output: place among the outputs of all parts.
    places: Vec<usize>,
    clock: Hertz,
    supply: Volts,
}

impl Port for Expanders {
    fn summary(&self) -> String {
        let addresses: Vec<_> = self.addresses.iter().map(|address| format!("{address:02X}")).collect();
        format!(
            "{} {} at {} hex, clock {}",
            addresses.len(),
            self.part.name(),
            addresses.join(" "),
            self.clock
        )
    }

    fn bus(&self) -> Box<dyn Bus> {
        Box::new(i2c::I2c::new(self.clock, self.addresses.clone()))
    }

    fn writer(&self) -> Box<dyn Writer> {
        Box::new(Sender {
            part: self.part,
            addresses: self.addresses.clone(),
            places: self.places.clone(),
            held: vec![None; self.addresses.len()],
            wanted: vec![0; self.addresses.len()],
        })
    }

    fn receiver(&self) -> Box<dyn Receiver> {
        let width = self.part.outputs().len();
        Box::new(Parts {
            listener: i2c::Listener::default(),
            parts: self.addresses.iter().map(|address| (*address, self.part.model())).collect(),
            addressed: Addressed::Nobody,
            part: self.part,
            transfer: Vec::new(),
            notebook: Notebook::default(),
            all: vec![None; width * self.addresses.len()],
            levels: vec![None; self.places.len()],
            places: self.places.clone(),
            width,
        })
    }

    fn explain(&self, bytes: &[u8], _: &mut [Option<bool>]) -> Option<String> {
        Some(match bytes {
            [] => "nothing".to_owned(),
            [address, data @ ..] => {
                let known = self.addresses.contains(&(address >> 1));
                let said = if known { self.part.explain(data) } else { "nobody answers".to_owned() };
                format!("to {:02X}: {said}", address >> 1)
            }
        })
    }

    fn ratings(&self) -> Ratings {
        let (sink, source, total) = self.part.ratings();
        let width = self.part.outputs().len();
        let group = |(index, address): (usize, &u8)| {
            let outputs = self.places.iter().enumerate().filter(move |(_, place)| **place / width == index);
            (
                format!("{} at {address:02X}", self.part.name()),
                total,
                outputs.map(|(output, _)| output).collect(),
            )
        };
        Ratings {
            part: self.part.name().to_owned(),
            high: Some(self.supply),
            output: Some(sink),
            output_absolute: None,
            output_source: Some(source).filter(|source| *source < sink),
            groups: self.addresses.iter().enumerate().map(group).collect(),
        }
    }

    fn wires(&self) -> Vec<Wire> {
        let pull_up = |line: &str| Wire {
            from: format!("bus, {line}"),
            to: "supply through 4.7 kilohm".to_owned(),
            note: "open drain: without the pull-up nothing is ever high; many boards have it".to_owned(),
        };
        let of_part = |address: &u8| {
            let address = *address;
            self.part.wires().iter().map(move |(pin, to, note)| Wire {
                from: format!("{} at {address:02X}, {pin}", self.part.name()),
                to: (*to).to_owned(),
                note: (*note).to_owned(),
            })
        };
        self.addresses.iter().flat_map(of_part).chain(["SCL", "SDA"].map(pull_up)).collect()
    }
}

/// Writes the parts whose outputs change.
struct Sender {
    part: &'static dyn Part,
    addresses: Vec<u8>,
    places: Vec<usize>,
    /// What each part holds, and what it is to hold.
    held: Vec<Option<u16>>,
    wanted: Vec<u16>,
}

impl Writer for Sender {
    fn power_up(&mut self, levels: &[bool], ops: &mut Ops) {
        values(&self.places, levels, self.part.outputs().len(), &mut self.wanted);
        for (index, value) in self.wanted.iter().enumerate() {
            self.part.power_up(self.addresses[index], *value, ops);
            self.held[index] = Some(*value);
        }
    }

    fn write(&mut self, role: Role, levels: &[bool], ops: &mut Ops) {
        values(&self.places, levels, self.part.outputs().len(), &mut self.wanted);
        for (index, value) in self.wanted.iter().enumerate() {
            if self.held[index].replace(*value) != Some(*value) {
                self.part.write(role, self.addresses[index], *value, ops);
            }
        }
    }

    fn forget(&mut self) {
        self.held.fill(None);
    }
}

/// Who listens to the transfer that is on the bus.
enum Addressed {
    /// Not yet known: the address comes next.
    Anybody,
    Part(usize),
    Nobody,
}

/// The parts on the bus.
struct Parts {
    listener: i2c::Listener,
    parts: Vec<(u8, Box<dyn PartModel>)>,
    addressed: Addressed,
    /// The part number, and the bytes of this transfer after the address, for its words.
    part: &'static dyn Part,
    transfer: Vec<u8>,
    notebook: Notebook,
    /// The levels of all outputs of all parts, and of those that are used.
    all: Vec<Option<bool>>,
    levels: Vec<Option<bool>>,
    places: Vec<usize>,
    width: usize,
}

impl Parts {
    fn hear(&mut self, event: i2c::Event, at: Nanos) {
        if let i2c::Event::Byte { value, acknowledged: false } = event {
            self.notebook.odd(at, || format!("no acknowledge after {value:02X}"));
        }
        match (event, &self.addressed) {
            (i2c::Event::Start, _) => {
                self.addressed = Addressed::Anybody;
                self.transfer.clear();
            }
            (i2c::Event::Byte { value, .. }, Addressed::Anybody) => {
                let part = self.parts.iter().position(|(address, _)| value == address << 1);
                self.addressed = part.map_or(Addressed::Nobody, Addressed::Part);
                if let Some(part) = part {
                    self.parts[part].1.begin();
                }
            }
            (i2c::Event::Byte { value, .. }, Addressed::Part(part)) => {
                self.parts[*part].1.byte(value);
                // No transfer needs more for its words.
                if self.transfer.len() < 32 {
                    self.transfer.push(value);
                }
                self.refresh();
            }
            (i2c::Event::Byte { .. }, Addressed::Nobody) => {}
            (i2c::Event::Stop, addressed) => {
                if let Addressed::Part(part) = addressed {
                    self.parts[*part].1.end();
                    let (address, words) = (self.parts[*part].0, || self.part.explain(&self.transfer));
                    self.notebook.said(at, || format!("to {address:02X}: {}", words()));
                }
                self.addressed = Addressed::Nobody;
                self.refresh();
            }
        }
    }

    fn refresh(&mut self) {
        for ((_, part), levels) in self.parts.iter().zip(self.all.chunks_exact_mut(self.width)) {
            part.levels(levels);
        }
        for (level, place) in self.levels.iter_mut().zip(&self.places) {
            *level = self.all.get(*place).copied().flatten();
        }
    }
}

impl Receiver for Parts {
    fn take(&mut self, edges: &[Edge]) {
        for edge in edges {
            if let Some(event) = self.listener.take(edge) {
                self.hear(event, edge.at);
            }
        }
    }

    fn listen(&mut self) {
        self.notebook.open();
    }

    fn heard(&mut self) -> Vec<Note> {
        self.notebook.take()
    }

    fn levels(&self) -> &[Option<bool>] {
        &self.levels
    }
}
