//! I2C: two wires, open drain, with addresses and acknowledges.
//!
//! ```text
//!        start  7-bit address, write   ack    8 data bits   ack  stop
//!  data  '\_____<a6>...<a0>_______\____lo____<d7>...<d0>____lo___/'
//!  clock ''\_____/'\...../'\___/'\____/'\____/'\.../'\_____/'\__/''
//! ```
//!
//! Data changes while the clock is low; a fall of data while the clock is high is a start, a rise a stop. The
//! part that is addressed pulls data low for the ninth clock. The first byte of an operation is the address
//! shifted left by one, with 0 for a write in its last bit.

use super::{Bus, Edge};
use crate::units::{Hertz, Nanos};

/// The place of each line in [`crate::drive::Drive::lines`]: SCL.
pub const CLOCK: usize = 0;
/// SDA, driven by controller and part.
pub const DATA: usize = 1;

/// The controller's end of the two wires, with the parts' acknowledges as they come back over them.
#[derive(Debug, Clone)]
pub struct I2c {
    half: Nanos,
    /// The addresses at which a part answers.
    answering: Vec<u8>,
    data: bool,
}

impl I2c {
    /// A bus at this clock rate, with parts at these 7-bit addresses.
    #[must_use]
    pub const fn new(clock: Hertz, answering: Vec<u8>) -> Self {
        Self { half: clock.half_period(), answering, data: true }
    }

    fn set_data(&mut self, at: Nanos, level: bool, edges: &mut Vec<Edge>) {
        if std::mem::replace(&mut self.data, level) != level {
            edges.push(Edge { at, line: DATA, level });
        }
    }

    /// One clock of data, begun at a falling clock. Returns when the clock has fallen again.
    fn clock_out(&mut self, bit: bool, low: Nanos, edges: &mut Vec<Edge>) -> Nanos {
        self.set_data(low + Nanos(self.half.0 / 2), bit, edges);
        let high = low + self.half;
        edges.push(Edge { at: high, line: CLOCK, level: true });
        edges.push(Edge { at: high + self.half, line: CLOCK, level: false });
        high + self.half
    }

    /// A byte and its acknowledge.
    fn byte(&mut self, byte: u8, acknowledged: bool, mut low: Nanos, edges: &mut Vec<Edge>) -> Nanos {
        for bit in (0..8).rev() {
            low = self.clock_out(byte >> bit & 1 == 1, low, edges);
        }
        self.clock_out(!acknowledged, low, edges)
    }
}

impl Bus for I2c {
    fn name(&self) -> &'static str {
        "i2c"
    }

    fn idle(&self) -> Vec<Option<bool>> {
        vec![Some(true); 2]
    }

    fn send(&mut self, bytes: &[u8], at: Nanos, edges: &mut Vec<Edge>) -> Nanos {
        self.exchange(bytes, &[], at, edges)
    }

    fn exchange(&mut self, bytes: &[u8], answer: &[u8], at: Nanos, edges: &mut Vec<Edge>) -> Nanos {
        let answered = bytes.first().is_some_and(|first| self.answering.contains(&(first >> 1)));
        edges.reserve((bytes.len() + answer.len()) * 27 + 10);
        self.set_data(at, false, edges);
        let mut low = at + self.half;
        edges.push(Edge { at: low, line: CLOCK, level: false });
        for byte in bytes {
            low = self.byte(*byte, answered, low, edges);
            if !answered {
                break;
            }
        }
        if let Some(address) = bytes.first().filter(|_| answered && !answer.is_empty()) {
            // A repeated start: data high, clock high, data falls.
            self.set_data(low + Nanos(self.half.0 / 2), true, edges);
            let high = low + self.half;
            edges.push(Edge { at: high, line: CLOCK, level: true });
            self.set_data(high + self.half, false, edges);
            low = high + self.half + self.half;
            edges.push(Edge { at: low, line: CLOCK, level: false });
            low = self.byte(address | 1, true, low, edges);
            for (index, byte) in answer.iter().enumerate() {
                // The controller acknowledges every byte but the last that it wants.
                low = self.byte(*byte, index + 1 < answer.len(), low, edges);
            }
        }
        self.set_data(low + Nanos(self.half.0 / 2), false, edges);
        let high = low + self.half;
        edges.push(Edge { at: high, line: CLOCK, level: true });
        let stop = high + self.half;
        self.set_data(stop, true, edges);
        // Between stop and start the bus stays free for as long as the clock is low in a bit.
        stop + self.half
    }
}

/// What happens on the two wires.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Event {
    /// A transfer begins, or begins anew.
    Start,
    /// Eight bits and their acknowledge.
    Byte {
        /// The bits, the first received the most significant.
        value: u8,
        /// Whether data was low at the ninth clock.
        acknowledged: bool,
    },
    /// The transfer ends.
    Stop,
}

/// Reads the two wires: edges to events. However long a part stretches the clock, and whatever comes, it
/// reads on.
#[derive(Debug, Clone)]
pub struct Listener {
    clock: bool,
    data: bool,
    /// The bits since the start or the last byte, while a transfer lasts.
    bits: Option<(u16, u8)>,
}

impl Default for Listener {
    fn default() -> Self {
        Self { clock: true, data: true, bits: None }
    }
}

impl Listener {
    /// How many bits of a byte have come and are not yet one.
    #[must_use]
    pub fn bits(&self) -> u8 {
        self.bits.map_or(0, |(_, count)| count)
    }

    /// Takes one edge.
    pub fn take(&mut self, edge: &Edge) -> Option<Event> {
        match edge.line {
            CLOCK if edge.level != self.clock => {
                self.clock = edge.level;
                if edge.level { self.sample() } else { None }
            }
            DATA if edge.level != self.data => {
                self.data = edge.level;
                match (self.clock, edge.level) {
                    (false, _) => None,
                    (true, false) => {
                        self.bits = Some((0, 0));
                        Some(Event::Start)
                    }
                    (true, true) => self.bits.take().map(|_| Event::Stop),
                }
            }
            _ => None,
        }
    }

    fn sample(&mut self) -> Option<Event> {
        let (bits, count) = self.bits.as_mut()?;
        *bits = *bits << 1 | u16::from(self.data);
        *count += 1;
        if *count < 9 {
            return None;
        }
        let byte = Event::Byte { value: (*bits >> 1) as u8, acknowledged: *bits & 1 == 0 };
        self.bits = Some((0, 0));
        Some(byte)
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    fn events(bytes: &[u8], answering: &[u8]) -> Vec<Event> {
        let mut edges = Vec::new();
        I2c::new(Hertz(100_000), answering.to_vec()).send(bytes, Nanos(0), &mut edges);
        assert!(edges.is_sorted_by_key(|edge| edge.at));
        let mut listener = Listener::default();
        edges.iter().filter_map(|edge| listener.take(edge)).collect()
    }

    #[test]
    fn a_write_to_an_address_nobody_has_ends_after_it() {
        let unanswered = Event::Byte { value: 0x42, acknowledged: false };
        assert_eq!(events(&[0x42, 0xFF], &[0x20]), [Event::Start, unanswered, Event::Stop]);
    }

    proptest! {
        #[test]
        fn what_is_sent_is_heard(address in 0..0x80_u8, data in prop::collection::vec(any::<u8>(), 0..20)) {
            let sent: Vec<u8> = std::iter::once(address << 1).chain(data).collect();
            let byte = |value: &u8| Event::Byte { value: *value, acknowledged: true };
            let expected: Vec<_> =
                std::iter::once(Event::Start).chain(sent.iter().map(byte)).chain([Event::Stop]).collect();
            prop_assert_eq!(events(&sent, &[address]), expected);
        }

        #[test]
        fn any_edges_are_survived(edges in prop::collection::vec((0..3_usize, any::<bool>()), 0..200)) {
            let mut listener = Listener::default();
            for (line, level) in edges {
                listener.take(&Edge { at: Nanos(0), line, level });
            }
        }
    }
}
