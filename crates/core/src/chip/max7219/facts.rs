//! Figures of the part, from its data sheet.

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
