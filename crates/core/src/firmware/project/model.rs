//! A project as the templates read it: plain data, in which nothing is left to work out but how a language says it.

use std::collections::BTreeSet;

use serde::Serialize;

use super::passage::Steadied;

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
    /// Values that are shown and are not known beforehand.
    pub values: Vec<ValueModel>,
    /// Whether a key holds what plays.
    pub holds: bool,
}

/// A value that keys change or that the person's own code gives.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
pub struct ValueModel {
    /// The variable of the reel.
    pub variable: String,
    /// Its name in the source.
    pub id: String,
    /// What it is at first, in units of its last place.
    pub first: i64,
    /// How many places after the point it has.
    pub places: u32,
    /// How many bits it takes in the source, with its sign: 16 or 32.
    pub bits: u32,
    /// Whether the person's own code gives it.
    pub is_given: bool,
    /// Whether it says whether a lamp is lit, and nothing else.
    pub is_lamp: bool,
}

/// A lamp that a key lights and puts out.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
pub struct LampModel {
    /// Its name in the rig.
    pub name: String,
    /// The value that says whether it is lit.
    pub value: usize,
    /// What is lit of it.
    pub marks: Vec<MarkModel>,
}

/// How the keys of a face are asked for.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
pub struct KeysModel {
    /// What is asked.
    pub asks: Vec<AskModel>,
    /// What is sent after that.
    pub after: Vec<StepModel>,
    /// How many bytes come back in all.
    pub bytes: usize,
    /// The keys that do something.
    pub buttons: Vec<ButtonModel>,
    /// The values that they change.
    pub changes: BTreeSet<usize>,
    /// The names in the source of the faces of which they ask something.
    pub asks_of: BTreeSet<String>,
}

/// A transfer to which the part answers.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
pub struct AskModel {
    /// What is sent.
    pub step: StepModel,
    /// How many bytes come back.
    pub reads: usize,
}

/// A key.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
pub struct ButtonModel {
    /// Its name in the rig.
    pub name: String,
    /// Its name in the source.
    pub id: String,
    /// The same in capitals.
    pub caps: String,
    /// Which byte of the answer it is in.
    pub byte: usize,
    /// Which bits of that.
    pub mask: u8,
    /// What they are while it is down.
    pub code: u8,
    /// What it does.
    pub does: Vec<ActionModel>,
}

/// What a key does.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
#[serde(tag = "kind", rename_all = "snake_case")]
pub enum ActionModel {
    /// A value becomes 1, or 0 again.
    Toggle {
        /// Which.
        value: usize,
    },
    /// It is added to.
    Add {
        /// Which value.
        value: usize,
        /// What is added.
        step: i64,
        /// The value that says at which figure, where it is not the last one: 1 at the tens.
        at: Option<usize>,
        /// Below this it becomes that.
        least: Option<(i64, i64)>,
        /// Above this it becomes that.
        most: Option<(i64, i64)>,
    },
    /// It is set.
    Set {
        /// Which value.
        value: usize,
        /// To what.
        to: i64,
    },
    /// All acts are held, or go on.
    Hold,
    /// Something happens on a face: its stopwatch runs, its clock is set, it goes on from another moment.
    Ask {
        /// The face's name in the source.
        face: String,
        /// What, as a name in the source: `start_stop`.
        what: String,
    },
}

/// A moment from which a key lets a face go on.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
pub struct JumpModel {
    /// What goes on from there, as a name in the source: `jump_4000`.
    pub what: String,
    /// It, in milliseconds.
    pub to: u32,
    /// The passage that is shown then.
    pub passage: usize,
    /// How far each passage has come: this one to that moment, those that are not shown to their beginning.
    pub states: Vec<StateModel>,
    /// For how long what is shown then still stays; none for good.
    pub left: Option<u32>,
    /// The brightness step that is set then.
    pub brightness: Option<u8>,
}

/// How far a passage has come, as it is kept while it is not shown.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
#[serde(untagged)]
pub enum StateModel {
    /// Pictures, or a window along a strip.
    At {
        /// Which one is next.
        at: usize,
    },
    /// A count.
    Count {
        /// The next number.
        number: i64,
        /// How often all came.
        done: u64,
    },
    /// A clock, which begins anew.
    Clock {
        /// The time, in seconds; with those of a minute where they are not shown.
        time: u32,
        /// The same as hours, minutes and seconds as it keeps them.
        parts: [u32; 3],
        /// Ticks of the second.
        tick: u32,
        /// How long it is still shown after its first tick, and that tick as it is at the very beginning; 0 for good.
        left: u32,
    },
    /// A value.
    Value {
        /// How long it is still shown from the next look on; 0 for good.
        left: u32,
        /// Whether the figure that the cursor is on was lit.
        was_lit: bool,
    },
    /// Nothing that one could go on from.
    None,
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
    /// Whole pictures: as the image has them, or of colours so many dots and their colour again and again, row by row.
    pub stills: Vec<Vec<u8>>,
    /// By colour: for each piece of a slot which of a dot's three lights are lit, the lowest line in bit 0. None where dots have one light.
    pub colours: Vec<Vec<u8>>,
    /// Moving strips, by column.
    pub strips: Vec<Vec<Vec<u8>>>,
    /// What it shows, one after another.
    pub passages: Vec<PassageModel>,
    /// Whether it ends with a picture that stays for good.
    pub has_end: bool,
    /// The transfers for each step of brightness; none where nothing changes it.
    pub brightness: Vec<Vec<StepModel>>,
    /// What is sent again and again, where the rig asks for it.
    pub resend: Option<ResendModel>,
    /// Its keys, where they do something.
    pub keys: Option<KeysModel>,
    /// The moments from which a key lets it go on.
    pub jumps: Vec<JumpModel>,
    /// Its lamps that keys switch.
    pub lamps: Vec<LampModel>,
    /// Whether what it shows is drawn again as values change.
    pub follows: bool,
    /// Whether keys run or set what it shows.
    pub is_heard: bool,
    /// Whether there are pictures for what does not fit.
    pub has_beyond: bool,
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
    /// The kind: `spi`, `i2c`, `two_wire`, `strobe`, `shift`, `pins`, `panel`.
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
    /// The port of each of those bytes, where every line stands on its own bit of a port.
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
    /// How many bytes of the image each piece of a slot has.
    pub width: usize,
    /// How often a second each slot has its turn.
    pub refresh: f64,
    /// How long a slot is, in nanoseconds.
    pub slot_ns: u64,
    /// How long each of its pieces is dark at first.
    pub blanking_ns: u64,
    /// Darkens.
    pub blank: Vec<StepModel>,
    /// How many bits of light there are, and so pieces of a slot.
    pub depth: u8,
    /// For how long the first piece is lit; each other one is for twice as long as the one before.
    pub unit_ns: u64,
    /// Whether it goes on piece by piece, each for a time of its own: with greys, and where rows are shifted in.
    pub in_pieces: bool,
    /// By brightness step, where the scan itself dims what it shows: how long each piece is dark, and for how long the first one is lit.
    pub dims: Vec<(u64, u64)>,
    /// The step at first.
    pub dimmed: u8,
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
    /// The number of its colour, where dots have several lights.
    pub ink: Option<usize>,
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
        /// Whether any of them changes the brightness.
        dims: bool,
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
        /// The number of its colour, where dots have several lights.
        ink: Option<usize>,
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
        /// What it shows first, in seconds; with those of the first minute that are over.
        start: u32,
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
        /// Whether keys set it.
        is_set: bool,
        /// Whether it shows the time as it is, and not one that begins with the reel.
        is_wall: bool,
        /// Whether that is kept while something else is shown, or what plays is held.
        goes_on: bool,
    },
    /// A value.
    Value {
        /// Which.
        value: usize,
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
        /// How many bits a number takes in the source: 16 or 32; with its sign.
        bits: u32,
        /// The least number that is written, and which still is shown below it; none where none comes.
        under: Option<(i64, usize)>,
        /// The same of the most.
        over: Option<(i64, usize)>,
        /// What is made of the values of several looks before that is shown.
        steadied: Option<Steadied>,
        /// What is shown stays until the value is farther away than this.
        band: i64,
        /// How often it is looked at; 0 where it is shown as it changes.
        every: u32,
        /// The value that says which figure blinks, and of the last of them which that is: 0 for the ones.
        cursor: Option<(usize, i64)>,
        /// How long it is shown; 0 for good.
        lasts: u32,
    },
    /// Pictures of which a value chooses one.
    Chosen {
        /// Which value.
        value: usize,
        /// From which value on each still is shown; the first one below that, too.
        pictures: Vec<(i64, usize)>,
        /// How many bits the value takes in the source: 16 or 32; with its sign.
        bits: u32,
        /// How often it is looked at; 0 where it is shown as it changes.
        every: u32,
        /// How long it is shown; 0 for good.
        lasts: u32,
    },
    /// A stopwatch.
    Stopwatch {
        /// The figures.
        set: usize,
        /// Where they stand.
        seats: SeatsModel,
        /// What else is lit.
        marks: Vec<MarkModel>,
        /// Whether it has hundredths.
        hundredths: bool,
        /// The milliseconds of its last figure.
        unit: u32,
        /// Which still is shown after 99 minutes.
        over: usize,
    },
}

impl ActionModel {
    /// The value that it changes.
    pub(super) const fn changes(&self) -> Option<usize> {
        match self {
            Self::Toggle { value } | Self::Add { value, .. } | Self::Set { value, .. } => Some(*value),
            _ => None,
        }
    }

    /// What it asks of which face, both as names in the source.
    pub(super) fn asks(&self) -> Option<(&str, &str)> {
        match self {
            Self::Ask { face, what } => Some((face, what)),
            _ => None,
        }
    }
}

impl Model {
    /// Whether keys do something, or values are shown that are not known beforehand.
    pub(super) fn has_actions(&self) -> bool {
        !self.values.is_empty() || self.has_keys()
    }

    /// Whether the person's own code gives values.
    pub(super) fn has_readings(&self) -> bool {
        self.values.iter().any(|value| value.is_given)
    }

    /// Whether keys do something.
    pub(super) fn has_keys(&self) -> bool {
        self.faces.iter().any(|face| face.keys.is_some())
    }

    /// All that keys do.
    pub(super) fn actions(&self) -> impl Iterator<Item = &ActionModel> {
        let keys = self.faces.iter().filter_map(|face| face.keys.as_ref());
        keys.flat_map(|keys| &keys.buttons).flat_map(|button| &button.does)
    }

    /// Whether a key adds at another figure than the last one.
    pub(super) fn steps_at_figures(&self) -> bool {
        self.actions().any(|action| matches!(action, ActionModel::Add { at: Some(_), .. }))
    }

    /// How many bits hold a bit for each key of any face: 8, 16 or 32.
    pub(super) fn key_bits(&self) -> u32 {
        let keys = self.faces.iter().filter_map(|face| face.keys.as_ref());
        match keys.map(|keys| keys.buttons.len()).max().unwrap_or(0) {
            0..=8 => 8,
            9..=16 => 16,
            _ => 32,
        }
    }
}

impl ScanModel {
    /// Keeps what is needed of its brightness steps, and gives them numbers of their own; nothing where none is ever set.
    pub(super) fn keep_dims(&mut self, passages: &mut [PassageModel], jumps: &mut [JumpModel]) {
        let of_jumps = jumps.iter().filter_map(|jump| jump.brightness);
        let mut used: Vec<_> = passages.iter().flat_map(PassageModel::dimmed_to).chain(of_jumps).collect();
        if !used.is_empty() {
            used.push(self.dimmed);
        }
        used.sort_unstable();
        used.dedup();
        self.dims = used.iter().filter_map(|step| self.dims.get(usize::from(*step)).copied()).collect();
        self.dimmed = place_of(self.dimmed, &used);
        passages.iter_mut().for_each(|passage| passage.number_dims(&used));
        let steps = jumps.iter_mut().filter_map(|jump| jump.brightness.as_mut());
        steps.for_each(|step| *step = place_of(*step, &used));
    }

    /// For how long a piece is dark at least.
    pub(super) fn least_blanking(&self) -> u64 {
        self.dims.iter().map(|(blanking, _)| *blanking).min().unwrap_or(self.blanking_ns)
    }

    /// For how long its first piece is lit at least.
    pub(super) fn least_unit(&self) -> u64 {
        self.dims.iter().map(|(_, unit)| *unit).min().unwrap_or(self.unit_ns)
    }

    /// The counts of a timer for each piece of a slot of so many, with its blanking; none where a slot is one piece. `None` where a
    /// piece has less than one count of light.
    pub(super) fn pieces(&self, slot: u32, blanking: u32) -> Option<Vec<u32>> {
        if self.depth <= 1 {
            return Some(Vec::new());
        }
        let steps = (1 << self.depth) - 1;
        let unit = slot.checked_sub(blanking * u32::from(self.depth))? / steps;
        (unit > 0).then(|| (0..self.depth).map(|bit| blanking + (unit << bit)).collect())
    }
}

/// Where a brightness step is among those that are used.
pub(super) fn place_of(step: u8, used: &[u8]) -> u8 {
    used.iter().position(|of| *of == step).unwrap_or(0) as u8
}

impl BusModel {
    /// The longest time for which it waits, in nanoseconds.
    pub(super) fn longest_wait(&self) -> u64 {
        self.half_ns.max(self.low_ns).max(self.high_ns).max(self.pause_ns)
    }
}

impl PassageModel {
    /// Whether it comes to something that stays until a key or a value changes it.
    pub(super) fn rests(&self) -> bool {
        match self {
            Self::Film { shown, .. } => shown.iter().any(|(_, lasts, _)| *lasts == 0),
            Self::Value { every, lasts, cursor, .. } => *every == 0 && *lasts == 0 && cursor.is_none(),
            Self::Chosen { every, lasts, .. } => *every == 0 && *lasts == 0,
            _ => false,
        }
    }

    /// Lets a clock that shows the time as it is go on while it is not drawn, where that ever comes.
    pub(super) fn keep_time(&mut self, where_needed: bool) {
        if let Self::Clock { is_wall: true, goes_on, .. } = self {
            *goes_on = where_needed;
        }
    }

    /// Whether it is drawn again as a value changes.
    pub(super) fn follows(&self, values: &[ValueModel]) -> bool {
        self.value().is_some_and(|value| !values[value].is_given)
    }

    /// The value that it shows.
    pub(super) const fn value(&self) -> Option<usize> {
        match self {
            Self::Value { value, .. } | Self::Chosen { value, .. } => Some(*value),
            _ => None,
        }
    }

    /// Whether keys run or set it.
    pub(super) const fn is_heard(&self) -> bool {
        matches!(self, Self::Stopwatch { .. } | Self::Clock { is_set: true, .. })
    }

    /// Whether there is a picture for what does not fit.
    pub(super) const fn has_beyond(&self) -> bool {
        match self {
            Self::Value { under, over, .. } => under.is_some() || over.is_some(),
            Self::Stopwatch { .. } => true,
            _ => false,
        }
    }

    /// Gives its brightness steps other numbers: their places among these.
    pub(super) fn number_dims(&mut self, used: &[u8]) {
        let Self::Film { shown, .. } = self else { return };
        for step in shown.iter_mut().filter_map(|(.., step)| step.as_mut()) {
            *step = place_of(*step, used);
        }
    }

    /// The brightness steps that it sets.
    pub(super) fn dimmed_to(&self) -> impl Iterator<Item = u8> + '_ {
        let shown = match self {
            Self::Film { shown, .. } => shown.as_slice(),
            _ => &[],
        };
        shown.iter().filter_map(|(.., step)| *step)
    }

    /// Whether it changes the brightness.
    pub(super) const fn dims(&self) -> bool {
        matches!(self, Self::Film { dims: true, .. })
    }

    /// The longest time for which one thing is shown, in milliseconds.
    fn longest(&self) -> u32 {
        match self {
            Self::Film { shown, .. } => shown.iter().map(|(_, lasts, _)| *lasts).max().unwrap_or(0),
            Self::Moving { step, .. } => *step,
            Self::Count { every, hold, .. } => *every.max(hold),
            Self::Clock { tick, .. } => *tick,
            Self::Value { every, lasts, .. } | Self::Chosen { every, lasts, .. } => *every.max(lasts),
            Self::Stopwatch { unit, .. } => *unit,
        }
    }
}

impl FaceModel {
    /// The longest time for which one thing is shown, in milliseconds.
    pub(super) fn longest(&self) -> u32 {
        self.passages.iter().map(PassageModel::longest).max().unwrap_or(0)
    }

    /// Whether a time of it does not fit half of a 16-bit count.
    pub(super) fn has_long_times(&self) -> bool {
        let resends = self.resend.as_ref().map(|resend| resend.every);
        let clocks = self.passages.iter().filter_map(|passage| match passage {
            // The time as it is goes on however long something else is shown.
            PassageModel::Clock { goes_on: true, .. } => Some(u32::MAX),
            PassageModel::Clock { lasts, .. } => Some(*lasts),
            _ => None,
        });
        clocks.chain(resends).chain([self.longest()]).any(|time| time > 0x7FFF)
    }
}
