//! Reads samples in columns: one column a line, a row a sample, with a column of times or at an even rate.
//!
//! The first row may be a heading. A column whose heading begins with `time` has the times, in seconds unless the
//! heading names another unit (`time [us]`); without a heading the first column has them, in seconds. Where the first
//! lies before zero, all are counted from it. With a sample rate there is no column of times. Columns are divided by
//! commas, semicolons or tabs, and may be quoted (RFC 4180).

use super::{Change, Level, MAX_WIRES, ReadError, Reader, Wire};
use crate::units::{Hertz, Nanos};

/// The longest row.
const LONGEST: usize = 1 << 20;

/// A reader of samples.
pub struct Samples {
    rate: Option<Hertz>,
    unfinished: Vec<u8>,
    line: u64,
    /// The columns, known after the first row.
    columns: Option<Columns>,
    wires: Vec<Wire>,
    levels: Vec<Option<Level>>,
    now: Nanos,
    /// Samples at an even rate so far.
    samples: u64,
    /// The time 0 of the recording, or its first where that lies before it, as times do that count from a trigger.
    zero: Option<f64>,
}

/// How the columns are used.
struct Columns {
    /// The row that was read last.
    cells: Cells,
    /// Which has the times, and how many nanoseconds its unit has.
    time: Option<(usize, f64)>,
}

/// The cells of a row, without their quotes.
struct Cells {
    parser: csv_core::Reader,
    text: Vec<u8>,
    /// Where each cell ends in the text.
    ends: Vec<usize>,
}

impl Cells {
    fn divided_by(divider: u8) -> Self {
        // A carriage return within a row does not end it.
        let line = csv_core::Terminator::Any(b'\n');
        let parser = csv_core::ReaderBuilder::new().delimiter(divider).terminator(line).build();
        Self { parser, text: Vec::new(), ends: Vec::new() }
    }

    /// Takes a row, which is one line.
    fn read(&mut self, row: &[u8]) {
        // No row has more text than bytes, nor more cells than that and one.
        self.text.resize(row.len() + 1, 0);
        self.ends.resize(row.len() + 2, 0);
        self.parser.reset();
        let (_, _, text, cells) = self.parser.read_record(row, &mut self.text, &mut self.ends);
        // Without input the row ends.
        let (.., last) = self.parser.read_record(&[], &mut self.text[text..], &mut self.ends[cells..]);
        self.ends.truncate(cells + last);
    }

    fn iter(&self) -> impl Iterator<Item = &[u8]> {
        let begins = std::iter::once(0).chain(self.ends.iter().copied());
        begins.zip(&self.ends).map(|(begin, end)| self.text.get(begin..*end).unwrap_or_default())
    }
}

/// The divider of a row: the first of comma, semicolon and tab that stands outside of quotes.
fn divider_of(row: &[u8]) -> u8 {
    let outside = row.split(|byte| *byte == b'"').step_by(2);
    let is_outside = |divider: &u8| outside.clone().any(|text| text.contains(divider));
    [b',', b';', b'\t'].into_iter().find(is_outside).unwrap_or(b',')
}

impl Samples {
    /// A reader; with a rate there is no column of times.
    #[must_use]
    pub fn new(rate: Option<Hertz>) -> Self {
        Self {
            rate,
            unfinished: Vec::new(),
            line: 0,
            columns: None,
            wires: Vec::new(),
            levels: Vec::new(),
            now: Nanos(0),
            samples: 0,
            zero: None,
        }
    }

    fn row(&mut self, row: &[u8], changes: &mut Vec<Change>) -> Result<(), ReadError> {
        self.line += 1;
        let row = row.strip_suffix(b"\r").unwrap_or(row);
        // Some programs begin a text with a byte order mark.
        let row = row.strip_prefix("\u{feff}".as_bytes()).filter(|_| self.line == 1).unwrap_or(row);
        if row.iter().all(u8::is_ascii_whitespace) || row[0] == b'#' {
            return Ok(());
        }
        if let Some(columns) = &mut self.columns {
            columns.cells.read(row);
        } else if self.begin(row)? {
            return Ok(());
        }
        let Some(columns) = &self.columns else { return Ok(()) };
        let mut wire = 0;
        let line = self.line;
        let cell_error = |cell: &[u8], wanted| ReadError::Cell {
            line,
            found: String::from_utf8_lossy(&cell[..cell.len().min(40)]).into_owned(),
            wanted,
        };
        if let Some((time, unit)) = columns.time {
            let cell = columns.cells.iter().nth(time).unwrap_or_default();
            let time = parse(cell).ok_or_else(|| cell_error(cell, "a time"))? * unit;
            let zero = *self.zero.get_or_insert(time.min(0.0));
            let now = Nanos((time - zero).max(0.0).round() as u64);
            if time < zero || now < self.now {
                return Err(cell_error(cell, "a time after the one before"));
            }
            self.now = now;
        } else if let Some(rate) = self.rate {
            let nanos = u128::from(self.samples) * 1_000_000_000 / u128::from(rate.0.max(1));
            self.now = Nanos(u64::try_from(nanos).unwrap_or(u64::MAX));
            self.samples += 1;
        }
        for (column, cell) in columns.cells.iter().enumerate() {
            if columns.time.is_some_and(|(time, _)| time == column) {
                continue;
            }
            let level = match cell.trim_ascii() {
                b"0" | b"0.0" => Level::Low,
                b"1" | b"1.0" => Level::High,
                b"z" | b"Z" => Level::Open,
                b"x" | b"X" | b"" => Level::Unknown,
                other => return Err(cell_error(other, "a level: 0, 1, z or x")),
            };
            let Some(held) = self.levels.get_mut(wire) else {
                return Err(cell_error(cell, "within the columns of the first row"));
            };
            if held.replace(level) != Some(level) {
                changes.push(Change { at: self.now, wire: wire as u32, level });
            }
            wire += 1;
        }
        Ok(())
    }

    /// Learns the columns from the first row. Whether it was a heading.
    fn begin(&mut self, row: &[u8]) -> Result<bool, ReadError> {
        let mut first = Cells::divided_by(divider_of(row));
        first.read(row);
        let cells: Vec<_> =
            first.iter().map(|cell| String::from_utf8_lossy(cell).trim().to_owned()).collect();
        if cells.len() > MAX_WIRES {
            return Err(ReadError::TooManyWires);
        }
        let is_heading = cells.iter().any(|cell| {
            !cell.is_empty()
                && parse(cell.as_bytes()).is_none()
                && !matches!(cell.as_str(), "x" | "z" | "X" | "Z")
        });
        let time = if self.rate.is_some() {
            None
        } else if is_heading {
            let time = cells.iter().position(|cell| cell.to_ascii_lowercase().starts_with("time"));
            Some(time.map_or((0, 1e9), |time| (time, unit_of(&cells[time]))))
        } else {
            Some((0, 1e9))
        };
        let lines =
            cells.iter().enumerate().filter(|(column, _)| time.is_none_or(|(time, _)| time != *column));
        self.wires = lines
            .enumerate()
            .map(
                |(wire, (_, cell))| {
                    if is_heading { Wire::named(cell) } else { Wire::named(&format!("D{wire}")) }
                },
            )
            .collect();
        self.levels = vec![None; self.wires.len()];
        self.columns = Some(Columns { cells: first, time });
        Ok(is_heading)
    }
}

fn parse(cell: &[u8]) -> Option<f64> {
    let number: f64 = std::str::from_utf8(cell.trim_ascii()).ok()?.parse().ok()?;
    number.is_finite().then_some(number)
}

/// The nanoseconds of the unit that a heading names.
fn unit_of(heading: &str) -> f64 {
    let words = heading.to_ascii_lowercase();
    let mut words = words.split(|c: char| !c.is_alphanumeric());
    let unit = words.find_map(|word| match word {
        "ns" => Some(1.0),
        "us" => Some(1e3),
        "ms" => Some(1e6),
        _ => None,
    });
    unit.unwrap_or(1e9)
}

impl Reader for Samples {
    fn feed(&mut self, piece: &[u8], changes: &mut Vec<Change>) -> Result<usize, ReadError> {
        let mut rest = piece;
        while let Some(end) = rest.iter().position(|byte| *byte == b'\n') {
            let (row, later) = (&rest[..end], &rest[end + 1..]);
            if self.unfinished.is_empty() {
                self.row(row, changes)?;
            } else {
                self.unfinished.extend_from_slice(row);
                let row = std::mem::take(&mut self.unfinished);
                self.row(&row, changes)?;
                self.unfinished = row;
                self.unfinished.clear();
            }
            rest = later;
        }
        self.unfinished.extend_from_slice(rest);
        if self.unfinished.len() > LONGEST {
            return Err(ReadError::LongLine { offset: 0, most: LONGEST });
        }
        Ok(piece.len())
    }

    fn finish(&mut self, changes: &mut Vec<Change>) -> Result<(), ReadError> {
        let row = std::mem::take(&mut self.unfinished);
        if !row.is_empty() {
            self.row(&row, changes)?;
        }
        if self.columns.is_none() {
            return Err(ReadError::Truncated { what: "its first row" });
        }
        Ok(())
    }

    fn wires(&self) -> &[Wire] {
        &self.wires
    }

    fn now(&self) -> Nanos {
        self.now
    }

    fn before_zero(&self) -> Nanos {
        Nanos(self.zero.map_or(0, |zero| (-zero).round() as u64))
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    fn read(text: &str, rate: Option<Hertz>, piece: usize) -> Result<Vec<(u64, String, Level)>, ReadError> {
        let (mut samples, mut changes) = (Samples::new(rate), Vec::new());
        for piece in text.as_bytes().chunks(piece) {
            samples.feed(piece, &mut changes)?;
        }
        samples.finish(&mut changes)?;
        let name = |change: &Change| samples.wires()[change.wire as usize].name.clone();
        Ok(changes.iter().map(|change| (change.at.0, name(change), change.level)).collect())
    }

    #[test]
    fn times_or_a_rate_with_a_heading_or_without() {
        use Level::{High, Low};
        let from = |zero: u64| {
            let told = [(zero, "D0", Low), (zero, "D1", High), (zero + 1_000, "D0", High)];
            Ok(told.map(|(at, name, level)| (at, name.to_owned(), level)).to_vec())
        };
        assert_eq!(read("0.5,0,1\r\n0.500001,1,1\n", None, 3), from(500_000_000));
        assert_eq!(read("0;1\n1;1", Some(Hertz(1_000_000)), 2), from(0));
        assert_eq!(read("D0,Time [us],D1\n0,5,1\n1,6,1\n", None, 5), from(5_000));
        assert_eq!(read("\u{feff}Time [us],D0,D1\n5,0,1\n6,1,1\n", None, 2), from(5_000));
        let quoted = "\"Time [us]\";\"D0, \"\"left\"\"\";D1\n5;\"0\";1\n\"6\";1;1\n";
        let changes = read(quoted, None, 4).unwrap();
        assert_eq!(changes[0], (5_000, "D0, \"left\"".to_owned(), Low));
        assert_eq!((changes.len(), changes[2].0), (3, 6_000));
        // Before a trigger times are below zero: they count from the first.
        assert_eq!(read("-0.5,0,1\n-0.499999,1,1\n", None, 9), from(0));
        let mut samples = Samples::new(None);
        samples.feed(b"-0.5,0,1\n", &mut Vec::new()).unwrap();
        assert_eq!(samples.before_zero(), Nanos(500_000_000));
    }

    #[test]
    fn what_breaks_the_form_is_told_with_its_line() {
        let error = |text| read(text, None, 100).unwrap_err().to_string();
        assert_eq!(error("0,1\n1,2\n"), "line 2: \"2\" is not a level: 0, 1, z or x");
        assert_eq!(error("0,1\n1,1\r,0\n"), "line 2: \"0\" is not within the columns of the first row");
        assert_eq!(error("1,1\n0,1\n"), "line 2: \"0\" is not a time after the one before");
        assert_eq!(error("0,1\n1,1,1\n"), "line 2: \"1\" is not within the columns of the first row");
        assert_eq!(error(""), "the recording ends before its first row");
    }

    proptest! {
        #[test]
        fn any_text_is_survived(text in "[-0-9a-z.,;\"\t\r\n#]{0,200}", piece in 1..30_usize) {
            let _ = read(&text, None, piece);
            let _ = read(&text, Some(Hertz(7)), piece);
        }
    }
}
