//! Levels of outputs to writes of the parts that have them.

use super::{Facts, Plan};
use crate::bare::places::values;
use crate::bus::{Role, Sink};
use crate::driver::Writer;

/// Writes the parts whose outputs change.
pub struct Sender {
    facts: &'static Facts,
    addresses: Vec<u8>,
    places: Vec<usize>,
    unused: bool,
    /// The value that each part holds, and the one that it should hold.
    held: Vec<Option<u16>>,
    wanted: Vec<u16>,
}

impl Sender {
    pub fn new(plan: &Plan, unused: bool) -> Self {
        Self {
            facts: plan.facts,
            addresses: plan.addresses.clone(),
            places: plan.places.clone(),
            unused,
            held: vec![None; plan.addresses.len()],
            wanted: vec![0; plan.addresses.len()],
        }
    }

    fn set_up(&mut self, role: Role, levels: &[bool], sink: &mut dyn Sink) {
        values(&self.places, levels, self.facts.outputs.len(), self.unused, &mut self.wanted);
        for (index, value) in self.wanted.iter().enumerate() {
            (self.facts.set_up)(role, self.addresses[index], *value, sink);
            self.held[index] = Some(*value);
        }
    }
}

impl Writer for Sender {
    fn power_up(&mut self, levels: &[bool], sink: &mut dyn Sink) {
        self.set_up(Role::PowerUp, levels, sink);
    }

    fn write(&mut self, role: Role, levels: &[bool], sink: &mut dyn Sink) {
        values(&self.places, levels, self.facts.outputs.len(), self.unused, &mut self.wanted);
        for (index, value) in self.wanted.iter().enumerate() {
            if self.held[index].replace(*value) != Some(*value) {
                (self.facts.write)(role, self.addresses[index], *value, sink);
            }
        }
    }

    fn heal(&mut self, levels: &[bool], sink: &mut dyn Sink) {
        self.set_up(Role::Refresh, levels, sink);
    }
}
