//! The behaviour of parts on one bus: which of them is addressed, and the levels of their outputs.

use super::{Facts, Plan};
use crate::bus::{Edge, i2c};
use crate::meaning::Meaning;
use crate::model::{Levels, Model, Notebook};
use crate::units::{Hertz, Nanos, counted};

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
    /// Returns true if an output without a level is pulled up weakly.
    fn pulls_up(&self) -> bool {
        false
    }
    /// How long after a falling clock its answer stands on the line, at most, on a bus of this clock.
    fn answer_delay(&self, clock: Hertz) -> Nanos;
}

/// The meaning of a transfer to parts at these addresses, whose outputs follow one another.
pub fn meaning(
    facts: &Facts,
    address: u8,
    bytes: &[u8],
    addresses: impl IntoIterator<Item = u8>,
    places: &[usize],
) -> Meaning {
    let Some(part) = addresses.into_iter().position(|known| known == address) else {
        return Meaning::Words(format!("to {address:#04x}: nobody answers"));
    };
    let sets = (facts.sets)(bytes);
    if sets.is_empty() {
        return Meaning::Words(format!("to {address:#04x}: {}", (facts.explain)(bytes)));
    }
    let first = part * facts.outputs.len();
    let level = |place: &usize| {
        sets.iter().rev().find(|(output, _)| first + output == *place).map(|(_, level)| *level)
    };
    Meaning::Levels(places.iter().map(level).collect())
}

/// Who listens to the transfer that is on the bus.
enum Addressed {
    /// Not yet known: the address comes next.
    Anybody,
    Part(usize),
    Nobody,
}

/// The parts on the bus.
pub struct Parts {
    listener: i2c::Listener,
    target: i2c::Target,
    parts: Vec<(u8, Box<dyn PartModel>)>,
    clock: Hertz,
    addressed: Addressed,
    /// The part number, and the bytes of this transfer after the address, for its words.
    facts: &'static Facts,
    transfer: Vec<u8>,
    notebook: Notebook,
    /// The levels of all outputs of all parts, and of those that are used.
    all: Vec<Option<bool>>,
    levels: Levels,
    places: Vec<usize>,
    width: usize,
}

impl Parts {
    pub fn new(plan: &Plan) -> Self {
        let width = plan.facts.outputs.len();
        let mut parts = Self {
            listener: i2c::Listener::default(),
            target: i2c::Target::default(),
            parts: plan.addresses.iter().map(|address| (*address, (plan.facts.model)())).collect(),
            clock: plan.clock,
            addressed: Addressed::Nobody,
            facts: plan.facts,
            transfer: Vec::new(),
            notebook: Notebook::default(),
            all: vec![None; width * plan.addresses.len()],
            levels: Levels::undriven(plan.places.len()),
            places: plan.places.clone(),
            width,
        };
        parts.refresh();
        parts
    }

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
                if part.is_none() {
                    self.notebook.other(value >> 1);
                }
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
                    let (address, parts) = (self.parts[*part].0, &self.parts);
                    let (facts, transfer, places) = (self.facts, &self.transfer, &self.places);
                    let addresses = || parts.iter().map(|(address, _)| *address);
                    self.notebook.said(at, || meaning(facts, address, transfer, addresses(), places));
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
        for (output, place) in self.places.iter().enumerate() {
            self.levels.set(output, self.all.get(*place).copied().flatten());
        }
    }
}

impl Model for Parts {
    fn wake(&mut self, levels: &[Option<bool>]) {
        self.listener.wake(levels);
        self.target.wake(levels);
        self.refresh();
    }

    fn changes(&self) -> u64 {
        self.levels.changes()
    }

    fn answer(&self) -> Option<bool> {
        self.target.answer()
    }

    fn answer_delay(&self) -> Nanos {
        let delays = self.parts.iter().map(|(_, part)| part.answer_delay(self.clock));
        delays.max().unwrap_or_default()
    }

    fn take(&mut self, edges: &[Edge]) {
        for edge in edges {
            let parts = &self.parts;
            // Nothing is ever read from them: the pins are outputs.
            self.target.take(edge, |address| parts.iter().any(|(known, _)| *known == address), || 0xFF);
            let bits = self.listener.bits();
            if let Some(event) = self.listener.take(edge) {
                // The rise before a stop is counted as a bit.
                if event == i2c::Event::Stop && bits > 1 {
                    self.notebook.odd(edge.at, || {
                        format!("a byte cut short after {}", counted(usize::from(bits - 1), "bit", "bits"))
                    });
                }
                self.hear(event, edge.at);
            }
        }
    }

    fn pending(&self) -> Option<String> {
        let is_amid = self.listener.bits() > 0 || !matches!(self.addressed, Addressed::Nobody);
        is_amid.then(|| "it ends in the middle of a transfer, before its stop".to_owned())
    }

    fn notebook(&mut self) -> Option<&mut Notebook> {
        Some(&mut self.notebook)
    }

    fn levels(&self) -> &[Option<bool>] {
        self.levels.all()
    }

    fn pulls_up(&self, _: usize) -> bool {
        self.parts.iter().all(|(_, part)| part.pulls_up())
    }
}
