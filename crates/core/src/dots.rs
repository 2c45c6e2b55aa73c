//! Pictures of dots, written as rows of `#` and `.`.

use crate::face::Face;
use crate::frame::{Frame, Level};

/// Why rows of characters are no picture for a face.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
pub enum DotsError {
    /// The face has digits.
    #[error("the face has no dots")]
    NoDots,
    /// More rows than the face has.
    #[error("{found} rows; the face has {height}")]
    TooHigh {
        /// How many there are.
        found: usize,
        /// How many there may be.
        height: usize,
    },
    /// A row that is longer than the face is wide.
    #[error("row {row} has {found} dots; the face has {width}")]
    TooWide {
        /// Which, from 0 at the top.
        row: usize,
        /// How many dots it has.
        found: usize,
        /// How many it may have.
        width: usize,
    },
    /// Another character than the two.
    #[error(
        "'{found}' in row {row} is no dot; write # for a lit one and . for a dark one, and / between rows"
    )]
    NoDot {
        /// The character.
        found: char,
        /// The row, from 0 at the top.
        row: usize,
    },
}

/// Draws rows of dots, from the top left, `/` or a new line between them: `.##./#..#`.
///
/// # Errors
/// When they do not fit the face or have other characters than `#`, `.` and blanks.
pub fn write(rows: &str, face: &Face, frame: &mut Frame) -> Result<(), DotsError> {
    let (width, height) = (face.dots.width, face.dots.height);
    if width == 0 {
        return Err(DotsError::NoDots);
    }
    let found = rows.split(['/', '\n']).count();
    if found > height {
        return Err(DotsError::TooHigh { found, height });
    }
    for (y, row) in rows.split(['/', '\n']).enumerate() {
        let found = row.chars().count();
        if found > width {
            return Err(DotsError::TooWide { row: y, found, width });
        }
        for (x, dot) in row.chars().enumerate() {
            let level = match dot {
                '#' => Level::FULL,
                '.' | ' ' => Level::OFF,
                found => return Err(DotsError::NoDot { found, row: y }),
            };
            if let Some(slot) = frame.levels_mut().get_mut(face.dot(x, y).0) {
                *slot = level;
            }
        }
    }
    Ok(())
}
