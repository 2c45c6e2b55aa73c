//! Modules of 8x8 dots in a chain: which dot is which digit line and data bit of which part.
//!
//! ```toml
//! modules = { first = "right", lines_are = "rows", rotate = 0, flip = "none" }
//! ```
//!
//! A module as it lies: digit line 0 is the top row (or the left column, with `lines_are = "columns"`), data bit 7 the left
//! dot of a row (or the top one of a column). It is flipped first, then turned clockwise, both as seen from the front.

use serde::Deserialize;
use crate::rig::Spanned;

use super::facts;
use crate::face::{Channels, Element, Face, Grid};
use crate::geometry::Geometry;
use crate::rig::{DriveTable, End, Place, Problem, Word};
use crate::wiring::{Node, Wiring};

/// Dots along each side of a module.
const SIDE: usize = 8;

/// The key `modules`.
#[derive(Clone, Deserialize, schemars::JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Modules {
    /// Which end of each row of modules the chain comes in at.
    first: Option<Spanned<End>>,
    /// What the digit lines of a module are.
    lines_are: Option<Spanned<LinesAre>>,
    /// How far each module is turned clockwise, in degrees.
    rotate: Option<Spanned<u32>>,
    /// Whether a module is a mirror image.
    flip: Option<Spanned<Flip>>,
}

/// What the digit lines of a module are, as it lies before it is flipped and turned.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Deserialize, schemars::JsonSchema)]
#[serde(rename_all = "lowercase")]
#[allow(missing_docs, reason = "the words say it")]
pub enum LinesAre {
    Rows,
    Columns,
}

/// Whether a module is a mirror image, left and right or top and bottom exchanged.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Deserialize, schemars::JsonSchema)]
#[serde(rename_all = "lowercase")]
#[allow(missing_docs, reason = "the words say it")]
pub enum Flip {
    None,
    Horizontal,
    Vertical,
}

impl Word for LinesAre {
    fn word(&self) -> &'static str {
        if *self == Self::Rows { "rows" } else { "columns" }
    }
}

impl Word for Flip {
    fn word(&self) -> &'static str {
        match self {
            Self::None => "none",
            Self::Horizontal => "horizontal",
            Self::Vertical => "vertical",
        }
    }
}

/// How far a module is turned clockwise.
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
}

/// How the modules are arranged.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct ModulePlan {
    /// Modules side by side.
    pub across: usize,
    /// Rows of modules.
    pub down: usize,
    /// Which end of each row of modules the chain comes in at.
    pub first: End,
    /// What the digit lines are.
    pub lines_are: LinesAre,
    /// How far each module is turned, after it was flipped.
    pub turn: Turn,
    /// How each module is flipped.
    pub flip: Flip,
}

impl ModulePlan {
    /// From the key; `None` when an error was found.
    pub fn plan(grid: Grid, keys: Option<&Spanned<Modules>>, table: &DriveTable<'_>) -> Option<Self> {
        for (key, side) in [("width", grid.width), ("height", grid.height)] {
            if side % SIDE != 0 {
                let (found, allowed) = (side.to_string(), format!("a multiple of {SIDE}"));
                table.error(Place::Face(key), Problem::WrongValue { found, allowed });
                return None;
            }
        }
        if grid.channels != Channels::One {
            table.error(Place::Face("kind"), Problem::NoDots);
            return None;
        }
        let keys = keys.map(Spanned::get_ref);
        let rotate = table.or_assume("modules.rotate", keys.and_then(|keys| keys.rotate.clone()), 0);
        let Some(turn) = Turn::of_degrees(*rotate.get_ref()) else {
            let (found, allowed) = (rotate.get_ref().to_string(), "0, 90, 180 or 270".to_owned());
            table.error(rotate.span(), Problem::WrongValue { found, allowed });
            return None;
        };
        let first = table.or_assume("modules.first", keys.and_then(|keys| keys.first.clone()), End::Right);
        let lines_are = table.or_assume(
            "modules.lines_are",
            keys.and_then(|keys| keys.lines_are.clone()),
            LinesAre::Rows,
        );
        let flip = table.or_assume("modules.flip", keys.and_then(|keys| keys.flip.clone()), Flip::None);
        Some(Self {
            across: grid.width / SIDE,
            down: grid.height / SIDE,
            first: *first.get_ref(),
            lines_are: *lines_are.get_ref(),
            turn,
            flip: *flip.get_ref(),
        })
    }

    /// How many parts it takes, one a module.
    pub const fn parts(&self) -> usize {
        self.across * self.down
    }

    /// The sending side: the node of a dot, found by undoing the turn and then the flip.
    fn node(&self, x: usize, y: usize) -> Node {
        let column = match self.first {
            End::Left => x / SIDE,
            End::Right => self.across - 1 - x / SIDE,
        };
        let part = y / SIDE * self.across + column;
        let (x, y) = (x % SIDE, y % SIDE);
        let far = SIDE - 1;
        let (mut x, mut y) = match self.turn {
            Turn::Not => (x, y),
            Turn::Quarter => (y, far - x),
            Turn::Half => (far - x, far - y),
            Turn::ThreeQuarters => (far - y, x),
        };
        match self.flip {
            Flip::None => {}
            Flip::Horizontal => x = far - x,
            Flip::Vertical => y = far - y,
        }
        // Data bit 7 is at the left, or at the top.
        let (line, bit) = match self.lines_are {
            LinesAre::Rows => (y, far - x),
            LinesAre::Columns => (x, far - y),
        };
        Node(part * facts::NODES + line * facts::SEGMENTS + bit)
    }

    /// The sending side: the wiring of all dots.
    pub fn wiring(&self) -> Option<Wiring> {
        let (width, height) = (self.across * SIDE, self.down * SIDE);
        let dots = (0..height).flat_map(|y| (0..width).map(move |x| (x, y)));
        Wiring::new(dots.map(|(x, y)| Some(self.node(x, y))).collect(), self.parts() * facts::NODES).ok()
    }

    /// The receiving side: each module is a thing in space, with its lights around its middle. It is flipped, turned, and
    /// set down in its place.
    pub fn geometry(&self, face: &Face) -> Geometry {
        // The middles of the rows of modules, in the order in which the chain goes through them.
        let module = SIDE as f32;
        let middles = (0..self.down).flat_map(|row| {
            (0..self.across).map(move |place| {
                let from_left = match self.first {
                    End::Left => place as f32,
                    End::Right => self.across as f32 - 1.0 - place as f32,
                };
                ((from_left + 0.5) * module, (row as f32 + 0.5) * module)
            })
        });
        let mut elements: Vec<Option<Element>> = Vec::with_capacity(self.parts() * facts::NODES);
        for (middle_x, middle_y) in middles {
            for digit_line in 0..8_u8 {
                for segment_line in 0..8_u8 {
                    // From the middle of the module, x to the right and y down: line 0 is the first, bit 7 too.
                    let (along, across) = (3.5 - f32::from(segment_line), f32::from(digit_line) - 3.5);
                    let (x, y) = match self.lines_are {
                        LinesAre::Rows => (along, across),
                        LinesAre::Columns => (across, along),
                    };
                    let (x, y) = match self.flip {
                        Flip::None => (x, y),
                        Flip::Horizontal => (-x, y),
                        Flip::Vertical => (x, -y),
                    };
                    // Clockwise: what points to the right then points down.
                    let (sine, cosine) = match self.turn {
                        Turn::Not => (0.0, 1.0),
                        Turn::Quarter => (1.0, 0.0),
                        Turn::Half => (0.0, -1.0),
                        Turn::ThreeQuarters => (-1.0, 0.0),
                    };
                    let (x, y) = (x * cosine - y * sine, x * sine + y * cosine);
                    elements.push(face.dot((middle_x + x) as usize, (middle_y + y) as usize));
                }
            }
        }
        Geometry::new(elements)
    }
}
