//! Records of what happened on the lines: written as a value change dump, read from one or from samples, and looked
//! through for what a display made of them.
//!
//! ```text
//!  bytes of a file --read--> changes of wires --map--> edges of lines --model--> what was said, what was seen
//! ```
//!
//! Reading takes a file in pieces of any length and keeps no more than one unfinished line, so that a recording may be
//! as long as it likes.

pub mod csv;
pub mod guess;
pub mod read;
pub mod story;
pub mod vcd;

use crate::units::Nanos;

/// A wire of a recording.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Wire {
    /// Its name; a bit of a vector with its index: `port[3]`.
    pub name: String,
    /// Other names for it.
    pub also: Vec<String>,
}

impl Wire {
    /// A wire with one name, of which no more than so much is kept.
    #[must_use]
    pub fn named(name: &str) -> Self {
        Self { name: shortened(name), also: Vec::new() }
    }

    /// Returns true if this is one of its names.
    pub fn is_called(&self, mut is: impl FnMut(&str) -> bool) -> bool {
        is(&self.name) || self.also.iter().any(|name| is(name))
    }
}

/// Returns a name without its prefix and bit number.
fn shortened(name: &str) -> String {
    match name.char_indices().nth(MAX_NAME) {
        None => name.to_owned(),
        Some((end, _)) => format!("{}\u{2026}", &name[..end]),
    }
}

/// A wire changing at one time.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Change {
    /// When, counted from time 0 of the recording.
    pub at: Nanos,
    /// Which, as a place in the list of wires.
    pub wire: u32,
    /// The level after it.
    pub level: Level,
}

/// The level of a recorded wire.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Level {
    /// Low.
    Low,
    /// High.
    High,
    /// Nothing drives it (`z`): a pull-up may hold it.
    Open,
    /// Not known (`x`).
    Unknown,
}

/// The most wires with all their names, more than any analyser has: a file with more is broken.
pub const MAX_WIRES: usize = 65_536;
/// The most characters of a wire's name that are kept.
pub const MAX_NAME: usize = 64;
/// A reader stops for a while when it has so many changes.
pub const MAX_AT_ONCE: usize = 65_536;

/// Why a recording cannot be read.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
#[allow(missing_docs, reason = "the messages say what the fields are")]
#[non_exhaustive]
pub enum ReadError {
    #[error("byte {offset}: {found:?} is not an identifier that the dump declares")]
    UnknownIdentifier { offset: u64, found: String },
    #[error("byte {offset}: time goes back from {before} to {after}")]
    TimeGoesBack { offset: u64, before: u64, after: u64 },
    #[error("byte {offset}: {found:?} is not {wanted}")]
    Malformed { offset: u64, found: String, wanted: &'static str },
    #[error("more than {MAX_WIRES} wires are declared")]
    TooManyWires,
    #[error("byte {offset}: a line of more than {most} bytes")]
    LongLine { offset: u64, most: usize },
    #[error("line {line}: {found:?} is not {wanted}")]
    Cell { line: u64, found: String, wanted: &'static str },
    #[error("the recording ends before {what}")]
    Truncated { what: &'static str },
}

/// Reads a recording piece by piece.
pub trait Reader {
    /// Takes the next piece of the file and adds the changes in it, in order of time. Returns how many bytes of it were
    /// taken: not all of them if there are very many; the rest follows.
    ///
    /// # Errors
    /// When the file breaks its form; what came before has been added.
    fn feed(&mut self, piece: &[u8], changes: &mut Vec<Change>) -> Result<usize, ReadError>;

    /// The file has ended.
    ///
    /// # Errors
    /// When something essential is missing.
    fn finish(&mut self, changes: &mut Vec<Change>) -> Result<(), ReadError>;

    /// The wires that are known so far; all of them once there was a change.
    fn wires(&self) -> &[Wire];

    /// The latest time so far.
    fn now(&self) -> Nanos;

    /// How long before its time 0 the file begins, where it counts from a trigger: so much is added to every time in it.
    fn before_zero(&self) -> Nanos {
        Nanos(0)
    }
}
