//! The receiving side: which dot each data line lights in each column of each address.

use super::layout::Layout;
use crate::face::{Element, Face};
use crate::geometry::Geometry;
use crate::part::modules::{RowEnd, Turn};
use crate::rig::End;

/// The data lines of a connector: red, green and blue of the upper half, then of the lower.
const LINES: usize = 6;

impl Layout {
    /// Where the lights are: a hand that follows the chain from the input, panel by panel and stage by stage, and sees which
    /// dots of the wall each stage feeds. A panel is a thing in space that is turned about its middle.
    #[must_use]
    pub fn geometry(&self, face: &Face) -> Geometry {
        let stages = self.stages();
        let columns = self.turns.len() * stages.len();
        let mut elements: Vec<Option<Element>> = vec![None; self.scan * columns * LINES];
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
        // The rows of a half that one address lights.
        let rows = self.panel.1 / 2 / self.scan;
        let mut begun = 0;
        while begun < self.panel.0 {
            for piece in 0..rows {
                let mut columns: Vec<_> = (begun..begun + self.fold.block).collect();
                if self.fold.serpentine && piece % 2 == 1 {
                    columns.reverse();
                }
                let row = if matches!(self.fold.first, RowEnd::Bottom) { rows - 1 - piece } else { piece };
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
