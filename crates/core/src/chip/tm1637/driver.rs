//! Frames to transfers. The part counts its address up (command 40) and keeps that mode, so an update is an
//! address and its data.

use crate::bus::{Ops, Role};
use crate::chip::grid;
use crate::drive::Driver;
use crate::frame::Level;

const WRITE_COUNTING_UP: u8 = 0x40;
const READ_KEYS: u8 = 0x42;
const DISPLAY_OFF: u8 = 0x80;
const DISPLAY_ON: u8 = 0x88;
const ADDRESS: u8 = 0xC0;
const BYTES: usize = 6;
/// A run of its own takes its address: as much as one byte between.
const GAP: usize = 1;

/// What the part is thought to hold.
pub struct Memory {
    memory: grid::Memory,
    brightness: u8,
    is_on: bool,
    has_keys: bool,
}

impl Memory {
    pub fn new(brightness: u8, has_keys: bool) -> Self {
        Self { memory: grid::Memory::new(BYTES), brightness, is_on: false, has_keys }
    }

    fn write_all(&mut self, role: Role, ops: &mut Ops) {
        ops.push(role, [WRITE_COUNTING_UP]);
        ops.push(role, std::iter::once(ADDRESS).chain(self.memory.wanted().iter().copied()));
        self.memory.sent();
    }

    fn control(&self, role: Role, ops: &mut Ops) {
        ops.push(role, [if self.is_on { DISPLAY_ON | self.brightness } else { DISPLAY_OFF }]);
    }
}

impl Driver for Memory {
    fn power_up(&mut self, ops: &mut Ops) {
        // Nothing is known of the memory: it is cleared before it is shown.
        ops.push(Role::PowerUp, [DISPLAY_OFF]);
        self.memory.wanted_mut().fill(0);
        self.write_all(Role::PowerUp, ops);
        self.is_on = true;
        self.control(Role::PowerUp, ops);
    }

    fn frame(&mut self, nodes: &[Level], ops: &mut Ops) {
        for (byte, lines) in self.memory.wanted_mut().iter_mut().zip(nodes.chunks_exact(8)) {
            *byte = lines.iter().rev().fold(0, |byte, level| byte << 1 | u8::from(*level != Level::OFF));
        }
        let mut from = 0;
        while let Some(run) = self.memory.next_run(from, GAP) {
            from = run.end;
            let data = self.memory.wanted()[run.clone()].iter().copied();
            ops.push(Role::Frame, std::iter::once(ADDRESS + run.start as u8).chain(data));
        }
        self.memory.sent();
    }

    fn brightness(&mut self, step: u8, ops: &mut Ops) {
        self.brightness = step.min(7);
        if self.is_on {
            self.control(Role::Brightness, ops);
        }
    }

    fn off(&mut self, ops: &mut Ops) {
        self.is_on = false;
        self.control(Role::Off, ops);
    }

    fn on(&mut self, ops: &mut Ops) {
        self.is_on = true;
        self.control(Role::On, ops);
    }

    fn refresh(&mut self, ops: &mut Ops) {
        self.write_all(Role::Refresh, ops);
        self.control(Role::Refresh, ops);
    }

    fn keys(&mut self, ops: &mut Ops) {
        if self.has_keys {
            ops.push_reading(Role::Keys, [READ_KEYS], 1);
            // Reading is a mode: without this the next data would be lost.
            ops.push(Role::Keys, [WRITE_COUNTING_UP]);
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn bytes(ops: &Ops) -> Vec<&[u8]> {
        ops.iter().map(|op| op.bytes).collect()
    }

    #[test]
    fn the_memory_is_cleared_before_the_display_is_on_and_then_only_changes_are_sent() {
        let (mut driver, mut ops) = (Memory::new(4, false), Ops::default());
        driver.power_up(&mut ops);
        assert_eq!(bytes(&ops), [&[0x80][..], &[0x40], &[0xC0, 0, 0, 0, 0, 0, 0], &[0x8C]]);
        let mut nodes = [Level::OFF; 48];
        nodes[8..16].fill(Level::FULL);
        nodes[40] = Level::FULL;
        ops.clear();
        driver.frame(&nodes, &mut ops);
        assert_eq!(bytes(&ops), [&[0xC1, 0xFF][..], &[0xC5, 0x01]]);
        ops.clear();
        driver.frame(&nodes, &mut ops);
        assert!(ops.is_empty());
    }
}
