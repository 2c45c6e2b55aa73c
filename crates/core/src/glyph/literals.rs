//! Bytes as people paste them: hex dumps, C and Rust arrays, assembler tables.
//!
//! Comments are left out (`//`, `/* */`, `;` and `# ` to the end of the line). Of an assignment what is in its brackets
//! is taken, of an assembler's listing what its data lines hold. What is left must be numbers: `0x3F`, `$3F`, `3Fh`,
//! `H'3F'`, `0b0011_1111`, `%00111111`, `B'00111111'`, `D'63'`, or bare digits in a base that is given.

use std::ops::Range;

/// The base of a number that does not say its own.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum BareBase {
    /// Pairs of hex digits, with or without spaces between.
    Hex,
    /// Binary digits.
    Binary,
    /// Decimal digits.
    Decimal,
}

/// Why a text is not a table of bytes.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
#[error("{problem}")]
pub struct LiteralError {
    /// The place, in bytes from the start of the text.
    pub span: Range<usize>,
    /// The error.
    pub problem: LiteralProblem,
}

/// An error in a number of a table.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
#[allow(missing_docs, reason = "the messages say what the fields are")]
#[non_exhaustive]
pub enum LiteralProblem {
    #[error("'{found}' is not a number; write 3F, 0x3F, 0b00111111, $3F, 3Fh or H'3F'")]
    NotANumber { found: String },
    #[error("'{found}' has an odd number of hex digits; a byte has two")]
    OddDigits { found: String },
    #[error("a digit has {bytes} bytes, and the last has not as many")]
    Incomplete { bytes: usize },
    #[error("{found} is more than the {bits} bits of an entry hold; the most is {most:X} hex")]
    TooLarge { found: String, bits: usize, most: u32 },
    #[error("there is no number in this text")]
    Empty,
}

/// Words of declarations that stand before or between the numbers of a table.
const PASSED_OVER: [&str; 14] = [
    "const",
    "static",
    "unsigned",
    "char",
    "uint8_t",
    "uint16_t",
    "byte",
    "let",
    "pub",
    "return",
    "bytes",
    "bytearray",
    "tuple",
    "b",
];

/// The directives of assemblers before the bytes of a table. `db` could be a byte itself.
const DATA_LINES: [&str; 6] = ["retlw", "db", ".db", "dt", "dw", ".byte"];

/// Reads the numbers of a table whose entries have this many bits, at most 32.
///
/// # Errors
/// With the place of the first text that is not a number of that size.
pub fn parse(text: &str, bare: BareBase, bits: usize) -> Result<Vec<u32>, LiteralError> {
    let plain = table_of(&without_comments(text));
    let mut reader = Reader { bare, bits, values: Vec::new(), part: None };
    let mut last = 0;
    while let Some(span) = next_token(&plain, last) {
        last = span.end;
        let token = &plain[span.clone()];
        let passed_over = token.ends_with(':') || PASSED_OVER.contains(&token.to_ascii_lowercase().as_str());
        if !passed_over {
            reader.read(token).map_err(|problem| LiteralError { span, problem })?;
        }
    }
    if reader.part.is_some() {
        let problem = LiteralProblem::Incomplete { bytes: reader.bytes() };
        return Err(LiteralError { span: last.saturating_sub(2)..last, problem });
    }
    if reader.values.is_empty() {
        return Err(LiteralError { span: 0..text.len(), problem: LiteralProblem::Empty });
    }
    Ok(reader.values)
}

/// The text with everything blank that is not the table, so that places stay. What is kept of it is in order.
fn table_of(text: &str) -> String {
    let mut data = Vec::new();
    let mut begin = 0;
    for line in text.split_inclusive('\n') {
        if let Some(operands) = operands_of(line) {
            data.push(begin + operands..begin + line.len());
        }
        begin += line.len();
    }
    if !data.is_empty() {
        return only(text, &data);
    }
    let Some(assignment) = text.find('=') else { return text.to_owned() };
    let from = assignment + 1;
    let table = in_brackets(&text[from..]).unwrap_or(0..text.len() - from);
    only(text, std::slice::from_ref(&(from + table.start..from + table.end)))
}

/// The first pair of brackets, the outermost.
fn in_brackets(text: &str) -> Option<Range<usize>> {
    let start = text.find(['{', '[', '('])?;
    let mut depth = 0_usize;
    for (place, c) in text[start..].char_indices() {
        match c {
            '{' | '[' | '(' => depth += 1,
            '}' | ']' | ')' => depth -= 1,
            _ => {}
        }
        if depth == 0 {
            return Some(start..start + place);
        }
    }
    Some(start..text.len())
}

/// Where on a line of an assembler's data the bytes begin.
fn operands_of(line: &str) -> Option<usize> {
    let first = next_token(line, 0)?;
    let is_data =
        |span: &Range<usize>| DATA_LINES.contains(&line[span.clone()].to_ascii_lowercase().as_str());
    // Before it a label may stand.
    let word = if is_data(&first) { first } else { next_token(line, first.end).filter(is_data)? };
    let operand = next_token(line, word.end)?;
    // Among bare digits it is a byte.
    (!line[word.clone()].eq_ignore_ascii_case("db") || explicit(&line[operand]).is_some()).then_some(word.end)
}

fn only(text: &str, kept: &[Range<usize>]) -> String {
    let mut plain = String::with_capacity(text.len());
    for range in kept {
        blank_out(&text[plain.len()..range.start], &mut plain);
        plain.push_str(&text[range.clone()]);
    }
    blank_out(&text[plain.len()..], &mut plain);
    plain
}

/// Adds blanks of the same length in place of a text; its line ends stay.
fn blank_out(text: &str, plain: &mut String) {
    plain.extend(text.bytes().map(|byte| if byte == b'\n' { '\n' } else { ' ' }));
}

/// The text with each comment replaced by blanks of the same length, so that places stay.
fn without_comments(text: &str) -> String {
    let mut plain = String::with_capacity(text.len());
    let (mut rest, mut depth) = (text, 0_usize);
    while let Some(first) = rest.chars().next() {
        // Between brackets a semicolon parts a type from a length: `[u8; 2]`.
        match first {
            '[' | '{' | '(' => depth += 1,
            ']' | '}' | ')' => depth = depth.saturating_sub(1),
            _ => {}
        }
        let comment = if let Some(inside) = rest.strip_prefix("/*") {
            inside.find("*/").map_or(rest.len(), |end| end + 4)
        } else if rest.starts_with("//") || rest.starts_with("# ") || (first == ';' && depth == 0) {
            // Looked for here alone: a line may be long.
            rest.find('\n').unwrap_or(rest.len())
        } else {
            0
        };
        if comment > 0 {
            plain.push_str(&" ".repeat(comment));
            rest = &rest[comment..];
        } else {
            plain.push(first);
            rest = &rest[first.len_utf8()..];
        }
    }
    plain
}

/// The place of the next token from `from` on.
fn next_token(text: &str, from: usize) -> Option<Range<usize>> {
    let parts = |c: char| c.is_whitespace() || ",{}[]()\"&#".contains(c);
    let start = from + text[from..].find(|c| !parts(c))?;
    // The escapes of a byte string (`\x3F\x06`) follow each other without anything between.
    let ends = |(place, c): (usize, char)| (parts(c) || (c == '\\' && place > 0)).then_some(start + place);
    let end = text[start..].char_indices().find_map(ends).unwrap_or(text.len());
    Some(start..end)
}

/// As much of a token as a message needs.
fn shortened(token: &str) -> String {
    const MOST: usize = 32;
    match token.char_indices().nth(MOST) {
        None => token.to_owned(),
        Some((end, _)) => format!("{}\u{2026}", &token[..end]),
    }
}

struct Reader {
    bare: BareBase,
    bits: usize,
    values: Vec<u32>,
    /// The bytes of an entry that is not complete, and how many there are.
    part: Option<(u32, usize)>,
}

impl Reader {
    /// How many bytes an entry takes.
    const fn bytes(&self) -> usize {
        self.bits.div_ceil(8)
    }

    fn number(&self, token: &str, digits: &str, radix: u32) -> Result<u32, LiteralProblem> {
        let most = u32::MAX.unbounded_shr(32 - self.bits as u32);
        let digits = digits.replace('_', "");
        let found = || shortened(token);
        let sound = !digits.is_empty() && digits.chars().all(|digit| digit.is_digit(radix));
        match u32::from_str_radix(&digits, radix) {
            Ok(value) if value <= most => Ok(value),
            Err(_) if !sound => Err(LiteralProblem::NotANumber { found: found() }),
            _ => Err(LiteralProblem::TooLarge { found: found(), bits: self.bits, most }),
        }
    }

    fn read(&mut self, token: &str) -> Result<(), LiteralProblem> {
        if let Some((digits, radix)) = explicit(token) {
            self.values.push(self.number(token, digits, radix)?);
            return Ok(());
        }
        match self.bare {
            BareBase::Binary => self.values.push(self.number(token, token, 2)?),
            BareBase::Decimal => self.values.push(self.number(token, token, 10)?),
            BareBase::Hex => self.read_hex(token)?,
        }
        Ok(())
    }

    /// Bytes follow each other, with gaps or without; an entry takes as many as its bits need, the first the highest.
    fn read_hex(&mut self, token: &str) -> Result<(), LiteralProblem> {
        if !token.chars().all(|digit| digit.is_ascii_hexdigit()) {
            return Err(LiteralProblem::NotANumber { found: shortened(token) });
        }
        if token.len() % 2 == 1 {
            return Err(LiteralProblem::OddDigits { found: shortened(token) });
        }
        for start in (0..token.len()).step_by(2) {
            let byte = u32::from_str_radix(&token[start..start + 2], 16).unwrap_or_default();
            let (before, count) = self.part.take().unwrap_or_default();
            let (value, count) = (before << 8 | byte, count + 1);
            if count < self.bytes() {
                self.part = Some((value, count));
            } else {
                let found = format!("{value:0width$X}", width = 2 * count);
                self.values.push(self.number(&found, &found, 16)?);
            }
        }
        Ok(())
    }
}

/// The digits and the radix of a number that says its own.
fn explicit(token: &str) -> Option<(&str, u32)> {
    let token = without_suffix(token);
    // The rest of `0B`, `0B3F` and `0Bh` is not a binary number: they are bytes.
    let is_binary =
        |digits: &&str| !digits.is_empty() && digits.chars().all(|c| matches!(c, '0' | '1' | '_'));
    if let Some(digits) = token.strip_prefix("0b").or(token.strip_prefix("0B")).filter(is_binary) {
        return Some((digits, 2));
    }
    let prefixed = [("0x", 16), ("0X", 16), ("\\x", 16), ("$", 16), ("%", 2), ("0o", 8)];
    if let Some((digits, radix)) =
        prefixed.iter().find_map(|(p, radix)| Some((token.strip_prefix(p)?, *radix)))
    {
        return Some((digits, radix));
    }
    let quoted = [("H'", 16), ("h'", 16), ("B'", 2), ("b'", 2), ("D'", 10), ("d'", 10)];
    if let Some((digits, radix)) = quoted.iter().find_map(|(p, radix)| Some((token.strip_prefix(p)?, *radix)))
    {
        return Some((digits.strip_suffix('\'')?, radix));
    }
    Some((token.strip_suffix(['h', 'H'])?, 16))
}

/// A number without the mark of its type: `0x3Fu8`, `63UL`.
fn without_suffix(token: &str) -> &str {
    match token.find(['u', 'U']) {
        Some(mark) if mark > 0 => &token[..mark],
        _ => token,
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn bytes(text: &str) -> Result<Vec<u32>, LiteralError> {
        parse(text, BareBase::Hex, 8)
    }

    #[test]
    fn every_way_of_writing_a_byte() {
        for text in [
            "3F 06",
            "3f06",
            "0x3F, 0x06",
            "0x3Fu8,0x06",
            "{ 0x3F, 0x06 };",
            "$3F,$06",
            "3Fh 06H",
            "H'3F' H'06'",
            "0b0011_1111 0b110",
            "%00111111 %110",
            "B'00111111' D'6'",
            "b\"\\x3F\\x06\"",
            "const uint8_t digits[2] = { 0x3F, /* 0 */ 0x06 }; // 1F",
            "digits: RETLW 0x3F ; 0\n RETLW 0x06 ; 1",
            "pub const DIGITS: [u8; 2] = [0x3F, 0x06];",
            "DIGITS = bytes((0x3F, # zero\n 0x06))",
        ] {
            assert_eq!(bytes(text), Ok(vec![0x3F, 0x06]), "{text}");
        }
        for text in
            ["DB 0B 1B", "db0b1b", "0xDB,0x0B,0x1B", " DB 0DBh, 0Bh, 1Bh", "zero: .byte $DB,$0B\n .byte $1B"]
        {
            assert_eq!(bytes(text), Ok(vec![0xDB, 0x0B, 0x1B]), "{text}");
        }
        assert_eq!(parse("63 6", BareBase::Decimal, 8), Ok(vec![0x3F, 0x06]));
        assert_eq!(parse("111111", BareBase::Binary, 8), Ok(vec![0x3F]));
        for text in ["4A3F 0006", "4A 3F 00 06", "4A3F0006", "0x4A3F, 0x6"] {
            assert_eq!(parse(text, BareBase::Hex, 16), Ok(vec![0x4A3F, 0x06]), "{text}");
        }
    }

    #[test]
    fn what_is_wrong_is_told_with_its_place() {
        let told = |text: &str| {
            let error = bytes(text).unwrap_err();
            (error.span, error.problem)
        };
        let found = |found: &str| found.to_owned();
        assert_eq!(told("3F 065"), (3..6, LiteralProblem::OddDigits { found: found("065") }));
        let large = LiteralProblem::TooLarge { found: found("0x1FF"), bits: 8, most: 0xFF };
        assert_eq!(told("0x1FF").1, large);
        assert_eq!(told("3F zebra").1, LiteralProblem::NotANumber { found: found("zebra") });
        let cut = parse("4A 3F 00", BareBase::Hex, 16).unwrap_err();
        assert_eq!((cut.span, cut.problem), (6..8, LiteralProblem::Incomplete { bytes: 2 }));
        let long = LiteralProblem::NotANumber { found: format!("{}\u{2026}", "x".repeat(32)) };
        assert_eq!(told(&"x".repeat(1_000)).1, long);
        assert_eq!(bytes("/*/ 1F */ 3F"), Ok(vec![0x3F]));
        assert_eq!(told("// 3F").1, LiteralProblem::Empty);
        assert_eq!(told("").1, LiteralProblem::Empty);
    }
}
