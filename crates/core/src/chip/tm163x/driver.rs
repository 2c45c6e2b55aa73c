//! Frames to transfers. The parts count their address up (command 40) and keep that mode, so an update is an
//! address and its data.

use super::Facts;
use crate::bus::{Ops, Role};
use crate::chip::grid;
use crate::drive::Driver;
use crate::frame::Level;

const WRITE_COUNTING_UP: u8 = 0x40;
const READ_KEYS: u8 = 0x42;
const DISPLAY_OFF: u8 = 0x80;
const DISPLAY_ON: u8 = 0x88;
const ADDRESS: u8 = 0xC0;
/// A run of its own takes its address: as much as one byte between.
const GAP: usize = 1;

/// What the part is thought to hold.
pub struct Memory {
    facts: &'static Facts,
    memory: grid::Memory,
    brightness: u8,
    is_on: bool,
    has_keys: bool,
}

impl Memory {
    pub fn new(facts: &'static Facts, brightness: u8, has_keys: bool) -> Self {
        Self { facts, memory: grid::Memory::new(facts.bytes()), brightness, is_on: false, has_keys }
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
        let Facts { lines, bytes_a_grid, .. } = *self.facts;
        let grids = self.memory.wanted_mut().chunks_exact_mut(bytes_a_grid);
        for (bytes, nodes) in grids.zip(nodes.chunks_exact(lines)) {
            let value =
                nodes.iter().rev().fold(0, |value, level| value << 1 | u16::from(*level != Level::OFF));
            bytes.copy_from_slice(&value.to_le_bytes()[..bytes_a_grid]);
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
            ops.push_reading(Role::Keys, [READ_KEYS], self.facts.key_bytes);
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
    fn two_bytes_a_grid_for_more_than_eight_lines() {
        let (mut driver, mut ops) = (Memory::new(&crate::chip::tm1638::FACTS, 4, true), Ops::default());
        driver.power_up(&mut ops);
        let cleared = [&[0xC0][..], &[0; 16]].concat();
        assert_eq!(bytes(&ops), [&[0x80][..], &[0x40], &cleared, &[0x8C]]);
        let mut nodes = [Level::OFF; 80];
        nodes[10..18].fill(Level::FULL);
        nodes[29] = Level::FULL;
        ops.clear();
        driver.frame(&nodes, &mut ops);
        assert_eq!(bytes(&ops), [&[0xC2, 0xFF][..], &[0xC5, 0x02]]);
        ops.clear();
        driver.keys(&mut ops);
        assert_eq!(bytes(&ops), [[0x42], [0x40]]);
        assert_eq!(ops.iter().map(|op| op.reads).collect::<Vec<_>>(), [4, 0]);
    }

    #[test]
    fn one_byte_a_grid() {
        let (mut driver, mut ops) = (Memory::new(&crate::chip::tm1637::FACTS, 4, false), Ops::default());
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
