//! What the part does with the edges on its two wires.

use crate::bus::Edge;
use crate::bus::i2c::Event;
use crate::bus::two_wire::{CLOCK, DATA, Listener};
use crate::bus::watch::Watch;
use crate::chip::tm163x::model::{self, Layout, Registers};
use crate::drive::{Model, Note, Notebook};

/// Six grids of a byte each; the address has three bits.
const LAYOUT: Layout = Layout { grids: 6, bytes_a_grid: 1, lines: 8, wraps: 8 };

/// One part.
pub struct Part {
    listener: Listener,
    watch: Watch,
    registers: Registers,
    /// What it answers for each key of the face, and which are down.
    codes: Vec<u8>,
    down: Vec<bool>,
    notebook: Notebook,
}

impl Part {
    pub fn new(codes: Vec<u8>) -> Self {
        Self {
            listener: Listener::default(),
            watch: Watch::new(super::FACTS.limits, CLOCK, DATA),
            registers: Registers::new(LAYOUT),
            down: vec![false; codes.len()],
            codes,
            notebook: Notebook::default(),
        }
    }
}

impl Model for Part {
    fn take(&mut self, edges: &[Edge]) {
        for edge in edges {
            if let Some(violation) = self.watch.take(edge) {
                self.notebook.odd(edge.at, || violation.to_string());
            }
            let bits = self.listener.bits();
            match self.listener.take(edge) {
                None => {}
                Some(Event::Start) => self.registers.begin(),
                Some(Event::Byte { value, acknowledged }) => {
                    if !acknowledged {
                        self.notebook.odd(edge.at, || format!("no acknowledge after {value:02X}"));
                    }
                    self.registers.byte(value, edge.at, &mut self.notebook);
                }
                Some(Event::Stop) => {
                    // The rise before a stop is counted as a bit.
                    if bits > 1 {
                        self.notebook.odd(edge.at, || format!("a byte cut short after {} bits", bits - 1));
                    }
                    self.registers.end(edge.at, "start and stop with nothing between", &mut self.notebook);
                }
            }
        }
    }

    fn changes(&self) -> u64 {
        self.registers.changes()
    }

    fn lit(&self, nodes: &mut [f32]) {
        self.registers.lit(nodes);
    }

    fn listen(&mut self) {
        self.notebook.open();
    }

    fn heard(&mut self) -> Vec<Note> {
        self.notebook.take()
    }

    fn press(&mut self, key: usize, down: bool) {
        if let Some(held) = self.down.get_mut(key) {
            *held = down;
        }
    }

    fn answer(&self) -> Vec<u8> {
        // One key at a time: with several down the part tells the first that its scan meets.
        let mut pressed = self.codes.iter().zip(&self.down).filter(|(_, down)| **down);
        vec![pressed.next().map_or(0xFF, |(code, _)| *code)]
    }
}

/// What a transfer says, told from its bytes alone.
pub fn explain(bytes: &[u8]) -> String {
    model::explain(bytes, LAYOUT)
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::bus::{Bus, two_wire::TwoWire};
    use crate::units::{Hertz, Nanos};

    /// Sends transfers and returns the part, with what it noted.
    fn part(clock: u32, transfers: &[&[u8]]) -> (Part, Vec<String>) {
        let mut part = Part::new(vec![0xF7, 0xEF]);
        part.listen();
        let (mut bus, mut at) = (TwoWire::new(Hertz(clock)), Nanos(0));
        for bytes in transfers {
            let mut edges = Vec::new();
            at = bus.send(bytes, at, &mut edges);
            part.take(&edges);
        }
        let odd = part.heard().into_iter().filter(|note| note.odd).map(|note| note.words).collect();
        (part, odd)
    }

    fn lit(part: &Part) -> Vec<f32> {
        let mut nodes = vec![0.0; 48];
        part.lit(&mut nodes);
        nodes
    }

    #[test]
    fn it_wakes_dark_with_garbage_in_its_memory() {
        assert!(lit(&part(100_000, &[]).0).iter().all(|light| *light == 0.0));
        let garbage = lit(&part(100_000, &[&[0x88]]).0);
        assert!(garbage.iter().any(|light| *light > 0.0));
    }

    #[test]
    fn addresses_count_up_or_stay() {
        let (up, odd) = part(100_000, &[&[0x40], &[0xC0, 0, 0, 0, 0, 0, 0], &[0xC4, 1, 2], &[0x8F]]);
        assert_eq!((lit(&up)[32], lit(&up)[41], odd), (14.0 / 16.0 / 6.0, 14.0 / 16.0 / 6.0, vec![]));
        let (fixed, _) = part(100_000, &[&[0x44], &[0xC0, 0xFF, 0x01], &[0x88]]);
        assert_eq!(lit(&fixed)[0..2], [1.0 / 96.0, 0.0]);
    }

    #[test]
    fn wrong_use_is_noted() {
        assert_eq!(
            part(100_000, &[&[0x40, 0xC0]]).1,
            ["more bytes after a command: each wants a transfer of its own"]
        );
        assert_eq!(
            part(100_000, &[&[0x42], &[0xC0, 1]]).1,
            ["data while the part is set to read keys: lost"]
        );
        assert!(part(400_000, &[&[0x40]]).1[0].starts_with("clock too fast: 2.5 us"));
        assert_eq!(part(100_000, &[&[]]).1, ["start and stop with nothing between"]);
    }

    #[test]
    fn one_key_at_a_time() {
        let (mut part, _) = part(100_000, &[]);
        assert_eq!(part.answer(), [0xFF]);
        part.press(1, true);
        assert_eq!(part.answer(), [0xEF]);
        part.press(0, true);
        assert_eq!(part.answer(), [0xF7]);
    }
}
