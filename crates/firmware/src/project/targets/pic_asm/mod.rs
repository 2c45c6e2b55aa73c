//! `pic-asm`: assembler for parts with a 12-bit core: no interrupts, two levels of calls, 512 words, 25 bytes.
//!
//! ```text
//!  000  tables (RETLW), the bus, where to go on     within reach of a call and of a computed jump
//!       the turn: a slot of the scan, what is shown, then timer 0 is waited for
//!  1FF  where the controller begins
//! ```

use std::collections::BTreeMap;

use minijinja::value::{Serde, Value};
use serde::Serialize;

use super::super::error::ProjectError;
use super::super::model::{FaceModel, Model, PassageModel, Piece, StepModel};
use super::{
    File, Size, Sizing, TOO_SMALL, Target, Templates, check_controller, check_no_greys, check_no_inputs,
    check_no_panel, check_ports,
};
use crate::project::Written;
use crate::project::names::of_file;
use crate::template::turns;

/// The target `pic-asm`.
pub struct PicAsm;

/// Instructions, registers and labels.
const RESERVED: &str = "addwf andlw andwf bcf bsf btfsc btfss call clrf clrw clrwdt comf decf decfsz goto incf incfsz iorlw iorwf \
movf movlw movwf nop option retlw rlf rrf sleep subwf swapf tris xorlw xorwf indf tmr0 pcl status fsr porta portb equ org end \
list include image work next next_work wait fraction left split heal healed state slot seats directions byte bits turn start show blank minus w f c z dc";

/// What the data sheet says of the part: words of program, the first of them that a call reaches, and its variables.
const WORDS: usize = 512;
const IN_REACH: usize = 256;
const FIRST_VARIABLE: usize = 0x07;
const VARIABLES: usize = 25;

/// A turn where nothing is scanned.
const USUAL_TURN_NS: u64 = 10_000_000;

/// A clock may be so far off, in parts per million, beside what its oscillator is: eight seconds a day.
const MOST_OFF: f64 = 100.0;

/// What the templates have to know.
#[derive(Serialize)]
struct Facts {
    id: String,
    clock: u32,
    cycle_ns: u64,
    oscillator: &'static str,
    ports: Vec<Port>,
    /// Each port's bits that are driven, by its letter.
    masks: BTreeMap<String, u8>,
    /// The port of the open lines, and each one's bit there.
    directions: Option<String>,
    bits: BTreeMap<String, u8>,
    /// Of each byte of levels the port that it is, where it is all that is driven there.
    whole: Vec<Option<String>>,
    /// Ports whose levels are put together in a variable.
    shadows: Vec<String>,
    turn: Turn,
    ram: Vec<Variable>,
    ram_bytes: usize,
    tables: Vec<Table>,
    /// How many things are shown one after another, pictures of films each for itself.
    states: usize,
    /// For each passage the state that follows it.
    after: Vec<usize>,
    /// For each count, by the number of its passage.
    counts: BTreeMap<String, Count>,
    /// For each clock, by the number of its passage.
    clocks: BTreeMap<String, Clock>,
}

#[derive(Serialize)]
struct Port {
    letter: String,
    outputs: u8,
    /// Those that are high at first.
    high: u8,
    /// Those that are let go.
    open: u8,
}

/// How timer 0 counts a turn.
#[derive(Serialize)]
struct Turn {
    prescaler: u64,
    counts: u64,
    /// 256ths of a count that are left over.
    fraction: u64,
    option: u32,
    turn_ns: u64,
    us: f64,
    /// How far that is off, in parts per million.
    error: f64,
}

#[derive(Serialize)]
struct Variable {
    name: String,
    at: usize,
    about: &'static str,
}

#[derive(Serialize)]
struct Table {
    name: String,
    about: String,
    bytes: Vec<u8>,
    /// What each is, where there is a word for it.
    names: Vec<String>,
}

#[derive(Serialize)]
struct Count {
    /// The powers of ten of its figures but the last.
    powers: Vec<u32>,
    /// Where its figures are put.
    shown: Vec<Seat>,
}

#[derive(Serialize)]
struct Seat {
    /// Which figure.
    figure: usize,
    /// The bytes of the image.
    bytes: Vec<usize>,
}

#[derive(Serialize)]
struct Clock {
    groups: Vec<Group>,
    /// For how many ticks it is shown; 0 for good.
    shown: u32,
    /// How long the last of these stays.
    last: u32,
}

/// Two figures of a clock.
#[derive(Serialize)]
struct Group {
    /// What they tell.
    name: &'static str,
    /// For each the bytes of the image.
    seats: Vec<Vec<usize>>,
}

impl Turn {
    /// How far the turns that come nearest to a time are off it, in parts per million.
    fn off(&self, ms: u32, cycle_ns: u64) -> f64 {
        let parts = 256 * self.counts + self.fraction;
        let turn_ns = (parts * self.prescaler * cycle_ns) as f64 / 256.0;
        let found = turns(ms.into(), self.turn_ns) as f64 * turn_ns;
        (found / (f64::from(ms) * 1e6) - 1.0) * 1e6
    }

    /// Of the finest prescaler with which half of the timer's range is enough; `None` where none does.
    fn of(turn_ns: u64, cycle_ns: u64) -> Option<Self> {
        (0..8).find_map(|option| {
            let prescaler = 2 << option;
            let parts = (turn_ns * 256).div_ceil(cycle_ns * prescaler);
            let (counts, fraction) = (parts / 256, parts % 256);
            let found = parts as f64 * (cycle_ns * prescaler) as f64 / 256.0;
            (4..=100).contains(&counts).then(|| Self {
                prescaler,
                counts,
                fraction,
                option,
                turn_ns,
                us: (found / 100.0).round() / 10.0,
                error: ((found / turn_ns as f64 - 1.0) * 1e7).round() / 10.0,
            })
        })
    }
}

/// How long a turn is: a slot of the scan, where there is one.
fn turn_ns(face: &FaceModel) -> u64 {
    face.scan.as_ref().map_or(USUAL_TURN_NS, |scan| scan.slot_ns)
}

const fn cycle_ns(clock: u32) -> u64 {
    4_000_000_000 / clock as u64
}

fn clock(model: &Model) -> u32 {
    model.clock.unwrap_or(4_000_000)
}

/// How many bytes count so long a wait: as in the template, a few cycles take none, and many a loop within a loop.
fn counters(ns: u64, cycle_ns: u64) -> usize {
    match ns.div_ceil(cycle_ns) {
        0..=8 => 0,
        9..=766 => 1,
        _ => 2,
    }
}

/// What a face's passages take, each.
fn states(passage: &PassageModel) -> usize {
    if let PassageModel::Film { shown, .. } = passage { shown.len() } else { 1 }
}

/// The masks of all writes of levels.
fn masks_of(face: &FaceModel) -> Vec<&Vec<u8>> {
    let steps = face.power_up.iter().chain(face.scan.iter().flat_map(|scan| &scan.blank));
    let of_steps = steps.filter_map(|step: &StepModel| step.mask.as_ref());
    let of_pieces = face.frame.iter().filter_map(|piece| match piece {
        Piece::Levels { mask, .. } => Some(mask),
        Piece::Fixed { step } => step.mask.as_ref(),
        _ => None,
    });
    of_steps.chain(of_pieces).collect()
}

/// A table, filled up so that its index can be masked.
fn table(name: String, about: String, mut bytes: Vec<u8>, names: Vec<String>) -> Table {
    bytes.resize(bytes.len().next_power_of_two(), 0);
    Table { name, about, bytes, names }
}

/// The tables of a face: of its figures and strips, one for each byte of a digit.
fn tables(face: &FaceModel) -> Vec<Table> {
    let width = face.digits.as_ref().map_or(1, |digits| digits.masks.len());
    let name = |of: String, byte: usize| if width > 1 { format!("{of}_{}", byte + 1) } else { of };
    let mut tables = Vec::new();
    for byte in 0..width {
        for set in &face.sets {
            let bytes = set.glyphs.iter().filter_map(|glyph| glyph.bytes.get(byte).copied()).collect();
            let names = set.glyphs.iter().map(|glyph| glyph.name.clone()).collect();
            tables.push(table(
                name(set.id.clone(), byte),
                "What each character lights".to_owned(),
                bytes,
                names,
            ));
        }
        for (nth, strip) in face.strips.iter().enumerate() {
            let bytes = strip.iter().filter_map(|column| column.get(byte).copied()).collect();
            let about = "A strip that moves across the display".to_owned();
            tables.push(table(name(format!("strip_{}", nth + 1), byte), about, bytes, Vec::new()));
        }
    }
    tables
}

/// The figures of a count, from the left, and where they are put.
fn count(face: &FaceModel, passage: &PassageModel) -> Option<Count> {
    let PassageModel::Count { from, to, seats, least, negative, .. } = passage else { return None };
    let digits = face.digits.as_ref()?;
    let most = from.unsigned_abs().max(to.unsigned_abs());
    let figures = (most.max(1).ilog10() as usize + 1).max(*least);
    let sign = usize::from(*negative);
    let places = (figures + sign).min(seats.list.len());
    let shown = seats.list[seats.list.len() - places..].iter().enumerate().map(|(place, seat)| Seat {
        figure: figures + sign - places + place,
        bytes: digits.at[*seat].clone(),
    });
    let powers = (1..figures as u32).rev().map(|power| 10_u32.pow(power)).collect();
    Some(Count { powers, shown: shown.collect() })
}

/// The cycles of the turn in which a count takes longest, counted in the source: a figure takes so many for each time that its power of
/// ten is taken away, nine at most, and a byte of a character so many.
fn longest_turn(face: &FaceModel) -> u64 {
    const OF_FIGURE: u64 = 9 * 14 + 9;
    const OF_BYTE: u64 = 14;
    const OF_SLOT: u64 = 92;
    let of_count = |count: Count| {
        let bytes: usize = count.shown.iter().map(|seat| seat.bytes.len()).sum();
        OF_FIGURE * count.powers.len() as u64 + OF_BYTE * bytes as u64 + OF_SLOT
    };
    face.passages.iter().filter_map(|passage| count(face, passage)).map(of_count).max().unwrap_or(0)
}

/// The figures of a clock, and for how long it is shown.
fn clock_of(face: &FaceModel, passage: &PassageModel) -> Option<Clock> {
    let PassageModel::Clock { seats, tick, lasts, .. } = passage else { return None };
    let digits = face.digits.as_ref()?;
    let bytes = |seat: &usize| digits.at[*seat].clone();
    let groups = ["hours", "minutes", "seconds"].into_iter().zip(seats.list.chunks(2));
    let groups = groups.map(|(name, seats)| Group { name, seats: seats.iter().map(bytes).collect() });
    let shown = lasts.div_ceil(*tick);
    Some(Clock { groups: groups.collect(), shown, last: lasts - tick * shown.saturating_sub(1) })
}

/// What the variables of a bus are.
const SENT: &str = "what is sent, and how many bits of it are left";

/// The variables, one after another, and how many bytes they take.
fn variables(face: &FaceModel, shadows: &[String], has_open: bool, cycle_ns: u64) -> (Vec<Variable>, usize) {
    let figures = |passage: &PassageModel| match passage {
        PassageModel::Count { negative, .. } => {
            count(face, passage).map_or(0, |count| count.powers.len() + 1) + usize::from(*negative)
        }
        PassageModel::Clock { .. } => 2,
        _ => 0,
    };
    let most = face.passages.iter().map(figures).max().unwrap_or(0);
    let mut all = Vec::new();
    let mut at = FIRST_VARIABLE;
    let mut take = |name: String, bytes: usize, about: &'static str| {
        if bytes > 0 {
            all.push(Variable { name, at, about });
            at += bytes;
        }
    };
    let is_bus = face.bus.kind != "pins";
    let states: usize = face.passages.iter().map(states).sum();
    take("directions".to_owned(), usize::from(has_open), "which lines of a port are let go");
    // While figures are worked out nothing is sent.
    let shares = is_bus && most >= 2;
    take("byte".to_owned(), usize::from(is_bus && !shares), SENT);
    take("bits".to_owned(), usize::from(is_bus && !shares), "");
    take("wait".to_owned(), counters(face.bus.longest_wait(), cycle_ns), "counts while the bus waits");
    for shadow in shadows {
        take(format!("shadow_{}", shadow.to_lowercase()), 1, "the levels of a port");
    }
    take("next".to_owned(), 1, "the timer's count at which the turn ends, and 256ths of it");
    take("fraction".to_owned(), 1, "");
    take("left".to_owned(), 2, "how many turns what is shown still stays");
    take("state".to_owned(), usize::from(states > 1), "what is shown");
    take(
        "heal".to_owned(),
        if face.resend.is_some() { 2 } else { 0 },
        "in how many turns everything is sent again",
    );
    take("slot".to_owned(), usize::from(face.scan.is_some()), "the first byte of the slot that is lit");
    for (nth, passage) in face.passages.iter().enumerate() {
        match passage {
            PassageModel::Count { times, .. } => {
                take(format!("number_{nth}"), 2, "the number that is counted");
                take(format!("times_{nth}"), usize::from(*times > 1), "how often it was counted to the end");
            }
            PassageModel::Moving { .. } => take(format!("at_{nth}"), 1, "where the window is"),
            PassageModel::Clock { ticks, lasts, .. } => {
                take(format!("hours_{nth}"), 1, "the time that is shown next");
                take(format!("minutes_{nth}"), 1, "");
                take(format!("seconds_{nth}"), 1, "");
                take(format!("ticks_{nth}"), usize::from(*ticks > 1), "");
                take(format!("more_{nth}"), if *lasts > 0 { 2 } else { 0 }, "how many ticks more are shown");
            }
            PassageModel::Film { .. }
            | PassageModel::Value { .. }
            | PassageModel::Chosen { .. }
            | PassageModel::Stopwatch { .. } => {}
        }
    }
    let width = face.scan.as_ref().map_or(1, |scan| scan.width);
    let counts = face.passages.iter().any(|passage| matches!(passage, PassageModel::Count { .. }));
    // A number takes two bytes.
    let blanking = face.scan.as_ref().map_or(0, |scan| counters(scan.blanking_ns, cycle_ns));
    let least = if counts { 2 } else { 1 };
    take("work".to_owned(), width.max(blanking).max(least), "what is worked on");
    take("next_work".to_owned(), usize::from(counts), "");
    take("seats".to_owned(), most, "figures from the left");
    take("image".to_owned(), face.dark.len(), "what the display is to show");
    if let Some(seats) =
        all.iter().find(|variable| variable.name == "seats").map(|seats| seats.at).filter(|_| shares)
    {
        all.push(Variable { name: "byte".to_owned(), at: seats, about: SENT });
        all.push(Variable { name: "bits".to_owned(), at: seats + 1, about: "" });
    }
    (all, at - FIRST_VARIABLE)
}

/// Ports whose levels are put together bit by bit, and the port that each byte of levels is by itself.
fn levels(face: &FaceModel, driven: &BTreeMap<String, u8>) -> (Vec<Option<String>>, Vec<String>) {
    let letter = |port: &Option<String>| port.as_ref().map(|port| port[1..].to_owned());
    let whole: Vec<_> = face.bus.ports.iter().map(letter).collect();
    let masks = masks_of(face);
    let is_whole = |byte: usize| {
        let Some(letter) = &whole[byte] else { return false };
        masks.iter().all(|mask| mask[byte] == 0 || Some(&mask[byte]) == driven.get(letter))
    };
    let kept: Vec<_> = (0..whole.len()).map(|byte| whole[byte].clone().filter(|_| is_whole(byte))).collect();
    let shadows = driven.keys().filter(|letter| !kept.iter().flatten().any(|whole| whole == *letter));
    let shadows = if face.bus.kind == "pins" { shadows.cloned().collect() } else { Vec::new() };
    (kept, shadows)
}

fn driven(model: &Model) -> BTreeMap<String, u8> {
    let mut driven = BTreeMap::new();
    for line in &model.lines {
        if let (Some(port), Some(bit)) = (&line.port, line.bit) {
            *driven.entry(port[1..].to_owned()).or_default() |= 1 << bit;
        }
    }
    driven
}

/// Its files, each by its template, but for the program, which has a name of its own.
const OWN: Templates = &[
    ("README.md", include_str!("README.md.j2")),
    ("Makefile", include_str!("Makefile.j2")),
    ("program.asm", include_str!("program.asm.j2")),
];

/// What its files include.
const PIECES: Templates = &[
    ("pic_asm/begin.asm.j2", include_str!("begin.asm.j2")),
    ("pic_asm/bus.asm.j2", include_str!("bus.asm.j2")),
    ("pic_asm/clock.asm.j2", include_str!("clock.asm.j2")),
    ("pic_asm/clock_begins.asm.j2", include_str!("clock_begins.asm.j2")),
    ("pic_asm/count.asm.j2", include_str!("count.asm.j2")),
    ("pic_asm/count_down.asm.j2", include_str!("count_down.asm.j2")),
    ("pic_asm/film.asm.j2", include_str!("film.asm.j2")),
    ("pic_asm/finish.asm.j2", include_str!("finish.asm.j2")),
    ("pic_asm/heal.asm.j2", include_str!("heal.asm.j2")),
    ("pic_asm/heal_begins.asm.j2", include_str!("heal_begins.asm.j2")),
    ("pic_asm/image.asm.j2", include_str!("image.asm.j2")),
    ("pic_asm/low.asm.j2", include_str!("low.asm.j2")),
    ("pic_asm/moving.asm.j2", include_str!("moving.asm.j2")),
    ("pic_asm/piece.asm.j2", include_str!("piece.asm.j2")),
    ("pic_asm/put.asm.j2", include_str!("put.asm.j2")),
    ("pic_asm/release.asm.j2", include_str!("release.asm.j2")),
    ("pic_asm/split.asm.j2", include_str!("split.asm.j2")),
    ("pic_asm/stay.asm.j2", include_str!("stay.asm.j2")),
    ("pic_asm/wait.asm.j2", include_str!("wait.asm.j2")),
];

impl Target for PicAsm {
    fn name(&self) -> &'static str {
        "pic-asm"
    }

    fn about(&self) -> &'static str {
        "assembler for the 12-bit core of a pic16f54"
    }

    fn reserved(&self) -> (&'static str, &'static str) {
        ("assembler", RESERVED)
    }

    fn check(&self, model: &Model) -> Result<(), ProjectError> {
        let cannot = |why: String| Err(ProjectError::Target { target: "pic-asm", why });
        check_controller(model, self.name(), &["pic16f54"])?;
        check_ports(model, self.name())?;
        check_no_panel(model, self.name(), TOO_SMALL)?;
        check_no_greys(model, self.name(), "its memory holds no image for each bit of them")?;
        check_no_inputs(model, self.name())?;
        let [face] = &model.faces[..] else {
            return cannot(format!("it sees to one face, and {} of them show something", model.faces.len()));
        };
        let name = &face.name;
        if face.dots.is_some() {
            return cannot(format!(
                "figures and strips on the dots of face {name} take more memory than it has"
            ));
        }
        if face.resend.is_some() && !face.brightness.is_empty() {
            return cannot(format!(
                "sending again is not written for it where the brightness changes, as that of face {name} does"
            ));
        }
        for passage in &face.passages {
            match passage {
                PassageModel::Clock { goes_on: true, .. } => {
                    return cannot(format!(
                        "face {name} shows the time as it is and then something else, and it does not count on meanwhile: say from when its clock goes"
                    ));
                }
                PassageModel::Clock { tick, lasts, .. } if lasts.div_ceil(*tick) > u32::from(u16::MAX) => {
                    return cannot(format!(
                        "it counts 65535 ticks of a clock at most, and that of face {name} has more"
                    ));
                }
                PassageModel::Clock { tick, first_tick, .. } if tick != first_tick => {
                    return cannot(format!(
                        "the clock of face {name} begins between two of its ticks: let it begin with a whole second"
                    ));
                }
                PassageModel::Count { from, to, step, .. }
                    if [from, to]
                        .into_iter()
                        .any(|end| i16::try_from(*end + step).is_err() || i16::try_from(*end).is_err()) =>
                {
                    return cannot(format!(
                        "it counts from -32768 to 32767, and face {name} goes on to {to}"
                    ));
                }
                _ => {}
            }
        }
        let Some(turn) = Turn::of(turn_ns(face), cycle_ns(clock(model))) else {
            return cannot(format!("its timer does not count as long as a slot of face {name}"));
        };
        let takes_us = longest_turn(face) * cycle_ns(clock(model)) / 1000;
        if face.scan.is_some() && takes_us as f64 > turn.us {
            return cannot(format!(
                "a slot of face {name} has {} us, and counting takes up to {takes_us} us in one: lower refresh_hz",
                turn.us
            ));
        }
        let ticks = face.passages.iter().filter_map(|passage| match passage {
            PassageModel::Clock { tick, .. } => Some(*tick),
            _ => None,
        });
        for tick in ticks {
            let off = turn.off(tick, cycle_ns(clock(model)));
            if off.abs() > MOST_OFF {
                let why = format!(
                    "{tick} ms are no whole number of its turns of {} us: the clock of face {name} would be {:.0} seconds a day off: choose another refresh_hz",
                    turn.us,
                    off.abs() * 0.0864
                );
                return cannot(why);
            }
        }
        let resends = face.resend.as_ref().map_or(0, |resend| resend.every);
        if turns(face.longest().max(resends).into(), turn.turn_ns) > u64::from(u16::MAX) {
            return cannot(format!(
                "face {name} shows something, or waits to send it again, for longer than 65535 turns of {} us",
                turn.us
            ));
        }
        let open: Vec<_> = model.lines.iter().filter(|line| line.is_open).collect();
        if let Some(line) = open.iter().find(|line| line.port != open[0].port) {
            return cannot(format!(
                "pins {} and {} are let go, and are not on one port",
                open[0].pin, line.pin
            ));
        }
        let is_open = !open.is_empty();
        let (_, shadows) = levels(face, &driven(model));
        let (_, bytes) = variables(face, &shadows, is_open, cycle_ns(clock(model)));
        if bytes > VARIABLES {
            return cannot(format!(
                "what face {name} shows takes {bytes} of its {VARIABLES} bytes of memory"
            ));
        }
        Ok(())
    }

    fn check_written(&self, files: &[Written]) -> Result<(), ProjectError> {
        let programs = files.iter().filter(|file| file.path.ends_with(".asm"));
        let text: String = programs.map(|file| file.text.as_str()).collect();
        let cannot = |why: String| Err(ProjectError::Target { target: "pic-asm", why });
        let in_reach = text.split_once("\nstart\n").map_or(&*text, |(before, _)| before);
        match (words(&text), words(in_reach)) {
            (all, _) if all > WORDS => cannot(format!("it takes {all} of the {WORDS} words of its memory")),
            (_, near) if near > IN_REACH => {
                cannot(format!("its tables take {near} of the {IN_REACH} words that a computed jump reaches"))
            }
            _ => Ok(()),
        }
    }

    fn files(&self, model: &Model) -> Vec<File> {
        let path = |name: &str| match name {
            "program.asm" => format!("{}.asm", of_file(&model.title, "display")),
            name => name.to_owned(),
        };
        OWN.iter().map(|(name, _)| File::new(&path(name), name)).collect()
    }

    fn facts(&self, model: &Model) -> Value {
        let clock = clock(model);
        let driven = driven(model);
        let Some(face) = model.faces.first() else { return Value::from(()) };
        let Some(turn) = Turn::of(turn_ns(face), cycle_ns(clock)) else { return Value::from(()) };
        let lines = || model.lines.iter();
        let bits = |letter: &str, is: &dyn Fn(&super::super::model::Line) -> bool| {
            let of_port = lines().filter(|line| line.port.as_ref().is_some_and(|port| port[1..] == *letter));
            of_port.filter(|line| is(line)).fold(0, |mask, line| mask | 1 << line.bit.unwrap_or(0))
        };
        let ports = driven.iter().map(|(letter, outputs)| Port {
            letter: letter.clone(),
            outputs: *outputs,
            high: bits(letter, &|line| line.is_high),
            open: bits(letter, &|line| line.is_open),
        });
        let open = lines().find(|line| line.is_open);
        let (whole, shadows) = levels(face, &driven);
        let (ram, ram_bytes) = variables(face, &shadows, open.is_some(), cycle_ns(clock));
        let states_of: Vec<_> = face.passages.iter().map(states).collect();
        let all = states_of.iter().sum();
        let after = (0..states_of.len()).map(|nth| states_of[..=nth].iter().sum::<usize>() % all).collect();
        let counts = face.passages.iter().enumerate();
        let counts = counts.filter_map(|(nth, passage)| Some((nth.to_string(), count(face, passage)?)));
        let clocks = face.passages.iter().enumerate();
        let clocks = clocks.filter_map(|(nth, passage)| Some((nth.to_string(), clock_of(face, passage)?)));
        Value::from(Serde(&Facts {
            id: of_file(&model.title, "display"),
            clock,
            cycle_ns: cycle_ns(clock),
            oscillator: if clock > 4_000_000 { "_HS_OSC" } else { "_XT_OSC" },
            ports: ports.collect(),
            directions: open.and_then(|line| line.port.as_ref()).map(|port| port[1..].to_owned()),
            bits: lines()
                .flat_map(|line| line.names.iter().map(|name| (name.clone(), line.bit.unwrap_or(0))))
                .collect(),
            masks: driven,
            whole,
            shadows,
            turn,
            ram,
            ram_bytes,
            tables: tables(face),
            states: all,
            after,
            counts: counts.collect(),
            clocks: clocks.collect(),
        }))
    }

    fn templates(&self) -> Templates {
        OWN
    }

    fn pieces(&self) -> Templates {
        PIECES
    }

    fn sizing(&self) -> Option<Sizing> {
        Some(Sizing { compiler: "gpasm", read })
    }
}

/// How many words the instructions of a program take: each stands on a line of its own, behind a margin.
fn words(text: &str) -> usize {
    const DIRECTIVES: [&str; 8] = ["list", "include", "org", "if", "error", "endif", "end", "__config"];
    let is_instruction = |line: &&str| {
        let word = line.strip_prefix("        ").and_then(|line| line.split_whitespace().next());
        word.is_some_and(|word| !word.starts_with(';') && !DIRECTIVES.contains(&word))
    };
    text.lines().filter(is_instruction).count()
}

/// Reads what the program says of its variables, and the assembler of the words of 12 bits.
fn read(said: &str) -> Option<Size> {
    let after = |start: &str| said.lines().find_map(|line| line.strip_prefix(start));
    let words: u64 = after("Program Memory Words Used:")?.trim().parse().ok()?;
    let ram = after("; Variables, ")?.split_whitespace().next()?.parse().ok()?;
    Some(Size { flash: words * 3 / 2, ram })
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn sizes_are_read() {
        let said =
            "; Variables, 21 bytes.\nProgram Memory Words Used:   193\nProgram Memory Words Free:   319\n";
        assert_eq!(read(said), Some(Size { flash: 289, ram: 21 }));
        assert_eq!(read("Program Memory Words Used:   193"), None);
    }

    #[test]
    fn instructions_are_counted() {
        let text = "        org     0x000\ntable\n        retlw   0x3F ; 0\n        ; nothing\n\n        if $ > 0x100\n        endif\nstart\n        goto    start\n        end\n";
        assert_eq!(words(text), 2);
    }

    /// Timer 0 counts every 32nd cycle of 1 us; what is left of a count is carried on, so that turns come to what is asked for.
    #[test]
    fn a_turn_is_as_long_as_a_slot() {
        let turns = |ms| turns(ms, 2_083_333);
        assert_eq!((turns(1000), turns(200), turns(1), turns(0)), (480, 96, 1, 0));
        assert_eq!(cycle_ns(4_000_000), 1000);
        let turn = Turn::of(2_083_333, 1000).unwrap();
        assert_eq!((turn.prescaler, turn.counts, turn.fraction), (32, 65, 27));
        // Never more than a 256th of a count too long.
        let found = (256 * turn.counts + turn.fraction) * turn.prescaler * 1000;
        assert!((0..32_000).contains(&(found - 2_083_333 * 256)), "{found}");
        // Half a second is 240 of them, and 150 of 3.33 ms, each up to a 256th of a count too long; of 3.47 ms 144 and a tenth.
        let off = |turn_ns| Turn::of(turn_ns, 1000).unwrap().off(500, 1000);
        assert!((0.0..40.0).contains(&off(2_083_333)), "{}", off(2_083_333));
        assert!((0.0..80.0).contains(&off(3_333_333)), "{}", off(3_333_333));
        assert!((-700.0..-560.0).contains(&off(3_470_000)), "{}", off(3_470_000));
        assert!(Turn::of(1_000, 1000).is_none() && Turn::of(1_000_000_000, 1000).is_none());
    }
}
