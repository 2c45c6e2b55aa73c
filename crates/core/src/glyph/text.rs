//! A text laid out on the digits of a face.

use super::{Segments, Style, seven};
use crate::face::Face;
use crate::frame::Frame;

/// What fills one digit: a character, and the point that was folded into it.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Cell {
    /// The character; a blank where a point stands alone.
    pub character: char,
    /// Whether the digit's point is lit.
    pub point: bool,
    /// The place of the character in the text, counted in characters from 0.
    pub position: usize,
}

impl Cell {
    /// The segments that the cell lights.
    ///
    /// # Errors
    /// When the style cannot show the character.
    #[inline]
    pub fn segments(self, style: Style) -> Result<Segments, TextError> {
        let glyph = match style {
            Style::Seven => seven::glyph(self.character),
        };
        match glyph {
            Some(glyph) if self.point => Ok(glyph.and(style.point())),
            Some(glyph) => Ok(glyph),
            None => Err(self.no_glyph(style)),
        }
    }

    #[cold]
    fn no_glyph(self, style: Style) -> TextError {
        TextError::NoGlyph { character: self.character, position: self.position, style }
    }
}

/// Where a text stands on a face that is wider than it.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq)]
pub enum Align {
    /// From digit 0.
    #[default]
    Left,
    /// Up to the last digit.
    Right,
    /// In the middle; half a digit over goes to the right.
    Centre,
}

impl Align {
    /// The digit at which `used` of `digits` begin.
    #[must_use]
    pub const fn start(self, used: usize, digits: usize) -> usize {
        let spare = digits.saturating_sub(used);
        match self {
            Self::Left => 0,
            Self::Right => spare,
            Self::Centre => spare / 2,
        }
    }
}

/// Why a text cannot be shown.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
pub enum TextError {
    /// A character without a glyph.
    #[error("{style} segments cannot show {character:?}, character {} of the text", position + 1)]
    NoGlyph {
        /// The character.
        character: char,
        /// Its place in the text, counted in characters from 0.
        position: usize,
        /// The style that lacks it.
        style: Style,
    },
    /// A text longer than its face.
    #[error("the text takes {needed} digits; the face has {digits}")]
    TooLong {
        /// The digits that the text takes.
        needed: usize,
        /// The digits that the face has.
        digits: usize,
        /// The place of the first character that has no digit, counted in characters from 0.
        position: usize,
    },
}

impl TextError {
    /// The place in the text that the error is about, counted in characters from 0.
    #[must_use]
    pub const fn position(&self) -> usize {
        match self {
            Self::NoGlyph { position, .. } | Self::TooLong { position, .. } => *position,
        }
    }
}

/// Parts a text into cells. A point folds into the digit before it, if that has none yet; otherwise it
/// takes a digit of its own.
pub fn cells(text: &str) -> impl Iterator<Item = Cell> {
    let mut rest = text.chars();
    let mut position = 0;
    std::iter::from_fn(move || {
        let character = rest.next()?;
        let cell = match character {
            '.' => Cell { character: ' ', point: true, position },
            _ => Cell { character, point: rest.as_str().starts_with('.'), position },
        };
        position += 1;
        if cell.point && character != '.' {
            rest.next();
            position += 1;
        }
        Some(cell)
    })
}

/// Writes a text into a frame of the face; digits that it does not reach stay as they are. Returns how many
/// digits it took.
///
/// # Errors
/// When a character cannot be shown or the text is longer than the face; the frame is then half written.
pub fn write(text: &str, face: &Face, align: Align, frame: &mut Frame) -> Result<usize, TextError> {
    let start = match align {
        Align::Left => 0,
        _ => align.start(cells(text).count(), face.digits),
    };
    let mut digit = start;
    for cell in cells(text) {
        if digit == face.digits {
            let (needed, digits) = (cells(text).count(), face.digits);
            return Err(TextError::TooLong { needed, digits, position: cell.position });
        }
        face.put(frame, digit, cell.segments(face.style)?);
        digit += 1;
    }
    Ok(digit - start)
}

#[cfg(test)]
mod tests {
    use super::*;

    fn layout(text: &str) -> Vec<(char, bool)> {
        cells(text).map(|cell| (cell.character, cell.point)).collect()
    }

    #[test]
    fn a_point_folds_into_the_digit_before_it() {
        assert_eq!(layout("3.14"), [('3', true), ('1', false), ('4', false)]);
        assert_eq!(layout("1."), [('1', true)]);
    }

    #[test]
    fn a_point_with_no_digit_to_fold_into_takes_its_own() {
        assert_eq!(layout(".5"), [(' ', true), ('5', false)]);
        assert_eq!(layout("1..2"), [('1', true), (' ', true), ('2', false)]);
        assert_eq!(layout("..."), [(' ', true), (' ', true), (' ', true)]);
    }

    #[test]
    fn alignment_leaves_the_spare_digits_where_it_says() {
        assert_eq!(Align::Left.start(3, 8), 0);
        assert_eq!(Align::Right.start(3, 8), 5);
        assert_eq!(Align::Centre.start(3, 8), 2);
        assert_eq!(Align::Right.start(9, 8), 0);
    }
}
