//! Segments by name, and sets of them.

use std::fmt;

/// How many segments a digit has, and what they are called.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash)]
pub enum Style {
    /// Seven segments and a point.
    ///
    /// ```text
    ///   -a-
    ///  f   b
    ///   -g-
    ///  e   c
    ///   -d-  dp
    /// ```
    Seven,
    /// Fourteen segments and a point: the middle bar in two halves, and six strokes from the centre.
    ///
    /// ```text
    ///   ---a---
    ///  f h i j b
    ///   -g1-g2-
    ///  e k l m c
    ///   ---d---  dp
    /// ```
    Fourteen,
    /// Sixteen segments and a point: as fourteen, with the top bar in halves a1 a2 and the foot in d1 d2.
    Sixteen,
}

impl Style {
    /// Every style.
    pub const ALL: &[Self] = &[Self::Seven, Self::Fourteen, Self::Sixteen];

    /// The word for this style on the command line.
    #[must_use]
    pub const fn name(self) -> &'static str {
        match self {
            Self::Seven => "seven",
            Self::Fourteen => "fourteen",
            Self::Sixteen => "sixteen",
        }
    }

    /// The names of the segments in their order, the point last.
    #[must_use]
    pub const fn segment_names(self) -> &'static [&'static str] {
        match self {
            Self::Seven => &["a", "b", "c", "d", "e", "f", "g", "dp"],
            Self::Fourteen => &["a", "b", "c", "d", "e", "f", "g1", "g2", "h", "i", "j", "k", "l", "m", "dp"],
            Self::Sixteen => {
                &["a1", "a2", "b", "c", "d1", "d2", "e", "f", "g1", "g2", "h", "i", "j", "k", "l", "m", "dp"]
            }
        }
    }

    /// How many segments a digit has, its point included.
    #[must_use]
    pub const fn segment_count(self) -> usize {
        self.segment_names().len()
    }

    /// The place of the point in [`Self::segment_names`]: the last.
    #[must_use]
    pub const fn point_index(self) -> usize {
        self.segment_count() - 1
    }

    /// The point alone.
    #[must_use]
    pub const fn point(self) -> Segments {
        Segments(1 << self.point_index())
    }

    /// The place of a segment in [`Self::segment_names`].
    #[must_use]
    pub fn segment_index(self, name: &str) -> Option<usize> {
        self.segment_names().iter().position(|known| *known == name)
    }
}

impl fmt::Display for Style {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str(self.name())
    }
}

/// The names in a text, parted by spaces or commas.
pub(crate) fn names_in(text: &str) -> impl Iterator<Item = &str> {
    text.split([' ', ',', '\t']).filter(|name| !name.is_empty())
}

/// A set of segments of one digit. Bit `i` stands for segment `i` of [`Style::segment_names`]; this is not
/// the byte that a port wants, which [`super::BitOrder`] makes.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq, Hash, PartialOrd, Ord)]
pub struct Segments(pub u32);

impl Segments {
    /// No segment.
    pub const NONE: Self = Self(0);

    /// Reads segment names parted by spaces or commas.
    ///
    /// # Errors
    /// With the first name that is not a segment of the style.
    pub fn parse(names: &str, style: Style) -> Result<Self, &str> {
        names_in(names).map(|name| style.segment_index(name).ok_or(name)).collect()
    }

    /// Both sets together.
    #[must_use]
    pub const fn union(self, other: Self) -> Self {
        Self(self.0 | other.0)
    }

    /// This set less the segments of the other.
    #[must_use]
    pub const fn less(self, other: Self) -> Self {
        Self(self.0 & !other.0)
    }

    /// Returns true if every segment of `other` is in this set.
    #[must_use]
    pub const fn has(self, other: Self) -> bool {
        self.0 & other.0 == other.0
    }

    /// Returns true if segment `index` of the style is in this set.
    #[must_use]
    pub const fn has_index(self, index: usize) -> bool {
        self.0.unbounded_shr(index as u32) & 1 == 1
    }

    /// The names of the segments in this set, in the style's order.
    pub fn names(self, style: Style) -> impl Iterator<Item = &'static str> {
        let names = style.segment_names().iter().enumerate();
        names.filter(move |(index, _)| self.has_index(*index)).map(|(_, name)| *name)
    }
}

impl FromIterator<usize> for Segments {
    fn from_iter<I: IntoIterator<Item = usize>>(indices: I) -> Self {
        Self(indices.into_iter().fold(0, |set, index| set | 1 << index))
    }
}
