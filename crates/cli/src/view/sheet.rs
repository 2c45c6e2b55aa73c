//! A contact sheet: the pictures of a face side by side, each with its time.

use std::time::Duration;

use spare_tile_core::board::picture::Picture;
use spare_tile_core::face::{Channels, Colour};

use super::colour::{LENS, MASK, Rgb};
use super::label::Anchor;
use super::page::Page;
use super::scene::{self, Shape};

/// The pictures of some faces at one moment, below one another.
pub struct Still {
    /// When it is seen first.
    at: Duration,
    pictures: Vec<Shapes>,
}

/// A picture of it: its shapes, and the colour of the face.
struct Shapes {
    shapes: Vec<Shape>,
    colour: Colour,
    ground: Rgb,
    size: (f32, f32),
}

/// How wide the sheet is at most, and each picture.
const WIDTH: f32 = 1280.0;
const MOST_WIDTH: f32 = 600.0;
/// Between stills and around them, between the faces of one, and the line for the time.
const GAP: f32 = 16.0;
const BETWEEN: f32 = 4.0;
const LABEL: f32 = 22.0;
const LABEL_HEIGHT: f32 = 11.0;
const INK: Rgb = Rgb(60, 60, 66);

impl Still {
    /// The picture from a moment on.
    pub fn of(pictures: &[&Picture<'_>], at: Duration) -> Self {
        Self { at, pictures: pictures.iter().map(|picture| Shapes::of(picture)).collect() }
    }

    fn size(&self) -> (f32, f32) {
        let gaps = BETWEEN * self.pictures.len().saturating_sub(1) as f32;
        self.pictures.iter().fold((1.0, gaps), |(width, height), picture| {
            (f32::max(width, picture.size.0), height + picture.size.1)
        })
    }
}

impl Shapes {
    fn of(picture: &Picture<'_>) -> Self {
        let scene = scene::of(picture);
        let has_colours = picture.face.dots().is_some_and(|grid| grid.channels != Channels::One);
        Self {
            shapes: scene.shapes,
            colour: picture.face.light.colour,
            ground: if has_colours { MASK } else { LENS },
            size: (scene.width, scene.height),
        }
    }
}

/// Lays them out row by row.
pub fn draw(stills: &[Still], title: &str) -> Page {
    let (width, height) = stills.first().map_or((1.0, 1.0), Still::size);
    let scale = (MOST_WIDTH / width).min(1.0);
    let (cell_width, cell_height) = (width * scale, height * scale);
    let in_row = (((WIDTH - GAP) / (cell_width + GAP)) as usize).clamp(1, stills.len().max(1));
    let rows = stills.len().div_ceil(in_row);
    let mut page = Page::on(
        Rgb(255, 255, 255),
        GAP + in_row as f32 * (cell_width + GAP),
        GAP + rows as f32 * (cell_height + LABEL + GAP),
        title,
    );
    for (place, still) in stills.iter().enumerate() {
        let x = GAP + (place % in_row) as f32 * (cell_width + GAP);
        let y = GAP + (place / in_row) as f32 * (cell_height + LABEL + GAP);
        let mut top = y;
        for picture in &still.pictures {
            let (width, height) = (picture.size.0 * scale, picture.size.1 * scale);
            page.block((x, top), (width, height), 3.0, picture.ground);
            for shape in &picture.shapes {
                page.fill(shape.outline.scaled(scale, (x, top)), shape.colour(picture.colour));
            }
            top += height + BETWEEN * scale;
        }
        let time = format!("{:.3} s", still.at.as_secs_f64());
        page.text(&time, (x, y + cell_height + LABEL - 6.0), LABEL_HEIGHT, Anchor::Left, INK);
    }
    page
}
