//! The sending side: at which node each element is. Node `64 p + 8 d + b` is data bit `b` of digit line `d` of part `p`.

use super::digits::{DigitPlan, ExtraNode};
use super::dots::{Flip, LinesAre, ModulePlan, SIDE};
use super::facts;
use crate::dots::places;
use crate::face::Face;
use crate::part::digits;
use crate::part::modules::{RowEnd, Turn};
use crate::rig::{DriveTable, End};
use crate::wiring::{Node, Wiring};

impl DigitPlan {
    fn extra_node(&self, extra: &ExtraNode) -> Option<Node> {
        let bit = facts::BIT_ORDER.split(' ').rev().position(|known| known == extra.segment)?;
        Some(Node(extra.part * facts::NODES + extra.line * facts::SEGMENTS + bit))
    }

    /// The wiring of the digits, then of the colons and lamps. One of those may take the point of a
    /// digit.
    pub fn wiring(&self, face: &Face, table: &DriveTable<'_>) -> Option<Wiring> {
        let segment_node = |digit, segment| {
            let (part, line) = self.place(digit);
            let bit = self.order.bit_of(segment)?;
            Some(Node(part * facts::NODES + line * facts::SEGMENTS + bit))
        };
        let extras = self.extras.iter().map(|extra| self.extra_node(extra)).collect();
        digits::wire(face, segment_node, extras, self.parts() * facts::NODES, table)
    }
}

impl ModulePlan {
    /// The node of a dot, found by undoing the turn and then the flip.
    fn node(&self, x: usize, y: usize) -> Node {
        let (module_x, module_y) = (x / SIDE, y / SIDE);
        // Which row of the chain that is, and whether the chain goes through it from the right.
        let row = if self.first_row == RowEnd::Top { module_y } else { self.down - 1 - module_y };
        let is_odd = row % 2 == 1;
        let from_right = (self.first == End::Right) != (self.serpentine && is_odd);
        let part = row * self.across + if from_right { self.across - 1 - module_x } else { module_x };
        let posture = self.postures[part];
        let (x, y) = (x % SIDE, y % SIDE);
        let far = SIDE - 1;
        let (mut x, mut y) = match posture.turn {
            Turn::Not => (x, y),
            Turn::Quarter => (y, far - x),
            Turn::Half => (far - x, far - y),
            Turn::ThreeQuarters => (far - y, x),
        };
        match posture.flip {
            Flip::None => {}
            Flip::Horizontal => x = far - x,
            Flip::Vertical => y = far - y,
        }
        // Data bit 7 is at the left, or at the top.
        let (line, bit) = match posture.lines_are {
            LinesAre::Rows => (y, far - x),
            LinesAre::Columns => (x, far - y),
        };
        Node(part * facts::NODES + line * facts::SEGMENTS + bit)
    }

    /// The wiring of all dots.
    pub fn wiring(&self) -> Option<Wiring> {
        let (width, height) = (self.across * SIDE, self.down * SIDE);
        let dots = places(width, height);
        Wiring::new(dots.map(|(x, y)| Some(self.node(x, y))).collect(), self.parts() * facts::NODES).ok()
    }
}
