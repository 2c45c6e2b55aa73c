//! `avr`: C for the 8-bit controllers of that name, with their ports and timers.

use std::collections::{BTreeMap, BTreeSet};

use minijinja::value::{Serde, Value};
use serde::Serialize;

use super::super::error::ProjectError;
use super::super::model::{BusModel, FaceModel, Line, Model};
use super::{
    File, Load, Size, Sizing, TOO_SMALL, Target, Templates, Written, c, check_controller, check_loads,
    check_no_panel, check_one_scan, check_ports, piece_cycles,
};
use crate::project::names::of_file;

/// The target `avr`.
pub struct Avr;

/// A controller that it writes for.
struct Mcu {
    name: &'static str,
    /// The interrupt of timer 0 when it reaches the end of its count, and the register that lets it in.
    tick_vector: &'static str,
    mask_register: &'static str,
    /// The interrupts of the scan's timer: at the beginning of a slot, and when its blanking is over.
    scan_vectors: [&'static str; 2],
    /// Whether the scan has a timer of 16 bits.
    is_wide: bool,
    /// The fastest clock (data sheet, "Speed Grades").
    most_hz: u32,
    /// How its usual board, or a programmer at its pins, is spoken to: the protocol, and bits a second.
    programmer: (&'static str, u32),
}

impl Mcu {
    /// A large part: timer 0 tells the time, timer 1 scans.
    const fn large(name: &'static str, most_hz: u32, programmer: (&'static str, u32)) -> Self {
        Self {
            name,
            tick_vector: "TIMER0_COMPA_vect",
            mask_register: "TIMSK0",
            scan_vectors: ["TIMER1_COMPA_vect", "TIMER1_COMPB_vect"],
            is_wide: true,
            most_hz,
            programmer,
        }
    }

    /// The low fuse for a clock, and where that clock comes from (data sheets, "System Clock and Clock Options").
    fn low_fuse(&self, clock: u32) -> (u8, &'static str) {
        match clock {
            1_000_000 => (0x62, "the oscillator inside, divided by 8, as the part leaves the factory"),
            8_000_000 => (0xE2, "the oscillator inside"),
            16_000_000 if self.name == "attiny85" => (0xF1, "the PLL inside"),
            ..=3_000_000 => (0xFB, "a crystal"),
            3_000_001..8_000_000 => (0xFD, "a crystal"),
            8_000_001..=16_000_000 => (0xFF, "a crystal"),
            _ if self.is_wide && self.name != "attiny84" => (0xF7, "a crystal at full swing"),
            _ => (0xFF, "a crystal"),
        }
    }
}

const MCUS: [Mcu; 6] = [
    Mcu::large("atmega328p", 20_000_000, ("stk500v1", 115_200)),
    Mcu::large("atmega168", 20_000_000, ("stk500v1", 19_200)),
    Mcu::large("atmega2560", 16_000_000, ("stk500v2", 115_200)),
    Mcu::large("atmega32u4", 16_000_000, ("avr109", 57_600)),
    Mcu {
        tick_vector: "TIM0_COMPA_vect",
        scan_vectors: ["TIM1_COMPA_vect", "TIM1_COMPB_vect"],
        ..Mcu::large("attiny84", 20_000_000, ("stk500v1", 19_200))
    },
    Mcu {
        tick_vector: "TIM0_COMPA_vect",
        mask_register: "TIMSK",
        scan_vectors: ["TIM0_COMPA_vect", "TIM0_COMPB_vect"],
        is_wide: false,
        ..Mcu::large("attiny85", 20_000_000, ("stk500v1", 19_200))
    },
];

/// The clock where the rig does not say.
const USUAL_HZ: u32 = 16_000_000;

/// What the templates have to know of the controller.
#[derive(Serialize)]
struct Facts {
    mcu: &'static str,
    /// The name of the program.
    id: String,
    clock: u32,
    tick_vector: &'static str,
    mask_register: &'static str,
    programmer: &'static str,
    baud: u32,
    low_fuse: u8,
    /// Where its clock comes from.
    clock_source: &'static str,
    scan: Option<Scan>,
    /// The count of milliseconds, if no face is scanned.
    tick: Option<Tick>,
    /// Ports with lines that are always driven.
    outputs: Vec<Port>,
    writes_lines: bool,
    /// Lines on ports that the scan writes too, if no instruction sets one of their bits.
    guarded: Vec<usize>,
    #[serde(flatten)]
    manner: c::Manner,
}

#[derive(Serialize)]
struct Port {
    register: String,
    direction: String,
    mask: u32,
    /// Those of its lines that are high between transfers.
    high: u32,
}

/// How a timer makes the scan.
#[derive(Serialize)]
struct Scan {
    prescaler: u32,
    clock_bits: String,
    slot_counts: u32,
    blanking_counts: u32,
    /// The counts of each piece of a slot with its blanking; none where a slot is one piece.
    pieces: Vec<u32>,
    /// Parts of a count, so that a millisecond has a whole number of them.
    scale: u32,
    ms_parts: u32,
    is_wide: bool,
    ask_ms: u32,
}

/// The parts of a timer's count of which a millisecond has a whole number.
struct Parts {
    /// Parts of a count.
    scale: u32,
    /// Parts of a millisecond.
    ms: u32,
}

impl Parts {
    /// Those of a clock behind a prescaler; `None` if a millisecond has too few or too many of them.
    fn of(clock: u32, prescaler: u32) -> Option<Self> {
        const MOST: u32 = 128;
        let (clock, counts) = (u64::from(clock), u64::from(prescaler) * 1000);
        let scale = (1..=MOST).find(|scale| (clock * u64::from(*scale)).is_multiple_of(counts))?;
        let ms = u32::try_from(clock * u64::from(scale) / counts).ok()?;
        (ms < 1 << 15).then_some(Self { scale, ms })
    }
}

/// How timer 0 counts milliseconds.
#[derive(Serialize)]
struct Tick {
    prescaler: u32,
    clock_bits: String,
    /// The counts between two interrupts: a millisecond, or a little less.
    counts: u32,
    /// Those in parts of a count; nothing where they are a millisecond.
    parts: Option<u32>,
    ms_parts: u32,
}

impl Tick {
    /// Exact, if a prescaler allows that; `None` if there is none at all.
    fn of(clock: u32) -> Option<Self> {
        let all = PRESCALERS.iter().filter_map(|(prescaler, bits)| {
            let Parts { scale, ms } = Parts::of(clock, *prescaler)?;
            let counts = clock / prescaler / 1000;
            // With fewer counts than this it would be an interrupt every few cycles, or far from a millisecond.
            (16..=256).contains(&counts).then(|| Self {
                prescaler: *prescaler,
                clock_bits: choice(0, bits),
                counts,
                parts: (counts * scale != ms).then_some(counts * scale),
                ms_parts: ms,
            })
        });
        all.min_by_key(|tick| tick.parts.is_some())
    }
}

/// The bits of a timer's prescaler.
fn choice(timer: u32, bits: &[u32]) -> String {
    bits.iter().map(|bit| format!("_BV(CS{timer}{bit})")).collect::<Vec<_>>().join(" | ")
}

/// Prescalers of timers 0 and 1, each with the bits that choose it.
const PRESCALERS: [(u32, &[u32]); 5] = [(1, &[0]), (8, &[1]), (64, &[1, 0]), (256, &[2]), (1024, &[2, 0])];

impl Scan {
    /// The finest count that reaches a slot; `None` where none does.
    fn of(face: &FaceModel, clock: u32, is_wide: bool) -> Option<Self> {
        let scan = face.scan.as_ref()?;
        let most: u64 = if is_wide { 1 << 16 } else { 1 << 8 };
        let slots = scan.refresh * scan.slots as f64;
        let timer = u32::from(is_wide);
        PRESCALERS.iter().find_map(|(prescaler, bits)| {
            let in_counts = |nanos: u64| {
                let counts = nanos as f64 * f64::from(clock) / f64::from(*prescaler) / 1e9;
                if nanos == 0 { 0 } else { (counts.round() as u32).max(1) }
            };
            let blanking = in_counts(scan.blanking_ns);
            let counts = (f64::from(clock) / f64::from(*prescaler) / slots).round() as u32;
            let pieces = scan.pieces(counts, blanking)?;
            let counts = if pieces.is_empty() { counts } else { pieces.iter().sum() };
            let longest = u64::from(pieces.iter().copied().max().unwrap_or(counts));
            let Parts { scale, ms } = Parts::of(clock, *prescaler)?;
            // What is left of a millisecond is added to a slot, in 16 bits.
            if !(2..=most).contains(&longest) || counts * scale + ms >= 1 << 16 {
                return None;
            }
            let bits = choice(timer, bits);
            Some(Self {
                prescaler: *prescaler,
                clock_bits: if is_wide { format!(" | {bits}") } else { bits },
                slot_counts: counts,
                blanking_counts: blanking,
                pieces,
                scale,
                ms_parts: ms,
                is_wide,
                ask_ms: (200 * scan.slot_ns / 1_000_000) as u32,
            })
        })
    }
}

/// A register of a port: of `PB`, `PORTB` or `DDRB`.
fn register(port: &str, kind: &str) -> String {
    port.replacen('P', kind, 1)
}

/// Ports beyond the reach of the instructions that set and clear a bit (data sheet, "Register Summary").
const HIGH_PORTS: [&str; 4] = ["PH", "PJ", "PK", "PL"];

/// The ports that both the scan and the main program write.
fn shared_ports(model: &Model) -> BTreeSet<&str> {
    let of = |is_scanned: bool| {
        let faces = model.faces.iter().filter(move |face| face.scan.is_some() == is_scanned);
        let lines = faces.flat_map(|face| &face.bus.lines);
        lines.filter_map(|line| model.lines[line.number].port.as_deref()).collect::<BTreeSet<_>>()
    };
    of(true).intersection(&of(false)).copied().collect()
}

fn mcu(model: &Model) -> Option<&'static Mcu> {
    MCUS.iter().find(|mcu| mcu.name == model.controller)
}

/// Its files, each by its template.
const OWN: Templates = &[
    ("README.md", include_str!("README.md.j2")),
    ("Makefile", include_str!("Makefile.j2")),
    ("hw.h", include_str!("hw.h.j2")),
    ("hw.c", include_str!("hw.c.j2")),
    ("main.c", include_str!("main.c.j2")),
];

/// What its files include.
const PIECES: Templates = &[
    ("avr/slot_begins.c.j2", include_str!("slot_begins.c.j2")),
    ("avr/pieces.c.j2", include_str!("pieces.c.j2")),
];

impl Target for Avr {
    fn name(&self) -> &'static str {
        "avr"
    }

    fn about(&self) -> &'static str {
        "C for atmega328p and 168, 2560, 32u4, attiny84 and 85, with their ports and timers"
    }

    fn reserved(&self) -> (&'static str, &'static str) {
        ("C", c::RESERVED)
    }

    fn check(&self, model: &Model) -> Result<(), ProjectError> {
        let cannot = |why: String| Err(ProjectError::Target { target: "avr", why });
        check_controller(model, self.name(), &MCUS.map(|mcu| mcu.name))?;
        check_no_panel(model, self.name(), TOO_SMALL)?;
        check_one_scan(model, self.name())?;
        let scanned = model.faces.iter().find(|face| face.scan.is_some());
        if let (Some(face), Some(mcu)) = (scanned, mcu(model))
            && Scan::of(face, model.clock.unwrap_or(USUAL_HZ), mcu.is_wide).is_none()
        {
            return cannot(format!("no timer of it counts as long as a slot of face {}", face.name));
        }
        let clock = model.clock.unwrap_or(USUAL_HZ);
        if let Some(mcu) = mcu(model).filter(|mcu| mcu.most_hz < clock) {
            return cannot(format!(
                "the clock of an {} is at most {} Hz, and clock_hz is {clock}",
                mcu.name, mcu.most_hz
            ));
        }
        if Tick::of(clock).is_none() {
            return cannot(format!(
                "no timer of it counts milliseconds at {clock} Hz: clock_hz can be any of 1, 2, 4, 8, 11.0592, 12, 14.7456, 16, 18.432 and 20 MHz"
            ));
        }
        check_loads(model, self)?;
        check_ports(model, self.name())
    }

    fn takes_own(&self) -> bool {
        true
    }

    fn runtime(&self, model: &Model) -> Vec<Written> {
        c::runtime(model, "")
    }

    fn files(&self, model: &Model) -> Vec<File> {
        c::files(OWN, model)
    }

    fn loads(&self, model: &Model) -> Vec<Load> {
        if mcu(model).is_none() {
            return Vec::new();
        }
        let clock = u64::from(model.clock.unwrap_or(USUAL_HZ));
        let of_face = |face: &FaceModel| {
            let scan = face.scan.as_ref()?;
            let of_byte = byte_cycles(&face.bus, clock);
            let set = |mask: &[u8]| mask.iter().filter(|bits| **bits != 0).count();
            let takes = |mask: Option<&[u8]>, bytes| mask.map_or(bytes, set) as u64 * of_byte;
            let paced = if scan.depth > 1 { PACED } else { 0 };
            let cycles = paced + piece_cycles(face, scan, INTERRUPT, takes);
            Load::of(face, cycles, clock)
        };
        model.faces.iter().filter_map(of_face).collect()
    }

    fn sizing(&self) -> Option<Sizing> {
        Some(Sizing { compiler: "avr-gcc", read })
    }

    fn facts(&self, model: &Model) -> Value {
        let Some(mcu) = mcu(model) else { return Value::from(()) };
        let clock = model.clock.unwrap_or(USUAL_HZ);
        let scanned = model.faces.iter().find(|face| face.scan.is_some());
        let scan = scanned.and_then(|face| Scan::of(face, clock, mcu.is_wide));
        let interrupt = |vector: &str| format!("ISR({vector})");
        let has_blanking = scan.as_ref().is_some_and(|scan| scan.blanking_counts > 0);
        let mut outputs: BTreeMap<&String, Port> = BTreeMap::new();
        for line in model.lines.iter().filter(|line| !line.is_open) {
            if let (Some(port), Some(bit)) = (&line.port, line.bit) {
                let of_port = outputs.entry(port).or_insert_with(|| Port {
                    register: register(port, "PORT"),
                    direction: register(port, "DDR"),
                    mask: 0,
                    high: 0,
                });
                of_port.mask |= 1 << bit;
                of_port.high |= u32::from(line.is_high) << bit;
            }
        }
        let (low_fuse, clock_source) = mcu.low_fuse(clock);
        let shared = shared_ports(model);
        let is_guarded = |line: &&Line| {
            let port = line.port.as_deref().unwrap_or_default();
            let of_scan =
                scanned.is_some_and(|face| face.bus.lines.iter().any(|of| of.number == line.number));
            shared.contains(port) && HIGH_PORTS.contains(&port) && !of_scan
        };
        let guarded = model.lines.iter().filter(is_guarded).map(|line| line.number).collect();
        let is_single =
            |face: &FaceModel| face.bus.kind != "pins" || face.bus.ports.iter().any(Option::is_none);
        Value::from(Serde(&Facts {
            mcu: mcu.name,
            id: of_file(&model.title, "program"),
            clock,
            tick_vector: mcu.tick_vector,
            mask_register: mcu.mask_register,
            programmer: mcu.programmer.0,
            baud: mcu.programmer.1,
            low_fuse,
            clock_source,
            manner: c::Manner {
                has_timer: true,
                blank_interrupt: scan.as_ref().map(|_| interrupt(mcu.scan_vectors[0])),
                light_interrupt: scan
                    .as_ref()
                    .map(|_| interrupt(mcu.scan_vectors[usize::from(has_blanking)])),
                slot_begins: Some("avr/slot_begins.c.j2"),
                pieces: Some("avr/pieces.c.j2"),
                shared: shared.iter().map(|port| register(port, "PORT")).collect(),
                ..c::Manner::default()
            }
            .with_ports(model, |port| register(port, "PORT")),
            scan,
            tick: Tick::of(clock),
            outputs: outputs.into_values().collect(),
            writes_lines: model.faces.iter().any(is_single),
            guarded,
        }))
    }

    fn templates(&self) -> Templates {
        OWN
    }

    fn pieces(&self) -> Templates {
        PIECES
    }

    fn shared(&self) -> Templates {
        c::TEMPLATES
    }
}

/// To enter and leave an interrupt, with the registers that it saves, and to find the slot.
const INTERRUPT: u64 = 48;

/// To say how long a piece of a slot is.
const PACED: u64 = 36;

/// The cycles for a byte: of a port one write, on a bus each bit with its waits.
fn byte_cycles(bus: &BusModel, clock: u64) -> u64 {
    let wait = |nanos: u64| (nanos * clock).div_ceil(1_000_000_000).saturating_sub(1);
    match bus.kind {
        "pins" if bus.ports.iter().all(Option::is_some) => 7,
        "pins" => 8 * 6,
        "i2c" => 9 * (30 + wait(bus.low_ns) + wait(bus.high_ns)),
        _ => 8 * (20 + 2 * wait(bus.half_ns)),
    }
}

/// Reads the table of `avr-size`: initial values take flash and RAM.
fn read(said: &str) -> Option<Size> {
    let mut columns = said.lines().nth(1)?.split_whitespace().map(str::parse::<u64>);
    let [text, data, bss] = [columns.next()?.ok()?, columns.next()?.ok()?, columns.next()?.ok()?];
    Some(Size { flash: text + data, ram: data + bss })
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn initial_values_take_both_memories() {
        let said = "   text\t   data\t    bss\t    dec\t    hex\tfilename\n    676\t     10\t     10\t    696\t    2b8\ta.elf\n";
        assert_eq!(read(said), Some(Size { flash: 686, ram: 20 }));
        assert_eq!(read("make: avr-size: No such file"), None);
    }
}
