//! The receiving side: which light is at each line of each grid. The lines of all grids follow one another.

use super::{GridLine, GridPlan};
use crate::face::{Element, Face};
use crate::geometry::Geometry;

impl GridPlan {
    /// Where the lights of a face are.
    pub fn geometry(&self, face: &Face) -> Geometry {
        // The names stand as they are written: the last one is at the lowest line.
        let mut line_names: Vec<&str> = self.order.names().collect();
        line_names.reverse();
        let light_at = |grid: usize, line: usize| -> Option<Element> {
            let extra = self.extras.iter().enumerate().find(|(_, place)| **place == GridLine { grid, line });
            if let Some((extra, _)) = extra {
                return Some(face.extra(extra));
            }
            let digit = self.digits.iter().position(|of_digit| *of_digit == grid)?;
            let segment = face.style().segment_index(line_names.get(line)?)?;
            Some(face.element(digit, segment))
        };
        let grids = self.memory.parts * self.memory.grids;
        let places = (0..grids).flat_map(|grid| (0..self.memory.lines).map(move |line| (grid, line)));
        Geometry::new(places.map(|(grid, line)| light_at(grid, line)).collect())
    }
}
