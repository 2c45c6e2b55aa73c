//! The byte that a port or a register wants for a set of segments.
//!
//! Two things decide it: in which order the segments sit on the bits, and whether a 1 or a 0 lights one.

use std::fmt;

use super::{Segments, Style};

/// Which side of a digit's lights is joined.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, serde::Deserialize)]
#[serde(rename_all = "lowercase")]
pub enum Common {
    /// The cathodes are joined: a high level lights a segment.
    Cathode,
    /// The anodes are joined: a low level lights a segment.
    Anode,
}

impl Common {
    /// The level at a segment's pin that lights it.
    #[must_use]
    pub const fn lit_level(self) -> bool {
        matches!(self, Self::Cathode)
    }

    /// The word for it, as in a rig file.
    #[must_use]
    pub const fn name(self) -> &'static str {
        match self {
            Self::Cathode => "cathode",
            Self::Anode => "anode",
        }
    }
}

/// The segments of a style on the bits of a byte or word, most significant bit first.
///
/// ```
/// # use spare_tile_core::glyph::{BitOrder, Common, Style, seven};
/// let order = BitOrder::parse("dp g f e d c b a", Style::Seven)?;
/// let five = seven::glyph('5').unwrap();
/// assert_eq!(order.bits(five, Common::Cathode), 0x6D);
/// assert_eq!(order.bits(five, Common::Anode), 0x92);
/// # Ok::<(), spare_tile_core::glyph::order::BitOrderError>(())
/// ```
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct BitOrder {
    style: Style,
    /// Segment indices, most significant bit first.
    indices: Vec<u8>,
}

/// Why a list of names is not a bit order.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
pub enum BitOrderError {
    /// A name that is no segment of the style.
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

    /// Reads segment names, most significant first, parted by spaces or commas.
    ///
    /// # Errors
    /// When a name is unknown, stands twice, or is missing.
    pub fn parse(text: &str, style: Style) -> Result<Self, BitOrderError> {
        let names = style.segment_names();
        let mut indices = Vec::with_capacity(names.len());
        for found in text.split([' ', ',', '\t']).filter(|name| !name.is_empty()) {
            let index = style
                .segment_index(found)
                .ok_or_else(|| BitOrderError::UnknownSegment { found: found.to_owned(), style })?;
            if indices.contains(&(index as u8)) {
                return Err(BitOrderError::Twice { segment: names[index] });
            }
            indices.push(index as u8);
        }
        match (0..names.len()).find(|index| !indices.contains(&(*index as u8))) {
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

    /// The segment names, most significant bit first.
    pub fn names(&self) -> impl Iterator<Item = &'static str> {
        self.indices.iter().map(|index| self.style.segment_names()[usize::from(*index)])
    }

    /// The bit, counted from the least significant, on which segment `index` sits.
    #[must_use]
    pub fn bit_of(&self, index: usize) -> Option<usize> {
        self.indices.iter().rev().position(|known| usize::from(*known) == index)
    }

    /// The bits for a set of segments.
    #[must_use]
    pub fn bits(&self, segments: Segments, common: Common) -> u32 {
        let lit = self.indices.iter().fold(0, |bits, index| bits << 1 | (segments.0 >> index & 1));
        match common {
            Common::Cathode => lit,
            Common::Anode => !lit & ((1 << self.width()) - 1),
        }
    }

    /// The set of segments that these bits light; the inverse of [`Self::bits`].
    #[must_use]
    pub fn segments(&self, bits: u32, common: Common) -> Segments {
        let lit = if common.lit_level() { bits } else { !bits };
        let lit_at = |place: usize| lit >> (self.width() - 1 - place) & 1 == 1;
        let places = self.indices.iter().enumerate();
        places.filter(|(place, _)| lit_at(*place)).map(|(_, index)| usize::from(*index)).collect()
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
    use crate::glyph::seven;

    fn table(order: &str, common: Common, characters: &str) -> Vec<u32> {
        let order = BitOrder::parse(order, Style::Seven).unwrap();
        characters.chars().map(|c| order.bits(seven::glyph(c).unwrap(), common)).collect()
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
        assert_eq!(parse("dp g f e d c b"), Missing { segment: "a", style: Style::Seven });
        assert_eq!(parse("dp g f e d c b b"), Twice { segment: "b" });
        assert_eq!(parse("dp g f e d c b h"), UnknownSegment { found: "h".into(), style: Style::Seven });
    }
}
