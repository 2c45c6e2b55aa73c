//! Bare pins: a controller sets the level of each, and they hold it.
//!
//! The bytes of a transfer are the values of the ports, or, where the pins are named singly, the levels of the pins in
//! their order, the first in bit 0 of the first byte. Pins of one port change together; a second port is written after
//! the first.

use super::Wires;
use crate::units::Nanos;

/// On which bit of which byte of a transfer each line stands.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct PinBits {
    /// By line: byte and bit.
    places: Vec<(usize, u8)>,
    bytes: usize,
    /// True if every byte is a port of its own, written apart.
    ports: bool,
}

impl PinBits {
    /// A number of lines, eight a byte, all changed by one write.
    #[must_use]
    pub fn in_order(lines: usize) -> Self {
        let places = (0..lines).map(|line| (line / 8, (line % 8) as u8)).collect();
        Self { places, bytes: lines.div_ceil(8), ports: false }
    }

    /// Lines on ports: for each the number of its port, from 0 without gaps, and its bit, 0 to 7.
    #[must_use]
    pub fn on_ports(places: Vec<(usize, u8)>) -> Self {
        let bytes = places.iter().map(|(port, _)| port + 1).max().unwrap_or(0);
        Self { places, bytes, ports: true }
    }

    /// Returns true if each byte is a port.
    #[must_use]
    pub const fn are_ports(&self) -> bool {
        self.ports
    }

    /// How many bytes a transfer has.
    #[must_use]
    pub const fn byte_count(&self) -> usize {
        self.bytes
    }

    /// The byte and the bit of a line.
    #[must_use]
    pub fn place(&self, line: usize) -> Option<(usize, u8)> {
        self.places.get(line).copied()
    }

    /// How many writes a transfer takes.
    const fn writes(&self) -> usize {
        if self.ports { self.bytes } else { 1 }
    }

    /// The bits that are lines', into `mask`.
    pub fn write_mask(&self, mask: &mut [u8]) {
        mask.fill(0);
        for (byte, bit) in &self.places {
            if let Some(byte) = mask.get_mut(*byte) {
                *byte |= 1 << bit;
            }
        }
    }

    /// The levels of the lines, into `bytes`, every unused bit at `rest`.
    pub fn write_levels(&self, rest: bool, level: impl Fn(usize) -> bool, bytes: &mut [u8]) {
        bytes.fill(if rest { 0xFF } else { 0 });
        for (line, (byte, bit)) in self.places.iter().enumerate() {
            if let Some(byte) = bytes.get_mut(*byte) {
                *byte = if level(line) { *byte | 1 << bit } else { *byte & !(1 << bit) };
            }
        }
    }

    /// The level that the bytes of a transfer give a line.
    #[must_use]
    pub fn level(&self, bytes: &[u8], line: usize) -> Option<bool> {
        let (byte, bit) = self.places.get(line)?;
        bytes.get(*byte).map(|byte| byte >> bit & 1 == 1)
    }
}

/// The pins of a face.
#[derive(Debug, Clone, PartialEq)]
pub struct Pins {
    /// Where each line stands in the bytes.
    pub bits: PinBits,
    /// How long the controller takes for a write before the next may follow.
    pub write: Nanos,
}

impl Pins {
    /// How many lines there are.
    #[must_use]
    pub fn lines(&self) -> usize {
        self.bits.places.len()
    }

    /// Sets the levels of the lines in the mask. Returns when the next transfer may begin.
    pub fn send(&self, mask: &[u8], levels: &[u8], mut at: Nanos, wires: &mut impl Wires) -> Nanos {
        for write in 0..self.bits.writes() {
            for (line, (byte, _)) in self.bits.places.iter().enumerate() {
                if self.bits.ports && *byte != write {
                    continue;
                }
                if self.bits.level(mask, line) == Some(true)
                    && let Some(level) = self.bits.level(levels, line)
                {
                    wires.drive(at, line, Some(level));
                }
            }
            at = at + self.write;
        }
        at
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::bus::{Edge, Unanswered};

    const WRITE: Nanos = Nanos(1_000);

    fn pins(bits: PinBits) -> (Pins, Unanswered) {
        let pins = Pins { bits, write: WRITE };
        let wires = Unanswered { levels: vec![None; pins.lines()], edges: Vec::new() };
        (pins, wires)
    }

    #[test]
    fn only_pins_that_change_and_are_in_the_mask_give_edges() {
        let (pins, mut wires) = pins(PinBits::in_order(3));
        let next = pins.send(&[0b111], &[0b011], Nanos(0), &mut wires);
        assert_eq!(wires.edges.iter().map(|edge| edge.level).collect::<Vec<_>>(), [true, true, false]);
        wires.edges.clear();
        pins.send(&[0b101], &[0b100], next, &mut wires);
        assert_eq!(
            wires.edges,
            [Edge { at: next, line: 0, level: false }, Edge { at: next, line: 2, level: true }]
        );
    }

    #[test]
    fn a_second_port_is_written_after_the_first() {
        let bits = PinBits::on_ports(vec![(0, 7), (1, 0)]);
        let (mut levels, mut mask) = ([0; 2], [0; 2]);
        bits.write_levels(true, |line| line == 1, &mut levels);
        bits.write_mask(&mut mask);
        assert_eq!((levels, mask), ([0x7F, 0xFF], [0x80, 0x01]));
        let (pins, mut wires) = pins(bits);
        let end = pins.send(&mask, &[0x80, 0x01], Nanos(0), &mut wires);
        let times: Vec<_> = wires.edges.iter().map(|edge| edge.at).collect();
        assert_eq!((times, end), (vec![Nanos(0), WRITE], Nanos(2_000)));
    }
}
