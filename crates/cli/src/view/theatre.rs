//! The faces of a rig on the whole screen, as large as there is room for, each under its name.

use ratatui::buffer::Buffer;
use ratatui::layout::Rect;
use ratatui::style::{Modifier, Style};
use spare_tile_core::board::picture::Picture;

use super::easel::{Pens, paint_pixels, write};
use super::scene::{self, Scene};
use super::{blocks, lines};

/// Pixels to a digit's height, from the largest that is of use to the smallest that can be read.
const LARGEST: usize = 48;
const SMALLEST: usize = 10;
/// A dot takes so many pixels for each of a digit's height, at least one.
const DOT_SHARE: usize = 10;

/// A part of a face, laid out.
struct Piece {
    scene: Scene,
    /// Pixels to a digit's height.
    height: usize,
    columns: usize,
    lines: usize,
}

impl Piece {
    fn of(scene: Scene, height: usize) -> Self {
        let columns = blocks::pixels(scene.width, height);
        let lines = blocks::pixels(scene.height, height).div_ceil(2);
        Self { scene, height, columns, lines }
    }
}

/// The pieces of a face at a size: one, or of digits that are too many for a row several.
fn pieces(picture: &Picture<'_>, size: usize, columns: usize) -> Vec<Piece> {
    if picture.face.dots().is_some() {
        let pixels = (size / DOT_SHARE).max(1);
        let height = (pixels as f32 * scene::DIGIT_HEIGHT / scene::DOT_PITCH).round() as usize;
        return vec![Piece::of(scene::of(picture), height)];
    }
    let whole = Piece::of(scene::of(picture), size);
    if whole.columns <= columns || size > SMALLEST {
        return vec![whole];
    }
    let pitch = scene::pitch(picture.face.style()) * size as f32 / scene::DIGIT_HEIGHT;
    let in_row = ((columns as f32 / pitch) as usize).saturating_sub(1).max(1);
    let firsts = (0..picture.face.digits()).step_by(in_row);
    firsts.map(|first| Piece::of(scene::of_digits(picture, first, in_row), size)).collect()
}

/// Draws the faces. What there is no room for is cut off at the foot.
pub fn draw(pictures: &[Picture<'_>], area: Rect, buffer: &mut Buffer, pens: Pens) {
    if !pens.has_colours() {
        return print(pictures, area, buffer, pens);
    }
    let columns = usize::from(area.width);
    let laid_out = |size: usize| -> Vec<Vec<Piece>> {
        pictures.iter().map(|picture| pieces(picture, size, columns)).collect()
    };
    let fits = |size: &usize| {
        let faces = laid_out(*size);
        let pieces = || faces.iter().flatten();
        // Each face has a line for its name.
        let lines = faces.len() + pieces().map(|piece| piece.lines).sum::<usize>();
        lines <= usize::from(area.height) && pieces().all(|piece| piece.columns <= columns)
    };
    let size = (SMALLEST..=LARGEST).rev().find(fits).unwrap_or(SMALLEST);
    let mut y = 0;
    for (picture, pieces) in pictures.iter().zip(laid_out(size)) {
        write(buffer, area, (0, y), &picture.face.name, name_style());
        y += 1;
        for piece in pieces {
            paint(picture, &piece, y, area, buffer, pens);
            y = y.saturating_add(piece.lines as u16);
        }
    }
}

/// As pixels, from a line of the area on.
fn paint(picture: &Picture<'_>, piece: &Piece, top: u16, area: Rect, buffer: &mut Buffer, pens: Pens) {
    let size = (piece.columns, 2 * piece.lines);
    let pixels = blocks::sample(&piece.scene, size, piece.height, picture.face.light.colour);
    let top = top.min(area.height);
    let area = Rect { y: area.y + top, height: area.height - top, ..area };
    paint_pixels(&pixels, piece.columns, area, buffer, pens);
}

/// With characters, where there is no colour.
fn print(pictures: &[Picture<'_>], area: Rect, buffer: &mut Buffer, pens: Pens) {
    let strokes = if pens.ascii { lines::ASCII } else { lines::UNICODE };
    let mut y = 0;
    for picture in pictures {
        write(buffer, area, (0, y), &picture.face.name, name_style());
        for line in lines::draw(picture, strokes, usize::from(area.width)).lines() {
            y += 1;
            write(buffer, area, (0, y), line, Style::new());
        }
        y += 1;
    }
}

fn name_style() -> Style {
    Style::new().add_modifier(Modifier::DIM)
}
