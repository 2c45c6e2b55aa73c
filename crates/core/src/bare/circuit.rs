//! The circuit of a bare display: which light hangs on which outputs, through what, and when.

use serde::Deserialize;

use crate::glyph::Common;
use crate::rig::{FilePlace, Pin};
use crate::units::{Hertz, Milliamps, Nanos, Ohms, Volts};

/// The lights of a face and what they hang on.
#[derive(Debug, Clone, PartialEq)]
pub struct Circuit {
    /// Everything whose level can be set, and what hangs on it.
    pub outputs: Vec<Output>,
    /// Colons and lamps that sit where a segment line crosses a digit, in place of that digit's own light.
    pub crossed: Vec<Crossed>,
    /// The sending side's view: the outputs of each light, by element.
    pub lights: Vec<Light>,
    /// The outputs that select a digit, a row or a column, in the order of the scan; none where each light
    /// has a line of its own.
    pub selects: Vec<usize>,
    /// The lines that are selected one after another.
    pub scanned: Scanned,
    /// Which side of the lights is joined: the one at the selects, or at a rail where there are none.
    pub common: Common,
    /// Between the outputs and the lines.
    pub line_switch: Switch,
    /// Between the outputs and the selects.
    pub select_switch: Switch,
    /// The part that limits the current, if the rig states it.
    pub resistor: Option<Resistor>,
    /// The timing of the scan; none where there are no selects.
    pub timing: Option<Timing>,
    /// Where a light has several bits: it is a level to the power of this.
    pub gamma: f64,
    /// Where the rig says so.
    pub places: Places,
}

/// The lines that are selected one after another.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
#[allow(missing_docs, reason = "the words say it")]
pub enum Scanned {
    Nothing,
    Digits,
    Rows,
    Columns,
}

/// The load of an output.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Hangs {
    /// A segment of every digit, by its place in the style's order.
    Segment(usize),
    /// A segment of one digit.
    SegmentOf {
        /// The digit.
        digit: usize,
        /// The segment.
        segment: usize,
    },
    /// The common side of a digit; beyond the face's digits, of colons and lamps.
    Digit(usize),
    /// A row of dots, counted from the top.
    Row(usize),
    /// A column of dots, counted from the left.
    Column(usize),
    /// A colon or lamp of its own, by its place in [`crate::face::Face::extras`]; its other side is at a rail.
    Extra(usize),
}

/// A colon or lamp at a crossing.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Crossed {
    /// Which, by its place in [`crate::face::Face::extras`].
    pub extra: usize,
    /// The digit whose common side it is on.
    pub digit: usize,
    /// The segment whose line it is on.
    pub segment: usize,
}

/// An output of a controller or part.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Output {
    /// Its function in words: `a`, `digit 0`, or the name of a colon or lamp.
    pub role: String,
    /// Its load.
    pub hangs: Hangs,
    /// By the name of the controller pin or the part's output, as the rig writes it.
    pub pin: Pin,
    /// The pins of the display's package that it goes to.
    pub package_pins: Vec<usize>,
    /// Where in the rig file it is named.
    pub place: FilePlace,
}

/// The outputs of a light.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Light {
    /// The output of its line; none where it has no wire.
    pub line: Option<usize>,
    /// The level at that output that lights it.
    pub active: bool,
    /// Which of the selects it needs; none where its other side is at a rail.
    pub select: Option<usize>,
    /// The digit, row or column whose joined side it is on; a light of its own has a side of its own.
    pub joined: usize,
}

/// The switch between an output and its load.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Switch {
    /// Its kind.
    pub kind: SwitchKind,
    /// The level at the output that makes it conduct.
    pub active: bool,
    /// True if its base or gate is on the side of the lights: then it holds them at the output's voltage, less its drop,
    /// in place of the rail's.
    pub follows: bool,
    /// The voltage across it while it conducts; of one that follows, between its base or gate and the lights.
    pub drop: Volts,
    /// The time for which it conducts after it is switched off.
    pub turn_off: Nanos,
    /// The most that it may carry.
    pub most: Milliamps,
}

impl Switch {
    /// The current into its base while it carries so much; `None` for one without a base. A twentieth keeps a saturated one
    /// saturated; one that follows takes a fiftieth at most. The input of a darlington array takes 1.35 mA at most (uln2803 data
    /// sheet, I_I(on) at 3.85 V).
    #[must_use]
    pub fn base(&self, carries: Milliamps) -> Option<Milliamps> {
        let gain = if self.follows { 50.0 } else { 20.0 };
        match self.kind {
            SwitchKind::Npn | SwitchKind::Pnp => Some(Milliamps(carries.0 / gain)),
            SwitchKind::Darlington => Some(Milliamps(1.35)),
            SwitchKind::None | SwitchKind::Nmos | SwitchKind::Pmos => None,
        }
    }

    /// Returns true if its base takes a resistor.
    #[must_use]
    pub const fn has_base_resistor(&self) -> bool {
        matches!(self.kind, SwitchKind::Npn | SwitchKind::Pnp)
    }

    /// No switch: the output itself, which selects at this level.
    #[must_use]
    pub const fn none(active: bool) -> Self {
        let kind = SwitchKind::None;
        Self {
            kind,
            active,
            follows: false,
            drop: kind.usual_drop(false),
            turn_off: kind.usual_turn_off(),
            most: kind.usual_most(),
        }
    }

    /// Returns true if a stage before it turns the output's level round.
    #[must_use]
    pub fn is_turned_round(&self) -> bool {
        self.kind.conducts_at().is_some_and(|level| level != self.active)
    }
}

/// Kinds of switch.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(rename_all = "lowercase")]
#[non_exhaustive]
pub enum SwitchKind {
    /// Straight to the output.
    None,
    /// A bipolar transistor that conducts with its base high.
    Npn,
    /// A bipolar transistor that conducts with its base low.
    Pnp,
    /// A field-effect transistor that conducts with its gate high.
    Nmos,
    /// A field-effect transistor that conducts with its gate low.
    Pmos,
    /// A channel of a darlington array, such as the uln2803, which pulls low with its input high; its base resistor is in it.
    Darlington,
}

impl SwitchKind {
    /// The word, as in a rig.
    #[must_use]
    pub const fn name(self) -> &'static str {
        match self {
            Self::None => "none",
            Self::Npn => "npn",
            Self::Pnp => "pnp",
            Self::Nmos => "nmos",
            Self::Pmos => "pmos",
            Self::Darlington => "darlington",
        }
    }

    /// Returns true if it connects lights with the low rail only.
    #[must_use]
    pub const fn only_pulls_low(self) -> bool {
        matches!(self, Self::Darlington)
    }

    /// Returns true if a conducting one takes current from the output before it, into its base.
    #[must_use]
    pub const fn takes_from_output(self) -> bool {
        matches!(self, Self::Npn | Self::Darlington)
    }

    /// The level at its base or gate that makes it conduct.
    #[must_use]
    pub const fn conducts_at(self) -> Option<bool> {
        match self {
            Self::None => None,
            Self::Npn | Self::Nmos | Self::Darlington => Some(true),
            Self::Pnp | Self::Pmos => Some(false),
        }
    }

    /// Returns true if it follows its base or gate when it connects lights with the high rail, or with the low one.
    #[must_use]
    pub const fn follows(self, to_high: bool) -> bool {
        matches!((self, to_high), (Self::Npn | Self::Nmos, true) | (Self::Pnp | Self::Pmos, false))
    }

    /// The drop of a conducting one where the rig does not say: across a saturated bipolar transistor, or a small
    /// field-effect one of about an ohm; of one that follows, from base to emitter, or what a gate needs for sure. A darlington
    /// array drops 0.9 to 1.1 V at 100 to 200 mA (uln2803 data sheet, V_CE(sat)).
    #[must_use]
    pub const fn usual_drop(self, follows: bool) -> Volts {
        match (self, follows) {
            (Self::None, _) => Volts(0.0),
            (Self::Npn | Self::Pnp, false) => Volts(0.2),
            (Self::Npn | Self::Pnp, true) => Volts(0.7),
            (Self::Nmos | Self::Pmos, false) => Volts(0.05),
            (Self::Nmos | Self::Pmos, true) => Volts(2.5),
            (Self::Darlington, _) => Volts(1.0),
        }
    }

    /// The most that a small one carries where the rig does not say: bipolar ones in small packages stand 500 to 800 mA at the
    /// absolute most, logic-level field-effect ones more.
    #[must_use]
    pub const fn usual_most(self) -> Milliamps {
        match self {
            Self::None => Milliamps(f64::INFINITY),
            Self::Npn | Self::Pnp | Self::Darlington => Milliamps(500.0),
            Self::Nmos | Self::Pmos => Milliamps(1_000.0),
        }
    }

    /// How long a small one takes to stop: mostly the storage time of a saturated base, or the charge of a
    /// gate through its resistor.
    #[must_use]
    pub const fn usual_turn_off(self) -> Nanos {
        match self {
            Self::None => Nanos(0),
            Self::Npn | Self::Pnp => Nanos(2_000),
            Self::Nmos | Self::Pmos => Nanos(500),
            Self::Darlington => Nanos(1_000),
        }
    }
}

/// The resistors of a display.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Resistor {
    /// Of each.
    pub ohms: Ohms,
    /// Where they are.
    pub place: ResistorPlace,
}

/// Where the resistors are.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(rename_all = "lowercase")]
pub enum ResistorPlace {
    /// One in the line of each segment: every light gets the same.
    Segments,
    /// One in the common side of each digit: its lights share the current.
    Digits,
}

/// When a scan does what.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Timing {
    /// How many slots a turn has, one for each select.
    pub slots: usize,
    /// How often a second every digit has its turn.
    pub refresh: Hertz,
    /// How long all is dark at the beginning of each slot.
    pub blanking: Nanos,
    /// How long the controller takes for each write.
    pub write: Nanos,
    /// How many bits the light of an element has: a slot has a piece for each, in which those are lit that have it, for twice
    /// as long as in the piece before.
    pub depth: u8,
}

impl Timing {
    /// How long all digits together take.
    #[must_use]
    pub const fn turn(&self) -> Nanos {
        Nanos(1_000_000_000 / self.refresh.0 as u64)
    }

    /// When a slot begins, counted from the beginning of the turn.
    #[must_use]
    pub const fn slot_begin(&self, slot: usize) -> Nanos {
        Nanos(self.turn().0 * slot as u64 / self.slots as u64)
    }

    /// How long a slot is, rounded down.
    #[must_use]
    pub const fn slot(&self) -> Nanos {
        self.slot_begin(1)
    }

    /// How many steps of light there are above dark.
    #[must_use]
    pub const fn steps(&self) -> u64 {
        (1 << self.depth) - 1
    }

    /// When a piece of a slot begins, counted from the beginning of the turn.
    #[must_use]
    pub fn piece_begin(&self, slot: usize, bit: u8) -> Nanos {
        let begin = self.slot_begin(slot);
        let lit = self.lit_in(self.slot_begin(slot + 1) - begin);
        Nanos(begin.0 + self.blanking.0 * u64::from(bit) + lit.0 * ((1 << bit) - 1) / self.steps())
    }

    /// How long the shortest piece is, rounded down.
    #[must_use]
    pub fn piece(&self) -> Nanos {
        Nanos(self.blanking.0 + self.lit().0 / self.steps())
    }

    /// For how much of a slot it is lit.
    fn lit_in(&self, slot: Nanos) -> Nanos {
        slot - Nanos(self.blanking.0 * u64::from(self.depth))
    }

    /// How long a digit is lit in each turn.
    #[must_use]
    pub fn lit(&self) -> Nanos {
        self.lit_in(self.slot())
    }

    /// The share of time that a digit is lit.
    #[must_use]
    pub fn duty(&self) -> f64 {
        self.lit().0 as f64 / self.turn().0 as f64
    }
}

/// Where in the rig file things are said, or would be.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub struct Places {
    /// The drive table.
    pub drive: FilePlace,
    /// The lines.
    pub lines: FilePlace,
    /// The selects.
    pub selects: FilePlace,
    /// The resistor.
    pub resistor: FilePlace,
    /// The timing.
    pub refresh: FilePlace,
    /// The blanking.
    pub blanking: FilePlace,
}

impl Circuit {
    /// In words: `4 digits scanned, common cathode, npn switches`.
    #[must_use]
    pub fn summary(&self) -> String {
        let scanned = match self.selects.len() {
            0 => "static".to_owned(),
            selects => format!("{selects} selects scanned"),
        };
        let switches = match self.select_switch.kind {
            SwitchKind::None => String::new(),
            kind => format!(" through {} switches", kind.name()),
        };
        format!("{scanned}{switches}, common {}", self.common.name())
    }

    /// The level of each output at which all is dark.
    #[must_use]
    pub fn rest(&self) -> Vec<bool> {
        let mut rest = vec![!self.line_switch.active; self.outputs.len()];
        for light in &self.lights {
            if let Some(line) = light.line {
                rest[line] = !light.active;
            }
        }
        for select in &self.selects {
            rest[*select] = !self.select_switch.active;
        }
        rest
    }

    /// Describes the outputs at these levels: `digit 2: a b c`. Those without a level are left out.
    #[must_use]
    pub fn words(&self, levels: &[Option<bool>]) -> String {
        let is_active = |output: usize, active: bool| levels.get(output).copied().flatten() == Some(active);
        let lines = self.outputs.iter().enumerate().filter(|(output, _)| !self.selects.contains(output));
        let rest = self.rest();
        let lit = lines.filter(|(output, _)| is_active(*output, !rest[*output]));
        let lit = by_digit(lit.map(|(_, output)| output.role.as_str()));
        let selected: Vec<_> = self
            .selects
            .iter()
            .filter(|select| is_active(**select, self.select_switch.active))
            .map(|select| self.outputs[*select].role.as_str())
            .collect();
        match (self.selects.is_empty(), &selected[..], lit.as_str()) {
            (_, [], "") => "all dark".to_owned(),
            (true, _, lit) => format!("lit: {lit}"),
            (false, [], lit) => format!("nothing selected; lines {lit}"),
            (false, selected, "") => format!("{}: blank", selected.join(" and ")),
            (false, selected, lit) => format!("{}: {lit}", selected.join(" and ")),
        }
    }
}

/// Lines in words, those of one digit together: `digit 0 b c, digit 1 a`.
fn by_digit<'a>(roles: impl Iterator<Item = &'a str>) -> String {
    let (mut words, mut last) = (String::new(), "");
    for role in roles {
        let (digit, segment) = role.rsplit_once(' ').unwrap_or(("", role));
        let begins = digit != last || words.is_empty();
        if begins && !words.is_empty() {
            words.push(',');
        }
        for word in [if begins { digit } else { "" }, segment].into_iter().filter(|word| !word.is_empty()) {
            if !words.is_empty() {
                words.push(' ');
            }
            words.push_str(word);
        }
        last = digit;
    }
    words
}
