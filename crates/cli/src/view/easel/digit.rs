//! A character on an editor's screen: its segments, large and with their names, and its byte.

use ratatui::buffer::Buffer;
use ratatui::layout::Rect;
use ratatui::style::{Modifier, Style};
use spare_tile_core::drawing::sheet::Sheet;
use spare_tile_core::glyph::Segments;

use super::super::blocks;
use super::super::colour::{LENS, Rgb};
use super::super::rows;
use super::super::scene::{self, Scene};
use super::{Pens, cell, paint_pixels, wrapped, write, write_lines};
use crate::coding::Coding;
use crate::options::Base;
use crate::visible::visible;

/// Everything that is shown of a sheet.
pub struct Sight<'a> {
    /// The characters.
    pub sheet: &'a Sheet,
    /// How their segments become bytes.
    pub coding: &'a Coding,
}

/// Pixels to the height of the digit, two to a line of the screen: the largest that is of use.
const MOST_PIXELS: usize = 56;
/// Between the digit and what there is to know.
const GAP: u16 = 3;
/// The least room for that.
const FACTS: u16 = 30;

impl Sight<'_> {
    fn scene(&self) -> Scene {
        scene::alone(self.sheet.style(), self.sheet.pattern())
    }

    /// How many pixels a digit is high, and the columns and lines of the screen that its lens takes.
    fn size(&self, area: Rect) -> (usize, u16, u16) {
        let scene = self.scene();
        let takes = |height: usize| {
            let across = blocks::pixels(scene.width, height);
            (across, blocks::pixels(scene.height, height).div_ceil(2))
        };
        let room = (usize::from(area.width.saturating_sub(FACTS + GAP)), usize::from(area.height));
        let fits = |height: &usize| takes(*height).0 <= room.0 && takes(*height).1 <= room.1;
        let height = (1..=MOST_PIXELS).rev().find(fits).unwrap_or(1);
        let (columns, lines) = takes(height);
        (height, columns as u16, lines as u16)
    }

    /// The segment at a place of the screen.
    pub fn segment_at(&self, area: Rect, (x, y): (u16, u16)) -> Option<usize> {
        let (height, ..) = self.size(area);
        let (x, y) = (x.checked_sub(area.x)?, y.checked_sub(area.y)?);
        let scene = self.scene();
        // The middle of the cell, then that of its halves.
        [1.0, 0.5, 1.5].into_iter().find_map(|half| segment_at(&scene, height, (x, f32::from(2 * y) + half)))
    }

    /// Draws it.
    pub fn draw(&self, area: Rect, buffer: &mut Buffer, pens: Pens) {
        let (height, columns, lines) = self.size(area);
        let scene = self.scene();
        let digit = Rect { width: columns.min(area.width), height: lines.min(area.height), ..area };
        if pens.has_colours() {
            self.paint(&scene, height, digit, buffer, pens);
        } else {
            self.print(&scene, height, digit, buffer, pens);
        }
        self.draw_names(&scene, height, digit, buffer, pens);
        let left = (digit.width + GAP).min(area.width);
        self.draw_facts(Rect { x: area.x + left, width: area.width - left, ..area }, buffer);
    }

    /// As pixels.
    fn paint(&self, scene: &Scene, height: usize, area: Rect, buffer: &mut Buffer, pens: Pens) {
        let columns = usize::from(area.width);
        let size = (columns, 2 * usize::from(area.height));
        let pixels = blocks::sample(scene, size, height, self.coding.face.light.colour);
        paint_pixels(&pixels, columns, area, buffer, pens);
    }

    /// A character a cell, where there is no colour.
    fn print(&self, scene: &Scene, height: usize, area: Rect, buffer: &mut Buffer, pens: Pens) {
        let (lit, dark) = if pens.ascii { ("#", ".") } else { ("\u{2588}", "\u{b7}") };
        for (x, y) in (0..area.height).flat_map(|y| (0..area.width).map(move |x| (x, y))) {
            let mark = match segment_at(scene, height, (x, f32::from(2 * y) + 1.0)) {
                Some(segment) if self.sheet.pattern().has_index(segment) => lit,
                Some(_) => dark,
                None => " ",
            };
            if let Some(cell) = cell(buffer, (area.x + x, area.y + y)) {
                cell.set_symbol(mark);
            }
        }
    }

    /// The name of each segment in the middle of it.
    fn draw_names(&self, scene: &Scene, height: usize, area: Rect, buffer: &mut Buffer, pens: Pens) {
        let style = self.sheet.style();
        for (segment, (name, shape)) in style.segment_names().iter().zip(&scene.shapes).enumerate() {
            let (left, top, right, bottom) = shape.outline.bounds();
            let is_lit = self.sheet.pattern().has_index(segment);
            let colour = shape.colour(self.coding.face.light.colour);
            let look = match (pens.has_colours(), is_lit) {
                (true, true) => Style::new().fg(pens.colour(LENS)).bg(pens.colour(colour)),
                (true, false) => Style::new().fg(pens.colour(NAME)).bg(pens.colour(colour)),
                (false, true) => Style::new().add_modifier(Modifier::REVERSED),
                (false, false) => Style::new(),
            };
            let pixel = |at: f32| at * height as f32 / scene::DIGIT_HEIGHT;
            let x = pixel((left + right) / 2.0) - name.len() as f32 / 2.0;
            let y = pixel((top + bottom) / 2.0) / 2.0;
            write(buffer, area, (x.round() as u16, y as u16), name, look);
        }
    }

    /// The character, its segments, its byte and what it is read as; below all characters of the file.
    fn draw_facts(&self, area: Rect, buffer: &mut Buffer) {
        let (sheet, coding) = (self.sheet, self.coding);
        let pattern = sheet.pattern();
        let mut lines: Vec<(String, Style)> = Vec::new();
        let plain = Style::new();
        let bold = Style::new().add_modifier(Modifier::BOLD);
        lines.push(match (sheet.character(), sheet.at()) {
            (Some(character), Some(at)) => {
                (format!("{}   {} of {}", quoted(character), at + 1, sheet.characters().len()), bold)
            }
            _ => ("no character yet: n gives it one".to_owned(), bold),
        });
        let names: Vec<_> = coding.order.names().collect();
        let bits = coding.order.bits(pattern, coding.polarity);
        let bytes: Vec<_> = coding.order.bytes(bits).collect();
        let mut say = |text: &str| {
            lines.extend(wrapped(text, area.width).into_iter().map(|line| (line, plain)));
        };
        say(&format!("lit: {}", lit_words(pattern, sheet)));
        say("");
        let order = names.join(" ");
        if order.len() <= usize::from(area.width) {
            say(&order);
            // Leading blanks stand for the columns of the names above.
            lines.push((rows::bits_under(&names, bits), plain));
        } else {
            for (name, bit) in names.iter().zip(rows::bits(bits, names.len())) {
                lines.push((format!("{name:>3} {bit}"), plain));
            }
        }
        let mut say = |text: &str, style| {
            lines.extend(wrapped(text, area.width).into_iter().map(|line| (line, style)));
        };
        let in_base = |base: Base| format!("{} {}", base.name(), base.write_all(&bytes));
        say(&in_base(Base::Hex), bold);
        say(&in_base(Base::Bin), plain);
        if bytes.len() == 1 {
            say(&in_base(Base::Dec), plain);
        }
        say(&coding.polarity_words(), plain);
        say("", plain);
        say(&format!("read as {}", coding.read_words(pattern)), plain);
        say("", plain);
        let room = usize::from(area.height).saturating_sub(lines.len()).max(1);
        let at = sheet.at().unwrap_or(0);
        let first = at.saturating_sub(room / 2).min(sheet.characters().len().saturating_sub(room));
        for (place, (character, segments)) in sheet.characters().iter().enumerate().skip(first) {
            let bits = coding.order.bits(*segments, coding.polarity);
            let hex = Base::Hex.write_all(&coding.order.bytes(bits).collect::<Vec<_>>());
            let mark = if sheet.at() == Some(place) { '>' } else { ' ' };
            let words = format!("{mark} {:5} {hex}  {}", quoted(*character), lit_words(*segments, sheet));
            lines.push((words, plain));
        }
        write_lines(buffer, area, lines.iter().map(|(line, style)| (line.as_str(), *style)));
    }
}

/// The names of segments without light.
const NAME: Rgb = Rgb(150, 140, 140);

/// The names of the lit segments.
fn lit_words(segments: Segments, sheet: &Sheet) -> String {
    match segments {
        Segments::NONE => "nothing".to_owned(),
        lit => lit.names(sheet.style()).collect::<Vec<_>>().join(" "),
    }
}

fn quoted(character: char) -> String {
    format!("'{}'", visible(&character.to_string()))
}

/// The segment at a pixel, whose left edge is `x` and whose middle is at `y`.
fn segment_at(scene: &Scene, height: usize, (x, y): (u16, f32)) -> Option<usize> {
    let scale = scene::DIGIT_HEIGHT / height as f32;
    let point = ((f32::from(x) + 0.5) * scale, y * scale);
    scene.shapes.iter().position(|shape| shape.outline.has(point))
}
