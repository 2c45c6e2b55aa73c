//! Levels to the bytes of a transfer.
//!
//! The first bit sent ends in the last stage, QH of the last part, so bytes go out from the last part to the
//! first, and stage H is the most significant bit.

use super::WIDTH;
use crate::bus::{Ops, Role};
use crate::drive::bare::places::values;
use crate::drive::bare::port;

/// Writes all registers at once.
pub struct Writer {
    places: Vec<usize>,
    lsb_first: bool,
    /// Whether the outputs can be put off without a transfer.
    has_enable: bool,
    values: Vec<u16>,
}

impl Writer {
    pub fn new(parts: usize, places: Vec<usize>, lsb_first: bool, has_enable: bool) -> Self {
        Self { places, lsb_first, has_enable, values: vec![0; parts] }
    }
}

impl port::Writer for Writer {
    fn power_up(&mut self, levels: &[bool], ops: &mut Ops) {
        self.write(Role::PowerUp, levels, ops);
    }

    fn write(&mut self, role: Role, levels: &[bool], ops: &mut Ops) {
        values(&self.places, levels, WIDTH, &mut self.values);
        let lsb_first = self.lsb_first;
        let bytes = self.values.iter().rev().map(|value| *value as u8);
        ops.push(role, bytes.map(|byte| if lsb_first { byte.reverse_bits() } else { byte }));
    }

    fn blank(&mut self, rest: &[bool], ops: &mut Ops) {
        if self.has_enable {
            ops.push(Role::Blank, []);
        } else {
            self.write(Role::Blank, rest, ops);
        }
    }
}
