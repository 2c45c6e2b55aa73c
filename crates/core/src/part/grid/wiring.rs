//! The sending side: at which node each element is. A node is `(part * grids + grid) * lines + line`.

use super::{GridLine, GridPlan};
use crate::face::Face;
use crate::part::digits;
use crate::rig::DriveTable;
use crate::wiring::{Node, Wiring};

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
