//! The sending side: at which node each element is. A node is `(part * grids + grid) * lines + line`.

use super::dots::{DotPlan, Lights, Line, Strip};
use super::{GridLine, GridPlan};
use crate::dots::places;
use crate::face::Face;
use crate::part::digits;
use crate::rig::{DriveTable, Place, Problem};
use crate::wiring::{Node, Wiring, WiringError};

impl GridPlan {
    const fn node(&self, place: GridLine) -> Node {
        Node(place.grid * self.memory.lines + place.line)
    }

    /// The wiring of a face; what is wired twice is reported.
    pub fn wiring(&self, face: &Face, table: &DriveTable<'_>) -> Option<Wiring> {
        let segment_node = |digit: usize, segment| {
            let line = self.order.bit_of(segment)?;
            Some(self.node(GridLine { grid: self.digits[digit], line }))
        };
        let extras = self.extras.iter().map(|extra| Some(self.node(*extra))).collect();
        digits::wire(face, segment_node, extras, self.memory.nodes(), table)
    }
}

impl DotPlan {
    /// The node of the light where a row and a column cross.
    fn node(&self, row: Strip, column: Strip) -> Option<Node> {
        let part = match (row.part, column.part) {
            (Some(one), Some(other)) if one != other => return None,
            (one, other) => one.or(other).unwrap_or(0),
        };
        let (grid, line) = match (row.line, column.line) {
            (Line::Grid(grid), Line::Segment(line)) | (Line::Segment(line), Line::Grid(grid)) => (grid, line),
            _ => return None,
        };
        Some(Node((part * self.memory.grids + grid) * self.memory.lines + line))
    }

    /// The wiring of all dots; what is wired twice is reported.
    pub fn wiring(&self, table: &DriveTable<'_>) -> Option<Wiring> {
        let Lights { rows, columns } = &self.channels[0];
        let places = places(columns.len(), rows.len());
        let of_dot = |(x, y): (usize, usize)| {
            self.channels.iter().map(move |lights| self.node(lights.rows[y], lights.columns[x]))
        };
        Wiring::new(places.flat_map(of_dot).collect(), self.memory.nodes())
            .map_err(|error| {
                let (WiringError::Shared { node, .. } | WiringError::NoSuchNode { node, .. }) = error;
                let (grid, line) = (node.0 / self.memory.lines, node.0 % self.memory.lines);
                let node = self.memory.name_of(grid, Some(line));
                table.error(Place::Drive("columns"), Problem::NodeTwice { node });
            })
            .ok()
    }
}
