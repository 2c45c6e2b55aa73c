//! Glyph sheets: characters drawn side by side, read as segments when the program is compiled.
//!
//! A sheet is laid out for the eye. Over each drawing stands its character, under that its grade: `=` exact,
//! `~` readable in context, `?` a stand-in. The bytes that a display wants are derived, never typed in.

use super::Segments;

/// How well a glyph stands for its character.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub enum Grade {
    /// Known at once; no other character of the style looks the same but for a weaker claim.
    Exact,
    /// Readable among other letters, but another character looks the same or nearly so.
    InContext,
    /// The style cannot draw the character; this is what is shown in its place.
    StandIn,
}

impl Grade {
    /// The words for it.
    #[must_use]
    pub const fn name(self) -> &'static str {
        match self {
            Self::Exact => "exact",
            Self::InContext => "readable in context",
            Self::StandIn => "stand-in",
        }
    }
}

/// A character as a style draws it.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Glyph {
    /// The lit segments.
    pub segments: Segments,
    /// How well that is read.
    pub grade: Grade,
}

/// Characters drawn side by side.
pub(super) struct Row {
    /// The characters, each at the left edge of its drawing.
    pub says: &'static str,
    /// Their grades, in the same columns.
    pub mark: &'static str,
    /// The drawings, line by line.
    pub art: &'static [&'static str],
}

/// The drawn characters of a style.
pub(super) struct Sheet {
    /// From one drawing's left edge to the next one's.
    pub step: usize,
    /// Line and column of a stroke of each segment, in the style's order.
    pub places: &'static [(usize, usize)],
    /// The drawings.
    pub rows: &'static [Row],
}

/// One past the last character that a table has a place for: Latin-1.
pub(super) const TABLE_END: usize = 256;

/// The glyphs of a style by character.
pub(super) type Table = [Option<Glyph>; TABLE_END];

impl Sheet {
    /// Reads the drawings. A letter that is drawn in one case only serves for both, in context.
    pub const fn table(&self) -> Table {
        let mut table = [None; TABLE_END];
        let mut row = 0;
        while row < self.rows.len() {
            self.read_row(&self.rows[row], &mut table);
            row += 1;
        }
        // Only now that every drawn letter stands: the other case where it has no drawing of its own.
        let mut letter = b'A' as usize;
        while letter <= b'Z' as usize {
            let small = letter + 0x20;
            match (table[letter], table[small]) {
                (None, Some(glyph)) => table[letter] = Some(of_other_case(glyph)),
                (Some(glyph), None) => table[small] = Some(of_other_case(glyph)),
                _ => {}
            }
            letter += 1;
        }
        table
    }

    const fn read_row(&self, row: &Row, table: &mut Table) {
        let (says, mark) = (row.says.as_bytes(), row.mark.as_bytes());
        // Bytes and columns part where a character takes two bytes.
        let (mut byte, mut column) = (0, 0);
        while byte < says.len() {
            let (character, length) = latin1(says, byte);
            if column % self.step == 0 {
                let segments = self.read_drawing(row.art, column);
                let grade = match mark[column] {
                    b'=' => Grade::Exact,
                    b'~' => Grade::InContext,
                    _ => Grade::StandIn,
                };
                table[character] = Some(Glyph { segments, grade });
            }
            byte += length;
            column += 1;
        }
    }

    /// Reads the drawing whose left edge is at `column`.
    const fn read_drawing(&self, art: &[&str], column: usize) -> Segments {
        let (mut segments, mut index) = (0, 0);
        while index < self.places.len() {
            let (line, offset) = self.places[index];
            if art[line].as_bytes()[column + offset] != b' ' {
                segments |= 1 << index;
            }
            index += 1;
        }
        Segments(segments)
    }
}

/// The characters of a sheet, in its order.
pub(super) fn characters(sheet: &'static Sheet) -> impl Iterator<Item = char> {
    sheet.rows.iter().flat_map(|row| row.says.chars().step_by(sheet.step))
}

const fn of_other_case(glyph: Glyph) -> Glyph {
    match glyph.grade {
        Grade::Exact => Glyph { grade: Grade::InContext, ..glyph },
        _ => glyph,
    }
}

/// The Latin-1 character at `byte` of UTF-8 text, and its length there.
const fn latin1(text: &[u8], byte: usize) -> (usize, usize) {
    if text[byte] < 0x80 {
        (text[byte] as usize, 1)
    } else {
        ((text[byte] as usize & 0x03) << 6 | (text[byte + 1] as usize & 0x3F), 2)
    }
}
