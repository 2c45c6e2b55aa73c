//! The receiving side: which light is on which data bit of which digit line, as someone sees who stands before the display.

use super::digits::DigitPlan;
use super::dots::{Flip, LinesAre, ModulePlan};
use crate::face::{Element, Face};
use crate::geometry::Geometry;
use crate::part::modules::RowEnd;
use crate::rig::End;

/// The segment lines of a part by data bit, lowest first (data sheet, no-decode data bits): DP on bit 7, then A to G.
const SEGMENT_LINES: [&str; 8] = ["g", "f", "e", "d", "c", "b", "a", "dp"];
/// The digit lines of a part.
const DIGIT_LINES: usize = 8;
/// Nodes of one part, a digit line after the other.
const NODES: usize = DIGIT_LINES * SEGMENT_LINES.len();

impl DigitPlan {
    /// Where the lights are. The parts stand in a row, the fed one at the end `first`; on each the digit lines run from the
    /// end `digit_0`. Seen along the row from the left, the digits are in their order.
    pub fn geometry(&self, face: &Face) -> Geometry {
        let wide = self.order.width() > SEGMENT_LINES.len();
        let (lines_each, parts) =
            if wide { (2, self.digits.div_ceil(4)) } else { (1, self.digits.div_ceil(8)) };
        // As fed: how many digits each part has; the last may have fewer.
        let mut left = self.digits;
        let mut row: Vec<(usize, Vec<usize>)> = Vec::new();
        for part in 0..parts {
            let here = left.min(DIGIT_LINES / lines_each);
            left -= here;
            let mut lines: Vec<usize> = (0..here).map(|digit| digit * lines_each).collect();
            if self.digit_0 == End::Right {
                lines.reverse();
            }
            row.push((part, lines));
        }
        if self.first == End::Right {
            row.reverse();
        }
        let mut elements: Vec<Option<Element>> = vec![None; parts * NODES];
        let names: Vec<&str> = self.order.names().collect();
        let standing = row.iter().flat_map(|(part, lines)| lines.iter().map(move |line| (*part, *line)));
        for (digit, (part, line)) in standing.enumerate() {
            // The last name is on the lowest bit, of a wide digit on that of its even line.
            for (bit, name) in names.iter().rev().enumerate() {
                let light = face.style().segment_index(name).map(|segment| face.element(digit, segment));
                elements[part * NODES + line * SEGMENT_LINES.len() + bit] = light;
            }
        }
        for (extra, place) in self.extras.iter().enumerate() {
            if let Some(bit) = SEGMENT_LINES.iter().position(|line| *line == place.segment) {
                let node = place.part * NODES + place.line * SEGMENT_LINES.len() + bit;
                elements[node] = Some(face.extra(extra));
            }
        }
        Geometry::new(elements)
    }
}

impl ModulePlan {
    /// Where the lights are: each module is a thing in space, with its lights around its middle. It is flipped, turned, and
    /// set down in its place: one after another along the chain, as a hand would follow the wire.
    pub fn geometry(&self, face: &Face) -> Geometry {
        let module = DIGIT_LINES as f32;
        let (right, foot) = (self.across as f32 - 1.0, self.down as f32 - 1.0);
        let begin = if matches!(self.first, End::Left) { 0.0 } else { right };
        let mut at = (begin, if matches!(self.first_row, RowEnd::Top) { 0.0 } else { foot });
        let mut step = if begin == 0.0 { 1.0 } else { -1.0 };
        let fall = if at.1 == 0.0 { 1.0 } else { -1.0 };
        let mut middles = Vec::with_capacity(self.postures.len());
        for _ in 0..self.down {
            for place in 0..self.across {
                middles.push(((at.0 + 0.5) * module, (at.1 + 0.5) * module));
                if place + 1 < self.across {
                    at.0 += step;
                }
            }
            at.1 += fall;
            if self.serpentine {
                step = -step;
            } else {
                at.0 = begin;
            }
        }
        let mut elements: Vec<Option<Element>> = Vec::with_capacity(self.postures.len() * NODES);
        for ((middle_x, middle_y), posture) in middles.into_iter().zip(&self.postures) {
            for digit_line in 0..8_u8 {
                for segment_line in 0..8_u8 {
                    // From the middle of the module, x to the right and y down: line 0 is the first, bit 7 too.
                    let (along, across) = (3.5 - f32::from(segment_line), f32::from(digit_line) - 3.5);
                    let (x, y) = match posture.lines_are {
                        LinesAre::Rows => (along, across),
                        LinesAre::Columns => (across, along),
                    };
                    let (x, y) = match posture.flip {
                        Flip::None => (x, y),
                        Flip::Horizontal => (-x, y),
                        Flip::Vertical => (x, -y),
                    };
                    // Clockwise: what points to the right then points down.
                    let (sine, cosine) = posture.turn.sine_cosine();
                    let (x, y) = (x * cosine - y * sine, x * sine + y * cosine);
                    elements.push(face.dot((middle_x + x) as usize, (middle_y + y) as usize));
                }
            }
        }
        Geometry::new(elements)
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::glyph::{BitOrder, Style};
    use crate::part::max7219::facts;

    /// A rig that says nothing is wired as the data sheet has it: an order that both sides take from the plan could be wrong on both.
    #[test]
    fn the_order_that_is_assumed_is_the_data_sheets() {
        let order = BitOrder::parse(facts::bit_order(Style::Seven), Style::Seven).unwrap();
        let upwards: Vec<_> = order.names().collect::<Vec<_>>().into_iter().rev().collect();
        assert_eq!(upwards, SEGMENT_LINES);
    }
}
