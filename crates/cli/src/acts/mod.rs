//! Acts from options, a file each: `play ACT` plays them, `firmware --app ACT` writes programs for them.

mod clock;
mod count;
mod number;
mod sprite;
mod test;
mod text;

use jiff::Timestamp;
use jiff::tz::TimeZone;
use spare_tile_core::face::Face;
use spare_tile_core::plan::{Mount, Rig};
use spare_tile_core::play::reel::Program;
use spare_tile_core::play::{Act, Reel, Track};

use crate::failure::{Failure, Outcome};
use crate::feed::Feed;
use crate::session::Session;

pub use clock::{ClockOptions, ZoneArg};
pub use count::CountOptions;
pub use number::NumberOptions;
pub use sprite::SpriteOptions;
pub use test::TestOptions;
pub use text::{TextMotion, TextOptions, program_of_texts};

/// The options of an act.
pub trait ActOptions {
    /// A line of help.
    const ABOUT: &'static str;
    /// Further help.
    const DETAILS: &'static str;

    /// Returns the program that plays the act.
    ///
    /// # Errors
    /// If the face cannot show it.
    fn program(&self, stage: &Stage<'_>, session: &mut Session<'_>) -> Result<Program, Failure>;

    /// Adds characters of the user's own to the face, if the options name a file of them.
    fn add_glyphs(&self, face: &mut Face) -> Outcome {
        let _ = face;
        Ok(())
    }

    /// Returns the values that come while it plays on a terminal, if the options ask for them.
    fn feed(&self) -> Option<Feed> {
        None
    }
}

/// The place of an act, and what it does unless its options say otherwise.
pub struct Stage<'s> {
    pub rig: &'s Rig,
    /// The index of the face in the rig.
    pub face: usize,
    /// True if an act repeats until someone stops it.
    pub is_endless: bool,
    /// The time zone of clocks.
    pub zone: TimeZone,
    /// The time at which clocks begin, unless they follow the clock of this computer.
    pub begins: Option<Timestamp>,
}

impl Stage<'_> {
    /// Returns the mount of the face.
    pub fn mount(&self) -> &Mount {
        &self.rig.faces[self.face]
    }

    /// Returns how often an act plays: as often as its options say, otherwise once or until someone stops it.
    pub fn times(&self, given: Option<u32>) -> Option<u32> {
        given.or((!self.is_endless).then_some(1))
    }

    /// Returns a program with one act.
    pub fn program_of(&self, act: Box<dyn Act>) -> Program {
        Program { reel: Reel { tracks: vec![Track { face: self.face, act }] }, ..Program::default() }
    }
}
