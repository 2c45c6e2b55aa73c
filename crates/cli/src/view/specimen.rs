//! Lines of a font: in a terminal two rows to a line, on a page as dots.

use spare_tile_core::dots::{Bitmap, places};

use super::colour::Rgb;
use super::label::Anchor;
use super::page::{FAINT, INK, Page};
use super::scene::Outline;
use crate::session::Session;

/// A line of dots for a terminal, without a newline at its end: with blocks two rows of dots are a line of text.
pub fn terminal(line: &Bitmap, session: &Session<'_>) -> String {
    if session.ascii {
        return line.to_string().trim_end().to_owned();
    }
    let rows = (0..line.height()).step_by(2).map(|y| {
        let cell = |x| match (line.get(x, y), line.get(x, y + 1)) {
            (true, true) => '█',
            (true, false) => '▀',
            (false, true) => '▄',
            (false, false) => ' ',
        };
        (0..line.width()).map(cell).collect::<String>().trim_end().to_owned()
    });
    rows.collect::<Vec<_>>().join("\n")
}

/// From one dot to the next, the radius of one, and between lines.
const PITCH: f32 = 10.0;
const RADIUS: f32 = 4.2;
const GAP: f32 = 14.0;
const MARGIN: f32 = 24.0;
/// A dot that is dark.
const DARK: Rgb = Rgb(232, 234, 238);

/// A character and its dots, all of one height.
pub type Cell = (char, Bitmap);

/// Columns between the cells of a specimen.
const APART: usize = 2;

/// The characters of a font in cells, each below its name, in lines that fit the width.
pub fn cells(cells: &[Cell], session: &Session<'_>) -> String {
    let name = |character: char| match character {
        ' ' => "SP".to_owned(),
        '\u{a0}' => "NB".to_owned(),
        character => character.to_string(),
    };
    let width = |(_, dots): &Cell| dots.width().max(2) + APART;
    let mut lines: Vec<&[Cell]> = Vec::new();
    let (mut begin, mut taken) = (0, 0);
    for (at, cell) in cells.iter().enumerate() {
        if taken + width(cell) > session.columns && at > begin {
            lines.push(&cells[begin..at]);
            (begin, taken) = (at, 0);
        }
        taken += width(cell);
    }
    lines.push(&cells[begin..]);
    let line = |line: &&[Cell]| {
        let names: String = line.iter().map(|cell| format!("{:<1$}", name(cell.0), width(cell))).collect();
        let height = line.iter().map(|(_, dots)| dots.height()).max().unwrap_or(0);
        let mut together = Bitmap::dark(line.iter().map(width).sum(), height);
        let mut left = 0;
        for cell in *line {
            together.add(&cell.1, left, 0);
            left += width(cell) as isize;
        }
        format!("{}\n{}", names.trim_end(), terminal(&together, session))
    };
    lines.iter().map(line).collect::<Vec<_>>().join("\n\n")
}

/// The characters of a font in cells, each above its character and code point.
pub fn draw_cells(title: &str, cells: &[Cell]) -> Page {
    /// A dot of a cell, the cell's names, and how many cells stand in a row.
    const DOT: f32 = 5.0;
    const NAMES: f32 = 30.0;
    const ACROSS: usize = 16;
    const TEXT: f32 = 9.0;
    let widest = cells.iter().map(|(_, dots)| dots.width()).max().unwrap_or(0) as f32 * DOT;
    let high = cells.iter().map(|(_, dots)| dots.height()).max().unwrap_or(0) as f32 * DOT;
    let (across, down) = (widest.max(36.0) + 14.0, high + NAMES + 10.0);
    let rows = cells.len().div_ceil(ACROSS).max(1) as f32;
    let width = (ACROSS.min(cells.len()).max(1) as f32).mul_add(across, 2.0 * MARGIN);
    let mut page = Page::new(width, rows.mul_add(down, 2.0 * MARGIN), title);
    for (place, (character, dots)) in cells.iter().enumerate() {
        let left = (place % ACROSS) as f32 * across + MARGIN;
        let top = (place / ACROSS) as f32 * down + MARGIN;
        for (x, y) in places(dots.width(), dots.height()) {
            let centre = (left + (x as f32 + 0.5) * DOT, top + (y as f32 + 0.5) * DOT);
            let colour = if dots.get(x, y) { INK } else { DARK };
            page.fill(Outline::Circle(centre, RADIUS * DOT / PITCH), colour);
        }
        let code = format!("{:04X}", u32::from(*character));
        // The strokes of labels know no more; the code point names the others.
        if character.is_ascii_graphic() {
            page.text(&character.to_string(), (left, top + high + 12.0), TEXT, Anchor::Left, INK);
        }
        page.text(&code, (left, top + high + 24.0), TEXT - 1.0, Anchor::Left, FAINT);
    }
    page
}

/// Lines of dots below one another, dark ones faint, so that the boxes of the characters can be counted.
pub fn draw(title: &str, lines: &[Bitmap]) -> Page {
    let widest = lines.iter().map(Bitmap::width).max().unwrap_or(0) as f32;
    let height: f32 = lines.iter().map(|line| line.height() as f32 * PITCH + GAP).sum();
    let mut page = Page::new(widest.mul_add(PITCH, 2.0 * MARGIN), height - GAP + 2.0 * MARGIN, title);
    let mut top = MARGIN;
    for line in lines {
        for y in 0..line.height() {
            for x in 0..line.width() {
                let centre = (MARGIN + (x as f32 + 0.5) * PITCH, top + (y as f32 + 0.5) * PITCH);
                let colour = if line.get(x, y) { INK } else { DARK };
                page.fill(Outline::Circle(centre, RADIUS), colour);
            }
        }
        top += line.height() as f32 * PITCH + GAP;
    }
    page
}
