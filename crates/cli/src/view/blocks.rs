//! The picture on a colour terminal: the scene sampled into half-height blocks, two pixels a character.

use std::fmt::Write;

use spare_tile_core::board::picture::Picture;
use spare_tile_core::face::Colour;

use super::colour::{self, LENS, Rgb};
use super::scene::{self, Scene};
use crate::session::Depth;

/// Pixels to a digit's height, from the finest that is drawn to the coarsest that can be read.
const FINEST: usize = 18;
const COARSEST: usize = 12;
/// Samples along each side of a pixel.
const SAMPLES: usize = 4;

/// Draws the face as large as the columns allow, in several rows of digits where one does not fit.
pub fn draw(picture: &Picture<'_>, depth: Depth, columns: usize) -> String {
    let width = scene::of(picture).width;
    if picture.face.dots().is_some() {
        // A dot takes whole pixels, as many as fit.
        let whole = |pixels: usize| (pixels as f32 * scene::DIGIT_HEIGHT / scene::DOT_PITCH).round() as usize;
        let fits = |pixels: &usize| self::pixels(width, whole(*pixels)) <= columns;
        let each = (1..=4).rev().find(fits).unwrap_or(1);
        return paint(&scene::of(picture), whole(each), picture, depth);
    }
    let fits = |height: &usize| pixels(width, *height) <= columns;
    let (height, digits) = match (COARSEST..=FINEST).rev().find(fits) {
        Some(height) => (height, picture.face.digits()),
        None => {
            let pitch = scene::pitch(picture.face.style()) * COARSEST as f32 / scene::DIGIT_HEIGHT;
            (COARSEST, ((columns as f32 / pitch) as usize).saturating_sub(1).max(1))
        }
    };
    let rows = (0..picture.face.digits()).step_by(digits);
    let rows = rows.map(|first| paint(&scene::of_digits(picture, first, digits), height, picture, depth));
    rows.collect::<Vec<_>>().join("\n")
}

/// How many pixels a length takes when a digit is `height` pixels high.
pub fn pixels(length: f32, height: usize) -> usize {
    (length * height as f32 / scene::DIGIT_HEIGHT).ceil() as usize
}

fn paint(scene: &Scene, height: usize, picture: &Picture<'_>, depth: Depth) -> String {
    let (columns, lines) = (pixels(scene.width, height), pixels(scene.height, height).next_multiple_of(2));
    let canvas = sample(scene, (columns, lines), height, picture.face.light.colour);
    let mut text = String::new();
    for pair in canvas.chunks_exact(2 * columns) {
        let (upper, lower) = pair.split_at(columns);
        let mut pen = None;
        for (upper, lower) in upper.iter().zip(lower) {
            let colours = (*upper, *lower);
            if pen.replace(colours) != Some(colours) {
                text.push_str(&escape(38, *upper, depth));
                text.push_str(&escape(48, *lower, depth));
            }
            text.push('\u{2580}');
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
        Depth::True => write!(escape, "\u{1b}[{ground};2;{};{};{}m", colour.0, colour.1, colour.2),
        _ => write!(escape, "\u{1b}[{ground};5;{}m", colour.indexed()),
    };
    escape
}
