//! Where the dots of panels are: which dot is which address, column and data line of the chain.
//!
//! ```toml
//! panel = "64x32"         # one panel as it stands upright
//! scan = "1/16"           # so many addresses: each lights a row of the upper half and one of the lower
//! panels = { first = "right", first_row = "top", serpentine = false, rotate = 0, except = [{ panel = 1, rotate = 180 }] }
//! fold = { block = 8, first = "top", serpentine = false }
//! ```
//!
//! The node of a light is a place of the connector: `6 (columns a + c) + l` is data line `l` (R1 G1 B1 R2 G2 B2) in the
//! `c`th column that is shifted in for address `a`. The column that is shifted first ends in the farthest stage.
//!
//! A panel of which an address lights several rows of each half (scan 1/8 with 16 rows a half) leads its chain through
//! those rows in turns: `block` columns of the one, the same columns of the next, and so on along the panel. In a
//! serpentine fold the chain runs back through every other piece.

use serde::Deserialize;

use super::facts;
use crate::dots::places;
use crate::face::{Element, Face};
use crate::geometry::Geometry;
use crate::part::modules::{RowEnd, Turn};
use crate::rig::{End, Spanned};
use crate::wiring::{Node, Wiring};

/// Data lines of a connector.
pub const LINES: usize = facts::DATA_LINES.len();

/// The key `panels`.
#[derive(Clone, Default, Deserialize, schemars::JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct PanelsKey {
    /// Which end of each row of panels the chain comes in at.
    pub first: Option<Spanned<End>>,
    /// Which row of panels the chain goes through first.
    pub first_row: Option<Spanned<RowEnd>>,
    /// Whether every other row runs the other way, its panels on their heads, so that the cable between rows is short.
    pub serpentine: Option<Spanned<bool>>,
    /// How far each panel is turned clockwise, in degrees.
    pub rotate: Option<Spanned<u32>>,
    /// Panels that hang otherwise than the others.
    #[serde(default)]
    pub except: Vec<Spanned<ExceptKey>>,
}

/// A panel that hangs otherwise than the others.
#[derive(Clone, Deserialize, schemars::JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct ExceptKey {
    /// Which, counted from the one that the controller feeds, from 0.
    pub panel: Spanned<usize>,
    /// How far it is turned clockwise, in degrees.
    pub rotate: Spanned<u32>,
}

/// The key `fold`.
#[derive(Clone, Default, Deserialize, schemars::JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct FoldKey {
    /// How many columns of a row the chain goes through before it goes to the next row of the address.
    pub block: Option<Spanned<u32>>,
    /// Which of those rows it goes through first, seen from the input.
    pub first: Option<Spanned<RowEnd>>,
    /// Whether it runs back through every other piece.
    pub serpentine: Option<Spanned<bool>>,
}

/// How a chain leads through the rows of one address.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Fold {
    /// Columns of a piece.
    pub block: usize,
    /// Which row comes first.
    pub first: RowEnd,
    /// Whether every other piece runs back.
    pub serpentine: bool,
}

/// How the panels are made and hang.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Layout {
    /// The size of one panel as it stands upright.
    pub panel: (usize, usize),
    /// Panels side by side.
    pub across: usize,
    /// Rows of panels.
    pub down: usize,
    /// Which end of its first row the chain comes in at.
    pub first: End,
    /// Which row it goes through first.
    pub first_row: RowEnd,
    /// Whether every other row runs the other way.
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

    /// The sending side: the nodes of a dot's red, green and blue.
    fn nodes(&self, x: usize, y: usize) -> [Node; 3] {
        let (width, height) = self.panel;
        let upright = self.turns.first().is_some_and(|turn| turn.is_upright());
        let (hung_width, hung_height) = if upright { (height, width) } else { (width, height) };
        let (panel_x, panel_y) = (x / hung_width, y / hung_height);
        // Which row of the chain that is, and whether the chain goes through it from the right.
        let row = if self.first_row == RowEnd::Top { panel_y } else { self.down - 1 - panel_y };
        let from_right = matches!(self.first, End::Right) != (self.serpentine && row % 2 == 1);
        let place = if from_right { self.across - 1 - panel_x } else { panel_x };
        let panel = row * self.across + place;
        // Undo the turn.
        let (x, y) = (x % hung_width, y % hung_height);
        let (x, y) = match self.turns[panel] {
            Turn::Not => (x, y),
            Turn::Quarter => (y, height - 1 - x),
            Turn::Half => (width - 1 - x, height - 1 - y),
            Turn::ThreeQuarters => (width - 1 - y, x),
        };
        let (half, y) = (y / (height / 2), y % (height / 2));
        let (address, piece) = (y % self.scan, y / self.scan);
        let Fold { block, first, serpentine } = self.fold;
        let piece = if first == RowEnd::Top { piece } else { self.folds() - 1 - piece };
        let along = if matches!(self.first, End::Right) { width - 1 - x } else { x };
        let within = along % block;
        let within = if serpentine && piece % 2 == 1 { block - 1 - within } else { within };
        let stage = panel * width * self.folds() + (along / block * self.folds() + piece) * block + within;
        // What is shifted first ends farthest away.
        let column = self.columns() - 1 - stage;
        let first = (address * self.columns() + column) * LINES + 3 * half;
        [0, 1, 2].map(|colour| {
            let line = self.lights.iter().position(|lit| *lit == colour).unwrap_or(colour);
            Node(first + line)
        })
    }

    /// The sending side: the address of a dot.
    #[must_use]
    pub fn address(&self, x: usize, y: usize) -> usize {
        let [Node(first), ..] = self.nodes(x, y);
        first / (self.columns() * LINES)
    }

    /// The sending side: the wiring of all dots.
    #[must_use]
    pub fn wiring(&self, (width, height): (usize, usize)) -> Option<Wiring> {
        let dots = places(width, height);
        let nodes = dots.flat_map(|(x, y)| self.nodes(x, y).map(Some));
        Wiring::new(nodes.collect(), self.node_count()).ok()
    }

    /// The receiving side: a hand that follows the chain from the input, panel by panel and stage by stage, and sees which
    /// dots of the wall each stage feeds. A panel is a thing in space that is turned about its middle.
    #[must_use]
    pub fn geometry(&self, face: &Face) -> Geometry {
        let columns = self.columns();
        let mut elements: Vec<Option<Element>> = vec![None; self.node_count()];
        let stages = self.stages();
        for (number, (middle, turn)) in self.hung().into_iter().zip(&self.turns).enumerate() {
            for (place, (x, piece)) in stages.iter().enumerate() {
                let stage = number * stages.len() + place;
                for address in 0..self.scan {
                    for (line, lit) in self.lights.iter().cycle().take(LINES).enumerate() {
                        let half_begins = if line < 3 { 0 } else { self.panel.1 / 2 };
                        let y = half_begins + piece * self.scan + address;
                        let dot = self.seen((*x, y), middle, *turn).and_then(|(x, y)| face.dot(x, y));
                        // The last column that came is in the first stage.
                        let node = (address * columns + (columns - 1 - stage)) * LINES + line;
                        elements[node] = dot.map(|Element(first)| Element(first + lit));
                    }
                }
            }
        }
        Geometry::new(elements)
    }

    /// The stages of an upright panel from its input on: in which column each is, and in which of an address's rows.
    fn stages(&self) -> Vec<(usize, usize)> {
        let mut stages = Vec::new();
        let mut begun = 0;
        while begun < self.panel.0 {
            for piece in 0..self.folds() {
                let mut columns: Vec<_> = (begun..begun + self.fold.block).collect();
                if self.fold.serpentine && piece % 2 == 1 {
                    columns.reverse();
                }
                let row =
                    if matches!(self.fold.first, RowEnd::Bottom) { self.folds() - 1 - piece } else { piece };
                stages.extend(columns.into_iter().map(|column| {
                    let x = if matches!(self.first, End::Left) { column } else { self.panel.0 - 1 - column };
                    (x, row)
                }));
            }
            begun += self.fold.block;
        }
        stages
    }

    /// The middles of the panels in the order of the chain.
    fn hung(&self) -> Vec<(f32, f32)> {
        let is_upright = self.turns.first().is_some_and(|turn| turn.is_upright());
        let (mut wide, mut high) = (self.panel.0 as f32, self.panel.1 as f32);
        if is_upright {
            std::mem::swap(&mut wide, &mut high);
        }
        let mut middles = Vec::new();
        let mut rightwards = matches!(self.first, End::Left);
        for row in 0..self.down {
            let from_top = match self.first_row {
                RowEnd::Top => row,
                RowEnd::Bottom => self.down - 1 - row,
            };
            for step in 0..self.across {
                let from_left = if rightwards { step } else { self.across - 1 - step };
                middles.push(((from_left as f32 + 0.5) * wide, (from_top as f32 + 0.5) * high));
            }
            rightwards ^= self.serpentine;
        }
        middles
    }

    /// Where on the wall a dot of an upright panel is once the panel is turned about its middle.
    fn seen(&self, (x, y): (usize, usize), middle: (f32, f32), turn: Turn) -> Option<(usize, usize)> {
        let right = x as f32 + 0.5 - self.panel.0 as f32 / 2.0;
        let down = y as f32 + 0.5 - self.panel.1 as f32 / 2.0;
        // Clockwise: what points to the right then points down.
        let (sine, cosine) = turn.sine_cosine();
        let at = (middle.0 + right * cosine - down * sine, middle.1 + right * sine + down * cosine);
        (at.0 >= 0.0 && at.1 >= 0.0).then_some((at.0 as usize, at.1 as usize))
    }
}
