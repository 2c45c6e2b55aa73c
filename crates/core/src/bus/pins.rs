//! Bare pins: a controller sets the level of each, and they hold it.
//!
//! The bytes of an operation are the values of the ports, or, where the pins are named singly, the levels of
//! the pins in their order, the first in bit 0 of the first byte. Pins of one port change together; a second
//! port is written after the first.

use super::{Bus, Edge};
use crate::units::Nanos;

/// On which bit of which byte of an operation each line stands.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct PinBits {
    /// By line: byte and bit.
    places: Vec<(usize, u8)>,
    bytes: usize,
    /// Whether every byte is a port of its own, written apart.
    ports: bool,
}

impl PinBits {
    /// So many lines, eight a byte, all changed by one write.
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

    /// Whether each byte is a port.
    #[must_use]
    pub const fn are_ports(&self) -> bool {
        self.ports
    }

    /// How many writes an operation takes.
    #[must_use]
    pub const fn writes(&self) -> usize {
        if self.ports { self.bytes } else { 1 }
    }

    /// The byte in which every unused bit is at `rest` and the lines are at `level`.
    pub fn bytes(&self, rest: bool, level: impl Fn(usize) -> bool) -> impl Iterator<Item = u8> {
        (0..self.bytes).map(move |byte| {
            let lines = self.places.iter().enumerate().filter(move |(_, (of, _))| *of == byte);
            lines.fold(if rest { 0xFF } else { 0 }, |value, (line, (_, bit))| {
                if level(line) { value | 1 << bit } else { value & !(1 << bit) }
            })
        })
    }

    /// The level that the bytes of an operation give a line.
    #[must_use]
    pub fn level(&self, bytes: &[u8], line: usize) -> Option<bool> {
        let (byte, bit) = self.places.get(line)?;
        bytes.get(*byte).map(|byte| byte >> bit & 1 == 1)
    }
}

/// The pins of a face.
#[derive(Debug, Clone)]
pub struct Pins {
    bits: PinBits,
    /// How long a write takes before the next may follow.
    write: Nanos,
    levels: Vec<Option<bool>>,
}

impl Pins {
    /// Pins that nothing drives yet, of a controller that takes so long for each write.
    #[must_use]
    pub fn new(bits: PinBits, write: Nanos) -> Self {
        Self { levels: vec![None; bits.places.len()], bits, write }
    }
}

impl Bus for Pins {
    fn name(&self) -> &'static str {
        "pins"
    }

    fn idle(&self) -> Vec<Option<bool>> {
        vec![None; self.levels.len()]
    }

    fn send(&mut self, bytes: &[u8], mut at: Nanos, edges: &mut Vec<Edge>) -> Nanos {
        for write in 0..self.bits.writes() {
            for (line, held) in self.levels.iter_mut().enumerate() {
                let byte = self.bits.places[line].0;
                if self.bits.ports && byte != write {
                    continue;
                }
                let Some(level) = self.bits.level(bytes, line) else { continue };
                if held.replace(level) != Some(level) {
                    edges.push(Edge { at, line, level });
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

    const WRITE: Nanos = Nanos(1_000);

    #[test]
    fn only_pins_that_change_give_edges() {
        let mut pins = Pins::new(PinBits::in_order(3), WRITE);
        let mut edges = Vec::new();
        let next = pins.send(&[0b011], Nanos(0), &mut edges);
        assert_eq!(edges.iter().map(|edge| edge.level).collect::<Vec<_>>(), [true, true, false]);
        edges.clear();
        pins.send(&[0b110], next, &mut edges);
        assert_eq!(
            edges,
            [Edge { at: next, line: 0, level: false }, Edge { at: next, line: 2, level: true }]
        );
    }

    #[test]
    fn a_second_port_is_written_after_the_first() {
        let bits = PinBits::on_ports(vec![(0, 7), (1, 0)]);
        assert_eq!(bits.bytes(true, |line| line == 1).collect::<Vec<_>>(), [0x7F, 0xFF]);
        let mut edges = Vec::new();
        let end = Pins::new(bits, WRITE).send(&[0x80, 0x01], Nanos(0), &mut edges);
        let times: Vec<_> = edges.iter().map(|edge| edge.at).collect();
        assert_eq!((times, end), (vec![Nanos(0), WRITE], Nanos(2_000)));
    }
}
