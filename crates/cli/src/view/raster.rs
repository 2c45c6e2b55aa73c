//! PNG, rasterised from the SVG.

use resvg::{tiny_skia, usvg};

/// How many pixels a unit of the drawing takes, where the picture stays within [`MAX_SIDE`].
const SCALE: f32 = 2.0;
/// The longest side of a PNG in pixels.
const MAX_SIDE: f32 = 2400.0;

/// A PNG of an SVG drawing.
///
/// # Errors
/// When the drawing cannot be read or is too large for memory, in words.
pub fn png(svg: &str) -> Result<Vec<u8>, String> {
    let tree = usvg::Tree::from_str(svg, &usvg::Options::default())
        .map_err(|error| format!("cannot read the drawing: {error}"))?;
    let size = tree.size();
    let scale = SCALE.min(MAX_SIDE / size.width().max(size.height()));
    let pixels = |length: f32| ((length * scale).ceil() as u32).max(1);
    let mut canvas = tiny_skia::Pixmap::new(pixels(size.width()), pixels(size.height()))
        .ok_or("the drawing is too large for a PNG")?;
    resvg::render(&tree, tiny_skia::Transform::from_scale(scale, scale), &mut canvas.as_mut());
    canvas.encode_png().map_err(|error| format!("cannot form the PNG: {error}"))
}
