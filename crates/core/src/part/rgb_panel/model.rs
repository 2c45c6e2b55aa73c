//! The response of a chain of panels to the edges at its connector.
//!
//! The column drivers of all panels are one long shift register for each data line: the first stage takes the line's level as
//! the clock rises. While the latch is high the outputs are as the stages, afterwards they stay. A decoder connects the row
//! of the address with the supply; its switch goes on conducting for a moment after another row is addressed. While output
//! enable is low the lights between a conducting row and the outputs that are set are lit.

use super::facts;
use crate::bus::watch::Watch;
use crate::bus::{Edge, panel};
use crate::model::{Model, Notebook, ones};
use crate::units::{Nanos, counted};

/// The data lines of a connector: red, green and blue of the upper half, then of the lower.
const LINES: usize = 6;

/// The number of address lines for this number of rows in a half: the bits of the last row's number.
fn address_lines(rows: usize) -> usize {
    (usize::BITS - rows.saturating_sub(1).leading_zeros()) as usize
}

/// A chain of panels.
pub struct Chain {
    /// How many stages it has, and how many rows its address lines tell.
    stages: usize,
    rows: usize,
    address_lines: usize,
    /// The levels in the stages, as a ring: `next` is the last stage, which the next clock fills again as the first.
    shifted: Vec<u8>,
    next: usize,
    /// The levels of the outputs, by column: the farthest stage is column 0.
    latched: Vec<u8>,
    /// The levels of the lines.
    data: u8,
    clock: bool,
    latch: bool,
    is_dark: bool,
    address: usize,
    /// A row that was addressed before and still conducts, and until when.
    fading: Option<(usize, Nanos)>,
    /// Clocks since the last latch.
    clocked: usize,
    changes: u64,
    reported: Reported,
    notebook: Notebook,
    watch: Watch,
}

/// The lights in the last report: the rows that were lit, and the levels of the outputs.
struct Reported {
    rows: [Option<usize>; 2],
    outputs: Vec<u8>,
}

impl Chain {
    pub fn new(stages: usize, rows: usize) -> Self {
        let address_lines = address_lines(rows);
        Self {
            stages,
            rows,
            address_lines,
            shifted: vec![0; stages],
            next: 0,
            latched: vec![0; stages],
            data: 0,
            clock: false,
            latch: false,
            is_dark: true,
            address: 0,
            fading: None,
            clocked: 0,
            changes: 0,
            reported: Reported { rows: [None; 2], outputs: vec![0; stages] },
            notebook: Notebook::default(),
            watch: Watch::new(facts::LIMITS, panel::CLOCK, panel::ADDRESS + address_lines),
        }
    }

    fn shift(&mut self) {
        self.shifted[self.next] = self.data;
        self.next += 1;
        if self.next == self.stages {
            self.next = 0;
        }
        self.clocked += 1;
        if self.latch {
            self.pass_through();
        }
    }

    /// The outputs take what is in the stages.
    fn pass_through(&mut self) {
        let (newer, older) = self.shifted.split_at(self.next);
        let (far, near) = self.latched.split_at_mut(older.len());
        far.copy_from_slice(older);
        near.copy_from_slice(newer);
        self.changes += 1;
    }

    fn readdress(&mut self, at: Nanos, bit: usize, level: bool) {
        let address = if level { self.address | 1 << bit } else { self.address & !(1 << bit) };
        if address != self.address {
            // Where several lines change at one moment, the rows on the way have no time to conduct.
            let until = at + facts::ROW_TURN_OFF;
            if self.fading.is_none_or(|(_, known)| known != until) {
                self.fading = Some((self.address, until));
            }
            self.address = address;
            self.changes += 1;
            if !self.is_dark {
                self.notebook.odd(at, || "the address changes while the row is lit: it ghosts".to_owned());
            }
        }
    }

    fn note_latch(&mut self, at: Nanos) {
        let (clocked, stages) = (self.clocked, self.stages);
        if clocked != 0 && clocked != stages {
            self.notebook.odd(at, || {
                let clocks = counted(clocked, "clock", "clocks");
                format!("a latch after {clocks}; the panels have {stages} columns for an address")
            });
        }
    }

    /// The rows whose lights are lit where their outputs are.
    fn lit_rows(&self) -> [Option<usize>; 2] {
        let fading = self.fading.map(|(row, _)| row).filter(|row| *row != self.address);
        let is_lit = |row: &usize| *row < self.rows && !self.is_dark;
        [Some(self.address).filter(is_lit), fading.filter(is_lit)]
    }
}

impl Model for Chain {
    fn registers(&self) -> Option<String> {
        let light = if self.is_dark { "dark" } else { "lit" };
        Some(format!("row {} {light}", self.address))
    }

    fn wake(&mut self, levels: &[Option<bool>]) {
        let level = |line: usize, usual| levels.get(line).copied().flatten().unwrap_or(usual);
        (self.clock, self.latch) = (level(panel::CLOCK, false), level(panel::LATCH, false));
        self.is_dark = level(panel::ENABLE, true);
        // An address line that is not connected is held low.
        let address = (0..self.address_lines).filter(|bit| level(panel::ADDRESS + bit, false));
        self.address = address.map(|bit| 1 << bit).sum();
        let first = panel::ADDRESS + self.address_lines;
        let data = (0..LINES).filter(|line| level(first + line, false));
        self.data = data.map(|line| 1 << line).sum();
    }

    fn take(&mut self, edges: &[Edge]) {
        let first = panel::ADDRESS + self.address_lines;
        for Edge { at, line, level } in edges.iter().copied() {
            if self.notebook.is_open()
                && let Some(violation) = self.watch.take(&Edge { at, line, level })
            {
                self.notebook.odd(at, || violation.to_string());
            }
            match line {
                panel::CLOCK => {
                    if level && !self.clock {
                        self.shift();
                    }
                    self.clock = level;
                }
                panel::LATCH => {
                    if level && !self.latch {
                        self.note_latch(at);
                        self.pass_through();
                        self.clocked = 0;
                    }
                    self.latch = level;
                }
                panel::ENABLE => {
                    self.is_dark = level;
                    self.changes += 1;
                }
                line if line < first => self.readdress(at, line - panel::ADDRESS, level),
                line => {
                    let bit = 1 << (line - first);
                    self.data = if level { self.data | bit } else { self.data & !bit };
                }
            }
        }
    }

    fn take_burst(&mut self, columns: &[u8]) -> bool {
        // A listener needs the edges, whose times may break a limit.
        if self.notebook.is_open() {
            return false;
        }
        for column in columns {
            self.data = column & ((1 << LINES) - 1);
            self.shift();
        }
        if let Some(last) = columns.last() {
            let is_dark = last >> LINES & 1 == 1;
            self.changes += u64::from(is_dark != self.is_dark);
            (self.is_dark, self.clock) = (is_dark, false);
        }
        true
    }

    fn changes(&self) -> u64 {
        self.changes
    }

    fn next_change(&self) -> Option<Nanos> {
        self.fading.map(|(_, until)| until)
    }

    fn pass(&mut self, now: Nanos) {
        if self.fading.is_some_and(|(_, until)| until <= now) {
            self.fading = None;
            self.changes += 1;
        }
    }

    fn lit(&self, nodes: &mut [f32]) {
        nodes.fill(0.0);
        let in_row = self.stages * LINES;
        for row in self.lit_rows().into_iter().flatten() {
            if let Some(nodes) = nodes.get_mut(row * in_row..(row + 1) * in_row) {
                light(&self.latched, nodes);
            }
        }
    }

    fn report_lights(&mut self, report: &mut dyn FnMut(usize, f32)) -> bool {
        let (in_row, lit) = (self.stages * LINES, self.lit_rows());
        let fresh = lit.into_iter().filter(|row| !self.reported.rows.contains(row));
        for row in self.reported.rows.into_iter().chain(fresh).flatten() {
            let (was_lit, is_lit) = (self.reported.rows.contains(&Some(row)), lit.contains(&Some(row)));
            for (column, (reported, latched)) in self.reported.outputs.iter().zip(&self.latched).enumerate() {
                let before = if was_lit { *reported } else { 0 };
                let now = if is_lit { *latched } else { 0 };
                for line in ones(u64::from(before ^ now)) {
                    report(row * in_row + column * LINES + line, f32::from(now >> line & 1));
                }
            }
        }
        self.reported.rows = lit;
        self.reported.outputs.copy_from_slice(&self.latched);
        true
    }

    fn why_dark(&self) -> Option<&'static str> {
        // Between two slots it always is.
        None
    }

    fn notebook(&mut self) -> Option<&mut Notebook> {
        Some(&mut self.notebook)
    }

    fn state(&self, now: Nanos) -> Option<Vec<u64>> {
        let (newer, older) = self.shifted.split_at(self.next);
        let fading = self.fading.map_or(0, |(row, until)| (row as u64 + 1) << 32 | (until - now).0);
        let flags = [self.clock, self.latch, self.is_dark]
            .into_iter()
            .fold(0, |bits, flag| bits << 1 | u64::from(flag));
        let bytes = older.iter().chain(newer).chain(&self.latched).map(|byte| u64::from(*byte));
        Some(
            [self.address as u64, fading, flags, u64::from(self.data), self.clocked as u64]
                .into_iter()
                .chain(bytes)
                .collect(),
        )
    }

    fn shift(&mut self, by: Nanos) {
        self.fading = self.fading.map(|(row, until)| (row, until + by));
    }
}

/// The lights of a row whose outputs have these levels.
fn light(latched: &[u8], nodes: &mut [f32]) {
    for (lines, nodes) in latched.iter().zip(nodes.as_chunks_mut::<LINES>().0) {
        for (line, node) in nodes.iter_mut().enumerate() {
            *node = f32::from(lines >> line & 1);
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    /// Drives a chain by hand.
    struct Hand {
        chain: Chain,
        now: Nanos,
        reported: Vec<f32>,
    }

    impl Hand {
        fn new(stages: usize, rows: usize) -> Self {
            let mut chain = Chain::new(stages, rows);
            chain.wake(&[Some(false), Some(false), Some(true)]);
            Self { chain, now: Nanos(0), reported: Vec::new() }
        }

        fn set(&mut self, line: usize, level: bool) {
            self.now = self.now + Nanos(100);
            self.chain.take(&[Edge { at: self.now, line, level }]);
        }

        fn clock_in(&mut self, columns: &[u8]) {
            let first = panel::ADDRESS + self.chain.address_lines;
            for column in columns {
                for line in 0..LINES {
                    self.set(first + line, column >> line & 1 == 1);
                }
                self.set(panel::CLOCK, true);
                self.set(panel::CLOCK, false);
            }
        }

        fn latch(&mut self) {
            self.set(panel::LATCH, true);
            self.set(panel::LATCH, false);
        }

        /// The nodes that are lit: the reports so far and the current state agree.
        fn lit(&mut self) -> Vec<usize> {
            let mut nodes = vec![0.0; self.chain.rows * self.chain.stages * LINES];
            let reported = &mut self.reported;
            reported.resize(nodes.len(), 0.0);
            assert!(self.chain.report_lights(&mut |node, light| reported[node] = light));
            self.chain.lit(&mut nodes);
            assert_eq!(reported, &nodes);
            (0..nodes.len()).filter(|node| nodes[*node] > 0.0).collect()
        }
    }

    #[test]
    fn what_was_clocked_first_is_farthest_and_lights_once_it_is_latched_and_enabled() {
        let mut hand = Hand::new(3, 4);
        hand.clock_in(&[0b00_0001, 0b10_0000, 0]);
        hand.set(panel::ENABLE, false);
        assert!(hand.lit().is_empty(), "not latched");
        hand.latch();
        assert_eq!(hand.lit(), [0, 6 + 5]);
        // Two clocks more push the first out at the far end; it shows once it is latched.
        hand.clock_in(&[0b00_0010, 0b00_0100]);
        assert_eq!(hand.lit(), [0, 6 + 5]);
        hand.latch();
        assert_eq!(hand.lit(), [6 + 1, 12 + 2]);
        hand.set(panel::ENABLE, true);
        assert!(hand.lit().is_empty());
    }

    #[test]
    fn the_row_before_goes_on_conducting_for_a_moment() {
        let mut hand = Hand::new(1, 4);
        hand.clock_in(&[1]);
        hand.latch();
        hand.set(panel::ADDRESS, true);
        hand.set(panel::ENABLE, false);
        assert_eq!(hand.lit(), [0, LINES], "row 0 has not stopped");
        let until = hand.chain.next_change().unwrap();
        hand.chain.pass(until);
        assert_eq!(hand.lit(), [LINES]);
        assert_eq!(hand.chain.next_change(), None);
    }

    #[test]
    fn while_the_latch_is_high_the_outputs_follow() {
        let mut hand = Hand::new(2, 4);
        hand.set(panel::ENABLE, false);
        hand.set(panel::LATCH, true);
        hand.clock_in(&[0b11_1111]);
        assert_eq!(hand.lit(), [6, 7, 8, 9, 10, 11]);
        hand.set(panel::LATCH, false);
        hand.clock_in(&[0]);
        assert_eq!(hand.lit().len(), 6);
    }

    #[test]
    fn it_notes_a_latch_after_too_few_clocks_and_an_address_that_changes_in_the_light() {
        let mut hand = Hand::new(4, 4);
        hand.chain.listen();
        hand.clock_in(&[0; 3]);
        hand.latch();
        hand.set(panel::ENABLE, false);
        hand.set(panel::ADDRESS + 1, true);
        let heard: Vec<_> = hand.chain.heard().iter().map(|note| note.meaning.plainly()).collect();
        assert_eq!(
            heard,
            [
                "a latch after 3 clocks; the panels have 4 columns for an address",
                "the address changes while the row is lit: it ghosts"
            ]
        );
    }
}
