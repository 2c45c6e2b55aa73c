//! Coloured pictures on dots.

use super::{Canvas, Region};
use crate::dots::raster::{OFF, Raster};

/// Puts a picture on a canvas, its upper left corner at a place that may lie beyond the canvas. Its dark dots leave what is
/// there.
pub fn place(canvas: &mut Canvas<'_>, raster: &Raster, (left, top): (isize, isize)) {
    let Region::Dots { width, height, .. } = canvas.region() else { return };
    for y in 0..raster.height() {
        for x in 0..raster.width() {
            let colour = raster.get(x, y);
            let (x, y) = (left + x as isize, top + y as isize);
            if let (Ok(x), Ok(y)) = (usize::try_from(x), usize::try_from(y))
                && colour != OFF
                && x < width
                && y < height
            {
                canvas.set_colour(x, y, colour);
            }
        }
    }
}
