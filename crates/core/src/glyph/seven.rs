//! The characters of a seven-segment digit, drawn.
//!
//! Each row of the sheet draws its characters side by side, four columns each: an upright is `|`, a bar is
//! `_` at the foot of its line. The segments are read from the drawing when the program is compiled.

use super::Segments;

/// Characters drawn side by side.
struct Row {
    characters: &'static str,
    art: [&'static str; 3],
}

const SHEET: &[Row] = &[
    Row {
        characters: "0123456789",
        art: [
            " _       _   _       _   _   _   _   _  ",
            "| |   |  _|  _| |_| |_  |_    | |_| |_| ",
            "|_|   | |_   _|   |  _| |_|   | |_|  _| ",
        ],
    },
    Row {
        characters: "AbCdEFGHIJ",
        art: [
            " _       _       _   _   _              ",
            "|_| |_  |    _| |_  |_  |   |_| |     | ",
            "| | |_| |_  |_| |_  |   |_| | | |   |_| ",
        ],
    },
    Row {
        characters: "LOPSUY_-=\u{b0}",
        art: [
            "     _   _   _                       _  ",
            "|   | | |_| |_  | | |_|      _   _  |_| ",
            "|_  |_| |    _| |_|  _|  _       _      ",
        ],
    },
    Row {
        characters: "chilnoqrtu",
        art: [
            "                         _              ",
            " _  |_      |    _   _  |_|  _  |_      ",
            "|_  | |   | |_  | | |_|   | |   |_  |_| ",
        ],
    },
];

/// One past the last character with a place in the table (Latin-1).
const TABLE_END: usize = 256;

/// The segments of each character and whether it has any: a blank is a glyph, a missing one is not.
static TABLE: [Option<Segments>; TABLE_END] = table();

/// The glyph of a character. A letter that is drawn in one case only serves for both.
#[must_use]
#[inline]
pub fn glyph(character: char) -> Option<Segments> {
    TABLE.get(character as usize).copied().flatten()
}

/// The character that these segments are read as, digits before letters; the point is left out of account.
#[must_use]
pub fn reading(segments: Segments) -> Option<char> {
    let segments = segments.less(super::Style::Seven.point());
    if segments == Segments::NONE {
        return Some(' ');
    }
    characters().find(|character| glyph(*character) == Some(segments))
}

/// Every character drawn in the sheet, in its order, and the blank.
pub fn characters() -> impl Iterator<Item = char> {
    SHEET.iter().flat_map(|row| row.characters.chars()).chain([' '])
}

const fn table() -> [Option<Segments>; TABLE_END] {
    let mut table = [None; TABLE_END];
    table[b' ' as usize] = Some(Segments::NONE);
    let mut row = 0;
    while row < SHEET.len() {
        let characters = SHEET[row].characters.as_bytes();
        let (mut byte, mut place) = (0, 0);
        while byte < characters.len() {
            let (character, length) = latin1(characters, byte);
            table[character] = Some(drawn(&SHEET[row].art, place * 4));
            byte += length;
            place += 1;
        }
        row += 1;
    }
    // Only now that every drawn letter stands: the other case where it has no drawing of its own.
    let mut letter = b'A' as usize;
    while letter <= b'Z' as usize {
        let small = letter + 0x20;
        match (table[letter], table[small]) {
            (None, Some(glyph)) => table[letter] = Some(glyph),
            (Some(glyph), None) => table[small] = Some(glyph),
            _ => {}
        }
        letter += 1;
    }
    table
}

/// The Latin-1 character at `byte` of UTF-8 text, and its length there.
const fn latin1(text: &[u8], byte: usize) -> (usize, usize) {
    if text[byte] < 0x80 {
        (text[byte] as usize, 1)
    } else {
        ((text[byte] as usize & 0x03) << 6 | (text[byte + 1] as usize & 0x3F), 2)
    }
}

/// Reads the drawing whose left edge is at `column`.
const fn drawn(art: &[&str; 3], column: usize) -> Segments {
    /// Line and column of each segment in a drawing, in the order a to g.
    const PLACES: [(usize, usize); 7] = [(0, 1), (1, 2), (2, 2), (2, 1), (2, 0), (1, 0), (1, 1)];
    let (mut segments, mut index) = (0, 0);
    while index < PLACES.len() {
        let (line, offset) = PLACES[index];
        if art[line].as_bytes()[column + offset] != b' ' {
            segments |= 1 << index;
        }
        index += 1;
    }
    Segments(segments)
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::glyph::Style;

    fn lit(character: char) -> String {
        glyph(character).unwrap().names(Style::Seven).collect()
    }

    #[test]
    fn drawings_are_read_as_segments() {
        assert_eq!(lit('4'), "bcfg");
        assert_eq!(lit('J'), "bcde");
        assert_eq!(lit('t'), "defg");
        assert_eq!(lit('\u{b0}'), "abfg");
        assert_eq!(lit(' '), "");
    }

    #[test]
    fn one_case_serves_for_both() {
        assert_eq!(glyph('B'), glyph('b'));
        assert_eq!(glyph('a'), glyph('A'));
        assert_ne!(glyph('C'), glyph('c'), "both are drawn");
        assert_eq!(glyph('K'), None);
        assert_eq!(glyph('\u{20ac}'), None);
    }

    #[test]
    fn a_digit_is_read_before_a_letter_of_the_same_form() {
        for character in "0123456789AbCdEF- ".chars() {
            assert_eq!(reading(glyph(character).unwrap()), Some(character));
        }
        assert_eq!(reading(glyph('S').unwrap()), Some('5'));
        assert_eq!(reading(Segments(0b0101_0101)), None);
    }
}
