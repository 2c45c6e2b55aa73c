//! The faces of a rig on the whole screen, as large as there is room for, each under its name.

use ratatui::buffer::Buffer;
use ratatui::layout::Rect;
use ratatui::style::{Modifier, Style};
use spare_tile_core::board::picture::Picture;
use spare_tile_core::face::Face;

use super::cells::{self, Drawing};
use super::easel::{Dark, Pens, paint_pixels, write};
use super::lines;

/// Columns between two faces side by side.
const GAP: usize = 2;
/// The largest dots, in pixels.
const LARGEST_DOT: usize = 6;

/// A part of a face, laid out: all dots, or digits from the first on, so many.
struct Piece {
    /// Pixels to a digit's height, or to a dot.
    size: usize,
    first: usize,
    count: usize,
    columns: usize,
    lines: usize,
}

/// A face in its place: under its name one piece, or of digits that are too many for a row several.
struct Block {
    /// Its place among the pictures.
    face: usize,
    name: String,
    pieces: Vec<Piece>,
    left: usize,
    top: usize,
}

/// Where each face is on the screen, and how large.
pub struct Plan {
    blocks: Vec<Block>,
    /// The lines that all of them take.
    lines: usize,
}

impl Piece {
    fn of(face: &Face, size: usize, first: usize, count: usize) -> Self {
        let (columns, rows) = match face.dots() {
            Some(grid) => cells::size_of_dots(grid, size),
            None => cells::size_of_digits(face, size, first, count),
        };
        Self { size, first, count, columns, lines: rows.div_ceil(2) }
    }

    fn draw(&self, picture: &Picture<'_>, dark: Dark) -> Drawing {
        match picture.face.dots() {
            Some(grid) => cells::dots(picture, grid, self.size, dark),
            None => cells::digits(picture, self.size, (self.first, self.count), dark),
        }
    }
}

impl Block {
    fn of(face: usize, of: &Face, size: usize, columns: usize) -> Self {
        Self { face, name: of.name.clone(), pieces: pieces(of, size, columns), left: 0, top: 0 }
    }

    fn columns(&self) -> usize {
        self.pieces.iter().map(|piece| piece.columns).max().unwrap_or(0).max(self.name.len())
    }

    /// With one for the name.
    fn lines(&self) -> usize {
        1 + self.pieces.iter().map(|piece| piece.lines).sum::<usize>()
    }
}

/// One piece, or several for digits that are too many for a row even at the smallest size.
fn pieces(face: &Face, size: usize, columns: usize) -> Vec<Piece> {
    let whole = Piece::of(face, size, 0, face.digits());
    if whole.columns <= columns || face.dots().is_some() || size > cells::SMALLEST {
        return vec![whole];
    }
    let in_row = cells::digits_in_row(face, size, columns);
    (0..face.digits()).step_by(in_row).map(|first| Piece::of(face, size, first, in_row)).collect()
}

/// The sizes of a face, from the smallest on.
fn sizes(face: &Face) -> Vec<usize> {
    let mut sizes: Vec<_> =
        if face.dots().is_some() { (1..=LARGEST_DOT).rev().collect() } else { cells::heights().collect() };
    sizes.reverse();
    sizes
}

impl Plan {
    /// Finds a place for each face: as large as fits, the smallest first to grow. Faces that do not fit at all are cut off at the foot.
    #[must_use]
    pub fn of(faces: &[&Face], columns: usize, lines: usize) -> Self {
        let sizes: Vec<_> = faces.iter().map(|face| sizes(face)).collect();
        // The step of each face among its sizes.
        let mut steps = vec![0; faces.len()];
        let plan = |steps: &[usize]| {
            let sized = steps.iter().zip(&sizes).map(|(step, sizes)| sizes[*step]);
            Self::sized(faces, &sized.collect::<Vec<_>>(), columns, lines)
        };
        let mut best = plan(&steps);
        if !best.fits(columns, lines) {
            return best;
        }
        loop {
            let mut order: Vec<_> = (0..faces.len()).collect();
            order.sort_by_key(|face| best.lines_of(*face));
            let larger = order.into_iter().find_map(|face| {
                let mut larger = steps.clone();
                larger[face] += 1;
                let plan = (larger[face] < sizes[face].len()).then(|| plan(&larger))?;
                plan.fits(columns, lines).then_some((larger, plan))
            });
            match larger {
                Some(larger) => (steps, best) = larger,
                None => return best,
            }
        }
    }

    /// Faces of these sizes: side by side in their order as far as there is room, or if that takes too many lines, as they fit best.
    fn sized(faces: &[&Face], sizes: &[usize], columns: usize, lines: usize) -> Self {
        let blocks = || {
            let sized = faces.iter().zip(sizes).enumerate();
            sized.map(|(place, (face, size))| Block::of(place, face, *size, columns)).collect::<Vec<_>>()
        };
        let in_order = Self::in_rows(rows_in_order(blocks(), columns));
        if in_order.lines <= lines { in_order } else { Self::in_rows(rows_that_fit(blocks(), columns)) }
    }

    fn in_rows(rows: Vec<Vec<Block>>) -> Self {
        let (mut top, mut all) = (0, Vec::new());
        for row in rows {
            let lines = row.iter().map(Block::lines).max().unwrap_or(0);
            let mut left = 0;
            for block in row {
                let next = left + block.columns() + GAP;
                all.push(Block { left, top, ..block });
                left = next;
            }
            top += lines;
        }
        Self { blocks: all, lines: top }
    }

    fn fits(&self, columns: usize, lines: usize) -> bool {
        self.lines <= lines && self.blocks.iter().all(|block| block.columns() <= columns)
    }

    fn lines_of(&self, face: usize) -> usize {
        self.blocks.iter().find(|block| block.face == face).map_or(0, Block::lines)
    }

    /// Draws the faces. Returns the names of those that are cut off.
    pub fn draw(&self, pictures: &[Picture<'_>], area: Rect, buffer: &mut Buffer, pens: Pens) -> Vec<String> {
        if !pens.has_colours() {
            return print(pictures, area, buffer, pens);
        }
        for block in &self.blocks {
            let Some(picture) = pictures.get(block.face) else { continue };
            let (left, mut top) = (block.left as u16, block.top as u16);
            write(buffer, area, (left, top), &block.name, name_style());
            top += 1;
            for piece in &block.pieces {
                paint(&piece.draw(picture, pens.dark), (left, top), area, buffer, pens);
                top = top.saturating_add(piece.lines as u16);
            }
        }
        let is_cut = |block: &&Block| block.top + block.lines() > usize::from(area.height);
        self.blocks.iter().filter(is_cut).map(|block| block.name.clone()).collect()
    }
}

/// Rows of faces in their order.
fn rows_in_order(blocks: Vec<Block>, columns: usize) -> Vec<Vec<Block>> {
    let mut rows: Vec<Vec<Block>> = Vec::new();
    for block in blocks {
        match rows.last_mut() {
            Some(row) if width_of(row) + GAP + block.columns() <= columns => row.push(block),
            _ => rows.push(vec![block]),
        }
    }
    rows
}

/// Rows of faces, each in the first row with room for it, the widest first. Rows, and faces in them, keep their order.
fn rows_that_fit(mut blocks: Vec<Block>, columns: usize) -> Vec<Vec<Block>> {
    blocks.sort_by_key(|block| std::cmp::Reverse(block.columns()));
    let mut rows: Vec<Vec<Block>> = Vec::new();
    for block in blocks {
        match rows.iter_mut().find(|row| width_of(row) + GAP + block.columns() <= columns) {
            Some(row) => row.push(block),
            None => rows.push(vec![block]),
        }
    }
    for row in &mut rows {
        row.sort_by_key(|block| block.face);
    }
    rows.sort_by_key(|row| row.first().map(|block| block.face));
    rows
}

fn width_of(row: &[Block]) -> usize {
    row.iter().map(|block| block.columns() + GAP).sum::<usize>().saturating_sub(GAP)
}

/// Paints a drawing from a place of the area on.
fn paint(drawing: &Drawing, (left, top): (u16, u16), area: Rect, buffer: &mut Buffer, pens: Pens) {
    let (left, top) = (left.min(area.width), top.min(area.height));
    let (width, height) = (area.width - left, area.height - top);
    let area = Rect { x: area.x + left, y: area.y + top, width, height };
    paint_pixels(&drawing.pixels, drawing.columns, area, buffer, pens);
}

/// With characters, where there is no colour.
fn print(pictures: &[Picture<'_>], area: Rect, buffer: &mut Buffer, pens: Pens) -> Vec<String> {
    let strokes = lines::Pens::for_terminal(pens);
    let (mut y, mut cut) = (0, Vec::new());
    for picture in pictures {
        write(buffer, area, (0, y), &picture.face.name, name_style());
        for line in lines::draw(picture, strokes, usize::from(area.width)).lines() {
            y += 1;
            write(buffer, area, (0, y), line, Style::new());
        }
        y += 1;
        if y > area.height {
            cut.push(picture.face.name.clone());
        }
    }
    cut
}

fn name_style() -> Style {
    Style::new().add_modifier(Modifier::DIM)
}
