//! Three wires to a shift register: clock, data and a select that frames each transfer.
//!
//! Bytes go most significant bit first. Data changes while the clock is low and is sampled on its rising edge; select
//! falls half a period before the first rising clock and rises half a period after the last clock fell.

use super::{Edge, Wires};
use crate::units::{Hertz, Nanos};

/// The number of each line: the clock.
pub const CLOCK: usize = 0;
/// The data line: controller to part.
pub const DATA: usize = 1;
/// The select line: low during a transfer, latching as it rises.
pub const SELECT: usize = 2;

/// The lines between transfers.
pub const IDLE: [Option<bool>; 3] = [Some(false), Some(false), Some(true)];

/// The controller's end of the three wires.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Spi {
    /// The clock rate.
    pub clock: Hertz,
}

impl Spi {
    /// Sends bytes under one select. Returns when the next transfer may begin.
    pub fn send(&self, bytes: &[u8], mut at: Nanos, wires: &mut impl Wires) -> Nanos {
        let half = self.clock.half_period();
        wires.drive(at, SELECT, Some(false));
        for byte in bytes {
            for bit in (0..8).rev() {
                wires.drive(at, DATA, Some(byte >> bit & 1 == 1));
                wires.drive(at + half, CLOCK, Some(true));
                at = at + half + half;
                wires.drive(at, CLOCK, Some(false));
            }
        }
        let latch = at + half;
        wires.drive(latch, SELECT, Some(true));
        latch + half
    }
}

/// Reads the three wires: edges to what each transfer carried.
#[derive(Debug, Clone)]
pub struct Listener {
    clock: bool,
    data: bool,
    select: bool,
    bytes: Vec<u8>,
    /// Bits of the byte that is not yet whole.
    byte: u8,
    bits: u8,
}

/// A transfer, complete as select rises.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Transfer {
    /// Its whole bytes.
    pub bytes: Vec<u8>,
    /// Bits that were left over.
    pub left: u8,
}

impl Default for Listener {
    fn default() -> Self {
        Self { clock: false, data: false, select: true, bytes: Vec::new(), byte: 0, bits: 0 }
    }
}

impl Listener {
    /// More bytes than a chain of the longest takes are not kept.
    const MOST: usize = 4096;

    /// The levels of the lines as power comes.
    pub fn wake(&mut self, levels: &[Option<bool>]) {
        let level = |line: usize, usual| levels.get(line).copied().flatten().unwrap_or(usual);
        (self.clock, self.data, self.select) = (level(CLOCK, false), level(DATA, false), level(SELECT, true));
    }

    /// Takes one edge.
    pub fn take(&mut self, edge: &Edge) -> Option<Transfer> {
        match edge.line {
            DATA => self.data = edge.level,
            CLOCK if edge.level != self.clock => {
                self.clock = edge.level;
                if edge.level && !self.select {
                    self.byte = self.byte << 1 | u8::from(self.data);
                    self.bits += 1;
                    if self.bits == 8 {
                        self.bits = 0;
                        if self.bytes.len() < Self::MOST {
                            self.bytes.push(self.byte);
                        }
                    }
                }
            }
            SELECT if edge.level != self.select => {
                self.select = edge.level;
                let transfer = Transfer { bytes: std::mem::take(&mut self.bytes), left: self.bits };
                self.bits = 0;
                return edge.level.then_some(transfer);
            }
            _ => {}
        }
        None
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::bus::Unanswered;
    use proptest::prelude::*;

    proptest! {
        #[test]
        fn what_is_sent_is_heard(bytes in prop::collection::vec(any::<u8>(), 0..40), clock in 1_000..10_000_000_u32) {
            let (bus, mut listener) = (Spi { clock: Hertz(clock) }, Listener::default());
            let mut wires = Unanswered { levels: IDLE.to_vec(), edges: Vec::new() };
            let end = bus.send(&bytes, Nanos(0), &mut wires);
            bus.send(&bytes, end, &mut wires);
            let heard: Vec<_> = wires.edges.iter().filter_map(|edge| listener.take(edge)).collect();
            prop_assert_eq!(heard, vec![Transfer { bytes, left: 0 }; 2]);
        }
    }

    #[test]
    fn a_level_that_is_told_twice_is_one_clock() {
        let mut listener = Listener::default();
        let edge = |line, level| Edge { at: Nanos(0), line, level };
        let clocks = [true, true, false].map(|level| edge(CLOCK, level));
        let edges = [&[edge(SELECT, false)], &clocks[..], &[edge(SELECT, true)]].concat();
        let heard: Vec<_> = edges.iter().filter_map(|edge| listener.take(edge)).collect();
        assert_eq!(heard, [Transfer { bytes: Vec::new(), left: 1 }]);
    }

    #[test]
    fn a_byte_is_framed_by_select_and_sampled_on_rising_clock() {
        let mut wires = Unanswered { levels: IDLE.to_vec(), edges: Vec::new() };
        let end = Spi { clock: Hertz(1_000_000) }.send(&[0xA0], Nanos(0), &mut wires);
        let edges = wires.edges;
        let (mut data, mut sampled) = (false, Vec::new());
        for edge in &edges {
            match (edge.line, edge.level) {
                (DATA, level) => data = level,
                (CLOCK, true) => sampled.push(data),
                _ => {}
            }
        }
        assert_eq!(sampled, [true, false, true, false, false, false, false, false]);
        assert_eq!(edges[0], Edge { at: Nanos(0), line: SELECT, level: false });
        assert_eq!(edges[edges.len() - 1], Edge { at: Nanos(8_500), line: SELECT, level: true });
        assert_eq!(end, Nanos(9_000));
        assert!(edges.is_sorted_by_key(|edge| edge.at));
    }
}
