//! The frames of a sprite on an editor's screen: the dots of one, its bytes, and the row of all.

use ratatui::buffer::Buffer;
use ratatui::layout::Rect;
use ratatui::style::{Modifier, Style};
use spare_tile_core::dots::raster::{Colour, OFF};
use spare_tile_core::dots::sprite::letter;
use spare_tile_core::drawing::film::Film;
use spare_tile_core::face::Colour as Light;
use spare_tile_core::units::Nanos;
use spare_tile_firmware::data::Order;
use textwrap::core::display_width;

use super::super::colour::{self, LENS, Rgb};
use super::{Pens, cell, paint_halves, wrapped, write, write_lines};

/// Everything that is shown of a film.
pub struct Sight<'a> {
    /// The frames.
    pub film: &'a Film,
    /// The frame that is seen: the film's, or another while it plays.
    pub frame: usize,
    /// The column and row of the cursor.
    pub cursor: (usize, usize),
    /// True if it plays: then there is no cursor to be seen.
    pub plays: bool,
    /// True if what was lit in the frame before shines through.
    pub onion: bool,
    /// The order of the bytes.
    pub order: Order<'a>,
    /// The colour of the face's lights, where they have one.
    pub light: Option<Light>,
}

/// Where the parts of it are.
struct Places {
    /// The dots, without their rulers.
    dots: Rect,
    /// Columns and lines of the screen that a dot takes.
    pitch: (u16, u16),
    /// The dot at the upper left.
    first: (usize, usize),
    /// Further facts.
    facts: Rect,
    /// The row of frames.
    frames: Rect,
}

/// The columns of the ruler at the left, and the lines of the one at the top.
const RULERS: (u16, u16) = (4, 1);
/// The least width of the facts beside the dots, and their most.
const FACTS: (u16, u16) = (30, 44);
/// The lines of the facts below the dots.
const FACTS_BELOW: u16 = 6;
/// The columns that a dot takes, half as many lines, from the largest on.
const PITCHES: [u16; 3] = [8, 6, 4];
/// Columns and lines of the smallest.
const SMALL: (u16, u16) = (2, 1);
/// Where a window is so wide, the facts stay beside the dots even when those have no room.
const WIDE: u16 = 100;
/// The columns that are left for the frame behind the one that is seen.
const NEXT_TAB: usize = 12;
/// Between two parts.
const GAP: u16 = 2;

impl Sight<'_> {
    /// Dots as large as leaves room for all of them, and for the facts beside.
    fn places(&self, area: Rect, pens: Pens) -> Places {
        let (width, height) = self.film.size();
        let body = Rect { height: area.height.saturating_sub(1), ..area };
        let frames = Rect { y: area.y + body.height, height: area.height - body.height, ..area };
        let takes = |(across, down): (u16, u16)| {
            let side = |ruler: u16, pitch: u16, count: usize| usize::from(ruler) + usize::from(pitch) * count;
            (side(RULERS.0, across, width), side(RULERS.1, down, height))
        };
        let fits = |pitch: (u16, u16), (columns, lines): (u16, u16)| {
            let (across, down) = takes(pitch);
            across <= usize::from(columns) && down <= usize::from(lines)
        };
        let beside = (body.width.saturating_sub(FACTS.0 + GAP), body.height);
        let below = (body.width, body.height.saturating_sub(FACTS_BELOW));
        let large = PITCHES.into_iter().filter(|_| pens.has_colours());
        let pitch = large.map(|columns| (columns, columns / 2)).find(|pitch| fits(*pitch, beside));
        let (pitch, is_beside) = match pitch {
            Some(pitch) => (pitch, true),
            None if fits(SMALL, beside) => (SMALL, true),
            None => (SMALL, !fits(SMALL, below) && body.width >= WIDE),
        };
        let (canvas, facts) = if is_beside {
            let taken = takes(pitch).0.min(usize::from(beside.0)) as u16;
            let left = taken + GAP;
            let width = body.width.saturating_sub(left).min(FACTS.1);
            (Rect { width: taken, ..body }, Rect { x: body.x + left.min(body.width), width, ..body })
        } else {
            let taken = takes(pitch).1.min(usize::from(below.1)) as u16;
            let top = (taken + 1).min(body.height);
            (Rect { height: taken, ..body }, Rect { y: body.y + top, height: body.height - top, ..body })
        };
        let dots = Rect {
            x: canvas.x + RULERS.0.min(canvas.width),
            y: canvas.y + RULERS.1.min(canvas.height),
            width: canvas.width.saturating_sub(RULERS.0),
            height: canvas.height.saturating_sub(RULERS.1),
        };
        // Of a sprite that is larger whole pages are shown, so that nothing moves while the cursor does.
        let first = |cursor: usize, room: u16, pitch: u16, count: usize| {
            let seen = usize::from(room / pitch).max(1);
            (cursor / seen * seen).min(count.saturating_sub(seen))
        };
        let (x, y) = self.cursor;
        let first = (first(x, dots.width, pitch.0, width), first(y, dots.height, pitch.1, height));
        Places { dots, pitch, first, facts, frames }
    }

    /// The dot at a place of the screen; the nearest one where `beyond` says that it may be beside all.
    pub fn dot_at(&self, area: Rect, pens: Pens, (x, y): (u16, u16), beyond: bool) -> Option<(usize, usize)> {
        let places = self.places(area, pens);
        let (width, height) = self.film.size();
        let dot = |at: u16, begin: u16, pitch: u16, (first, room, count): (usize, u16, usize)| {
            let last = (first + usize::from(room / pitch)).min(count).checked_sub(1)?;
            let found = at.checked_sub(begin).map(|inside| first + usize::from(inside / pitch));
            match found {
                Some(found) if found <= last => Some(found),
                Some(_) => beyond.then_some(last),
                None => beyond.then_some(first),
            }
        };
        let Places { dots, pitch, first, .. } = places;
        Some((
            dot(x, dots.x, pitch.0, (first.0, dots.width, width))?,
            dot(y, dots.y, pitch.1, (first.1, dots.height, height))?,
        ))
    }

    /// The frame whose name in the row of frames is at a place of the screen.
    pub fn frame_at(&self, area: Rect, pens: Pens, (x, y): (u16, u16)) -> Option<usize> {
        let frames = self.places(area, pens).frames;
        let inside = x.checked_sub(frames.x).filter(|_| y == frames.y)?;
        let tabs = self.tabs(frames.width);
        let is_at = |(_, begin, name): &(usize, u16, String)| {
            inside >= *begin && usize::from(inside - begin) < display_width(name)
        };
        tabs.into_iter().find(is_at).map(|(place, ..)| place)
    }

    /// The frames that have room in a row: the place of each, where its name begins, and the name.
    fn tabs(&self, room: u16) -> Vec<(usize, u16, String)> {
        let name = |place: usize| {
            let shot = &self.film.shots()[place];
            let name = shot.name.as_ref().map_or_else(String::new, |name| format!(" {name}"));
            format!(" {place}{name} {} ", Nanos::from(shot.stays).written())
        };
        let count = self.film.shots().len();
        let room = usize::from(room);
        // As many before this one as leave room for it and for the next.
        let mut first = self.frame;
        let mut taken = display_width(&name(self.frame)) + NEXT_TAB;
        while let Some(before) = first.checked_sub(1) {
            taken += display_width(&name(before)) + 1;
            if taken > room {
                break;
            }
            first = before;
        }
        let mut tabs = Vec::new();
        let mut begin = 0;
        for place in first..count {
            let name = name(place);
            let next = begin + display_width(&name) + 1;
            if next > room && place != self.frame {
                break;
            }
            tabs.push((place, begin as u16, name));
            begin = next;
        }
        tabs
    }

    /// Draws it.
    pub fn draw(&self, area: Rect, buffer: &mut Buffer, pens: Pens) {
        let places = self.places(area, pens);
        self.draw_rulers(&places, buffer);
        let (width, height) = self.film.size();
        let Rect { width: room_x, height: room_y, .. } = places.dots;
        let seen = (usize::from(room_x / places.pitch.0), usize::from(room_y / places.pitch.1));
        for row in 0..seen.1.min(height) {
            for column in 0..seen.0.min(width) {
                let dot = (places.first.0 + column, places.first.1 + row);
                let corner = (
                    places.dots.x + column as u16 * places.pitch.0,
                    places.dots.y + row as u16 * places.pitch.1,
                );
                self.draw_dot(dot, corner, places.pitch, buffer, pens);
            }
        }
        self.draw_facts(places.facts, buffer);
        for (place, begin, name) in self.tabs(places.frames.width) {
            let style = if place == self.frame {
                Style::new().add_modifier(Modifier::REVERSED)
            } else {
                Style::new()
            };
            write(buffer, places.frames, (begin, 0), &name, style);
        }
    }

    /// The number of every eighth column, and of every row.
    fn draw_rulers(&self, places: &Places, buffer: &mut Buffer) {
        let (width, height) = self.film.size();
        let Places { dots, pitch, first, .. } = places;
        let dim = Style::new().add_modifier(Modifier::DIM);
        let above = Rect { y: dots.y.saturating_sub(1), height: 1, ..*dots };
        for column in (first.0..width.min(first.0 + usize::from(dots.width / pitch.0))).filter(|x| x % 8 == 0)
        {
            let at = (column - first.0) as u16 * pitch.0;
            write(buffer, above, (at, 0), &column.to_string(), dim);
        }
        let beside = Rect { x: dots.x.saturating_sub(RULERS.0), width: RULERS.0, ..*dots };
        for row in first.1..height.min(first.1 + usize::from(dots.height / pitch.1)) {
            let at = (row - first.1) as u16 * pitch.1;
            write(buffer, beside, (0, at), &format!("{row:3}"), dim);
        }
    }

    fn draw_dot(
        &self,
        (x, y): (usize, usize),
        corner: (u16, u16),
        pitch: (u16, u16),
        buffer: &mut Buffer,
        pens: Pens,
    ) {
        let shots = self.film.shots();
        let own = shots[self.frame].raster.get(x, y);
        let before = match self.frame.checked_sub(1) {
            Some(before) if self.onion && !self.plays => shots[before].raster.get(x, y),
            _ => OFF,
        };
        let is_cursor = !self.plays && self.cursor == (x, y);
        if !pens.has_colours() {
            let style = if is_cursor { Style::new().add_modifier(Modifier::REVERSED) } else { Style::new() };
            let text = format!("{} ", letter_of(own, before, pens));
            buffer.set_string(corner.0, corner.1, text, style);
            return;
        }
        let ground = pens.colour(if is_cursor { CURSOR } else { LENS });
        let light = pens.colour(self.shade(own, before));
        if pitch == SMALL {
            buffer.set_string(corner.0, corner.1, "\u{25cf} ", Style::new().fg(light).bg(ground));
            return;
        }
        // Two pixels a cell, one above the other.
        let colour = |x: u16, y: u16| if is_round_at((x, y), pitch.0) { light } else { ground };
        for (column, row) in (0..pitch.1).flat_map(|row| (0..pitch.0).map(move |column| (column, row))) {
            if let Some(cell) = cell(buffer, (corner.0 + column, corner.1 + row)) {
                let (upper, lower) = (colour(column, 2 * row), colour(column, 2 * row + 1));
                paint_halves(cell, upper, lower);
            }
        }
    }

    /// How a dot looks: as the lights of the face do, where they have one colour. What shines through is weak.
    fn shade(&self, own: Colour, before: Colour) -> Rgb {
        let of_light = |dot: Colour| match self.light {
            Some(light) => colour::lit(light),
            None => Rgb(dot[0], dot[1], dot[2]),
        };
        match (own, before) {
            (OFF, OFF) => colour::mixed(OFF),
            (OFF, before) => colour::mix(colour::mixed(OFF), of_light(before), ONION),
            (own, _) => match of_light(own) {
                Rgb(red, green, blue) if self.light.is_none() => colour::mixed([red, green, blue]),
                lit => lit,
            },
        }
    }

    /// The dot of the cursor with its byte, and the bytes of the frame with that byte marked.
    fn draw_facts(&self, area: Rect, buffer: &mut Buffer) {
        let has_colours = self.film.shots().iter().any(|shot| shot.raster.has_colours());
        let raster = &self.film.shots()[self.frame].raster;
        let bytes = self.order.bytes(raster, has_colours);
        let mut lines = Vec::new();
        let mut marked = Vec::new();
        if !self.plays {
            let (x, y) = self.cursor;
            let changed = |colour| {
                let mut raster = raster.clone();
                raster.set(x, y, colour);
                self.order.bytes(&raster, has_colours)
            };
            let bits = bits_between(&changed(OFF), &changed([255; 3]));
            let said: Vec<_> = bits.iter().map(|(byte, bit)| format!("byte {byte} bit {bit}")).collect();
            let said = if said.is_empty() { "no byte has it".to_owned() } else { said.join(", ") };
            lines.extend(wrapped(&format!("dot {x},{y}: {said}"), area.width));
            marked = bits.into_iter().map(|(byte, _)| byte).collect();
        }
        for words in self.order.words(self.film.size(), has_colours) {
            lines.extend(wrapped(&words, area.width));
        }
        write_lines(buffer, area, lines.iter().map(|line| (line.as_str(), Style::new())));
        let top = (lines.len() as u16 + 1).min(area.height);
        let area = Rect { y: area.y + top, height: area.height - top, ..area };
        draw_bytes(&bytes, &marked, area, buffer);
    }
}

/// The ground of the cursor's dot.
const CURSOR: Rgb = Rgb(118, 114, 140);
/// How strong what was lit in the frame before shines through.
const ONION: f32 = 0.3;

/// The letter of a dot where there is no colour: that of the file, and another for what shines through.
fn letter_of(own: Colour, before: Colour, pens: Pens) -> char {
    match (letter(own), before != OFF) {
        ('.', true) => '+',
        ('.', false) if !pens.ascii => '\u{b7}',
        (letter, _) => letter,
    }
}

/// Returns true if a pixel belongs to a dot, which takes all of its square but the last column and row.
fn is_round_at((x, y): (u16, u16), pitch: u16) -> bool {
    let side = f32::from(pitch - 1);
    let off = |at: u16| f32::from(at) + 0.5 - side / 2.0;
    // A little more than the circle that just fits, whose edge would look bitten.
    x < pitch - 1 && y < pitch - 1 && off(x).hypot(off(y)) <= side / 2.0 + 0.15
}

/// The bits in which bytes differ, most of them one: the place of the byte, and the bit.
fn bits_between(one: &[u8], other: &[u8]) -> Vec<(usize, u32)> {
    let differences = one.iter().zip(other).enumerate().map(|(place, (one, other))| (place, one ^ other));
    differences
        .flat_map(|(place, bits)| (0..8).filter(move |bit| bits >> bit & 1 == 1).map(move |bit| (place, bit)))
        .collect()
}

/// Rows of as many bytes as there is room for, eight where there is, the place of the first before each; where there are more rows
/// than lines, those about the marked byte.
fn draw_bytes(bytes: &[u8], marked: &[usize], area: Rect, buffer: &mut Buffer) {
    const PLACE: u16 = 7;
    let fit = usize::from(area.width.saturating_sub(PLACE) / 3).max(1);
    // Eights, so that a byte is found by its place.
    let in_row = if fit >= 8 { fit / 8 * 8 } else { fit };
    let rows = bytes.len().div_ceil(in_row);
    let lines = usize::from(area.height);
    let wanted = marked.first().map_or(0, |byte| byte / in_row);
    let first = wanted.saturating_sub(lines / 2).min(rows.saturating_sub(lines));
    for (row, y) in (first..rows).zip(0..area.height) {
        let begin = row * in_row;
        write(buffer, area, (0, y), &format!("{begin:5}"), Style::new().add_modifier(Modifier::DIM));
        for (place, byte) in bytes.iter().enumerate().skip(begin).take(in_row) {
            let style = if marked.contains(&place) {
                Style::new().add_modifier(Modifier::REVERSED)
            } else {
                Style::new()
            };
            let at = PLACE + 3 * (place - begin) as u16;
            write(buffer, area, (at, y), &format!("{byte:02X}"), style);
        }
    }
}
