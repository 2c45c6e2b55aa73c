//! Reads a value change dump (IEEE 1364, clause 18): scalars and vectors, with x and z; reals are passed over.

use std::collections::HashMap;

use super::{Change, Level, MAX_AT_ONCE, MAX_WIRES, ReadError, Reader, Wire, shortened};
use crate::units::Nanos;

/// The longest token: an identifier, a number, or the bits of a vector.
const LONGEST: usize = 65_536;

/// A reader of dumps.
pub struct Dump {
    state: State,
    /// A token whose end has not come yet.
    unfinished: Vec<u8>,
    /// The place of the piece in the file.
    offset: u64,
    wires: Vec<Wire>,
    /// The last level of each wire of a vector: only changes are recorded.
    levels: Vec<Option<Level>>,
    /// How many names were declared.
    names: usize,
    /// For identifiers of one character, the commonest by far: its wire and how many it has.
    short: [Option<(u32, u32)>; 94],
    long: HashMap<Vec<u8>, (u32, u32)>,
    /// From the dump's time to nanoseconds: times this, divided by that.
    scale: (u64, u64),
    time: u64,
    now: Nanos,
    /// The words of the declaration that is being read.
    words: Vec<String>,
}

/// The next item.
#[derive(Clone, Copy, PartialEq, Eq)]
enum State {
    /// A keyword of the header.
    Header,
    /// The words of a declaration, up to `$end`.
    Variable,
    Timescale,
    /// Words of no concern, up to `$end`.
    Skip {
        in_header: bool,
    },
    /// A time or a change.
    Body,
    /// The identifier of a vector, whose bits have come.
    Vector,
    /// The identifier of a real or a text.
    Passed,
}

impl Default for Dump {
    fn default() -> Self {
        Self {
            state: State::Header,
            unfinished: Vec::new(),
            offset: 0,
            wires: Vec::new(),
            levels: Vec::new(),
            names: 0,
            short: [None; 94],
            long: HashMap::new(),
            scale: (1, 1),
            time: 0,
            now: Nanos(0),
            words: Vec::new(),
        }
    }
}

const fn is_space(byte: u8) -> bool {
    matches!(byte, b' ' | b'\n' | b'\r' | b'\t' | 0x0B | 0x0C)
}

fn words(token: &[u8]) -> String {
    String::from_utf8_lossy(&token[..token.len().min(40)]).into_owned()
}

fn level_of(byte: u8) -> Option<Level> {
    match byte {
        b'0' => Some(Level::Low),
        b'1' => Some(Level::High),
        b'z' | b'Z' => Some(Level::Open),
        b'x' | b'X' => Some(Level::Unknown),
        _ => None,
    }
}

impl Dump {
    fn token(&mut self, token: &[u8], at: u64, changes: &mut Vec<Change>) -> Result<(), ReadError> {
        match self.state {
            State::Body => self.body(token, at, changes),
            State::Vector => self.vector(token, at, changes),
            State::Passed => {
                self.state = State::Body;
                Ok(())
            }
            State::Header => {
                self.words.clear();
                self.state = match token {
                    b"$var" => State::Variable,
                    b"$timescale" => State::Timescale,
                    b"$enddefinitions" => State::Skip { in_header: false },
                    [b'$', ..] => State::Skip { in_header: true },
                    _ => {
                        let wanted = "a keyword of the header, such as $var";
                        return Err(ReadError::Malformed { offset: at, found: words(token), wanted });
                    }
                };
                Ok(())
            }
            State::Skip { in_header } => {
                if token == b"$end" {
                    self.state = if in_header { State::Header } else { State::Body };
                }
                Ok(())
            }
            State::Variable | State::Timescale if token != b"$end" => {
                // No declaration has more words; a missing $end must not gather the file.
                if self.words.len() > 16 {
                    return Err(ReadError::Malformed { offset: at, found: words(token), wanted: "$end" });
                }
                self.words.push(String::from_utf8_lossy(token).into_owned());
                Ok(())
            }
            State::Variable => {
                self.state = State::Header;
                self.declare(at)
            }
            State::Timescale => {
                self.state = State::Header;
                self.set_scale(at)
            }
        }
    }

    /// `wire 8 # port [7:0]`: type, size, identifier, name and perhaps a range.
    fn declare(&mut self, at: u64) -> Result<(), ReadError> {
        let declared = self.words.join(" ");
        let malformed = |wanted| ReadError::Malformed { offset: at, found: declared.clone(), wanted };
        let [kind, size, identifier, name, rest @ ..] = &self.words[..] else {
            return Err(malformed("a declaration: type, size, identifier and name"));
        };
        let size: u32 = size.parse().map_err(|_| malformed("a declaration with a size"))?;
        // Reals and texts have no levels: they get no wire.
        let count = if matches!(kind.as_str(), "real" | "realtime" | "string") { 0 } else { size };
        self.names += count.max(1) as usize;
        if self.names > MAX_WIRES {
            return Err(ReadError::TooManyWires);
        }
        let names = bit_names(name, rest, count);
        // The same wire may have several names, in every scope that it is seen from.
        if let Ok((first, known)) = self.find(identifier.as_bytes(), at) {
            if known != count {
                return Err(malformed(
                    "a declaration of the same size as the one before with its identifier",
                ));
            }
            for (wire, name) in self.wires[first as usize..].iter_mut().zip(names) {
                wire.also.push(name);
            }
            return Ok(());
        }
        let place = (self.wires.len() as u32, count);
        self.wires.extend(names.map(|name| Wire { name, also: Vec::new() }));
        self.levels.resize(self.wires.len(), None);
        match identifier.as_bytes() {
            [one @ b'!'..=b'~'] => self.short[usize::from(one - b'!')] = Some(place),
            long => {
                self.long.insert(long.to_vec(), place);
            }
        }
        Ok(())
    }

    /// `1 ns`, `10us`, `100 ps`.
    fn set_scale(&mut self, at: u64) -> Result<(), ReadError> {
        let text: String = self.words.concat();
        let digits = text.trim_end_matches(|c: char| c.is_alphabetic());
        let number: Option<u64> = digits.parse().ok().filter(|number| matches!(number, 1 | 10 | 100));
        let unit = match &text[digits.len()..] {
            "s" => Some((1_000_000_000, 1)),
            "ms" => Some((1_000_000, 1)),
            "us" => Some((1_000, 1)),
            "ns" => Some((1, 1)),
            "ps" => Some((1, 1_000)),
            "fs" => Some((1, 1_000_000)),
            _ => None,
        };
        let (Some(number), Some((times, by))) = (number, unit) else {
            let wanted = "a timescale: 1, 10 or 100 and s, ms, us, ns, ps or fs";
            return Err(ReadError::Malformed { offset: at, found: text, wanted });
        };
        self.scale = (number * times, by);
        Ok(())
    }

    #[inline]
    fn body(&mut self, token: &[u8], at: u64, changes: &mut Vec<Change>) -> Result<(), ReadError> {
        let (first, rest) = (token[0], &token[1..]);
        if first == b'#' {
            return self.set_time(rest, at);
        }
        if let Some(level) = level_of(first) {
            let (wire, count) = self.find(rest, at)?;
            if count > 0 {
                changes.push(Change { at: self.now, wire, level });
            }
            return Ok(());
        }
        match first {
            b'b' | b'B' => {
                // Kept until its identifier comes.
                self.words.clear();
                self.words.push(String::from_utf8_lossy(rest).into_owned());
                self.state = State::Vector;
            }
            b'r' | b'R' | b's' | b'S' => self.state = State::Passed,
            b'$' if matches!(token, b"$comment") => self.state = State::Skip { in_header: false },
            // $dumpvars, $dumpoff, $end and their like: what is between are changes.
            b'$' => {}
            _ => {
                let wanted = "a time or a change";
                return Err(ReadError::Malformed { offset: at, found: words(token), wanted });
            }
        }
        Ok(())
    }

    #[inline]
    fn set_time(&mut self, digits: &[u8], at: u64) -> Result<(), ReadError> {
        let mut time = 0_u64;
        for digit in digits {
            if !digit.is_ascii_digit() {
                let wanted = "a time in whole units";
                return Err(ReadError::Malformed { offset: at, found: words(digits), wanted });
            }
            time = time.saturating_mul(10).saturating_add(u64::from(digit - b'0'));
        }
        if time < self.time {
            return Err(ReadError::TimeGoesBack { offset: at, before: self.time, after: time });
        }
        self.time = time;
        self.now = self.nanos(time);
        Ok(())
    }

    /// Reads on over what nearly all of a dump consists of: times, and levels of wires whose identifier has one
    /// character, a line each. Returns where it stopped: at the beginning of anything else.
    fn common(&mut self, bytes: &[u8], changes: &mut Vec<Change>) -> usize {
        let mut place = 0;
        loop {
            match &bytes[place..] {
                [level @ (b'0' | b'1'), id @ b'!'..=b'~', b'\n', ..] => {
                    let Some((wire, 1)) = self.short[usize::from(id - b'!')] else { return place };
                    let level = if *level == b'1' { Level::High } else { Level::Low };
                    changes.push(Change { at: self.now, wire, level });
                    place += 3;
                }
                [b'#', digits @ ..] => {
                    // Nineteen digits cannot overflow.
                    let (mut time, mut length) = (0_u64, 0);
                    while let Some(digit @ b'0'..=b'9') = digits.get(length).filter(|_| length < 19) {
                        time = 10 * time + u64::from(digit - b'0');
                        length += 1;
                    }
                    if length == 0 || digits.get(length) != Some(&b'\n') || time < self.time {
                        return place;
                    }
                    self.time = time;
                    self.now = self.nanos(time);
                    place += length + 2;
                }
                _ => return place,
            }
        }
    }

    #[inline]
    fn nanos(&self, time: u64) -> Nanos {
        let (times, by) = self.scale;
        Nanos(if by == 1 {
            time.saturating_mul(times)
        } else {
            (time / by).saturating_mul(times).saturating_add(time % by * times / by)
        })
    }

    #[inline]
    fn find(&self, identifier: &[u8], at: u64) -> Result<(u32, u32), ReadError> {
        let place = match identifier {
            [one @ b'!'..=b'~'] => self.short[usize::from(one - b'!')],
            long => self.long.get(long).copied(),
        };
        place.ok_or_else(|| ReadError::UnknownIdentifier { offset: at, found: words(identifier) })
    }

    fn vector(&mut self, identifier: &[u8], at: u64, changes: &mut Vec<Change>) -> Result<(), ReadError> {
        self.state = State::Body;
        let (first, count) = self.find(identifier, at)?;
        let bits = std::mem::take(&mut self.words).pop().unwrap_or_default();
        let bits = bits.as_bytes();
        // A shorter value is filled up at the left: with 0, or with x or z when it begins so.
        let fill = match bits.first() {
            Some(b'x' | b'X') => Level::Unknown,
            Some(b'z' | b'Z') => Level::Open,
            _ => Level::Low,
        };
        let count = count as usize;
        for bit in 0..count {
            let from_right = count - 1 - bit;
            let level = match bits.len().checked_sub(1 + from_right) {
                None => fill,
                Some(place) => level_of(bits[place]).ok_or_else(|| ReadError::Malformed {
                    offset: at,
                    found: words(bits),
                    wanted: "bits of 0, 1, x and z",
                })?,
            };
            let wire = first + bit as u32;
            if self.levels[wire as usize].replace(level) != Some(level) {
                changes.push(Change { at: self.now, wire, level });
            }
        }
        Ok(())
    }
}

/// The names of a declaration's bits, the highest first: `port[3]` for `port [3:0]`.
fn bit_names<'n>(name: &'n str, rest: &'n [String], count: u32) -> impl Iterator<Item = String> + use<'n> {
    let range = rest.first().and_then(|range| range.strip_prefix('[')?.strip_suffix(']')?.split_once(':'));
    let ends = range.and_then(|(high, low)| Some((high.trim().parse().ok()?, low.trim().parse().ok()?)));
    let (high, low): (i64, i64) = ends.unwrap_or((i64::from(count) - 1, 0));
    let short = shortened(name);
    (0..i64::from(count)).map(move |bit| match count {
        1 => shortened(&format!("{short}{}", rest.concat())),
        _ if high >= low => format!("{short}[{}]", high.saturating_sub(bit)),
        _ => format!("{short}[{}]", high.saturating_add(bit)),
    })
}

impl Reader for Dump {
    fn feed(&mut self, piece: &[u8], changes: &mut Vec<Change>) -> Result<usize, ReadError> {
        let mut rest = piece;
        if !self.unfinished.is_empty() {
            let begun = self.offset - self.unfinished.len() as u64;
            let end = rest.iter().position(|byte| is_space(*byte)).unwrap_or(rest.len());
            self.unfinished.extend_from_slice(&rest[..end]);
            if self.unfinished.len() > LONGEST {
                return Err(ReadError::LongLine { offset: self.offset, most: LONGEST });
            }
            rest = &rest[end..];
            if !rest.is_empty() {
                let token = std::mem::take(&mut self.unfinished);
                self.token(&token, begun, changes)?;
                self.unfinished = token;
                self.unfinished.clear();
            }
        }
        let base = self.offset + (piece.len() - rest.len()) as u64;
        let mut begin = 0;
        while begin < rest.len() && changes.len() < MAX_AT_ONCE {
            if self.state == State::Body {
                begin += self.common(&rest[begin..], changes);
                if begin >= rest.len() {
                    break;
                }
            }
            if is_space(rest[begin]) {
                begin += 1;
                continue;
            }
            let length = rest[begin..].iter().position(|byte| is_space(*byte));
            let Some(length) = length else {
                self.unfinished.extend_from_slice(&rest[begin..]);
                begin = rest.len();
                break;
            };
            self.token(&rest[begin..begin + length], base + begin as u64, changes)?;
            begin += length + 1;
        }
        let taken = piece.len() - rest.len() + begin.min(rest.len());
        self.offset += taken as u64;
        Ok(taken)
    }

    fn finish(&mut self, changes: &mut Vec<Change>) -> Result<(), ReadError> {
        // A dump that was cut off may end in half a time or a change without its identifier: that is passed over.
        let token = std::mem::take(&mut self.unfinished);
        if !token.is_empty() && self.state == State::Body && token.len() > 1 && token[0] != b'#' {
            let _ = self.token(&token, self.offset, changes);
        } else if token == b"$end" {
            self.token(&token, self.offset, changes)?;
        }
        match self.state {
            State::Body | State::Vector | State::Passed | State::Skip { in_header: false } => Ok(()),
            _ => Err(ReadError::Truncated { what: "its header does ($enddefinitions)" }),
        }
    }

    fn wires(&self) -> &[Wire] {
        &self.wires
    }

    fn now(&self) -> Nanos {
        self.now
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    const DUMP: &str = "$date today $end $timescale 10 us $end\r\n$scope module quay $end\n\
        $var wire 1 ! clock $end\n$var reg 4 ab port [3:0] $end $var real 64 r level $end $upscope $end\n\
        $enddefinitions $end\n#0\n$dumpvars\nx!\nbz ab\nr1.5 r\n$end\n#3\r\n1!\r\nb10 ab\n#5 0! $comment no #4 $end\n";

    /// Reads a text in pieces of this length.
    fn read(text: &[u8], piece: usize) -> Result<(Vec<String>, Vec<Change>), ReadError> {
        let (mut dump, mut changes) = (Dump::default(), Vec::new());
        for mut piece in text.chunks(piece) {
            while !piece.is_empty() {
                let taken = dump.feed(piece, &mut changes)?;
                piece = &piece[taken..];
                assert!(taken > 0 || changes.len() >= MAX_AT_ONCE);
                if taken == 0 {
                    changes.clear();
                }
            }
        }
        dump.finish(&mut changes)?;
        Ok((dump.wires().iter().map(|wire| wire.name.clone()).collect(), changes))
    }

    #[test]
    fn scalars_vectors_and_levels_in_pieces_of_any_length() {
        let (names, changes) = read(DUMP.as_bytes(), 1_000).unwrap();
        assert_eq!(names, ["clock", "port[3]", "port[2]", "port[1]", "port[0]"]);
        let told: Vec<_> = changes.iter().map(|change| (change.at.0, change.wire, change.level)).collect();
        use Level::{High, Low, Open, Unknown};
        let open = (1..5).map(|wire| (0, wire, Open));
        let expected: Vec<_> = [(0, 0, Unknown)]
            .into_iter()
            .chain(open)
            .chain([
                (30_000, 0, High),
                (30_000, 1, Low),
                (30_000, 2, Low),
                (30_000, 3, High),
                (30_000, 4, Low),
            ])
            .chain([(50_000, 0, Low)])
            .collect();
        assert_eq!(told, expected);
        for piece in 1..20 {
            assert_eq!(read(DUMP.as_bytes(), piece), Ok((names.clone(), changes.clone())), "{piece}");
        }
    }

    #[test]
    fn what_breaks_the_form_is_told_with_its_place() {
        let error = |body: &str| {
            read(format!("$var wire 1 ! a $end $enddefinitions $end {body}").as_bytes(), 7)
                .unwrap_err()
                .to_string()
        };
        assert_eq!(error("#5 1? "), "byte 45: \"?\" is not an identifier that the dump declares");
        assert_eq!(error("#5 1! #4 0! "), "byte 48: time goes back from 5 to 4");
        assert_eq!(error("#5x "), "byte 42: \"5x\" is not a time in whole units");
        assert_eq!(error("hello "), "byte 42: \"hello\" is not a time or a change");
        assert_eq!(
            read(b"$var wire 1 ! a $end", 5).unwrap_err().to_string(),
            "the recording ends before its header does ($enddefinitions)"
        );
        assert_eq!(
            read(b"$timescale 3 ns $end ", 50).unwrap_err().to_string(),
            "byte 16: \"3ns\" is not a timescale: 1, 10 or 100 and s, ms, us, ns, ps or fs"
        );
        let var = |number: u32| format!("$var wire 1000 n{number} a $end ");
        let many: String = (0..2_000).map(var).chain(["$enddefinitions $end ".to_owned()]).collect();
        assert_eq!(read(many.as_bytes(), 4_096).unwrap_err(), ReadError::TooManyWires);
        let long = [b"$comment ".as_slice(), &[b'x'; 70_000]].concat();
        assert!(matches!(read(&long, 1_000), Err(ReadError::LongLine { .. })));
    }

    /// IEEE 1364 lets one identifier stand for a net in several scopes.
    #[test]
    fn several_names_for_one_wire() {
        let dump = "$var wire 1 ! CLK $end $var wire 1 ! top.clock $end $enddefinitions $end #0 1! ";
        let (mut reader, mut changes) = (Dump::default(), Vec::new());
        reader.feed(dump.as_bytes(), &mut changes).unwrap();
        assert_eq!(reader.wires(), [Wire { name: "CLK".into(), also: vec!["top.clock".into()] }]);
        assert_eq!(changes.len(), 1);
        let other = "$var wire 1 ! a $end $var wire 2 ! b $end ";
        assert!(matches!(read(other.as_bytes(), 99), Err(ReadError::Malformed { .. })));
    }

    /// A short value may change very many wires, so the changes are passed on in portions.
    #[test]
    fn wide_vectors_and_long_names_take_no_more_memory() {
        let name = "n".repeat(60_000);
        let header = format!("$var wire 65000 ! {name} $end $enddefinitions $end #0 ");
        let mut dump = Dump::default();
        let mut changes = Vec::new();
        dump.feed(header.as_bytes(), &mut changes).unwrap();
        assert!(dump.wires().iter().all(|wire| wire.name.len() < 80));
        let body = "b0 !\nbx !\n".repeat(50);
        let (mut rest, mut told) = (body.as_bytes(), 0);
        while !rest.is_empty() {
            rest = &rest[dump.feed(rest, &mut changes).unwrap()..];
            assert!(changes.len() < 2 * MAX_AT_ONCE);
            told += changes.len();
            changes.clear();
        }
        assert_eq!(told, 100 * 65_000);
    }

    #[test]
    fn a_dump_that_was_cut_off_is_read_as_far_as_it_goes() {
        let whole = read(DUMP.as_bytes(), 64).unwrap().1.len();
        let header = DUMP.find("#0").unwrap();
        for end in header..DUMP.len() {
            let changes = read(&DUMP.as_bytes()[..end], 64).unwrap().1;
            assert!(changes.len() <= whole);
        }
    }

    proptest! {
        #[test]
        fn any_bytes_are_survived(bytes in prop::collection::vec(any::<u8>(), 0..400), piece in 1..50_usize) {
            let _ = read(&bytes, piece);
            let behind_header = [b"$var wire 1 ! a $end $var wire 9 \" b $end $enddefinitions $end ".as_slice(), &bytes].concat();
            let _ = read(&behind_header, piece);
        }

        #[test]
        fn nearly_a_dump_is_survived(tokens in prop::collection::vec(prop::sample::select(&[
            "#1", "#99", "#0", "1!", "0!", "x!", "b1", "b", "!", "\"", "r1", "$end", "$var", "$comment", "$enddefinitions", "wire", "1", "$timescale", "ns", "\r\n",
        ]), 0..60), piece in 1..20_usize) {
            let _ = read(tokens.join(" ").as_bytes(), piece);
        }
    }
}
