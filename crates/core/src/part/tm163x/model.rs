//! The meaning of a transfer for the parts of the family, once their wires have brought its bytes.
//!
//! Bits 7 and 6 of the first byte choose: 01 a data command (bit 1 read keys, bit 2 fixed address), 10 the display
//! control (bit 3 on, bits 2-0 pulse width), 11 an address, which data may follow. Each command is a transfer of its
//! own.

use crate::meaning::{Meaning, Written, lines_or_blank};
use crate::model::{Notebook, hex};
use crate::units::{Nanos, counted};

/// Sixteenths of a grid's turn, by the brightness bits.
const PULSE: [f32; 8] = [1.0, 2.0, 4.0, 10.0, 11.0, 12.0, 13.0, 14.0];

/// More bytes of one transfer are not remembered.
const LONGEST: usize = 32;

/// How a part's memory is laid out.
#[derive(Clone, Copy)]
pub struct Layout {
    /// Grids, bytes of each, and segment lines of each.
    pub grids: usize,
    pub bytes_a_grid: usize,
    pub lines: usize,
    /// After how many addresses the pointer is back at 0.
    pub wraps: usize,
}

/// The registers and the memory of one part.
pub struct Registers {
    layout: Layout,
    /// Undefined after power-up: something.
    memory: Vec<u8>,
    /// Which bytes of it were written since.
    written: u16,
    address: usize,
    is_fixed: bool,
    reads: bool,
    is_on: bool,
    pulse: usize,
    transfer: Vec<u8>,
    changes: u64,
}

impl Registers {
    pub fn new(layout: Layout) -> Self {
        let mut noise = 0x9E37_79B9_u32;
        let garbage = (0..layout.grids * layout.bytes_a_grid).map(|_| {
            noise = noise.wrapping_mul(0x0019_660D).wrapping_add(0x3C6E_F35F);
            (noise >> 24) as u8
        });
        Self {
            memory: garbage.collect(),
            layout,
            written: 0,
            address: 0,
            is_fixed: false,
            reads: false,
            is_on: false,
            pulse: 0,
            transfer: Vec::new(),
            changes: 0,
        }
    }

    /// A transfer begins.
    pub fn begin(&mut self) {
        self.transfer.clear();
    }

    /// Returns true if the transfer that is on its way is the command to read keys.
    pub fn is_asked(&self) -> bool {
        self.reads && self.transfer.first().is_some_and(|first| first >> 6 == 0b01)
    }

    /// A byte of it. Whether it was the command to read keys.
    pub fn byte(&mut self, value: u8, at: Nanos, notebook: &mut Notebook) -> bool {
        let first = self.transfer.is_empty();
        if self.transfer.len() < LONGEST {
            self.transfer.push(value);
        }
        if first {
            self.command(value, at, notebook);
            return value >> 6 == 0b01 && self.reads;
        }
        match self.transfer[0] >> 6 {
            0b11 if self.reads => {
                notebook.odd(at, || "data while the part is set to read buttons: ignored".to_owned());
            }
            0b11 => self.store(value, at, notebook),
            // The part's own answer.
            0b01 if self.reads => {}
            _ => notebook
                .odd(at, || "further bytes after a command: each needs a transfer of its own".to_owned()),
        }
        false
    }

    fn store(&mut self, value: u8, at: Nanos, notebook: &mut Notebook) {
        let address = self.address;
        match self.memory.get_mut(address) {
            Some(byte) => {
                self.changes += u64::from(*byte != value);
                *byte = value;
                self.written |= 1 << address;
            }
            None => {
                let last = self.memory.len() - 1;
                notebook.odd(at, || format!("data for address {address}: the part has 0 to {last}"));
            }
        }
        if !self.is_fixed {
            self.address = (address + 1) % self.layout.wraps;
        }
    }

    fn command(&mut self, value: u8, at: Nanos, notebook: &mut Notebook) {
        match value >> 6 {
            0b01 => (self.reads, self.is_fixed) = (value & 2 != 0, value & 4 != 0),
            0b10 => {
                let was_on = self.is_on;
                (self.is_on, self.pulse) = (value & 8 != 0, usize::from(value & 7));
                self.changes += 1;
                let undefined = self.memory.len() as u32 - self.written.count_ones();
                if self.is_on && !was_on && undefined > 0 {
                    notebook.odd(at, || {
                        format!(
                            "on before its memory is clear: {} of garbage seen",
                            counted(undefined as usize, "byte", "bytes")
                        )
                    });
                }
            }
            0b11 => self.address = usize::from(value) & (self.layout.wraps - 1),
            _ => notebook.odd(at, || format!("{value:02X} is not a command of the part")),
        }
    }

    /// The transfer ends; its words are noted.
    pub fn end(&mut self, at: Nanos, nothing: &str, notebook: &mut Notebook) {
        if self.transfer.is_empty() {
            notebook.odd(at, || nothing.to_owned());
        } else {
            notebook.said(at, || explain(&self.transfer, self.layout));
        }
        self.transfer.clear();
    }

    /// Returns true if a transfer is on its way.
    pub const fn is_spoken_to(&self) -> bool {
        !self.transfer.is_empty()
    }

    /// Why nothing is lit.
    pub const fn why_dark(&self) -> Option<&'static str> {
        if self.is_on { None } else { Some("the display is switched off in the part") }
    }

    pub fn words(&self) -> String {
        let light = match self.is_on {
            true => format!("on, pulse {}/16", PULSE[self.pulse]),
            false => "off".to_owned(),
        };
        format!("{light}; {}", hex(&self.memory))
    }

    pub const fn changes(&self) -> u64 {
        self.changes
    }

    pub fn lit(&self, nodes: &mut [f32]) {
        let Layout { grids, bytes_a_grid, lines, .. } = self.layout;
        let share = if self.is_on { PULSE[self.pulse] / 16.0 / grids as f32 } else { 0.0 };
        for (bytes, nodes) in self.memory.chunks_exact(bytes_a_grid).zip(nodes.chunks_exact_mut(lines)) {
            for (line, node) in nodes.iter_mut().enumerate() {
                *node = share * f32::from(bytes[line / 8] >> (line % 8) & 1);
            }
        }
    }
}

/// Returns the meaning of a transfer, from its bytes alone.
pub fn explain(bytes: &[u8], layout: Layout) -> Meaning {
    let [command, data @ ..] = bytes else { return Meaning::words("nothing") };
    match command >> 6 {
        0b01 if command & 2 != 0 => Meaning::Words(read_words(data)),
        0b01 if command & 4 != 0 => Meaning::words("write to a fixed address"),
        0b01 => Meaning::words("write, the address counts up"),
        0b10 if command & 8 == 0 => Meaning::words("display off"),
        0b10 => {
            let step = command & 7;
            Meaning::Words(format!(
                "display on, brightness {step}: a pulse of {}/16",
                PULSE[usize::from(step)]
            ))
        }
        0b11 => memory(usize::from(*command) & (layout.wraps - 1), data, layout),
        _ => Meaning::Words(format!("{command:02X}: not a command of the part")),
    }
}

/// Describes an answer: one byte is the code of a button, more are a bit for each button.
fn read_words(data: &[u8]) -> String {
    let down: Vec<_> = match data {
        [] => return "read the buttons".to_owned(),
        [0xFF] => Vec::new(),
        [code] => vec![format!("{code:02X}")],
        data => {
            let bits = data.iter().enumerate().flat_map(|(byte, value)| {
                (0..8).filter(move |bit| value >> bit & 1 == 1).map(move |bit| format!("byte{byte}.bit{bit}"))
            });
            bits.collect()
        }
    };
    if down.is_empty() {
        "read the buttons: no button is down".to_owned()
    } else {
        format!("read the buttons: {} down", down.join(" "))
    }
}

/// Returns the meaning of data from this address on, grid by grid.
fn memory(first: usize, data: &[u8], layout: Layout) -> Meaning {
    if data.is_empty() {
        return Meaning::Words(format!("address {first}, and no data"));
    }
    let Layout { grids, bytes_a_grid, lines, wraps } = layout;
    let places = data.iter().enumerate().map(|(offset, value)| ((first + offset) % wraps, *value));
    let places: Vec<_> = places.filter(|(address, _)| *address < grids * bytes_a_grid).collect();
    let of_grid = |bytes: &[(usize, u8)]| {
        let grid = bytes[0].0 / bytes_a_grid;
        let bits = bytes.iter().flat_map(|(address, value)| {
            let below = 8 * (address % bytes_a_grid);
            (0..8).map(move |bit| (below + bit, value >> bit & 1 == 1)).filter(move |(line, _)| *line < lines)
        });
        let bits: Vec<_> = bits.collect();
        let lit: Vec<_> =
            bits.iter().filter(|(_, lit)| *lit).map(|(line, _)| (line + 1).to_string()).collect();
        Written {
            place: format!("grid {}", grid + 1),
            data: lines_or_blank("seg", &lit),
            nodes: bits.into_iter().map(|(line, lit)| (grid * lines + line, lit)).collect(),
        }
    };
    Meaning::Memory(places.chunk_by(|a, b| a.0 / bytes_a_grid == b.0 / bytes_a_grid).map(of_grid).collect())
}
