//! Frames to transfers: the address of the part, the pointer into its memory, and the bytes from there on.

use crate::bus::{Ops, Role};
use crate::chip::grid;
use crate::drive::Driver;
use crate::frame::Level;

const OSCILLATOR_ON: u8 = 0x21;
const DISPLAY: u8 = 0x80;
const DIMMING: u8 = 0xE0;
const ROW_OUTPUTS: u8 = 0xA0;
const KEY_DATA: u8 = 0x40;
const BYTES: usize = 16;
/// A run of its own takes the part's address and the pointer: as much as two bytes between.
const GAP: usize = 2;

/// What the parts are thought to hold.
pub struct Memories {
    parts: Vec<(u8, grid::Memory)>,
    brightness: u8,
    blink: u8,
    is_on: bool,
    has_keys: bool,
}

impl Memories {
    pub fn new(addresses: &[u8], brightness: u8, blink: u8, has_keys: bool) -> Self {
        let parts = addresses.iter().map(|address| (address << 1, grid::Memory::new(BYTES))).collect();
        Self { parts, brightness, blink, is_on: false, has_keys }
    }

    fn all(&self, role: Role, command: u8, ops: &mut Ops) {
        for (address, _) in &self.parts {
            ops.push(role, [*address, command]);
        }
    }

    fn display(&self, role: Role, ops: &mut Ops) {
        self.all(role, DISPLAY | if self.is_on { self.blink << 1 | 1 } else { 0 }, ops);
    }

    fn write_all(&mut self, role: Role, ops: &mut Ops) {
        for (address, memory) in &mut self.parts {
            ops.push(role, [*address, 0].into_iter().chain(memory.wanted().iter().copied()));
            memory.sent();
        }
    }
}

impl Driver for Memories {
    fn power_up(&mut self, ops: &mut Ops) {
        self.all(Role::PowerUp, OSCILLATOR_ON, ops);
        self.display(Role::PowerUp, ops);
        self.all(Role::PowerUp, ROW_OUTPUTS, ops);
        // The memory is undefined: all sixteen bytes are cleared before the display is on.
        self.parts.iter_mut().for_each(|(_, memory)| memory.wanted_mut().fill(0));
        self.write_all(Role::PowerUp, ops);
        self.all(Role::PowerUp, DIMMING | self.brightness.min(15), ops);
        self.is_on = true;
        self.display(Role::PowerUp, ops);
    }

    fn frame(&mut self, nodes: &[Level], ops: &mut Ops) {
        for ((address, memory), nodes) in self.parts.iter_mut().zip(nodes.chunks_exact(8 * BYTES)) {
            for (byte, rows) in memory.wanted_mut().iter_mut().zip(nodes.chunks_exact(8)) {
                *byte = rows.iter().rev().fold(0, |byte, level| byte << 1 | u8::from(*level != Level::OFF));
            }
            let mut from = 0;
            while let Some(run) = memory.next_run(from, GAP) {
                from = run.end;
                let data = memory.wanted()[run.clone()].iter().copied();
                ops.push(Role::Frame, [*address, run.start as u8].into_iter().chain(data));
            }
            memory.sent();
        }
    }

    fn brightness(&mut self, step: u8, ops: &mut Ops) {
        self.brightness = step.min(15);
        self.all(Role::Brightness, DIMMING | self.brightness, ops);
    }

    fn off(&mut self, ops: &mut Ops) {
        self.is_on = false;
        self.display(Role::Off, ops);
    }

    fn on(&mut self, ops: &mut Ops) {
        self.is_on = true;
        self.display(Role::On, ops);
    }

    fn refresh(&mut self, ops: &mut Ops) {
        self.all(Role::Refresh, OSCILLATOR_ON, ops);
        self.write_all(Role::Refresh, ops);
        self.all(Role::Refresh, DIMMING | self.brightness.min(15), ops);
        self.display(Role::Refresh, ops);
    }

    fn keys(&mut self, ops: &mut Ops) {
        if self.has_keys {
            for (address, _) in &self.parts {
                ops.push_reading(Role::Keys, [*address, KEY_DATA], 6);
            }
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
    fn everything_is_cleared_before_the_display_is_on() {
        let (mut driver, mut ops) = (Memories::new(&[0x70], 8, 2, false), Ops::default());
        driver.power_up(&mut ops);
        let cleared = [&[0xE0][..], &[0; 17]].concat();
        let expected: [&[u8]; 6] =
            [&[0xE0, 0x21], &[0xE0, 0x80], &[0xE0, 0xA0], &cleared, &[0xE0, 0xE8], &[0xE0, 0x85]];
        assert_eq!(bytes(&ops), expected);
    }

    #[test]
    fn only_what_changed_and_near_changes_together() {
        let (mut driver, mut ops) = (Memories::new(&[0x70, 0x71], 8, 0, false), Ops::default());
        driver.power_up(&mut ops);
        ops.clear();
        let mut nodes = [Level::OFF; 256];
        (nodes[0], nodes[16], nodes[64], nodes[128 + 127]) =
            (Level::FULL, Level::FULL, Level::FULL, Level::FULL);
        driver.frame(&nodes, &mut ops);
        assert_eq!(bytes(&ops), [&[0xE0, 0, 1, 0, 1][..], &[0xE0, 8, 1], &[0xE2, 15, 0x80]]);
    }
}
