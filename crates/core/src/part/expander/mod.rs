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

mod driver;
mod mcp23017;
mod model;
mod pcf8574;

use std::ops::RangeInclusive;

use crate::rig::Spanned;
use crate::schema::{JsonSchema, Schema, SchemaGenerator};
use serde::de::IgnoredAny;

use super::trouble::PartTrouble;
use super::{
    Chip, ChipPin, DECOUPLING, Drive, Method, Needs, OutputPlan, Outputs, Part, Planned, Wire, WireEnd,
    check_common, check_high, check_supply,
};
use crate::bare::circuit::SwitchKind;
use crate::bare::places::OutputNames;
use crate::bare::ratings::{Ratings, by_part};
use crate::bare::{CircuitKeys, plan};
use crate::bus::{Protocol, Role, Sink, Transfer, i2c};
use crate::driver::Writer;
use crate::face::Face;
use crate::glyph::Common;
use crate::meaning::Meaning;
use crate::model::Model;
use crate::rig::{Controller, DriveTable, Line, Pin, Problem};
use crate::units::{Hertz, Milliamps, Volts};

pub use model::PartModel;

/// The method `expander`.
pub struct Expander;

/// The keys of a rig.
pub const METHODS: &[&dyn Method] = &[&Expander];

/// A port expander: its figures, and what it does with them. One is a folder beside this, and a line in [`PARTS`].
pub struct Facts {
    /// Its part number.
    pub name: &'static str,
    /// Its outputs by the data sheet's names, 8 or 16 of them.
    pub outputs: &'static [&'static str],
    /// The number of each output's pin.
    pub numbers: &'static [u8],
    /// The numbers of SCL and SDA.
    pub bus: (u8, u8),
    /// The 7-bit addresses that its straps can make, and the same in words.
    pub addresses: (&'static [RangeInclusive<u8>], &'static str),
    /// The lowest and the highest supply.
    pub supply: (Volts, Volts),
    /// The share of the supply that is surely a high level on SCL and SDA.
    pub input_high: f64,
    /// The fastest clock.
    pub max_clock: Hertz,
    /// The side of the lights that it can drive; `None` for both.
    pub common: Option<Common>,
    /// The most that an output takes.
    pub sink: Milliamps,
    /// The most that an output gives.
    pub source: Milliamps,
    /// The most that all together take and give: through the part's ground, and from its supply.
    pub total: (Milliamps, Milliamps),
    /// The pins that set its address, the lowest bit first.
    pub straps: &'static str,
    /// Its supply pin, and what there is to say of it.
    pub feed: (&'static str, &'static str),
    /// Its other pins, with what they want and why.
    pub wires: &'static [(&'static str, WireEnd, &'static str)],
    /// The transfers that bring the outputs from power-up to a value with nothing between.
    pub set_up: fn(Role, u8, u16, &mut dyn Sink),
    /// The transfer that brings the outputs to a value.
    pub write: fn(Role, u8, u16, &mut dyn Sink),
    /// The receiving end of one part.
    pub model: fn() -> Box<dyn PartModel>,
    /// The meaning of a transfer after its address byte, in words.
    pub explain: fn(&[u8]) -> String,
    /// The outputs that a transfer sets, told from what follows its address byte: each by its place, and its level.
    pub sets: fn(&[u8]) -> Vec<(usize, bool)>,
}

impl PartialEq for Facts {
    fn eq(&self, other: &Self) -> bool {
        self.name == other.name
    }
}

impl std::fmt::Debug for Facts {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        f.write_str(self.name)
    }
}

/// The known expanders.
pub const PARTS: &[&Facts] = &[&pcf8574::FACTS, &mcp23017::FACTS];

#[derive(serde::Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
struct Keys {
    #[serde(rename = "method")]
    #[cfg_attr(feature = "schema", schemars(skip))]
    _method: IgnoredAny,
    /// The part number: `pcf8574` or `mcp23017`.
    part: Spanned<String>,
    /// The controller pins of SDA and SCL.
    pins: Pins,
    /// The 7-bit address of each part: `[0x20, 0x21]`.
    addresses: Spanned<Vec<Spanned<i64>>>,
    /// The clock rate.
    clock_hz: Option<Spanned<u32>>,
    /// The high level at the part, after any level converter.
    bus_volts: Option<Spanned<f64>>,
}

#[derive(serde::Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
struct Pins {
    /// SDA.
    data: Spanned<Pin>,
    /// SCL.
    clock: Spanned<Pin>,
}

impl Method for Expander {
    fn name(&self) -> &'static str {
        "expander"
    }

    fn common(&self) -> Option<Common> {
        None
    }

    fn plan(&self, face: &Face, controller: &Controller, table: &DriveTable<'_>) -> Option<Planned> {
        let (keys, circuit): (Keys, CircuitKeys) = table.read_both()?;
        let Some(facts) = PARTS.iter().copied().find(|part| part.name == keys.part.get_ref()) else {
            let names: Vec<_> = PARTS.iter().map(|part| part.name).collect();
            table.error(keys.part.span(), Problem::unknown_name("expander", keys.part.get_ref(), &names));
            return None;
        };
        let Pins { data, clock: clock_pin } = &keys.pins;
        let lines = vec![table.shared_line(clock_pin, "clock"), table.shared_line(data, "data")];
        let addresses = addresses(facts, &keys.addresses, &lines, table)?;
        let level = check_high(controller, facts.name, facts.input_high, keys.bus_volts, table);
        check_supply(controller, facts.name, facts.supply, table);
        let clock = table.or_assume("clock_hz", keys.clock_hz, 100_000);
        let clock_sound = table.check_range(&clock, 1, facts.max_clock.0);
        let outputs = OutputNames { prefix: "part", what: ("part", "parts"), names: facts.outputs };
        // A digit takes whole bytes, so that on sixteen outputs there is room for two of eight segments.
        let bits = face.style().segment_count().next_multiple_of(8);
        let numbered = |_: &str, digit: usize, bit: usize| outputs.pin(digit * bits + bit);
        let planned = plan(face, &circuit, Some(false), &numbered, table)?;
        // Through switches either side can be driven.
        if let Some(wants) = facts.common.filter(|_| planned.circuit.line_switch.kind == SwitchKind::None) {
            check_common(face, facts.name, wants, table);
        }
        let places = outputs.places(&planned, addresses.len(), table)?;
        let clock = Hertz(*clock.get_ref());
        let expanders = Plan { facts, addresses, places, clock, supply: controller.supply_volts };
        let protocol = Protocol::I2c(i2c::I2c { clock });
        let (drive, wiring) = Drive::bare(planned, OutputPlan::Expander(expanders));
        clock_sound.then_some(Planned { protocol, lines, wiring, level, drive })
    }

    fn keys(&self, generator: &mut SchemaGenerator) -> Vec<Schema> {
        vec![Keys::json_schema(generator), CircuitKeys::json_schema(generator)]
    }

    fn needs(&self, face: &Face) -> Option<Needs> {
        let facts = &mcp23017::FACTS;
        // Static: dots at crossings have no output of their own. A digit takes whole bytes; so does what is beside them.
        let bits = face.style().segment_count().next_multiple_of(8) * face.digits() + face.extras.len();
        let parts = bits.div_ceil(facts.outputs.len());
        let addresses: usize = facts.addresses.0.iter().map(|range| range.clone().count()).sum();
        let fits = face.dots().is_none() && parts <= addresses;
        fits.then(|| Needs { pins: 2, parts: format!("{parts} {}", facts.name) })
    }
}

fn addresses(
    facts: &'static Facts,
    written: &Spanned<Vec<Spanned<i64>>>,
    lines: &[Line],
    table: &DriveTable<'_>,
) -> Option<Vec<u8>> {
    let (known, allowed) = facts.addresses;
    let mut addresses = Vec::new();
    for address in written.get_ref() {
        let found = *address.get_ref();
        match u8::try_from(found).ok().filter(|found| known.iter().any(|range| range.contains(found))) {
            None => {
                table.error(address.span(), PartTrouble::Address { part: facts.name, found, allowed });
            }
            Some(found) => {
                let claimed = Spanned::new(address.span(), found);
                table.claim_address(&claimed, &lines[i2c::CLOCK].known, &lines[i2c::DATA].known);
                addresses.push(found);
            }
        }
    }
    if written.get_ref().is_empty() {
        let problem =
            Problem::WrongCount { found: "no addresses".into(), needed: "one for each part".into() };
        table.error(written.span(), problem);
    }
    (addresses.len() == written.get_ref().len() && !addresses.is_empty()).then_some(addresses)
}

/// Expanders on one bus, as a plan.
#[derive(Debug, Clone, PartialEq)]
pub struct Plan {
    /// Which part.
    pub facts: &'static Facts,
    /// The address of each part.
    pub addresses: Vec<u8>,
    /// By output: place among the outputs of all parts.
    pub places: Vec<usize>,
    /// The clock rate.
    pub clock: Hertz,
    /// The supply of the parts.
    pub supply: Volts,
}

impl Part for Plan {
    fn addresses(&self) -> &[u8] {
        &self.addresses
    }

    fn summary(&self) -> String {
        let addresses: Vec<_> = self.addresses.iter().map(|address| format!("{address:#04x}")).collect();
        format!("{} at {}, clock {}", self.parts(), addresses.join(" "), self.clock)
    }

    fn parts(&self) -> String {
        format!("{} {}", self.addresses.len(), self.facts.name)
    }

    fn explain(&self, transfer: &Transfer<'_>) -> Meaning {
        let Transfer::I2c { address, bytes, .. } = transfer else {
            return Meaning::Words("nothing".to_owned());
        };
        model::meaning(self.facts, *address, bytes, self.addresses.iter().copied(), &self.places)
    }

    fn chips(&self) -> Vec<Chip> {
        let (clock, data) = self.facts.bus;
        let lines = vec![(i2c::CLOCK, ChipPin("SCL", Some(clock))), (i2c::DATA, ChipPin("SDA", Some(data)))];
        let name = |address: &u8| format!("{} at {address:#04x}", self.facts.name);
        let chip = |address: &u8| Chip {
            part: self.facts.name,
            name: name(address),
            beside: DECOUPLING.to_vec(),
            lines: lines.clone(),
        };
        self.addresses.iter().map(chip).collect()
    }

    fn wires(&self) -> Vec<Wire> {
        let of_part = |address: &u8| {
            let (chip, straps) =
                (format!("{} at {address:#04x}", self.facts.name), straps(*address, "supply", "ground"));
            let address = Wire::of(&chip, self.facts.straps, WireEnd::Other(straps), "the address");
            let (pin, note) = self.facts.feed;
            let feed = Wire::fed(&chip, pin, note, DECOUPLING);
            let others =
                self.facts.wires.iter().map(move |(pin, to, note)| Wire::of(&chip, pin, to.clone(), note));
            std::iter::once(feed).chain(others).chain([address])
        };
        self.addresses.iter().flat_map(of_part).collect()
    }
}

/// Returns the connections of the pins A0, A1 and A2: `one` for a 1 and `zero` for a 0 in the lowest bits of the address.
pub(super) fn straps(address: u8, one: &str, zero: &str) -> String {
    [0, 1, 2].map(|bit| if address >> bit & 1 == 1 { one } else { zero }).join(", ")
}

impl Outputs for Plan {
    fn pin_of(&self, output: usize) -> Option<(usize, ChipPin)> {
        let of_facts = |place: &usize| ChipPin::of_output(self.facts.outputs, self.facts.numbers, *place);
        self.places.get(output).map(of_facts)
    }

    fn writer(&self, unused: bool) -> Box<dyn Writer> {
        Box::new(driver::Sender::new(self, unused))
    }

    fn model(&self) -> Box<dyn Model> {
        Box::new(model::Parts::new(self))
    }

    fn ratings(&self) -> Ratings {
        let Facts { name, sink, source, total, .. } = *self.facts;
        let names = self.addresses.iter().map(|address| format!("{name} at {address:#04x}"));
        Ratings {
            part: name.to_owned(),
            high: Some(self.supply),
            output: Some(sink),
            output_absolute: Some(sink),
            output_sink_absolute: None,
            output_source: Some(source).filter(|source| *source < sink),
            groups: by_part(names, &self.places, self.facts.outputs.len(), total.0, total.1),
        }
    }

    fn bit_of(&self, output: usize) -> Option<(usize, usize)> {
        let place = *self.places.get(output)?;
        Some((place / 8, place % 8))
    }
}
