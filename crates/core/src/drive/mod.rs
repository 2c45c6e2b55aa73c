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

pub mod bare;

use serde_spanned::Spanned;

use bare::circuit::Circuit;
use bare::port::Ratings;

use crate::bus::{Bus, Edge, Ops};
use crate::chip;
use crate::face::Face;
use crate::frame::Level;
use crate::glyph::{BitOrder, Common};
use crate::rig::{Controller, DriveTable, Pin};
use crate::units::Nanos;
use crate::wiring::Wiring;

/// Every method that a rig may name.
pub const METHODS: &[&dyn Method] = &[
    &bare::pins::Static,
    &bare::pins::Scanned,
    &chip::hc573::Latched,
    &chip::hc595::Shifted,
    &bare::expander::Expander,
    &chip::max7219::Max7219,
    &chip::tm1637::Tm1637,
    &chip::tm1638::Tm1638,
    &chip::ht16k33::Ht16k33,
];

/// A way of driving a face, as a rig file names it.
pub trait Method: Sync {
    /// The word in the rig file.
    fn name(&self) -> &'static str;

    /// The common side that the digits must have; `None` where both are possible and the rig must say.
    fn common(&self) -> Option<Common>;

    /// Plans the drive of one face. What is wrong with the table is reported through it; `None` means that no
    /// drive can be made, and then at least one error was reported.
    fn plan(&self, face: &Face, controller: &Controller, table: &DriveTable<'_>) -> Option<Drive>;

    /// A rig's lines for a face on one such part, from its `kind` on and without the method, for looking at
    /// traffic of which no rig is at hand; `None` where there is nothing usual.
    fn sample(&self) -> Option<&'static str> {
        None
    }

    /// What it would take to drive such a face this way; `None` where it cannot.
    fn needs(&self, face: &Face) -> Option<Needs>;
}

/// What a way of driving a face takes.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Needs {
    /// Controller pins.
    pub pins: usize,
    /// What else, in words: `3 74hc573`.
    pub parts: String,
}

/// A line between controller and part.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Line {
    /// What the line does, in the trade's word: `clock`, `data`, `select`, or the name of a segment or lamp.
    pub role: String,
    /// The controller pin that drives it.
    pub pin: Pin,
}

/// One connection that a person makes.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Wire {
    /// The end at the display or part: `74hc595 part 0, OE (13)`.
    pub from: String,
    /// The other end: `ground`, `GP4`.
    pub to: String,
    /// Why, or what comes of leaving it out.
    pub note: String,
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

impl Line {
    /// A line with its role and the pin that a rig names for it.
    #[must_use]
    pub fn new(role: &str, pin: &Spanned<Pin>) -> Self {
        Self { role: role.to_owned(), pin: pin.get_ref().clone() }
    }
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
    /// The light of a brightness step, 1 being the highest step's.
    fn step_light(&self, step: u8) -> f32 {
        let _ = step;
        1.0
    }
    /// The keys that are down, told from what the part answered; places in [`Ends::key_names`].
    fn keys_down(&self, answer: &[u8]) -> Vec<usize> {
        let _ = answer;
        Vec::new()
    }
    /// The keys of the face, by the rig's names.
    fn key_names(&self) -> Vec<String> {
        Vec::new()
    }
    /// How often everything is to be sent again, where the rig asks for it.
    fn resend_every(&self) -> Option<Nanos> {
        None
    }
    /// The share of time that an element is lit at the highest brightness, the light that a picture is
    /// exposed for: more than 0, at most 1.
    fn full_duty(&self) -> f32;

    /// The lights and what they hang on, where the display is bare.
    fn circuit(&self) -> Option<&Circuit> {
        None
    }

    /// What the outputs of a bare display's circuit can take.
    fn ratings(&self) -> Option<Ratings> {
        None
    }

    /// What to connect besides the [`Drive::lines`], in the order in which one would plug it.
    fn wires(&self) -> Vec<Wire> {
        Vec::new()
    }
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
    /// Lights the display again as it was before [`Self::off`].
    fn on(&mut self, ops: &mut Ops);
    /// Sends everything again, whatever the part is thought to hold: it heals one that lost power or took a
    /// glitch.
    fn refresh(&mut self, ops: &mut Ops);
    /// Reads the keys; nothing where there are none.
    fn keys(&mut self, ops: &mut Ops) {
        let _ = ops;
    }
    /// Puts the part's own test on or off; nothing where it has none.
    fn test(&mut self, on: bool, ops: &mut Ops) {
        let _ = (on, ops);
    }
    /// One more turn of the scan, where the controller does the scan; nothing elsewhere.
    fn turn(&mut self, ops: &mut Ops) {
        let _ = ops;
    }
}

/// The receiving end of a drive. It is written from the part's side of the data sheet and shares no code
/// with the [`Driver`] that it checks. Whatever the edges, it does not panic.
pub trait Model {
    /// Takes edges in order of time, no earlier than the time that was let [pass](Self::pass).
    fn take(&mut self, edges: &[Edge]);
    /// How often the lights may have changed so far: while it stays, so do they.
    fn changes(&self) -> u64;
    /// When the lights change next though no edge comes.
    fn next_change(&self) -> Option<Nanos> {
        None
    }
    /// Lets time pass, at most up to the [next change](Self::next_change).
    fn pass(&mut self, now: Nanos) {
        let _ = now;
    }
    /// Writes the share of time, from 0 to 1, that each node is lit as things stand.
    fn lit(&self, nodes: &mut [f32]);
    /// Begins to note down what is heard.
    fn listen(&mut self) {}
    /// What was heard since it was last asked, in order of time.
    fn heard(&mut self) -> Vec<Note> {
        Vec::new()
    }
    /// Presses a key of the part, or lets it go. What keys it has is the part's affair.
    fn press(&mut self, key: usize, down: bool) {
        let _ = (key, down);
    }
    /// What the part answers when its keys are read now.
    fn answer(&self) -> Vec<u8> {
        Vec::new()
    }
}

/// Something that a part heard.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Note {
    /// When it was complete.
    pub at: Nanos,
    /// Whether it is odd: not as the data sheet wants it.
    pub odd: bool,
    /// What it was.
    pub words: String,
}

/// What a part heard, where someone wants to know.
#[derive(Debug, Clone, Default)]
pub struct Notebook {
    notes: Option<Vec<Note>>,
}

impl Notebook {
    /// Begins to note down.
    pub fn open(&mut self) {
        self.notes.get_or_insert_default();
    }

    /// Notes a transaction; its words are only made when they are wanted.
    pub fn said(&mut self, at: Nanos, words: impl FnOnce() -> String) {
        if let Some(notes) = &mut self.notes {
            notes.push(Note { at, odd: false, words: words() });
        }
    }

    /// Notes something odd.
    pub fn odd(&mut self, at: Nanos, words: impl FnOnce() -> String) {
        if let Some(notes) = &mut self.notes {
            notes.push(Note { at, odd: true, words: words() });
        }
    }

    /// Takes the notes out.
    pub fn take(&mut self) -> Vec<Note> {
        self.notes.as_mut().map(std::mem::take).unwrap_or_default()
    }
}

/// The method of this name.
#[must_use]
pub fn method(name: &str) -> Option<&'static dyn Method> {
    METHODS.iter().copied().find(|method| method.name() == name)
}
