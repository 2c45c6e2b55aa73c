//! Mistakes in the use of the part.

use crate::rig::Trouble;
use crate::units::{E12, Milliamps, Ohms, counted, values};

/// Something wrong with it.
#[derive(Debug, Clone, PartialEq, thiserror::Error)]
#[non_exhaustive]
pub enum Max7219Trouble {
    #[error("RSET {found} gives a segment current of {given}; {wanted} is wanted")]
    Rset { found: Ohms, given: Milliamps, wanted: Milliamps, nearest: Ohms },
    #[error(
        "RSET {found} is outside the data sheet's table: {least}, which gives a segment 40 mA, its maximum, to {most} \
         for 10 mA"
    )]
    RsetRange { found: Ohms, least: Ohms, most: Ohms },
    #[error(
        "code B draws on the part's segment lines in their own order; with these segments at \"{order}\" its characters \
         are scrambled"
    )]
    Scrambled { order: String },
    #[error(
        "the max7219 gives each segment {given}; while it scans only {}, {most} is the most, or it overheats",
        counted(*scanned, "digit", "digits")
    )]
    FewDigits { scanned: usize, given: Milliamps, most: Milliamps, least: Ohms },
}

impl Trouble for Max7219Trouble {
    fn fix(&self) -> Option<String> {
        Some(match self {
            Self::Rset { nearest, .. } => format!("take {nearest} for RSET"),
            Self::RsetRange { found, least, .. } if found < least => {
                "take a larger resistor; most modules carry 10 kilohm".into()
            }
            Self::RsetRange { .. } => "take a smaller resistor, and dim by the brightness".into(),
            Self::Scrambled { .. } => {
                "leave decode out, or wire the segments to the lines of their names".into()
            }
            Self::FewDigits { least, .. } => {
                let next = values(&E12, 3..6).find(|ohms| ohms >= least).unwrap_or(*least);
                format!("take {next} or more for RSET and write rset_ohms = {}", next.0)
            }
        })
    }
}
