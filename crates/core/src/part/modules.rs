//! How modules and panels hang: what the methods that drive several of them side by side have in common in their tables.

use crate::rig::{DriveTable, End, Problem, Spanned};
use crate::words::words;

words! {
    /// The first or the last row, as seen from the front.
    pub enum RowEnd {
        /// At the top.
        Top = "top",
        /// At the bottom.
        Bottom = "bottom",
    }
}

/// How far a module is turned clockwise, as seen from the front.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
#[allow(missing_docs, reason = "the words say it")]
pub enum Turn {
    Not,
    Quarter,
    Half,
    ThreeQuarters,
}

impl Turn {
    const fn of_degrees(degrees: u32) -> Option<Self> {
        match degrees {
            0 => Some(Self::Not),
            90 => Some(Self::Quarter),
            180 => Some(Self::Half),
            270 => Some(Self::ThreeQuarters),
            _ => None,
        }
    }

    /// A turn by its degrees; reports it when it is none.
    pub fn read(rotate: &Spanned<u32>, table: &DriveTable<'_>) -> Option<Self> {
        let turn = Self::of_degrees(*rotate.get_ref());
        if turn.is_none() {
            let (found, allowed) = (rotate.get_ref().to_string(), "0, 90, 180 or 270".to_owned());
            table.error(rotate.span(), Problem::WrongValue { found, allowed });
        }
        turn
    }

    /// Turned on by half a turn.
    #[must_use]
    pub const fn on_its_head(self) -> Self {
        match self {
            Self::Not => Self::Half,
            Self::Quarter => Self::ThreeQuarters,
            Self::Half => Self::Not,
            Self::ThreeQuarters => Self::Quarter,
        }
    }

    /// How far that is, in degrees.
    #[must_use]
    pub const fn degrees(self) -> u32 {
        match self {
            Self::Not => 0,
            Self::Quarter => 90,
            Self::Half => 180,
            Self::ThreeQuarters => 270,
        }
    }

    /// Returns true if what was wide is then high.
    #[must_use]
    pub const fn is_upright(self) -> bool {
        matches!(self, Self::Quarter | Self::ThreeQuarters)
    }

    /// The sine and the cosine of the angle.
    #[must_use]
    pub const fn sine_cosine(self) -> (f32, f32) {
        match self {
            Self::Not => (0.0, 1.0),
            Self::Quarter => (1.0, 0.0),
            Self::Half => (0.0, -1.0),
            Self::ThreeQuarters => (-1.0, 0.0),
        }
    }
}

/// How a chain goes through the rows of modules: which is first, and whether every other row runs the other way. Of one row
/// there is nothing to say.
#[must_use]
pub fn rows(
    down: usize,
    key: &str,
    first_row: Option<&Spanned<RowEnd>>,
    serpentine: Option<&Spanned<bool>>,
    table: &DriveTable<'_>,
) -> (RowEnd, bool) {
    if down <= 1 && first_row.is_none() && serpentine.is_none() {
        return (RowEnd::Top, false);
    }
    let first = table.or_assume(&format!("{key}.first_row"), first_row.cloned(), RowEnd::Top);
    let serpentine = table.or_assume(&format!("{key}.serpentine"), serpentine.cloned(), false);
    (*first.get_ref(), *serpentine.get_ref())
}

/// A module of a chain in its place, as seen from the front.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Hung {
    /// Its column, from the left, and its row, from the top.
    pub place: (usize, usize),
    /// How far it is turned clockwise.
    pub turn: Turn,
    /// True if the chain comes in at its right side.
    pub from_right: bool,
}

/// The modules of a chain in their places, in its order: from one end of each row to the other, or in a serpentine back
/// through every other row.
#[must_use]
pub fn hung(
    (across, down): (usize, usize),
    first: End,
    first_row: RowEnd,
    serpentine: bool,
    turns: impl IntoIterator<Item = Turn>,
) -> Vec<Hung> {
    let places = (0..down).flat_map(|row| (0..across).map(move |step| (row, step)));
    let of_module = |((row, step), turn): ((usize, usize), Turn)| {
        let from_right = matches!(first, End::Right) != (serpentine && row % 2 == 1);
        let column = if from_right { across - 1 - step } else { step };
        let row = if first_row == RowEnd::Top { row } else { down - 1 - row };
        Hung { place: (column, row), turn, from_right }
    };
    places.zip(turns).map(of_module).collect()
}
