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
    /// Reads the level of each line at a moment into `reads` bytes: the first in bit 0 of the first byte, high as 1.
    pub fn read(&self, reads: usize, at: Nanos, wires: &mut impl Wires) -> Vec<u8> {
        let mut bytes = vec![0; reads];
        for (line, byte) in (0..self.pulls.len()).map(|line| (line, line / 8)) {
            if let Some(byte) = bytes.get_mut(byte) {
                *byte |= u8::from(wires.read(at, line)) << (line % 8);
            }
        }
        bytes
    }
}
