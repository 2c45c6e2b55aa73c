//! PNG: a drawing as pixels.

use super::{Format, Still, has_mark};
use crate::view;
use crate::view::page::{MARK, Page};

/// How many pixels a unit of the drawing takes, where the picture stays within [`MAX_SIDE`].
const SCALE: f32 = 2.0;
/// The longest side of a PNG in pixels.
const MAX_SIDE: f32 = 2400.0;

/// A PNG.
pub struct Png;

impl Format for Png {
    fn wrote(&self, bytes: &[u8]) -> bool {
        bytes.starts_with(b"\x89PNG") && has_mark(bytes, MARK)
    }
}

impl Still for Png {
    fn write(&self, page: &Page) -> Result<Vec<u8>, String> {
        view::png::at_scale(page, SCALE.min(MAX_SIDE / page.width.max(page.height)))
    }
}
