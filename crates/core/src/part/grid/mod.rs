//! Parts with a display memory of grids and segment lines: how a rig says what is wired to them.
//!
//! [`GridPlan`] is what the rig says, as plain data. `wiring.rs` makes the sending side's map of it, `geometry.rs` the
//! receiving side's; `dots.rs` is all three for faces of dots; `memory.rs` finds the shortest updates of such a memory.

mod dots;
mod geometry;
mod shadow;
mod wiring;

use crate::rig::Spanned;

pub use dots::DotPlan;
pub use shadow::Shadow;

use super::trouble::PartTrouble;
use super::{ByteCode, NoByte};
use crate::face::Face;
use crate::geometry::Geometry;
use crate::glyph::{BitOrder, Common, Style};
use crate::rig::{DriveTable, Place, Problem};
use crate::wiring::Wiring;

/// The memory of a part, or of several equal ones.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Grids {
    /// How many parts there are.
    pub parts: usize,
    /// Grids of a part.
    pub grids: usize,
    /// Segment lines of a grid.
    pub lines: usize,
    /// The data sheet's name of a grid before the number, and the number of the first: `("grid", 1)`.
    pub grid_name: (&'static str, usize),
    /// The same for lines: `("seg", 1)`.
    pub line_name: (&'static str, usize),
}

/// A segment line of a grid; grids count through all parts.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct GridLine {
    /// The grid, from 0.
    pub grid: usize,
    /// The line, from 0.
    pub line: usize,
}

/// Digits that are wired to such a memory.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct GridPlan {
    /// The memory.
    pub memory: Grids,
    /// The grid of each digit, from left to right.
    pub digits: Vec<usize>,
    /// Which segment is on which line, the highest first.
    pub order: BitOrder,
    /// The place of each colon and lamp.
    pub extras: Vec<GridLine>,
}

/// The wiring of such a memory, digits or dots.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum Wired {
    /// Digits, with colons and lamps.
    Digits(GridPlan),
    /// Dots.
    Dots(DotPlan),
}

impl Wired {
    /// From the rig; `order` is the default of `segments`.
    pub fn plan(
        memory: Grids,
        face: &Face,
        keys: &GridKeys,
        order: &str,
        table: &DriveTable<'_>,
    ) -> Option<(Self, Wiring)> {
        Some(match face.dots() {
            Some(grid) => {
                let dots = memory.dots(grid, keys, table)?;
                let wiring = dots.wiring(table)?;
                (Self::Dots(dots), wiring)
            }
            None => {
                let digits = memory.plan(face, keys, order, table)?;
                let wiring = digits.wiring(face, table)?;
                (Self::Digits(digits), wiring)
            }
        })
    }

    /// Where the lights of a face are, as the receiving side knows it.
    pub fn geometry(&self, face: &Face) -> Geometry {
        match self {
            Self::Digits(digits) => digits.geometry(face),
            Self::Dots(dots) => dots.geometry(face),
        }
    }

    /// The byte of a digit. A 1 in the memory lights, whatever side is joined.
    pub fn byte_code(&self) -> Result<ByteCode, NoByte> {
        match self {
            Self::Digits(digits) => Ok(ByteCode { order: digits.order.clone(), polarity: Common::Cathode }),
            Self::Dots(_) => Err(NoByte::Dots),
        }
    }
}

/// The keys of such a part's drive table.
#[derive(serde::Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub struct GridKeys {
    /// Which segment is on which line, the highest first.
    segments: Option<Spanned<String>>,
    /// The grid of each digit, from left to right.
    digits: Option<Spanned<Vec<Spanned<String>>>>,
    /// Of dots: the grid or line of each row, from the top.
    rows: Option<Spanned<Vec<Spanned<String>>>>,
    /// Of dots: the line or grid of each column, from the left.
    columns: Option<Spanned<Vec<Spanned<String>>>>,
    /// The same of the green lights, where dots have some.
    green_rows: Option<Spanned<Vec<Spanned<String>>>>,
    /// The same of the green lights, where dots have some.
    green_columns: Option<Spanned<Vec<Spanned<String>>>>,
    /// How often everything is sent again.
    pub(super) resend: Option<Spanned<String>>,
    /// The part's step at power-up.
    pub(super) brightness: Option<Spanned<u8>>,
    /// The high level at the part, after any level converter.
    pub(super) bus_volts: Option<Spanned<f64>>,
}

impl Grids {
    /// How many places there are.
    #[must_use]
    pub const fn nodes(&self) -> usize {
        self.parts * self.grids * self.lines
    }

    fn numbered(name: &str, series: (&str, usize), count: usize) -> Option<usize> {
        let (prefix, first) = series;
        let number: usize = name.strip_prefix(prefix)?.parse().ok()?;
        number.checked_sub(first).filter(|index| *index < count)
    }

    /// A grid by its name, of several parts with the part before: `part1.com2`.
    fn grid(&self, name: &str) -> Option<usize> {
        let (part, grid) = match name.split_once('.').filter(|(part, _)| part.starts_with("part")) {
            Some((part, grid)) => (Self::numbered(part, ("part", 0), self.parts)?, grid),
            None => (0, name),
        };
        Some(part * self.grids + Self::numbered(grid, self.grid_name, self.grids)?)
    }

    /// A line of a grid by its name: `grid2.seg8`.
    fn grid_line(&self, name: &str) -> Option<GridLine> {
        let (grid, line) = name.rsplit_once('.')?;
        Some(GridLine { grid: self.grid(grid)?, line: Self::numbered(line, self.line_name, self.lines)? })
    }

    fn name_of(&self, grid: usize, line: Option<usize>) -> String {
        let part = if self.parts > 1 { format!("part{}.", grid / self.grids) } else { String::new() };
        let name = format!("{part}{}{}", self.grid_name.0, grid % self.grids + self.grid_name.1);
        line.map_or(name.clone(), |line| format!("{name}.{}{}", self.line_name.0, line + self.line_name.1))
    }

    fn range(&self, line: bool) -> String {
        let line = |line_index| line.then_some(line_index);
        let last = self.parts * self.grids - 1;
        format!("from \"{}\" to \"{}\"", self.name_of(0, line(0)), self.name_of(last, line(self.lines - 1)))
    }

    /// The wiring of digits; `order` is the default of `segments`.
    fn plan(self, face: &Face, keys: &GridKeys, order: &str, table: &DriveTable<'_>) -> Option<GridPlan> {
        let written = table.or_assume("segments", keys.segments.clone(), order.to_owned());
        let order = BitOrder::parse(written.get_ref(), face.style())
            .map_err(|error| table.error(written.span(), Problem::BitOrder(error)))
            .ok()?;
        if order.width() > self.lines && keys.segments.is_none() {
            let (needs, grid) = (order.width(), self.grid_name.0);
            let trouble = PartTrouble::FewLines { style: face.style(), needs, grid, has: self.lines };
            table.error(Place::Face("kind"), trouble);
            return None;
        }
        if order.width() > self.lines {
            let (found, allowed) = (format!("{} bits", order.width()), format!("at most {}", self.lines));
            table.error(written.span(), Problem::WrongValue { found, allowed });
            return None;
        }
        let digits = self.digit_grids(face, keys, table)?;
        let extra = |name: &&Spanned<String>| {
            let place = self.grid_line(name.get_ref());
            if place.is_none() {
                let found = format!("{:?}", name.get_ref());
                let allowed = format!("a node {}", self.range(true));
                table.error(name.span(), Problem::WrongValue { found, allowed });
            }
            place
        };
        let extras = table.extras().iter().map(extra).collect::<Option<_>>()?;
        Some(GridPlan { memory: self, digits, order, extras })
    }

    /// The grid of each digit.
    fn digit_grids(&self, face: &Face, keys: &GridKeys, table: &DriveTable<'_>) -> Option<Vec<usize>> {
        let all = self.parts * self.grids;
        let Some(written) = &keys.digits else {
            if face.digits() > all {
                let has = format!("{all} {}s", self.grid_name.0);
                let trouble = PartTrouble::FewGrids { digits: face.digits(), parts: self.parts, has };
                table.error(Place::Face("digits"), trouble);
                return None;
            }
            let names: Vec<_> =
                (0..face.digits()).map(|grid| format!("{:?}", self.name_of(grid, None))).collect();
            table.assume("digits", format!("[{}]", names.join(", ")));
            return Some((0..face.digits()).collect());
        };
        if written.get_ref().len() != face.digits() {
            let found = format!("{} digits", written.get_ref().len());
            table.error(written.span(), Problem::WrongCount { found, needed: face.digits().to_string() });
            return None;
        }
        let grid = |name: &Spanned<String>| {
            let grid = self.grid(name.get_ref());
            if grid.is_none() {
                let found = format!("{:?}", name.get_ref());
                let allowed = format!("a name {}", self.range(false));
                table.error(name.span(), Problem::WrongValue { found, allowed });
            }
            grid
        };
        written.get_ref().iter().map(grid).collect()
    }
}

/// The order of segments on lines where the rig does not say: upwards from the lowest line.
#[must_use]
pub fn usual_order(style: Style) -> &'static str {
    match style {
        Style::Seven => "dp g f e d c b a",
        Style::Fourteen => "dp m l k j i h g2 g1 f e d c b a",
        // Sixteen lines have no room for the point.
        Style::Sixteen => "m l k j i h g2 g1 f e d2 d1 c b a2 a1",
    }
}
