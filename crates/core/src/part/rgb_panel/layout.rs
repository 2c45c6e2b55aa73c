//! Where the dots of panels are: which dot is which address, column and data line of the chain.
//!
//! ```toml
//! panel = "64x32"         # one panel, upright
//! scan = "1/16"           # so many addresses: each lights a row of the upper half and one of the lower
//! panels = { first = "right", first_row = "top", serpentine = false, rotate = 0, except = [{ panel = 1, rotate = 180 }] }
//! fold = { block = 8, first = "top", serpentine = false }
//! ```
//!
//! The node of a light is a place of the connector: `6 (columns a + c) + l` is data line `l` (R1 G1 B1 R2 G2 B2) in the
//! `c`th column that is shifted in for address `a`. The column that is shifted first ends in the farthest stage.
//!
//! A panel of which an address lights several rows of each half (scan 1/8 with 16 rows a half) leads its chain through
//! those rows alternately: `block` columns of the one, the same columns of the next, and so on along the panel. In a
//! serpentine fold the chain runs back through every other piece.

use serde::Deserialize;

use super::facts;
use crate::part::modules::{RowEnd, Turn};
use crate::rig::{End, Spanned};

/// Data lines of a connector.
pub const LINES: usize = facts::DATA_LINES.len();

/// The key `panels`.
#[derive(Clone, Default, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct PanelsKey {
    /// Which end of each row of panels the chain comes in at.
    pub first: Option<Spanned<End>>,
    /// Which row of panels the chain goes through first.
    pub first_row: Option<Spanned<RowEnd>>,
    /// True if every other row runs the other way, its panels on their heads, so that the cable between rows is short.
    pub serpentine: Option<Spanned<bool>>,
    /// How far each panel is turned clockwise, in degrees.
    pub rotate: Option<Spanned<u32>>,
    /// Panels that hang otherwise than the others.
    #[serde(default)]
    pub except: Vec<Spanned<ExceptKey>>,
}

/// A panel that hangs otherwise than the others.
#[derive(Clone, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct ExceptKey {
    /// Which, counted from the one that the controller feeds, from 0.
    pub panel: Spanned<usize>,
    /// How far it is turned clockwise, in degrees.
    pub rotate: Spanned<u32>,
}

/// The key `fold`.
#[derive(Clone, Default, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct FoldKey {
    /// How many columns of a row the chain goes through before it goes to the next row of the address.
    pub block: Option<Spanned<u32>>,
    /// Which of those rows it goes through first, seen from the input.
    pub first: Option<Spanned<RowEnd>>,
    /// True if it runs back through every other piece.
    pub serpentine: Option<Spanned<bool>>,
}

/// How a chain leads through the rows of one address.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Fold {
    /// Columns of a piece.
    pub block: usize,
    /// Which row comes first.
    pub first: RowEnd,
    /// True if every other piece runs back.
    pub serpentine: bool,
}

/// How the panels are made and hang.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Layout {
    /// The size of one upright panel.
    pub panel: (usize, usize),
    /// Panels side by side.
    pub across: usize,
    /// Rows of panels.
    pub down: usize,
    /// Which end of its first row the chain comes in at.
    pub first: End,
    /// Which row it goes through first.
    pub first_row: RowEnd,
    /// True if every other row runs the other way.
    pub serpentine: bool,
    /// How each panel hangs, in the order of the chain.
    pub turns: Vec<Turn>,
    /// How many addresses there are.
    pub scan: usize,
    /// How the chain leads through the rows of an address.
    pub fold: Fold,
    /// Which colour, 0 red to 2 blue, the lines R, G and B light.
    pub lights: [usize; 3],
}

impl Layout {
    /// How many panels there are.
    #[must_use]
    pub const fn panels(&self) -> usize {
        self.across * self.down
    }

    /// How many rows of a half an address lights.
    #[must_use]
    pub const fn folds(&self) -> usize {
        self.panel.1 / 2 / self.scan
    }

    /// How many columns are shifted for an address.
    #[must_use]
    pub const fn columns(&self) -> usize {
        self.panels() * self.panel.0 * self.folds()
    }

    /// How many nodes there are.
    #[must_use]
    pub const fn node_count(&self) -> usize {
        self.scan * self.columns() * LINES
    }
}
