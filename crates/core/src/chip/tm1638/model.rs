//! What the part does with the edges on its three wires.
//!
//! Bits 7 and 6 of the first byte after strobe falls choose: 01 a data command (bit 1 read keys, bit 2 fixed
//! address), 10 the display control (bit 3 on, bits 2-0 pulse width), 11 an address, which data may follow. Memory
//! address 2i holds lines 1-8 of grid i, 2i + 1 lines 9 and 10 in its bits 0 and 1.

use crate::bus::Edge;
use crate::bus::strobe::{CLOCK, DATA, Event, Listener, TURN_ROUND};
use crate::bus::watch::Watch;
use crate::drive::{Model, Note, Notebook};
use crate::units::Nanos;

/// Sixteenths of a grid's turn, by the brightness bits.
const PULSE: [f32; 8] = [1.0, 2.0, 4.0, 10.0, 11.0, 12.0, 13.0, 14.0];

/// One part.
pub struct Part {
    listener: Listener,
    watch: Watch,
    /// Undefined after power-up: something.
    memory: [u8; 16],
    /// Which bytes of it were written since.
    written: u16,
    address: usize,
    is_fixed: bool,
    reads: bool,
    is_on: bool,
    pulse: usize,
    transfer: Vec<u8>,
    /// When the command to read keys was complete, while its answer has not begun.
    asked: Option<Nanos>,
    /// Byte and bit of each key of the face, and which are down.
    keys: Vec<(usize, u8)>,
    down: Vec<bool>,
    notebook: Notebook,
    changes: u64,
}

impl Part {
    pub fn new(keys: Vec<(usize, u8)>) -> Self {
        let mut memory = [0; 16];
        let mut noise = 0x9E37_79B9_u32;
        for byte in &mut memory {
            noise = noise.wrapping_mul(0x0019_660D).wrapping_add(0x3C6E_F35F);
            *byte = (noise >> 24) as u8;
        }
        Self {
            listener: Listener::default(),
            watch: Watch::new(super::LIMITS, CLOCK, DATA),
            memory,
            written: 0,
            address: 0,
            is_fixed: false,
            reads: false,
            is_on: false,
            pulse: 0,
            transfer: Vec::new(),
            asked: None,
            down: vec![false; keys.len()],
            keys,
            notebook: Notebook::default(),
            changes: 0,
        }
    }

    fn byte(&mut self, value: u8, at: Nanos) {
        let first = self.transfer.is_empty();
        if self.transfer.len() < 32 {
            self.transfer.push(value);
        }
        if first {
            return self.command(value, at);
        }
        match self.transfer[0] >> 6 {
            0b11 if self.reads => {
                self.notebook.odd(at, || "data while the part is set to read keys: lost".to_owned());
            }
            0b11 => {
                self.memory[self.address] = value;
                self.written |= 1 << self.address;
                self.changes += 1;
                if !self.is_fixed {
                    self.address = (self.address + 1) % self.memory.len();
                }
            }
            // The part's own answer.
            0b01 if self.reads => {}
            _ => self.notebook.odd(at, || "more bytes after a command: each wants its own strobe".to_owned()),
        }
    }

    fn command(&mut self, value: u8, at: Nanos) {
        match value >> 6 {
            0b01 => {
                (self.reads, self.is_fixed) = (value & 2 != 0, value & 4 != 0);
                self.asked = self.reads.then_some(at);
            }
            0b10 => {
                let was_on = self.is_on;
                (self.is_on, self.pulse) = (value & 8 != 0, usize::from(value & 7));
                self.changes += 1;
                let undefined = 16 - self.written.count_ones();
                if self.is_on && !was_on && undefined > 0 {
                    self.notebook.odd(at, || {
                        format!("on before its memory is clear: {undefined} bytes of garbage are seen")
                    });
                }
            }
            0b11 => self.address = usize::from(value & 15),
            _ => self.notebook.odd(at, || format!("{value:02X} is no command of the part")),
        }
    }
}

impl Model for Part {
    fn take(&mut self, edges: &[Edge]) {
        for edge in edges {
            if let Some(violation) = self.watch.take(edge) {
                self.notebook.odd(edge.at, || violation.to_string());
            }
            if edge.line == CLOCK
                && !edge.level
                && let Some(asked) = self.asked.take()
                && edge.at - asked < TURN_ROUND
            {
                let waited = edge.at - asked;
                self.notebook.odd(edge.at, || {
                    format!("keys clocked out {waited} after the command: the part needs {TURN_ROUND}")
                });
            }
            match self.listener.take(edge) {
                None => {}
                Some(Event::Begin) => self.transfer.clear(),
                Some(Event::Byte(value)) => self.byte(value, edge.at),
                Some(Event::End(left)) => {
                    self.asked = None;
                    if left > 0 {
                        self.notebook.odd(edge.at, || format!("a byte cut short after {left} bits"));
                    }
                    let transfer = std::mem::take(&mut self.transfer);
                    if transfer.is_empty() && left == 0 {
                        self.notebook.odd(edge.at, || "a strobe with nothing in it".to_owned());
                    } else if !transfer.is_empty() {
                        self.notebook.said(edge.at, || explain(&transfer));
                    }
                    self.transfer = transfer;
                    self.transfer.clear();
                }
            }
        }
    }

    fn changes(&self) -> u64 {
        self.changes
    }

    fn lit(&self, nodes: &mut [f32]) {
        let share = if self.is_on { PULSE[self.pulse] / 16.0 / 8.0 } else { 0.0 };
        for (grid, lines) in nodes.chunks_exact_mut(10).enumerate().take(8) {
            let (low, high) = (self.memory[2 * grid], self.memory[2 * grid + 1]);
            for (line, node) in lines.iter_mut().enumerate() {
                let bit = if line < 8 { low >> line } else { high >> (line - 8) };
                *node = if bit & 1 == 1 { share } else { 0.0 };
            }
        }
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
        let mut answer = vec![0; 4];
        for ((byte, bit), _) in self.keys.iter().zip(&self.down).filter(|(_, down)| **down) {
            if let Some(byte) = answer.get_mut(*byte) {
                *byte |= 1 << bit;
            }
        }
        answer
    }
}

/// What a transfer says, told from its bytes alone.
pub fn explain(bytes: &[u8]) -> String {
    let [command, data @ ..] = bytes else { return "nothing".to_owned() };
    match command >> 6 {
        0b01 if command & 2 != 0 => {
            let down = data.iter().enumerate().flat_map(|(byte, value)| {
                (0..8).filter(move |bit| value >> bit & 1 == 1).map(move |bit| format!("byte{byte}.bit{bit}"))
            });
            match (data, down.collect::<Vec<_>>()) {
                ([], _) => "read the keys".to_owned(),
                (_, none) if none.is_empty() => "read the keys: none is down".to_owned(),
                (_, down) => format!("read the keys: {} down", down.join(" ")),
            }
        }
        0b01 if command & 4 != 0 => "write to a fixed address".to_owned(),
        0b01 => "write, the address counts up".to_owned(),
        0b10 if command & 8 == 0 => "display off".to_owned(),
        0b10 => {
            let step = command & 7;
            format!("display on, brightness {step}: a pulse of {}/16", PULSE[usize::from(step)])
        }
        0b11 if data.is_empty() => format!("address {}, and no data", command & 15),
        0b11 => {
            let first = usize::from(command & 15);
            let lit = data.iter().enumerate().map(|(offset, byte)| {
                let address = (first + offset) % 16;
                let base = 1 + 8 * (address % 2);
                let lines: Vec<_> = (0..8)
                    .filter(|line| byte >> line & 1 == 1)
                    .map(|line| (line + base).to_string())
                    .collect();
                (address / 2 + 1, lines)
            });
            let (mut words, mut last) = (Vec::<(usize, Vec<String>)>::new(), 0);
            for (grid, lines) in lit {
                match words.last_mut().filter(|_| grid == last) {
                    Some((_, all)) => all.extend(lines),
                    None => words.push((grid, lines)),
                }
                last = grid;
            }
            let grid = |(grid, lines): &(usize, Vec<String>)| {
                let lit =
                    if lines.is_empty() { "blank".to_owned() } else { format!("seg {}", lines.join(" ")) };
                format!("grid {grid}: {lit}")
            };
            words.iter().map(grid).collect::<Vec<_>>().join(", ")
        }
        _ => format!("{command:02X}: no command of the part"),
    }
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
            ["more bytes after a command: each wants its own strobe"]
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
