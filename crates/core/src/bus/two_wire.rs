//! Two wires with acknowledge and no address (tm1637).
//!
//! As on I2C a fall of data while the clock is high begins a transfer and a rise ends it, and there is a ninth clock
//! for the part's acknowledge. But there is no address, and bytes go least significant bit first. From the eighth
//! falling clock to the ninth the part pulls data low. When keys are read, the part drives data from the ninth falling
//! clock of the command on, a bit a clock.

use super::{Edge, Reply, Wires, i2c};
use crate::units::{Hertz, Nanos};

/// The number of each line: CLK.
pub const CLOCK: usize = 0;
/// DIO, driven by controller and part.
pub const DATA: usize = 1;

/// The controller's end of the two wires.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct TwoWire {
    /// The clock rate.
    pub clock: Hertz,
}

impl TwoWire {
    /// One clock that begins at a falling one. Returns when it has fallen again, and data while it was high.
    fn bit(&self, level: Option<bool>, low: Nanos, wires: &mut impl Wires) -> (Nanos, bool) {
        let half = self.clock.half_period();
        wires.drive(low + Nanos(half.0 / 2), DATA, level);
        wires.drive(low + half, CLOCK, Some(true));
        let read = wires.read(low + half + Nanos(half.0 / 2), DATA);
        let fallen = low + half + half;
        wires.drive(fallen, CLOCK, Some(false));
        (fallen, read)
    }

    /// Sends bytes in a frame of their own, and reads what the part answers.
    pub fn send(&self, bytes: &[u8], reads: usize, wires: &mut impl Wires, reply: &mut Reply) {
        let half = self.clock.half_period();
        wires.drive(reply.began, DATA, Some(false));
        let mut low = reply.began + half;
        wires.drive(low, CLOCK, Some(false));
        for byte in bytes {
            for bit in 0..8 {
                low = self.bit(Some(byte >> bit & 1 == 1), low, wires).0;
            }
            let (fallen, refused) = self.bit(None, low, wires);
            low = fallen;
            reply.acknowledged &= !refused;
        }
        for _ in 0..reads {
            let mut byte = 0;
            for bit in 0..8 {
                let (fallen, level) = self.bit(None, low, wires);
                (low, byte) = (fallen, byte | u8::from(level) << bit);
            }
            let (fallen, refused) = self.bit(None, low, wires);
            low = fallen;
            reply.acknowledged &= !refused;
            reply.bytes.push(byte);
        }
        wires.drive(low + Nanos(half.0 / 2), DATA, Some(false));
        let high = low + half;
        wires.drive(high, CLOCK, Some(true));
        let stop = high + half;
        wires.drive(stop, DATA, None);
        reply.ended = stop + half;
    }
}

/// Reads the two wires: edges to events, bytes least significant bit first.
#[derive(Debug, Clone, Default)]
pub struct Listener(i2c::Listener);

impl Listener {
    /// The levels of the lines as power comes.
    pub fn wake(&mut self, levels: &[Option<bool>]) {
        self.0.wake(levels);
    }

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
    use crate::bus::{Protocol, Unanswered};
    use proptest::prelude::*;

    proptest! {
        #[test]
        fn what_is_sent_is_heard(bytes in prop::collection::vec(any::<u8>(), 0..20), clock in 1_000..1_000_000_u32) {
            let two_wire = TwoWire { clock: Hertz(clock) };
            let mut wires = Unanswered::of(&Protocol::TwoWire(two_wire));
            let mut reply = Reply { acknowledged: true, began: Nanos(5), ..Reply::default() };
            two_wire.send(&bytes, 0, &mut wires, &mut reply);
            let edges = wires.edges;
            prop_assert!(edges.is_sorted_by_key(|edge| edge.at) && edges.iter().all(|edge| edge.at < reply.ended));
            prop_assert_eq!(reply.acknowledged, bytes.is_empty(), "no part answers");
            let mut listener = Listener::default();
            let heard: Vec<_> = edges.iter().filter_map(|edge| listener.take(edge)).collect();
            let byte = |value: &u8| i2c::Event::Byte { value: *value, acknowledged: false };
            let sent: Vec<_> =
                std::iter::once(i2c::Event::Start).chain(bytes.iter().map(byte)).chain([i2c::Event::Stop]).collect();
            prop_assert_eq!(heard, sent);
        }
    }
}
