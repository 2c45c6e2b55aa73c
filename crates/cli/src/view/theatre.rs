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
/// A dot takes so many pixels for each of a digit's height, at least one; where there is room for it, three times as many.
const DOT_SHARE: usize = 10;
const MOST_DOT_SHARE: usize = 3;
/// A dot of so many pixels or less fills its place: with the dark between it would be dim.
const SMALL_DOT: usize = 2;
/// Columns between two faces side by side.
const GAP: usize = 2;

/// How large faces are drawn.
#[derive(Clone, Copy)]
struct Size {
    /// Pixels to a digit's height.
    digit: usize,
    /// Pixels to a dot.
    dot: usize,
}

/// A part of a face, laid out.
struct Piece {
    scene: Scene,
    /// Pixels to a digit's height.
    height: usize,
    columns: usize,
    lines: usize,
}

/// A face in its place: under its name one piece, or of digits that are too many for a row several.
struct Block<'p> {
    picture: &'p Picture<'p>,
    pieces: Vec<Piece>,
    left: usize,
    top: usize,
}

impl Piece {
    fn of(scene: Scene, height: usize) -> Self {
        let columns = blocks::pixels(scene.width, height);
        let lines = blocks::pixels(scene.height, height).div_ceil(2);
        Self { scene, height, columns, lines }
    }
}

impl<'p> Block<'p> {
    fn of(picture: &'p Picture<'p>, size: Size, columns: usize) -> Self {
        Self { picture, pieces: pieces(picture, size, columns), left: 0, top: 0 }
    }

    fn columns(&self) -> usize {
        self.pieces.iter().map(|piece| piece.columns).max().unwrap_or(0).max(self.picture.face.name.len())
    }

    /// With one for the name.
    fn lines(&self) -> usize {
        1 + self.pieces.iter().map(|piece| piece.lines).sum::<usize>()
    }
}

fn pieces(picture: &Picture<'_>, size: Size, columns: usize) -> Vec<Piece> {
    if picture.face.dots().is_some() {
        let height = (size.dot as f32 * scene::DIGIT_HEIGHT / scene::DOT_PITCH).round() as usize;
        let mut scene = scene::of(picture);
        if size.dot <= SMALL_DOT {
            scene.in_whole_dots();
        }
        return vec![Piece::of(scene, height)];
    }
    let whole = Piece::of(scene::of(picture), size.digit);
    if whole.columns <= columns || size.digit > SMALLEST {
        return vec![whole];
    }
    let pitch = scene::pitch(picture.face.style()) * size.digit as f32 / scene::DIGIT_HEIGHT;
    let in_row = ((columns as f32 / pitch) as usize).saturating_sub(1).max(1);
    let firsts = (0..picture.face.digits()).step_by(in_row);
    firsts.map(|first| Piece::of(scene::of_digits(picture, first, in_row), size.digit)).collect()
}

/// The faces side by side as far as there is room, in their order, row below row; how many lines that takes.
fn lay_out<'p>(pictures: &'p [Picture<'p>], size: Size, columns: usize) -> (Vec<Block<'p>>, usize) {
    let mut blocks: Vec<Block<'p>> =
        pictures.iter().map(|picture| Block::of(picture, size, columns)).collect();
    let (mut left, mut top, mut row) = (0, 0, 0);
    for block in &mut blocks {
        if left > 0 && left + block.columns() > columns {
            (left, top, row) = (0, top + row, 0);
        }
        (block.left, block.top) = (left, top);
        left += block.columns() + GAP;
        row = row.max(block.lines());
    }
    (blocks, top + row)
}

/// The largest size at which everything fits.
fn best_size(pictures: &[Picture<'_>], columns: usize, lines: usize) -> Size {
    let fits = |size: &Size| {
        let (blocks, taken) = lay_out(pictures, *size, columns);
        taken <= lines && blocks.iter().all(|block| block.columns() <= columns)
    };
    let of_digits = |digit: usize| Size { digit, dot: (digit / DOT_SHARE).max(1) };
    let best = (SMALLEST..=LARGEST).rev().map(of_digits).find(fits).unwrap_or(of_digits(SMALLEST));
    let larger = (best.dot + 1..=MOST_DOT_SHARE * best.dot).rev().map(|dot| Size { dot, ..best });
    larger.into_iter().find(fits).unwrap_or(best)
}

/// Draws the faces. What there is no room for is cut off at the foot: the names of those faces.
pub fn draw<'p>(pictures: &'p [Picture<'p>], area: Rect, buffer: &mut Buffer, pens: Pens) -> Vec<&'p str> {
    if !pens.has_colours() {
        return print(pictures, area, buffer, pens);
    }
    let columns = usize::from(area.width);
    let size = best_size(pictures, columns, usize::from(area.height));
    let (blocks, _) = lay_out(pictures, size, columns);
    for block in &blocks {
        let (left, mut top) = (block.left as u16, block.top as u16);
        write(buffer, area, (left, top), &block.picture.face.name, name_style());
        top += 1;
        for piece in &block.pieces {
            paint(block.picture, piece, (left, top), area, buffer, pens);
            top = top.saturating_add(piece.lines as u16);
        }
    }
    let is_cut = |block: &&Block<'p>| block.top + block.lines() > usize::from(area.height);
    blocks.iter().filter(is_cut).map(|block| block.picture.face.name.as_str()).collect()
}

/// As pixels, from a place of the area on.
fn paint(
    picture: &Picture<'_>,
    piece: &Piece,
    (left, top): (u16, u16),
    area: Rect,
    buffer: &mut Buffer,
    pens: Pens,
) {
    let size = (piece.columns, 2 * piece.lines);
    let pixels = blocks::sample(&piece.scene, size, piece.height, picture.face.light.colour);
    let (left, top) = (left.min(area.width), top.min(area.height));
    let (width, height) = (area.width - left, area.height - top);
    let area = Rect { x: area.x + left, y: area.y + top, width, height };
    paint_pixels(&pixels, piece.columns, area, buffer, pens);
}

/// With characters, where there is no colour.
fn print<'p>(pictures: &'p [Picture<'p>], area: Rect, buffer: &mut Buffer, pens: Pens) -> Vec<&'p str> {
    let strokes = if pens.ascii { lines::ASCII } else { lines::UNICODE };
    let (mut y, mut cut) = (0, Vec::new());
    for picture in pictures {
        write(buffer, area, (0, y), &picture.face.name, name_style());
        for line in lines::draw(picture, strokes, usize::from(area.width)).lines() {
            y += 1;
            write(buffer, area, (0, y), line, Style::new());
        }
        y += 1;
        if y > area.height {
            cut.push(picture.face.name.as_str());
        }
    }
    cut
}

fn name_style() -> Style {
    Style::new().add_modifier(Modifier::DIM)
}
