//! The response of the parts to the edges on their two wires.
//!
//! After the address comes a command, or for 00 to 0F a pointer into the display memory with data to follow; the
//! pointer counts up and wraps. The key data are read from pointer 40 to 45.

use crate::bus::Edge;
use crate::bus::i2c::{CLOCK, DATA, Event, Listener, Target};
use crate::bus::watch::Watch;
use crate::bus::whole::Bytewise;
use crate::meaning::{Meaning, Written, lines_or_blank};
use crate::model::{Model, Notebook, hex};
use crate::units::{Nanos, counted};

/// Bytes of a part's key data.
const KEY_BYTES: usize = 6;

/// One part.
struct Part {
    /// Undefined after power-up: something.
    memory: [u8; 16],
    /// Which bytes of it were written since.
    written: u16,
    pointer: usize,
    runs: bool,
    is_on: bool,
    /// Half the period of blinking; none while it does not.
    blink: Option<Nanos>,
    /// When blinking began, and whether it is in its dark half.
    since: Nanos,
    is_dark: bool,
    dimming: u8,
}

impl Part {
    fn new(seed: u8) -> Self {
        let byte = |place: usize| (place as u8).wrapping_mul(0x3B).wrapping_add(seed) ^ 0x5C;
        Self {
            memory: std::array::from_fn(byte),
            written: 0,
            pointer: 0,
            runs: false,
            is_on: false,
            blink: None,
            since: Nanos(0),
            is_dark: false,
            dimming: 15,
        }
    }

    /// The first byte after the address. Whether it is a command at all.
    fn command(&mut self, value: u8, at: Nanos) -> bool {
        match value {
            0x00..=0x0F => self.pointer = usize::from(value),
            0x20..=0x2F => self.runs = value & 1 == 1,
            0x80..=0x8F => {
                self.is_on = value & 1 == 1;
                // 2 Hz, 1 Hz, 0.5 Hz.
                self.blink = match value >> 1 & 3 {
                    0 => None,
                    rate => Some(Nanos(250_000_000 << (rate - 1))),
                };
                (self.since, self.is_dark) = (at, false);
            }
            0xE0..=0xEF => self.dimming = value & 15,
            0x40..=0x45 | 0xA0..=0xAF => {}
            _ => return false,
        }
        true
    }

    fn next_change(&self) -> Option<Nanos> {
        let half = self.blink.filter(|_| self.is_on && self.runs)?;
        Some(self.since + half)
    }

    fn lights(&self) -> bool {
        self.runs && self.is_on && !self.is_dark
    }
}

/// The parts on one bus.
pub struct Parts {
    listener: Listener,
    target: Target,
    /// The part and the byte of its key data that is read next.
    key_pointer: (usize, usize),
    watch: Watch,
    parts: Vec<(u8, Part)>,
    /// Who is spoken to, and the bytes of this transfer with the address.
    addressed: Option<usize>,
    transfer: Vec<u8>,
    keys: Vec<(usize, u8)>,
    down: Vec<bool>,
    notebook: Notebook,
    changes: u64,
}

impl Parts {
    pub fn new(addresses: &[u8], keys: Vec<(usize, u8)>) -> Self {
        Self {
            listener: Listener::default(),
            target: Target::default(),
            key_pointer: (0, 0),
            watch: Watch::new(super::LIMITS, CLOCK, DATA),
            parts: addresses.iter().map(|address| (*address, Part::new(*address))).collect(),
            addressed: None,
            transfer: Vec::new(),
            down: vec![false; keys.len()],
            keys,
            notebook: Notebook::default(),
            changes: 0,
        }
    }

    /// The part's end of the wires: it acknowledges, and gives its key data.
    fn answer_wires(&mut self, edge: &Edge) {
        let (parts, keys, down) = (&self.parts, &self.keys, &self.down);
        let pointer = &mut self.key_pointer;
        self.target.take(
            edge,
            |address| parts.iter().any(|(known, _)| *known == address),
            || next_key_byte(keys, down, pointer),
        );
    }

    fn byte(&mut self, value: u8, acknowledged: bool, at: Nanos) {
        let place = self.transfer.len();
        if place < 32 {
            self.transfer.push(value);
        }
        let reads = self.transfer[0] & 1 == 1;
        // Of what it reads, the controller leaves the last byte without acknowledge: that is how it ends.
        if !acknowledged && (place == 0 || !reads) {
            let words = || {
                format!(
                    "no acknowledge after {value:02X}{}",
                    if place == 0 { ": no part has this address" } else { "" }
                )
            };
            self.notebook.odd(at, words);
        }
        if place == 0 {
            self.addressed = self.parts.iter().position(|(address, _)| value >> 1 == *address);
            if self.addressed.is_none() {
                self.notebook.other(value >> 1);
            }
            return;
        }
        let Some((_, part)) = self.addressed.and_then(|part| self.parts.get_mut(part)).filter(|_| !reads)
        else {
            return;
        };
        match (place, self.transfer[1]) {
            (1, pointer) => {
                // A pointer lights nothing.
                self.changes += u64::from(pointer >= 0x20);
                if let 0x40..=0x45 = pointer {
                    self.key_pointer = (self.addressed.unwrap_or(0), usize::from(pointer - 0x40));
                }
                let was_on = part.is_on;
                if !part.command(value, at) {
                    self.notebook.odd(at, || format!("{value:02X} is not a command of the part"));
                }
                let undefined = 16 - part.written.count_ones();
                if part.is_on && !was_on && undefined > 0 {
                    self.notebook.odd(at, || {
                        format!(
                            "on before its memory is clear: {} of garbage seen",
                            counted(undefined as usize, "byte", "bytes")
                        )
                    });
                }
            }
            (_, 0x00..=0x0F) => {
                let before = std::mem::replace(&mut part.memory[part.pointer], value);
                self.changes += u64::from(before != value);
                part.written |= 1 << part.pointer;
                part.pointer = (part.pointer + 1) % part.memory.len();
            }
            _ => self.notebook.odd(at, || "further bytes after a command: ignored".to_owned()),
        }
    }

    fn finish(&mut self, at: Nanos) {
        if self.transfer.is_empty() {
            return;
        }
        let known = self
            .transfer
            .first()
            .is_some_and(|first| self.parts.iter().any(|(address, _)| first >> 1 == *address));
        if known {
            let transfer = std::mem::take(&mut self.transfer);
            let addresses = self.parts.iter().map(|(address, _)| *address);
            self.notebook.said(at, || explain(&transfer, addresses));
            self.transfer = transfer;
        }
        self.transfer.clear();
        self.addressed = None;
    }
}

/// The byte of the key data that is pointed at; the pointer counts up.
fn next_key_byte(keys: &[(usize, u8)], down: &[bool], (part, byte): &mut (usize, usize)) -> u8 {
    let data = key_byte(keys, down, *part * KEY_BYTES + *byte);
    *byte = (*byte + 1) % KEY_BYTES;
    data
}

/// A byte of the key data of all parts one after another.
fn key_byte(keys: &[(usize, u8)], down: &[bool], place: usize) -> u8 {
    let pressed = keys.iter().zip(down).filter(|((byte, _), down)| **down && *byte == place);
    pressed.fold(0, |data, ((_, bit), _)| data | 1 << bit)
}

impl Model for Parts {
    fn wake(&mut self, levels: &[Option<bool>]) {
        self.listener.wake(levels);
        self.target.wake(levels);
    }

    fn answer(&self) -> Option<bool> {
        self.target.answer()
    }

    /// The output valid time at 400 kHz, at most (data sheet, I2C timing; from memory, not confirmed elsewhere).
    fn answer_delay(&self) -> Nanos {
        Nanos(900)
    }

    fn take(&mut self, edges: &[Edge]) {
        for edge in edges {
            while let Some(due) = self.next_change().filter(|due| *due <= edge.at) {
                self.pass(due);
            }
            if let Some(violation) = self.watch.take(edge) {
                // A start and a stop are changes of data while the clock is high: no violation.
                if !matches!(violation, crate::bus::watch::Violation::Hold(_)) {
                    self.notebook.odd(edge.at, || violation.to_string());
                }
            }
            let bits = self.listener.bits();
            let event = self.listener.take(edge);
            self.answer_wires(edge);
            match event {
                None => {}
                Some(Event::Start) => self.finish(edge.at),
                Some(Event::Byte { value, acknowledged }) => self.byte(value, acknowledged, edge.at),
                Some(Event::Stop) => {
                    if bits > 1 {
                        self.notebook.odd(edge.at, || {
                            format!(
                                "a byte cut short after {}",
                                counted(usize::from(bits - 1), "bit", "bits")
                            )
                        });
                    }
                    self.finish(edge.at);
                }
            }
        }
    }

    fn bytewise(&mut self) -> Option<&mut dyn Bytewise> {
        if self.notebook.is_open() { None } else { Some(self) }
    }

    fn changes(&self) -> u64 {
        self.changes
    }

    fn registers(&self) -> Option<String> {
        let of_part = |(address, part): &(u8, Part)| {
            let runs = if part.runs { "runs" } else { "standby" };
            let is_on = if part.is_on { "on" } else { "off" };
            format!("{address:#04x} {runs}, {is_on}, dimming {}; {}", part.dimming, hex(&part.memory))
        };
        Some(self.parts.iter().map(of_part).collect::<Vec<_>>().join(" | "))
    }

    fn next_change(&self) -> Option<Nanos> {
        self.parts.iter().filter_map(|(_, part)| part.next_change()).min()
    }

    fn pass(&mut self, now: Nanos) {
        for (_, part) in &mut self.parts {
            if let Some(due) = part.next_change().filter(|due| *due <= now) {
                part.is_dark = !part.is_dark;
                part.since = due;
                self.changes += 1;
            }
        }
    }

    fn lit(&self, nodes: &mut [f32]) {
        for ((_, part), nodes) in self.parts.iter().zip(nodes.chunks_exact_mut(128)) {
            let share = if part.lights() { (f32::from(part.dimming) + 1.0) / 16.0 / 8.0 } else { 0.0 };
            for (byte, rows) in part.memory.iter().zip(nodes.chunks_exact_mut(8)) {
                for (row, node) in rows.iter_mut().enumerate() {
                    *node = share * f32::from(byte >> row & 1);
                }
            }
        }
    }

    fn pending(&self) -> Option<String> {
        let is_amid = !self.transfer.is_empty() || self.listener.bits() > 0;
        is_amid.then(|| "it ends in the middle of a transfer, before its stop".to_owned())
    }

    fn why_dark(&self) -> Option<&'static str> {
        let all = |is: &dyn Fn(&Part) -> bool| self.parts.iter().all(|(_, part)| is(part));
        if all(&|part| !part.runs) {
            return Some("the parts are in standby: the oscillator is stopped");
        }
        all(&|part| !part.is_on || !part.runs).then_some("the display is switched off in the parts")
    }

    fn notebook(&mut self) -> Option<&mut Notebook> {
        Some(&mut self.notebook)
    }

    fn buttons(&mut self) -> &mut [bool] {
        &mut self.down
    }
}

impl Bytewise for Parts {
    fn begin(&mut self, at: Nanos) {
        self.finish(at);
    }

    fn written(&mut self, byte: u8, at: Nanos) -> bool {
        self.byte(byte, true, at);
        self.addressed.is_some()
    }

    fn read(&mut self, at: Nanos) -> u8 {
        let byte = next_key_byte(&self.keys, &self.down, &mut self.key_pointer);
        self.byte(byte, true, at);
        byte
    }

    fn end(&mut self, at: Nanos) {
        self.finish(at);
    }
}

/// Returns the meaning of a transfer, from its bytes alone. The nodes of the parts follow one another in the order of their
/// addresses.
pub fn explain(bytes: &[u8], addresses: impl IntoIterator<Item = u8>) -> Meaning {
    let [address, rest @ ..] = bytes else { return Meaning::words("nothing") };
    let Some(part) = addresses.into_iter().position(|known| known == address >> 1) else {
        return Meaning::words("nobody answers");
    };
    match rest {
        [first @ 0x00..=0x0F, data @ ..] if address & 1 == 0 && !data.is_empty() => {
            memory(part, address >> 1, usize::from(*first), data)
        }
        rest => {
            let said = if address & 1 == 1 { answer_words(rest) } else { command_words(rest) };
            Meaning::Words(format!("{:#04x}: {said}", address >> 1))
        }
    }
}

fn answer_words(answer: &[u8]) -> String {
    let down = answer.iter().enumerate().flat_map(|(byte, value)| {
        (0..8).filter(move |bit| value >> bit & 1 == 1).map(move |bit| format!("byte{byte}.bit{bit}"))
    });
    match down.collect::<Vec<_>>() {
        none if none.is_empty() => "answers: no button is down".to_owned(),
        down => format!("answers: buttons {} down", down.join(" ")),
    }
}

fn command_words(bytes: &[u8]) -> String {
    match bytes {
        [] => "its address and no command".to_owned(),
        [first @ 0x00..=0x0F] => format!("points at byte {first}"),
        [0x21, ..] => "oscillator on".to_owned(),
        [0x20, ..] => "standby".to_owned(),
        [0x40..=0x45, ..] => "points at its button data".to_owned(),
        [command @ 0x80..=0x8F, ..] => match (command & 1, command >> 1 & 3) {
            (0, _) => "display off".to_owned(),
            (_, 0) => "display on".to_owned(),
            (_, rate) => format!("display on, blinking at {} Hz", ["2", "1", "0.5"][usize::from(rate) - 1]),
        },
        [command @ 0xA0..=0xAF, ..] if command & 1 == 0 => "the row/int pin is a row".to_owned(),
        [0xA0..=0xAF, ..] => "the row/int pin reports buttons".to_owned(),
        [command @ 0xE0..=0xEF, ..] => {
            let step = command & 15;
            format!("dimming {step}: lit {}/16 of its turn", step + 1)
        }
        [command, ..] => format!("{command:02X}: not a command of the part"),
    }
}

/// Returns the meaning of data from this byte on, common by common.
fn memory(part: usize, address: u8, first: usize, data: &[u8]) -> Meaning {
    let places: Vec<_> =
        data.iter().enumerate().map(|(offset, value)| ((first + offset) % 16, *value)).collect();
    let of_common = |bytes: &[(usize, u8)]| {
        let common = bytes[0].0 / 2;
        let bits = bytes.iter().flat_map(|(place, value)| {
            let below = 8 * (place % 2);
            (0..8).map(move |bit| (below + bit, value >> bit & 1 == 1))
        });
        let bits: Vec<_> = bits.collect();
        let lit: Vec<_> = bits.iter().filter(|(_, lit)| *lit).map(|(row, _)| row.to_string()).collect();
        Written {
            place: format!("{address:#04x} com {common}"),
            data: lines_or_blank("row", &lit),
            nodes: bits.into_iter().map(|(row, lit)| (128 * part + 16 * common + row, lit)).collect(),
        }
    };
    Meaning::Memory(places.chunk_by(|a, b| a.0 / 2 == b.0 / 2).map(of_common).collect())
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::bus::{Protocol, Transfer, i2c::I2c};
    use crate::model::Straight;
    use crate::units::Hertz;

    fn parts(transfers: &[&[u8]]) -> (Parts, Vec<String>) {
        let mut parts = Parts::new(&[0x70], vec![(5, 3)]);
        parts.listen();
        let protocol = Protocol::I2c(I2c { clock: Hertz(400_000) });
        let (mut wires, mut at) = (Straight::new(&mut parts, &protocol), Nanos(0));
        for transfer in transfers {
            let write = Transfer::I2c { address: transfer[0] >> 1, bytes: &transfer[1..], reads: 0 };
            at = protocol.send(write, at, &mut wires).ended;
        }
        let odd =
            parts.heard().into_iter().filter(|note| note.odd).map(|note| note.meaning.plainly()).collect();
        (parts, odd)
    }

    fn lit(parts: &Parts) -> Vec<usize> {
        let mut nodes = vec![0.0; 128];
        parts.lit(&mut nodes);
        (0..128).filter(|node| nodes[*node] > 0.0).collect()
    }

    const CLEAR: [u8; 18] = [0xE0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0];

    #[test]
    fn it_wakes_in_standby_with_garbage() {
        assert!(lit(&parts(&[&[0xE0, 0x81]]).0).is_empty(), "the oscillator stands");
        assert!(lit(&parts(&[&[0xE0, 0x21], &[0xE0, 0x81]]).0).len() > 10);
        let (sound, odd) = parts(&[&[0xE0, 0x21], &CLEAR, &[0xE0, 0x81], &[0xE0, 0x0F, 0x80, 0x01]]);
        assert_eq!((lit(&sound), odd), (vec![0, 127], vec![]), "the pointer wraps");
    }

    #[test]
    fn it_blinks_by_itself() {
        let (mut blinking, _) = parts(&[&[0xE0, 0x21], &CLEAR, &[0xE0, 0x00, 1], &[0xE0, 0x83]]);
        let begun = blinking.next_change().unwrap();
        assert_eq!(lit(&blinking), [0]);
        blinking.pass(begun);
        assert_eq!((lit(&blinking), blinking.next_change()), (vec![], Some(begun + Nanos(250_000_000))));
    }

    #[test]
    fn an_address_that_nobody_has_and_bytes_after_a_command_are_odd() {
        assert_eq!(parts(&[&[0xE2, 0x21]]).1, ["no acknowledge after E2: no part has this address"]);
        assert_eq!(parts(&[&[0xE0, 0x21, 0x81]]).1, ["further bytes after a command: ignored"]);
    }

    #[test]
    fn keys_are_answered_over_the_wires() {
        let mut parts = Parts::new(&[0x70, 0x71], vec![(5, 3), (6, 0)]);
        parts.press(0, true);
        parts.press(1, true);
        let protocol = Protocol::I2c(I2c { clock: Hertz(400_000) });
        let mut wires = Straight::new(&mut parts, &protocol);
        let mut read =
            |address, at| protocol.send(Transfer::I2c { address, bytes: &[0x40], reads: 6 }, at, &mut wires);
        let first = read(0x70, Nanos(0));
        assert_eq!((first.bytes, first.acknowledged), (vec![0, 0, 0, 0, 0, 8], true));
        let second = read(0x71, first.ended);
        assert_eq!(second.bytes, [1, 0, 0, 0, 0, 0]);
        let nobody = read(0x72, second.ended);
        assert_eq!((nobody.bytes, nobody.acknowledged), (vec![], false));
    }
}
