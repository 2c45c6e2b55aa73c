//! Frames to register writes.
//!
//! Every transfer carries one 16-bit word for each part of the chain; the first word sent ends in the
//! farthest part, so words go out from the last part to the first.

use crate::bus::{Ops, Role};
use crate::drive::Driver;
use crate::frame::Level;

const DIGIT_0: u8 = 0x01;
const DECODE_MODE: u8 = 0x09;
const INTENSITY: u8 = 0x0A;
const SCAN_LIMIT: u8 = 0x0B;
const SHUTDOWN: u8 = 0x0C;
const DISPLAY_TEST: u8 = 0x0F;

/// The words for a chain of parts.
pub struct Chain {
    parts: usize,
    /// How many digit lines each part scans, 1 to 8.
    scanned: usize,
    brightness: u8,
}

impl Chain {
    pub fn new(parts: usize, scanned: usize, brightness: u8) -> Self {
        Self { parts, scanned, brightness }
    }

    /// The same write to every part.
    fn all(&self, role: Role, register: u8, data: u8, ops: &mut Ops) {
        ops.push(role, (0..self.parts).flat_map(|_| [register, data]));
    }
}

impl Driver for Chain {
    fn power_up(&mut self, ops: &mut Ops) {
        // The part wakes in shutdown, which is kept until its registers make sense: no flash of garbage.
        // The test register is not cleared by every supply's rise, so that comes first.
        self.all(Role::PowerUp, DISPLAY_TEST, 0, ops);
        self.all(Role::PowerUp, SHUTDOWN, 0, ops);
        self.all(Role::PowerUp, DECODE_MODE, 0, ops);
        self.all(Role::PowerUp, SCAN_LIMIT, self.scanned as u8 - 1, ops);
        self.all(Role::PowerUp, INTENSITY, self.brightness.min(15), ops);
        for line in 0..8 {
            self.all(Role::PowerUp, DIGIT_0 + line, 0, ops);
        }
        self.all(Role::PowerUp, SHUTDOWN, 1, ops);
    }

    fn frame(&mut self, nodes: &[Level], ops: &mut Ops) {
        for line in 0..self.scanned {
            let word = |part: usize| {
                let bits = &nodes[part * 64 + line * 8..][..8];
                let lit = bits.iter().rev().fold(0, |byte, level| byte << 1 | u8::from(*level != Level::OFF));
                [DIGIT_0 + line as u8, lit]
            };
            ops.push(Role::Frame, (0..self.parts).rev().flat_map(word));
        }
    }

    fn brightness(&mut self, step: u8, ops: &mut Ops) {
        self.brightness = step.min(15);
        self.all(Role::Brightness, INTENSITY, self.brightness, ops);
    }

    fn off(&mut self, ops: &mut Ops) {
        self.all(Role::Off, SHUTDOWN, 0, ops);
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn bytes(ops: &Ops) -> Vec<&[u8]> {
        ops.iter().map(|op| op.bytes).collect()
    }

    #[test]
    fn power_up_leaves_shutdown_last() {
        let mut ops = Ops::default();
        Chain::new(1, 4, 8).power_up(&mut ops);
        let words: [&[u8]; 14] = [
            &[0x0F, 0],
            &[0x0C, 0],
            &[0x09, 0],
            &[0x0B, 3],
            &[0x0A, 8],
            &[1, 0],
            &[2, 0],
            &[3, 0],
            &[4, 0],
            &[5, 0],
            &[6, 0],
            &[7, 0],
            &[8, 0],
            &[0x0C, 1],
        ];
        assert_eq!(bytes(&ops), words);
    }

    #[test]
    fn the_farthest_part_is_sent_first() {
        let mut nodes = vec![Level::OFF; 128];
        nodes[6] = Level::FULL; // part 0, digit line 0, data bit 6: segment a
        nodes[64] = Level::FULL; // part 1, digit line 0, data bit 0: segment g
        let mut ops = Ops::default();
        Chain::new(2, 1, 8).frame(&nodes, &mut ops);
        assert_eq!(bytes(&ops), [[1, 0x01, 1, 0x40]]);
    }
}
