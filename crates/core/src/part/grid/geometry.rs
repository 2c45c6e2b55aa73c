//! The receiving side: which light is at each line of each grid. The lines of all grids follow one another.

use super::dots::{DotPlan, Line, Strip};
use super::{GridLine, GridPlan, Grids};
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

impl DotPlan {
    /// Where the lights of a face are: at each line of each grid, the light whose row and column are both there.
    pub fn geometry(&self, face: &Face) -> Geometry {
        let Grids { parts, grids, lines, .. } = self.memory;
        let mut elements = Vec::with_capacity(parts * grids * lines);
        for part in 0..parts {
            for grid in 0..grids {
                for line in 0..lines {
                    let is_here = |strip: &Strip| {
                        let own = match strip.line {
                            Line::Grid(of) => of == grid,
                            Line::Segment(of) => of == line,
                        };
                        // Where neither list names a part it is the first.
                        own && strip.part.is_none_or(|of| of == part)
                    };
                    let found = self.channels.iter().enumerate().find_map(|(channel, lights)| {
                        let y = lights.rows.iter().position(is_here)?;
                        let x = lights.columns.iter().position(is_here)?;
                        let says_part = lights.rows[y].part.is_some() || lights.columns[x].part.is_some();
                        let Element(first) = face.dot(x, y).filter(|_| says_part || part == 0)?;
                        Some(Element(first + channel))
                    });
                    elements.push(found);
                }
            }
        }
        Geometry::new(elements)
    }
}
