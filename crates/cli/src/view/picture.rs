//! A picture of a face as a drawing: housing, lens, and the lights with their glow.

use spare_tile_core::board::picture::Picture;
use spare_tile_core::face::{Channels, Grid};

use super::colour::{self, HOUSING, LENS, MASK, Rgb};
use super::page::{Item, Page};
use super::scene;

/// The width of the housing around the lens.
const HOUSING_WIDTH: f32 = 10.0;
/// Light below this is not worth a glow.
const GLOW_FROM: f32 = 0.002;
/// How far the glow spreads.
const GLOW_BLUR: f32 = 6.0;

/// The whole face in one row.
pub fn draw(picture: &Picture<'_>) -> Page {
    let scene = scene::of(picture);
    let (width, height) = (scene.width + 2.0 * HOUSING_WIDTH, scene.height + 2.0 * HOUSING_WIDTH);
    let title = match picture.reading() {
        nothing if nothing.is_empty() => picture.face.name.clone(),
        reading => format!("{}: {reading}", picture.face.name),
    };
    let mut page = Page::on(Rgb(255, 255, 255), width, height, &title);
    page.block((0.0, 0.0), (width, height), 7.0, HOUSING);
    let lens = ((HOUSING_WIDTH, HOUSING_WIDTH), (scene.width, scene.height));
    let has_colours = picture.face.dots().is_some_and(|grid| grid.channels != Channels::One);
    page.block(lens.0, lens.1, 3.0, if has_colours { MASK } else { LENS });
    let shapes: Vec<_> = scene
        .shapes
        .iter()
        .map(|shape| (shape.outline.scaled(1.0, (HOUSING_WIDTH, HOUSING_WIDTH)), shape))
        .collect();
    // The light that spills over the lens, beneath the sharp shapes.
    // Where dots have several colours it is left out: they stand close, and each would tint its neighbours.
    let lit = shapes.iter().filter(|(_, shape)| shape.light > GLOW_FROM && shape.mixed.is_none());
    let spilled: Vec<_> =
        lit.map(|(outline, shape)| (outline.clone(), 0.6 * colour::lightness(shape.light))).collect();
    let of_light = picture.face.light.colour;
    if !spilled.is_empty() {
        let colour = colour::lit(of_light);
        page.items.push(Item::Glow { shapes: spilled, colour, blur: GLOW_BLUR, within: lens });
    }
    for (outline, shape) in shapes {
        page.fill(outline, shape.colour(of_light));
    }
    page.unit_mm = picture.face.pitch_mm.map(|pitch| pitch as f32 / scene::DOT_PITCH);
    page
}

/// The whole face on a ground like its housing, for a terminal.
pub fn bare(picture: &Picture<'_>) -> Page {
    Page { ground: HOUSING, ..draw(picture) }
}

/// The seams between the modules of a face of dots, over its drawing.
pub fn draw_seams(page: &mut Page, grid: Grid, (width, height): (usize, usize)) {
    const SEAM: Rgb = Rgb(96, 96, 102);
    let place = |dots: usize| HOUSING_WIDTH + scene::MARGIN + scene::DOT_PITCH * dots as f32;
    for x in (width..grid.width).step_by(width.max(1)) {
        page.line(&[(place(x), place(0)), (place(x), place(grid.height))], SEAM, 0.8);
    }
    for y in (height..grid.height).step_by(height.max(1)) {
        page.line(&[(place(0), place(y)), (place(grid.width), place(y))], SEAM, 0.8);
    }
}
