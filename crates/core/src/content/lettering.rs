//! Texts on dots: set in a font, broken into lines, and placed on the face.

use std::sync::Arc;

use super::markup::{self, MarkupError, Style, Styled};
use super::text::Align;
use super::{Canvas, Region};
use crate::dots::font::{Fitting, Font, FontError, Setting};
use crate::dots::inked::{Inked, WHITE};
use crate::dots::places;
use crate::dots::raster::{Colour, OFF};
use crate::words::words;

/// A text on dots.
#[derive(Debug, Clone, PartialEq)]
pub struct Lettering {
    /// The words; each line of them is a line on the face. What stands in braces is [markup].
    pub words: String,
    /// How they look.
    pub look: Look,
}

/// How a text on dots looks.
#[derive(Debug, Clone, PartialEq)]
pub struct Look {
    /// The font, where the text says no other.
    pub font: Arc<Font>,
    /// The colour, where the text says no other.
    pub ink: Colour,
    /// Between characters.
    pub setting: Setting,
    /// Where a shorter line stands.
    pub align: Align,
    /// Columns to the right of that, or to the left if negative.
    pub offset: isize,
    /// True if the letters are dark on a ground of their colour.
    pub inverse: bool,
    /// The handling of a text that does not fit.
    pub fit: Fit,
}

words! {
    /// The handling of a text that is larger than its place.
    #[derive(Default)]
    pub enum Fit {
        /// It is an error.
        #[default]
        Whole = "whole",
        /// The rest is cut off.
        Cut = "cut",
        /// It ends in an ellipsis.
        Ellipsis = "ellipsis",
        /// It continues on the next line, broken between words.
        Wrap = "wrap",
    }
}

/// Why a text cannot be put on dots.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
#[allow(missing_docs, reason = "the messages say what the fields are")]
pub enum LetteringError {
    #[error("{0}")]
    Font(#[from] FontError),
    #[error("{0}")]
    Markup(#[from] MarkupError),
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
            ink: WHITE,
            setting: Setting { spacing: 0, fitting: Fitting::Kerned },
            align: Align::Left,
            offset: 0,
            inverse: false,
            fit: Fit::default(),
        }
    }

    /// Returns how many digits of this font, with a point between them, fit this many columns.
    #[must_use]
    pub fn digits_in(&self, columns: usize) -> usize {
        let point = self.font.glyph('.').map_or(1, |glyph| glyph.advance);
        (columns + 1).saturating_sub(point) / self.font.widest_figure().max(1)
    }

    /// The characters of a text with their styles, line by line.
    fn read(&self, words: &str) -> Result<Vec<Vec<Styled>>, MarkupError> {
        let usual = Style { font: Arc::clone(&self.font), colour: self.ink };
        let read = markup::read(&words.replace("\r\n", "\n"), &usual)?;
        let mut lines: Vec<Vec<Styled>> =
            read.split(|(character, _)| *character == '\n').map(<[_]>::to_vec).collect();
        // A newline at the end ends a line and begins none.
        if lines.last().is_some_and(Vec::is_empty) {
            lines.pop();
        }
        Ok(lines)
    }

    /// A line, its pieces of several fonts on one line to stand on.
    fn line(&self, text: &[Styled]) -> Result<Inked, FontError> {
        let usual = (self.font.ascent, self.font.descent);
        let fonts = || text.iter().map(|(_, style)| &style.font);
        let ascent = fonts().map(|font| font.ascent).max().unwrap_or(usual.0);
        let descent = fonts().map(|font| font.descent).max().unwrap_or(usual.1);
        let mut pieces = Vec::new();
        let (mut pen, mut first, mut right) = (0_isize, 0_isize, 0_isize);
        for part in text.chunk_by(|(_, a), (_, b)| a == b) {
            let words: String = part.iter().map(|(character, _)| *character).collect();
            let style = &part[0].1;
            let piece = style.font.set_piece(&words, self.setting)?;
            if !pieces.is_empty() {
                pen += self.setting.spacing;
            }
            let left = pen + piece.left;
            first = first.min(left);
            right = right.max(left + piece.bitmap.width() as isize);
            pen += piece.advance;
            pieces.push((piece.bitmap, style, left));
        }
        let mut line = Inked::dark(usize::try_from(right - first).unwrap_or(0), ascent + descent);
        for (bitmap, style, left) in pieces {
            line.ink(&bitmap, style.colour, left - first, (ascent - style.font.ascent) as isize);
        }
        Ok(line)
    }
}

impl Lettering {
    /// A number or a time: its figures keep their places as it changes.
    #[must_use]
    pub fn of_number(words: String, look: &Look) -> Self {
        let setting = Setting { fitting: Fitting::Tabular, ..look.setting };
        Self { words, look: Look { setting, ..look.clone() } }
    }

    /// The words as they are read, without what the braces say of their looks.
    #[must_use]
    pub fn plainly(&self) -> String {
        match self.look.read(&self.words) {
            Ok(lines) => {
                let plain =
                    |line: Vec<Styled>| line.into_iter().map(|(character, _)| character).collect::<String>();
                lines.into_iter().map(plain).collect::<Vec<_>>().join("\n")
            }
            Err(_) => self.words.clone(),
        }
    }

    /// All lines below one another, as wide as the widest; nothing is cut.
    ///
    /// # Errors
    /// When its braces say nothing, or a font cannot set a line.
    pub fn strip(&self) -> Result<Inked, LetteringError> {
        let lines = self.look.read(&self.words)?;
        let lines: Vec<_> = lines.iter().map(|line| self.look.line(line)).collect::<Result<_, _>>()?;
        let width = lines.iter().map(Inked::width).max().unwrap_or(0);
        let height = lines.iter().map(Inked::height).sum::<usize>().max(self.look.font.height());
        let mut strip = Inked::dark(width, height);
        let mut top = 0;
        for line in &lines {
            let left = self.look.align.start(line.width(), width);
            strip.add(line, left as isize, top as isize);
            top += line.height();
        }
        Ok(strip)
    }

    /// Where each of its characters begins on dots of this size, in the order in which one types them, the blanks too. Those
    /// that begin beyond the right edge are left out.
    ///
    /// # Errors
    /// As [`Self::draw`].
    pub fn stops(&self, (width, height): (usize, usize)) -> Result<Vec<Stop>, LetteringError> {
        let (lines, set) = self.set(width)?;
        let found = set.iter().map(Inked::height).sum::<usize>();
        let mut top = (height as isize - found as isize).div_euclid(2);
        let mut stops = Vec::new();
        for (text, line) in lines.iter().zip(&set) {
            let left = self.look.align.start(line.width(), width) as isize + self.look.offset;
            let foot = top + line.height() as isize;
            for end in 0..text.len() {
                // The rest begins where the line so far ends.
                let from = left + self.look.line(&text[..end])?.width() as isize;
                if from >= width as isize {
                    break;
                }
                stops.push(Stop { from, top, foot });
            }
            top = foot;
        }
        Ok(stops)
    }

    /// Draws it on a canvas, its lines in the middle of the height.
    ///
    /// # Errors
    /// When the canvas has no dots, its braces say nothing, a font lacks a character, or the text does not fit and may not
    /// be cut.
    pub fn draw(&self, canvas: &mut Canvas<'_>) -> Result<(), LetteringError> {
        let Region::Dots { width, height, .. } = canvas.region() else { return Err(LetteringError::NoDots) };
        let (_, lines) = self.set(width)?;
        let found = lines.iter().map(Inked::height).sum::<usize>();
        let may_be_cut = self.look.fit == Fit::Cut || lines.len() <= 1;
        if found > height && !may_be_cut {
            return Err(LetteringError::TooHigh { font: self.look.font.name.clone(), found, height });
        }
        if self.look.inverse {
            fill(canvas, (width, height), self.look.ink);
        }
        // A font that is higher than the face loses the rows above and below that it needs least.
        let mut top = (height as isize - found as isize).div_euclid(2);
        for line in &lines {
            let left = self.look.align.start(line.width(), width) as isize + self.look.offset;
            paint(canvas, line, (left, top), self.look.inverse.then_some(OFF));
            top += line.height() as isize;
        }
        Ok(())
    }

    /// Returns the lines that fit this many columns, as characters and as dots.
    fn set(&self, width: usize) -> Result<(Vec<Vec<Styled>>, Vec<Inked>), LetteringError> {
        let (mut lines, mut set) = (Vec::new(), Vec::new());
        for line in self.look.read(&self.words)? {
            let whole = self.look.line(&line)?;
            if whole.width() <= width || self.look.fit == Fit::Cut || self.look.offset != 0 {
                lines.push(line);
                set.push(whole);
                continue;
            }
            for fitted in self.fitted(&line, whole.width(), width)? {
                set.push(self.look.line(&fitted)?);
                lines.push(fitted);
            }
        }
        Ok((lines, set))
    }

    /// A line of the text that is `found` columns wide as lines that fit.
    fn fitted(
        &self,
        text: &[Styled],
        found: usize,
        width: usize,
    ) -> Result<Vec<Vec<Styled>>, LetteringError> {
        match self.look.fit {
            Fit::Whole | Fit::Cut => Err(self.too_wide(text, found, width)),
            Fit::Ellipsis => Ok(vec![self.shortened(text, width)?]),
            Fit::Wrap => self.wrapped(text, width),
        }
    }

    /// As much of a line as fits with an ellipsis behind it.
    fn shortened(&self, text: &[Styled], width: usize) -> Result<Vec<Styled>, LetteringError> {
        // However long the text: what is more than twice as long as fits need not be set.
        let mut longest = 1;
        while longest < text.len() && self.look.line(&text[..longest])?.width() <= width {
            longest *= 2;
        }
        let mut found = 0;
        for end in (0..text.len().min(longest)).rev() {
            let kept =
                text[..end].iter().rposition(|(character, _)| *character != ' ').map_or(0, |last| last + 1);
            let style = &text[end].1;
            let points = std::iter::repeat_n(('.', style.clone()), 3);
            let line: Vec<_> = text[..kept].iter().cloned().chain(points).collect();
            found = self.look.line(&line)?.width();
            if found <= width {
                return Ok(line);
            }
        }
        Err(self.too_wide(text, found, width))
    }

    fn too_wide(&self, text: &[Styled], found: usize, width: usize) -> LetteringError {
        let font = text.first().map_or(&self.look.font, |(_, style)| &style.font);
        LetteringError::TooWide { font: font.name.clone(), found, width }
    }

    /// A line broken between words, as many of them in each as fit.
    fn wrapped(&self, text: &[Styled], width: usize) -> Result<Vec<Vec<Styled>>, LetteringError> {
        let mut lines = Vec::new();
        let mut begun: Vec<Styled> = Vec::new();
        let blanks = || text.iter().filter(|(character, _)| *character == ' ');
        let words = text.split(|(character, _)| *character == ' ');
        for (word, blank) in words.zip(std::iter::once(None).chain(blanks().map(Some))) {
            let longer = match blank.filter(|_| !begun.is_empty()) {
                None => word.to_vec(),
                Some(blank) => begun.iter().chain([blank]).chain(word).cloned().collect(),
            };
            if self.look.line(&longer)?.width() <= width {
                begun = longer;
                continue;
            }
            if !begun.is_empty() {
                lines.push(begun);
            }
            let found = self.look.line(word)?.width();
            if found > width {
                return Err(self.too_wide(word, found, width));
            }
            begun = word.to_vec();
        }
        lines.push(begun);
        Ok(lines)
    }
}

/// Where a character begins.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Stop {
    /// The first column that it or what follows may light.
    pub from: isize,
    /// The first row of its line.
    pub top: isize,
    /// The row below it.
    pub foot: isize,
}

/// Lights a whole region.
fn fill(canvas: &mut Canvas<'_>, (width, height): (usize, usize), colour: Colour) {
    for (x, y) in places(width, height) {
        canvas.set_colour(x, y, colour);
    }
}

/// Gives the lit dots of a line their colours, or all of them one, its upper left corner at a place that may lie beyond the
/// canvas.
pub fn paint(canvas: &mut Canvas<'_>, line: &Inked, (left, top): (isize, isize), colour: Option<Colour>) {
    let (columns, rows) = canvas.in_sight((line.width(), line.height()), (left, top));
    for (own, bitmap) in line.layers() {
        let colour = colour.unwrap_or(own);
        for y in rows.clone() {
            let lit = bitmap.lit_in_row(y, columns.clone()).map(|x| (left + x as isize) as usize);
            canvas.set_colour_of((top + y as isize) as usize, lit, colour);
        }
    }
}
