//! The picture on a colour terminal: the scene sampled into half-height blocks, two pixels a character.

use std::fmt::Write;

use spare_tile_core::board::picture::Picture;
use spare_tile_core::face::Colour;

use super::cells::{self, Drawing};
use super::colour::{self, LENS, Rgb};
use super::easel::Pens;
use super::scene::{self, Scene};
use crate::session::Depth;

/// The largest digits that are drawn below a command, in pixels.
const LARGEST: usize = 19;
/// The largest dots.
const LARGEST_DOT: usize = 4;
/// Samples along each side of a pixel.
const SAMPLES: usize = 4;

/// Draws the face as large as the columns allow, in several rows of digits where one does not fit.
pub fn draw(picture: &Picture<'_>, pens: Pens, columns: usize) -> String {
    let face = picture.face;
    if let Some(grid) = face.dots() {
        let fits = |each: &usize| cells::size_of_dots(grid, *each).0 <= columns;
        let each = (1..=LARGEST_DOT).rev().find(fits).unwrap_or(1);
        return paint(&cells::dots(picture, grid, each, pens.dark), pens.depth);
    }
    let fits = |height: &usize| cells::size_of_digits(face, *height, 0, face.digits()).0 <= columns;
    let mut heights = cells::heights().filter(|height| *height <= LARGEST);
    let height = heights.find(fits).unwrap_or(cells::SMALLEST);
    let in_row = cells::digits_in_row(face, height, columns);
    let rows = (0..face.digits()).step_by(in_row);
    let rows =
        rows.map(|first| paint(&cells::digits(picture, height, (first, in_row), pens.dark), pens.depth));
    rows.collect::<Vec<_>>().join("\n")
}

/// How many pixels a length takes when a digit is `height` pixels high.
pub fn pixels(length: f32, height: usize) -> usize {
    (length * height as f32 / scene::DIGIT_HEIGHT).ceil() as usize
}

fn paint(Drawing { columns, pixels }: &Drawing, depth: Depth) -> String {
    let columns = *columns;
    let mut text = String::new();
    for pair in pixels.chunks_exact(2 * columns) {
        let (upper, lower) = pair.split_at(columns);
        let mut pen = None;
        for (upper, lower) in upper.iter().zip(lower) {
            let colours = (*upper, *lower);
            if pen.replace(colours) != Some(colours) {
                text.push_str(&escape(38, *lower, depth));
                text.push_str(&escape(48, *upper, depth));
            }
            text.push_str(cells::halves(upper, lower));
        }
        text.push_str("\u{1b}[0m\n");
    }
    text.pop();
    text
}

/// The colour of every pixel of a face of this colour, row by row; a digit is `height` pixels high.
pub fn sample(scene: &Scene, (columns, lines): (usize, usize), height: usize, of_face: Colour) -> Vec<Rgb> {
    let scale = scene::DIGIT_HEIGHT / height as f32;
    let mut canvas = vec![LENS; columns * lines];
    for shape in &scene.shapes {
        let colour = shape.colour(of_face);
        let (left, top, right, bottom) = shape.outline.bounds();
        let range = |from: f32, to: f32, end: usize| {
            (from / scale).floor().max(0.0) as usize..((to / scale).ceil() as usize).min(end)
        };
        for y in range(top, bottom, lines) {
            for x in range(left, right, columns) {
                let inside = |sample: usize| {
                    let at = |pixel: usize, step: usize| {
                        (pixel as f32 + (step as f32 + 0.5) / SAMPLES as f32) * scale
                    };
                    shape.outline.has((at(x, sample % SAMPLES), at(y, sample / SAMPLES)))
                };
                let covered = (0..SAMPLES * SAMPLES).filter(|sample| inside(*sample)).count();
                if covered > 0 {
                    let pixel = &mut canvas[y * columns + x];
                    *pixel = colour::mix(*pixel, colour, covered as f32 / (SAMPLES * SAMPLES) as f32);
                }
            }
        }
    }
    canvas
}

/// The escape sequence that sets the foreground (38) or background (48).
fn escape(ground: u8, colour: Rgb, depth: Depth) -> String {
    let mut escape = String::new();
    // Writing to a string cannot fail.
    let _ = match depth {
        Depth::Sixteen => {
            let index = colour.of_sixteen();
            // 30 to 37, and for the bright ones 90 to 97; a background has 10 more.
            let code = ground - 8 + if index < 8 { index } else { 60 + index - 8 };
            write!(escape, "\u{1b}[{code}m")
        }
        Depth::True => write!(escape, "\u{1b}[{ground};2;{};{};{}m", colour.0, colour.1, colour.2),
        _ => write!(escape, "\u{1b}[{ground};5;{}m", colour.indexed()),
    };
    escape
}
