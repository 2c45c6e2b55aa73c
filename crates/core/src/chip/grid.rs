//! Parts with a display memory of grids and segment lines: how digits, colons, lamps and keys are wired to them, and
//! the shortest way to bring such a memory up to date.

use std::ops::Range;

use serde_spanned::Spanned;

use crate::face::Face;
use crate::glyph::{BitOrder, Style};
use crate::rig::{DriveTable, Place, Problem};
use crate::wiring::{Node, Wiring, WiringError};

/// The memory of a part, or of several equal ones: node `(part * grids + grid) * lines + line`.
pub struct Grids {
    /// How many parts there are.
    pub parts: usize,
    /// Grids of a part, and segment lines of a grid.
    pub grids: usize,
    /// Segment lines of a grid.
    pub lines: usize,
    /// The data sheet's names before the number, and the number of the first: `("grid", 1)`.
    pub grid_name: (&'static str, usize),
    /// The same for lines: `("seg", 1)`.
    pub line_name: (&'static str, usize),
}

/// The keys of such a part's drive table.
#[derive(serde::Deserialize)]
pub struct GridKeys {
    /// Which segment is on which line, the highest first.
    pub(super) segments: Option<Spanned<String>>,
    /// The grid of each digit, from left to right.
    pub(super) digits: Option<Spanned<Vec<Spanned<String>>>>,
    /// How often everything is sent again.
    pub(super) resend: Option<Spanned<String>>,
    pub(super) brightness: Option<Spanned<u8>>,
    /// The high level at the part, after any level converter.
    pub(super) bus_volts: Option<Spanned<f64>>,
}

impl Grids {
    /// How many nodes there are.
    #[must_use]
    pub const fn nodes(&self) -> usize {
        self.parts * self.grids * self.lines
    }

    fn numbered(name: &str, (prefix, first): (&str, usize), count: usize) -> Option<usize> {
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

    /// A node by its name: `grid2.seg8`.
    fn node(&self, name: &str) -> Option<Node> {
        let (grid, line) = name.rsplit_once('.')?;
        let line = Self::numbered(line, self.line_name, self.lines)?;
        Some(Node(self.grid(grid)? * self.lines + line))
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

    /// The wiring of a face; `order` is the default of `segments`.
    pub fn plan(
        &self,
        face: &Face,
        keys: &GridKeys,
        order: &str,
        table: &DriveTable<'_>,
    ) -> Option<(Wiring, BitOrder)> {
        if face.dots.width > 0 {
            table.error(Place::Face("kind"), Problem::NoDots);
            return None;
        }
        let written = table.or_assume("segments", keys.segments.clone(), order.to_owned());
        let order = BitOrder::parse(written.get_ref(), face.style)
            .map_err(|error| table.error(written.span(), Problem::BitOrder(error)))
            .ok()?;
        if order.width() > self.lines {
            let (found, allowed) = (format!("{} bits", order.width()), format!("at most {}", self.lines));
            table.error(written.span(), Problem::WrongValue { found, allowed });
            return None;
        }
        let grids = self.digit_grids(face, keys, table)?;
        let extras: Vec<Node> = table
            .extras()
            .iter()
            .map(|name| {
                let node = self.node(name.get_ref());
                if node.is_none() {
                    let found = format!("{:?}", name.get_ref());
                    let allowed = format!("a node {}", self.range(true));
                    table.error(name.span(), Problem::WrongValue { found, allowed });
                }
                node
            })
            .collect::<Option<_>>()?;
        let mut nodes = Vec::with_capacity(face.element_count());
        for grid in grids {
            for (segment, name) in face.style.segment_names().iter().enumerate() {
                let node = order.bit_of(segment).map_or(Node::NOWHERE, |bit| Node(grid * self.lines + bit));
                match extras.iter().position(|extra| *extra == node) {
                    None => nodes.push(node),
                    // A colon on a digit's point: that digit has none.
                    Some(_) if segment == face.style.point_index() => nodes.push(Node::NOWHERE),
                    Some(extra) => {
                        let taken = table.extras()[extra];
                        let node = taken.get_ref().clone();
                        table.error(taken.span(), Problem::NodeTaken { node, segment: name });
                        return None;
                    }
                }
            }
        }
        let first_extra = nodes.len();
        nodes.extend(extras);
        let wiring = Wiring::new(nodes, self.nodes());
        if let Err(WiringError::Shared { second, .. }) = wiring {
            let extra = second.0.checked_sub(first_extra).and_then(|extra| table.extras().get(extra));
            match extra {
                Some(name) => {
                    table.error(name.span(), Problem::NodeTwice { node: name.get_ref().clone() });
                }
                None => table.error(Place::Drive("digits"), Problem::NameTwice { name: "a grid".into() }),
            }
        }
        Some((wiring.ok()?, order))
    }

    /// The grid of each digit.
    fn digit_grids(&self, face: &Face, keys: &GridKeys, table: &DriveTable<'_>) -> Option<Vec<usize>> {
        let all = self.parts * self.grids;
        let Some(written) = &keys.digits else {
            if face.digits > all {
                let (found, needed) = (format!("{all} digits"), face.digits.to_string());
                table.error(Place::Face("digits"), Problem::WrongCount { found, needed });
                return None;
            }
            return Some((0..face.digits).collect());
        };
        if written.get_ref().len() != face.digits {
            let (found, needed) = (format!("{} digits", written.get_ref().len()), face.digits.to_string());
            table.error(written.span(), Problem::WrongCount { found, needed });
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

/// What a driver knows a memory to hold.
#[derive(Debug, Clone)]
pub struct Memory {
    held: Vec<Option<u8>>,
    wanted: Vec<u8>,
}

impl Memory {
    /// A memory of so many bytes, of which nothing is known.
    #[must_use]
    pub fn new(bytes: usize) -> Self {
        Self { held: vec![None; bytes], wanted: vec![0; bytes] }
    }

    /// What it is to hold.
    pub fn wanted_mut(&mut self) -> &mut [u8] {
        &mut self.wanted
    }

    /// All that it is to hold.
    #[must_use]
    pub fn wanted(&self) -> &[u8] {
        &self.wanted
    }

    /// It holds what it is to hold: all was sent.
    pub fn sent(&mut self) {
        for (held, wanted) in self.held.iter_mut().zip(&self.wanted) {
            *held = Some(*wanted);
        }
    }

    /// The next run of bytes from `from` on that has to be sent. Runs with no more than `gap` unchanged bytes between
    /// are one, since a run of its own would take that many bytes for its beginning.
    #[must_use]
    pub fn next_run(&self, from: usize, gap: usize) -> Option<Range<usize>> {
        let changed = |index: &usize| self.held[*index] != Some(self.wanted[*index]);
        let begin = (from..self.held.len()).find(changed)?;
        let mut end = begin + 1;
        while let Some(next) = (end..self.held.len().min(end + gap + 1)).find(changed) {
            end = next + 1;
        }
        Some(begin..end)
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn runs(held: &[u8], wanted: &[u8], gap: usize) -> Vec<Range<usize>> {
        let mut memory = Memory::new(held.len());
        memory.wanted_mut().copy_from_slice(held);
        memory.sent();
        memory.wanted_mut().copy_from_slice(wanted);
        let mut runs: Vec<Range<usize>> = Vec::new();
        while let Some(run) = memory.next_run(runs.last().map_or(0, |run| run.end), gap) {
            runs.push(run);
        }
        runs
    }

    #[test]
    fn runs_are_joined_where_that_is_no_longer() {
        assert_eq!(runs(&[0; 6], &[0; 6], 1), []);
        assert_eq!(runs(&[0; 6], &[1, 0, 1, 0, 0, 1], 1), [0..3, 5..6]);
        assert_eq!(runs(&[0; 6], &[1, 0, 1, 0, 0, 1], 2).first(), Some(&(0..6)));
        assert_eq!(runs(&[0; 6], &[0, 0, 0, 0, 0, 1], 9).first(), Some(&(5..6)));
    }
}
