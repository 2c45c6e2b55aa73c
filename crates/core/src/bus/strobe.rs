//! Three wires with a strobe, and a data line that turns round (tm1638).
//!
//! ```text
//!  strobe  ''\_________________________________________/''
//!  clock   '''''\_/'\_/'\_ ... _/'''''''''\_/'\_ ... _/'''
//!  data    ----< command, low bit first >---< part answers >---
//! ```
//!
//! Data is sampled on the rising clock, least significant bit first. When keys are read, the part drives data from
//! the falling clocks on; between the command and the first of them there is a pause.

use super::{Bus, Edge};
use crate::units::{Hertz, Nanos};

/// The place of each line in [`crate::drive::Drive::lines`].
pub const CLOCK: usize = 0;
/// DIO, driven by controller and part.
pub const DATA: usize = 1;
/// STB, low during a transfer.
pub const STROBE: usize = 2;

/// Between the last rising clock of the command and the first bit of the answer, at least.
pub const TURN_ROUND: Nanos = Nanos(1_000);

/// The controller's end of the three wires, with what the part does to them.
#[derive(Debug, Clone)]
pub struct Strobe {
    half: Nanos,
    data: bool,
}

impl Strobe {
    /// A bus at this clock rate.
    #[must_use]
    pub const fn new(clock: Hertz) -> Self {
        Self { half: clock.half_period(), data: true }
    }

    fn byte(&mut self, byte: u8, mut at: Nanos, edges: &mut Vec<Edge>) -> Nanos {
        for bit in 0..8 {
            edges.push(Edge { at, line: CLOCK, level: false });
            let level = byte >> bit & 1 == 1;
            if std::mem::replace(&mut self.data, level) != level {
                edges.push(Edge { at, line: DATA, level });
            }
            edges.push(Edge { at: at + self.half, line: CLOCK, level: true });
            at = at + self.half + self.half;
        }
        at
    }
}

impl Bus for Strobe {
    fn name(&self) -> &'static str {
        "strobe"
    }

    fn idle(&self) -> Vec<Option<bool>> {
        vec![Some(true); 3]
    }

    fn send(&mut self, bytes: &[u8], at: Nanos, edges: &mut Vec<Edge>) -> Nanos {
        self.exchange(bytes, &[], at, edges)
    }

    fn exchange(&mut self, bytes: &[u8], answer: &[u8], at: Nanos, edges: &mut Vec<Edge>) -> Nanos {
        edges.reserve((bytes.len() + answer.len()) * 24 + 2);
        edges.push(Edge { at, line: STROBE, level: false });
        let mut now = at + self.half;
        for byte in bytes {
            now = self.byte(*byte, now, edges);
        }
        if !answer.is_empty() {
            now = now + TURN_ROUND;
        }
        for byte in answer {
            now = self.byte(*byte, now, edges);
        }
        edges.push(Edge { at: now, line: STROBE, level: true });
        now + self.half
    }
}

/// What happens on the three wires.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Event {
    /// Strobe falls.
    Begin,
    /// Eight bits.
    Byte(u8),
    /// Strobe rises; so many bits were left over.
    End(u8),
}

/// Reads the three wires: edges to events.
#[derive(Debug, Clone)]
pub struct Listener {
    clock: bool,
    data: bool,
    strobe: bool,
    byte: u8,
    bits: u8,
}

impl Default for Listener {
    fn default() -> Self {
        Self { clock: true, data: true, strobe: true, byte: 0, bits: 0 }
    }
}

impl Listener {
    /// Takes one edge.
    pub fn take(&mut self, edge: &Edge) -> Option<Event> {
        match edge.line {
            DATA => self.data = edge.level,
            STROBE if edge.level != self.strobe => {
                self.strobe = edge.level;
                let left = std::mem::take(&mut self.bits);
                return Some(if edge.level { Event::End(left) } else { Event::Begin });
            }
            CLOCK if edge.level != self.clock => {
                self.clock = edge.level;
                if edge.level && !self.strobe {
                    self.byte = self.byte >> 1 | u8::from(self.data) << 7;
                    self.bits += 1;
                    if self.bits == 8 {
                        self.bits = 0;
                        return Some(Event::Byte(self.byte));
                    }
                }
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
        fn what_is_sent_and_answered_is_heard(
            bytes in prop::collection::vec(any::<u8>(), 0..20),
            answer in prop::collection::vec(any::<u8>(), 0..5),
        ) {
            let mut edges = Vec::new();
            let end = Strobe::new(Hertz(1_000_000)).exchange(&bytes, &answer, Nanos(5), &mut edges);
            prop_assert!(edges.is_sorted_by_key(|edge| edge.at) && edges.iter().all(|edge| edge.at < end));
            let mut listener = Listener::default();
            let heard: Vec<_> = edges.iter().filter_map(|edge| listener.take(edge)).collect();
            let all = bytes.iter().chain(&answer).map(|byte| Event::Byte(*byte));
            let sent: Vec<_> = std::iter::once(Event::Begin).chain(all).chain([Event::End(0)]).collect();
            prop_assert_eq!(heard, sent);
        }
    }
}
