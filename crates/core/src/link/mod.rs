//! Links: where operations go.
//!
//! A [`Link`] takes an operation and gives what came back. The [board](super::Board) is one; so is whatever carries
//! operations to real hardware. Other links may wrap it: one that reports every operation that
//! passes ([`Tap`]), one that sends everything to a second link too ([`FanOut`]), one that spoils what passes
//! ([`Faulty`]).

use super::Board;
use super::eye::Mark;
use crate::bus::{Op, Ops, Reply, Sink, Transfer};
use crate::plan::DeviceId;
use crate::units::Nanos;

/// Why a link could not carry an operation.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
pub enum LinkError {
    /// The rig has no such device.
    #[error("there is no device {} on bus {}", .0.device, .0.bus)]
    NoDevice(DeviceId),
    /// The hardware failed.
    #[error("{0}")]
    Failed(String),
}

/// Takes operations to where they are carried out.
pub trait Link {
    /// Carries out an operation of a device as soon as it may begin and its bus is free, and gives what came back.
    ///
    /// # Errors
    /// If it could not be carried out at all. A part that does not acknowledge is not an error: the reply says so.
    fn transfer(&mut self, device: DeviceId, op: &Op<'_>) -> Result<Reply, LinkError>;

    /// When the bus of a device is free.
    fn free_at(&self, device: DeviceId) -> Nanos;

    /// Returns true if a transfer to one of two devices delays the other.
    fn shares_time(&self, one: DeviceId, other: DeviceId) -> bool {
        let _ = (one, other);
        true
    }

    /// Lets time pass in which nothing is sent.
    fn pass(&mut self, now: Nanos) {
        let _ = now;
    }

    /// Where everything behind the link stands, when it is known so well that what comes again can be
    /// [repeated](Self::repeat) without sending it.
    fn standing(&mut self, now: Nanos) -> Option<Standing> {
        let _ = now;
        None
    }

    /// Returns true if everything stands again as it stood then.
    fn stands_as(&mut self, then: &Standing, now: Nanos) -> bool {
        let _ = (then, now);
        false
    }

    /// Counts the time since a standing `times` more times, as cycles of `span` each.
    fn repeat(&mut self, since: &Standing, times: u64, span: Nanos) {
        let _ = (since, times, span);
    }

    /// Returns true if asking parts for their push buttons changes nothing, nobody takes note of it, and they answer the same until
    /// a user presses one: then they need not be polled.
    fn answers_alike(&mut self) -> bool {
        false
    }
}

/// Where everything behind a link stands at a moment.
#[derive(Debug, Clone)]
pub struct Standing {
    /// All that what comes depends on: two moments with the same are the same but for their time.
    pub state: Vec<u64>,
    /// The observations of the eyes.
    pub marks: Vec<Mark>,
}

impl<L: Link + ?Sized> Link for &mut L {
    fn transfer(&mut self, device: DeviceId, op: &Op<'_>) -> Result<Reply, LinkError> {
        (**self).transfer(device, op)
    }

    fn free_at(&self, device: DeviceId) -> Nanos {
        (**self).free_at(device)
    }

    fn shares_time(&self, one: DeviceId, other: DeviceId) -> bool {
        (**self).shares_time(one, other)
    }

    fn pass(&mut self, now: Nanos) {
        (**self).pass(now);
    }

    fn standing(&mut self, now: Nanos) -> Option<Standing> {
        (**self).standing(now)
    }

    fn stands_as(&mut self, then: &Standing, now: Nanos) -> bool {
        (**self).stands_as(then, now)
    }

    fn repeat(&mut self, since: &Standing, times: u64, span: Nanos) {
        (**self).repeat(since, times, span);
    }

    fn answers_alike(&mut self) -> bool {
        (**self).answers_alike()
    }
}

/// Reports every operation after it was carried out.
pub struct Tap<L, F> {
    /// The link that carries them out.
    pub link: L,
    /// Gets the device, the operation, the reply, and the link.
    pub tell: F,
}

impl<L: Link, F: FnMut(DeviceId, &Op<'_>, &Reply, &mut L)> Link for Tap<L, F> {
    fn transfer(&mut self, device: DeviceId, op: &Op<'_>) -> Result<Reply, LinkError> {
        let reply = self.link.transfer(device, op)?;
        (self.tell)(device, op, &reply, &mut self.link);
        Ok(reply)
    }

    fn free_at(&self, device: DeviceId) -> Nanos {
        self.link.free_at(device)
    }

    fn pass(&mut self, now: Nanos) {
        self.link.pass(now);
    }
}

/// Reports operations as a [`Tap`] does, except those of scan cycles that are skipped because they repeat:
/// what is watched for a look costs no more than it did.
pub struct Glance<L, F> {
    /// The link that carries them out.
    pub link: L,
    /// Gets the device, the operation, and the reply.
    pub tell: F,
}

impl<L: Link, F: FnMut(DeviceId, &Op<'_>, &Reply)> Link for Glance<L, F> {
    fn transfer(&mut self, device: DeviceId, op: &Op<'_>) -> Result<Reply, LinkError> {
        let reply = self.link.transfer(device, op)?;
        (self.tell)(device, op, &reply);
        Ok(reply)
    }

    fn free_at(&self, device: DeviceId) -> Nanos {
        self.link.free_at(device)
    }

    fn pass(&mut self, now: Nanos) {
        self.link.pass(now);
    }

    fn standing(&mut self, now: Nanos) -> Option<Standing> {
        self.link.standing(now)
    }

    fn stands_as(&mut self, then: &Standing, now: Nanos) -> bool {
        self.link.stands_as(then, now)
    }

    fn repeat(&mut self, since: &Standing, times: u64, span: Nanos) {
        self.link.repeat(since, times, span);
    }
}

/// A link that ends at a board, whatever stands before it.
pub trait OnBoard<'b>: Link {
    /// The board.
    fn board(&mut self) -> &mut Board<'b>;
}

impl<'b> OnBoard<'b> for Board<'b> {
    fn board(&mut self) -> &mut Board<'b> {
        self
    }
}

impl<'b, L: OnBoard<'b>, F: FnMut(DeviceId, &Op<'_>, &Reply)> OnBoard<'b> for Glance<L, F> {
    fn board(&mut self) -> &mut Board<'b> {
        self.link.board()
    }
}

impl<'b, L, F> OnBoard<'b> for Tap<L, F>
where
    L: OnBoard<'b>,
    F: FnMut(DeviceId, &Op<'_>, &Reply, &mut L),
{
    fn board(&mut self) -> &mut Board<'b> {
        self.link.board()
    }
}

/// Sends everything to two links; what the first gives back counts.
pub struct FanOut<A, B> {
    /// Whose replies count.
    pub first: A,
    /// Who gets the same.
    pub second: B,
}

impl<A: Link, B: Link> Link for FanOut<A, B> {
    fn transfer(&mut self, device: DeviceId, op: &Op<'_>) -> Result<Reply, LinkError> {
        let reply = self.first.transfer(device, op)?;
        self.second.transfer(device, op)?;
        Ok(reply)
    }

    fn free_at(&self, device: DeviceId) -> Nanos {
        self.first.free_at(device).max(self.second.free_at(device))
    }

    fn pass(&mut self, now: Nanos) {
        self.first.pass(now);
        self.second.pass(now);
    }
}

/// The fault that a [`Faulty`] link applies to an operation.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum OpFault {
    /// It never arrives.
    Lost,
    /// A bit of what is written is the other way round, counted from the first byte's least significant.
    Flipped {
        /// Which.
        bit: usize,
    },
    /// It arrives twice.
    Twice,
}

/// Spoils one operation on its way.
pub struct Faulty<L> {
    /// The link behind.
    pub link: L,
    /// The fault.
    pub fault: OpFault,
    /// How many operations pass before.
    pub after: usize,
    passed: usize,
    spoiled: Ops,
}

impl<L> Faulty<L> {
    /// Spoils the operation after so many.
    pub fn new(link: L, fault: OpFault, after: usize) -> Self {
        Self { link, fault, after, passed: 0, spoiled: Ops::default() }
    }
}

impl<L: Link> Link for Faulty<L> {
    fn transfer(&mut self, device: DeviceId, op: &Op<'_>) -> Result<Reply, LinkError> {
        let is_it = self.passed == self.after;
        self.passed += 1;
        if !is_it {
            return self.link.transfer(device, op);
        }
        match self.fault {
            OpFault::Lost => {
                let at = self.link.free_at(device).max(op.not_before);
                Ok(Reply { acknowledged: true, began: at, ended: at, ..Reply::default() })
            }
            OpFault::Twice => {
                self.link.transfer(device, op)?;
                self.link.transfer(device, op)
            }
            OpFault::Flipped { bit } => {
                let mut bytes = op.transfer.bytes().to_vec();
                if let Some(byte) = bytes.get_mut(bit / 8) {
                    *byte ^= 1 << (bit % 8);
                }
                self.spoiled.clear();
                self.spoiled.put(op.role, with_bytes(op.transfer, &bytes));
                let transfer = self.spoiled.get(0).map_or(op.transfer, |spoiled| spoiled.transfer);
                self.link.transfer(device, &Op { transfer, ..*op })
            }
        }
    }

    fn free_at(&self, device: DeviceId) -> Nanos {
        self.link.free_at(device)
    }

    fn pass(&mut self, now: Nanos) {
        self.link.pass(now);
    }
}

/// The same transfer with other bytes.
const fn with_bytes<'a>(transfer: Transfer<'a>, bytes: &'a [u8]) -> Transfer<'a> {
    match transfer {
        Transfer::Spi { .. } => Transfer::Spi { bytes },
        Transfer::I2c { address, reads, .. } => Transfer::I2c { address, bytes, reads },
        Transfer::TwoWire { reads, .. } => Transfer::TwoWire { bytes, reads },
        Transfer::Strobe { reads, .. } => Transfer::Strobe { bytes, reads },
        Transfer::Shift { .. } => Transfer::Shift { bytes },
        Transfer::OutputsOff => Transfer::OutputsOff,
        Transfer::Ports { mask, .. } => Transfer::Ports { mask, levels: bytes },
        Transfer::Burst { .. } => Transfer::Burst { columns: bytes },
    }
}
