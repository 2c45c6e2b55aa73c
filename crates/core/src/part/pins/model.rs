//! The levels at the controller's pins, from the levels of their latches.

use super::Plan;
use crate::bus::Edge;
use crate::model::Model;
use crate::units::Nanos;

/// The behaviour of a pin while its latch is high.
#[derive(Clone, Copy, PartialEq, Eq)]
enum High {
    Driven,
    /// It pulls up weakly, which drives nothing.
    Weak,
    /// Nothing: it is open drain.
    Open,
}

/// The levels that edges bring: each line is an output.
pub struct PinLevels {
    levels: Vec<Option<bool>>,
    highs: Vec<High>,
    changes: u64,
}

impl PinLevels {
    pub fn new(plan: &Plan) -> Self {
        let is_weak = plan.ratings.weak_source().is_some();
        let high = |output: usize| match (plan.open_drains.contains(&output), is_weak) {
            (true, _) => High::Open,
            (false, true) => High::Weak,
            (false, false) => High::Driven,
        };
        let outputs = plan.outputs;
        Self { levels: vec![None; outputs], highs: (0..outputs).map(high).collect(), changes: 0 }
    }

    fn set(&mut self, output: usize, latch: bool) {
        if let (Some(level), Some(high)) = (self.levels.get_mut(output), self.highs.get(output)) {
            *level = (!latch || *high == High::Driven).then_some(latch);
        }
    }
}

impl Model for PinLevels {
    fn registers(&self) -> Option<String> {
        None
    }

    fn wake(&mut self, levels: &[Option<bool>]) {
        self.levels.fill(None);
        for (output, level) in levels.iter().enumerate() {
            level.iter().for_each(|level| self.set(output, *level));
        }
    }

    fn take(&mut self, edges: &[Edge]) {
        for edge in edges {
            self.set(edge.line, edge.level);
        }
        self.changes += 1;
    }

    fn changes(&self) -> u64 {
        self.changes
    }

    fn levels(&self) -> &[Option<bool>] {
        &self.levels
    }

    fn pulls_up(&self, output: usize) -> bool {
        self.highs.get(output) == Some(&High::Weak)
    }

    fn state(&self, _: Nanos) -> Option<Vec<u64>> {
        Some(self.levels.iter().map(|level| level.map_or(2, u64::from)).collect())
    }
}
