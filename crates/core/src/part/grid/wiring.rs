//! The sending side: at which node each element is. A node is `(part * grids + grid) * lines + line`.

use super::{GridLine, GridPlan};
use crate::face::Face;
use crate::rig::{DriveTable, Place, Problem};
use crate::wiring::{Node, Wiring, WiringError};

impl GridPlan {
    const fn node(&self, place: GridLine) -> Node {
        Node(place.grid * self.memory.lines + place.line)
    }

    /// The wiring of a face; what is wired twice is reported.
    pub fn wiring(&self, face: &Face, table: &DriveTable<'_>) -> Option<Wiring> {
        let mut nodes = Vec::with_capacity(face.element_count());
        for grid in &self.digits {
            for (segment, name) in face.style().segment_names().iter().enumerate() {
                let place = self.order.bit_of(segment).map(|line| GridLine { grid: *grid, line });
                match place.and_then(|place| self.extras.iter().position(|extra| *extra == place)) {
                    None => nodes.push(place.map(|place| self.node(place))),
                    // A colon on a digit's point: that digit has none.
                    Some(_) if segment == face.style().point_index() => nodes.push(None),
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
        nodes.extend(self.extras.iter().map(|extra| Some(self.node(*extra))));
        let wiring = Wiring::new(nodes, self.memory.nodes());
        if let Err(WiringError::Shared { second, .. }) = wiring {
            let extra = second.0.checked_sub(first_extra).and_then(|extra| table.extras().get(extra));
            match extra {
                Some(name) => {
                    table.error(name.span(), Problem::NodeTwice { node: name.get_ref().clone() });
                }
                None => table.error(Place::Drive("digits"), Problem::NameTwice { name: "a grid".into() }),
            }
        }
        wiring.ok()
    }
}
