//! Transfers in one piece: what a part hears of them byte by byte, without their edges.
//!
//! Where a controller and one part are alone on sound wires, edges bring the part nothing that its bytes do not. Each protocol says
//! here when every byte is complete; a test for all transfers holds that to the edges.

use super::{Protocol, Reply, Transfer, i2c, spi, strobe, two_wire};
use crate::units::{Hertz, Nanos};

/// A part as it takes bytes.
pub trait Bytewise {
    /// A transfer begins, or a repeated start.
    fn begin(&mut self, at: Nanos);

    /// A byte is complete. Whether the part acknowledges it; what it says to that on a bus without acknowledge is not heard.
    fn written(&mut self, byte: u8, at: Nanos) -> bool;

    /// Bytes are complete on a bus without acknowledge, each at its moment, by its place among them.
    fn all_written(&mut self, bytes: &[u8], at: &dyn Fn(usize) -> Nanos) {
        for (place, byte) in bytes.iter().enumerate() {
            self.written(*byte, at(place));
        }
    }

    /// The byte that the part gives, complete at `at`. From one that gives none the pull-up is read.
    fn read(&mut self, at: Nanos) -> u8 {
        let _ = at;
        0xFF
    }

    /// The transfer ends.
    fn end(&mut self, at: Nanos);

    /// Bytes are for another part whose lines are this one's too, but for the select.
    fn overheard(&mut self, bytes: &[u8]) {
        let _ = bytes;
    }
}

/// Up to this clock a part answers long before its answer is looked at. Beyond it the edges tell.
const FASTEST: Hertz = Hertz(1_000_000);

impl Protocol {
    /// Carries a transfer out from `at` on as bytes. Returns `None` if it must be sent edge by edge.
    pub fn send_whole(
        &self,
        transfer: Transfer<'_>,
        at: Nanos,
        part: &mut (impl Bytewise + ?Sized),
    ) -> Option<Reply> {
        let mut reply = Reply { acknowledged: true, began: at, ended: at, ..Reply::default() };
        match (self, transfer) {
            (Self::Spi(spi), Transfer::Spi { bytes }) => under_select(spi, bytes, part, &mut reply),
            (Self::I2c(i2c), Transfer::I2c { address, bytes, reads }) if i2c.clock <= FASTEST => {
                to_address(i2c, address, bytes, reads, part, &mut reply);
            }
            (Self::TwoWire(two_wire), Transfer::TwoWire { bytes, reads }) if two_wire.clock <= FASTEST => {
                between_start_and_stop(two_wire, bytes, reads, part, &mut reply);
            }
            (Self::Strobe(strobe), Transfer::Strobe { bytes, reads }) if strobe.clock <= FASTEST => {
                under_strobe(strobe, bytes, reads, part, &mut reply);
            }
            _ => return None,
        }
        Some(reply)
    }

    /// The line that such a transfer leaves otherwise than it may have found it, and what the controller does to it from then on.
    #[must_use]
    pub fn leaves(&self, transfer: Transfer<'_>) -> Option<(usize, Option<bool>)> {
        match (self, transfer) {
            (Self::Spi(_), Transfer::Spi { bytes: [.., last] }) => Some((spi::DATA, Some(last & 1 == 1))),
            (Self::Strobe(_), Transfer::Strobe { reads: 1.., .. }) => Some((strobe::DATA, None)),
            (Self::Strobe(_), Transfer::Strobe { bytes: [.., last], .. }) => {
                Some((strobe::DATA, Some(last >> 7 == 1)))
            }
            _ => None,
        }
    }
}

fn under_select(spi: &spi::Spi, bytes: &[u8], part: &mut (impl Bytewise + ?Sized), reply: &mut Reply) {
    let half = spi.clock.half_period();
    part.begin(reply.began);
    let fell = |count: usize| reply.began + Nanos(16 * half.0 * count as u64);
    // The last clock of a byte rose half a period before it fell.
    part.all_written(bytes, &|place| fell(place + 1) - half);
    let at = fell(bytes.len());
    part.end(at + half);
    reply.ended = at + half + half;
}

fn to_address(
    i2c: &i2c::I2c,
    address: u8,
    bytes: &[u8],
    reads: usize,
    part: &mut (impl Bytewise + ?Sized),
    reply: &mut Reply,
) {
    let (low, high) = i2c.times();
    let byte = Nanos(9 * (low + high).0);
    part.begin(reply.began);
    // When the clock fell last.
    let mut fell = reply.began + high;
    // A byte is complete as its ninth clock rises.
    let complete = |fell: &mut Nanos| {
        *fell = *fell + byte;
        *fell - high
    };
    reply.acknowledged = std::iter::once(address << 1)
        .chain(bytes.iter().copied())
        .all(|byte| part.written(byte, complete(&mut fell)));
    if reads > 0 && reply.acknowledged {
        let again = fell + low + low;
        part.begin(again);
        fell = again + high;
        reply.acknowledged = part.written(address << 1 | 1, complete(&mut fell));
        if reply.acknowledged {
            reply.bytes = (0..reads).map(|_| part.read(complete(&mut fell))).collect();
        }
    }
    let stop = fell + low + high;
    part.end(stop);
    reply.ended = stop + low;
}

fn between_start_and_stop(
    two_wire: &two_wire::TwoWire,
    bytes: &[u8],
    reads: usize,
    part: &mut (impl Bytewise + ?Sized),
    reply: &mut Reply,
) {
    let half = two_wire.clock.half_period();
    part.begin(reply.began);
    let mut fell = reply.began + half;
    let mut complete = || {
        fell = fell + Nanos(18 * half.0);
        fell - half
    };
    for byte in bytes {
        reply.acknowledged &= part.written(*byte, complete());
    }
    reply.bytes = (0..reads).map(|_| part.read(complete())).collect();
    let stop = fell + half + half;
    part.end(stop);
    reply.ended = stop + half;
}

fn under_strobe(
    strobe: &strobe::Strobe,
    bytes: &[u8],
    reads: usize,
    part: &mut (impl Bytewise + ?Sized),
    reply: &mut Reply,
) {
    let half = strobe.clock.half_period();
    let pause = strobe.pause();
    part.begin(reply.began);
    // When the clock may fall next; it rose half a period before.
    let mut next = reply.began + half;
    let complete = |next: &mut Nanos| {
        *next = *next + Nanos(16 * half.0);
        *next - half
    };
    for byte in bytes {
        part.written(*byte, complete(&mut next));
    }
    if reads > 0 {
        next = next.max(next - half + pause);
    }
    reply.bytes = (0..reads).map(|_| part.read(complete(&mut next))).collect();
    let end = if bytes.is_empty() && reads == 0 { next } else { next.max(next - half + pause) };
    part.end(end);
    reply.ended = end + pause;
}
