//! One frame, sent to a face and looked at.

use crate::board::Board;
use crate::board::picture::Picture;
use crate::frame::Frame;
use crate::link::LinkError;
use crate::plan::{BothRigs, Mount};

use super::scheduler::Scheduler;

/// The visible content of a face, and the notes of its parts.
pub struct Look<'r> {
    /// The picture.
    pub picture: Picture<'r>,
    /// True if the picture is what the frame says.
    pub is_as_meant: bool,
    /// Why the face cannot show what is sent to it: [`Mount::handicaps`].
    pub handicaps: Vec<String>,
    /// Remarks of the part about what it received, each once.
    pub odd: Vec<String>,
}

impl<'r> Look<'r> {
    /// Sends a frame to a face of hardware that may be built otherwise, and looks at it; `brightness` is a step of the drive.
    ///
    /// # Errors
    /// If the board takes an operation for wrong: the same as [`Scheduler::show`].
    pub fn at(
        rigs: BothRigs<'r>,
        face: usize,
        frame: &Frame,
        brightness: Option<u8>,
    ) -> Result<Self, LinkError> {
        let mut board = Board::built_as(rigs);
        if let Some(end) = board.end(face) {
            end.model_mut().listen();
        }
        let mut scheduler = Scheduler::new(rigs.described, board);
        scheduler.power_up(face)?;
        scheduler.show(face, frame)?;
        if let Some(step) = brightness {
            scheduler.brightness(face, step)?;
        }
        let picture = scheduler.expose(face)?;
        let is_as_meant = !differs(&picture, frame, &rigs.described.faces[face]);
        let handicaps = rigs.built.faces[face].handicaps();
        let mut odd: Vec<String> = Vec::new();
        if let Some(end) = scheduler.link_mut().end(face) {
            let notes = end.heard().into_iter().filter(|note| note.odd);
            // A wrong control pin is reported by itself.
            let why_dark = end.eye().model().why_dark().filter(|_| handicaps.is_empty());
            for words in notes.map(|note| note.meaning.plainly()).chain(why_dark.map(str::to_owned)) {
                if !odd.contains(&words) {
                    odd.push(words);
                }
            }
        }
        Ok(Self { picture, is_as_meant, handicaps, odd })
    }
}

/// Returns true if the visible content differs from the intended one.
fn differs(picture: &Picture<'_>, frame: &Frame, mount: &Mount) -> bool {
    let display = mount.drive.display();
    let lit = frame.levels().iter().map(|level| display.light_of(*level) > 0.0);
    if !picture.light.iter().map(|light| *light > 0.0).eq(lit) {
        return true;
    }
    // Of shades the brightest tells how bright all are; each must have its share of that, to half a step.
    let wanted = || frame.levels().iter().map(|level| display.light_of(*level));
    let most = |lights: &mut dyn Iterator<Item = f32>| lights.fold(0.0, f32::max);
    let dimmed = most(&mut picture.light.iter().copied()) / most(&mut wanted()).max(f32::MIN_POSITIVE);
    let near = 0.5 / display.grey_steps() as f32;
    picture.light.iter().zip(wanted()).any(|(light, wanted)| (light - wanted * dimmed).abs() > near)
}
