//! What a face's drive sends, as data: which bytes stay the same, and which bit of which byte is which light.
//!
//! It is learnt from the sending side's own driver: each light alone is put into a frame, and the one bit that it changes is its
//! place. So whatever a part's driver says a program for a controller says too, and a new part needs nothing here. A drive
//! whose bytes are no sum of such bits, as where a part draws characters from codes, is refused.
//!
//! ```text
//!  image   [ b0 ][ b1 ][ b2 ] ...            what the program keeps in memory
//!             \     \     \
//!  frame   01 b0 | 02 b1 | 03 b2 | ...       steps: what it sends, byte by byte, fixed or of the image
//! ```

use super::of_outputs::of_outputs;
use super::of_panel::of_panel;
use super::of_part::of_part;
use spare_tile_core::bus::{Op, Ops, Role, Transfer};
use spare_tile_core::face::Element;
use spare_tile_core::frame::{Frame, Level};
use spare_tile_core::part::Drive;
use spare_tile_core::plan::Mount;
use spare_tile_core::units::Nanos;

/// What a drive sends.
#[derive(Debug, Clone, PartialEq)]
pub struct Sending {
    /// From power to running and dark.
    pub power_up: Vec<Step>,
    /// A whole picture; of a scanned face one slot of it.
    pub frame: Vec<Step>,
    /// Everything again, for a part that lost power.
    pub resend: Vec<Step>,
    /// Each step of brightness; none where the drive has none.
    pub brightness: Vec<Vec<Step>>,
    /// How the controller scans, where it does.
    pub scan: Option<Scan>,
    /// The image of a dark face: of a scanned one the slots one after another, each with a piece for every bit of light.
    pub dark: Vec<u8>,
    /// By element: where in the image it is; none where it is not wired. Of a scanned one its lowest bit of light.
    pub places: Vec<Option<Place>>,
}

/// A transfer, byte by byte.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Step {
    /// What it is for.
    pub role: Role,
    /// What kind of transfer.
    pub carried: Carried,
    /// Its bytes.
    pub cells: Vec<Cell>,
}

/// What kind of transfer a step is.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum Carried {
    /// Bytes in one frame of the bus.
    Bytes,
    /// Bytes to an address.
    To(u8),
    /// Output enable goes off.
    OutputsOff,
    /// Levels of pins: which bits of each byte are set.
    Levels(Vec<u8>),
}

/// A byte of a transfer.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Cell {
    /// Always the same.
    Fixed(u8),
    /// A byte of the image, by its place; of a scanned face within the slot.
    Image(usize),
}

/// Where a light is in the image.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord)]
pub struct Place {
    /// Which byte.
    pub byte: usize,
    /// Which bit of it.
    pub bit: u8,
    /// The bit's level while it is lit.
    pub lit: bool,
    /// Whether it is in every slot of a scan, as a light is that no slot selects.
    pub in_all: bool,
}

/// How the controller scans.
#[derive(Debug, Clone, PartialEq)]
pub struct Scan {
    /// How many slots.
    pub slots: usize,
    /// How many bytes of the image each piece of a slot has.
    pub width: usize,
    /// How often each has its turn.
    pub turn: Nanos,
    /// How long all is dark at the beginning of each piece.
    pub blanking: Nanos,
    /// Darkens; nothing where a slot needs no blanking.
    pub blank: Vec<Step>,
    /// How many bits of light an element has: a slot has a piece for each, in which it is lit for twice as long as in the one before.
    pub depth: u8,
    /// For how long the first piece of a slot is lit; each other one is for twice as long as the one before.
    pub unit: Nanos,
    /// The bits of every level.
    pub steps: Vec<u8>,
    /// By brightness step, where the scan itself dims: how long each piece is dark at first, and for how long the first one is lit.
    pub dims: Vec<(Nanos, Nanos)>,
    /// The brightness step at first, where that is so.
    pub dimmed: u8,
}

/// Why nothing can be learnt of a drive.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
pub enum Unlearnt {
    /// Bytes that are no bits of lights.
    #[error("its part draws the characters itself, from codes: leave decode out of the drive")]
    Codes,
    /// Rows that are lit for no time between their shifts.
    #[error(
        "shifting its rows takes all the time that there is: lower depth or refresh_hz, or light it more"
    )]
    Slow,
    /// A scanner that does not go from row to row.
    #[error("its rows do not have their turn one after another")]
    Panel,
}

impl Sending {
    /// Learns what the drive of a face sends; a scan that makes greys does so where the face `has_greys` to show.
    ///
    /// # Errors
    /// When its bytes cannot be told as bits of lights.
    pub fn of(mount: &Mount, has_greys: bool) -> Result<Self, Unlearnt> {
        match &mount.drive {
            Drive::Bare(bare) => Ok(of_outputs(mount, bare, has_greys)),
            Drive::RgbPanel(panel) => of_panel(mount, panel, has_greys),
            _ => of_part(mount),
        }
    }

    /// The image of a frame.
    #[must_use]
    pub fn image(&self, frame: &Frame) -> Vec<u8> {
        let mut image = self.dark.clone();
        let [slots, slot, pieces, piece] = self.strides();
        for (place, level) in self.places.iter().zip(frame.levels()) {
            let Some(place) = place else { continue };
            let steps = match &self.scan {
                Some(scan) => scan.steps[usize::from(level.0)],
                None => u8::from(*level != Level::OFF),
            };
            for bit in (0..pieces).filter(|bit| steps >> bit & 1 == 1) {
                for number in 0..if place.in_all { slots } else { 1 } {
                    set(&mut image[place.byte + number * slot + bit * piece], place.bit, place.lit);
                }
            }
        }
        image
    }

    /// How many slots the image has and the bytes of each, how many pieces a slot has and the bytes of each.
    pub(super) fn strides(&self) -> [usize; 4] {
        self.scan.as_ref().map_or([1, 0, 1, 0], |scan| {
            let pieces = usize::from(scan.depth);
            [scan.slots, pieces * scan.width, pieces, scan.width]
        })
    }

    /// The place of an element.
    #[must_use]
    pub fn place(&self, element: Element) -> Option<Place> {
        self.places.get(element.0).copied().flatten()
    }
}

impl Step {
    pub(super) fn fixed(op: &Op<'_>) -> Self {
        let cells = op.transfer.bytes().iter().map(|byte| Cell::Fixed(*byte)).collect();
        Self { role: op.role, carried: carried(&op.transfer), cells }
    }

    /// Whether it sets no pin.
    pub(super) fn changes_nothing(&self) -> bool {
        matches!(&self.carried, Carried::Levels(mask) if mask.iter().all(|bits| *bits == 0))
    }

    /// Whether it sends anything of the image.
    #[must_use]
    pub fn has_image(&self) -> bool {
        self.cells.iter().any(|cell| matches!(cell, Cell::Image(_)))
    }
}

pub(super) fn carried(transfer: &Transfer<'_>) -> Carried {
    match *transfer {
        Transfer::I2c { address, .. } => Carried::To(address),
        Transfer::OutputsOff => Carried::OutputsOff,
        Transfer::Ports { mask, .. } => Carried::Levels(mask.to_vec()),
        _ => Carried::Bytes,
    }
}

pub(super) fn fixed(ops: &Ops) -> Vec<Step> {
    ops.iter().map(|op| Step::fixed(&op)).collect()
}

pub(super) fn set(byte: &mut u8, bit: u8, level: bool) {
    *byte = if level { *byte | 1 << bit } else { *byte & !(1 << bit) };
}

/// The pieces of a slot in which a light of each level is lit, bit by bit.
pub(super) fn steps(depth: u8, gamma: f64) -> Vec<u8> {
    if depth > 1 {
        Level::steps(depth, gamma).to_vec()
    } else {
        (0..=u8::MAX).map(|level| u8::from(level > 0)).collect()
    }
}
