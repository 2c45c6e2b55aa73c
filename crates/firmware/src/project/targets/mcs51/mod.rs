//! `mcs51`: C for the 8051 family, with tables in code memory and a scan from its timers.

use minijinja::value::{Serde, Value};
use serde::Serialize;

use super::super::error::ProjectError;
use super::super::model::{Model, PassageModel};
use super::super::passage::Steadied;
use super::{
    File, Size, Sizing, TOO_SMALL, Target, Templates, Written, c, check_controller, check_no_panel,
    check_one_scan, check_ports,
};
use crate::project::names::of_file;

/// The target `mcs51`.
pub struct Mcs51;

/// The clock where the rig does not say.
const USUAL_HZ: u32 = 12_000_000;
/// A machine cycle takes so many of the clock.
const CYCLE: u32 = 12;
/// The counts of a turn of timer 0, which counts the time where nothing is scanned: at most 256. A slot has four turns.
const TURN: u32 = 250;

/// What the templates have to know of the controller.
#[derive(Serialize)]
struct Facts {
    id: String,
    clock: u32,
    cycle_ns: u32,
    flash: u64,
    ram: u64,
    scan: bool,
    counts: Counts,
    waits: bool,
    #[serde(flatten)]
    manner: c::Manner,
}

/// Times in counts of the timers.
#[derive(Serialize, Clone)]
struct Counts {
    turn: u32,
    slot: u32,
    blanking: u32,
    /// Those of each piece of a slot with its blanking; none where a slot is one piece.
    pieces: Vec<u32>,
    /// Parts of a count, so that a millisecond has a whole number of them.
    scale: u32,
    ms: u32,
}

impl Counts {
    /// `None` where a slot or a millisecond cannot be counted.
    fn of(model: &Model) -> Option<Self> {
        let cycles = f64::from(model.clock.unwrap_or(USUAL_HZ)) / f64::from(CYCLE);
        let scan = model.faces.iter().find_map(|face| face.scan.as_ref());
        let slot = scan.map_or(4 * TURN, |scan| {
            let slots = scan.refresh * scan.slots as f64;
            (cycles / slots).round() as u32
        });
        let blanking = scan.map_or(0, |scan| (scan.blanking_ns as f64 * cycles / 1e9).ceil() as u32);
        let pieces = scan.map_or(Some(Vec::new()), |scan| scan.pieces(slot, blanking))?;
        let slot = if pieces.is_empty() { slot } else { pieces.iter().sum() };
        let scale = (1..=30).find(|scale| {
            let parts = cycles * f64::from(*scale) / 1000.0;
            (parts - parts.round()).abs() < 1e-6
        })?;
        let ms = (cycles * f64::from(scale) / 1000.0).round() as u32;
        let fits = slot > 100 && slot < 1 << 16 && slot * scale + ms < 1 << 16;
        fits.then_some(Self { turn: TURN, slot, blanking, pieces, scale, ms })
    }
}

fn cycle_ns(model: &Model) -> u32 {
    (u64::from(CYCLE) * 1_000_000_000 / u64::from(model.clock.unwrap_or(USUAL_HZ).max(1))) as u32
}

/// The longest wait of a bus.
fn longest_wait(model: &Model) -> u64 {
    model.faces.iter().map(|face| face.bus.longest_wait()).max().unwrap_or(0)
}

/// What the interrupts of a piece of a slot take at most, in machine cycles, and a byte that is sent in them.
const PIECE_CYCLES: u64 = 250;
const BYTE_CYCLES: u64 = 150;

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
    ("mcs51/slot_begins.c.j2", include_str!("slot_begins.c.j2")),
    ("mcs51/pieces.c.j2", include_str!("pieces.c.j2")),
    ("mcs51/blanking_ends.c.j2", include_str!("blanking_ends.c.j2")),
];

impl Target for Mcs51 {
    fn name(&self) -> &'static str {
        "mcs51"
    }

    fn about(&self) -> &'static str {
        "C for the 8051 family, with tables in code memory"
    }

    fn reserved(&self) -> (&'static str, &'static str) {
        ("C", c::RESERVED)
    }

    fn check(&self, model: &Model) -> Result<(), ProjectError> {
        let cannot = |why: String| Err(ProjectError::Target { target: "mcs51", why });
        check_controller(model, self.name(), &["mcs51"])?;
        check_no_panel(model, self.name(), TOO_SMALL)?;
        check_one_scan(model, self.name())?;
        if Counts::of(model).is_none() {
            return cannot(
                "its timer does not count as long as a slot of the scan, or as a millisecond".to_owned(),
            );
        }
        let mut passages = model.faces.iter().flat_map(|face| &face.passages);
        if passages.clone().any(is_wide_mean) {
            return cannot("the mean of a value of more than 16 bits needs a division of 64 bits, which its compiler lacks: show the median".to_owned());
        }
        if passages.any(|passage| matches!(passage, PassageModel::Count { bits: 64, .. })) {
            return cannot("a count beyond 2147483647 needs a division of 64 bits, which its compiler lacks: count less far".to_owned());
        }
        for face in &model.faces {
            let Some(scan) = face.scan.as_ref().filter(|scan| scan.depth > 1) else { continue };
            let bytes = if face.bus.kind == "pins" { 0 } else { 2 * scan.width as u64 };
            let (takes, has) = (
                PIECE_CYCLES + bytes * BYTE_CYCLES,
                (scan.blanking_ns + scan.unit_ns) / u64::from(cycle_ns(model)),
            );
            if has < takes {
                return cannot(format!(
                    "the shortest piece of a slot of face {} has {has} machine cycles, and its interrupts take about {takes}: lower depth or refresh_hz",
                    face.name
                ));
            }
        }
        let most = 6 * u64::from(cycle_ns(model));
        if longest_wait(model) > most {
            return cannot(format!("a bus is slower than it waits for, half a clock longer than {most} ns"));
        }
        check_ports(model, self.name())
    }

    fn runtime(&self, model: &Model) -> Vec<Written> {
        c::runtime(model, "")
    }

    fn files(&self, model: &Model) -> Vec<File> {
        c::files(OWN, model)
    }

    fn sizing(&self) -> Option<Sizing> {
        Some(Sizing { compiler: "sdcc", read })
    }

    fn facts(&self, model: &Model) -> Value {
        let Some(counts) = Counts::of(model) else { return Value::from(()) };
        let scanned = model.faces.iter().find(|face| face.scan.is_some());
        let interrupt = |what: &str, vector: &str| {
            scanned.map(|face| format!("void {}_{what}(void) __interrupt({vector})", face.id))
        };
        let light = if counts.blanking > 0 { "TF0_VECTOR" } else { "TF2_VECTOR" };
        Value::from(Serde(&Facts {
            id: of_file(&model.title, "program"),
            clock: model.clock.unwrap_or(USUAL_HZ),
            cycle_ns: cycle_ns(model),
            flash: model.flash.unwrap_or(8192),
            ram: model.ram.unwrap_or(256),
            manner: c::Manner {
                constant: "const __code",
                least_wait_ns: 2 * cycle_ns(model),
                has_timer: true,
                blank_interrupt: interrupt("blank", "TF2_VECTOR"),
                light_interrupt: interrupt("light", light),
                slot_begins: Some("mcs51/slot_begins.c.j2"),
                pieces: Some("mcs51/pieces.c.j2"),
                blanking_ends: Some("mcs51/blanking_ends.c.j2"),
                ..c::Manner::default()
            }
            .with_ports(model, str::to_owned),
            scan: scanned.is_some(),
            counts,
            waits: longest_wait(model) > 2 * u64::from(cycle_ns(model)),
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

/// Reads the linker's summary: variables lie between the first eight registers and the stack.
fn read(said: &str) -> Option<Size> {
    const REGISTERS: u64 = 8;
    let word_after = |start: &str, place: usize| {
        let line = said.lines().find(|line| line.trim_start().starts_with(start))?;
        line.trim_start().strip_prefix(start)?.split_whitespace().nth(place)
    };
    let stack = u64::from_str_radix(word_after("Stack starts at: 0x", 0)?, 16).ok()?;
    let flash = word_after("ROM/EPROM/FLASH", 2)?.parse().ok()?;
    Some(Size { flash, ram: stack.checked_sub(REGISTERS)? })
}

/// Whether it is the mean of values whose sum takes more than 32 bits.
fn is_wide_mean(passage: &PassageModel) -> bool {
    matches!(passage, PassageModel::Value { bits: 32, steadied: Some(Steadied::Mean(_)), .. })
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_summary_of_the_linker_is_read() {
        let said = "Stack starts at: 0x1d (sp set to 0x1c) with 227 bytes available.\n\nOther memory:\n\
                    \u{20}  ROM/EPROM/FLASH  0x0000   0x033d     830     8192   \n";
        assert_eq!(read(said), Some(Size { flash: 830, ram: 21 }));
        assert_eq!(read(""), None);
    }
}
