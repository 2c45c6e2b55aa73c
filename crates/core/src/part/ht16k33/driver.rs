//! Frames to transfers: the address of the part, the pointer into its memory, and the bytes from there on.

use crate::bus::{Role, Sink, Transfer};
use crate::driver::Driver;
use crate::frame::Level;
use crate::part::grid;

const OSCILLATOR_ON: u8 = 0x21;
const DISPLAY: u8 = 0x80;
const DIMMING: u8 = 0xE0;
const ROW_OUTPUTS: u8 = 0xA0;
const KEY_DATA: u8 = 0x40;
const KEY_BYTES: usize = 6;
const BYTES: usize = 16;
/// A run of its own takes the part's address and the pointer: as much as two bytes between.
const GAP: usize = 2;

/// The contents of the parts as the driver knows them.
pub struct Memories {
    parts: Vec<(u8, grid::Shadow)>,
    brightness: u8,
    blink: u8,
    is_on: bool,
    has_keys: bool,
}

/// The pointer and the bytes from there on, as one transfer.
fn put_run(role: Role, address: u8, begin: usize, data: &[u8], sink: &mut dyn Sink) {
    let mut bytes = [0; 1 + BYTES];
    bytes[0] = begin as u8;
    bytes[1..=data.len()].copy_from_slice(data);
    sink.put(role, Transfer::I2c { address, bytes: &bytes[..=data.len()], reads: 0 });
}

impl Memories {
    pub fn new(addresses: &[u8], brightness: u8, blink: u8, has_keys: bool) -> Self {
        let parts = addresses.iter().map(|address| (*address, grid::Shadow::new(BYTES))).collect();
        Self { parts, brightness, blink, is_on: false, has_keys }
    }

    fn all(&self, role: Role, command: u8, sink: &mut dyn Sink) {
        for (address, _) in &self.parts {
            sink.put(role, Transfer::I2c { address: *address, bytes: &[command], reads: 0 });
        }
    }

    fn display(&self, role: Role, sink: &mut dyn Sink) {
        self.all(role, DISPLAY | if self.is_on { self.blink << 1 | 1 } else { 0 }, sink);
    }

    fn write_all(&mut self, role: Role, sink: &mut dyn Sink) {
        for (address, memory) in &mut self.parts {
            put_run(role, *address, 0, memory.wanted(), sink);
            memory.sent();
        }
    }
}

impl Driver for Memories {
    fn power_up(&mut self, sink: &mut dyn Sink) {
        self.is_on = false;
        self.all(Role::PowerUp, OSCILLATOR_ON, sink);
        self.display(Role::PowerUp, sink);
        self.all(Role::PowerUp, ROW_OUTPUTS, sink);
        // The memory is undefined: all sixteen bytes are cleared before the display is on.
        self.parts.iter_mut().for_each(|(_, memory)| memory.wanted_mut().fill(0));
        self.write_all(Role::PowerUp, sink);
        self.all(Role::PowerUp, DIMMING | self.brightness.min(15), sink);
        self.is_on = true;
        self.display(Role::PowerUp, sink);
    }

    fn frame(&mut self, nodes: &[Level], sink: &mut dyn Sink) {
        for ((address, memory), nodes) in self.parts.iter_mut().zip(nodes.chunks_exact(8 * BYTES)) {
            for (byte, rows) in memory.wanted_mut().iter_mut().zip(nodes.chunks_exact(8)) {
                *byte = rows.iter().rev().fold(0, |byte, level| byte << 1 | u8::from(*level != Level::OFF));
            }
            let mut from = 0;
            while let Some(run) = memory.next_run(from, GAP) {
                from = run.end;
                put_run(Role::Frame, *address, run.start, &memory.wanted()[run], sink);
            }
            memory.sent();
        }
    }

    fn brightness(&mut self, step: u8, sink: &mut dyn Sink) {
        self.brightness = step.min(15);
        self.all(Role::Brightness, DIMMING | self.brightness, sink);
    }

    fn off(&mut self, sink: &mut dyn Sink) {
        self.is_on = false;
        self.display(Role::Off, sink);
    }

    fn on(&mut self, sink: &mut dyn Sink) {
        self.is_on = true;
        self.display(Role::On, sink);
    }

    fn refresh(&mut self, sink: &mut dyn Sink) {
        self.all(Role::Refresh, OSCILLATOR_ON, sink);
        self.write_all(Role::Refresh, sink);
        self.all(Role::Refresh, DIMMING | self.brightness.min(15), sink);
        self.display(Role::Refresh, sink);
    }

    fn keys(&mut self, sink: &mut dyn Sink) {
        if self.has_keys {
            for (address, _) in &self.parts {
                let read = Transfer::I2c { address: *address, bytes: &[KEY_DATA], reads: KEY_BYTES };
                sink.put(Role::Buttons, read);
            }
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::bus::Ops;

    fn bytes(ops: &Ops) -> Vec<Vec<u8>> {
        ops.iter().map(|op| op.transfer.on_the_wire().collect()).collect()
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
