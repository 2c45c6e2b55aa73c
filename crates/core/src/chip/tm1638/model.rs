//! What the part does with the edges on its three wires.

use crate::bus::Edge;
use crate::bus::strobe::{CLOCK, DATA, Event, Listener, TURN_ROUND};
use crate::bus::watch::Watch;
use crate::chip::tm163x::model::{self, Layout, Registers};
use crate::drive::{Model, Note, Notebook};
use crate::units::Nanos;

/// Eight grids of two bytes: lines 1-8 in the even address, 9 and 10 in bits 0 and 1 of the odd one.
const LAYOUT: Layout = Layout { grids: 8, bytes_a_grid: 2, lines: 10, wraps: 16 };

/// Bytes that it answers when its keys are read.
const ANSWER: usize = 4;

/// One part.
pub struct Part {
    listener: Listener,
    watch: Watch,
    registers: Registers,
    /// When the command to read keys was complete, while its answer has not begun.
    asked: Option<Nanos>,
    /// Byte and bit of each key of the face, and which are down.
    keys: Vec<(usize, u8)>,
    down: Vec<bool>,
    notebook: Notebook,
}

impl Part {
    pub fn new(keys: Vec<(usize, u8)>) -> Self {
        Self {
            listener: Listener::default(),
            watch: Watch::new(super::FACTS.limits, CLOCK, DATA),
            registers: Registers::new(LAYOUT),
            asked: None,
            down: vec![false; keys.len()],
            keys,
            notebook: Notebook::default(),
        }
    }

    /// The answer begins with a falling clock: not too soon after the command.
    fn check_turn_round(&mut self, edge: &Edge) {
        if edge.line != CLOCK || edge.level {
            return;
        }
        let Some(waited) =
            self.asked.take().map(|asked| edge.at - asked).filter(|waited| *waited < TURN_ROUND)
        else {
            return;
        };
        self.notebook.odd(edge.at, || {
            format!("keys clocked out {waited} after the command: the part needs {TURN_ROUND}")
        });
    }
}

impl Model for Part {
    fn take(&mut self, edges: &[Edge]) {
        for edge in edges {
            if let Some(violation) = self.watch.take(edge) {
                self.notebook.odd(edge.at, || violation.to_string());
            }
            self.check_turn_round(edge);
            match self.listener.take(edge) {
                None => {}
                Some(Event::Begin) => self.registers.begin(),
                Some(Event::Byte(value)) => {
                    let asks = self.registers.byte(value, edge.at, &mut self.notebook);
                    if asks {
                        self.asked = Some(edge.at);
                    }
                }
                Some(Event::End(left)) => {
                    self.asked = None;
                    if left > 0 {
                        self.notebook.odd(edge.at, || format!("a byte cut short after {left} bits"));
                    }
                    self.registers.end(edge.at, "a strobe with nothing in it", &mut self.notebook);
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
        crate::chip::answer_of(&self.keys, &self.down, ANSWER)
    }
}

/// What a transfer says, told from its bytes alone.
pub fn explain(bytes: &[u8]) -> String {
    model::explain(bytes, LAYOUT)
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::bus::{Bus, strobe::Strobe};
    use crate::units::Hertz;

    fn part(clock: u32, transfers: &[&[u8]]) -> (Part, Vec<String>) {
        let mut part = Part::new(vec![(0, 0), (3, 4)]);
        part.listen();
        let (mut bus, mut at) = (Strobe::new(Hertz(clock)), Nanos(0));
        for bytes in transfers {
            let mut edges = Vec::new();
            at = bus.send(bytes, at, &mut edges);
            part.take(&edges);
        }
        let odd = part.heard().into_iter().filter(|note| note.odd).map(|note| note.words).collect();
        (part, odd)
    }

    fn lit(part: &Part) -> Vec<usize> {
        let mut nodes = vec![0.0; 80];
        part.lit(&mut nodes);
        (0..80).filter(|node| nodes[*node] > 0.0).collect()
    }

    #[test]
    fn even_addresses_hold_eight_lines_and_odd_ones_two() {
        let clear = [&[0xC0][..], &[0; 16]].concat();
        let (sound, odd) = part(1_000_000, &[&[0x40], &clear, &[0xC2, 0x81, 0xFF], &[0x8F]]);
        assert_eq!((lit(&sound), odd), (vec![10, 17, 18, 19], vec![]));
    }

    #[test]
    fn garbage_before_it_is_cleared_and_wrong_use_noted() {
        assert!(lit(&part(1_000_000, &[&[0x8F]]).0).len() > 8);
        assert!(lit(&part(1_000_000, &[]).0).is_empty(), "off after power-up");
        assert_eq!(
            part(1_000_000, &[&[0x40, 0xC0]]).1,
            ["more bytes after a command: each wants a transfer of its own"]
        );
        assert!(part(2_000_000, &[&[0x40]]).1[0].starts_with("clock too fast"));
    }

    #[test]
    fn several_keys_at_once_each_at_its_bit() {
        let (mut part, _) = part(1_000_000, &[]);
        part.press(0, true);
        part.press(1, true);
        assert_eq!(part.answer(), [1, 0, 0, 0x10]);
        assert_eq!(explain(&[0x42, 1, 0, 0, 0x10]), "read the keys: byte0.bit0 byte3.bit4 down");
        part.press(0, false);
        assert_eq!(part.answer(), [0, 0, 0, 0x10]);
    }

    #[test]
    fn a_hasty_read_is_noted() {
        let mut hasty = Part::new(Vec::new());
        hasty.listen();
        let mut edges = Vec::new();
        Strobe::new(Hertz(1_000_000)).exchange(&[0x42], &[0; 4], Nanos(0), &mut edges);
        // The pause after the command taken out.
        edges
            .iter_mut()
            .filter(|edge| edge.at > Nanos(8_500))
            .for_each(|edge| edge.at = edge.at - TURN_ROUND);
        hasty.take(&edges);
        assert!(
            hasty.heard().iter().any(|note| note.odd && note.words.starts_with("keys clocked out 500 ns"))
        );
    }
}
