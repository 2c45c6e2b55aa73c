//! The response of the part to the edges on its two wires.

use crate::bus::Edge;
use crate::bus::i2c::Event;
use crate::bus::two_wire::{CLOCK, DATA, Listener};
use crate::bus::watch::Watch;
use crate::bus::whole::Bytewise;
use crate::meaning::Meaning;
use crate::model::{Model, Notebook};
use crate::part::tm163x::model::{self, Layout, Registers};
use crate::units::{Nanos, counted};

/// Six grids of a byte each; the address has three bits.
const LAYOUT: Layout = Layout { grids: 6, bytes_a_grid: 1, lines: 8, wraps: 8 };

/// One part.
pub struct Part {
    listener: Listener,
    watch: Watch,
    registers: Registers,
    /// The answer for each button of the face, and which are down.
    codes: Vec<u8>,
    down: Vec<bool>,
    wire: DataWire,
    notebook: Notebook,
}

/// The level that the part drives on the data wire.
#[derive(Default)]
struct DataWire {
    clock: bool,
    /// Rising clocks since the last byte; none outside a transfer.
    rises: Option<u8>,
    /// The answer that is on its way.
    answer: Option<u8>,
    drives: Option<bool>,
}

impl DataWire {
    /// A byte is over. `answers` is what it answers from here on, when it was asked and has not begun to.
    fn next_byte(&mut self, answers: Option<u8>) {
        self.answer = if self.answer.is_some() { None } else { answers };
    }

    /// A falling clock.
    fn fall(&mut self, answers: Option<u8>) {
        let Some(rises) = &mut self.rises else { return };
        self.drives = match (*rises, self.answer) {
            // From the eighth falling clock to the ninth it acknowledges.
            (8, _) => Some(false),
            (9, _) => {
                *rises = 0;
                self.next_byte(answers);
                self.answer.map(|answer| answer & 1 == 1)
            }
            (rises, Some(answer)) => Some(answer >> rises & 1 == 1),
            (_, None) => None,
        };
    }
}

impl Part {
    pub fn new(codes: Vec<u8>) -> Self {
        Self {
            listener: Listener::default(),
            watch: Watch::new(super::FACTS.limits, CLOCK, DATA),
            registers: Registers::new(LAYOUT),
            down: vec![false; codes.len()],
            codes,
            wire: DataWire { clock: true, ..DataWire::default() },
            notebook: Notebook::default(),
        }
    }

    /// One key at a time: with several down the part tells the first that its scan meets.
    fn key_code(&self) -> u8 {
        let mut pressed = self.codes.iter().zip(&self.down).filter(|(_, down)| **down);
        pressed.next().map_or(0xFF, |(code, _)| *code)
    }

    /// The pending answer.
    fn key_answer(&self) -> Option<u8> {
        self.registers.is_asked().then(|| self.key_code())
    }

    fn drive_data(&mut self, edge: &Edge) {
        if edge.line != CLOCK || edge.level == self.wire.clock {
            return;
        }
        self.wire.clock = edge.level;
        if edge.level {
            self.wire.rises = self.wire.rises.map(|rises| rises.saturating_add(1));
        } else {
            let answer = self.key_answer();
            self.wire.fall(answer);
        }
    }
}

impl Model for Part {
    fn wake(&mut self, levels: &[Option<bool>]) {
        self.listener.wake(levels);
        self.wire.clock = levels.get(CLOCK).copied().flatten().unwrap_or(true);
    }

    fn answer(&self) -> Option<bool> {
        self.wire.drives
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
            let bits = self.listener.bits();
            match self.listener.take(edge) {
                None => {}
                Some(Event::Start) => self.begin(edge.at),
                Some(Event::Byte { value, acknowledged }) => {
                    if !acknowledged {
                        self.notebook.odd(edge.at, || format!("no acknowledge after {value:02X}"));
                    }
                    self.registers.byte(value, edge.at, &mut self.notebook);
                }
                Some(Event::Stop) => {
                    // The rise before a stop is counted as a bit.
                    if bits > 1 {
                        self.notebook.odd(edge.at, || {
                            format!(
                                "a byte cut short after {}",
                                counted(usize::from(bits - 1), "bit", "bits")
                            )
                        });
                    }
                    self.end(edge.at);
                }
            }
            self.drive_data(edge);
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
        is_amid.then(|| "it ends in the middle of a transfer, before its stop".to_owned())
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
        self.wire = DataWire { clock: true, rises: Some(0), ..DataWire::default() };
    }

    fn written(&mut self, byte: u8, at: Nanos) -> bool {
        // Where both drive, low wins.
        let byte = byte & self.wire.answer.unwrap_or(0xFF);
        self.registers.byte(byte, at, &mut self.notebook);
        self.wire.next_byte(self.key_answer());
        true
    }

    fn read(&mut self, at: Nanos) -> u8 {
        let own = self.wire.answer.unwrap_or(0xFF);
        self.written(0xFF, at);
        own
    }

    fn end(&mut self, at: Nanos) {
        self.registers.end(at, "start and stop with nothing between", &mut self.notebook);
        self.wire = DataWire { clock: true, ..DataWire::default() };
    }
}

/// Returns the meaning of a transfer, from its bytes alone.
pub fn explain(bytes: &[u8]) -> Meaning {
    model::explain(bytes, LAYOUT)
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::bus::{Protocol, Transfer, two_wire::TwoWire};
    use crate::model::Straight;
    use crate::units::Hertz;

    /// Sends transfers and returns the part, with what it noted.
    fn part(clock: u32, transfers: &[&[u8]]) -> (Part, Vec<String>) {
        let mut part = Part::new(vec![0xF7, 0xEF]);
        part.listen();
        let protocol = Protocol::TwoWire(TwoWire { clock: Hertz(clock) });
        let (mut wires, mut at) = (Straight::new(&mut part, &protocol), Nanos(0));
        for bytes in transfers {
            at = protocol.send(Transfer::TwoWire { bytes, reads: 0 }, at, &mut wires).ended;
        }
        let odd =
            part.heard().into_iter().filter(|note| note.odd).map(|note| note.meaning.plainly()).collect();
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
            ["further bytes after a command: each needs a transfer of its own"]
        );
        assert_eq!(
            part(100_000, &[&[0x42], &[0xC0, 1]]).1,
            ["data while the part is set to read buttons: ignored"]
        );
        assert!(part(400_000, &[&[0x40]]).1[0].starts_with("clock too fast: 2.5 us"));
        assert_eq!(part(100_000, &[&[]]).1, ["start and stop with nothing between"]);
    }

    #[test]
    fn one_key_at_a_time_and_over_the_wires() {
        let answer = |pressed: &[usize]| {
            let (mut part, _) = part(100_000, &[]);
            pressed.iter().for_each(|key| part.press(*key, true));
            let protocol = Protocol::TwoWire(TwoWire { clock: Hertz(100_000) });
            let mut wires = Straight::new(&mut part, &protocol);
            let reply = protocol.send(Transfer::TwoWire { bytes: &[0x42], reads: 1 }, Nanos(0), &mut wires);
            assert!(reply.acknowledged);
            // The part is itself again after that.
            let then = Transfer::TwoWire { bytes: &[0x40], reads: 0 };
            assert!(protocol.send(then, reply.ended, &mut wires).acknowledged);
            reply.bytes
        };
        assert_eq!(answer(&[]), [0xFF]);
        assert_eq!(answer(&[1]), [0xEF]);
        assert_eq!(answer(&[1, 0]), [0xF7]);
    }
}
