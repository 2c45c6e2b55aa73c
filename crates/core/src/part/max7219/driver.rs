//! Frames to register writes.
//!
//! Every transfer carries one 16-bit word for each part of the chain; the first word sent ends in the
//! farthest part, so words go out from the last part to the first.

use super::Share;
use crate::bus::{Role, Sink, Transfer};
use crate::driver::Driver;
use crate::frame::Level;

const DIGIT_0: u8 = 0x01;
const DECODE_MODE: u8 = 0x09;
const INTENSITY: u8 = 0x0A;
const SCAN_LIMIT: u8 = 0x0B;
const SHUTDOWN: u8 = 0x0C;
const TEST_MODE: u8 = 0x0F;
/// The data of a blank digit in code B.
const CODE_B_BLANK: u8 = 0x0F;
const LINES: usize = 8;

/// The content of each part as the driver knows it, and the words that change it.
pub struct Chain {
    share: Share,
    /// How many digit lines each part scans, 1 to 8.
    scanned: usize,
    brightness: u8,
    /// By part: the digit lines that decode code B, a bit each.
    decoded: Vec<u8>,
    is_on: bool,
    /// The digit registers of each part, by part and line, as they are and as they are to be.
    held: Vec<Option<u8>>,
    wanted: Vec<u8>,
    /// A word for each part of the chain, the farthest first. Those of other faces get a no-op, which is 0.
    words: Vec<u8>,
}

impl Chain {
    pub fn new(share: Share, scanned: usize, brightness: u8, decoded: Vec<u8>) -> Self {
        let mut chain = Self {
            share,
            scanned,
            brightness,
            decoded,
            is_on: false,
            held: vec![None; LINES * share.parts],
            wanted: vec![0; LINES * share.parts],
            words: vec![0; 2 * share.of],
        };
        chain.blank();
        chain
    }

    /// Returns true if a digit register is decoded, by part and line.
    fn is_decoded(&self, place: usize) -> bool {
        self.decoded.get(place / LINES).is_some_and(|lines| lines >> (place % LINES) & 1 == 1)
    }

    /// Everything is to be dark.
    fn blank(&mut self) {
        for place in 0..self.wanted.len() {
            self.wanted[place] = if self.is_decoded(place) { CODE_B_BLANK } else { 0 };
        }
    }

    /// A transfer with a word for each of the face's own parts.
    fn put(&mut self, role: Role, word: impl Fn(&Self, usize) -> [u8; 2], sink: &mut dyn Sink) {
        for part in 0..self.share.parts {
            let from_the_end = self.share.of - 1 - (self.share.before + part);
            let word = word(self, part);
            self.words[2 * from_the_end..2 * from_the_end + 2].copy_from_slice(&word);
        }
        sink.put(role, Transfer::Spi { bytes: &self.words });
    }

    /// The same write to every part.
    fn all(&mut self, role: Role, register: u8, data: u8, sink: &mut dyn Sink) {
        self.put(role, |_, _| [register, data], sink);
    }

    /// The digit register of a line. All parts share a transfer, so it is sent when any of them changes.
    fn write_line(&mut self, role: Role, line: usize, sink: &mut dyn Sink) {
        self.put(role, |chain, part| [DIGIT_0 + line as u8, chain.wanted[part * LINES + line]], sink);
        for part in 0..self.share.parts {
            self.held[part * LINES + line] = Some(self.wanted[part * LINES + line]);
        }
    }

    fn set_up(&mut self, role: Role, sink: &mut dyn Sink) {
        self.put(role, |chain, part| [DECODE_MODE, chain.decoded.get(part).copied().unwrap_or(0)], sink);
        self.all(role, SCAN_LIMIT, self.scanned as u8 - 1, sink);
        self.all(role, INTENSITY, self.brightness.min(15), sink);
        for line in 0..LINES {
            self.write_line(role, line, sink);
        }
    }

    fn switch(&mut self, role: Role, on: bool, sink: &mut dyn Sink) {
        self.is_on = on;
        self.all(role, SHUTDOWN, u8::from(on), sink);
    }
}

/// The data that makes a decoding part light these segments, dp in bit 7 and a to g from bit 6 on; none where code B has no
/// such character.
pub fn code_b(lit: u8) -> Option<u8> {
    let code = match lit & 0x7F {
        0x7E => 0,
        0x30 => 1,
        0x6D => 2,
        0x79 => 3,
        0x33 => 4,
        0x5B => 5,
        0x5F => 6,
        0x70 => 7,
        0x7F => 8,
        0x7B => 9,
        0x01 => 10,
        0x4F => 11,
        0x37 => 12,
        0x0E => 13,
        0x67 => 14,
        0x00 => CODE_B_BLANK,
        _ => return None,
    };
    Some(lit & 0x80 | code)
}

impl Driver for Chain {
    fn power_up(&mut self, sink: &mut dyn Sink) {
        // The part wakes in shutdown, which is kept until its registers make sense: no flash of garbage.
        // The test register is not cleared by every supply's rise, so that comes first.
        self.all(Role::PowerUp, TEST_MODE, 0, sink);
        self.switch(Role::PowerUp, false, sink);
        self.blank();
        self.set_up(Role::PowerUp, sink);
        self.switch(Role::PowerUp, true, sink);
    }

    fn frame(&mut self, nodes: &[Level], sink: &mut dyn Sink) {
        let decodes = self.decoded.iter().any(|lines| *lines != 0);
        for (place, bits) in nodes.chunks_exact(8).enumerate().take(self.wanted.len()) {
            let lit = bits.iter().rev().fold(0, |byte, level| byte << 1 | u8::from(*level != Level::OFF));
            // Code B has few characters: others stay blank.
            let is_code = decodes && self.is_decoded(place);
            self.wanted[place] = if is_code { code_b(lit).unwrap_or(lit & 0x80 | CODE_B_BLANK) } else { lit };
        }
        for line in 0..self.scanned {
            let changed = |part: usize| {
                let place = part * LINES + line;
                self.held[place] != Some(self.wanted[place])
            };
            if (0..self.share.parts).any(changed) {
                self.write_line(Role::Frame, line, sink);
            }
        }
    }

    fn brightness(&mut self, step: u8, sink: &mut dyn Sink) {
        self.brightness = step.min(15);
        self.all(Role::Brightness, INTENSITY, self.brightness, sink);
    }

    fn off(&mut self, sink: &mut dyn Sink) {
        self.switch(Role::Off, false, sink);
    }

    fn on(&mut self, sink: &mut dyn Sink) {
        self.switch(Role::On, true, sink);
    }

    fn refresh(&mut self, sink: &mut dyn Sink) {
        self.all(Role::Refresh, TEST_MODE, 0, sink);
        self.set_up(Role::Refresh, sink);
        self.switch(Role::Refresh, self.is_on, sink);
    }

    fn test(&mut self, on: bool, sink: &mut dyn Sink) {
        self.all(Role::Test, TEST_MODE, u8::from(on), sink);
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::bus::Ops;

    fn alone(parts: usize, scanned: usize) -> Chain {
        Chain::new(Share { parts, of: parts, before: 0 }, scanned, 8, vec![0; parts])
    }

    #[test]
    fn the_parts_of_other_faces_are_left_as_they_are() {
        let mut ops = Ops::default();
        Chain::new(Share { parts: 1, of: 3, before: 1 }, 1, 8, vec![0]).off(&mut ops);
        assert_eq!(bytes(&ops), [[0, 0, 0x0C, 0, 0, 0]]);
    }

    fn bytes(ops: &Ops) -> Vec<&[u8]> {
        ops.iter().map(|op| op.transfer.bytes()).collect()
    }

    #[test]
    fn power_up_leaves_shutdown_last() {
        let mut ops = Ops::default();
        alone(1, 4).power_up(&mut ops);
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
        alone(2, 1).frame(&nodes, &mut ops);
        assert_eq!(bytes(&ops), [[1, 0x01, 1, 0x40]]);
    }

    #[test]
    fn only_lines_that_change_are_sent() {
        let (mut chain, mut ops) = (alone(1, 8), Ops::default());
        chain.power_up(&mut ops);
        let mut nodes = [Level::OFF; 64];
        ops.clear();
        chain.frame(&nodes, &mut ops);
        assert!(ops.is_empty());
        nodes[9] = Level::FULL;
        chain.frame(&nodes, &mut ops);
        assert_eq!(bytes(&ops), [[2, 0x02]]);
    }

    #[test]
    fn code_b_has_its_sixteen_characters() {
        assert_eq!([0x7E, 0x30, 0xFF, 0x01, 0x00].map(code_b), [0, 1, 0x88, 10, 15].map(Some));
        assert_eq!(code_b(0x77), None);
    }
}
