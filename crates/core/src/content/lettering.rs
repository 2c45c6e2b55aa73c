//! Texts on dots: set in a font, broken into lines, and placed on the face.

use std::sync::Arc;

use super::text::Align;
use super::{Canvas, Region};
use crate::dots::Bitmap;
use crate::dots::font::{Font, FontError, Setting};
use crate::frame::Level;

/// A text on dots.
#[derive(Debug, Clone, PartialEq)]
pub struct Lettering {
    /// The words; each line of them is a line on the face.
    pub words: String,
    /// How they look.
    pub look: Look,
}

/// How a text on dots looks.
#[derive(Debug, Clone, PartialEq)]
pub struct Look {
    /// The font.
    pub font: Arc<Font>,
    /// Between characters.
    pub setting: Setting,
    /// Where a shorter line stands.
    pub align: Align,
    /// Columns to the right of that; to the left where it is less than none.
    pub offset: isize,
    /// Whether the letters are dark on a lit ground.
    pub inverse: bool,
    /// What becomes of what does not fit.
    pub fit: Fit,
}

/// What becomes of a text that is larger than its place.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq)]
pub enum Fit {
    /// It is an error: nothing is shown in part.
    #[default]
    Whole,
    /// What goes beyond is cut off.
    Cut,
    /// It ends in an ellipsis.
    Ellipsis,
    /// It goes on in the next line, broken between words.
    Wrap,
}

/// Why a text cannot be put on dots.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
#[allow(missing_docs, reason = "the messages say what the fields are")]
pub enum LetteringError {
    #[error("{0}")]
    Font(#[from] FontError),
    #[error("the text takes {found} columns in the font {font}; there are {width}")]
    TooWide { font: String, found: usize, width: usize },
    #[error("the text takes {found} rows in the font {font}; there are {height}")]
    TooHigh { font: String, found: usize, height: usize },
    #[error("the face has no dots")]
    NoDots,
}

impl Look {
    /// A plain text in this font.
    #[must_use]
    pub fn of(font: Font) -> Self {
        Self {
            font: Arc::new(font),
            setting: Setting { spacing: 0, kerned: true },
            align: Align::Left,
            offset: 0,
            inverse: false,
            fit: Fit::default(),
        }
    }

    /// How many digits of this font stand side by side in so many columns, with a point between them.
    #[must_use]
    pub fn digits_in(&self, columns: usize) -> usize {
        let advance = |character| self.font.glyph(character).map_or(1, |glyph| glyph.advance);
        let widest = ('0'..='9').map(advance).max().unwrap_or(1).max(1);
        (columns + 1).saturating_sub(advance('.')) / widest
    }

    fn line(&self, text: &str) -> Result<Bitmap, FontError> {
        self.font.set(text, self.setting)
    }
}

impl Lettering {
    /// All lines below one another, as wide as the widest; nothing is cut.
    ///
    /// # Errors
    /// When the font cannot set a line.
    pub fn strip(&self) -> Result<Bitmap, FontError> {
        let lines: Vec<_> = self.words.lines().map(|line| self.look.line(line)).collect::<Result<_, _>>()?;
        let width = lines.iter().map(Bitmap::width).max().unwrap_or(0);
        let height = self.look.font.height();
        let mut strip = Bitmap::dark(width, height * lines.len().max(1));
        for (number, line) in lines.iter().enumerate() {
            let left = self.look.align.start(line.width(), width);
            strip.add(line, left as isize, (number * height) as isize);
        }
        Ok(strip)
    }

    /// Draws it on a canvas, its lines in the middle of the height.
    ///
    /// # Errors
    /// When the canvas has no dots, the font lacks a character, or the text does not fit and may not be cut.
    pub fn draw(&self, canvas: &mut Canvas<'_>) -> Result<(), LetteringError> {
        let Region::Dots { width, height, .. } = canvas.region() else { return Err(LetteringError::NoDots) };
        let font = &self.look.font;
        let mut lines = Vec::new();
        for line in self.words.lines() {
            lines.extend(self.fitted(line, width)?);
        }
        let found = lines.len() * font.height();
        let may_be_cut = self.look.fit == Fit::Cut || lines.len() <= 1;
        if found > height && !may_be_cut {
            return Err(LetteringError::TooHigh { font: font.name.clone(), found, height });
        }
        if self.look.inverse {
            fill(canvas, width, height);
        }
        // A font that is higher than the face loses the rows above and below that it needs least.
        let top = (height as isize - found as isize).div_euclid(2);
        for (number, line) in lines.iter().enumerate() {
            let left = self.look.align.start(line.width(), width) as isize + self.look.offset;
            let top = top + (number * font.height()) as isize;
            paint(canvas, line, (left, top), if self.look.inverse { Level::OFF } else { Level::FULL });
        }
        Ok(())
    }

    /// A line of the text as lines that fit.
    fn fitted(&self, text: &str, width: usize) -> Result<Vec<Bitmap>, LetteringError> {
        let line = self.look.line(text)?;
        if line.width() <= width || self.look.fit == Fit::Cut || self.look.offset != 0 {
            return Ok(vec![line]);
        }
        match self.look.fit {
            Fit::Whole | Fit::Cut => Err(self.too_wide(line.width(), width)),
            Fit::Ellipsis => Ok(vec![self.shortened(text, width)?]),
            Fit::Wrap => self.wrapped(text, width),
        }
    }

    /// As much of a line as fits with an ellipsis behind it.
    fn shortened(&self, text: &str, width: usize) -> Result<Bitmap, LetteringError> {
        let ends = text.char_indices().map(|(end, _)| end).rev();
        for end in ends {
            let line = self.look.line(&format!("{}...", text[..end].trim_end()))?;
            if line.width() <= width {
                return Ok(line);
            }
        }
        Err(self.too_wide(self.look.line("...")?.width(), width))
    }

    fn too_wide(&self, found: usize, width: usize) -> LetteringError {
        LetteringError::TooWide { font: self.look.font.name.clone(), found, width }
    }

    /// A line broken between words, as many of them in each as fit.
    fn wrapped(&self, text: &str, width: usize) -> Result<Vec<Bitmap>, LetteringError> {
        let mut lines = Vec::new();
        let mut begun = String::new();
        for word in text.split(' ') {
            let longer = if begun.is_empty() { word.to_owned() } else { format!("{begun} {word}") };
            if self.look.line(&longer)?.width() <= width {
                begun = longer;
                continue;
            }
            if !begun.is_empty() {
                lines.push(self.look.line(&begun)?);
            }
            let found = self.look.line(word)?.width();
            if found > width {
                return Err(self.too_wide(found, width));
            }
            begun = word.to_owned();
        }
        lines.push(self.look.line(&begun)?);
        Ok(lines)
    }
}

/// Lights a whole region.
fn fill(canvas: &mut Canvas<'_>, width: usize, height: usize) {
    for y in 0..height {
        for x in 0..width {
            canvas.set_dot(x, y, Level::FULL);
        }
    }
}

/// Gives the lit dots of a bitmap a level, its upper left corner at a place that may lie beyond the canvas.
pub fn paint(canvas: &mut Canvas<'_>, bitmap: &Bitmap, (left, top): (isize, isize), level: Level) {
    let (columns, rows) = canvas.in_sight((bitmap.width(), bitmap.height()), (left, top));
    for y in rows {
        for x in columns.clone().filter(|x| bitmap.get(*x, y)) {
            canvas.set_dot((left + x as isize) as usize, (top + y as isize) as usize, level);
        }
    }
}
