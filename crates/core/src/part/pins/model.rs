//! The levels at the controller's pins, from the levels of their latches.

use super::Plan;
use crate::bus::Edge;
use crate::model::{Levels, Model};
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
    levels: Levels,
    highs: Vec<High>,
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
        Self { levels: Levels::undriven(outputs), highs: (0..outputs).map(high).collect() }
    }

    fn set(&mut self, output: usize, latch: bool) {
        if let Some(high) = self.highs.get(output) {
            self.levels.set(output, (!latch || *high == High::Driven).then_some(latch));
        }
    }
}

impl Model for PinLevels {
    fn registers(&self) -> Option<String> {
        None
    }

    fn wake(&mut self, levels: &[Option<bool>]) {
        for output in 0..self.highs.len() {
            match levels.get(output).copied().flatten() {
                Some(level) => self.set(output, level),
                None => self.levels.set(output, None),
            }
        }
    }

    fn take(&mut self, edges: &[Edge]) {
        for edge in edges {
            self.set(edge.line, edge.level);
        }
    }

    fn changes(&self) -> u64 {
        self.levels.changes()
    }

    fn levels(&self) -> &[Option<bool>] {
        self.levels.all()
    }

    fn pulls_up(&self, output: usize) -> bool {
        self.highs.get(output) == Some(&High::Weak)
    }

    fn state(&self, _: Nanos) -> Option<Vec<u64>> {
        Some(self.levels.all().iter().map(|level| level.map_or(2, u64::from)).collect())
    }
}
