//! The response of a chain of registers to the edges on its wires.
//!
//! SER is shifted into stage A on rising SRCLK, every other stage takes the one before it, and stage H feeds the
//! next part. The outputs take the stages on rising RCLK; they are off while OE is high. SRCLR low clears the
//! stages at once.

use crate::bus::{Edge, shift};
use crate::meaning::Meaning;
use crate::model::{Levels, Model, Notebook};
use crate::units::{Nanos, counted};

/// All stages, A of the first part first.
pub struct Chain {
    stages: Vec<bool>,
    /// The levels of the outputs; unknown until the first latch.
    outputs: Option<Vec<bool>>,
    data: bool,
    clock: bool,
    latch: bool,
    /// The levels at OE and SRCLR; none where they float.
    output_enable: Option<bool>,
    clear: Option<bool>,
    places: Vec<usize>,
    levels: Levels,
    /// Bits since the latch fell.
    clocked: usize,
    notebook: Notebook,
}

impl Chain {
    pub fn new(parts: usize, places: Vec<usize>, output_enable: Option<bool>, clear: Option<bool>) -> Self {
        Self {
            stages: vec![false; 8 * parts],
            outputs: None,
            data: false,
            clock: false,
            latch: true,
            output_enable,
            clear,
            levels: Levels::undriven(places.len()),
            places,
            clocked: 0,
            notebook: Notebook::default(),
        }
    }

    /// Notes what the outputs took, the last part first, as it was sent.
    fn note_latch(&mut self, at: Nanos) {
        let (clocked, stages) = (std::mem::take(&mut self.clocked), &self.stages);
        if clocked != stages.len() {
            let than = if clocked < stages.len() { "short" } else { "long" };
            let wanted = stages.len();
            self.notebook.odd(at, || {
                format!("a {than} transfer: {} where {wanted} are expected", counted(clocked, "bit", "bits"))
            });
        }
        let places = &self.places;
        self.notebook
            .said(at, || Meaning::Levels(places.iter().map(|place| stages.get(*place).copied()).collect()));
    }

    fn refresh(&mut self) {
        let outputs = self.outputs.as_ref().filter(|_| self.output_enable == Some(false));
        for (output, place) in self.places.iter().enumerate() {
            self.levels.set(output, outputs.and_then(|outputs| outputs.get(*place).copied()));
        }
    }
}

impl Model for Chain {
    fn wake(&mut self, levels: &[Option<bool>]) {
        let level = |line: usize, usual| levels.get(line).copied().flatten().unwrap_or(usual);
        (self.data, self.clock) = (level(shift::DATA, false), level(shift::CLOCK, false));
        self.latch = level(shift::LATCH, true);
        if let Some(Some(level)) = levels.get(shift::ENABLE) {
            self.output_enable = Some(*level);
        }
    }

    fn changes(&self) -> u64 {
        self.levels.changes()
    }

    fn state(&self, _: Nanos) -> Option<Vec<u64>> {
        let lines = [self.data, self.clock, self.latch].map(u64::from);
        let outputs = self.outputs.as_deref().unwrap_or_default();
        let enables = [self.output_enable, self.clear].map(|level| level.map_or(2, u64::from));
        let bits = self.stages.iter().chain(outputs).map(|bit| u64::from(*bit));
        Some(lines.into_iter().chain(enables).chain(bits).chain([self.clocked as u64]).collect())
    }

    fn take(&mut self, edges: &[Edge]) {
        let mut touched = false;
        for edge in edges {
            match edge.line {
                shift::DATA => self.data = edge.level,
                shift::CLOCK => {
                    let rises = edge.level && !self.clock;
                    self.clock = edge.level;
                    self.clocked += usize::from(rises);
                    if rises && self.clear == Some(true) {
                        self.stages.rotate_right(1);
                        self.stages[0] = self.data;
                    }
                }
                shift::LATCH => {
                    let rises = edge.level && !self.latch;
                    self.latch = edge.level;
                    if rises {
                        self.outputs.get_or_insert_default().clone_from(&self.stages);
                        touched = true;
                        self.note_latch(edge.at);
                    }
                }
                shift::ENABLE => {
                    self.output_enable = Some(edge.level);
                    touched = true;
                }
                _ => {}
            }
        }
        if touched {
            self.refresh();
        }
    }

    fn levels(&self) -> &[Option<bool>] {
        self.levels.all()
    }

    fn pending(&self) -> Option<String> {
        (self.clocked > 0).then(|| {
            format!("{} clocked in and never taken: latch did not rise", counted(self.clocked, "bit", "bits"))
        })
    }

    fn why_dark(&self) -> Option<&'static str> {
        (self.output_enable != Some(false)).then_some("OE is not low: the outputs are off")
    }

    fn notebook(&mut self) -> Option<&mut Notebook> {
        Some(&mut self.notebook)
    }
}

/// The level that a transfer gives each output: its bits are shifted through in the mind.
pub fn explain(bytes: &[u8], lsb_first: bool, places: &[usize], levels: &mut [Option<bool>]) {
    let total = 8 * bytes.len();
    for (level, place) in levels.iter_mut().zip(places) {
        // The bit that ends in this stage was sent so long before the last.
        let sent = total.checked_sub(1 + place);
        *level = sent.map(|sent| {
            let within = sent % 8;
            let bit = if lsb_first { within } else { 7 - within };
            bytes[sent / 8] >> bit & 1 == 1
        });
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn pulse(chain: &mut Chain, line: usize) {
        chain.take(&[true, false].map(|level| Edge { at: Nanos(0), line, level }));
    }

    fn shift_in(chain: &mut Chain, bits: &[u8]) {
        for bit in bits {
            chain.take(&[Edge { at: Nanos(0), line: shift::DATA, level: *bit == 1 }]);
            pulse(chain, shift::CLOCK);
        }
    }

    #[test]
    fn the_first_bit_ends_in_the_last_stage_and_shows_after_the_latch() {
        let mut chain = Chain::new(1, (0..8).collect(), Some(false), Some(true));
        shift_in(&mut chain, &[1, 0, 0, 0, 0, 0, 1, 1]);
        assert_eq!(chain.levels(), [None; 8]);
        chain.take(&[false, true].map(|level| Edge { at: Nanos(0), line: shift::LATCH, level }));
        let on = |level: &Option<bool>| *level == Some(true);
        assert_eq!(
            chain.levels().iter().map(on).collect::<Vec<_>>(),
            [true, true, false, false, false, false, false, true]
        );
    }

    #[test]
    fn enable_high_puts_the_outputs_off_and_clear_low_keeps_the_stages_empty() {
        let mut chain = Chain::new(1, vec![0], Some(true), Some(true));
        shift_in(&mut chain, &[1]);
        pulse(&mut chain, shift::LATCH);
        pulse(&mut chain, shift::LATCH);
        assert_eq!(chain.levels(), [None]);
        chain.take(&[Edge { at: Nanos(0), line: shift::ENABLE, level: false }]);
        assert_eq!(chain.levels(), [Some(true)]);
        let mut cleared = Chain::new(1, vec![0], Some(false), Some(false));
        shift_in(&mut cleared, &[1]);
        pulse(&mut cleared, shift::LATCH);
        pulse(&mut cleared, shift::LATCH);
        assert_eq!(cleared.levels(), [Some(false)]);
    }
}
