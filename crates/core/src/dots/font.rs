//! Fonts of dots: characters as bitmaps, and lines of them.

use std::collections::BTreeMap;

use super::Bitmap;

/// A font.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Font {
    /// Its name.
    pub name: String,
    /// Rows above the line that characters stand on.
    pub ascent: usize,
    /// Rows below it.
    pub descent: usize,
    /// The characters.
    pub(super) glyphs: BTreeMap<char, Glyph>,
}

/// A character of a font.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Glyph {
    /// Its dots.
    pub bitmap: Bitmap,
    /// From where the pen stands to its left column.
    pub left: isize,
    /// From the line it stands on up to its top row: how many rows.
    pub rise: isize,
    /// How far the pen goes on.
    pub advance: usize,
}

/// How a line is set.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq)]
pub struct Setting {
    /// Columns between characters, besides those of the font itself; fewer than none brings them together.
    pub spacing: isize,
    /// How far characters are apart besides.
    pub fitting: Fitting,
}

/// How the characters of a line are fitted together.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq)]
pub enum Fitting {
    /// Each takes the room that the font gives it.
    #[default]
    Plain,
    /// They come nearer where their shapes leave room, as an L and a T do.
    Kerned,
    /// All figures take the room of the widest one, so that none moves as a number changes.
    Tabular,
}

/// A piece of a line.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Piece {
    /// Its dots.
    pub bitmap: Bitmap,
    /// From where the pen stood to its left column: 0 or less.
    pub left: isize,
    /// How far the pen goes on.
    pub advance: isize,
}

/// Why a text cannot be set in a font.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
pub enum FontError {
    /// The font has not all of its characters; each is named once.
    #[error("the font {font} has no {}", listed(missing))]
    Missing {
        /// The font.
        font: String,
        /// The missing characters, in the order of the text.
        missing: Vec<char>,
    },
    /// The text runs from right to left.
    #[error("'{found}' is written from right to left, which no line here is")]
    RightToLeft {
        /// The first character that is.
        found: char,
    },
}

fn listed(characters: &[char]) -> String {
    let names: Vec<_> = characters.iter().map(|found| format!("'{found}'")).collect();
    names.join(", ")
}

/// The most columns that a pair of characters is brought together by.
const NEARER: usize = 2;

impl Font {
    /// A font without characters.
    #[must_use]
    pub const fn empty(name: String, ascent: usize, descent: usize) -> Self {
        Self { name, ascent, descent, glyphs: BTreeMap::new() }
    }

    /// Gives it a character, in place of the one that it had.
    pub fn draw(&mut self, character: char, glyph: Glyph) {
        self.glyphs.insert(character, glyph);
    }

    /// Rows of a line.
    #[must_use]
    pub const fn height(&self) -> usize {
        self.ascent + self.descent
    }

    /// A character, if the font has it.
    #[must_use]
    pub fn glyph(&self, character: char) -> Option<&Glyph> {
        self.glyphs.get(&character)
    }

    /// All characters, by their code points.
    pub fn characters(&self) -> impl Iterator<Item = char> + '_ {
        self.glyphs.keys().copied()
    }

    /// Returns the characters of a text that the font lacks, each once, in the order of the text.
    #[must_use]
    pub fn missing(&self, text: &str) -> Vec<char> {
        let mut missing = Vec::new();
        for character in text.chars().filter(|character| !self.glyphs.contains_key(character)) {
            if !missing.contains(&character) {
                missing.push(character);
            }
        }
        missing
    }

    /// A line of text, as high as the font and just as wide as it takes.
    ///
    /// # Errors
    /// When the font lacks a character, or the text runs from right to left.
    pub fn set(&self, text: &str, setting: Setting) -> Result<Bitmap, FontError> {
        self.set_piece(text, setting).map(|piece| piece.bitmap)
    }

    /// The same as a piece of a longer line, which goes on behind it.
    ///
    /// # Errors
    /// When the font lacks a character, or the text runs from right to left.
    pub fn set_piece(&self, text: &str, setting: Setting) -> Result<Piece, FontError> {
        if let Some(found) = text.chars().find(|character| is_right_to_left(*character)) {
            return Err(FontError::RightToLeft { found });
        }
        let missing = self.missing(text);
        if !missing.is_empty() {
            return Err(FontError::Missing { font: self.name.clone(), missing });
        }
        let glyphs: Vec<_> = text.chars().filter_map(|character| self.glyphs.get(&character)).collect();
        let widened = |character: char| match setting.fitting {
            Fitting::Tabular if character.is_ascii_digit() => {
                self.widest_figure().saturating_sub(self.advance(character)) as isize
            }
            _ => 0,
        };
        let widened: Vec<_> = text.chars().map(widened).collect();
        let mut places = Vec::with_capacity(glyphs.len());
        let (mut pen, mut right) = (0_isize, 0_isize);
        for (index, glyph) in glyphs.iter().enumerate() {
            if index > 0 {
                pen += setting.spacing;
                if setting.fitting == Fitting::Kerned {
                    pen -= self.nearer(glyphs[index - 1], glyph) as isize;
                }
            }
            let before = widened[index] / 2;
            let place = pen + before + glyph.left;
            places.push(place);
            right = right.max(place + glyph.bitmap.width() as isize + widened[index] - before);
            pen += glyph.advance as isize + widened[index];
        }
        // The room after the last character belongs to none.
        let left = places.iter().copied().min().unwrap_or(0).min(0);
        let mut line = Bitmap::dark(usize::try_from(right - left).unwrap_or(0), self.height());
        for (glyph, place) in glyphs.iter().zip(places) {
            line.add(&glyph.bitmap, place - left, self.ascent as isize - glyph.rise);
        }
        Ok(Piece { bitmap: line, left, advance: pen })
    }

    /// How far the pen goes on with a character that the font has.
    fn advance(&self, character: char) -> usize {
        self.glyphs.get(&character).map_or(0, |glyph| glyph.advance)
    }

    /// How far the pen goes on with the widest figure.
    #[must_use]
    pub fn widest_figure(&self) -> usize {
        ('0'..='9').map(|figure| self.advance(figure)).max().unwrap_or(0)
    }

    /// By how many columns two characters may come nearer, so that no dot of the one comes nearer to one of the other than
    /// the font has them in a row, in the same row or in one beside it.
    fn nearer(&self, first: &Glyph, second: &Glyph) -> usize {
        let row = |glyph: &Glyph, y: isize| {
            let own = y + glyph.rise - self.ascent as isize;
            usize::try_from(own).ok().and_then(|own| glyph.bitmap.extent(own))
        };
        let usual = first.advance as isize - first.left - first.bitmap.width() as isize + second.left;
        let mut room: Option<isize> = None;
        for y in 0..self.height() as isize {
            let Some((begin, _)) = row(second, y) else { continue };
            let ends = (y - 1..=y + 1).filter_map(|y| row(first, y).map(|(_, end)| end)).max();
            let Some(end) = ends else { continue };
            let free = (first.bitmap.width() as isize - 1 - end as isize) + begin as isize;
            room = Some(room.map_or(free, |room| room.min(free)));
        }
        // Shapes that do not share a row keep their distance, and shapes that touch already do too.
        if usual < 1 {
            return 0;
        }
        room.map_or(0, |room| usize::try_from(room).unwrap_or(0).min(NEARER))
    }
}

/// Returns true if a character belongs to a script that is written from right to left (Unicode, Bidi_Class R and AL, by block).
const fn is_right_to_left(character: char) -> bool {
    matches!(character as u32, 0x0590..=0x08FF | 0xFB1D..=0xFDFF | 0xFE70..=0xFEFF | 0x1_0800..=0x1_0FFF | 0x1_E800..=0x1_EFFF)
}
