//! The byte that a port or a register wants for a set of segments.
//!
//! Two things decide it: in which order the segments sit on the bits, and whether a 1 or a 0 lights one.

use std::fmt;

use super::segments::names_in;
use super::{Segments, Style};
use crate::words::{Word, words};

words! {
    /// Which side of a digit's lights is joined.
    #[derive(Hash)]
    pub enum Common {
        /// The cathodes are joined: a high level lights a segment.
        Cathode = "cathode",
        /// The anodes are joined: a low level lights a segment.
        Anode = "anode",
    }
}

impl Common {
    /// The level at a segment's pin that lights it.
    #[must_use]
    pub const fn lit_level(self) -> bool {
        matches!(self, Self::Cathode)
    }

    /// The polarity in words: `common cathode: a 1 lights`.
    #[must_use]
    pub fn polarity(self) -> String {
        format!("common {}: a {} lights", self.name(), u8::from(self.lit_level()))
    }

    /// The word for it, as in a rig file.
    #[must_use]
    pub fn name(self) -> &'static str {
        self.word()
    }
}

/// The segments of a style on the bits of a byte or word, most significant bit first.
///
/// ```
/// # use spare_tile_core::glyph::{BitOrder, Common, Style, glyph};
/// let order = BitOrder::parse("dp g f e d c b a", Style::Seven)?;
/// let five = glyph(Style::Seven, '5').unwrap().segments;
/// assert_eq!(order.bits(five, Common::Cathode), 0x6D);
/// assert_eq!(order.bits(five, Common::Anode), 0x92);
/// # Ok::<(), spare_tile_core::glyph::order::BitOrderError>(())
/// ```
///
/// A bit that carries no segment is written `-`. The point may be left out; all other segments are needed.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct BitOrder {
    style: Style,
    /// Segment indices, most significant bit first; [`UNUSED`] where a bit carries none.
    indices: Vec<u8>,
}

/// Stands for no segment.
const UNUSED: u8 = u8::MAX;

/// The most bits that an order may have.
const MAX_BITS: usize = 32;

/// Why a list of names is not a bit order.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
#[non_exhaustive]
pub enum BitOrderError {
    /// A name that is not a segment of the style.
    #[error("'{found}' is not a segment of this style; its segments are {}", style.segment_names().join(" "))]
    UnknownSegment {
        /// The name as it was found.
        found: String,
        /// The style whose segments are allowed.
        style: Style,
    },
    /// A segment named twice.
    #[error("segment {segment} stands twice in the bit order")]
    Twice {
        /// The segment.
        segment: &'static str,
    },
    /// More bits than a word has.
    #[error("a bit order has {MAX_BITS} bits at most; found {found}")]
    TooLong {
        /// How many there are.
        found: usize,
    },
    /// A segment that has no bit.
    #[error("segment {segment} is missing from the bit order; write each of {} once", style.segment_names().join(" "))]
    Missing {
        /// The segment.
        segment: &'static str,
        /// The style whose segments are needed.
        style: Style,
    },
}

impl BitOrder {
    /// The default order of a style: its first segment on the least significant bit, so that with seven
    /// segments (`dp g f e d c b a`) a 0 is 3F.
    #[must_use]
    pub fn usual(style: Style) -> Self {
        let indices = (0..style.segment_count()).rev().map(|index| index as u8).collect();
        Self { style, indices }
    }

    /// An order from the places of its segments in the style, most significant bit first; `None` when one
    /// stands twice, is missing, or does not exist.
    #[must_use]
    pub fn of_indices(style: Style, indices: Vec<usize>) -> Option<Self> {
        let complete = (0..style.segment_count()).all(|index| indices.contains(&index));
        let sound = complete && indices.len() == style.segment_count();
        sound.then(|| Self { style, indices: indices.into_iter().map(|index| index as u8).collect() })
    }

    /// Reads segment names, most significant first, parted by spaces or commas.
    ///
    /// # Errors
    /// When a name is unknown, stands twice, or is missing.
    pub fn parse(text: &str, style: Style) -> Result<Self, BitOrderError> {
        let names = style.segment_names();
        let mut indices = Vec::with_capacity(names.len());
        for found in names_in(text) {
            if found == "-" {
                indices.push(UNUSED);
                continue;
            }
            let index = style
                .segment_index(found)
                .ok_or_else(|| BitOrderError::UnknownSegment { found: found.to_owned(), style })?;
            if indices.contains(&(index as u8)) {
                return Err(BitOrderError::Twice { segment: names[index] });
            }
            indices.push(index as u8);
        }
        if indices.len() > MAX_BITS {
            return Err(BitOrderError::TooLong { found: indices.len() });
        }
        let but_the_point = 0..style.point_index();
        match but_the_point.into_iter().find(|index| !indices.contains(&(*index as u8))) {
            Some(index) => Err(BitOrderError::Missing { segment: names[index], style }),
            None => Ok(Self { style, indices }),
        }
    }

    /// The style that this order is for.
    #[must_use]
    pub const fn style(&self) -> Style {
        self.style
    }

    /// How many bits the order has.
    #[must_use]
    pub fn width(&self) -> usize {
        self.indices.len()
    }

    /// The segment names, most significant bit first; `-` for a bit that carries none.
    pub fn names(&self) -> impl Iterator<Item = &'static str> {
        let names = self.style.segment_names();
        self.indices.iter().map(|index| names.get(usize::from(*index)).copied().unwrap_or("-"))
    }

    /// How many bytes hold the bits.
    #[must_use]
    pub fn byte_count(&self) -> usize {
        self.width().div_ceil(8)
    }

    /// The bytes of some bits, most significant first.
    pub fn bytes(&self, bits: u32) -> impl Iterator<Item = u8> + use<> {
        bits.to_be_bytes().into_iter().skip(4 - self.byte_count())
    }

    /// The bit, counted from the least significant, on which segment `index` sits.
    #[must_use]
    pub fn bit_of(&self, index: usize) -> Option<usize> {
        self.indices.iter().rev().position(|known| usize::from(*known) == index)
    }

    /// The bits for a set of segments; one that has no bit is left out.
    #[must_use]
    pub fn bits(&self, segments: Segments, common: Common) -> u32 {
        let bit = |index: &u8| u32::from(segments.has_index(usize::from(*index)));
        let lit = self.indices.iter().fold(0, |bits, index| bits << 1 | bit(index));
        match common {
            Common::Cathode => lit,
            Common::Anode => !lit & self.mask(),
        }
    }

    /// The set of segments that these bits light; the inverse of [`Self::bits`].
    #[must_use]
    pub fn segments(&self, bits: u32, common: Common) -> Segments {
        let lit = if common.lit_level() { bits } else { !bits };
        let lit_at = |place: usize| lit >> (self.width() - 1 - place) & 1 == 1;
        let places = self.indices.iter().enumerate().filter(|(_, index)| **index != UNUSED);
        places.filter(|(place, _)| lit_at(*place)).map(|(_, index)| usize::from(*index)).collect()
    }

    /// All bits of the order.
    const fn mask(&self) -> u32 {
        u32::MAX.unbounded_shr(32 - self.indices.len() as u32)
    }
}

impl fmt::Display for BitOrder {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        for (place, name) in self.names().enumerate() {
            write!(f, "{}{name}", if place == 0 { "" } else { " " })?;
        }
        Ok(())
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::glyph::glyph;

    fn table(order: &str, common: Common, characters: &str) -> Vec<u32> {
        let order = BitOrder::parse(order, Style::Seven).unwrap();
        characters.chars().map(|c| order.bits(glyph(Style::Seven, c).unwrap().segments, common)).collect()
    }

    #[test]
    fn the_tables_everyone_can_check_against() {
        let usual = "dp g f e d c b a";
        assert_eq!(
            table(usual, Common::Cathode, "0123456789"),
            [0x3F, 0x06, 0x5B, 0x4F, 0x66, 0x6D, 0x7D, 0x07, 0x7F, 0x6F]
        );
        assert_eq!(
            table(usual, Common::Cathode, "AbCdEF- "),
            [0x77, 0x7C, 0x39, 0x5E, 0x79, 0x71, 0x40, 0x00]
        );
        assert_eq!(
            table(usual, Common::Anode, "0123456789"),
            [0xC0, 0xF9, 0xA4, 0xB0, 0x99, 0x92, 0x82, 0xF8, 0x80, 0x90]
        );
        assert_eq!(
            table("a b c d e f g dp", Common::Cathode, "0123456789"),
            [0xFC, 0x60, 0xDA, 0xF2, 0x66, 0xB6, 0xBE, 0xE0, 0xFE, 0xF6]
        );
    }

    #[test]
    fn a_bit_order_names_each_segment_once() {
        use BitOrderError::{Missing, Twice, UnknownSegment};
        let parse = |text| BitOrder::parse(text, Style::Seven).unwrap_err();
        assert_eq!(BitOrder::parse("- g f e d c b a", Style::Seven).unwrap().width(), 8, "no point");
        assert_eq!(parse("dp g f e d c b"), Missing { segment: "a", style: Style::Seven });
        assert_eq!(parse("dp g f e d c b b"), Twice { segment: "b" });
        assert_eq!(parse("dp g f e d c b h"), UnknownSegment { found: "h".into(), style: Style::Seven });
    }
}
