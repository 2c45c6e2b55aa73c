//! Parts of a frame that a face cannot show, although everything is sent.

use super::Mount;
use crate::face::Element;
use crate::frame::{Frame, Level};
use crate::part::Display;

/// Something that stays dark.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
#[allow(missing_docs, reason = "the messages say what the fields are")]
#[non_exhaustive]
pub enum Lack {
    #[error("{name} has no light: it stays dark")]
    NoLight { name: String },
    #[error("code B, which draws the characters of this face, has none for digit {digit}: it stays blank")]
    NotInCode { digit: usize },
}

impl Lack {
    /// The way out.
    #[must_use]
    pub const fn fix(&self) -> &'static str {
        match self {
            Self::NoLight { .. } => "wire it, or leave it out of the text",
            Self::NotInCode { .. } => {
                "use 0 to 9, -, E, H, L, P and blanks, or leave decode out of the rig: then every character can be drawn"
            }
        }
    }
}

impl Mount {
    /// The part of a frame that stays dark.
    #[must_use]
    pub fn lacks(&self, frame: &Frame) -> Vec<Lack> {
        let face = &self.face;
        let is_lit = |element: &usize| frame.levels()[*element] != Level::OFF;
        let lit = (0..frame.levels().len()).filter(is_lit).map(Element);
        let dark = lit.filter(|element| !self.wiring.has(*element));
        let mut lacks: Vec<_> = dark.map(|element| Lack::NoLight { name: face.name_of(element) }).collect();
        let display: &dyn Display = self.drive.display();
        let undrawn = (0..face.digits()).filter(|digit| !display.can_light(face, face.lit(frame, *digit)));
        lacks.extend(undrawn.map(|digit| Lack::NotInCode { digit }));
        lacks
    }
}
