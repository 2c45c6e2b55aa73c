//! What the part does with the edges on its two wires.
//!
//! Bits 7 and 6 of the first byte of a transfer choose: 01 a data command (bit 1 read keys, bit 2 fixed address),
//! 10 the display control (bit 3 on, bits 2-0 pulse width), 11 an address, which data may follow.

use crate::bus::Edge;
use crate::bus::i2c::Event;
use crate::bus::two_wire::{CLOCK, DATA, Listener};
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
    memory: [u8; 6],
    /// Which bytes of it were written since.
    written: u16,
    address: usize,
    is_fixed: bool,
    reads: bool,
    is_on: bool,
    pulse: usize,
    /// The bytes of this transfer, for its words; and how many came.
    transfer: Vec<u8>,
    /// What it answers for each key of the face, and which are down.
    codes: Vec<u8>,
    down: Vec<bool>,
    notebook: Notebook,
    changes: u64,
}

impl Part {
    pub fn new(codes: Vec<u8>) -> Self {
        Self {
            listener: Listener::default(),
            watch: Watch::new(super::LIMITS, CLOCK, DATA),
            memory: [0x5A, 0xC3, 0x99, 0x36, 0xE1, 0x0F],
            written: 0,
            address: 0,
            is_fixed: false,
            reads: false,
            is_on: false,
            pulse: 0,
            transfer: Vec::new(),
            down: vec![false; codes.len()],
            codes,
            notebook: Notebook::default(),
            changes: 0,
        }
    }

    fn byte(&mut self, value: u8, at: Nanos) {
        let first = self.transfer.is_empty();
        // No transfer needs more; what comes beyond is not remembered.
        if self.transfer.len() < 16 {
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
                match self.memory.get_mut(self.address) {
                    Some(byte) => {
                        *byte = value;
                        self.written |= 1 << self.address;
                    }
                    None => {
                        let address = self.address;
                        self.notebook.odd(at, || format!("data for address {address}: the part has 0 to 5"));
                    }
                }
                self.changes += 1;
                if !self.is_fixed {
                    self.address = (self.address + 1) % 8;
                }
            }
            0b01 if self.reads => {}
            _ => self
                .notebook
                .odd(at, || "more bytes after a command: each wants its own start and stop".to_owned()),
        }
    }

    fn command(&mut self, value: u8, at: Nanos) {
        match value >> 6 {
            0b01 => (self.reads, self.is_fixed) = (value & 2 != 0, value & 4 != 0),
            0b10 => {
                let was_on = self.is_on;
                (self.is_on, self.pulse) = (value & 8 != 0, usize::from(value & 7));
                self.changes += 1;
                let undefined = 6 - self.written.count_ones();
                if self.is_on && !was_on && undefined > 0 {
                    self.notebook.odd(at, || {
                        format!("on before its memory is clear: {undefined} bytes of garbage are seen")
                    });
                }
            }
            0b11 => self.address = usize::from(value & 7),
            _ => self.notebook.odd(at, || format!("{value:02X} is no command of the part")),
        }
    }

    fn event(&mut self, event: Event, at: Nanos) {
        match event {
            Event::Start => self.transfer.clear(),
            Event::Byte { value, acknowledged } => {
                if !acknowledged {
                    self.notebook.odd(at, || format!("no acknowledge after {value:02X}"));
                }
                self.byte(value, at);
            }
            Event::Stop => {
                let transfer = std::mem::take(&mut self.transfer);
                if transfer.is_empty() {
                    self.notebook.odd(at, || "start and stop with nothing between".to_owned());
                } else {
                    self.notebook.said(at, || explain(&transfer));
                }
                self.transfer = transfer;
                self.transfer.clear();
            }
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
            if let Some(event) = self.listener.take(edge) {
                // The rise before a stop is counted as a bit.
                if event == Event::Stop && bits > 1 {
                    self.notebook.odd(edge.at, || format!("a byte cut short after {} bits", bits - 1));
                }
                self.event(event, edge.at);
            }
        }
    }

    fn changes(&self) -> u64 {
        self.changes
    }

    fn lit(&self, nodes: &mut [f32]) {
        let share = if self.is_on { PULSE[self.pulse] / 16.0 / 6.0 } else { 0.0 };
        for (byte, lines) in self.memory.iter().zip(nodes.chunks_exact_mut(8)) {
            for (line, node) in lines.iter_mut().enumerate() {
                *node = if byte >> line & 1 == 1 { share } else { 0.0 };
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
        // One key at a time: with several down the part tells the first that its scan meets.
        let mut pressed = self.codes.iter().zip(&self.down).filter(|(_, down)| **down);
        vec![pressed.next().map_or(0xFF, |(code, _)| *code)]
    }
}

/// What a transfer says, told from its bytes alone.
pub fn explain(bytes: &[u8]) -> String {
    let [command, data @ ..] = bytes else { return "nothing".to_owned() };
    match command >> 6 {
        0b01 if command & 2 != 0 => match data {
            [] => "read the keys".to_owned(),
            [0xFF, ..] => "read the keys: none is down".to_owned(),
            [code, ..] => format!("read the keys: {code:02X} is down"),
        },
        0b01 if command & 4 != 0 => "write to a fixed address".to_owned(),
        0b01 => "write, the address counts up".to_owned(),
        0b10 if command & 8 == 0 => "display off".to_owned(),
        0b10 => {
            let step = command & 7;
            format!("display on, brightness {step}: a pulse of {}/16", PULSE[usize::from(step)])
        }
        0b11 => {
            let first = usize::from(command & 7);
            let grids = data.iter().enumerate().map(|(offset, byte)| {
                let lines: Vec<_> =
                    (0..8).filter(|line| byte >> line & 1 == 1).map(|line| (line + 1).to_string()).collect();
                let lit =
                    if lines.is_empty() { "blank".to_owned() } else { format!("seg {}", lines.join(" ")) };
                format!("grid {}: {lit}", (first + offset) % 8 + 1)
            });
            match grids.collect::<Vec<_>>() {
                none if none.is_empty() => format!("address {first}, and no data"),
                grids => grids.join(", "),
            }
        }
        _ => format!("{command:02X}: no command of the part"),
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::bus::{Bus, two_wire::TwoWire};
    use crate::units::Hertz;

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
            ["more bytes after a command: each wants its own start and stop"]
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
