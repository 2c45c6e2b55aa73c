//! Pictures of dots, written as rows of `#` and `.`.

use super::{Canvas, Region};
use crate::frame::Level;

/// The reason why rows of characters are not a picture for a face.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
#[non_exhaustive]
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
    #[error("row {row} has '{found}'; write # for a lit dot, . for a dark one, and / between rows")]
    NoDot {
        /// The character.
        found: char,
        /// The row, from 0 at the top.
        row: usize,
    },
}

/// Rows of dots, each lit or dark.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Dots {
    rows: Vec<Vec<bool>>,
}

impl Dots {
    /// Returns true if words are rows of dots and no text: nothing but `#`, `.` and blanks, and more than one row of them, or a
    /// lit dot.
    #[must_use]
    pub fn is_drawing(words: &str) -> bool {
        let is_dot = |character: char| "#. /\n".contains(character);
        words.chars().all(is_dot) && words.contains(['#', '/'])
    }

    /// Reads rows from the top, `/` or a new line between them, and perhaps after the last: `.##./#..#`.
    ///
    /// # Errors
    /// When they have other characters than `#`, `.` and blanks.
    pub fn parse(rows: &str) -> Result<Self, DotsError> {
        let row = |(y, row): (usize, &str)| -> Result<Vec<bool>, DotsError> {
            let dot = |dot| match dot {
                '#' => Ok(true),
                '.' | ' ' => Ok(false),
                found => Err(DotsError::NoDot { found, row: y }),
            };
            row.chars().map(dot).collect()
        };
        // A trailing slash distinguishes a single dark row from a text: "...../".
        let rows = rows.strip_suffix(['/', '\n']).unwrap_or(rows);
        Ok(Self { rows: rows.split(['/', '\n']).enumerate().map(row).collect::<Result<_, _>>()? })
    }

    /// Draws them from the upper left corner of a canvas.
    ///
    /// # Errors
    /// When the canvas has no dots, or too few.
    pub fn draw(&self, canvas: &mut Canvas<'_>) -> Result<(), DotsError> {
        let Region::Dots { width, height, .. } = canvas.region() else { return Err(DotsError::NoDots) };
        if self.rows.len() > height {
            return Err(DotsError::TooHigh { found: self.rows.len(), height });
        }
        for (y, row) in self.rows.iter().enumerate() {
            if row.len() > width {
                return Err(DotsError::TooWide { row: y, found: row.len(), width });
            }
            for (x, lit) in row.iter().enumerate() {
                canvas.set_dot(x, y, if *lit { Level::FULL } else { Level::OFF });
            }
        }
        Ok(())
    }
}
