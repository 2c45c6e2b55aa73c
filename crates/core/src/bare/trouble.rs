//! Mistakes in the wiring of a bare display.

use crate::glyph::Common;
use crate::rig::Trouble;
use crate::units::{Milliamps, counted};

/// Something wrong with it.
#[derive(Debug, Clone, PartialEq, thiserror::Error)]
#[allow(missing_docs, reason = "the messages say what the fields are")]
#[non_exhaustive]
pub enum CircuitTrouble {
    #[error(
        "the digits stand in mirrored order: by its package the leftmost is at {first}, here it is at {written}"
    )]
    MirroredDigits { first: String, written: String },
    #[error("digit {digit} is at {by_package} by its package and at {written} here")]
    OtherThanPackage { digit: usize, by_package: String, written: String },
    #[error(
        "common {}, digits straight at the pins: a digit is selected by a {} level; \"{written}\" would be right for \
         common {}",
        common.name(), level_word(!common.lit_level()), opposite(*common).name()
    )]
    SelectLevel { common: Common, written: &'static str },
    #[error(
        "the display has a common {}, and the circuit is made for a common {}: its LEDs are the wrong way round",
        common.name(), wired_for.name()
    )]
    OtherCommon { common: Common, wired_for: Common },
    #[error("{part}: {pin} is {tied}: {effect}")]
    ControlPin { part: String, pin: &'static str, tied: String, effect: &'static str },
    #[error("the face takes {}; the rig has {has}", counted(*needs, what.0, what.1))]
    FewParts { what: (&'static str, &'static str), has: usize, needs: usize },
    #[error("lights that are not scanned have no greys")]
    NoGreys,
    #[error("the {part} gives {source_most} at a high level: lights with a common cathode stay dark")]
    WeakSource { part: String, source_most: Milliamps },
}

impl Trouble for CircuitTrouble {
    fn fix(&self) -> Option<String> {
        Some(match self {
            Self::NoGreys => "leave depth out, or scan the lights".into(),
            Self::MirroredDigits { .. } => {
                "turn the list round: digits are written from left to right as seen".into()
            }
            Self::OtherThanPackage { .. } => "one of the two is wrong: follow the wire and mend it".into(),
            Self::SelectLevel { common, .. } => format!(
                "write common = \"{}\" if that is what you have, or digits_active = \"{}\", or name the switch between: \
                 digit_switch = \"npn\"",
                opposite(*common).name(),
                level_word(!common.lit_level())
            ),
            Self::OtherCommon { wired_for, .. } => {
                format!("use a display with a common {}, or turn the circuit round and remove wired_for", wired_for.name())
            }
            Self::ControlPin { pin: "OE", .. } => {
                "tie OE to ground: output_enable = \"low\", or drive it from a pin".into()
            }
            Self::ControlPin { pin: "SRCLR", .. } => "tie SRCLR to the supply: clear = \"high\"".into(),
            Self::ControlPin { .. } => {
                "drive LE from a pin of its own: latch_enable = \"PIN\"; for a plain buffer tie it to \"high\"".into()
            }
            Self::FewParts { what: ("latch", _), .. } => {
                "add latches: latches = [{ latch_enable = \"PIN\" }, ...]".into()
            }
            Self::FewParts { .. } => "add the addresses of more parts: addresses = [0x20, 0x21, ...]".into(),
            Self::WeakSource { .. } => {
                "use a display with common anode, which the pins only have to pull low, or put a buffer between".into()
            }
        })
    }
}

/// A level in words.
const fn level_word(high: bool) -> &'static str {
    if high { "high" } else { "low" }
}

/// The other side of the lights.
#[must_use]
pub const fn opposite(common: Common) -> Common {
    match common {
        Common::Cathode => Common::Anode,
        Common::Anode => Common::Cathode,
    }
}
