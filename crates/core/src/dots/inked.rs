//! Lines of text in several colours: a bitmap for each.

use super::Bitmap;
use super::raster::Colour;

/// The colour of letters where nothing is said: every light of a dot.
pub const WHITE: Colour = [255; 3];

/// A rectangle of dots that are dark or have one of a few colours.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Inked {
    width: usize,
    height: usize,
    layers: Vec<(Colour, Bitmap)>,
}

impl Inked {
    /// A dark one.
    #[must_use]
    pub const fn dark(width: usize, height: usize) -> Self {
        Self { width, height, layers: Vec::new() }
    }

    /// How many columns it has.
    #[must_use]
    pub const fn width(&self) -> usize {
        self.width
    }

    /// How many rows it has.
    #[must_use]
    pub const fn height(&self) -> usize {
        self.height
    }

    /// The dots of each colour.
    pub fn layers(&self) -> impl Iterator<Item = (Colour, &Bitmap)> {
        self.layers.iter().map(|(colour, bitmap)| (*colour, bitmap))
    }

    /// Lights what a bitmap lights in a colour, its upper left corner at a place that may lie beyond the edges.
    pub fn ink(&mut self, bitmap: &Bitmap, colour: Colour, left: isize, top: isize) {
        let place = self.layers.iter().position(|(known, _)| *known == colour).unwrap_or_else(|| {
            self.layers.push((colour, Bitmap::dark(self.width, self.height)));
            self.layers.len() - 1
        });
        self.layers[place].1.add(bitmap, left, top);
    }

    /// Lights what another one lights, its upper left corner at a place that may lie beyond the edges.
    pub fn add(&mut self, other: &Self, left: isize, top: isize) {
        for (colour, bitmap) in other.layers() {
            self.ink(bitmap, colour, left, top);
        }
    }
}

impl From<Bitmap> for Inked {
    fn from(bitmap: Bitmap) -> Self {
        Self { width: bitmap.width(), height: bitmap.height(), layers: vec![(WHITE, bitmap)] }
    }
}
