//! Modules of 8x8 dots in a chain: which dot is which digit line and data bit of which part.
//!
//! ```toml
//! modules = { first = "right", lines_are = "rows", rotate = 0, flip = "none" }
//! ```

use serde::Deserialize;
use serde_spanned::Spanned;

use super::facts;
use crate::face::Face;
use crate::rig::{DriveTable, End, Place, Problem, Written};
use crate::wiring::{Node, Wiring};

/// Dots along each side of a module.
const SIDE: usize = 8;

/// The key `modules`.
#[derive(Clone, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Modules {
    /// Which end of each row of modules the chain comes in at.
    first: Option<Spanned<End>>,
    lines_are: Option<Spanned<LinesAre>>,
    /// How far each module is turned clockwise, in degrees.
    rotate: Option<Spanned<u32>>,
    flip: Option<Spanned<Flip>>,
}

#[derive(Clone, Copy, PartialEq, Eq, Deserialize)]
#[serde(rename_all = "lowercase")]
enum LinesAre {
    Rows,
    Columns,
}

#[derive(Clone, Copy, PartialEq, Eq, Deserialize)]
#[serde(rename_all = "lowercase")]
enum Flip {
    None,
    Horizontal,
    Vertical,
}

impl Written for LinesAre {
    fn written(&self) -> String {
        if *self == Self::Rows { "\"rows\"" } else { "\"columns\"" }.to_owned()
    }
}

impl Written for Flip {
    fn written(&self) -> String {
        match self {
            Self::None => "\"none\"",
            Self::Horizontal => "\"horizontal\"",
            Self::Vertical => "\"vertical\"",
        }
        .to_owned()
    }
}

/// How the modules are arranged.
#[derive(Clone, Copy)]
pub struct Arrangement {
    across: usize,
    first: End,
    lines_are: LinesAre,
    rotate: u32,
    flip: Flip,
}

impl Arrangement {
    /// From the key; `None` when an error was found.
    pub fn plan(face: &Face, keys: Option<&Spanned<Modules>>, table: &DriveTable<'_>) -> Option<Self> {
        for (key, side) in [("width", face.dots.width), ("height", face.dots.height)] {
            if side % SIDE != 0 {
                let (found, allowed) = (side.to_string(), format!("a multiple of {SIDE}"));
                table.error(Place::Face(key), Problem::WrongValue { found, allowed });
                return None;
            }
        }
        let keys = keys.map(Spanned::get_ref);
        let rotate = table.or_assume("modules.rotate", keys.and_then(|keys| keys.rotate.clone()), 0);
        if ![0, 90, 180, 270].contains(rotate.get_ref()) {
            let (found, allowed) = (rotate.get_ref().to_string(), "0, 90, 180 or 270".to_owned());
            table.error(rotate.span(), Problem::WrongValue { found, allowed });
            return None;
        }
        let first = table.or_assume("modules.first", keys.and_then(|keys| keys.first.clone()), End::Right);
        let lines_are = table.or_assume(
            "modules.lines_are",
            keys.and_then(|keys| keys.lines_are.clone()),
            LinesAre::Rows,
        );
        let flip = table.or_assume("modules.flip", keys.and_then(|keys| keys.flip.clone()), Flip::None);
        Some(Self {
            across: face.dots.width / SIDE,
            first: *first.get_ref(),
            lines_are: *lines_are.get_ref(),
            rotate: *rotate.get_ref(),
            flip: *flip.get_ref(),
        })
    }

    /// How many parts it takes, one a module.
    pub const fn parts(face: &Face) -> usize {
        (face.dots.width / SIDE) * (face.dots.height / SIDE)
    }

    /// The node of a dot.
    fn node(&self, x: usize, y: usize) -> Node {
        let column = match self.first {
            End::Left => x / SIDE,
            End::Right => self.across - 1 - x / SIDE,
        };
        let part = y / SIDE * self.across + column;
        let (x, y) = (x % SIDE, y % SIDE);
        let far = SIDE - 1;
        let (mut x, mut y) = match self.rotate {
            90 => (y, far - x),
            180 => (far - x, far - y),
            270 => (far - y, x),
            _ => (x, y),
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

    /// The wiring of all dots.
    pub fn wiring(&self, face: &Face) -> Option<Wiring> {
        let dots = (0..face.dots.height).flat_map(|y| (0..face.dots.width).map(move |x| (x, y)));
        Wiring::new(dots.map(|(x, y)| self.node(x, y)).collect(), Self::parts(face) * facts::NODES).ok()
    }
}
