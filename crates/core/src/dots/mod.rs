//! Pictures made of dots: the bitmap, and the fonts whose characters are such.
//!
//! [`font`] has the characters and lays lines of them out, [`bdf`] reads and writes the files that fonts come in, [`own`]
//! are the ones that ship with the tool. [`inked`] has lines in several colours,
//! [`raster`] pictures with colours, [`sprite`] the files of such that may move,
//! [`reduce`] brings photographs down to them.

pub mod bdf;
pub mod font;
pub mod inked;
pub mod own;
pub mod raster;
pub mod reduce;
pub mod sprite;

use std::ops::Range;

/// The columns and rows of a rectangle's dots, row by row from the left.
pub fn places(width: usize, height: usize) -> impl Iterator<Item = (usize, usize)> + Clone {
    (0..height).flat_map(move |y| (0..width).map(move |x| (x, y)))
}

/// A rectangle of dots, each lit or dark.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Bitmap {
    width: usize,
    height: usize,
    /// Row by row, each from a word of its own on; the leftmost dot is the lowest bit.
    words: Vec<u64>,
}

const BITS: usize = u64::BITS as usize;

impl Bitmap {
    /// A dark one.
    #[must_use]
    pub fn dark(width: usize, height: usize) -> Self {
        Self { width, height, words: vec![0; width.div_ceil(BITS) * height] }
    }

    /// From rows of `#` and `.`, as in a drawing; `None` where a row has another length or another character.
    #[must_use]
    pub fn of_art<'a>(rows: impl IntoIterator<Item = &'a str>) -> Option<Self> {
        let rows: Vec<_> = rows.into_iter().collect();
        let width = rows.first().map_or(0, |row| row.len());
        let mut bitmap = Self::dark(width, rows.len());
        for (y, row) in rows.iter().enumerate() {
            if row.len() != width {
                return None;
            }
            for (x, dot) in row.bytes().enumerate() {
                match dot {
                    b'#' => bitmap.set(x, y, true),
                    b'.' => {}
                    _ => return None,
                }
            }
        }
        Some(bitmap)
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

    /// Returns true if a dot is lit; beyond its edges all are dark.
    #[must_use]
    #[inline]
    pub fn get(&self, x: usize, y: usize) -> bool {
        x < self.width && y < self.height && self.words[self.word(x, y)] >> (x % BITS) & 1 == 1
    }

    /// Lights a dot or puts it out; one beyond its edges is left out.
    #[inline]
    pub fn set(&mut self, x: usize, y: usize, lit: bool) {
        if x < self.width && y < self.height {
            let word = self.word(x, y);
            let bit = 1 << (x % BITS);
            if lit {
                self.words[word] |= bit;
            } else {
                self.words[word] &= !bit;
            }
        }
    }

    const fn word(&self, x: usize, y: usize) -> usize {
        y * self.width.div_ceil(BITS) + x / BITS
    }

    /// Lights what another one lights, its upper left corner at a place that may lie beyond the edges.
    pub fn add(&mut self, other: &Self, left: isize, top: isize) {
        for (x, y) in other.lit() {
            let place = (left.checked_add_unsigned(x), top.checked_add_unsigned(y));
            if let (Some(x), Some(y)) = place
                && let (Ok(x), Ok(y)) = (usize::try_from(x), usize::try_from(y))
            {
                self.set(x, y, true);
            }
        }
    }

    /// The lit dots, row by row from the left.
    pub fn lit(&self) -> impl Iterator<Item = (usize, usize)> + '_ {
        places(self.width, self.height).filter(|(x, y)| self.get(*x, *y))
    }

    /// The lit columns of a row, from the left, within a range.
    pub fn lit_in_row(&self, y: usize, columns: Range<usize>) -> impl Iterator<Item = usize> + '_ {
        let end = if y < self.height { columns.end.min(self.width) } else { 0 };
        let words = columns.start / BITS..end.div_ceil(BITS);
        words.flat_map(move |number| {
            let begin = number * BITS;
            let mut bits = self.words[self.word(begin, y)];
            if begin < columns.start {
                bits &= u64::MAX << (columns.start - begin);
            }
            if end < begin + BITS {
                bits &= !(u64::MAX << (end - begin));
            }
            std::iter::from_fn(move || {
                let bit = (bits != 0).then(|| bits.trailing_zeros() as usize)?;
                bits &= bits - 1;
                Some(begin + bit)
            })
        })
    }

    /// The first and the last lit column of a row; `None` where it is dark.
    #[must_use]
    pub fn extent(&self, y: usize) -> Option<(usize, usize)> {
        let mut lit = (0..self.width).filter(|x| self.get(*x, y));
        let first = lit.next()?;
        Some((first, lit.next_back().unwrap_or(first)))
    }
}

impl std::fmt::Display for Bitmap {
    /// As rows of `#` and `.`.
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        for y in 0..self.height {
            let row: String = (0..self.width).map(|x| if self.get(x, y) { '#' } else { '.' }).collect();
            writeln!(f, "{row}")?;
        }
        Ok(())
    }
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;

    use super::*;

    proptest! {
        #[test]
        fn the_lit_columns_of_a_row(
            lit in proptest::collection::vec(any::<bool>(), 200), width in 0..200_usize, from in 0..210_usize, length in 0..210_usize
        ) {
            let mut bitmap = Bitmap::dark(width, 2);
            (0..width).for_each(|x| bitmap.set(x, 1, lit[x]));
            let columns = from..from + length;
            let expected: Vec<_> = columns.clone().filter(|x| bitmap.get(*x, 1)).collect();
            prop_assert_eq!(bitmap.lit_in_row(1, columns.clone()).collect::<Vec<_>>(), expected);
            prop_assert_eq!(bitmap.lit_in_row(0, columns.clone()).count(), 0);
            prop_assert_eq!(bitmap.lit_in_row(2, columns).count(), 0);
        }
    }

    #[test]
    fn art_is_read_and_written() {
        let art = ["#..", ".#.", "..#"];
        let bitmap = Bitmap::of_art(art).unwrap();
        assert_eq!(bitmap.to_string(), "#..\n.#.\n..#\n");
        assert_eq!(bitmap.lit().collect::<Vec<_>>(), [(0, 0), (1, 1), (2, 2)]);
        assert_eq!((Bitmap::of_art(["#", "##"]), Bitmap::of_art(["x"])), (None, None));
        assert_eq!(Bitmap::of_art(["..##.", "....."]).unwrap().extent(0), Some((2, 3)));
        assert_eq!(bitmap.extent(7), None);
    }

    proptest! {
        /// A dot that is set is found, and no other changes, over the edges of words too.
        #[test]
        fn dots_are_where_they_were_put(width in 1..140_usize, height in 1..5_usize, dots in prop::collection::vec((0..150_usize, 0..6_usize), 0..20)) {
            let mut bitmap = Bitmap::dark(width, height);
            let mut expected = std::collections::BTreeSet::new();
            for (x, y) in dots {
                bitmap.set(x, y, true);
                if x < width && y < height {
                    expected.insert((y, x));
                }
            }
            prop_assert_eq!(bitmap.lit().map(|(x, y)| (y, x)).collect::<Vec<_>>(), expected.into_iter().collect::<Vec<_>>());
        }

        #[test]
        fn one_over_another_is_cut_at_the_edges(left in -9..9_isize, top in -9..9_isize) {
            let other = Bitmap::of_art(["##", "#."]).unwrap();
            let mut bitmap = Bitmap::dark(4, 4);
            bitmap.add(&other, left, top);
            let expected = (0..4).flat_map(|y| (0..4).map(move |x| (x, y))).filter(|(x, y)| {
                let (x, y) = (*x as isize - left, *y as isize - top);
                [(0, 0), (1, 0), (0, 1)].contains(&(x, y))
            });
            prop_assert_eq!(bitmap.lit().collect::<Vec<_>>(), expected.collect::<Vec<_>>());
        }
    }
}
