//! Every part once with edges written by hand from its data sheet: what our drivers put on the lines, and what our
//! models make of the lines, are each held against them. Everywhere the segments a, c and dp of one digit are lit: their
//! bits read differently from either end.

use spare_tile_core::board::Board;
use spare_tile_core::capture::story::{Follower, Happening, Wanted};
use spare_tile_core::capture::{Change, Level};
use spare_tile_core::plan::{Mount, Rig};
use spare_tile_core::units::Nanos;

use crate::common::{Powered, frame, lit, rig};

/// The elements of the digit, a to g and dp.
const LIT: [bool; 8] = [true, false, true, false, false, false, false, true];

/// A hand on the lines.
struct Hand {
    names: Vec<String>,
    levels: Vec<bool>,
    /// Which lines changed, step by step.
    steps: Vec<(usize, bool)>,
}

impl Hand {
    fn on(mount: &Mount, levels: Vec<bool>) -> Self {
        let names = mount.lines.iter().map(|line| line.role.clone()).collect();
        Self { names, levels, steps: Vec::new() }
    }

    fn line(&self, name: &str) -> usize {
        self.names
            .iter()
            .position(|known| known == name)
            .unwrap_or_else(|| panic!("{name} of {:?}", self.names))
    }

    /// A line goes to a level.
    fn set(&mut self, name: &str, level: bool) {
        let line = self.line(name);
        if self.levels[line] != level {
            self.levels[line] = level;
            self.steps.push((line, level));
        }
    }

    /// Bits that are there as the clock rises; it rests low.
    fn bits(&mut self, bits: &str) {
        for bit in bits.chars().filter(|bit| *bit != ' ') {
            self.set("clock", false);
            self.set("data", bit == '1');
            self.set("clock", true);
        }
        self.set("clock", false);
    }

    /// A start on two wires: data falls while the clock is high.
    fn start(&mut self) {
        assert_eq!(
            (self.levels[self.line("clock")], self.levels[self.line("data")]),
            (true, true),
            "not idle"
        );
        self.set("data", false);
        self.set("clock", false);
    }

    /// Eight bits, then the part pulls data low for the ninth clock and lets it go.
    fn acknowledged(&mut self, bits: &str) {
        self.bits(bits);
        self.set("data", false);
        self.set("clock", true);
        self.set("clock", false);
    }

    /// A stop: data rises while the clock is high.
    fn stop(&mut self) {
        self.set("data", false);
        self.set("clock", true);
        self.set("data", true);
    }

    fn frame(&mut self, bytes: &[&str]) {
        self.start();
        for bits in bytes {
            self.acknowledged(bits);
        }
        self.stop();
    }
}

/// One digit behind a part.
fn one_digit(common: &str, drive: &str) -> Rig {
    rig(&format!(
        "[face.one]\nkind = \"seven-segment\"\ndigits = 1\ncommon = \"{common}\"\n[face.one.drive]\n{drive}\n"
    ))
}

/// The same without data that change twice with nothing between: if two parts release the line and take it over, it may
/// twitch meanwhile.
fn settled(steps: Vec<(usize, bool)>, data: Option<usize>) -> Vec<(usize, bool)> {
    let mut settled: Vec<(usize, bool)> = Vec::new();
    for step in steps {
        let twitches = Some(step.0) == data && settled.last().is_some_and(|(line, _)| *line == step.0);
        if twitches {
            settled.pop();
        } else {
            settled.push(step);
        }
    }
    settled
}

/// Returns the edges of the driver for the segments.
fn driven(rig: &Rig) -> (Vec<bool>, Vec<(usize, bool)>) {
    let mount = &rig.faces[0];
    let mut board = Board::new(rig);
    board.record();
    let mut powered = Powered::on(rig, board);
    powered.scheduler.run_until(powered.scheduler.now() + Nanos(1_000_000)).unwrap();
    powered.scheduler.link_mut().recorded_of(mount);
    let levels: Vec<_> = powered.scheduler.link_mut().levels_of(mount);
    let levels: Vec<_> = levels.into_iter().map(|level| level.unwrap_or(true)).collect();
    powered.show(&frame(&LIT));
    powered.scheduler.run_until(powered.scheduler.now() + Nanos(1_000_000)).unwrap();
    let edges = powered.scheduler.link_mut().recorded_of(mount);
    (levels, edges.into_iter().map(|edge| (edge.line, edge.level)).collect())
}

/// Returns the lit nodes of the model after these edges, and its oddities.
fn seen(rig: &Rig, idle: Vec<bool>, steps: &[(usize, bool)]) -> (Vec<bool>, Vec<String>) {
    const STEP: u64 = 20_000;
    let mount = &rig.faces[0];
    let level = |level| if level { Level::High } else { Level::Low };
    let idle = idle.iter().enumerate();
    let mut changes: Vec<_> =
        idle.map(|(wire, high)| Change { at: Nanos(0), wire: wire as u32, level: level(*high) }).collect();
    for (place, (line, high)) in steps.iter().enumerate() {
        let at = Nanos((place as u64 + 1) * STEP);
        changes.push(Change { at, wire: *line as u32, level: level(*high) });
    }
    let map = (0..mount.lines.len()).map(Some).collect();
    let mut follower = Follower::new(rig, mount, map, Wanted::Story);
    let mut happened = Vec::new();
    follower.take(&changes, &mut happened);
    follower.finish(Nanos((steps.len() as u64 + 1) * STEP), &mut happened);
    let odd = happened.iter().filter_map(|happening| match happening {
        Happening::Note(note) if note.odd => Some(format!("{note:?}")),
        _ => None,
    });
    (lit(&follower.picture()), odd.collect())
}

/// Holds driver and model against the same hand: `ready` brings the part from power-up to running, `show` lights the
/// segments.
fn check(rig: &Rig, idle: &[(&str, bool)], ready: impl Fn(&mut Hand), show: impl Fn(&mut Hand)) {
    let mount = &rig.faces[0];
    let (levels, driven) = driven(rig);
    let mut hand = Hand::on(mount, levels);
    show(&mut hand);
    let named = |steps: Vec<(usize, bool)>| -> Vec<String> {
        let data = mount.lines.iter().position(|line| line.role == "data");
        let steps = settled(steps, data).into_iter();
        steps.map(|(line, level)| format!("{} {}", mount.lines[line].role, u8::from(level))).collect()
    };
    assert_eq!(named(driven), named(hand.steps), "the driver of {}", mount.method);

    let at_rest =
        mount.lines.iter().map(|line| idle.iter().any(|(name, level)| *name == line.role && *level));
    let at_rest: Vec<_> = at_rest.collect();
    let mut hand = Hand::on(mount, at_rest.clone());
    ready(&mut hand);
    let before = seen(rig, at_rest.clone(), &hand.steps).0;
    assert_ne!(before, LIT, "lit before the command");
    show(&mut hand);
    let (lit, odd) = seen(rig, at_rest, &hand.steps);
    assert_eq!((lit, odd), (LIT.to_vec(), Vec::new()), "the model of {}", mount.method);
}

#[test]
fn max7219() {
    let rig = one_digit("cathode", "method = \"max7219\"\npins = { data = 1, clock = 2, select = 3 }");
    // Register, then data, the most significant bit first; taken as select rises.
    let word = |hand: &mut Hand, bits: &str| {
        hand.set("select", false);
        hand.bits(bits);
        hand.set("select", true);
    };
    let ready = |hand: &mut Hand| {
        word(hand, "0000 1111 0000 0000"); // test off
        word(hand, "0000 1001 0000 0000"); // no decoding
        word(hand, "0000 1010 0000 0111"); // intensity 7
        word(hand, "0000 1011 0000 0000"); // scan digit 0
        word(hand, "0000 0001 0000 0000"); // digit 0 dark
        word(hand, "0000 1100 0000 0001"); // run
    };
    // Digit 0 is register 1; its data are dp a b c d e f g.
    check(&rig, &[("select", true)], ready, |hand| word(hand, "0000 0001 1101 0000"));
}

#[test]
fn tm1637() {
    let rig = one_digit("anode", "method = \"tm1637\"\npins = { clock = 2, data = 1 }");
    let ready = |hand: &mut Hand| {
        // The least significant bit first.
        hand.frame(&["0000 0010"]); // 40: write, the address counts up
        hand.frame(&[&["0000 0011"][..], &["0000 0000"; 6]].concat()); // C0: all six grids dark
        hand.frame(&["0010 0010"]); // 44: write to an address
        hand.frame(&["0001 0001"]); // 88: on, brightness 0
    };
    let idle = [("clock", true), ("data", true)];
    check(&rig, &idle, ready, |hand| hand.frame(&["0000 0011", "1010 0001"]));
}

#[test]
fn tm1638() {
    let rig = one_digit("cathode", "method = \"tm1638\"\npins = { clock = 2, data = 1, strobe = 3 }");
    // Under a strobe, the least significant bit first; the clock rests high.
    let frame = |hand: &mut Hand, bytes: &[&str]| {
        hand.set("strobe", false);
        for bit in bytes.concat().chars().filter(|bit| *bit != ' ') {
            hand.set("clock", false);
            hand.set("data", bit == '1');
            hand.set("clock", true);
        }
        hand.set("strobe", true);
    };
    let ready = |hand: &mut Hand| {
        frame(hand, &["0000 0010"]); // 40: write, the address counts up
        frame(hand, &[&["0000 0011"][..], &["0000 0000"; 16]].concat()); // C0: all sixteen bytes dark
        frame(hand, &["0010 0010"]); // 44: write to an address
        frame(hand, &["1111 0001"]); // 8F: on, brightness 7
    };
    let idle = [("clock", true), ("strobe", true)];
    check(&rig, &idle, ready, |hand| frame(hand, &["0000 0011", "1010 0001"]));
}

#[test]
fn ht16k33() {
    let rig = one_digit("cathode", "method = \"ht16k33\"\npins = { clock = 2, data = 1 }");
    // Address 70 and a zero for writing, the most significant bit first.
    const ADDRESS: &str = "1110000 0";
    let ready = |hand: &mut Hand| {
        hand.frame(&[ADDRESS, "0010 0001"]); // 21: oscillator on
        let mut clear = vec![ADDRESS, "0000 0000"];
        clear.extend(["0000 0000"; 16]);
        hand.frame(&clear);
        hand.frame(&[ADDRESS, "1000 0001"]); // 81: display on, no blinking
    };
    let idle = [("clock", true), ("data", true)];
    // The pointer to common 0, then rows 7 to 0.
    check(&rig, &idle, ready, |hand| hand.frame(&[ADDRESS, "0000 0000", "1000 0101"]));
}

#[test]
fn shift_register_74hc595() {
    let rig = one_digit(
        "cathode",
        "method = \"shifted\"\npins = { data = 1, clock = 2, latch = 3 }\nresistor = { ohms = 470 }",
    );
    // The first bit ends in QH; the outputs follow as the latch clock rises.
    let show = |hand: &mut Hand| {
        hand.set("latch", false);
        hand.bits("1000 0101");
        hand.set("latch", true);
    };
    check(&rig, &[], |_| {}, show);
}

#[test]
fn latch_74hc573() {
    let rig = one_digit(
        "cathode",
        "method = \"latched\"\ndata = [1, 2, 3, 4, 5, 6, 7, 8]\nlatches = [{ latch_enable = 9 }]\n\
         resistor = { ohms = 470 }",
    );
    // The data stand before latch enable goes high, and after it went low.
    let show = |hand: &mut Hand| {
        for (line, level) in ["D0", "D1", "D2", "D3", "D4", "D5", "D6", "D7"].iter().zip(LIT) {
            hand.set(line, level);
        }
        hand.set("latch enable 0", true);
        hand.set("latch enable 0", false);
    };
    check(&rig, &[], |_| {}, show);
}

const EXPANDER: &str = "method = \"expander\"\naddresses = [0x20]\npins = { data = 1, clock = 2 }\n\
                        resistor = { ohms = 470 }\n";

#[test]
fn pcf8574() {
    let rig = one_digit("anode", &format!("{EXPANDER}part = \"pcf8574\""));
    let idle = [("clock", true), ("data", true)];
    // Address 20 and a zero for writing; P7 to P0, which sink.
    check(&rig, &idle, |_| {}, |hand| hand.frame(&["0100000 0", "0111 1010"]));
}

#[test]
fn mcp23017() {
    let rig = one_digit("cathode", &format!("{EXPANDER}part = \"mcp23017\""));
    let idle = [("clock", true), ("data", true)];
    // IODIRA and IODIRB: all are outputs.
    let ready = |hand: &mut Hand| hand.frame(&["0100000 0", "0000 0000", "0000 0000", "0000 0000"]);
    // OLATA is register 14.
    check(&rig, &idle, ready, |hand| hand.frame(&["0100000 0", "0001 0100", "1000 0101", "0000 0000"]));
}
