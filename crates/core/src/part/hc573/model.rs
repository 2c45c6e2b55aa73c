//! The response of the latches to edges on the shared port and on their control pins.

use super::Control;
use crate::bus::Edge;
use crate::model::{Levels, Model};
use crate::units::Nanos;

/// The eight data lines come first.
const DATA_LINES: usize = 8;

/// One part. While LE is high, Q follows D; while it is low, Q stays. While OE is high, the outputs are off.
struct Part {
    latch_enable: Pin,
    output_enable: Pin,
    /// Unknown until it is taken in.
    q: [Option<bool>; DATA_LINES],
}

/// A control pin and its level; none while nothing drives it.
struct Pin {
    line: Option<usize>,
    level: Option<bool>,
}

impl Pin {
    fn of(control: Control) -> Self {
        match control {
            Control::Line(line) => Self { line: Some(line), level: None },
            Control::Tied(tie) => Self { line: None, level: tie.level() },
        }
    }

    fn take(&mut self, edge: &Edge) {
        if self.line == Some(edge.line) {
            self.level = Some(edge.level);
        }
    }
}

/// The parts on the port.
pub struct Latches {
    parts: Vec<Part>,
    data: [Option<bool>; DATA_LINES],
    /// By output: `8 part + Q`.
    places: Vec<usize>,
    levels: Levels,
}

impl Latches {
    pub fn new(controls: impl Iterator<Item = (Control, Control)>, places: Vec<usize>) -> Self {
        let part = |(latch_enable, output_enable)| Part {
            latch_enable: Pin::of(latch_enable),
            output_enable: Pin::of(output_enable),
            q: [None; DATA_LINES],
        };
        let levels = Levels::undriven(places.len());
        Self { parts: controls.map(part).collect(), data: [None; DATA_LINES], places, levels }
    }
}

impl Latches {
    /// Works out Q and the outputs from D and the control pins.
    fn follow(&mut self) {
        for part in &mut self.parts {
            if part.latch_enable.level == Some(true) {
                part.q = self.data;
            }
        }
    }

    fn refresh(&mut self) {
        for (output, place) in self.places.iter().enumerate() {
            let part = &self.parts[place / DATA_LINES];
            let enabled = part.output_enable.level == Some(false);
            self.levels.set(output, part.q[place % DATA_LINES].filter(|_| enabled));
        }
    }
}

impl Model for Latches {
    fn wake(&mut self, levels: &[Option<bool>]) {
        let level = |line: usize| levels.get(line).copied().flatten();
        self.data = std::array::from_fn(level);
        for part in &mut self.parts {
            for pin in [&mut part.latch_enable, &mut part.output_enable] {
                pin.level = pin.line.map_or(pin.level, level);
            }
        }
        self.follow();
        self.refresh();
    }

    fn take(&mut self, edges: &[Edge]) {
        for edge in edges {
            if let Some(data) = self.data.get_mut(edge.line) {
                *data = Some(edge.level);
            }
            for part in &mut self.parts {
                part.latch_enable.take(edge);
                part.output_enable.take(edge);
            }
            self.follow();
        }
        self.refresh();
    }

    fn changes(&self) -> u64 {
        self.levels.changes()
    }

    fn levels(&self) -> &[Option<bool>] {
        self.levels.all()
    }

    fn state(&self, _: Nanos) -> Option<Vec<u64>> {
        let levels = self.parts.iter().flat_map(|part| {
            part.q.iter().copied().chain([part.latch_enable.level, part.output_enable.level])
        });
        Some(levels.chain(self.data).map(|level| level.map_or(2, u64::from)).collect())
    }
}
