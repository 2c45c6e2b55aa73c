//! Levels to the bytes of a transfer.
//!
//! The first bit sent ends in the last stage, QH of the last part, so bytes go out from the last part to the
//! first, and stage H is the most significant bit.

use super::{Plan, WIDTH};
use crate::bare::places::values;
use crate::bus::{Role, Sink, Transfer};
use crate::driver;

/// Writes all registers at once.
pub struct Writer {
    places: Vec<usize>,
    lsb_first: bool,
    /// True if the outputs can be put off without a transfer.
    has_enable: bool,
    unused: bool,
    values: Vec<u16>,
    bytes: Vec<u8>,
}

impl Writer {
    pub(super) fn new(plan: &Plan, unused: bool) -> Self {
        Self {
            places: plan.places.clone(),
            lsb_first: plan.lsb_first,
            has_enable: plan.is_enable_driven,
            unused,
            values: vec![0; plan.parts],
            bytes: vec![0; plan.parts],
        }
    }
}

impl driver::Writer for Writer {
    fn power_up(&mut self, levels: &[bool], sink: &mut dyn Sink) {
        self.write(Role::PowerUp, levels, sink);
    }

    fn write(&mut self, role: Role, levels: &[bool], sink: &mut dyn Sink) {
        values(&self.places, levels, WIDTH, self.unused, &mut self.values);
        for (byte, value) in self.bytes.iter_mut().zip(self.values.iter().rev()) {
            let value = *value as u8;
            *byte = if self.lsb_first { value.reverse_bits() } else { value };
        }
        sink.put(role, Transfer::Shift { bytes: &self.bytes });
    }

    fn blank(&mut self, rest: &[bool], sink: &mut dyn Sink) {
        if self.has_enable {
            sink.put(Role::Blank, Transfer::OutputsOff);
        } else {
            self.write(Role::Blank, rest, sink);
        }
    }
}
