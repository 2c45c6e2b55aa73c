//! What goes over a face's lines, and when: transfers, pieces of a picture, the scan.

use serde::Serialize;

use super::{JumpModel, PassageModel};

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

impl ScanModel {
    /// Keeps what is needed of its brightness steps, and gives them numbers of their own; nothing where none is ever set.
    pub(in crate::project) fn keep_dims(&mut self, passages: &mut [PassageModel], jumps: &mut [JumpModel]) {
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

    /// Keeps the brightness steps in which the first piece is lit for at least this long: those from the lowest such step up.
    pub(in crate::project) fn keep_dims_from(&mut self, shortest_ns: u64) {
        let lost = self.dims.iter().take_while(|(_, unit)| *unit < shortest_ns).count();
        // Without the step that it has at first, the check that follows refuses the scan.
        let lost = lost.min(self.dimmed.into());
        self.dims.drain(..lost);
        self.dimmed -= lost as u8;
    }

    /// For how long a piece is dark at least.
    pub(in crate::project) fn least_blanking(&self) -> u64 {
        self.dims.iter().map(|(blanking, _)| *blanking).min().unwrap_or(self.blanking_ns)
    }

    /// For how long its first piece is lit at least.
    pub(in crate::project) fn least_unit(&self) -> u64 {
        self.dims.iter().map(|(_, unit)| *unit).min().unwrap_or(self.unit_ns)
    }

    /// The counts of a timer for each piece of a slot of so many, with its blanking; none where a slot is one piece. `None` where a
    /// piece has less than one count of light.
    pub(in crate::project) fn pieces(&self, slot: u32, blanking: u32) -> Option<Vec<u32>> {
        if self.depth <= 1 {
            return Some(Vec::new());
        }
        let steps = (1 << self.depth) - 1;
        let unit = slot.checked_sub(blanking * u32::from(self.depth))? / steps;
        (unit > 0).then(|| (0..self.depth).map(|bit| blanking + (unit << bit)).collect())
    }
}

/// Where a brightness step is among those that are used.
pub(in crate::project) fn place_of(step: u8, used: &[u8]) -> u8 {
    used.iter().position(|of| *of == step).unwrap_or(0) as u8
}

impl BusModel {
    /// The longest time for which it waits, in nanoseconds.
    pub(in crate::project) fn longest_wait(&self) -> u64 {
        self.half_ns.max(self.low_ns).max(self.high_ns).max(self.pause_ns)
    }
}
