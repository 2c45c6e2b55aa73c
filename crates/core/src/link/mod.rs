//! Links: where operations go.
//!
//! A [`Link`] takes an operation and gives what came back. The [board](crate::board::Board) is one; so is whatever carries
//! operations to real hardware. Other links may wrap it: one that reports every operation that passes
//! ([`Tap`]), one that sends everything to a second link too ([`FanOut`]), one that spoils what passes ([`Faulty`]).
//! A link to simulated hardware can also skip what would repeat ([`Simulated`]).

mod faulty;

use crate::bus::{Op, Reply};
use crate::plan::DeviceId;
use crate::units::Nanos;

pub use faulty::{Faulty, OpFault};

/// The kinds of failures of a link.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
#[non_exhaustive]
pub enum LinkErrorKind {
    /// The rig has no such device, or the computer no such bus or port.
    NoDevice,
    /// The user may not use it.
    Permission,
    /// It was there, and is gone.
    Disconnected,
    /// No answer came in time.
    Timeout,
    /// A part did not acknowledge, and nothing can go on without it.
    NotAcknowledged,
    /// The protocol does not allow the answer.
    Protocol,
}

/// Why a link could not carry an operation.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
#[error("{message}")]
pub struct LinkError {
    /// The kind of failure.
    pub kind: LinkErrorKind,
    /// The step that failed, the place, and the result.
    pub message: String,
}

impl LinkError {
    /// An error of a kind.
    #[must_use]
    pub fn new(kind: LinkErrorKind, message: impl Into<String>) -> Self {
        Self { kind, message: message.into() }
    }

    /// The rig has no device in this place.
    #[must_use]
    pub fn no_device(id: DeviceId) -> Self {
        Self::new(LinkErrorKind::NoDevice, format!("there is no device {} on bus {}", id.device, id.bus))
    }
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

    /// Carries out whatever the link has kept back, and lets time come to `now`, up to which nothing else is sent.
    ///
    /// # Errors
    /// If something that was kept back could not be carried out.
    fn flush(&mut self, now: Nanos) -> Result<(), LinkError> {
        let _ = now;
        Ok(())
    }

    /// Gives the hardware back; nothing is sent afterwards.
    ///
    /// # Errors
    /// If something that was kept back could not be carried out, or the hardware cannot be let go.
    fn close(&mut self) -> Result<(), LinkError> {
        Ok(())
    }

    /// The link as one to simulated hardware, where it is one.
    fn simulated(&mut self) -> Option<&mut dyn Simulated> {
        None
    }
}

/// A link to simulated hardware, which knows so well how everything stands that what would repeat need not be sent.
pub trait Simulated {
    /// Remembers how everything stands at `now`. Returns false where a part cannot tell.
    fn mark(&mut self, now: Nanos) -> bool;

    /// Returns true if the state is that of the mark: what follows is the same but for its time.
    fn is_as_marked(&mut self, now: Nanos) -> bool;

    /// Counts the time since the mark `times` more times, as cycles of `span` each.
    fn repeat(&mut self, times: u64, span: Nanos);

    /// Returns true if polling parts for their push buttons changes nothing, nobody takes note of it, and they answer the same until a
    /// user presses one: then they need not be polled.
    fn answers_alike(&mut self) -> bool;
}

/// The methods that a link around another, its field `link`, passes on.
macro_rules! passed_on {
    () => {
        fn free_at(&self, device: DeviceId) -> Nanos {
            self.link.free_at(device)
        }

        fn shares_time(&self, one: DeviceId, other: DeviceId) -> bool {
            self.link.shares_time(one, other)
        }

        fn flush(&mut self, now: Nanos) -> Result<(), LinkError> {
            self.link.flush(now)
        }

        fn close(&mut self) -> Result<(), LinkError> {
            self.link.close()
        }
    };
}
pub(crate) use passed_on;

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

    fn flush(&mut self, now: Nanos) -> Result<(), LinkError> {
        (**self).flush(now)
    }

    fn close(&mut self) -> Result<(), LinkError> {
        (**self).close()
    }

    fn simulated(&mut self) -> Option<&mut dyn Simulated> {
        (**self).simulated()
    }
}

/// Reports every operation after it was carried out; none is skipped.
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

    passed_on!();
}

/// Reports operations as a [`Tap`] does, except those that are skipped because they repeat: what is watched for a look costs
/// no more than it did.
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

    passed_on!();

    fn simulated(&mut self) -> Option<&mut dyn Simulated> {
        self.link.simulated()
    }
}

/// Sends everything to two links; what the first gives back counts. With hardware first and a board beside it, the board's
/// picture is of what the hardware was sent.
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

    fn shares_time(&self, one: DeviceId, other: DeviceId) -> bool {
        self.first.shares_time(one, other) || self.second.shares_time(one, other)
    }

    fn flush(&mut self, now: Nanos) -> Result<(), LinkError> {
        self.first.flush(now)?;
        self.second.flush(now)
    }

    fn close(&mut self) -> Result<(), LinkError> {
        self.first.close()?;
        self.second.close()
    }
}
