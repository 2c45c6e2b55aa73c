//! A recording that is read piece by piece.

use std::io::{self, Read};
use std::ops::Range;
use std::path::Path;
use std::time::Duration;

use spare_tile_core::capture::csv::Samples;
use spare_tile_core::capture::read::Dump;
use spare_tile_core::capture::{Change, ReadError, Reader, Wire};
use spare_tile_core::units::{Hertz, Nanos, parse_duration};

use crate::failure::{Failure, Outcome};
use crate::session::Session;

/// How much of a recording is looked at to tell wires and part.
const LOOK_AT: usize = 20_000;
/// How much is read at once.
const PIECE: usize = 64 * 1024;

/// The moment that a file calls 0, counted from its beginning.
#[derive(Debug, Clone, Copy)]
pub struct Zero(Nanos);

impl Zero {
    /// A moment as the file counts it, in microseconds; negative before its zero.
    pub fn micros(self, at: Nanos) -> f64 {
        if at < self.0 { -(self.0 - at).as_micros() } else { (at - self.0).as_micros() }
    }

    /// A moment of the file, counted from its beginning.
    ///
    /// # Errors
    /// When the file begins later.
    pub fn moment(self, at: FileTime) -> Result<Nanos, Failure> {
        match at {
            FileTime::After(length) => Ok(self.0 + Nanos::from(length)),
            FileTime::Before(length) if Nanos::from(length) <= self.0 => Ok(self.0 - Nanos::from(length)),
            FileTime::Before(_) => {
                let help = format!("write a time from {} us on", self.micros(Nanos(0)));
                Err(Failure::unusable("the recording begins after the time of --at", help))
            }
        }
    }
}

/// A moment counted from a file's time 0.
#[derive(Debug, Clone, Copy)]
pub enum FileTime {
    Before(Duration),
    After(Duration),
}

impl FileTime {
    /// Reads a time such as `12.5ms` or `-1ms`.
    pub fn parse(text: &str) -> Result<Self, String> {
        let length = |text: &str| parse_duration(text).map_err(|error| error.to_string());
        match text.strip_prefix('-') {
            Some(text) => length(text).map(Self::Before),
            None => length(text).map(Self::After),
        }
    }
}

/// A recording that is being read.
pub struct Recording {
    name: String,
    source: Box<dyn Read>,
    reader: Box<dyn Reader>,
    /// The bytes that were read, and those of them that were not taken yet.
    piece: Vec<u8>,
    rest: Range<usize>,
    ended: bool,
    /// The syntax error; changes before it are still reported.
    broken: Option<ReadError>,
}

impl Recording {
    pub fn open(file: &Path, rate: Option<Hertz>, session: &Session<'_>) -> Result<Self, Failure> {
        let name = file.display().to_string();
        let mut source: Box<dyn Read> =
            if name == "-" { Box::new(io::stdin().lock()) } else { session.shelf.open(file)? };
        // The first byte that is not blank shows the form: a dump begins with a keyword.
        let mut piece = vec![0_u8; PIECE];
        let mut filled = 0;
        while filled < PIECE && !piece[..filled].iter().any(|byte| !byte.is_ascii_whitespace()) {
            match source.read(&mut piece[filled..]).map_err(|error| cannot_read(&name, &error))? {
                0 => break,
                read => filled += read,
            }
        }
        let first = piece[..filled].iter().find(|byte| !byte.is_ascii_whitespace());
        let reader: Box<dyn Reader> = match first {
            Some(b'$') => Box::new(Dump::default()),
            _ => Box::new(Samples::new(rate)),
        };
        let source = Box::new(io::Cursor::new(piece[..filled].to_vec()).chain(source));
        Ok(Self { name, source, reader, piece, rest: 0..0, ended: false, broken: None })
    }

    /// Reads a piece; whether there may be more.
    pub fn read(&mut self, changes: &mut Vec<Change>) -> Result<bool, Failure> {
        if self.ended {
            return Ok(false);
        }
        if self.rest.is_empty() {
            let read = self.source.read(&mut self.piece).map_err(|error| cannot_read(&self.name, &error))?;
            self.rest = 0..read;
        }
        let outcome = if self.rest.is_empty() {
            self.ended = true;
            self.reader.finish(changes)
        } else {
            self.reader.feed(&self.piece[self.rest.clone()], changes).map(|taken| self.rest.start += taken)
        };
        if let Err(error) = outcome {
            self.ended = true;
            self.broken = Some(error);
        }
        Ok(!self.ended)
    }

    /// Its wires, all of them once there was a change.
    pub fn wires(&self) -> &[Wire] {
        self.reader.wires()
    }

    /// The latest time that it told.
    pub fn now(&self) -> Nanos {
        self.reader.now()
    }

    /// Where the file's time 0 is: one that counts from a trigger begins before it.
    pub fn zero(&self) -> Zero {
        Zero(self.reader.before_zero())
    }

    /// Checks that the recording was sound so far.
    pub fn check(&self) -> Outcome {
        self.broken.as_ref().map_or(Ok(()), |error| Err(broken(&self.name, error)))
    }

    /// The first changes, enough to tell wires and part.
    pub fn beginning(&mut self) -> Result<Vec<Change>, Failure> {
        let mut changes = Vec::new();
        while changes.len() < LOOK_AT && self.read(&mut changes)? {}
        if changes.is_empty() {
            self.check()?;
        }
        Ok(changes)
    }
}

fn cannot_read(name: &str, error: &io::Error) -> Failure {
    Failure::unusable_plainly(format!("cannot read {name}: {error}"))
}

fn broken(name: &str, error: &ReadError) -> Failure {
    let help = match error {
        ReadError::Cell { .. } => "samples are rows of 0 and 1, with a column of times or --rate",
        ReadError::TooManyWires => "record fewer wires, or write out just the display's",
        _ => "a value change dump begins with $ and its declarations; samples are rows of columns",
    };
    Failure::unusable(format!("{name}: {error}"), help)
}
