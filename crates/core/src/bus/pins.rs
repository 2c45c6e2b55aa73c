//! Bare pins: a controller sets the level of each, and they hold it.
//!
//! The bytes of an operation hold the level of each pin, pin 0 in bit 0 of the first byte. A write takes
//! effect at once and all pins change together, as on a port.

use super::{Bus, Edge};
use crate::units::Nanos;

/// How long a write to the pins takes before the next may follow: a microsecond, which even a small
/// controller keeps.
const WRITE: Nanos = Nanos(1_000);

/// The pins of a face with a pin for each segment.
#[derive(Debug, Clone)]
pub struct Pins {
    levels: Vec<Option<bool>>,
}

impl Pins {
    /// `count` pins that nothing drives yet.
    #[must_use]
    pub fn new(count: usize) -> Self {
        Self { levels: vec![None; count] }
    }
}

impl Bus for Pins {
    fn name(&self) -> &'static str {
        "pins"
    }

    fn idle(&self) -> Vec<Option<bool>> {
        vec![None; self.levels.len()]
    }

    fn send(&mut self, bytes: &[u8], at: Nanos, edges: &mut Vec<Edge>) -> Nanos {
        for (line, held) in self.levels.iter_mut().enumerate() {
            let Some(byte) = bytes.get(line / 8) else { break };
            let level = byte >> (line % 8) & 1 == 1;
            if held.replace(level) != Some(level) {
                edges.push(Edge { at, line, level });
            }
        }
        at + WRITE
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn only_pins_that_change_give_edges() {
        let mut pins = Pins::new(3);
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
}
