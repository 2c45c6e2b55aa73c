//! Lines of a font: in a terminal two rows to a line, on a page as dots.

use spare_tile_core::dots::Bitmap;

use super::colour::Rgb;
use super::page::{INK, Page};
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
