//! Three wires to a chain of shift registers with a latch, and perhaps a fourth to their output enable.
//!
//! ```text
//!  data    ___/'''\_______/'''
//!  clock   ____/'\_/'\_/'\_/'\____        sampled as it rises
//!  latch   '\_____________________/'      outputs change as it rises
//!  enable  ''''''''''''''''''''''''\__    outputs on while it is low
//! ```
//!
//! An operation with bytes shifts them, latches, and lowers enable where there is one. An operation without
//! bytes raises enable: the outputs are off until the next transfer.

use super::{Bus, Edge, spi};
use crate::units::{Hertz, Nanos};

/// The place of each line in [`crate::drive::Drive::lines`].
pub const CLOCK: usize = spi::CLOCK;
/// The data line: controller to the first register.
pub const DATA: usize = spi::DATA;
/// The latch line: outputs change as it rises.
pub const LATCH: usize = spi::SELECT;
/// The output-enable line, active low; the last, and not always there.
pub const ENABLE: usize = 3;

/// The controller's end of the wires.
#[derive(Debug, Clone)]
pub struct Shift {
    wires: spi::Spi,
    lsb_first: bool,
    /// The level of the output-enable line, where there is one.
    enable: Option<bool>,
    turned: Vec<u8>,
}

impl Shift {
    /// A bus at this clock rate. `lsb_first` sends the least significant bit of each byte first;
    /// `has_enable` says whether output enable is driven.
    #[must_use]
    pub fn new(clock: Hertz, lsb_first: bool, has_enable: bool) -> Self {
        Self {
            wires: spi::Spi::new(clock),
            lsb_first,
            enable: has_enable.then_some(true),
            turned: Vec::new(),
        }
    }

    fn set_enable(&mut self, at: Nanos, level: bool, edges: &mut Vec<Edge>) {
        if let Some(held) = &mut self.enable
            && std::mem::replace(held, level) != level
        {
            edges.push(Edge { at, line: ENABLE, level });
        }
    }
}

impl Bus for Shift {
    fn name(&self) -> &'static str {
        "shift"
    }

    fn idle(&self) -> Vec<Option<bool>> {
        let mut idle = self.wires.idle();
        // A pull-up keeps the outputs off until the first transfer.
        idle.extend(self.enable.map(|_| Some(true)));
        idle
    }

    fn send(&mut self, bytes: &[u8], at: Nanos, edges: &mut Vec<Edge>) -> Nanos {
        if bytes.is_empty() {
            self.set_enable(at, true, edges);
            return at;
        }
        self.turned.clear();
        let lsb_first = self.lsb_first;
        self.turned.extend(bytes.iter().map(|byte| if lsb_first { byte.reverse_bits() } else { *byte }));
        let end = self.wires.send(&self.turned, at, edges);
        self.set_enable(end, false, edges);
        end
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_least_significant_bit_first_is_the_byte_turned_round() {
        let send = |lsb_first, byte| {
            let mut edges = Vec::new();
            Shift::new(Hertz(1_000_000), lsb_first, false).send(&[byte], Nanos(0), &mut edges);
            edges
        };
        assert_eq!(send(true, 0b1100_1000), send(false, 0b0001_0011));
    }

    #[test]
    fn enable_is_raised_by_an_empty_operation_and_lowered_after_the_latch() {
        let (mut bus, mut edges) = (Shift::new(Hertz(1_000_000), false, true), Vec::new());
        let end = bus.send(&[0], Nanos(0), &mut edges);
        assert_eq!(edges.last(), Some(&Edge { at: end, line: ENABLE, level: false }));
        edges.clear();
        bus.send(&[], end, &mut edges);
        assert_eq!(edges, [Edge { at: end, line: ENABLE, level: true }]);
    }
}
