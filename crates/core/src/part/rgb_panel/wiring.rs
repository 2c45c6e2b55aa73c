//! The sending side: at which node the lights of each dot are.

use super::layout::{Fold, LINES, Layout};
use crate::dots::places;
use crate::part::modules::{RowEnd, Turn};
use crate::rig::End;
use crate::wiring::{Node, Wiring};

impl Layout {
    /// The nodes of a dot's red, green and blue.
    fn nodes(&self, x: usize, y: usize) -> [Node; 3] {
        let (width, height) = self.panel;
        let upright = self.turns.first().is_some_and(|turn| turn.is_upright());
        let (hung_width, hung_height) = if upright { (height, width) } else { (width, height) };
        let (panel_x, panel_y) = (x / hung_width, y / hung_height);
        // Which row of the chain that is, and whether the chain goes through it from the right.
        let row = if self.first_row == RowEnd::Top { panel_y } else { self.down - 1 - panel_y };
        let from_right = matches!(self.first, End::Right) != (self.serpentine && row % 2 == 1);
        let place = if from_right { self.across - 1 - panel_x } else { panel_x };
        let panel = row * self.across + place;
        // Undo the turn.
        let (x, y) = (x % hung_width, y % hung_height);
        let (x, y) = match self.turns[panel] {
            Turn::Not => (x, y),
            Turn::Quarter => (y, height - 1 - x),
            Turn::Half => (width - 1 - x, height - 1 - y),
            Turn::ThreeQuarters => (width - 1 - y, x),
        };
        let (half, y) = (y / (height / 2), y % (height / 2));
        let (address, piece) = (y % self.scan, y / self.scan);
        let Fold { block, first, serpentine } = self.fold;
        let piece = if first == RowEnd::Top { piece } else { self.folds() - 1 - piece };
        let along = if matches!(self.first, End::Right) { width - 1 - x } else { x };
        let within = along % block;
        let within = if serpentine && piece % 2 == 1 { block - 1 - within } else { within };
        let stage = panel * width * self.folds() + (along / block * self.folds() + piece) * block + within;
        // The column that is shifted first ends farthest away.
        let column = self.columns() - 1 - stage;
        let first = (address * self.columns() + column) * LINES + 3 * half;
        [0, 1, 2].map(|colour| {
            let line = self.lights.iter().position(|lit| *lit == colour).unwrap_or(colour);
            Node(first + line)
        })
    }

    /// The address of a dot.
    #[must_use]
    pub fn address(&self, x: usize, y: usize) -> usize {
        let [Node(first), ..] = self.nodes(x, y);
        first / (self.columns() * LINES)
    }

    /// The wiring of all dots.
    #[must_use]
    pub fn wiring(&self, (width, height): (usize, usize)) -> Option<Wiring> {
        let dots = places(width, height);
        let nodes = dots.flat_map(|(x, y)| self.nodes(x, y).map(Some));
        Wiring::new(nodes.collect(), self.node_count()).ok()
    }
}
