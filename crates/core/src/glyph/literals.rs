//! Bytes as people paste them: hex dumps, C and Rust arrays, assembler tables.
//!
//! Comments are left out (`//`, `/* */`, `;` and `# ` to the end of the line), and so is everything up to the
//! `=` of an assignment and the words of declarations. What is left must be numbers: `0x3F`, `$3F`, `3Fh`,
//! `H'3F'`, `0b0011_1111`, `%00111111`, `B'00111111`, `D'63'`, or bare digits in a base that is given.

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
    /// What is wrong there.
    pub problem: LiteralProblem,
}

/// What is wrong with a number in a table.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
#[allow(missing_docs, reason = "the messages say what the fields are")]
pub enum LiteralProblem {
    #[error("'{found}' is not a number; write 3F, 0x3F, 0b00111111, $3F, 3Fh or H'3F'")]
    NotANumber { found: String },
    #[error("'{found}' has an odd number of hex digits; a byte has two")]
    OddDigits { found: String },
    #[error("{found} is more than the {bits} bits of an entry hold; the most is {most:X} hex")]
    TooLarge { found: String, bits: usize, most: u32 },
    #[error("there is no number in this text")]
    Empty,
}

/// Words of declarations and mnemonics that stand before or between the numbers of a table.
const PASSED_OVER: [&str; 20] = [
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
    "retlw",
    "db",
    ".db",
    "dt",
    "dw",
    ".byte",
    "b",
];

/// Reads the numbers of a table whose entries have so many bits, at most 32.
///
/// # Errors
/// With the place of the first thing that is no number of that size.
pub fn parse(text: &str, bare: BareBase, bits: usize) -> Result<Vec<u32>, LiteralError> {
    let plain = without_comments(text);
    let start = plain.find('=').map_or(0, |assignment| assignment + 1);
    let mut values = Vec::new();
    let mut rest = start;
    while let Some(span) = next_token(&plain, rest) {
        rest = span.end;
        let token = &plain[span.clone()];
        let passed_over = token.ends_with(':') || PASSED_OVER.contains(&token.to_ascii_lowercase().as_str());
        if !passed_over {
            read_token(token, bare, bits, &mut values).map_err(|problem| LiteralError { span, problem })?;
        }
    }
    if values.is_empty() {
        return Err(LiteralError { span: 0..text.len(), problem: LiteralProblem::Empty });
    }
    Ok(values)
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
        let line = rest.find('\n').unwrap_or(rest.len());
        let comment = if rest.starts_with("/*") {
            rest.find("*/").map_or(rest.len(), |end| end + 2)
        } else if rest.starts_with("//") || rest.starts_with("# ") || (first == ';' && depth == 0) {
            line
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

fn read_token(token: &str, bare: BareBase, bits: usize, values: &mut Vec<u32>) -> Result<(), LiteralProblem> {
    let most = u32::MAX.unbounded_shr(32 - bits as u32);
    let number = |digits: &str, radix| {
        let digits = digits.replace('_', "");
        let found = || token.to_owned();
        let sound = !digits.is_empty() && digits.chars().all(|digit| digit.is_digit(radix));
        let value = match u32::from_str_radix(&digits, radix) {
            Ok(value) => value,
            Err(_) if sound => return Err(LiteralProblem::TooLarge { found: found(), bits, most }),
            Err(_) => return Err(LiteralProblem::NotANumber { found: found() }),
        };
        if value > most {
            return Err(LiteralProblem::TooLarge { found: found(), bits, most });
        }
        Ok(value)
    };
    if let Some((digits, radix)) = explicit(token) {
        values.push(number(digits, radix)?);
        return Ok(());
    }
    match bare {
        BareBase::Binary => values.push(number(token, 2)?),
        BareBase::Decimal => values.push(number(token, 10)?),
        BareBase::Hex => {
            let digits = 2 * bits.div_ceil(8);
            if !token.chars().all(|digit| digit.is_ascii_hexdigit()) {
                return Err(LiteralProblem::NotANumber { found: token.to_owned() });
            }
            if token.len() % 2 == 1 {
                return Err(LiteralProblem::OddDigits { found: token.to_owned() });
            }
            for start in (0..token.len()).step_by(digits) {
                values.push(number(&token[start..token.len().min(start + digits)], 16)?);
            }
        }
    }
    Ok(())
}

/// The digits and the radix of a number that says its own.
fn explicit(token: &str) -> Option<(&str, u32)> {
    let token = without_suffix(token);
    let prefixed =
        [("0x", 16), ("0X", 16), ("\\x", 16), ("$", 16), ("0b", 2), ("0B", 2), ("%", 2), ("0o", 8)];
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
        assert_eq!(parse("63 6", BareBase::Decimal, 8), Ok(vec![0x3F, 0x06]));
        assert_eq!(parse("111111", BareBase::Binary, 8), Ok(vec![0x3F]));
        assert_eq!(parse("4A3F 0006", BareBase::Hex, 16), Ok(vec![0x4A3F, 0x06]));
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
        assert_eq!(told("// 3F").1, LiteralProblem::Empty);
        assert_eq!(told("").1, LiteralProblem::Empty);
    }
}
