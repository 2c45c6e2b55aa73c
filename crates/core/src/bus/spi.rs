//! Three wires to a shift register: clock, data and a select that frames each transfer.
//!
//! Bytes go most significant bit first. Data changes while the clock is low and is sampled on its rising
//! edge; select falls half a period before the first bit and rises half a period after the last clock.

use super::{Bus, Edge};
use crate::units::{Hertz, Nanos};

/// The place of each line in [`crate::drive::Drive::lines`].
pub const CLOCK: usize = 0;
/// The data line: controller to part.
pub const DATA: usize = 1;
/// The select line: low during a transfer, latching as it rises.
pub const SELECT: usize = 2;

/// The controller's end of the three wires.
#[derive(Debug, Clone)]
pub struct Spi {
    half: Nanos,
    data: bool,
}

impl Spi {
    /// A bus at this clock rate.
    #[must_use]
    pub const fn new(clock: Hertz) -> Self {
        Self { half: clock.half_period(), data: false }
    }
}

impl Bus for Spi {
    fn name(&self) -> &'static str {
        "spi"
    }

    fn idle(&self) -> Vec<Option<bool>> {
        let mut idle = vec![None; 3];
        (idle[CLOCK], idle[DATA], idle[SELECT]) = (Some(false), Some(false), Some(true));
        idle
    }

    fn send(&mut self, bytes: &[u8], mut at: Nanos, edges: &mut Vec<Edge>) -> Nanos {
        edges.reserve(bytes.len() * 24 + 2);
        edges.push(Edge { at, line: SELECT, level: false });
        for byte in bytes {
            for bit in (0..8).rev() {
                let level = byte >> bit & 1 == 1;
                if level != self.data {
                    self.data = level;
                    edges.push(Edge { at, line: DATA, level });
                }
                edges.push(Edge { at: at + self.half, line: CLOCK, level: true });
                at = at + self.half + self.half;
                edges.push(Edge { at, line: CLOCK, level: false });
            }
        }
        let latch = at + self.half;
        edges.push(Edge { at: latch, line: SELECT, level: true });
        latch + self.half
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
    use proptest::prelude::*;

    proptest! {
        #[test]
        fn what_is_sent_is_heard(bytes in prop::collection::vec(any::<u8>(), 0..40), clock in 1_000..10_000_000_u32) {
            let (mut bus, mut listener, mut edges) = (Spi::new(Hertz(clock)), Listener::default(), Vec::new());
            let end = bus.send(&bytes, Nanos(0), &mut edges);
            bus.send(&bytes, end, &mut edges);
            let heard: Vec<_> = edges.iter().filter_map(|edge| listener.take(edge)).collect();
            prop_assert_eq!(heard, vec![Transfer { bytes, left: 0 }; 2]);
        }
    }

    #[test]
    fn a_byte_is_framed_by_select_and_sampled_on_rising_clock() {
        let mut edges = Vec::new();
        let end = Spi::new(Hertz(1_000_000)).send(&[0xA0], Nanos(0), &mut edges);
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
