//! Pins that the controller only reads: push buttons.

use super::Wires;
use crate::units::Nanos;

/// Pins that are read.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Inputs {
    /// By line: the level at which the controller itself keeps the pin, where it does.
    pub pulls: Vec<Option<bool>>,
}

impl Inputs {
    /// How many bytes their levels take, eight lines a byte.
    #[must_use]
    pub fn byte_count(&self) -> usize {
        self.pulls.len().div_ceil(8)
    }

    /// Reads the level of each line at a moment: the first in bit 0 of the first byte, high as 1.
    pub fn read(&self, at: Nanos, wires: &mut impl Wires) -> Vec<u8> {
        let mut bytes = vec![0; self.byte_count()];
        for line in 0..self.pulls.len() {
            bytes[line / 8] |= u8::from(wires.read(at, line)) << (line % 8);
        }
        bytes
    }
}
