//! A project as the templates read it: plain data, in which nothing is left to work out but how a language says it.

use std::collections::{BTreeMap, BTreeSet};

use serde::Serialize;

use super::field::{Field, Pattern};
use super::names::Names;
use super::passage::{CannotWrite, Passage, Story};
use super::sending::{Carried, Cell, Place, Sending, Step, Unlearnt};
use crate::bus::{Protocol, Transfer};
use crate::face::{Element, Face, Layout};
use crate::plan::teller::Teller;
use crate::plan::{Mount, Rig};
use crate::play::Inputs;
use crate::play::reel::Program;
use crate::rig::Pin;

/// The whole project.
#[derive(Debug, Clone, Serialize)]
pub struct Model {
    /// What the rig is called.
    pub title: String,
    /// What the reel is called, or the app.
    pub content: String,
    /// The controller, by its name in the rig.
    pub controller: String,
    /// Its clock, where it is known.
    pub clock: Option<u32>,
    /// Its memory for programs and tables, in bytes.
    pub flash: Option<u64>,
    /// Its memory for variables.
    pub ram: Option<u64>,
    /// Each line once.
    pub lines: Vec<Line>,
    /// The faces that show something, in the rig's order.
    pub faces: Vec<FaceModel>,
    /// Whether times are longer than a 16-bit count of milliseconds carries.
    pub long_times: bool,
}

/// A line of the controller.
#[derive(Debug, Clone, Serialize)]
pub struct Line {
    /// Its number in the program.
    pub number: usize,
    /// The controller's pin.
    pub pin: String,
    /// What it is for, one name for each face that is on it.
    pub names: Vec<String>,
    /// Whether it is ever let go, for a pull-up to make it high.
    pub is_open: bool,
    /// Whether it is high between transfers.
    pub is_high: bool,
    /// The port that it is a bit of, where pins are that: `PB`, `P1`, `RA`.
    pub port: Option<String>,
    /// Its bit there.
    pub bit: Option<u8>,
    /// What it is called on the usual board: `13`, `A0`, or as in the data sheet; none where it comes out nowhere.
    pub board_pin: Option<String>,
}

/// One face.
#[derive(Debug, Clone, Serialize)]
pub struct FaceModel {
    /// Its name in the rig.
    pub name: String,
    /// Its name in the source.
    pub id: String,
    /// The same in capitals.
    pub caps: String,
    /// What it is: `4 seven-segment digits`.
    pub about: String,
    /// Its drive in words.
    pub drive: String,
    /// Its bus.
    pub bus: BusModel,
    /// From power to running and dark.
    pub power_up: Vec<StepModel>,
    /// A whole picture; of a scanned face one slot.
    pub frame: Vec<Piece>,
    /// How it is scanned.
    pub scan: Option<ScanModel>,
    /// The image of a dark face.
    pub dark: Vec<u8>,
    /// Its digits, where figures or strips are put on them.
    pub digits: Option<DigitsModel>,
    /// Its dots, where figures or strips are put on them.
    pub dots: Option<DotsModel>,
    /// Figures that are put on it.
    pub sets: Vec<SetModel>,
    /// Whole pictures.
    pub stills: Vec<Vec<u8>>,
    /// Moving strips, by column.
    pub strips: Vec<Vec<Vec<u8>>>,
    /// What it shows, one after another.
    pub passages: Vec<PassageModel>,
    /// Whether all that begins again.
    pub again: bool,
    /// The transfers for each step of brightness; none where nothing changes it.
    pub brightness: Vec<Vec<StepModel>>,
    /// What is sent again and again, where the rig asks for it.
    pub resend: Option<ResendModel>,
}

/// What heals a part: transfers before the picture, the picture, and transfers behind it.
#[derive(Debug, Clone, Serialize)]
pub struct ResendModel {
    /// How often, in milliseconds.
    pub every: u32,
    /// Before the picture.
    pub before: Vec<StepModel>,
    /// Behind it.
    pub behind: Vec<StepModel>,
}

/// How a face is spoken to.
#[derive(Debug, Clone, Serialize)]
pub struct BusModel {
    /// The kind: `spi`, `i2c`, `two_wire`, `strobe`, `shift`, `pins`.
    pub kind: &'static str,
    /// Its lines, as the protocol numbers them.
    pub lines: Vec<BusLine>,
    /// Half of a clock, in nanoseconds.
    pub half_ns: u64,
    /// How long the clock is low, and high, where these differ.
    pub low_ns: u64,
    /// How long it is high.
    pub high_ns: u64,
    /// The shortest pause between transfers.
    pub pause_ns: u64,
    /// Whether the least significant bit is the first.
    pub lsb_first: bool,
    /// Whether output enable is driven.
    pub has_enable: bool,
    /// Which bits of the bytes of a write are lines: byte, bit, and the line.
    pub bits: Vec<(usize, u8, usize)>,
    /// How many bytes such a write has.
    pub bytes: usize,
    /// The port of each of them, where every line stands on its own bit of a port.
    pub ports: Vec<Option<String>>,
}

/// A line of a face.
#[derive(Debug, Clone, Serialize)]
pub struct BusLine {
    /// What it is for: `clock`.
    pub role: String,
    /// Its name in the source.
    pub name: String,
    /// Its number among the controller's lines.
    pub number: usize,
    /// The controller's pin.
    pub pin: String,
    /// Its level between transfers; none where it is let go, and a pull-up makes it high.
    pub idle: Option<bool>,
}

/// A transfer that is always the same.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
pub struct StepModel {
    /// The address, on a bus that has them.
    pub address: Option<u8>,
    /// Its bytes, without the address.
    pub bytes: Vec<u8>,
    /// Which bits of them are set, where they are levels of pins.
    pub mask: Option<Vec<u8>>,
    /// Whether it puts the outputs off.
    pub outputs_off: bool,
    /// What it says.
    pub words: String,
}

/// A piece of a picture on its way.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
#[serde(tag = "kind", rename_all = "snake_case")]
pub enum Piece {
    /// A transfer that is always the same.
    Fixed {
        /// It.
        step: StepModel,
    },
    /// A transfer with bytes of the image.
    Transfer {
        /// The address, on a bus that has them.
        address: Option<u8>,
        /// Its bytes in their order.
        runs: Vec<Run>,
    },
    /// Registers that follow one another, each with a byte of the image for every part of a chain.
    Registers {
        /// The first register.
        first: u8,
        /// How many.
        count: usize,
        /// How many parts.
        parts: usize,
        /// No-ops before and after, for parts of other faces.
        before: usize,
        /// After them.
        after: usize,
        /// The first byte of the image.
        from: usize,
    },
    /// Levels of pins: for each byte which bits are set, and their levels, or the byte of the image.
    Levels {
        /// Which bits.
        mask: Vec<u8>,
        /// The levels that are fixed.
        fixed: Vec<u8>,
        /// The bytes that are of the image.
        image: Vec<Option<usize>>,
    },
}

/// Bytes of a transfer that belong together.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
#[serde(tag = "kind", rename_all = "snake_case")]
pub enum Run {
    /// Always the same.
    Fixed {
        /// They.
        bytes: Vec<u8>,
    },
    /// Of the image.
    Image {
        /// The first one.
        from: usize,
        /// How many.
        count: usize,
    },
}

impl Run {
    /// How many bytes.
    #[must_use]
    pub const fn bytes(&self) -> usize {
        match self {
            Self::Fixed { bytes } => bytes.len(),
            Self::Image { count, .. } => *count,
        }
    }
}

/// How a face is scanned.
#[derive(Debug, Clone, Serialize)]
pub struct ScanModel {
    /// How many slots.
    pub slots: usize,
    /// How many bytes of the image each has.
    pub width: usize,
    /// How often a second each slot has its turn.
    pub refresh: f64,
    /// How long a slot is, in nanoseconds.
    pub slot_ns: u64,
    /// How long it is dark at first.
    pub blanking_ns: u64,
    /// Darkens.
    pub blank: Vec<StepModel>,
    /// How many bits of light there are.
    pub depth: u8,
}

/// Where digits are in the image.
#[derive(Debug, Clone, Serialize)]
pub struct DigitsModel {
    /// By digit: its bytes.
    pub at: Vec<Vec<usize>>,
    /// The same as a rule: the first byte of digit 0, and how far the next one is; none where there is no rule.
    pub rule: Option<(usize, isize)>,
    /// How far the other bytes of a digit are from its first, where there is a rule.
    pub offsets: Vec<isize>,
    /// The bits of each of its bytes that are its own.
    pub masks: Vec<u8>,
    /// Whether a byte holds anything else.
    pub shared: bool,
}

/// Where dots are in the image.
#[derive(Debug, Clone, Serialize)]
pub struct DotsModel {
    /// How many columns.
    pub width: usize,
    /// How many dots in each.
    pub height: usize,
    /// By column and row: eight times the byte, and the bit.
    pub places: Vec<usize>,
    /// Whether a bit is 1 while its dot is lit.
    pub lit: bool,
    /// How many bytes a column has.
    pub bytes: usize,
}

/// Figures that belong together.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
pub struct SetModel {
    /// Its name in the source.
    pub id: String,
    /// How many columns each has; on digits 1.
    pub width: usize,
    /// What each is, and its bytes, a list for each column.
    pub glyphs: Vec<GlyphModel>,
}

/// A figure or sign.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
pub struct GlyphModel {
    /// What it is: `0`, `minus`, `blank`.
    pub name: String,
    /// Its bytes, column by column.
    pub bytes: Vec<u8>,
}

/// Something that is lit beside figures: bytes of the image and bits of them.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
pub struct MarkModel {
    /// Which byte.
    pub byte: usize,
    /// Which bits.
    pub mask: u8,
    /// Their level while they are lit.
    pub lit: bool,
}

/// Seats of figures.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
pub struct SeatsModel {
    /// From the left: a digit, or the first column.
    pub list: Vec<usize>,
    /// How far they are apart, where it is always as far.
    pub pitch: Option<usize>,
}

/// What is shown for a time.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[serde(tag = "kind", rename_all = "snake_case")]
pub enum PassageModel {
    /// Pictures.
    Film {
        /// Which still, for how long (0 for good), and with which brightness.
        shown: Vec<(usize, u32, Option<u8>)>,
    },
    /// A window along a strip.
    Moving {
        /// The strip.
        strip: usize,
        /// How many windows.
        windows: usize,
        /// Whether what is seen moves to the left.
        to_left: bool,
        /// How long each is shown.
        step: u32,
    },
    /// A count.
    Count {
        /// The first number, in units of its last place.
        from: i64,
        /// The last one.
        to: i64,
        /// How far each step goes.
        step: i64,
        /// How long each stays.
        every: u32,
        /// How long the last one stays.
        hold: u32,
        /// How often; 0 without end.
        times: u32,
        /// The figures.
        set: usize,
        /// Where they stand.
        seats: SeatsModel,
        /// How many are always written.
        least: usize,
        /// What else is lit.
        marks: Vec<MarkModel>,
        /// Whether there are negative numbers.
        negative: bool,
        /// How many bits a number takes in the source: 8, 16 or 32; with its sign.
        bits: u32,
    },
    /// A clock.
    Clock {
        /// The figures.
        set: usize,
        /// Where they stand.
        seats: SeatsModel,
        /// What else is lit.
        marks: Vec<MarkModel>,
        /// What is lit while the colon is.
        colon: Vec<MarkModel>,
        /// What is lit after noon.
        afternoon: Vec<MarkModel>,
        /// Hours from 1 to 12.
        twelve: bool,
        /// `day`, `up` or `down`.
        runs: &'static str,
        /// Whether seconds are shown.
        seconds: bool,
        /// What it shows first.
        first: [u8; 3],
        /// Seconds of the first minute that are over, where they are not shown.
        passed: u8,
        /// Ticks of a second.
        ticks: u32,
        /// How many of the first second are over.
        ticked: u32,
        /// How long a tick is.
        tick: u32,
        /// How long the first one still goes on.
        first_tick: u32,
        /// Whether the colon blinks.
        blinks: bool,
        /// How long all is shown; 0 for good.
        lasts: u32,
    },
}

/// Why there is no project.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
#[allow(missing_docs, reason = "the messages say what the fields are")]
pub enum ProjectError {
    #[error("face {face}: {why}")]
    Drive { face: String, why: Unlearnt },
    #[error("face {face}: {why}")]
    Content { face: String, why: CannotWrite },
    #[error("face {face}: figures are put on it one by one, and its digits or dots are not all wired alike")]
    Mixed { face: String },
    #[error("{found:?} is no name in {language}, whichever letters are left out: call the {what} otherwise")]
    Name { what: &'static str, found: String, language: &'static str },
    #[error("keys of face {face} do something here, and no program reads keys yet")]
    Keys { face: String },
    #[error("nothing plays on any face")]
    Nothing,
    #[error("{target} cannot hold it: {why}")]
    Target { target: &'static str, why: String },
}

impl Model {
    /// The project of a rig and what plays on it, with names as a language has them.
    ///
    /// # Errors
    /// When a face's drive or content cannot be written as a program.
    pub fn of(rig: &Rig, program: &Program, content: &str, names: &mut Names) -> Result<Self, ProjectError> {
        if let Some(face) = program.heard.first().and_then(|face| rig.faces.get(*face)) {
            return Err(ProjectError::Keys { face: face.face.name.clone() });
        }
        let mut inputs = Inputs::default();
        program.begin(&mut inputs);
        let mut lines: Vec<Line> = Vec::new();
        let mut faces = Vec::new();
        for (place, mount) in rig.faces.iter().enumerate() {
            let tracks: Vec<_> = program.reel.tracks.iter().filter(|track| track.face == place).collect();
            if tracks.is_empty() {
                continue;
            }
            let acts: Vec<_> = tracks.iter().map(|track| &*track.act).collect();
            let face = || mount.face.name.clone();
            let story = Story::of(&acts, mount, &inputs)
                .map_err(|why| ProjectError::Content { face: face(), why })?;
            let sending = Sending::of(mount).map_err(|why| ProjectError::Drive { face: face(), why })?;
            faces.push(face_model(rig, mount, (&sending, &story), (names, &mut lines))?);
        }
        if faces.is_empty() {
            return Err(ProjectError::Nothing);
        }
        let long_times = faces.iter().any(FaceModel::has_long_times);
        Ok(Self {
            title: rig.name.clone().unwrap_or_else(|| "display".to_owned()),
            content: content.to_owned(),
            controller: rig.controller.part.clone().unwrap_or_else(|| "the controller".to_owned()),
            clock: rig.controller.facts.as_ref().and_then(|facts| facts.clock_hz),
            flash: rig.controller.facts.as_ref().and_then(|facts| facts.flash_bytes),
            ram: rig.controller.facts.as_ref().and_then(|facts| facts.ram_bytes),
            lines,
            faces,
            long_times,
        })
    }
}

impl FaceModel {
    /// Whether a time of it does not fit half of a 16-bit count.
    fn has_long_times(&self) -> bool {
        let long = |times: &[u32]| times.iter().any(|time| *time > 0x7FFF);
        self.resend.as_ref().is_some_and(|resend| long(&[resend.every]))
            || self.passages.iter().any(|passage| match passage {
                PassageModel::Film { shown } => shown.iter().any(|(_, lasts, _)| long(&[*lasts])),
                PassageModel::Moving { step, .. } => long(&[*step]),
                PassageModel::Count { every, hold, .. } => long(&[*every, *hold]),
                PassageModel::Clock { tick, lasts, .. } => long(&[*tick, *lasts]),
            })
    }
}

/// What puts figures on the image of a face.
struct Putting<'a> {
    face: &'a Face,
    sending: &'a Sending,
    sets: Vec<SetModel>,
    patterns: Vec<Vec<Pattern>>,
}

fn face_model(
    rig: &Rig,
    mount: &Mount,
    (sending, story): (&Sending, &Story),
    (names, lines): (&mut Names, &mut Vec<Line>),
) -> Result<FaceModel, ProjectError> {
    let face = &mount.face;
    let id = names.make("face", &face.name)?;
    let bus = bus_model(rig, mount, &id, (names, lines))?;
    let teller = Teller::new(mount);
    let told = |step: &Step| step_model(step, &bus, &teller);
    let mut putting = Putting { face, sending, sets: Vec::new(), patterns: Vec::new() };
    let (mut stills, mut strips) = (Vec::new(), Vec::new());
    let mut passages = Vec::new();
    let mixed = || ProjectError::Mixed { face: face.name.clone() };
    for passage in &story.passages {
        passages.push(match passage {
            Passage::Film(film) => {
                let shown = film.shown.iter().map(|shown| {
                    let image = sending.image(&shown.frame);
                    let still = stills.iter().position(|still| *still == image).unwrap_or_else(|| {
                        stills.push(image);
                        stills.len() - 1
                    });
                    (still, shown.lasts.unwrap_or(0), shown.brightness)
                });
                PassageModel::Film { shown: shown.collect() }
            }
            Passage::Moving(moving) => {
                let columns =
                    moving.strip.iter().map(|column| putting.column(*column, 0)).collect::<Option<Vec<_>>>();
                strips.push(columns.ok_or_else(mixed)?);
                let (windows, to_left, step) = (moving.windows, moving.to_left, moving.step);
                PassageModel::Moving { strip: strips.len() - 1, windows, to_left, step }
            }
            Passage::Count(count) => {
                let to = count.from + count.step * (count.numbers - 1) as i64;
                let figures = &count.figures;
                let set = putting.set(&figures.field, figures.minus.as_ref()).ok_or_else(mixed)?;
                let least = figures.field.seats.len();
                // One step further must be counted too.
                let span = [count.from, to].into_iter().flat_map(|end| [end, end + count.step]);
                let most = span.map(i64::unsigned_abs).max().unwrap_or(0);
                PassageModel::Count {
                    from: count.from,
                    to,
                    step: count.step,
                    every: count.every,
                    hold: count.hold,
                    times: count.times.unwrap_or(0),
                    set,
                    seats: seats_model(&figures.field),
                    least: figures.least.min(least),
                    marks: putting.marks(&figures.field.marks),
                    negative: figures.minus.is_some(),
                    bits: if most < 1 << 15 { 16 } else { 32 },
                }
            }
            Passage::Clock(clock) => PassageModel::Clock {
                set: putting.set(&clock.field, None).ok_or_else(mixed)?,
                seats: seats_model(&clock.field),
                marks: putting.marks(&clock.field.marks),
                colon: putting.marks(&clock.colon),
                afternoon: clock.twelve.as_ref().map(|lights| putting.marks(lights)).unwrap_or_default(),
                twelve: clock.twelve.is_some(),
                runs: match clock.runs {
                    super::passage::Runs::Day => "day",
                    super::passage::Runs::Up => "up",
                    super::passage::Runs::Down => "down",
                },
                seconds: clock.seconds,
                first: clock.first,
                passed: clock.passed,
                ticks: clock.ticks,
                ticked: clock.ticked,
                tick: clock.tick,
                first_tick: clock.first_tick,
                blinks: clock.blinks,
                lasts: clock.lasts.unwrap_or(0),
            },
        });
    }
    let puts = !putting.sets.is_empty() || !strips.is_empty();
    let changes_light = passages.iter().any(|passage| {
        matches!(passage, PassageModel::Film { shown } if shown.iter().any(|(.., light)| light.is_some()))
    });
    let brightness = sending.brightness.iter().filter(|_| changes_light);
    let brightness = brightness.map(|steps| steps.iter().map(told).collect()).collect();
    Ok(FaceModel {
        name: face.name.clone(),
        caps: id.to_uppercase(),
        id,
        about: face.summary(),
        drive: mount.drive.display().summary(),
        power_up: sending.power_up.iter().map(told).collect(),
        frame: pieces(sending, &told),
        scan: sending.scan.as_ref().map(|scan| ScanModel {
            slots: scan.slots,
            width: scan.width,
            refresh: 1e9 / scan.turn.0 as f64,
            slot_ns: scan.turn.0 / scan.slots as u64,
            blanking_ns: scan.blanking.0,
            blank: scan.blank.iter().map(told).collect(),
            depth: scan.depth,
        }),
        dark: sending.dark.clone(),
        digits: if puts { putting.digits() } else { None },
        dots: if puts { putting.dots() } else { None },
        sets: putting.sets,
        stills,
        strips,
        passages,
        again: story.again,
        brightness,
        resend: mount.drive.display().resend_every().map(|every| {
            let fixed = |steps: &[Step]| steps.iter().filter(|step| !step.has_image()).map(told).collect();
            let picture = sending.resend.iter().position(Step::has_image).unwrap_or(0);
            let (before, behind) = sending.resend.split_at(picture);
            ResendModel { every: (every.0 / 1_000_000) as u32, before: fixed(before), behind: fixed(behind) }
        }),
        bus,
    })
}

fn seats_model(field: &Field) -> SeatsModel {
    let list: Vec<_> = field.seats.iter().map(|seat| seat.first()).collect();
    let pitch = match &list[..] {
        [first, second, ..] if list.windows(2).all(|pair| pair[1] - pair[0] == second - first) => {
            Some(second - first)
        }
        [_] => Some(0),
        _ => None,
    };
    SeatsModel { list, pitch }
}

impl Putting<'_> {
    /// The set of these figures; made where it is not there yet.
    fn set(&mut self, field: &Field, minus: Option<&Pattern>) -> Option<usize> {
        let blank = Pattern { columns: vec![0; field.width()] };
        let mut patterns = field.figures.clone();
        patterns.push(blank);
        patterns.extend(minus.cloned());
        // One that has a minus too does for another that has none.
        let known = self.patterns.iter().position(|known| known.starts_with(&patterns));
        if let Some(known) = known {
            return Some(known);
        }
        let names = (0..=9).map(|figure| figure.to_string()).chain(["blank".to_owned(), "minus".to_owned()]);
        let glyphs = patterns.iter().zip(names).map(|(pattern, name)| {
            let columns = pattern.columns.iter().map(|column| self.column(*column, field.seats[0].first()));
            Some(GlyphModel { name, bytes: columns.collect::<Option<Vec<_>>>()?.concat() })
        });
        let glyphs = glyphs.collect::<Option<_>>()?;
        let number = self.sets.len();
        let id = if number == 0 { "figures".to_owned() } else { format!("figures_{}", number + 1) };
        self.sets.push(SetModel { id, width: field.width(), glyphs });
        self.patterns.push(patterns);
        Some(number)
    }

    /// The bytes of a column: of a digit as the image has them, of dots one bit a dot.
    fn column(&self, bits: u32, digit: usize) -> Option<Vec<u8>> {
        match self.face.layout {
            Layout::Digits { .. } => {
                let shape = self.shape(digit).filter(|_| self.is_even())?;
                let mut bytes = vec![0; shape.bytes.len()];
                for (segment, (byte, bit, lit)) in &shape.segments {
                    if (bits >> segment & 1 == 1) == *lit {
                        bytes[*byte] |= 1 << bit;
                    }
                }
                Some(bytes)
            }
            Layout::Dots(grid) => {
                self.dots()?;
                Some(bits.to_le_bytes()[..grid.height.div_ceil(8)].to_vec())
            }
        }
    }

    /// Where the segments of a digit are in the image.
    fn shape(&self, digit: usize) -> Option<Shape> {
        let face = self.face;
        let places: Vec<_> = (0..face.style().segment_count())
            .filter_map(|segment| Some((segment, self.sending.place(face.element(digit, segment))?)))
            .collect();
        let bytes: BTreeSet<_> = places.iter().map(|(_, place)| place.byte).collect();
        let bytes: Vec<_> = bytes.into_iter().collect();
        let segments = places.iter().filter(|(_, place)| !place.in_all).map(|(segment, place)| {
            let byte = bytes.iter().position(|byte| *byte == place.byte)?;
            Some((*segment, (byte, place.bit, place.lit)))
        });
        Some(Shape { segments: segments.collect::<Option<_>>()?, bytes })
    }

    /// Whether every digit stands in its bytes as the others do. One may lack a light, such as a point that is a colon there.
    fn is_even(&self) -> bool {
        let count = self.face.digits();
        let shapes: Vec<_> = (0..count).filter_map(|digit| self.shape(digit)).collect();
        let agree = |one: &Shape, other: &Shape| {
            one.bytes.len() == other.bytes.len()
                && one
                    .segments
                    .iter()
                    .all(|(segment, place)| other.segments.get(segment).is_none_or(|of| of == place))
        };
        shapes.windows(2).all(|pair| agree(&pair[0], &pair[1]))
    }

    fn digits(&self) -> Option<DigitsModel> {
        let Layout::Digits { count, .. } = self.face.layout else { return None };
        let shapes: Vec<_> = (0..count).map(|digit| self.shape(digit)).collect::<Option<_>>()?;
        let at: Vec<_> = shapes.iter().map(|shape| shape.bytes.clone()).collect();
        let shape = shapes.first()?;
        let mut masks = vec![0; shape.bytes.len()];
        shape.segments.values().for_each(|(byte, bit, _)| masks[*byte] |= 1 << bit);
        let own: BTreeSet<_> = at.iter().flatten().collect();
        let others = self.sending.places.iter().skip(self.face.extra(0).0).flatten();
        let has_others = others.into_iter().any(|place| own.contains(&place.byte));
        let in_dark = at.iter().flatten().zip(masks.iter().cycle());
        let has_fixed = in_dark.into_iter().any(|(byte, mask)| self.sending.dark[*byte] & !mask != 0);
        let joined = at.iter().flatten().count() != own.len();
        let far = |digit: usize, byte: usize| at[digit][byte] as isize;
        let apart = if count > 1 { far(1, 0) - far(0, 0) } else { 0 };
        let offsets: Vec<_> = (0..masks.len()).map(|byte| far(0, byte) - far(0, 0)).collect();
        let is_rule = (0..count).all(|digit| {
            (0..masks.len())
                .all(|byte| far(digit, byte) == far(0, 0) + apart * digit as isize + offsets[byte])
        });
        Some(DigitsModel {
            rule: is_rule.then_some((at[0][0], apart)),
            offsets,
            masks,
            shared: has_others || has_fixed || joined,
            at,
        })
    }

    fn dots(&self) -> Option<DotsModel> {
        let Layout::Dots(grid) = self.face.layout else { return None };
        let place = |x: usize, y: usize| self.sending.place(self.face.dot(x, y)?);
        let lit = place(0, 0)?.lit;
        let mut places = Vec::new();
        for x in 0..grid.width {
            for y in 0..grid.height {
                let place = place(x, y).filter(|place| place.lit == lit)?;
                places.push(place.byte * 8 + usize::from(place.bit));
            }
        }
        Some(DotsModel {
            width: grid.width,
            height: grid.height,
            places,
            lit,
            bytes: grid.height.div_ceil(8),
        })
    }

    /// The bits of the image that light these.
    fn marks(&self, lights: &BTreeSet<Element>) -> Vec<MarkModel> {
        let mut marks: BTreeMap<(usize, bool), u8> = BTreeMap::new();
        let (slots, width) = self.sending.scan.as_ref().map_or((1, 0), |scan| (scan.slots, scan.width));
        for Place { byte, bit, lit, in_all } in lights.iter().filter_map(|light| self.sending.place(*light)) {
            for slot in 0..if in_all { slots } else { 1 } {
                *marks.entry((byte + slot * width, lit)).or_default() |= 1 << bit;
            }
        }
        marks.into_iter().map(|((byte, lit), mask)| MarkModel { byte, mask, lit }).collect()
    }
}

/// How a digit stands in the image.
#[derive(Debug, PartialEq, Eq)]
struct Shape {
    /// By segment: which of its bytes, which bit, and the level that lights it.
    segments: BTreeMap<usize, (usize, u8, bool)>,
    bytes: Vec<usize>,
}

/// What a pin is called on the usual board: its number there, or `A0`; where no pin has a number, as in the data sheet.
fn board_pin(rig: &Rig, pin: &Pin) -> Option<String> {
    let known = rig.controller.pins().iter().find(|known| known.pin == *pin);
    let also = known.map(|known| &known.also[..]).unwrap_or_default();
    let is_number = |name: &&String| name.chars().all(|c| c.is_ascii_digit());
    let is_analog =
        |name: &&String| name.strip_prefix('A').is_some_and(|rest| rest.chars().all(|c| c.is_ascii_digit()));
    let number = also.iter().find(is_number).or_else(|| also.iter().find(is_analog));
    let has_numbers =
        rig.controller.pins().iter().any(|known| known.also.iter().any(|name| is_number(&name)));
    number.cloned().or_else(|| (!has_numbers).then(|| pin.to_string()))
}

fn bus_model(
    rig: &Rig,
    mount: &Mount,
    id: &str,
    (names, lines): (&mut Names, &mut Vec<Line>),
) -> Result<BusModel, ProjectError> {
    let protocol = rig.protocol(mount);
    let idle = protocol.map(Protocol::idle).unwrap_or_default();
    let mut own = Vec::new();
    for (place, line) in mount.lines.iter().enumerate() {
        let pin = line.known.to_string();
        let name = names.make("line", &format!("{id} {}", line.role))?.to_uppercase();
        let number = lines.iter().position(|known| known.pin == pin).unwrap_or_else(|| {
            let port = line.known.port_bit();
            lines.push(Line {
                number: lines.len(),
                pin: pin.clone(),
                names: Vec::new(),
                is_open: false,
                is_high: false,
                port: port.map(|(port, _)| port.to_owned()),
                bit: port.map(|(_, bit)| bit),
                board_pin: board_pin(rig, &line.known),
            });
            lines.len() - 1
        });
        lines[number].names.push(name.clone());
        let is_open = matches!(protocol, Some(Protocol::I2c(_) | Protocol::TwoWire(_)));
        lines[number].is_open |= is_open;
        let idle = idle.get(place).copied().flatten().filter(|_| !is_open);
        lines[number].is_high |= idle == Some(true);
        own.push(BusLine { role: line.role.clone(), name, number, pin, idle });
    }
    let mut bus = BusModel {
        kind: "pins",
        lines: own,
        half_ns: 0,
        low_ns: 0,
        high_ns: 0,
        pause_ns: 0,
        lsb_first: false,
        has_enable: false,
        bits: Vec::new(),
        bytes: 0,
        ports: Vec::new(),
    };
    let half = |clock: crate::units::Hertz| clock.half_period().0;
    match protocol {
        Some(Protocol::Spi(spi)) => (bus.kind, bus.half_ns) = ("spi", half(spi.clock)),
        Some(Protocol::I2c(i2c)) => {
            bus.kind = "i2c";
            let (low, high) = i2c.times();
            (bus.low_ns, bus.high_ns) = (low.0, high.0);
        }
        Some(Protocol::TwoWire(two_wire)) => {
            (bus.kind, bus.half_ns, bus.lsb_first) = ("two_wire", half(two_wire.clock), true);
        }
        Some(Protocol::Strobe(strobe)) => {
            (bus.kind, bus.half_ns, bus.lsb_first) = ("strobe", half(strobe.clock), true);
            bus.pause_ns = strobe.pause().0;
        }
        Some(Protocol::Shift(shift)) => {
            (bus.kind, bus.half_ns, bus.lsb_first) = ("shift", half(shift.clock), shift.lsb_first);
            bus.has_enable = shift.has_enable;
        }
        Some(Protocol::Pins(pins)) => {
            bus.bytes = pins.bits.byte_count();
            let place = |line: usize| pins.bits.place(line).map(|(byte, bit)| (byte, bit, line));
            bus.bits = (0..pins.lines()).filter_map(place).collect();
            let port_of = |(_, bit, line): &(usize, u8, usize)| {
                let line = &lines[bus.lines.get(*line)?.number];
                line.port.clone().filter(|_| line.bit == Some(*bit))
            };
            let of_byte = |byte: usize| {
                let ports: Vec<_> = bus.bits.iter().filter(|(of, ..)| *of == byte).map(port_of).collect();
                let first = ports.first().cloned().flatten();
                first.filter(|first| ports.iter().all(|port| port.as_ref() == Some(first)))
            };
            bus.ports = (0..bus.bytes).map(of_byte).collect();
        }
        Some(Protocol::Panel(_)) | None => {}
    }
    Ok(bus)
}

fn step_model(step: &Step, bus: &BusModel, teller: &Teller<'_>) -> StepModel {
    let byte = |cell: &Cell| if let Cell::Fixed(byte) = cell { *byte } else { 0 };
    let bytes: Vec<_> = step.cells.iter().map(byte).collect();
    let (address, mask) = match &step.carried {
        Carried::To(address) => (Some(*address), None),
        Carried::Levels(mask) => (None, Some(mask.clone())),
        Carried::Bytes | Carried::OutputsOff => (None, None),
    };
    let transfer = match (&step.carried, bus.kind) {
        (Carried::To(address), _) => Transfer::I2c { address: *address, bytes: &bytes, reads: 0 },
        (Carried::OutputsOff, _) => Transfer::OutputsOff,
        (Carried::Levels(mask), _) => Transfer::Ports { mask, levels: &bytes },
        (Carried::Bytes, "two_wire") => Transfer::TwoWire { bytes: &bytes, reads: 0 },
        (Carried::Bytes, "strobe") => Transfer::Strobe { bytes: &bytes, reads: 0 },
        (Carried::Bytes, "shift") => Transfer::Shift { bytes: &bytes },
        (Carried::Bytes, _) => Transfer::Spi { bytes: &bytes },
    };
    let words = teller.of_transfer(&transfer);
    StepModel { address, mask, outputs_off: step.carried == Carried::OutputsOff, words, bytes: bytes.clone() }
}

/// The transfers of a picture, where they are alike taken together.
fn pieces(sending: &Sending, told: &dyn Fn(&Step) -> StepModel) -> Vec<Piece> {
    if let Some(registers) = registers(&sending.frame) {
        return vec![registers];
    }
    let piece = |step: &Step| {
        if let Carried::Levels(mask) = &step.carried {
            let fixed = step.cells.iter().map(|cell| if let Cell::Fixed(byte) = cell { *byte } else { 0 });
            let image =
                step.cells.iter().map(|cell| if let Cell::Image(place) = cell { Some(*place) } else { None });
            return Piece::Levels { mask: mask.clone(), fixed: fixed.collect(), image: image.collect() };
        }
        if !step.has_image() {
            return Piece::Fixed { step: told(step) };
        }
        let address = if let Carried::To(address) = step.carried { Some(address) } else { None };
        Piece::Transfer { address, runs: runs(&step.cells) }
    };
    sending.frame.iter().map(piece).collect()
}

/// Bytes in runs.
fn runs(cells: &[Cell]) -> Vec<Run> {
    let mut runs = Vec::new();
    for cell in cells {
        match (*cell, runs.last_mut()) {
            (Cell::Fixed(byte), Some(Run::Fixed { bytes })) => bytes.push(byte),
            (Cell::Fixed(byte), _) => runs.push(Run::Fixed { bytes: vec![byte] }),
            (Cell::Image(place), Some(Run::Image { from, count })) if *from + *count == place => *count += 1,
            (Cell::Image(place), _) => runs.push(Run::Image { from: place, count: 1 }),
        }
    }
    runs
}

/// Transfers of pairs, a register that counts up from one to the next and a byte of the image.
fn registers(steps: &[Step]) -> Option<Piece> {
    let of_step = |step: &Step| -> Option<(u8, usize, usize, usize, usize)> {
        if step.carried != Carried::Bytes || !step.cells.len().is_multiple_of(2) {
            return None;
        }
        let pairs: Vec<_> = step.cells.chunks(2).collect();
        let is_own = |pair: &&[Cell]| matches!(pair, [Cell::Fixed(_), Cell::Image(_)]);
        let before = pairs.iter().take_while(|pair| !is_own(pair)).count();
        let own: Vec<_> = pairs[before..].iter().take_while(|pair| is_own(pair)).collect();
        let after = pairs.len() - before - own.len();
        let nothing = [Cell::Fixed(0), Cell::Fixed(0)];
        let others = pairs[..before].iter().chain(&pairs[before + own.len()..]);
        if others.into_iter().any(|pair| **pair != nothing) {
            return None;
        }
        let [Cell::Fixed(register), Cell::Image(from)] = own.first()? else { return None };
        let follows = |(part, pair): (usize, &&&[Cell])| matches!(pair, [Cell::Fixed(other), Cell::Image(place)] if other == register && *place == from + part);
        own.iter().enumerate().all(follows).then_some((*register, *from, own.len(), before, after))
    };
    let all: Vec<_> = steps.iter().map(of_step).collect::<Option<_>>()?;
    let (first, from, parts, before, after) = *all.first()?;
    let follows = |(number, step): (usize, &(u8, usize, usize, usize, usize))| {
        usize::from(step.0) == usize::from(first) + number
            && step.1 == from + number * parts
            && (step.2, step.3, step.4) == (parts, before, after)
    };
    let is_run = all.iter().enumerate().all(follows);
    is_run.then_some(Piece::Registers { first, count: all.len(), parts, before, after, from })
}
