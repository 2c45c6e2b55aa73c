//! Pictures with colours: a dot is off, or has a colour.

use std::time::Duration;

use super::inked::Inked;
use super::places;

/// A colour: red, green and blue.
pub type Colour = [u8; 3];

/// Nothing lit.
pub const OFF: Colour = [0; 3];

/// A rectangle of coloured dots.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Raster {
    width: usize,
    height: usize,
    dots: Vec<Colour>,
}

/// How two pictures are put together, channel by channel and bit by bit.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
#[allow(missing_docs, reason = "the words say it")]
pub enum Combine {
    Or,
    And,
    Xor,
    /// The first where the second is lit.
    Mask,
}

impl From<&Inked> for Raster {
    fn from(inked: &Inked) -> Self {
        let mut raster = Self::dark(inked.width(), inked.height());
        for (colour, bitmap) in inked.layers() {
            bitmap.lit().for_each(|(x, y)| raster.set(x, y, colour));
        }
        raster
    }
}

impl Raster {
    /// A dark one.
    #[must_use]
    pub fn dark(width: usize, height: usize) -> Self {
        Self { width, height, dots: vec![OFF; width * height] }
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

    /// The colours of all its dots, row by row from the left.
    pub fn colours(&self) -> impl Iterator<Item = Colour> + '_ {
        self.dots.iter().copied()
    }

    /// Returns true if it has dots that are neither dark nor white nor grey.
    #[must_use]
    pub fn has_colours(&self) -> bool {
        self.colours().any(|[red, green, blue]| red != green || green != blue)
    }

    /// A dot; beyond the edges all are dark.
    #[must_use]
    pub fn get(&self, x: usize, y: usize) -> Colour {
        if x < self.width && y < self.height { self.dots[y * self.width + x] } else { OFF }
    }

    /// Gives a dot a colour; one beyond the edges is left out.
    pub fn set(&mut self, x: usize, y: usize, colour: Colour) {
        if x < self.width && y < self.height {
            self.dots[y * self.width + x] = colour;
        }
    }

    /// A picture of the same or another size, each dot taken from a place of this one.
    fn taken(&self, width: usize, height: usize, from: impl Fn(usize, usize) -> Colour) -> Self {
        let dots = places(width, height).map(|(x, y)| from(x, y));
        Self { width, height, dots: dots.collect() }
    }

    /// Left and right exchanged.
    #[must_use]
    pub fn mirrored(&self) -> Self {
        self.taken(self.width, self.height, |x, y| self.get(self.width - 1 - x, y))
    }

    /// Top and bottom exchanged.
    #[must_use]
    pub fn upended(&self) -> Self {
        self.taken(self.width, self.height, |x, y| self.get(x, self.height - 1 - y))
    }

    /// Turns it clockwise by a number of quarters.
    #[must_use]
    pub fn turned(&self, quarters: u32) -> Self {
        let (width, height) = (self.width, self.height);
        match quarters % 4 {
            0 => self.clone(),
            1 => self.taken(height, width, |x, y| self.get(y, height - 1 - x)),
            2 => self.taken(width, height, |x, y| self.get(width - 1 - x, height - 1 - y)),
            _ => self.taken(height, width, |x, y| self.get(width - 1 - y, x)),
        }
    }

    /// Inverts it: dark dots are lit and lit ones dark, each channel by itself.
    #[must_use]
    pub fn inverted(&self) -> Self {
        self.taken(self.width, self.height, |x, y| self.get(x, y).map(|level| 255 - level))
    }

    /// Moved to the right and down; what leaves at one edge comes in at the other, or is lost.
    #[must_use]
    pub fn shifted(&self, right: isize, down: isize, wraps: bool) -> Self {
        let place = |at: usize, by: isize, size: usize| {
            let from = at as isize - by;
            if wraps {
                Some(from.rem_euclid(size as isize) as usize)
            } else {
                usize::try_from(from).ok().filter(|from| *from < size)
            }
        };
        self.taken(self.width, self.height, |x, y| {
            match (place(x, right, self.width), place(y, down, self.height)) {
                (Some(x), Some(y)) => self.get(x, y),
                _ => OFF,
            }
        })
    }

    /// Put together with another, whose upper left corner is at the same place; beyond it that one is dark.
    #[must_use]
    pub fn combined(&self, other: &Self, how: Combine) -> Self {
        self.taken(self.width, self.height, |x, y| {
            let (own, theirs) = (self.get(x, y), other.get(x, y));
            let bits = |of: fn(u8, u8) -> u8| [0, 1, 2].map(|channel| of(own[channel], theirs[channel]));
            match how {
                Combine::Or => bits(|a, b| a | b),
                Combine::And => bits(|a, b| a & b),
                Combine::Xor => bits(|a, b| a ^ b),
                Combine::Mask if theirs == OFF => OFF,
                Combine::Mask => own,
            }
        })
    }
}

/// A picture that is seen for some time.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Shot {
    /// Its name.
    pub name: Option<String>,
    /// How long it stays.
    pub stays: Duration,
    /// The picture.
    pub raster: Raster,
    /// The remarks in its file, line by line.
    pub remarks: Vec<String>,
}

impl Shot {
    /// A picture without a name.
    #[must_use]
    pub const fn of(raster: Raster, stays: Duration) -> Self {
        Self { name: None, stays, raster, remarks: Vec::new() }
    }

    /// The same with another picture.
    #[must_use]
    pub fn showing(&self, raster: Raster) -> Self {
        Self { name: self.name.clone(), stays: self.stays, raster, remarks: self.remarks.clone() }
    }
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;

    use super::*;

    /// Any picture up to 6x5, of a few colours.
    fn rasters() -> impl Strategy<Value = Raster> {
        (1..7_usize, 1..6_usize, any::<u64>()).prop_map(|(width, height, seed)| {
            let mut raster = Raster::dark(width, height);
            for y in 0..height {
                for x in 0..width {
                    let bits = seed.rotate_left((5 * x + 17 * y) as u32);
                    raster.set(x, y, [0, 1, 2].map(|channel| if bits >> channel & 1 == 1 { 255 } else { 0 }));
                }
            }
            raster
        })
    }

    proptest! {
        #[test]
        fn what_is_turned_back_is_as_it_was(raster in rasters(), quarters in 0..8_u32, right in -9..9_isize, down in -9..9_isize) {
            prop_assert_eq!(&raster.turned(quarters).turned(4 - quarters % 4), &raster);
            prop_assert_eq!(&raster.turned(1).turned(1), &raster.turned(2));
            prop_assert_eq!(&raster.mirrored().mirrored(), &raster);
            prop_assert_eq!(&raster.upended().upended(), &raster);
            prop_assert_eq!(&raster.mirrored().upended(), &raster.turned(2));
            prop_assert_eq!(&raster.inverted().inverted(), &raster);
            prop_assert_eq!(&raster.shifted(right, down, true).shifted(-right, -down, true), &raster);
        }

        #[test]
        fn pictures_together(a in rasters(), b in rasters()) {
            prop_assert_eq!(a.combined(&a, Combine::Xor), Raster::dark(a.width(), a.height()));
            prop_assert_eq!(&a.combined(&a, Combine::Mask), &a);
            let (or, and, xor) = (a.combined(&b, Combine::Or), a.combined(&b, Combine::And), a.combined(&b, Combine::Xor));
            prop_assert_eq!(xor.combined(&and, Combine::Or), or);
        }
    }

    #[test]
    fn a_quarter_is_clockwise_and_a_shift_goes_right_and_down() {
        let mut corner = Raster::dark(3, 2);
        corner.set(0, 0, [255; 3]);
        let lit = |raster: &Raster| -> Vec<(usize, usize)> {
            let dots = (0..raster.height()).flat_map(|y| (0..raster.width()).map(move |x| (x, y)));
            dots.filter(|(x, y)| raster.get(*x, *y) != OFF).collect()
        };
        assert_eq!(lit(&corner.turned(1)), [(1, 0)]);
        assert_eq!((corner.turned(1).width(), corner.turned(1).height()), (2, 3));
        assert_eq!(lit(&corner.turned(3)), [(0, 2)]);
        assert_eq!(lit(&corner.shifted(2, 1, false)), [(2, 1)]);
        assert_eq!(lit(&corner.shifted(-1, 0, false)), []);
        assert_eq!(lit(&corner.shifted(-1, 0, true)), [(2, 0)]);
    }
}
