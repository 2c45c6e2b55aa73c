//! Modules of 8x8 dots in a chain: which dot is which digit line and data bit of which part.
//!
//! ```toml
//! modules = { first = "right", lines_are = "rows", rotate = 0, flip = "none",
//!             first_row = "top", serpentine = false, except = [{ part = 2, rotate = 180 }] }
//! ```
//!
//! The chain goes through the modules row by row. In a serpentine every other row runs the other way.
//!
//! A module as it lies: digit line 0 is the top row (or the left column, with `lines_are = "columns"`), data bit 7 the left
//! dot of a row (or the top one of a column). It is flipped first, then turned clockwise, both as seen from the front.

use crate::rig::Spanned;
use serde::Deserialize;

use crate::face::Grid;
use crate::part::modules::{self, RowEnd, Turn};
use crate::rig::{DriveTable, End, Place, Problem};
use crate::words::words;

/// Dots along each side of a module.
pub(super) const SIDE: usize = 8;

/// The key `modules`.
#[derive(Clone, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct Modules {
    /// Which end of each row of modules the chain comes in at.
    first: Option<Spanned<End>>,
    /// The digit lines of a module.
    lines_are: Option<Spanned<LinesAre>>,
    /// How far each module is turned clockwise, in degrees.
    rotate: Option<Spanned<u32>>,
    /// The way in which a module is mirrored.
    flip: Option<Spanned<Flip>>,
    /// Which row of modules the chain goes through first.
    first_row: Option<Spanned<RowEnd>>,
    /// True if every other row runs the other way, so that the wire between rows is short.
    serpentine: Option<Spanned<bool>>,
    /// Modules that lie otherwise than the others.
    #[serde(default)]
    except: Vec<Spanned<Except>>,
}

/// A module that lies otherwise than the others; what is left out is as theirs.
#[derive(Clone, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct Except {
    /// The part that drives it, counted from the one that the controller feeds, from 0.
    part: Spanned<usize>,
    /// Its digit lines.
    lines_are: Option<LinesAre>,
    /// How far it is turned clockwise, in degrees.
    rotate: Option<Spanned<u32>>,
    /// The way in which it is mirrored.
    flip: Option<Flip>,
}

words! {
    /// The digit lines of a module, before it is flipped and turned.
    pub enum LinesAre {
        /// The digit outputs drive rows.
        Rows = "rows",
        /// The digit outputs drive columns.
        Columns = "columns",
    }
}

words! {
    /// The way in which a module is mirrored.
    pub enum Flip {
        /// Not mirrored.
        None = "none",
        /// Left and right exchanged.
        Horizontal = "horizontal",
        /// Top and bottom exchanged.
        Vertical = "vertical",
    }
}

/// How a module lies.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Posture {
    /// The digit lines.
    pub lines_are: LinesAre,
    /// How it is flipped.
    pub flip: Flip,
    /// How far it is turned, after it was flipped.
    pub turn: Turn,
}

/// How the modules are arranged.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct ModulePlan {
    /// Modules side by side.
    pub across: usize,
    /// Rows of modules.
    pub down: usize,
    /// Which end of its first row the chain comes in at.
    pub first: End,
    /// Which row it goes through first.
    pub first_row: RowEnd,
    /// True if every other row runs the other way.
    pub serpentine: bool,
    /// How each module lies, in the order of the chain.
    pub postures: Vec<Posture>,
}

impl ModulePlan {
    /// From the key; `None` when an error was found. `before` parts of the chain are of other faces.
    pub fn plan(
        grid: Grid,
        keys: Option<&Spanned<Modules>>,
        before: usize,
        table: &DriveTable<'_>,
    ) -> Option<Self> {
        for (key, side) in [("width", grid.width), ("height", grid.height)] {
            if side % SIDE != 0 {
                let (found, allowed) = (side.to_string(), format!("a multiple of {SIDE}"));
                table.error(Place::Face(key), Problem::WrongValue { found, allowed });
                return None;
            }
        }
        let keys = keys.map(Spanned::get_ref);
        let rotate = table.or_assume("modules.rotate", keys.and_then(|keys| keys.rotate.clone()), 0);
        let turn = Turn::read(&rotate, table)?;
        let first = table.or_assume("modules.first", keys.and_then(|keys| keys.first.clone()), End::Right);
        let lines_are = table.or_assume(
            "modules.lines_are",
            keys.and_then(|keys| keys.lines_are.clone()),
            LinesAre::Rows,
        );
        let flip = table.or_assume("modules.flip", keys.and_then(|keys| keys.flip.clone()), Flip::None);
        let (across, down) = (grid.width / SIDE, grid.height / SIDE);
        let first_row = keys.and_then(|keys| keys.first_row.as_ref());
        let serpentine = keys.and_then(|keys| keys.serpentine.as_ref());
        let (first_row, serpentine) = modules::rows(down, "modules", first_row, serpentine, table);
        let usual = Posture { lines_are: *lines_are.get_ref(), flip: *flip.get_ref(), turn };
        let mut postures = vec![usual; across * down];
        for except in keys.into_iter().flat_map(|keys| &keys.except) {
            let Except { part, lines_are, rotate, flip } = except.get_ref();
            let own = part.get_ref().checked_sub(before);
            let Some(posture) = own.and_then(|own| postures.get_mut(own)) else {
                let allowed = format!("a part of this face, {before} to {}", before + across * down - 1);
                let found = part.get_ref().to_string();
                table.error(part.span(), Problem::WrongValue { found, allowed });
                return None;
            };
            posture.lines_are = lines_are.unwrap_or(posture.lines_are);
            posture.flip = flip.unwrap_or(posture.flip);
            if let Some(rotate) = rotate {
                posture.turn = Turn::read(rotate, table)?;
            }
        }
        Some(Self { across, down, first: *first.get_ref(), first_row, serpentine, postures })
    }

    /// How many parts it takes, one a module.
    pub const fn parts(&self) -> usize {
        self.across * self.down
    }
}
