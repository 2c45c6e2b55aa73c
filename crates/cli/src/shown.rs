//! The content of a still picture: words, a frame of a sprite or picture, or words over one.

use std::borrow::Cow;

use clap::Args;
use spare_tile_core::face::Face;
use spare_tile_core::frame::Frame;
use spare_tile_core::plan::Mount;

use crate::failure::Failure;
use crate::pictures::Reading;
use crate::session::Session;
use crate::sprites::{self, Changes};
use crate::words::{Placing, Words};

/// The content to be shown, and its form.
#[derive(Args)]
pub struct Shown {
    /// Show a frame of a sprite or picture: the file, and after a colon the name or the number of the frame. A text
    /// stands over it
    ///
    /// Pictures are PNG, GIF, PBM, PGM and PPM.
    ///
    /// Example: spare-tile show --sprite gull.dots:up
    #[arg(long, visible_alias = "picture", value_name = "FILE[:FRAME]")]
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
    /// The words for the content, if any is given.
    pub fn called(&self) -> Result<Option<String>, Failure> {
        let text = self.words.said_if_any()?.map(Cow::into_owned);
        Ok(match (text, &self.sprite) {
            (Some(text), Some(sprite)) => Some(format!("{text} over {sprite}")),
            (text, sprite) => text.or_else(|| sprite.clone()),
        })
    }

    /// A frame of the face with it.
    pub fn frame(&self, mount: &Mount, session: &mut Session<'_>) -> Result<Frame, Failure> {
        match &self.sprite {
            Some(named) => {
                let align = self.placing.align().unwrap_or_default();
                let said = self.words.first_option().or_else(|| self.placing.first_option());
                if let Some(option) = said.filter(|_| !self.words.has_text()) {
                    let message = format!("{option} is for texts, and there is only a sprite");
                    return Err(Failure::unusable(message, "leave it out, or give a text too"));
                }
                let (frame, cut) = sprites::frame(named, &self.reading, &self.changes, align, mount)?;
                session.warn(cut.as_slice());
                if self.words.has_text() {
                    return self.words.frame_over(frame, &self.placing, mount, session);
                }
                Ok(frame)
            }
            None if self.reading.any() => {
                let message = "a text is not brought down to dots: that is for pictures";
                Err(Failure::unusable(message, "name one with --sprite FILE"))
            }
            None if self.changes.any() => self.words.changed(&self.placing, &self.changes, mount),
            None => self.words.frame_over(mount.face.blank(), &self.placing, mount, session),
        }
    }

    /// A frame with another text in its place.
    pub fn frame_of(&self, text: &str, face: &Face) -> Result<Frame, Failure> {
        self.words.frame_of(text, &self.placing, face)
    }
}
