//! The response of a chain of parts to the edges on its three wires.
//!
//! Each part is a 16-bit shift register whose output feeds the next. A rising clock shifts the data line
//! in; a rising select makes every part take the 16 bits it then holds. Bits 11-8 choose a register, bits
//! 7-0 are its new contents (data sheet, serial-data format).

use crate::bus::watch::Watch;
use crate::bus::whole::Bytewise;
use crate::bus::{Edge, spi};
use crate::meaning::{Meaning, Written, lines_or_blank};
use crate::model::{Model, Notebook, hex};
use crate::units::{Nanos, counted};

/// One write, as the part understands its 16 bits.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
enum Write {
    NoOp,
    Digit {
        line: u8,
        data: u8,
    },
    Decode(u8),
    Intensity(u8),
    ScanLimit(u8),
    Run(bool),
    Test(bool),
    /// The registers D and E, which the part has not.
    Nothing(u8),
}

impl Write {
    fn from_word(word: u16) -> Self {
        let data = (word & 0xFF) as u8;
        match (word >> 8 & 0xF) as u8 {
            0x0 => Self::NoOp,
            register @ 0x1..=0x8 => Self::Digit { line: register - 1, data },
            0x9 => Self::Decode(data),
            0xA => Self::Intensity(data & 0xF),
            0xB => Self::ScanLimit(data & 0x7),
            0xC => Self::Run(data & 1 == 1),
            0xF => Self::Test(data & 1 == 1),
            register => Self::Nothing(register),
        }
    }

    fn words(self) -> String {
        match self {
            Self::NoOp => "no operation".to_owned(),
            Self::Digit { line, data } => format!("digit line {line}: data {data:02X}"),
            Self::Decode(0) => "decode mode: none, data bits are segments".to_owned(),
            Self::Decode(mask) => {
                let digits: Vec<_> =
                    (0..8).filter(|digit| mask >> digit & 1 == 1).map(|d| d.to_string()).collect();
                format!("decode mode: code B on digit lines {}", digits.join(" "))
            }
            Self::Intensity(step) => {
                format!("intensity: {step}, lit {}/32 of the time", 2 * u16::from(step) + 1)
            }
            Self::ScanLimit(0) => "scan limit: digit line 0 alone".to_owned(),
            Self::ScanLimit(last) => format!("scan limit: digit lines 0-{last}"),
            Self::Run(true) => "shutdown: off, the part runs".to_owned(),
            Self::Run(false) => "shutdown: on, the display is dark".to_owned(),
            Self::Test(true) => "display test: on, every segment lit".to_owned(),
            Self::Test(false) => "display test: off".to_owned(),
            Self::Nothing(register) => format!("register {register:X}: the part has none"),
        }
    }
}

/// Code B by the low four bits of the data: 0-9, minus, E, H, L, P, blank; bit 6 a to bit 0 g.
const CODE_B: [u8; 16] = [
    0b111_1110, 0b011_0000, 0b110_1101, 0b111_1001, 0b011_0011, 0b101_1011, 0b101_1111, 0b111_0000,
    0b111_1111, 0b111_1011, 0b000_0001, 0b100_1111, 0b011_0111, 0b000_1110, 0b110_0111, 0b000_0000,
];

/// The segment lines that are high for a digit's data: bit 7 dp, then a to g.
const fn segment_lines(data: u8, is_decoded: bool) -> u8 {
    if is_decoded { data & 0x80 | CODE_B[(data & 0xF) as usize] } else { data }
}

/// The segment lines that are lit, by the data sheet's names, behind the code that they come from.
fn data_words(data: u8, is_decoded: bool) -> String {
    const BITS: [&str; 8] = ["dp", "a", "b", "c", "d", "e", "f", "g"];
    let lines = segment_lines(data, is_decoded);
    let lit: Vec<_> = (0..8).filter(|bit| lines << bit & 0x80 != 0).map(|bit| BITS[bit].to_owned()).collect();
    let code = if is_decoded { format!("code B {}, ", data & 0xF) } else { String::new() };
    code + &lines_or_blank("", &lit)
}

/// Returns the meaning of data for a digit register of a part. The nodes of the parts follow one another, the fed one's first.
fn written(part: usize, parts: usize, line: u8, data: u8, is_decoded: bool) -> Written {
    let of_part = if parts > 1 { format!("part {part}: ") } else { String::new() };
    let first = 64 * part + 8 * usize::from(line);
    let lines = segment_lines(data, is_decoded);
    Written {
        place: format!("{of_part}digit line {line}"),
        data: data_words(data, is_decoded),
        nodes: (0..8).map(|bit| (first + bit, lines >> bit & 1 == 1)).collect(),
    }
}

/// Returns the meaning of a transfer for the parts of a chain, from its bytes alone, if it is known which digit lines of which
/// part are decoded.
pub fn explain(bytes: &[u8], is_decoded: impl Fn(usize, usize) -> bool) -> Meaning {
    let parts = bytes.len() / 2;
    let writes: Option<Vec<_>> = bytes
        .rchunks(2)
        .map(|word| Some(Write::from_word(u16::from_be_bytes(word.try_into().ok()?))))
        .collect();
    let Some(writes) = writes else { return Meaning::words("a word cut short") };
    let of_digit = |(part, write): (usize, &Write)| match *write {
        Write::Digit { line, data } => {
            Some(written(part, parts, line, data, is_decoded(part, usize::from(line))))
        }
        _ => None,
    };
    let is_data = |write: &Write| matches!(write, Write::Digit { .. } | Write::NoOp);
    let digits: Vec<_> = writes.iter().enumerate().filter_map(of_digit).collect();
    match &writes[..] {
        [] => Meaning::words("nothing"),
        writes if !digits.is_empty() && writes.iter().all(is_data) => Meaning::Memory(digits),
        [write] => Meaning::Words(write.words()),
        [first, rest @ ..] if rest.iter().all(|write| write == first) => {
            Meaning::Words(format!("every part: {}", first.words()))
        }
        writes => {
            let parts =
                writes.iter().enumerate().map(|(part, write)| format!("part {part}: {}", write.words()));
            Meaning::Words(parts.collect::<Vec<_>>().join("; "))
        }
    }
}

/// A meaning for someone whose first part is not the first of the chain.
pub fn seen_from(first: usize, meaning: Meaning) -> Meaning {
    let Meaning::Memory(mut written) = meaning else { return meaning };
    for place in &mut written {
        // Nodes of parts before it are unused.
        let own = |(node, lit): &(usize, bool)| Some((node.checked_sub(64 * first)?, *lit));
        place.nodes = place.nodes.iter().filter_map(own).collect();
    }
    Meaning::Memory(written)
}

/// The registers of one part.
#[derive(Debug, Clone)]
struct Registers {
    digits: [u8; 8],
    decode: u8,
    intensity: u8,
    scan_limit: u8,
    running: bool,
    test: bool,
}

impl Registers {
    /// As the data sheet's initial power-up table has them. Digit data is said to be cleared too.
    const POWER_UP: Self =
        Self { digits: [0; 8], decode: 0, intensity: 0, scan_limit: 0, running: false, test: false };

    fn take(&mut self, write: Write) {
        match write {
            Write::NoOp | Write::Nothing(_) => {}
            Write::Digit { line, data } => self.digits[usize::from(line)] = data,
            Write::Decode(mask) => self.decode = mask,
            Write::Intensity(step) => self.intensity = step,
            Write::ScanLimit(last) => self.scan_limit = last,
            Write::Run(running) => self.running = running,
            Write::Test(test) => self.test = test,
        }
    }

    fn words(&self) -> String {
        let runs = match (self.test, self.running) {
            (true, _) => "test",
            (_, true) => "runs",
            _ => "shutdown",
        };
        let lines = usize::from(self.scan_limit) + 1;
        let digits = hex(&self.digits[..lines]);
        format!("{runs}, intensity {}; {digits}", self.intensity)
    }

    /// Returns true if a digit line's data is decoded.
    const fn decodes(&self, line: usize) -> bool {
        self.decode >> line & 1 == 1
    }

    /// Writes the share of time that each of the part's 64 nodes is lit.
    fn lit(&self, nodes: &mut [f32]) {
        // The test mode overrides everything but leaves the registers: all digits, duty 31/32.
        let (last, share, on) = match (self.test, self.running) {
            (true, _) => (7, 31.0 / 32.0 / 8.0, true),
            (false, on) => {
                let turns = f32::from(self.scan_limit) + 1.0;
                (usize::from(self.scan_limit), (2.0 * f32::from(self.intensity) + 1.0) / 32.0 / turns, on)
            }
        };
        for (line, bits) in nodes.chunks_exact_mut(8).enumerate() {
            let lines = match (on && line <= last, self.test) {
                (false, _) => 0,
                (true, true) => 0xFF,
                (true, false) => segment_lines(self.digits[line], self.decodes(line)),
            };
            for (bit, node) in bits.iter_mut().enumerate() {
                *node = if lines >> bit & 1 == 1 { share } else { 0.0 };
            }
        }
    }
}

/// A chain of parts, the one that the controller feeds first.
pub struct Chain {
    parts: Vec<Registers>,
    /// The first part that is looked at.
    first: usize,
    /// The last `16 x parts` bits shifted in, as a ring of bytes, each filled from its top bit on: the oldest, which is the top
    /// bit of the farthest part, stands at bit `next`.
    ring: Vec<u8>,
    next: usize,
    clock: bool,
    data: bool,
    select: bool,
    /// How often the parts took their words.
    latches: u64,
    /// Bits since select fell.
    clocked: usize,
    watch: Watch,
    notebook: Notebook,
}

impl Chain {
    /// A chain of which someone looks at the parts from `first` on.
    pub fn of(parts: usize, first: usize) -> Self {
        Self { first, ..Self::new(parts) }
    }

    pub fn new(parts: usize) -> Self {
        let idle = (false, false, true);
        Self {
            parts: vec![Registers::POWER_UP; parts],
            first: 0,
            ring: vec![0; 2 * parts],
            next: 0,
            clock: idle.0,
            data: idle.1,
            select: idle.2,
            latches: 0,
            clocked: 0,
            watch: Watch::new(super::facts::LIMITS, spi::CLOCK, spi::DATA),
            notebook: Notebook::default(),
        }
    }

    #[inline]
    fn shift(&mut self) {
        let (byte, bit) = (self.next / 8, 0x80 >> (self.next % 8));
        self.ring[byte] = if self.data { self.ring[byte] | bit } else { self.ring[byte] & !bit };
        self.clocked += 1;
        self.next += 1;
        if self.next == 8 * self.ring.len() {
            self.next = 0;
        }
    }

    fn latch(&mut self, at: Nanos) {
        self.latches += 1;
        let parts = self.parts.iter_mut().rev();
        let take = |(part, word): (&mut Registers, u16)| part.take(Write::from_word(word));
        if self.next.is_multiple_of(16) {
            // As after whole transfers: each word stands in two bytes, the oldest at `next`.
            let (newer, older) = self.ring.as_chunks().0.split_at(self.next / 16);
            let words = older.iter().chain(newer).map(|word| u16::from_be_bytes(*word));
            parts.zip(words).for_each(take);
        } else {
            parts.zip(words(&self.ring, self.next)).for_each(take);
        }
        if self.notebook.is_open() {
            self.note_latch(at);
        }
    }

    /// Notes the words that the parts took, and what is odd about them.
    fn note_latch(&mut self, at: Nanos) {
        let wanted = 16 * self.parts.len();
        let clocked = self.clocked;
        let words: Vec<u16> = words(&self.ring, self.next).collect();
        let bytes: Vec<u8> = words.iter().flat_map(|word| word.to_be_bytes()).collect();
        let (registers, first) = (&self.parts, self.first);
        let is_decoded = |part: usize, line| registers.get(part).is_some_and(|part| part.decodes(line));
        let meaning = || seen_from(first, explain(&bytes, is_decoded));
        if clocked == wanted {
            self.notebook.said(at, meaning);
        } else {
            // Pulses were lost or came from elsewhere: what the part then takes, nobody sent.
            let than = if clocked < wanted { "short" } else { "long" };
            let found = counted(clocked, "bit", "bits");
            self.notebook.odd(at, || {
                format!(
                    "a {than} transfer: {found} where {wanted} are expected; the part takes it for {}",
                    meaning().plainly()
                )
            });
        }
        // Bits 15 to 12 are of no concern to the part, and every program leaves them 0.
        words.iter().filter(|word| **word >> 12 != 0).for_each(|_| self.notebook.doubt());
        if words.iter().all(|word| Write::from_word(*word) == Write::NoOp) {
            self.notebook.doubt();
        }
        for (part, word) in words.iter().rev().enumerate() {
            let registers = &self.parts[part];
            match Write::from_word(*word) {
                Write::Digit { line, data } if line > registers.scan_limit && data != 0 => {
                    let limit = registers.scan_limit;
                    self.notebook.odd(at, || {
                        format!("part {part}: digit line {line} is beyond the scan limit {limit}")
                    });
                }
                Write::Test(true) => self.notebook.odd(at, || format!("part {part}: the display test is on")),
                Write::Nothing(register) => {
                    self.notebook.odd(at, || format!("part {part}: it has no register {register:X}"));
                }
                _ => {}
            }
        }
    }
}

/// The words in a ring of bits whose oldest one is at `next`, the oldest word first.
fn words(ring: &[u8], next: usize) -> impl Iterator<Item = u16> {
    let (first, over, count) = (next / 8, next % 8, ring.len());
    (0..count / 2).map(move |part| {
        let byte = |offset: usize| {
            let place = first + 2 * part + offset;
            // Less than twice around: a division would take most of the time.
            u32::from(ring[if place >= count { place - count } else { place }])
        };
        let bits = byte(0) << 16 | byte(1) << 8 | byte(2);
        (bits >> (8 - over)) as u16
    })
}

impl Model for Chain {
    fn wake(&mut self, levels: &[Option<bool>]) {
        let level = |line: usize, usual| levels.get(line).copied().flatten().unwrap_or(usual);
        (self.clock, self.data) = (level(spi::CLOCK, false), level(spi::DATA, false));
        self.select = level(spi::SELECT, true);
    }

    fn take(&mut self, edges: &[Edge]) {
        for edge in edges {
            if self.notebook.is_open()
                && let Some(violation) = self.watch.take(edge)
            {
                self.notebook.odd(edge.at, || violation.to_string());
            }
            match edge.line {
                spi::DATA => self.data = edge.level,
                spi::CLOCK => {
                    if edge.level && !self.clock {
                        self.shift();
                    }
                    self.clock = edge.level;
                }
                spi::SELECT => {
                    if edge.level && !self.select {
                        self.latch(edge.at);
                    }
                    self.select = edge.level;
                    self.clocked = 0;
                }
                _ => {}
            }
        }
    }

    fn changes(&self) -> u64 {
        self.latches
    }

    fn bytewise(&mut self) -> Option<&mut dyn Bytewise> {
        if self.notebook.is_open() { None } else { Some(self) }
    }

    fn registers(&self) -> Option<String> {
        let looked_at = self.parts.iter().skip(self.first);
        Some(looked_at.map(Registers::words).collect::<Vec<_>>().join(" | "))
    }

    fn pending(&self) -> Option<String> {
        (self.clocked > 0).then(|| {
            format!(
                "{} clocked in and never taken: select did not rise",
                counted(self.clocked, "bit", "bits")
            )
        })
    }

    fn why_dark(&self) -> Option<&'static str> {
        let is_down = |part: &Registers| !part.running && !part.test;
        self.parts.iter().skip(self.first).all(is_down).then_some("the parts are in shutdown")
    }

    fn notebook(&mut self) -> Option<&mut Notebook> {
        Some(&mut self.notebook)
    }

    fn lit(&self, nodes: &mut [f32]) {
        for (part, nodes) in self.parts.iter().skip(self.first).zip(nodes.chunks_exact_mut(64)) {
            part.lit(nodes);
        }
    }
}

impl Bytewise for Chain {
    fn begin(&mut self, _: Nanos) {
        self.clocked = 0;
    }

    fn written(&mut self, byte: u8, _: Nanos) -> bool {
        self.shift_bytes(&[byte]);
        true
    }

    fn end(&mut self, at: Nanos) {
        self.latch(at);
        self.clocked = 0;
    }

    fn all_written(&mut self, bytes: &[u8], _: &dyn Fn(usize) -> Nanos) {
        self.shift_bytes(bytes);
    }

    /// Its register shifts whatever its select does.
    fn overheard(&mut self, bytes: &[u8]) {
        self.shift_bytes(bytes);
    }
}

impl Chain {
    fn shift_bytes(&mut self, bytes: &[u8]) {
        let Some(last) = bytes.last() else { return };
        if !self.next.is_multiple_of(8) {
            for bit in bytes.iter().flat_map(|byte| (0..8).rev().map(move |bit| byte >> bit & 1 == 1)) {
                self.data = bit;
                self.shift();
            }
            return;
        }
        self.data = last & 1 == 1;
        self.clocked += 8 * bytes.len();
        // Bytes beyond the length of the ring pass through.
        let length = self.ring.len();
        let through = bytes.len().saturating_sub(length);
        let staying = &bytes[through..];
        let begin = if through > 0 { (self.next / 8 + through) % length } else { self.next / 8 };
        let (before, around) = staying.split_at(staying.len().min(length - begin));
        self.ring[begin..begin + before.len()].copy_from_slice(before);
        self.ring[..around.len()].copy_from_slice(around);
        let end = begin + staying.len();
        self.next = 8 * if end < length { end } else { end - length };
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    /// Clocks words in by hand, most significant bit first, and latches them.
    fn load(chain: &mut Chain, words: &[u16]) {
        let edge = |line, level| Edge { at: Nanos(0), line, level };
        let mut edges = vec![edge(spi::SELECT, false)];
        for bit in words.iter().flat_map(|word| (0..16).rev().map(move |bit| word >> bit & 1 == 1)) {
            edges.extend([edge(spi::DATA, bit), edge(spi::CLOCK, true), edge(spi::CLOCK, false)]);
        }
        edges.push(edge(spi::SELECT, true));
        chain.take(&edges);
    }

    fn lit(chain: &Chain) -> Vec<f32> {
        let mut nodes = vec![0.0; 64 * chain.parts.len()];
        chain.lit(&mut nodes);
        nodes
    }

    fn lit_nodes(chain: &Chain) -> Vec<usize> {
        let nodes = lit(chain);
        (0..nodes.len()).filter(|node| nodes[*node] > 0.0).collect()
    }

    #[test]
    fn after_power_up_one_digit_at_the_lowest_intensity() {
        let mut chain = Chain::new(1);
        load(&mut chain, &[0x01FF]);
        load(&mut chain, &[0x02FF]);
        assert!(lit_nodes(&chain).is_empty(), "it wakes in shutdown");
        load(&mut chain, &[0x0C01]);
        assert_eq!(lit_nodes(&chain), [0, 1, 2, 3, 4, 5, 6, 7], "scan limit 0");
        assert_eq!(lit(&chain)[0], 1.0 / 32.0);
    }

    #[test]
    fn a_part_takes_the_last_16_bits_and_passes_the_rest_on() {
        let mut chain = Chain::new(2);
        load(&mut chain, &[0x0C01, 0x0C01]);
        load(&mut chain, &[0x0101, 0x0180]);
        assert_eq!(lit_nodes(&chain), [7, 64]);
        load(&mut chain, &[0x0000, 0x0100]);
        assert_eq!(lit_nodes(&chain), [64], "no-op leaves the far part alone");
        load(&mut chain, &[0x0102]);
        assert_eq!(lit_nodes(&chain), [1], "a lone word pushes the last one, 0100, into the far part");
    }

    #[test]
    fn a_display_test_that_is_on_is_odd() {
        let mut chain = Chain::new(1);
        chain.listen();
        load(&mut chain, &[0x0F01]);
        load(&mut chain, &[0x0F00]);
        let odd = chain.heard().into_iter().filter(|note| note.odd).map(|note| note.meaning.plainly());
        assert_eq!(odd.filter(|words| words.contains("test")).count(), 1);
    }

    #[test]
    fn code_b_where_the_decode_bit_is_set() {
        let mut chain = Chain::new(1);
        for word in [0x0C01, 0x0B07, 0x0901, 0x0184, 0x0284] {
            load(&mut chain, &[word]);
        }
        let four_with_point = [0, 1, 4, 5, 7]; // g f c b dp
        assert_eq!(lit_nodes(&chain), [&four_with_point[..], &[8 + 2, 8 + 7]].concat());
    }

    #[test]
    fn intensity_and_scan_limit_share_the_light_out() {
        let mut chain = Chain::new(1);
        for (limit, step, share) in [(7, 15, 31.0 / 256.0), (3, 7, 15.0 / 128.0), (0, 0, 1.0 / 32.0)] {
            for word in [0x0C01, 0x0B00 + limit, 0x0A00 + step, 0x0101] {
                load(&mut chain, &[word]);
            }
            assert_eq!(lit(&chain)[0], share);
        }
    }

    #[test]
    fn the_test_register_overrides_shutdown_and_keeps_the_registers() {
        let mut chain = Chain::new(1);
        load(&mut chain, &[0x0F01]);
        assert_eq!(lit_nodes(&chain).len(), 64);
        load(&mut chain, &[0x0F00]);
        assert!(lit_nodes(&chain).is_empty());
    }

    #[test]
    fn words_are_told_from_bytes() {
        let explain = |bytes: &[u8]| explain(bytes, |part, line| (part, line) == (0, 1)).plainly();
        assert_eq!(explain(&[0x0B, 0x07]), "scan limit: digit lines 0-7");
        assert_eq!(explain(&[0x0C, 0x01, 0x0C, 0x01]), "every part: shutdown: off, the part runs");
        assert_eq!(
            explain(&[0x01, 0x00, 0x01, 0xC1]),
            "part 0: digit line 0: dp a g, part 1: digit line 0: blank"
        );
        assert_eq!(explain(&[0x02, 0x82]), "digit line 1: code B 2, dp a b d e g");
        assert_eq!(explain(&[0x00, 0x00, 0x02, 0x0F]), "part 0: digit line 1: code B 15, blank");
        assert_eq!(explain(&[0x01]), "a word cut short");
        assert_eq!(explain(&[]), "nothing");
    }
}
