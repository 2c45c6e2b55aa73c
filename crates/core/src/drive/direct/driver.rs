//! Frames to the levels of the pins.

use crate::bus::{Ops, Role};
use crate::drive::Driver;
use crate::frame::Level;
use crate::glyph::Common;

/// Writes the level of every segment's pin, line 0 in bit 0.
pub struct PortWriter {
    pins: usize,
    common: Common,
}

impl PortWriter {
    pub fn new(pins: usize, common: Common) -> Self {
        Self { pins, common }
    }

    fn write(&self, role: Role, lit: impl Fn(usize) -> bool, ops: &mut Ops) {
        let high = |pin: usize| pin < self.pins && lit(pin) == self.common.lit_level();
        let byte = |first: usize| (0..8).fold(0, |byte, bit| byte | u8::from(high(first + bit)) << bit);
        ops.push(role, (0..self.pins).step_by(8).map(byte));
    }
}

impl Driver for PortWriter {
    fn power_up(&mut self, ops: &mut Ops) {
        self.write(Role::PowerUp, |_| false, ops);
    }

    fn frame(&mut self, nodes: &[Level], ops: &mut Ops) {
        self.write(Role::Frame, |pin| nodes.get(pin).is_some_and(|level| *level != Level::OFF), ops);
    }

    fn brightness(&mut self, _: u8, _: &mut Ops) {}

    fn off(&mut self, ops: &mut Ops) {
        self.write(Role::Off, |_| false, ops);
    }
}
