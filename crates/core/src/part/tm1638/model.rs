//! The response of the part to the edges on its three wires.

use crate::bus::Edge;
use crate::bus::strobe::{CLOCK, DATA, Event, Listener};
use crate::bus::watch::Watch;
use crate::bus::whole::Bytewise;
use crate::meaning::Meaning;
use crate::model::{Model, Notebook};
use crate::part::tm163x::model::{self, Layout, Registers};
use crate::units::{Nanos, counted};

/// Eight grids of two bytes: lines 1-8 in the even address, 9 and 10 in bits 0 and 1 of the odd one.
const LAYOUT: Layout = Layout { grids: 8, bytes_a_grid: 2, lines: 10, wraps: 16 };

/// Between the command to read keys and the first bit of the answer (t_WAIT).
const TURN_ROUND: Nanos = Nanos(1_000);

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
    /// The level of the clock, the bits of the answer that is on its way, and what it does to data.
    clock: bool,
    answering: Option<u32>,
    drives: Option<bool>,
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
            clock: true,
            answering: None,
            drives: None,
            notebook: Notebook::default(),
        }
    }

    /// Four bytes, a bit a key; the first byte and its lowest bit go first.
    fn key_bits(&self) -> u32 {
        let down = self.keys.iter().zip(&self.down).filter(|(_, down)| **down);
        down.fold(0, |bits, ((byte, bit), _)| bits | 1 << (8 * byte + usize::from(*bit)))
    }

    fn byte(&mut self, value: u8, at: Nanos) {
        if self.registers.byte(value, at, &mut self.notebook) {
            self.asked = Some(at);
            self.answering = Some(self.key_bits());
        }
    }

    /// It gives a bit after each falling clock.
    fn drive_data(&mut self, edge: &Edge) {
        if edge.line != CLOCK || edge.level == self.clock {
            return;
        }
        self.clock = edge.level;
        if let Some(bits) = self.answering.as_mut().filter(|_| !edge.level) {
            self.drives = Some(*bits & 1 == 1);
            *bits >>= 1;
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
            format!("buttons clocked out {waited} after the command: the part needs {TURN_ROUND}")
        });
    }
}

impl Model for Part {
    fn wake(&mut self, levels: &[Option<bool>]) {
        self.listener.wake(levels);
        self.clock = levels.get(CLOCK).copied().flatten().unwrap_or(true);
    }

    fn answer(&self) -> Option<bool> {
        self.drives
    }

    /// From the falling clock to low, at most (data sheet, t_PZL; from memory, not confirmed elsewhere).
    fn answer_delay(&self) -> Nanos {
        Nanos(300)
    }

    fn take(&mut self, edges: &[Edge]) {
        for edge in edges {
            if let Some(violation) = self.watch.take(edge) {
                self.notebook.odd(edge.at, || violation.to_string());
            }
            self.check_turn_round(edge);
            self.drive_data(edge);
            match self.listener.take(edge) {
                None => {}
                Some(Event::Begin) => self.begin(edge.at),
                Some(Event::Byte(value)) => self.byte(value, edge.at),
                Some(Event::End(left)) => {
                    if left > 0 {
                        self.notebook.odd(edge.at, || {
                            format!("a byte cut short after {}", counted(usize::from(left), "bit", "bits"))
                        });
                    }
                    self.end(edge.at);
                }
            }
        }
    }

    fn bytewise(&mut self) -> Option<&mut dyn Bytewise> {
        if self.notebook.is_open() { None } else { Some(self) }
    }

    fn changes(&self) -> u64 {
        self.registers.changes()
    }

    fn registers(&self) -> Option<String> {
        Some(self.registers.words())
    }

    fn pending(&self) -> Option<String> {
        let is_amid = self.registers.is_spoken_to() || self.listener.bits() > 0;
        is_amid.then(|| "it ends in the middle of a transfer, before strobe rises".to_owned())
    }

    fn why_dark(&self) -> Option<&'static str> {
        self.registers.why_dark()
    }

    fn lit(&self, nodes: &mut [f32]) {
        self.registers.lit(nodes);
    }

    fn notebook(&mut self) -> Option<&mut Notebook> {
        Some(&mut self.notebook)
    }

    fn buttons(&mut self) -> &mut [bool] {
        &mut self.down
    }
}

impl Bytewise for Part {
    fn begin(&mut self, _: Nanos) {
        self.registers.begin();
    }

    fn written(&mut self, byte: u8, at: Nanos) -> bool {
        // Where both drive, low wins.
        let own = self.answering.as_mut().map_or(0xFF, |bits| {
            let own = *bits as u8;
            *bits >>= 8;
            own
        });
        self.byte(byte & own, at);
        true
    }

    fn read(&mut self, at: Nanos) -> u8 {
        let own = self.answering.map_or(0xFF, |bits| bits as u8);
        self.written(0xFF, at);
        own
    }

    fn end(&mut self, at: Nanos) {
        (self.asked, self.answering, self.drives) = (None, None, None);
        self.registers.end(at, "a strobe with nothing in it", &mut self.notebook);
    }
}

/// Returns the meaning of a transfer, from its bytes alone.
pub fn explain(bytes: &[u8]) -> Meaning {
    model::explain(bytes, LAYOUT)
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::bus::{Protocol, Transfer, Unanswered, strobe::Strobe};
    use crate::model::Straight;
    use crate::units::Hertz;

    fn part(clock: u32, transfers: &[&[u8]]) -> (Part, Vec<String>) {
        let mut part = Part::new(vec![(0, 0), (3, 4)]);
        part.listen();
        let protocol = Protocol::Strobe(Strobe { clock: Hertz(clock) });
        let (mut wires, mut at) = (Straight::new(&mut part, &protocol), Nanos(0));
        for bytes in transfers {
            at = protocol.send(Transfer::Strobe { bytes, reads: 0 }, at, &mut wires).ended;
        }
        let odd =
            part.heard().into_iter().filter(|note| note.odd).map(|note| note.meaning.plainly()).collect();
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
            ["further bytes after a command: each needs a transfer of its own"]
        );
        assert!(part(2_000_000, &[&[0x40]]).1[0].starts_with("clock too fast"));
    }

    #[test]
    fn several_keys_at_once_each_at_its_bit_over_the_wires() {
        let (mut part, _) = part(1_000_000, &[]);
        let mut answer = |pressed: [bool; 2]| {
            pressed.iter().enumerate().for_each(|(key, down)| part.press(key, *down));
            let protocol = Protocol::Strobe(Strobe { clock: Hertz(1_000_000) });
            let mut wires = Straight::new(&mut part, &protocol);
            protocol.send(Transfer::Strobe { bytes: &[0x42], reads: 4 }, Nanos(0), &mut wires).bytes
        };
        assert_eq!(answer([true, true]), [1, 0, 0, 0x10]);
        assert_eq!(answer([false, true]), [0, 0, 0, 0x10]);
        assert_eq!(answer([false, false]), [0; 4]);
        assert_eq!(explain(&[0x42, 1, 0, 0, 0x10]).plainly(), "read the buttons: byte0.bit0 byte3.bit4 down");
    }

    #[test]
    fn a_hasty_read_is_noted() {
        let mut hasty = Part::new(Vec::new());
        hasty.listen();
        let protocol = Protocol::Strobe(Strobe { clock: Hertz(1_000_000) });
        let mut wires = Unanswered::of(&protocol);
        protocol.send(Transfer::Strobe { bytes: &[0x42], reads: 4 }, Nanos(0), &mut wires);
        let mut edges = wires.edges;
        // The pause after the command taken out.
        edges
            .iter_mut()
            .filter(|edge| edge.at > Nanos(8_500))
            .for_each(|edge| edge.at = edge.at - Nanos(500));
        hasty.take(&edges);
        assert!(
            hasty
                .heard()
                .iter()
                .any(|note| note.odd && note.meaning.plainly().starts_with("buttons clocked out 500 ns"))
        );
    }
}
