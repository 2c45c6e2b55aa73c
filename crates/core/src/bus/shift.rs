//! Three wires to a chain of shift registers with a latch, and perhaps a fourth to their output enable.
//!
//! ```text
//!  data    ___/'''\_______/'''
//!  clock   ____/'\_/'\_/'\_/'\____        sampled as it rises
//!  latch   '\_____________________/'      outputs change as it rises
//!  enable  ''''''''''''''''''''''''\__    outputs on while it is low
//! ```
//!
//! A shift ends with the latch, and then lowers enable where that is driven.

use super::{Wires, spi};
use crate::units::{Hertz, Nanos};

/// The number of each line: SRCLK.
pub const CLOCK: usize = spi::CLOCK;
/// SER of the first register.
pub const DATA: usize = spi::DATA;
/// RCLK: outputs change as it rises.
pub const LATCH: usize = spi::SELECT;
/// Output enable, active low; the last, and not always there.
pub const ENABLE: usize = 3;

/// The controller's end of the wires.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Shift {
    /// The clock rate.
    pub clock: Hertz,
    /// True if the serial port sends the least significant bit of each byte first.
    pub lsb_first: bool,
    /// True if output enable is driven.
    pub has_enable: bool,
}

impl Shift {
    /// The lines between transfers. A pull-up keeps the outputs off until the first.
    #[must_use]
    pub fn idle(&self) -> Vec<Option<bool>> {
        let enable = self.has_enable.then_some(Some(true));
        spi::IDLE.into_iter().chain(enable).collect()
    }

    /// Shifts bytes in, latches them, and lets the outputs drive. Returns when the next transfer may begin.
    pub fn send(&self, bytes: &[u8], mut at: Nanos, wires: &mut impl Wires) -> Nanos {
        let half = self.clock.half_period();
        wires.drive(at, LATCH, Some(false));
        for byte in bytes {
            for place in 0..8 {
                let bit = if self.lsb_first { place } else { 7 - place };
                wires.drive(at, DATA, Some(byte >> bit & 1 == 1));
                wires.drive(at + half, CLOCK, Some(true));
                at = at + half + half;
                wires.drive(at, CLOCK, Some(false));
            }
        }
        wires.drive(at + half, LATCH, Some(true));
        let end = at + half + half;
        if self.has_enable {
            wires.drive(end, ENABLE, Some(false));
        }
        end
    }

    /// Puts the outputs off until the next transfer.
    pub fn outputs_off(&self, at: Nanos, wires: &mut impl Wires) {
        if self.has_enable {
            wires.drive(at, ENABLE, Some(true));
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::bus::{Edge, Protocol, Unanswered};

    fn bus(lsb_first: bool, has_enable: bool) -> (Shift, Unanswered) {
        let shift = Shift { clock: Hertz(1_000_000), lsb_first, has_enable };
        (shift, Unanswered::of(&Protocol::Shift(shift)))
    }

    #[test]
    fn the_least_significant_bit_first_is_the_byte_turned_round() {
        let send = |lsb_first, byte| {
            let (shift, mut wires) = bus(lsb_first, false);
            shift.send(&[byte], Nanos(0), &mut wires);
            wires.edges
        };
        assert_eq!(send(true, 0b1100_1000), send(false, 0b0001_0011));
    }

    #[test]
    fn enable_is_lowered_after_the_latch_and_raised_to_put_the_outputs_off() {
        let (shift, mut wires) = bus(false, true);
        let end = shift.send(&[0], Nanos(0), &mut wires);
        assert_eq!(wires.edges.last(), Some(&Edge { at: end, line: ENABLE, level: false }));
        wires.edges.clear();
        shift.outputs_off(end, &mut wires);
        assert_eq!(wires.edges, [Edge { at: end, line: ENABLE, level: true }]);
    }
}
