//! Coloured pictures on dots.

use super::Canvas;
use crate::dots::raster::{OFF, Raster};

/// Puts a picture on a canvas, its upper left corner at a place that may lie beyond the canvas. Its dark dots leave what is
/// there.
pub fn place(canvas: &mut Canvas<'_>, raster: &Raster, (left, top): (isize, isize)) {
    let (columns, rows) = canvas.in_sight((raster.width(), raster.height()), (left, top));
    for y in rows {
        for x in columns.clone() {
            let colour = raster.get(x, y);
            if colour != OFF {
                canvas.set_colour((left + x as isize) as usize, (top + y as isize) as usize, colour);
            }
        }
    }
}
