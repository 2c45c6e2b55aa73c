//! Mistakes in the use of colour panels.

use crate::rig::Trouble;
use crate::units::{Hertz, Nanos};

/// Something wrong with it.
#[derive(Debug, Clone, PartialEq, thiserror::Error)]
#[allow(missing_docs, reason = "the messages say what the fields are")]
#[non_exhaustive]
pub enum PanelTrouble {
    #[error("{found} is not a size of a panel")]
    Size { found: String },
    #[error(
        "the face has {face_width}x{face_height} dots, which is not a whole number of panels of {width}x{height}"
    )]
    Wall { face_width: usize, face_height: usize, width: usize, height: usize },
    #[error("{found} is not a scan of a panel {height} rows high")]
    Scan { found: String, height: usize, allowed: String },
    #[error("scan 1/{scan} needs address line {line}, and it is not wired")]
    NoAddress { scan: usize, line: &'static str },
    #[error("scan 1/{scan} does not use address line {line}")]
    SpareAddress { scan: usize, line: &'static str },
    #[error("{panels} panels in a chain; {most} is the most")]
    LongChain { panels: usize, most: usize },
    #[error("a wall of panels that stand upright cannot have one that lies, nor the other way round")]
    Mixed,
    #[error(
        "at a depth of {depth} bits this clock refreshes the rows {reached:.0} times a second at most; {wanted} is wanted"
    )]
    Slow { depth: u8, reached: f64, wanted: Hertz, enough: Option<u8> },
    #[error(
        "a row goes on conducting for up to {turn_off} after the next is addressed, and the blanking is {blanking}: each \
         row ghosts on the one before"
    )]
    Ghosts { blanking: Nanos, turn_off: Nanos },
    #[error("each colour is lit by one of the lines R, G and B")]
    Colours,
}

impl Trouble for PanelTrouble {
    fn fix(&self) -> Option<String> {
        Some(match self {
            Self::Size { .. } => {
                "write panel = \"64x32\", of 32, 64, 96 or 128 columns and 16, 32 or 64 rows, as one panel stands upright"
                    .into()
            }
            Self::Wall { .. } => {
                "write the size of one panel, panel = \"64x32\", and width and height of the whole face".into()
            }
            Self::Scan { allowed, .. } => format!("write what is printed on its back: {allowed}"),
            Self::NoAddress { line, .. } => {
                format!("wire line {} of the connector and write {line} = ... among the pins", line.to_uppercase())
            }
            Self::SpareAddress { line: "e", .. } => {
                "take e out of the pins and wire pin 8 of the connector to ground; if a meter finds it open against pins 4 \
                 and 16 on the panel, it is a line, and the scan is another"
                    .into()
            }
            Self::SpareAddress { line, .. } => {
                format!("take {line} out of the pins and wire it to ground at the connector")
            }
            Self::LongChain { .. } => "feed some of the panels as a face of their own".into(),
            Self::Mixed => "turn a single panel by 180 degrees from the others only".into(),
            Self::Slow { enough: Some(depth), .. } => {
                format!("write depth = {depth}, a faster clock_hz, or a lower refresh_hz")
            }
            Self::Slow { enough: None, .. } => {
                "write a faster clock_hz or a lower refresh_hz, or feed fewer panels in a chain".into()
            }
            Self::Ghosts { turn_off, .. } => format!("write blanking = \"{turn_off}\" or more"),
            Self::Colours => "write colour_order = \"rgb\", or \"rbg\" where green and blue are exchanged".into(),
        })
    }
}
