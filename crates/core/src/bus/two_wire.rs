//! Two wires with acknowledge and no address (tm1637).
//!
//! As on I2C a fall of data while the clock is high begins a transfer and a rise ends it, and there is a ninth clock
//! for the part's acknowledge. But there is no address, and bytes go least significant bit first. From the eighth
//! falling clock to the ninth the part pulls data low.

use super::{Bus, Edge, i2c};
use crate::units::{Hertz, Nanos};

/// The place of each line in [`crate::drive::Drive::lines`].
pub const CLOCK: usize = 0;
/// DIO, driven by controller and part.
pub const DATA: usize = 1;

/// The controller's end of the two wires, with what the part does to them.
#[derive(Debug, Clone)]
pub struct TwoWire {
    half: Nanos,
    data: bool,
}

impl TwoWire {
    /// A bus at this clock rate.
    #[must_use]
    pub const fn new(clock: Hertz) -> Self {
        Self { half: clock.half_period(), data: true }
    }

    fn set_data(&mut self, at: Nanos, level: bool, edges: &mut Vec<Edge>) {
        if std::mem::replace(&mut self.data, level) != level {
            edges.push(Edge { at, line: DATA, level });
        }
    }

    fn quarter(&self) -> Nanos {
        Nanos(self.half.0 / 4)
    }

    fn bit(&mut self, level: bool, low: Nanos, edges: &mut Vec<Edge>) -> Nanos {
        self.set_data(low + self.quarter() + self.quarter(), level, edges);
        edges.push(Edge { at: low + self.half, line: CLOCK, level: true });
        let fallen = low + self.half + self.half;
        edges.push(Edge { at: fallen, line: CLOCK, level: false });
        fallen
    }

    /// Eight bits, and the ninth clock that the part answers.
    fn byte(&mut self, byte: u8, mut low: Nanos, edges: &mut Vec<Edge>) -> Nanos {
        for bit in 0..8 {
            low = self.bit(byte >> bit & 1 == 1, low, edges);
        }
        // The part pulls low as soon as it has seen the eighth fall.
        self.set_data(low + self.quarter(), false, edges);
        self.bit(false, low, edges)
    }
}

impl Bus for TwoWire {
    fn name(&self) -> &'static str {
        "two-wire"
    }

    fn idle(&self) -> Vec<Option<bool>> {
        vec![Some(true); 2]
    }

    fn send(&mut self, bytes: &[u8], at: Nanos, edges: &mut Vec<Edge>) -> Nanos {
        self.exchange(bytes, &[], at, edges)
    }

    fn exchange(&mut self, bytes: &[u8], answer: &[u8], at: Nanos, edges: &mut Vec<Edge>) -> Nanos {
        edges.reserve((bytes.len() + answer.len()) * 27 + 5);
        self.set_data(at, false, edges);
        let mut low = at + self.half;
        edges.push(Edge { at: low, line: CLOCK, level: false });
        for byte in bytes.iter().chain(answer) {
            low = self.byte(*byte, low, edges);
        }
        self.set_data(low + self.quarter() + self.quarter(), false, edges);
        let high = low + self.half;
        edges.push(Edge { at: high, line: CLOCK, level: true });
        let stop = high + self.half;
        self.set_data(stop, true, edges);
        stop + self.half
    }
}

/// Reads the two wires: edges to events, bytes least significant bit first.
#[derive(Debug, Clone, Default)]
pub struct Listener(i2c::Listener);

impl Listener {
    /// Takes one edge.
    pub fn take(&mut self, edge: &Edge) -> Option<i2c::Event> {
        match self.0.take(edge)? {
            i2c::Event::Byte { value, acknowledged } => {
                Some(i2c::Event::Byte { value: value.reverse_bits(), acknowledged })
            }
            event => Some(event),
        }
    }

    /// How many bits of a byte have come and are not yet one.
    #[must_use]
    pub fn bits(&self) -> u8 {
        self.0.bits()
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    proptest! {
        #[test]
        fn what_is_sent_is_heard(bytes in prop::collection::vec(any::<u8>(), 0..20), clock in 1_000..1_000_000_u32) {
            let mut edges = Vec::new();
            let end = TwoWire::new(Hertz(clock)).send(&bytes, Nanos(5), &mut edges);
            prop_assert!(edges.is_sorted_by_key(|edge| edge.at) && edges.iter().all(|edge| edge.at < end));
            let mut listener = Listener::default();
            let heard: Vec<_> = edges.iter().filter_map(|edge| listener.take(edge)).collect();
            let byte = |value: &u8| i2c::Event::Byte { value: *value, acknowledged: true };
            let sent: Vec<_> =
                std::iter::once(i2c::Event::Start).chain(bytes.iter().map(byte)).chain([i2c::Event::Stop]).collect();
            prop_assert_eq!(heard, sent);
        }
    }
}
