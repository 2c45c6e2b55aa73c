//! Figures in groups, as of a clock, on digits or on dots.

use crate::content::lettering::{Lettering, LetteringError, Look};
use crate::content::text::{Align, TextError};
use crate::content::{Canvas, ContentError, Region};
use crate::face::Layout;

/// The figures at a moment.
pub(super) struct Figures {
    /// Two figures each, or four of a year.
    pub groups: Vec<String>,
    /// The separator.
    pub between: Between,
    /// True if it is one of the hours after noon, of twelve.
    pub is_afternoon: bool,
}

/// The separator of two groups.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(super) enum Between {
    /// A colon, lit or not; a point if the face has no colon.
    Colon {
        /// True if it is lit.
        lit: bool,
    },
    Point,
    Dash,
}

impl Figures {
    /// The same with the widest figure in every place.
    pub fn widest(self) -> Self {
        let groups = self.groups.iter().map(|group| "8".repeat(group.len())).collect();
        Self { groups, ..self }
    }

    /// Draws them, with a point behind the last one where that is asked for.
    pub fn draw(
        &self,
        is_pointed: bool,
        look: Option<&Look>,
        canvas: &mut Canvas<'_>,
    ) -> Result<(), ContentError> {
        let point = if is_pointed { "." } else { "" };
        match (canvas.face().layout, look) {
            (Layout::Dots(_), Some(look)) => {
                let between = match self.between {
                    Between::Colon { lit: true } => ":",
                    // As wide as a lit one.
                    Between::Colon { lit: false } => "{#000000::}",
                    Between::Point => ".",
                    Between::Dash => "-",
                };
                let words = format!("{}{point}", self.groups.join(between));
                Ok(Lettering::of_number(words, look).draw(canvas)?)
            }
            (Layout::Dots(_), None) => Err(LetteringError::NoDots.into()),
            (Layout::Digits { .. }, _) => {
                let words = format!("{}{point}", self.on_digits(canvas));
                let wrong = |error: TextError| ContentError::Text { error, words: words.clone() };
                canvas.write(&words, Align::Right).map(|_| ()).map_err(wrong)
            }
        }
    }

    /// The figures as a text for digits. A colon is one of the face, where it stands between the same figures; where there is
    /// none a point does for it, or a digit that stays dark, or nothing.
    fn on_digits(&self, canvas: &Canvas<'_>) -> String {
        let (face, Region::Digits { start, length }) = (canvas.face(), canvas.region()) else {
            return String::new();
        };
        let taken: usize = self.groups.iter().map(String::len).sum();
        let boundaries = self.groups.len() - 1;
        let is_between_colons = || {
            let mut before = start + length.saturating_sub(taken);
            self.groups[..boundaries].iter().all(|group| {
                before += group.len();
                face.colon(before).is_some()
            })
        };
        let has_room = taken + boundaries <= length;
        let between = match self.between {
            Between::Colon { lit: false } if is_between_colons() || face.points => "",
            Between::Colon { .. } if is_between_colons() => ":",
            Between::Colon { .. } | Between::Point if face.points => ".",
            Between::Dash if has_room => "-",
            _ if has_room => " ",
            _ => "",
        };
        self.groups.join(between)
    }
}
