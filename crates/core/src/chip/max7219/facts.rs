//! Figures of the part, from its data sheet.

use crate::glyph::Style;
use crate::units::{Hertz, Volts};

/// Digit lines, and so digits, of one part.
pub const DIGITS: usize = 8;
/// Segment lines of one part.
pub const SEGMENTS: usize = 8;
/// Nodes of one part: node `64 p + 8 d + b` is data bit `b` of digit line `d` of part `p`, part 0 being the
/// one that the controller feeds.
pub const NODES: usize = DIGITS * SEGMENTS;
/// The highest step of the intensity register.
pub const MAX_INTENSITY: u8 = 15;
/// The fastest clock (f_CLK).
pub const MAX_CLOCK: Hertz = Hertz(10_000_000);
/// The lowest input voltage that is surely a high at a 5 V supply (V_IH).
pub const INPUT_HIGH: Volts = Volts(3.5);
/// The lowest and the highest supply (V+).
pub const SUPPLY: (Volts, Volts) = (Volts(4.0), Volts(5.5));
/// Fewer digits scanned than this, and the peak current must be lowered or the part overheats.
pub const MIN_COOL_DIGITS: usize = 3;
/// The segments on data bits 7 to 0, undecoded.
pub const BIT_ORDER: &str = "dp a b c d e f g";
/// The most digit lines that one character takes.
pub const MAX_LINES: usize = 2;

/// The segments of a character on its data bits where the rig does not say: for seven segments the data
/// sheet's; for more, two digit lines together have 16 bits, the even line the lower eight. There is no data
/// sheet for that: ours runs upwards, and sixteen segments leave no bit for the point.
#[must_use]
pub const fn bit_order(style: Style) -> &'static str {
    match style {
        Style::Seven => BIT_ORDER,
        Style::Fourteen => "- dp m l k j i h g2 g1 f e d c b a",
        Style::Sixteen => "m l k j i h g2 g1 f e d2 d1 c b a2 a1",
    }
}
