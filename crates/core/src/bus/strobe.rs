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

use super::{Edge, Reply, Wires};
use crate::units::{Hertz, Nanos};

/// The number of each line: CLK.
pub const CLOCK: usize = 0;
/// DIO, driven by controller and part.
pub const DATA: usize = 1;
/// STB, low during a transfer.
pub const STROBE: usize = 2;

/// The shortest of three times, however fast the clock: strobe high between transfers, the last rising clock to strobe,
/// and the command to the first bit of its answer (tm1638 data sheet, timing: PW_STB, t_CLK-STB, t_WAIT).
const PAUSE: Nanos = Nanos(1_000);

/// The controller's end of the three wires.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Strobe {
    /// The clock rate.
    pub clock: Hertz,
}

impl Strobe {
    /// Eight clocks from `at` on. Returns when the next may fall, and what was on the data line.
    fn byte(&self, byte: Option<u8>, mut at: Nanos, wires: &mut impl Wires) -> (Nanos, u8) {
        let half = self.clock.half_period();
        let mut read = 0;
        for bit in 0..8 {
            wires.drive(at, CLOCK, Some(false));
            wires.drive(at, DATA, byte.map(|byte| byte >> bit & 1 == 1));
            wires.drive(at + half, CLOCK, Some(true));
            read |= u8::from(wires.read(at + half, DATA)) << bit;
            at = at + half + half;
        }
        (at, read)
    }

    /// The longer of half a clock and the shortest that the part needs.
    #[must_use]
    pub fn pause(&self) -> Nanos {
        self.clock.half_period().max(PAUSE)
    }

    /// Sends bytes under one strobe, and reads what the part answers.
    pub fn send(&self, bytes: &[u8], reads: usize, wires: &mut impl Wires, reply: &mut Reply) {
        let half = self.clock.half_period();
        let pause = self.pause();
        wires.drive(reply.began, STROBE, Some(false));
        let mut now = reply.began + half;
        for byte in bytes {
            now = self.byte(Some(*byte), now, wires).0;
        }
        // The last clock rose half a period ago.
        let rose = now - half;
        if reads > 0 {
            wires.drive(rose + Nanos(pause.0 / 2), DATA, None);
            now = now.max(rose + pause);
        }
        for _ in 0..reads {
            let (end, byte) = self.byte(None, now, wires);
            now = end;
            reply.bytes.push(byte);
        }
        now = if bytes.is_empty() && reads == 0 { now } else { now.max(now - half + pause) };
        wires.drive(now, STROBE, Some(true));
        reply.ended = now + pause;
    }
}

/// An event on the three wires.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Event {
    /// Strobe falls.
    Begin,
    /// Eight bits.
    Byte(u8),
    /// Strobe rises, with this number of bits left over.
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
    /// The levels of the lines as power comes.
    pub fn wake(&mut self, levels: &[Option<bool>]) {
        let level = |line: usize| levels.get(line).copied().flatten().unwrap_or(true);
        (self.clock, self.data, self.strobe) = (level(CLOCK), level(DATA), level(STROBE));
    }

    /// How many bits of a byte have come and are not yet one.
    #[must_use]
    pub const fn bits(&self) -> u8 {
        self.bits
    }

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
    use crate::bus::{Protocol, Unanswered};
    use proptest::prelude::*;

    proptest! {
        #[test]
        fn what_is_sent_is_heard(
            bytes in prop::collection::vec(any::<u8>(), 0..20),
            reads in 0..5_usize,
            clock in 1_000..1_000_000_u32,
        ) {
            let strobe = Strobe { clock: Hertz(clock) };
            let mut wires = Unanswered::of(&Protocol::Strobe(strobe));
            let mut reply = Reply { began: Nanos(5), ..Reply::default() };
            strobe.send(&bytes, reads, &mut wires, &mut reply);
            let edges = wires.edges;
            prop_assert!(edges.is_sorted_by_key(|edge| edge.at) && edges.iter().all(|edge| edge.at < reply.ended));
            // Nobody answers: the pull-up is read.
            prop_assert_eq!(&reply.bytes, &vec![0xFF; reads]);
            let mut listener = Listener::default();
            let heard: Vec<_> = edges.iter().filter_map(|edge| listener.take(edge)).collect();
            let all = bytes.iter().copied().chain(std::iter::repeat_n(0xFF, reads)).map(Event::Byte);
            let sent: Vec<_> = std::iter::once(Event::Begin).chain(all).chain([Event::End(0)]).collect();
            prop_assert_eq!(heard, sent);
            // However fast the clock: a microsecond from the last rising clock to strobe, and one between transfers.
            let rose = edges.iter().rev().find(|edge| edge.line == CLOCK && edge.level);
            let strobe = edges.iter().rev().find(|edge| edge.line == STROBE).unwrap();
            prop_assert!(rose.is_none_or(|rose| strobe.at - rose.at >= PAUSE));
            prop_assert!(reply.ended - strobe.at >= PAUSE);
        }
    }
}
