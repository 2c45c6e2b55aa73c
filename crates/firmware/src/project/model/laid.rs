//! Where lights are in the image, and the figures that are put there.

use serde::Serialize;

/// Where digits are in the image.
#[derive(Debug, Clone, Serialize)]
pub struct DigitsModel {
    /// By digit: its bytes.
    pub at: Vec<Vec<usize>>,
    /// The same as a rule: the first byte of digit 0, and how far the next one is; none where there is no rule.
    pub rule: Option<(usize, isize)>,
    /// How far the other bytes of a digit are from its first, where there is a rule.
    pub offsets: Vec<isize>,
    /// The bits of each of its bytes that are its own.
    pub masks: Vec<u8>,
    /// Whether a byte holds anything else.
    pub shared: bool,
}

/// Where dots are in the image.
#[derive(Debug, Clone, Serialize)]
pub struct DotsModel {
    /// How many columns.
    pub width: usize,
    /// How many dots in each.
    pub height: usize,
    /// By column and row: eight times the byte, and the bit.
    pub places: Vec<usize>,
    /// Whether a bit is 1 while its dot is lit.
    pub lit: bool,
    /// How many bytes a column has.
    pub bytes: usize,
}

/// Figures that belong together.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
pub struct SetModel {
    /// Its name in the source.
    pub id: String,
    /// How many columns each has; on digits 1.
    pub width: usize,
    /// What each is, and its bytes, a list for each column.
    pub glyphs: Vec<GlyphModel>,
    /// The number of its colour, where dots have several lights.
    pub ink: Option<usize>,
}

/// A figure or sign.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
pub struct GlyphModel {
    /// What it is: `0`, `minus`, `blank`.
    pub name: String,
    /// Its bytes, column by column.
    pub bytes: Vec<u8>,
}

/// Something that is lit beside figures: bytes of the image and bits of them.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
pub struct MarkModel {
    /// Which byte.
    pub byte: usize,
    /// Which bits.
    pub mask: u8,
    /// Their level while they are lit.
    pub lit: bool,
}

/// Seats of figures.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
pub struct SeatsModel {
    /// From the left: a digit, or the first column.
    pub list: Vec<usize>,
    /// How far they are apart, where it is always as far.
    pub pitch: Option<usize>,
}
