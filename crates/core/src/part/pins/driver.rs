//! Levels of pins to the values of ports.

use super::Plan;
use crate::bus::pins::PinBits;
use crate::bus::{Role, Sink, Transfer};
use crate::driver::Writer;

/// Writes levels as the values of ports.
pub struct PinWriter {
    bits: PinBits,
    mask: Vec<u8>,
    levels: Vec<u8>,
    unused: bool,
}

impl PinWriter {
    pub fn new(plan: &Plan, unused: bool) -> Self {
        let mut mask = vec![0; plan.bits.byte_count()];
        plan.bits.write_mask(&mut mask);
        Self { levels: vec![0; mask.len()], mask, bits: plan.bits.clone(), unused }
    }
}

impl Writer for PinWriter {
    fn power_up(&mut self, levels: &[bool], sink: &mut dyn Sink) {
        self.write(Role::PowerUp, levels, sink);
    }

    fn write(&mut self, role: Role, levels: &[bool], sink: &mut dyn Sink) {
        let level = |line: usize| levels.get(line).copied().unwrap_or(self.unused);
        self.bits.write_levels(self.unused, level, &mut self.levels);
        sink.put(role, Transfer::Ports { mask: &self.mask, levels: &self.levels });
    }
}
