//! Buses: operations as data, and the edges they become.
//!
//! ```text
//!  op    role "frame", bytes 01 7E
//!   | bus
//!  edges   select  --+                             +--
//!                    +--------- ... ---------------+
//!          clock   ____/'\_/'\_ ... _/'\_____________
//!          data    ____________ ... /'''\____________
//! ```
//!
//! A new bus is one file here that implements [`Bus`].

pub mod i2c;
pub mod pins;
pub mod shift;
pub mod spi;
pub mod strobe;
pub mod two_wire;
pub mod watch;

use std::fmt;

use crate::units::Nanos;

/// What an operation is for.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash)]
pub enum Role {
    /// Brings the part from power-up to running and dark.
    PowerUp,
    /// Shows a frame.
    Frame,
    /// Sets the brightness.
    Brightness,
    /// Puts the display out.
    Off,
    /// Darkens between two digits of a scan.
    Blank,
    /// Lights the display again as it was.
    On,
    /// Sends everything again.
    Refresh,
    /// Reads the keys.
    Keys,
    /// Puts the part's own test on or off.
    Test,
}

impl Role {
    /// The word for it in listings.
    #[must_use]
    pub const fn name(self) -> &'static str {
        match self {
            Self::PowerUp => "power-up",
            Self::Frame => "frame",
            Self::Brightness => "brightness",
            Self::Off => "off",
            Self::Blank => "blank",
            Self::On => "on",
            Self::Refresh => "refresh",
            Self::Keys => "keys",
            Self::Test => "test",
        }
    }
}

impl fmt::Display for Role {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.pad(self.name())
    }
}

/// One bus operation, as data: nothing has been sent yet. What the bytes mean is the bus's affair.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Op<'a> {
    /// What it is for.
    pub role: Role,
    /// What goes over the bus in one transfer.
    pub bytes: &'a [u8],
    /// How many bytes the part answers in the same transfer.
    pub reads: usize,
    /// The earliest moment at which it may begin, counted from the beginning of its list.
    pub not_before: Nanos,
}

/// A list of operations in one piece of memory, so that a list that is cleared and filled again costs no
/// allocation.
///
/// A list is also a schedule: after [`Ops::not_before`] nothing begins earlier than that moment. Where no
/// moment is given, an operation follows the one before as soon as the bus is free.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub struct Ops {
    bytes: Vec<u8>,
    entries: Vec<Entry>,
    moment: Nanos,
}

/// Where the bytes of an operation end, and what else is known of it.
#[derive(Debug, Clone, PartialEq, Eq)]
struct Entry {
    role: Role,
    end: usize,
    reads: usize,
    not_before: Nanos,
}

impl Ops {
    /// Adds an operation.
    pub fn push(&mut self, role: Role, bytes: impl IntoIterator<Item = u8>) {
        self.push_reading(role, bytes, 0);
    }

    /// Adds an operation in which the part answers so many bytes.
    pub fn push_reading(&mut self, role: Role, bytes: impl IntoIterator<Item = u8>, reads: usize) {
        self.bytes.extend(bytes);
        self.entries.push(Entry { role, end: self.bytes.len(), reads, not_before: self.moment });
    }

    /// Lets nothing that is added from here on begin before `moment`, counted from the beginning of the list.
    /// After the last operation it says how long the list lasts.
    pub fn not_before(&mut self, moment: Nanos) {
        self.moment = moment;
    }

    /// How long the list lasts at least.
    #[must_use]
    pub const fn length(&self) -> Nanos {
        self.moment
    }

    /// Takes all operations out, keeping the memory.
    pub fn clear(&mut self) {
        self.bytes.clear();
        self.entries.clear();
        self.moment = Nanos(0);
    }

    /// The operations in their order.
    pub fn iter(&self) -> impl Iterator<Item = Op<'_>> {
        let mut start = 0;
        self.entries.iter().map(move |entry| {
            let bytes = &self.bytes[start..entry.end];
            start = entry.end;
            Op { role: entry.role, bytes, reads: entry.reads, not_before: entry.not_before }
        })
    }

    /// How many operations there are.
    #[must_use]
    pub fn len(&self) -> usize {
        self.entries.len()
    }

    /// Whether there is none.
    #[must_use]
    pub fn is_empty(&self) -> bool {
        self.entries.is_empty()
    }
}

/// One line changing level at one time.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Edge {
    /// When.
    pub at: Nanos,
    /// Which line, as a place in [`crate::drive::Drive::lines`].
    pub line: usize,
    /// The level after the edge; true is high.
    pub level: bool,
}

/// Turns operations into edges.
///
/// An implementer guarantees that edges come in order of time, that every edge changes its line's level (the
/// first of a line with no [idle](Bus::idle) level always counts as a change), and that the bytes of an
/// operation cannot make it panic.
pub trait Bus {
    /// The bus's name in listings.
    fn name(&self) -> &'static str;

    /// The level of each line before the first operation; `None` where nothing drives it.
    fn idle(&self) -> Vec<Option<bool>>;

    /// Appends the edges of one operation that begins at `at`. Returns when the next may begin.
    fn send(&mut self, bytes: &[u8], at: Nanos, edges: &mut Vec<Edge>) -> Nanos;

    /// The same for an operation in which the part answers: its bits are on the wires as well. A bus that parts
    /// cannot answer on leaves the answer out.
    fn exchange(&mut self, bytes: &[u8], answer: &[u8], at: Nanos, edges: &mut Vec<Edge>) -> Nanos {
        let _ = answer;
        self.send(bytes, at, edges)
    }
}
