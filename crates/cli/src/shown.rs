//! What a still picture is of: words, or a frame of a sprite or picture.

use clap::Args;
use spare_tile_core::face::Face;
use spare_tile_core::frame::Frame;
use spare_tile_core::plan::Mount;

use crate::failure::Failure;
use crate::pictures::Reading;
use crate::session::Session;
use crate::sprites::{self, Changes};
use crate::words::{self, Placing, Words};

/// What is to be shown, and how.
#[derive(Args)]
pub struct Shown {
    /// Show a frame of a sprite or picture in place of a text: the file, and after a colon the name or the number of
    /// the frame
    ///
    /// Pictures are PNG, GIF, PBM, PGM and PPM.
    ///
    /// Example: spare-tile show --sprite gull.dots:up
    #[arg(long, visible_alias = "picture", value_name = "FILE[:FRAME]",
        conflicts_with_all = words::OPTIONS)]
    sprite: Option<String>,
    #[command(flatten)]
    words: Words,
    #[command(flatten)]
    placing: Placing,
    #[command(flatten)]
    reading: Reading,
    #[command(flatten)]
    changes: Changes,
}

impl Shown {
    /// A frame of the face with it.
    pub fn frame(&self, mount: &Mount, session: &mut Session<'_>) -> Result<Frame, Failure> {
        match &self.sprite {
            Some(named) => {
                let align = self.placing.align().unwrap_or_default();
                let (frame, cut) = sprites::frame(named, &self.reading, &self.changes, (align, mount))?;
                session.warn(cut.as_slice());
                Ok(frame)
            }
            None if self.reading.any() => {
                let message = "a text is not brought down to dots: that is for pictures";
                Err(Failure::unusable(message, "name one with --sprite FILE"))
            }
            None if self.changes.any() => self.words.changed(&self.placing, &self.changes, mount),
            None => self.words.frame(&self.placing, mount, session),
        }
    }

    /// A frame with another text in its place.
    pub fn frame_of(&self, text: &str, face: &Face) -> Result<Frame, Failure> {
        self.words.frame_of(text, &self.placing, face)
    }
}
