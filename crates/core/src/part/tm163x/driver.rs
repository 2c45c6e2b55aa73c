//! Frames to transfers. The parts count their address up (command 40) and keep that mode, so an update is an
//! address and its data.

use super::Facts;
use crate::bus::{Role, Sink};
use crate::driver::Driver;
use crate::frame::Level;
use crate::part::grid;

const WRITE_COUNTING_UP: u8 = 0x40;
const READ_KEYS: u8 = 0x42;
const DISPLAY_OFF: u8 = 0x80;
const DISPLAY_ON: u8 = 0x88;
const ADDRESS: u8 = 0xC0;
/// A run of its own takes its address: as much as one byte between.
const GAP: usize = 1;

/// The content of the part as the driver knows it.
pub struct Memory {
    facts: &'static Facts,
    memory: grid::Shadow,
    brightness: u8,
    is_on: bool,
    has_keys: bool,
    /// The transfer that is being put together.
    transfer: Vec<u8>,
}

impl Memory {
    pub fn new(facts: &'static Facts, brightness: u8, has_keys: bool) -> Self {
        Self {
            facts,
            memory: grid::Shadow::new(facts.bytes()),
            brightness,
            is_on: false,
            has_keys,
            transfer: Vec::with_capacity(1 + facts.bytes()),
        }
    }

    fn put(&self, role: Role, bytes: &[u8], sink: &mut dyn Sink) {
        sink.put(role, (self.facts.transfer)(bytes, 0));
    }

    /// An address and the data from there on.
    fn put_run(&mut self, role: Role, run: std::ops::Range<usize>, sink: &mut dyn Sink) {
        self.transfer.clear();
        self.transfer.push(ADDRESS + run.start as u8);
        self.transfer.extend_from_slice(&self.memory.wanted()[run]);
        self.put(role, &self.transfer, sink);
    }

    fn write_all(&mut self, role: Role, sink: &mut dyn Sink) {
        self.put(role, &[WRITE_COUNTING_UP], sink);
        self.put_run(role, 0..self.facts.bytes(), sink);
        self.memory.sent();
    }

    fn control(&self, role: Role, sink: &mut dyn Sink) {
        self.put(role, &[if self.is_on { DISPLAY_ON | self.brightness } else { DISPLAY_OFF }], sink);
    }
}

impl Driver for Memory {
    fn power_up(&mut self, sink: &mut dyn Sink) {
        // Nothing is known of the memory: it is cleared before it is shown.
        self.put(Role::PowerUp, &[DISPLAY_OFF], sink);
        self.memory.wanted_mut().fill(0);
        self.write_all(Role::PowerUp, sink);
        self.is_on = true;
        self.control(Role::PowerUp, sink);
    }

    fn frame(&mut self, nodes: &[Level], sink: &mut dyn Sink) {
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
            self.put_run(Role::Frame, run, sink);
        }
        self.memory.sent();
    }

    fn brightness(&mut self, step: u8, sink: &mut dyn Sink) {
        self.brightness = step.min(7);
        if self.is_on {
            self.control(Role::Brightness, sink);
        }
    }

    fn off(&mut self, sink: &mut dyn Sink) {
        self.is_on = false;
        self.control(Role::Off, sink);
    }

    fn on(&mut self, sink: &mut dyn Sink) {
        self.is_on = true;
        self.control(Role::On, sink);
    }

    fn refresh(&mut self, sink: &mut dyn Sink) {
        self.write_all(Role::Refresh, sink);
        self.control(Role::Refresh, sink);
    }

    fn keys(&mut self, sink: &mut dyn Sink) {
        if self.has_keys {
            sink.put(Role::Buttons, (self.facts.transfer)(&[READ_KEYS], self.facts.key_bytes));
            // Reading is a mode: without this the next data would be lost.
            self.put(Role::Buttons, &[WRITE_COUNTING_UP], sink);
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::bus::Ops;

    fn bytes(ops: &Ops) -> Vec<&[u8]> {
        ops.iter().map(|op| op.transfer.bytes()).collect()
    }

    #[test]
    fn two_bytes_a_grid_for_more_than_eight_lines() {
        let (mut driver, mut ops) = (Memory::new(&crate::part::tm1638::FACTS, 4, true), Ops::default());
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
        assert_eq!(ops.iter().map(|op| op.transfer.reads()).collect::<Vec<_>>(), [4, 0]);
    }

    #[test]
    fn one_byte_a_grid() {
        let (mut driver, mut ops) = (Memory::new(&crate::part::tm1637::FACTS, 4, false), Ops::default());
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
