//! Drives: how a face is driven.
//!
//! ```text
//!  frame --wiring--> nodes --Driver--> ops --Bus--> edges --Model--> nodes lit --wiring--> picture
//!                            |____________________________________|
//!                                        one Drive
//! ```
//!
//! A [`Method`] is what a rig file names: it reads its own keys of the drive table, checks them, and plans
//! the [`Drive`] of one face. To add a method or a part, write its folder (`driver.rs` and `model.rs` apart,
//! sharing no code) and add it to [`METHODS`]; nothing else knows the methods by name.

pub mod direct;

use crate::bus::{Bus, Edge, Ops};
use crate::chip;
use crate::face::Face;
use crate::frame::Level;
use crate::glyph::{BitOrder, Common};
use crate::rig::{Controller, DriveTable, Pin};
use crate::wiring::Wiring;

/// Every method that a rig may name.
pub const METHODS: &[&dyn Method] = &[&direct::Direct, &chip::max7219::Max7219];

/// A way of driving a face, as a rig file names it.
pub trait Method: Sync {
    /// The word in the rig file.
    fn name(&self) -> &'static str;

    /// The common side that the digits must have; `None` where both are possible and the rig must say.
    fn common(&self) -> Option<Common>;

    /// Plans the drive of one face. What is wrong with the table is reported through it; `None` means that no
    /// drive can be made, and then at least one error was reported.
    fn plan(&self, face: &Face, controller: &Controller, table: &DriveTable<'_>) -> Option<Drive>;
}

/// A line between controller and part.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Line {
    /// What the line does, in the trade's word: `clock`, `data`, `select`, or the name of a segment or lamp.
    pub role: String,
    /// The controller pin that drives it.
    pub pin: Pin,
}

/// The planned drive of one face.
pub struct Drive {
    /// The lines, in the order in which edges number them.
    pub lines: Vec<Line>,
    /// From elements to nodes.
    pub wiring: Wiring,
    /// On which bits the segments of a digit sit, and so how a table of bytes must be written for it.
    pub bit_order: BitOrder,
    /// What stands at either end of the lines.
    pub ends: Box<dyn Ends>,
}

/// What stands at either end of a drive's lines: a description from which each working end is made anew.
pub trait Ends {
    /// The parts between the controller and the lights, for a reader: `2 max7219 in a chain`.
    fn summary(&self) -> String;

    /// The sending end: frames to operations.
    fn driver(&self) -> Box<dyn Driver>;
    /// The wires: operations to edges.
    fn bus(&self) -> Box<dyn Bus>;
    /// The receiving end: edges to lit nodes.
    fn model(&self) -> Box<dyn Model>;

    /// What an operation says, in words, told from its bytes alone.
    fn explain(&self, bytes: &[u8], lines: &[Line]) -> String;

    /// The highest brightness step; `None` where the drive has no brightness.
    fn max_brightness(&self) -> Option<u8>;
    /// The share of time that an element is lit at the highest brightness, the light that a picture is
    /// exposed for: more than 0, at most 1.
    fn full_duty(&self) -> f32;
}

impl Drive {
    /// What an operation says, in words, told from its bytes alone.
    #[must_use]
    pub fn explain(&self, bytes: &[u8]) -> String {
        self.ends.explain(bytes, &self.lines)
    }
}

/// The sending end of a drive. It knows the part's data sheet as a programmer reads it.
pub trait Driver {
    /// Everything from power-up to running and dark, with no flash of garbage between.
    fn power_up(&mut self, ops: &mut Ops);
    /// Shows the nodes at these levels.
    fn frame(&mut self, nodes: &[Level], ops: &mut Ops);
    /// Sets a brightness step, up to [`Ends::max_brightness`]; a higher one is taken as the highest. Does
    /// nothing where the drive has no brightness.
    fn brightness(&mut self, step: u8, ops: &mut Ops);
    /// Puts the display out.
    fn off(&mut self, ops: &mut Ops);
}

/// The receiving end of a drive. It is written from the part's side of the data sheet and shares no code
/// with the [`Driver`] that it checks. Whatever the edges, it does not panic.
pub trait Model {
    /// Takes edges in order of time.
    fn take(&mut self, edges: &[Edge]);
    /// Writes the share of time, from 0 to 1, that each node is lit as things stand.
    fn lit(&self, nodes: &mut [f32]);
}

/// The method of this name.
#[must_use]
pub fn method(name: &str) -> Option<&'static dyn Method> {
    METHODS.iter().copied().find(|method| method.name() == name)
}
