//! An editor on the whole screen: what is drawn in the middle, what there is to know of it beside or below, and the keys at the foot.
//!
//! [`film`] shows the frames of a sprite, [`digit`] the segments of a character. Where something is on the screen follows from the
//! size of the window and from what is drawn alone, so that a click finds what was painted.

pub mod digit;
pub mod film;

use ratatui::buffer::{Buffer, Cell};
use ratatui::layout::{Position, Rect};
use ratatui::style::{Color, Modifier, Style};
use spare_tile_core::units::counted;
use textwrap::core::display_width;
use textwrap::{Options, wrap};

use super::cells::halves;
use super::colour::Rgb;
use crate::session::{Depth, Session};

/// The inks of an editor.
#[derive(Debug, Clone, Copy)]
pub struct Pens {
    /// How many colours there are.
    pub depth: Depth,
    /// True if all is drawn in ASCII.
    pub ascii: bool,
    /// How segments and dots without light are drawn.
    pub dark: Dark,
}

/// How segments and dots without light are drawn.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Dark {
    /// So that they can just be seen.
    Faint,
    /// Not at all.
    Hidden,
}

impl Dark {
    /// Returns true if something with this light is drawn.
    pub fn shows(self, light: f32) -> bool {
        light > 0.0 || self == Self::Faint
    }
}

impl Pens {
    /// Those of the session's terminal.
    pub fn of(session: &Session<'_>) -> Self {
        // The darkest grey of 16 colours is too bright for what is dark.
        let is_hidden = session.lit_only || session.depth == Depth::Sixteen;
        let dark = if is_hidden { Dark::Hidden } else { Dark::Faint };
        Self { depth: session.depth, ascii: session.ascii, dark }
    }

    /// Returns true if there are colours to paint with, and blocks to paint.
    pub fn has_colours(self) -> bool {
        self.depth != Depth::Plain && !self.ascii
    }

    /// A colour as the terminal takes it.
    pub fn colour(self, colour: Rgb) -> Color {
        match self.depth {
            Depth::True => Color::Rgb(colour.0, colour.1, colour.2),
            Depth::Sixteen => Color::Indexed(colour.of_sixteen()),
            _ => Color::Indexed(colour.indexed()),
        }
    }
}

/// The surroundings of the work.
pub struct Surround<'a> {
    /// The line at the top.
    pub title: &'a str,
    /// The message, or the question.
    pub message: &'a str,
    /// The keys and what they do.
    pub keys: &'a [(&'a str, &'a str)],
}

/// The columns between what one key does and the next key.
const BETWEEN: usize = 3;

impl Surround<'_> {
    /// The keys line by line, none longer than the window is wide; what a key does is never parted from it.
    fn key_lines(&self, width: u16) -> Vec<Vec<(&str, &str)>> {
        let mut lines: Vec<Vec<_>> = Vec::new();
        let mut taken = 0;
        for (key, does) in self.keys {
            let words = key.len() + 1 + does.len();
            match lines.last_mut() {
                Some(line) if taken + BETWEEN + words <= usize::from(width) => {
                    line.push((*key, *does));
                    taken += BETWEEN + words;
                }
                _ => {
                    lines.push(vec![(*key, *does)]);
                    taken = words;
                }
            }
        }
        lines
    }

    /// The room for the work.
    pub fn middle(&self, area: Rect) -> Rect {
        let foot = 1 + self.key_lines(area.width).len() as u16;
        let height = area.height.saturating_sub(2 + foot);
        Rect { y: area.y + 2.min(area.height), height, ..area }
    }

    /// Draws it.
    pub fn draw(&self, area: Rect, buffer: &mut Buffer) {
        let lines = self.key_lines(area.width);
        let bold = Style::new().add_modifier(Modifier::BOLD);
        write(buffer, area, (0, 0), self.title, bold);
        let top = area.height.saturating_sub(lines.len() as u16);
        for (line, y) in lines.iter().zip(top..) {
            let mut x = 0;
            for (key, does) in line {
                write(buffer, area, (x, y), key, bold);
                x += key.len() as u16 + 1;
                write(buffer, area, (x, y), does, Style::new().add_modifier(Modifier::DIM));
                x += (does.len() + BETWEEN) as u16;
            }
        }
        if let Some(y) = top.checked_sub(1).filter(|y| *y > 0) {
            write(buffer, area, (0, y), self.message, Style::new());
        }
    }
}

/// The mark in the last column of a line that is cut.
const GOES_ON: &str = ">";

/// Writes a line of text at a place of an area, as far as there is room; where it is cut, the last column says so.
pub fn write(buffer: &mut Buffer, area: Rect, (x, y): (u16, u16), text: &str, style: Style) {
    if x < area.width && y < area.height {
        let room = usize::from(area.width - x);
        buffer.set_stringn(area.x + x, area.y + y, text, room, style);
        if display_width(text) > room {
            buffer.set_string(area.x + area.width - 1, area.y + y, GOES_ON, style);
        }
    }
}

/// Writes lines one below the other, as far as there is room; where some are left out, the last says how many.
pub fn write_lines<'l>(
    buffer: &mut Buffer,
    area: Rect,
    lines: impl IntoIterator<Item = (&'l str, Style), IntoIter: ExactSizeIterator>,
) {
    let lines = lines.into_iter();
    let height = usize::from(area.height);
    let shown = if lines.len() > height { height.saturating_sub(1) } else { lines.len() };
    let left_out = lines.len() - shown;
    for ((line, style), y) in lines.take(shown).zip(0..) {
        write(buffer, area, (0, y), line, style);
    }
    if left_out > 0 {
        let words = format!("{GOES_ON} {} more", counted(left_out, "line", "lines"));
        write(buffer, area, (0, shown as u16), &words, Style::new().add_modifier(Modifier::DIM));
    }
}

/// The lines of a text of a width.
fn wrapped(text: &str, width: u16) -> Vec<String> {
    let options = Options::new(usize::from(width.max(1))).subsequent_indent("  ");
    wrap(text, options).into_iter().map(std::borrow::Cow::into_owned).collect()
}

/// The cell of a place of the screen, where that is on it.
pub fn cell(buffer: &mut Buffer, (x, y): (u16, u16)) -> Option<&mut Cell> {
    buffer.cell_mut(Position { x, y })
}

/// Paints pixels, row by row, into an area; the rest is clipped.
pub fn paint_pixels(pixels: &[Rgb], columns: usize, area: Rect, buffer: &mut Buffer, pens: Pens) {
    for (pair, y) in pixels.chunks_exact((2 * columns).max(1)).zip(0..area.height) {
        let (upper, lower) = pair.split_at(columns);
        for ((upper, lower), x) in upper.iter().zip(lower).zip(0..area.width) {
            if let Some(cell) = cell(buffer, (area.x + x, area.y + y)) {
                paint_halves(cell, pens.colour(*upper), pens.colour(*lower));
            }
        }
    }
}

/// Paints two pixels into a cell, one above the other.
fn paint_halves(cell: &mut Cell, upper: Color, lower: Color) {
    cell.set_symbol(halves(upper, lower)).set_fg(lower).set_bg(upper);
}
