//! Buses: typed transfers as data, and what a controller does on the lines to carry them out.
//!
//! ```text
//!  op      role "frame", not before 0 us, spi 01 7E
//!   | protocol, driving and reading the wires
//!  edges   select  --+                             +--
//!                    +--------- ... ---------------+
//!          clock   ____/'\_/'\_ ... _/'\_____________
//!          data    ____________ ... /'''\____________
//! ```
//!
//! A bus is one file here. It has the controller's end, which carries a [`Transfer`] out on [`Wires`], and a listener for
//! the other end, which makes events of [`Edge`]s. The two share no code. What a part answers is never put in here: it
//! comes over the wires, where the controller's end reads it.

pub mod i2c;
pub mod inputs;
pub mod panel;
pub mod pins;
pub mod shift;
pub mod spi;
pub mod strobe;
pub mod two_wire;
pub mod watch;
pub mod whole;

use std::fmt;

use crate::units::Nanos;

/// The purpose of an operation.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash)]
#[non_exhaustive]
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
    /// Reads the push buttons.
    Buttons,
    /// Puts the part's own test on or off.
    Test,
}

impl Role {
    /// All of them.
    pub const ALL: [Self; 9] = [
        Self::PowerUp,
        Self::Frame,
        Self::Brightness,
        Self::Off,
        Self::Blank,
        Self::On,
        Self::Refresh,
        Self::Buttons,
        Self::Test,
    ];

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
            Self::Buttons => "buttons",
            Self::Test => "test",
        }
    }
}

impl fmt::Display for Role {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.pad(self.name())
    }
}

/// A transfer over a bus, by the kind of bus.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
#[non_exhaustive]
pub enum Transfer<'a> {
    /// Bits under one select, most significant first; latched as select rises.
    Spi {
        /// The bytes in the order in which they are sent.
        bytes: &'a [u8],
    },
    /// A write to an address, then a read from it where there is something to read.
    I2c {
        /// The 7-bit address.
        address: u8,
        /// The bytes to write.
        bytes: &'a [u8],
        /// How many bytes are read after that.
        reads: usize,
    },
    /// A frame between start and stop, without an address.
    TwoWire {
        /// The bytes to write.
        bytes: &'a [u8],
        /// How many bytes are read after that.
        reads: usize,
    },
    /// A frame under a strobe.
    Strobe {
        /// The bytes to write.
        bytes: &'a [u8],
        /// How many bytes are read after that.
        reads: usize,
    },
    /// Bits into a chain of registers, then a pulse that makes the outputs take them and lets them drive.
    Shift {
        /// The bytes as they are handed to the serial port.
        bytes: &'a [u8],
    },
    /// Output enable goes up: the outputs of a chain of registers drive nothing until the next shift.
    OutputsOff,
    /// Levels of the controller's own pins: of whole ports, or of pins in their order.
    Ports {
        /// Which bits of each byte are the display's.
        mask: &'a [u8],
        /// The level of each bit.
        levels: &'a [u8],
    },
    /// Columns of parallel data under one clock.
    Burst {
        /// The levels of the data lines for each clock, the first line in bit 0.
        columns: &'a [u8],
    },
    /// The levels of pins are read.
    Inputs {
        /// How many bytes they are, eight pins each.
        reads: usize,
    },
}

impl<'a> Transfer<'a> {
    /// The bytes to write, without an address.
    #[must_use]
    pub const fn bytes(&self) -> &'a [u8] {
        match *self {
            Self::Spi { bytes }
            | Self::I2c { bytes, .. }
            | Self::TwoWire { bytes, .. }
            | Self::Strobe { bytes, .. }
            | Self::Shift { bytes }
            | Self::Ports { levels: bytes, .. }
            | Self::Burst { columns: bytes } => bytes,
            Self::OutputsOff | Self::Inputs { .. } => &[],
        }
    }

    /// How many bytes are read.
    #[must_use]
    pub const fn reads(&self) -> usize {
        match *self {
            Self::I2c { reads, .. }
            | Self::TwoWire { reads, .. }
            | Self::Strobe { reads, .. }
            | Self::Inputs { reads } => reads,
            _ => 0,
        }
    }

    /// The bytes as they are written over the lines: with the address byte where the bus has one.
    pub fn on_the_wire(&self) -> impl Iterator<Item = u8> + use<'a> {
        let address = match *self {
            Self::I2c { address, .. } => Some(address << 1),
            _ => None,
        };
        address.into_iter().chain(self.bytes().iter().copied())
    }
}

/// One operation: a transfer with its purpose and its earliest moment. It has not been sent yet.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Op<'a> {
    /// Its purpose.
    pub role: Role,
    /// The transfer.
    pub transfer: Transfer<'a>,
    /// The earliest moment at which it may begin. In a list it counts from the list's beginning, on a link from the
    /// moment of power.
    pub not_before: Nanos,
}

/// Takes the operations of a driver as they are made.
pub trait Sink {
    /// Takes a transfer, to be sent as soon as the bus is free.
    fn put(&mut self, role: Role, transfer: Transfer<'_>);

    /// Lets nothing that is put from here on begin before `moment`, counted from the beginning of the list.
    fn not_before(&mut self, moment: Nanos);
}

/// A list of operations in one piece of memory, so that a list that is cleared and filled again costs no allocation.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub struct Ops {
    bytes: Vec<u8>,
    entries: Vec<Entry>,
    moment: Nanos,
}

/// An operation whose bytes stand in the list's memory, up to `end`.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
struct Entry {
    role: Role,
    form: Form,
    end: usize,
    not_before: Nanos,
}

/// A transfer without its bytes.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
enum Form {
    Spi,
    I2c { address: u8, reads: usize },
    TwoWire { reads: usize },
    Strobe { reads: usize },
    Shift,
    OutputsOff,
    Ports,
    Burst,
    Inputs { reads: usize },
}

impl Sink for Ops {
    fn put(&mut self, role: Role, transfer: Transfer<'_>) {
        if let Transfer::Ports { mask, .. } = transfer {
            self.bytes.extend_from_slice(mask);
        }
        self.bytes.extend_from_slice(transfer.bytes());
        let form = match transfer {
            Transfer::Spi { .. } => Form::Spi,
            Transfer::I2c { address, reads, .. } => Form::I2c { address, reads },
            Transfer::TwoWire { reads, .. } => Form::TwoWire { reads },
            Transfer::Strobe { reads, .. } => Form::Strobe { reads },
            Transfer::Shift { .. } => Form::Shift,
            Transfer::OutputsOff => Form::OutputsOff,
            Transfer::Ports { .. } => Form::Ports,
            Transfer::Burst { .. } => Form::Burst,
            Transfer::Inputs { reads } => Form::Inputs { reads },
        };
        self.entries.push(Entry { role, form, end: self.bytes.len(), not_before: self.moment });
    }

    fn not_before(&mut self, moment: Nanos) {
        self.moment = moment;
    }
}

impl Ops {
    /// Takes all operations out, keeping the memory.
    pub fn clear(&mut self) {
        self.bytes.clear();
        self.entries.clear();
        self.moment = Nanos(0);
    }

    /// An operation by its place.
    #[must_use]
    pub fn get(&self, place: usize) -> Option<Op<'_>> {
        let Entry { role, form, end, not_before } = *self.entries.get(place)?;
        let begin = place.checked_sub(1).map_or(0, |before| self.entries[before].end);
        let bytes = &self.bytes[begin..end];
        let transfer = match form {
            Form::Spi => Transfer::Spi { bytes },
            Form::I2c { address, reads } => Transfer::I2c { address, bytes, reads },
            Form::TwoWire { reads } => Transfer::TwoWire { bytes, reads },
            Form::Strobe { reads } => Transfer::Strobe { bytes, reads },
            Form::Shift => Transfer::Shift { bytes },
            Form::OutputsOff => Transfer::OutputsOff,
            Form::Ports => {
                let (mask, levels) = bytes.split_at(bytes.len() / 2);
                Transfer::Ports { mask, levels }
            }
            Form::Burst => Transfer::Burst { columns: bytes },
            Form::Inputs { reads } => Transfer::Inputs { reads },
        };
        Some(Op { role, transfer, not_before })
    }

    /// The moment before which an operation may not begin.
    #[must_use]
    pub fn moment(&self, place: usize) -> Option<Nanos> {
        self.entries.get(place).map(|entry| entry.not_before)
    }

    /// The operations in their order.
    pub fn iter(&self) -> impl Iterator<Item = Op<'_>> {
        (0..self.entries.len()).filter_map(|place| self.get(place))
    }

    /// How many operations there are.
    #[must_use]
    pub fn len(&self) -> usize {
        self.entries.len()
    }

    /// Returns true if there is none.
    #[must_use]
    pub fn is_empty(&self) -> bool {
        self.entries.is_empty()
    }
}

/// The reply to an operation.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub struct Reply {
    /// The bytes that were read.
    pub bytes: Vec<u8>,
    /// True if a part acknowledged every byte; always so on a bus without acknowledge.
    pub acknowledged: bool,
    /// When it began and when the bus was free again.
    pub began: Nanos,
    /// When the bus was free again.
    pub ended: Nanos,
}

/// One line changing level at one time.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Edge {
    /// When.
    pub at: Nanos,
    /// Which line; what the number counts is said where edges are handed over.
    pub line: usize,
    /// The level after the edge; true is high.
    pub level: bool,
}

/// The lines of one device, as its controller's end has them in hand. They are numbered as the protocol says.
///
/// Time does not run back from one call to the next.
pub trait Wires {
    /// Drives a line, or lets it go (`None`): it is then as a pull-up or the other end has it.
    fn drive(&mut self, at: Nanos, line: usize, level: Option<bool>);

    /// The level of a line at a moment.
    fn read(&mut self, at: Nanos, line: usize) -> bool;
}

/// How a device is spoken to: the kind of bus with its pace, as plain data.
#[derive(Debug, Clone, PartialEq)]
#[allow(missing_docs, reason = "the files say what they are")]
pub enum Protocol {
    Spi(spi::Spi),
    I2c(i2c::I2c),
    TwoWire(two_wire::TwoWire),
    Strobe(strobe::Strobe),
    Shift(shift::Shift),
    Pins(pins::Pins),
    Panel(panel::Panel),
    Inputs(inputs::Inputs),
}

/// How the bits of bytes follow one another: each is read while the clock rises.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Clocking {
    /// The clock's line.
    pub clock: usize,
    /// How many clocks a byte takes, that of its acknowledge included.
    pub bits: usize,
    /// True if the least significant bit is the first.
    pub lsb_first: bool,
}

impl Clocking {
    /// Returns the byte and the bit for a clock pulse, counted from 0 at the beginning of a transfer, or `None`
    /// for its acknowledge.
    #[must_use]
    pub const fn place(&self, clock: usize) -> (usize, Option<usize>) {
        let (byte, within) = (clock / self.bits, clock % self.bits);
        let bit = match (within, self.lsb_first) {
            (8, _) => None,
            (bit, true) => Some(bit),
            (bit, false) => Some(7 - bit),
        };
        (byte, bit)
    }
}

impl Protocol {
    /// The name in listings.
    #[must_use]
    pub const fn name(&self) -> &'static str {
        match self {
            Self::Spi(_) => "spi",
            Self::I2c(_) => "i2c",
            Self::TwoWire(_) => "two-wire",
            Self::Strobe(_) => "strobe",
            Self::Shift(_) => "shift",
            Self::Pins(_) => "pins",
            Self::Panel(_) => "panel",
            Self::Inputs(_) => "inputs",
        }
    }

    /// The level of each line between operations, as the controller drives it; `None` if it does not drive it.
    #[must_use]
    pub fn idle(&self) -> Vec<Option<bool>> {
        match self {
            Self::Spi(_) => spi::IDLE.to_vec(),
            Self::I2c(_) | Self::TwoWire(_) => vec![Some(true); 2],
            Self::Strobe(_) => vec![Some(true); 3],
            Self::Shift(shift) => shift.idle(),
            Self::Pins(pins) => vec![None; pins.lines()],
            Self::Panel(panel) => panel.idle(),
            Self::Inputs(inputs) => vec![None; inputs.pulls.len()],
        }
    }

    /// How bits follow one another, where bytes go out bit by bit.
    #[must_use]
    pub const fn clocking(&self) -> Option<Clocking> {
        let (bits, lsb_first) = match self {
            Self::Spi(_) => (8, false),
            Self::I2c(_) => (9, false),
            Self::TwoWire(_) => (9, true),
            Self::Strobe(_) => (8, true),
            Self::Shift(shift) => (8, shift.lsb_first),
            Self::Pins(_) | Self::Panel(_) | Self::Inputs(_) => return None,
        };
        Some(Clocking { clock: 0, bits, lsb_first })
    }

    /// The line that a part may drive too, if there is one. It has a pull-up.
    #[must_use]
    pub const fn answer_line(&self) -> Option<usize> {
        match self {
            Self::I2c(_) => Some(i2c::DATA),
            Self::TwoWire(_) => Some(two_wire::DATA),
            Self::Strobe(_) => Some(strobe::DATA),
            Self::Spi(_) | Self::Shift(_) | Self::Pins(_) | Self::Panel(_) | Self::Inputs(_) => None,
        }
    }

    /// The level at which the controller's own pull keeps a line.
    #[must_use]
    pub fn pull(&self, line: usize) -> Option<bool> {
        match self {
            Self::Inputs(inputs) => inputs.pulls.get(line).copied().flatten(),
            _ => (self.answer_line() == Some(line)).then_some(true),
        }
    }

    /// Carries a transfer out from `at` on. One of another kind of bus does nothing.
    pub fn send(&self, transfer: Transfer<'_>, at: Nanos, wires: &mut impl Wires) -> Reply {
        let mut reply = Reply { acknowledged: true, began: at, ended: at, ..Reply::default() };
        match (self, transfer) {
            (Self::Spi(spi), Transfer::Spi { bytes }) => reply.ended = spi.send(bytes, at, wires),
            (Self::I2c(i2c), Transfer::I2c { address, bytes, reads }) => {
                i2c.send(address, bytes, reads, wires, &mut reply);
            }
            (Self::TwoWire(two_wire), Transfer::TwoWire { bytes, reads }) => {
                two_wire.send(bytes, reads, wires, &mut reply);
            }
            (Self::Strobe(strobe), Transfer::Strobe { bytes, reads }) => {
                strobe.send(bytes, reads, wires, &mut reply);
            }
            (Self::Shift(shift), Transfer::Shift { bytes }) => reply.ended = shift.send(bytes, at, wires),
            (Self::Shift(shift), Transfer::OutputsOff) => shift.outputs_off(at, wires),
            (Self::Pins(pins), Transfer::Ports { mask, levels }) => {
                reply.ended = pins.send(mask, levels, at, wires);
            }
            (Self::Panel(panel), Transfer::Burst { columns }) => {
                reply.ended = panel.burst(columns, at, wires);
            }
            (Self::Panel(panel), Transfer::Ports { mask, levels }) => {
                reply.ended = panel.set(mask, levels, at, wires);
            }
            (Self::Inputs(inputs), Transfer::Inputs { reads }) => reply.bytes = inputs.read(reads, at, wires),
            _ => {}
        }
        reply
    }
}

/// Wires with nobody at the other end: what the controller does to them, as edges. Data lines are pulled up.
#[derive(Debug, Clone, Default)]
pub struct Unanswered {
    /// The level of each line; the first change of one that has none always counts as an edge.
    pub levels: Vec<Option<bool>>,
    /// The edges so far.
    pub edges: Vec<Edge>,
}

impl Unanswered {
    /// The wires of a device, idle.
    #[must_use]
    pub fn of(protocol: &Protocol) -> Self {
        Self { levels: protocol.idle(), edges: Vec::new() }
    }
}

impl Wires for Unanswered {
    fn drive(&mut self, at: Nanos, line: usize, level: Option<bool>) {
        let level = level.unwrap_or(true);
        if let Some(held) = self.levels.get_mut(line)
            && held.replace(level) != Some(level)
        {
            self.edges.push(Edge { at, line, level });
        }
    }

    fn read(&mut self, _: Nanos, line: usize) -> bool {
        self.levels.get(line).copied().flatten().unwrap_or(true)
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_list_gives_back_what_was_put() {
        let transfers = [
            Transfer::Spi { bytes: &[1, 0x7E] },
            Transfer::I2c { address: 0x70, bytes: &[0x21], reads: 6 },
            Transfer::TwoWire { bytes: &[0x40], reads: 1 },
            Transfer::Strobe { bytes: &[], reads: 4 },
            Transfer::Shift { bytes: &[9] },
            Transfer::OutputsOff,
            Transfer::Ports { mask: &[0xFF, 0x0F], levels: &[0x3F, 0x0E] },
            Transfer::Burst { columns: &[7, 1, 2] },
            Transfer::Inputs { reads: 2 },
        ];
        let mut ops = Ops::default();
        for (place, transfer) in transfers.iter().enumerate() {
            ops.not_before(Nanos(place as u64));
            ops.put(Role::Frame, *transfer);
        }
        let listed: Vec<_> = ops.iter().map(|op| (op.transfer, op.not_before.0)).collect();
        let expected: Vec<_> = transfers.iter().copied().zip(0..).collect();
        assert_eq!(listed, expected);
        assert_eq!(ops.iter().map(|op| op.transfer.reads()).sum::<usize>(), 13);
        let on_the_wire: Vec<_> = transfers[1].on_the_wire().collect();
        assert_eq!(on_the_wire, [0xE0, 0x21]);
    }
}
