//! Mistakes in the use of a part.

use crate::glyph::{Common, Style};
use crate::rig::Trouble;
use crate::units::Volts;

/// Something that goes for any part.
#[derive(Debug, Clone, PartialEq, thiserror::Error)]
#[allow(missing_docs, reason = "the messages say what the fields are")]
#[non_exhaustive]
pub enum PartTrouble {
    #[error("the {part} drives digits with common {}", wants.name())]
    WrongCommon { part: &'static str, wants: Common },
    #[error("the bus is at {found}; at this supply the {part} needs {least} for a reliable high")]
    LowLevel { part: &'static str, found: Volts, least: Volts },
    #[error("the supply is {found}; the {part} needs {least} to {most}")]
    Supply { part: &'static str, found: Volts, least: Volts, most: Volts },
    #[error(
        "modules with a {part} pull its lines up to the supply of {supply}; {pins} of the {controller} stand {most} at most"
    )]
    PulledUp { part: &'static str, pins: String, controller: String, supply: Volts, most: Volts },
    #[error("the {part} cannot have the address {found:#04x}; it answers at {allowed}")]
    Address { part: &'static str, found: i64, allowed: &'static str },
    #[error("a digit of {} segments takes {needs} lines; a {grid} of the part has {has}", style.name())]
    FewLines { style: Style, needs: usize, grid: &'static str, has: usize },
    #[error("the face has {digits} digits; {} {has}, one for each digit", if *parts == 1 { "the part has" } else { "the parts have" })]
    FewGrids { digits: usize, parts: usize, has: String },
    #[error("the method {method} lights nothing on this face but its dots")]
    NoExtras { method: &'static str },
    #[error("there are no modules for the method {method}")]
    NoModule { method: &'static str },
    #[error("the method {method} does not read buttons")]
    NoKeys { method: &'static str },
}

impl Trouble for PartTrouble {
    fn fix(&self) -> Option<String> {
        Some(match self {
            Self::WrongCommon { wants, .. } => {
                format!("use digits with common {0} and write common = \"{0}\"", wants.name())
            }
            Self::LowLevel { .. } => {
                "put a level converter in between and write bus_volts = 5.0; without one it may seem to work, and glitch"
                    .into()
            }
            Self::PulledUp { .. } => "put a level converter in between and write bus_volts = 5.0, or feed the module from \
                                      the controller's own supply: supply = { volts = 3.3 }"
                .into(),
            Self::Supply { least, most, .. } => format!("feed the display from {least} to {most}"),
            Self::Address { .. } => "set the straps of the part and write the address that they make".into(),
            Self::FewLines { .. } => {
                "drive it with ht16k33 or max7219, or from registers: method = \"shifted\"".into()
            }
            Self::FewGrids { .. } => {
                "give the face more parts where the method takes several, or split it into two faces".into()
            }
            Self::NoExtras { .. } => "take the colons and lamps out, or make them a face of their own".into(),
            Self::NoModule { .. } => {
                "remove module, or use the method of the module's chip: max7219, tm1637, tm1638 or ht16k33".into()
            }
            Self::NoKeys { .. } => "use a tm1637, tm1638 or ht16k33 for the buttons, or remove them".into(),
        })
    }
}
