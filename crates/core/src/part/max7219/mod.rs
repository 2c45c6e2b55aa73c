//! `max7219`: eight digits a part, common cathode, chainable, fed over three wires.
//!
//! ```toml
//! [face.desk.drive]
//! method = "max7219"
//! pins = { data = "GP19", clock = "GP18", select = "GP17" }
//! clock_hz = 1_000_000            # at most 10 MHz
//! bus_volts = 5.0                 # the high level at the part, after any level converter
//! brightness = 8                  # 0 to 15
//! digit_0 = "right"               # where digit line 0 of each part stands, as seen
//! first = "right"                 # which end of the chain the controller feeds
//! segments = "dp a b c d e f g"   # which segment sits on data bits 7 to 0
//! decode = "none"                 # or "code-b": the parts draw 0-9, minus, E, H, L, P themselves
//! rset_ohms = 10_000              # the resistor at ISET, checked against the wanted current
//! resend = "10s"                  # send everything again so often
//! chain = { parts = 5, first_part = 1 }           # where several faces share one chain
//! modules = { first = "right", lines_are = "rows", rotate = 0, flip = "none" }   # of dots
//! ```
//!
//! The node of a colon or lamp is a digit line and a segment line by the data sheet's names, `digit4.a`, in a
//! chain with the part before, counted from the one that the controller feeds: `part1.digit4.a`. It may be the dp
//! of a digit, which then has no point.
//!
//! A face of more than eight digits takes a chain of parts: all but the last fed have eight digits each. A
//! digit of fourteen or sixteen segments takes two digit lines, of which the even one has the lower eight bits
//! of `segments`; a part then has four digits.

mod chain;
mod digits;
mod dots;
mod driver;
pub mod facts;
mod geometry;
mod model;
mod plan;
mod trouble;
mod wiring;

pub use chain::Share;
pub use digits::{DigitPlan, ExtraNode};
pub use dots::{Flip, LinesAre, ModulePlan};
pub use plan::Max7219;

use crate::bus::Transfer;
use crate::driver::Driver;
use crate::face::Face;
use crate::frame::Level;
use crate::geometry::Geometry;
use crate::glyph::{Common, Segments};
use crate::meaning::Meaning;
use crate::model::Model;
use crate::units::{Hertz, Milliamps, Nanos, Ohms};

use super::modules::{self, Hung};
use super::{ByteCode, Chip, ChipPin, Display, Header, Method, NoByte, Part, Wire, mean_current};

/// The keys of a rig.
pub const METHODS: &[&dyn Method] = &[&Max7219];

/// The side of the lights that is joined: digit lines sink.
const COMMON: Common = Common::Cathode;

/// A chain of parts behind three wires, as a plan.
#[derive(Debug, Clone, PartialEq)]
pub struct Plan {
    /// Where the face's parts are in the chain.
    pub share: Share,
    /// How many digit lines every part scans.
    pub scanned: usize,
    /// The clock rate.
    pub clock: Hertz,
    /// The intensity at power-up.
    pub brightness: u8,
    /// The resistor at ISET.
    pub rset: Ohms,
    /// Returns the current of a lit segment for RSET.
    pub segment: Milliamps,
    /// How often everything is sent again.
    pub resend: Option<Nanos>,
    /// The wiring of the parts.
    pub wired: Wired,
}

/// The wiring of the parts.
#[derive(Debug, Clone, PartialEq)]
pub enum Wired {
    /// Digits, with colons and lamps.
    Digits(DigitPlan),
    /// Modules of dots.
    Modules(ModulePlan),
}

impl Plan {
    /// By part: the digit lines whose characters it draws itself, a bit each.
    fn decoded(&self) -> Vec<u8> {
        match &self.wired {
            Wired::Digits(digits) if digits.decodes => digits.decoded(),
            _ => vec![0; self.share.parts],
        }
    }
}

impl Part for Plan {
    fn summary(&self) -> String {
        let Share { parts, of, before } = self.share;
        let chain = match (parts, of) {
            (1, 1) => String::new(),
            (parts, of) if parts == of => " in a chain".to_owned(),
            (_, of) => format!(" from part {before} on in a chain of {of}"),
        };
        format!("{}{chain}, clock {}", self.parts(), self.clock)
    }

    fn parts(&self) -> String {
        format!("{} max7219", self.share.parts)
    }

    fn explain(&self, transfer: &Transfer<'_>) -> Meaning {
        let (decoded, before) = (self.decoded(), self.share.before);
        let is_decoded = |part: usize, line: usize| {
            part.checked_sub(before)
                .and_then(|part| decoded.get(part))
                .is_some_and(|lines| lines >> line & 1 == 1)
        };
        model::seen_from(before, model::explain(transfer.bytes(), is_decoded))
    }

    fn chips(&self) -> Vec<Chip> {
        self.share.chips(self.rset)
    }

    fn chained(&self) -> Option<(ChipPin, ChipPin)> {
        self.share.chained()
    }

    fn header(&self) -> Option<Header> {
        Some(chain::HEADER)
    }

    fn wires(&self) -> Vec<Wire> {
        self.share.wires(self.rset)
    }
}

impl Display for Plan {
    fn driver(&self) -> Box<dyn Driver> {
        Box::new(driver::Chain::new(self.share, self.scanned, self.brightness, self.decoded()))
    }

    fn model(&self, _: &Face) -> Box<dyn Model> {
        Box::new(model::Chain::of(self.share.of, self.share.before))
    }

    fn geometry(&self, face: &Face) -> Geometry {
        match &self.wired {
            Wired::Digits(digits) => digits.geometry(face),
            Wired::Modules(modules) => modules.geometry(face),
        }
    }

    fn byte_code(&self, _: &Face, _: usize) -> Result<ByteCode, NoByte> {
        match &self.wired {
            Wired::Modules(_) => Err(NoByte::Dots),
            Wired::Digits(digits) if digits.decodes => Err(NoByte::Decoded),
            // A 1 in a digit register lights.
            Wired::Digits(digits) => Ok(ByteCode { order: digits.order.clone(), polarity: Common::Cathode }),
        }
    }

    fn module(&self) -> Option<(usize, usize)> {
        matches!(self.wired, Wired::Modules(_)).then_some((facts::SEGMENTS, facts::DIGITS))
    }

    fn hung(&self) -> Vec<Hung> {
        match &self.wired {
            Wired::Digits(_) => Vec::new(),
            Wired::Modules(ModulePlan { across, down, first, first_row, serpentine, postures }) => {
                let turns = postures.iter().map(|posture| posture.turn);
                modules::hung((*across, *down), *first, *first_row, *serpentine, turns)
            }
        }
    }

    fn memory_words(&self) -> Option<&'static str> {
        Some("Of each part, from the one that is fed on, the data of digit registers 1 to 8.")
    }

    fn memory(&self, nodes: &[Level]) -> Option<Vec<u8>> {
        let decodes = matches!(&self.wired, Wired::Digits(digits) if digits.decodes);
        (!decodes).then(|| super::packed(nodes, facts::SEGMENTS))
    }

    fn max_brightness(&self) -> Option<u8> {
        Some(facts::MAX_INTENSITY)
    }

    fn step_light(&self, step: u8) -> f32 {
        (2.0 * f32::from(step.min(facts::MAX_INTENSITY)) + 1.0) / 31.0
    }

    fn can_light(&self, face: &Face, segments: Segments) -> bool {
        match &self.wired {
            Wired::Digits(digits) if digits.decodes => {
                let lit = digits.order.bits(segments, Common::Cathode);
                driver::code_b(lit as u8).is_some()
            }
            _ => face.dots().is_none() || segments == Segments::NONE,
        }
    }

    fn draws(&self, lights: usize) -> Option<Milliamps> {
        let own = facts::OWN_CURRENT * self.share.parts as f64;
        Some(Milliamps(own.0 + mean_current(self, lights, self.segment, self.brightness).0))
    }

    fn resend_every(&self) -> Option<Nanos> {
        self.resend
    }

    fn full_duty(&self) -> f32 {
        // Intensity register at F: 31/32 of a digit's turn in the scan.
        31.0 / 32.0 / self.scanned as f32
    }
}
