//! The act `sprite`: the frames of a sprite, or of a moving picture.

use std::path::PathBuf;

use clap::Args;
use spare_tile_core::play::animation::Animation;
use spare_tile_core::play::reel::Program;

use super::{ActOptions, Stage};
use crate::failure::Failure;
use crate::pictures::Reading;
use crate::session::Session;
use crate::sprites::{self, Changes, Target};

/// The options of a sprite.
#[derive(Args)]
pub struct SpriteOptions {
    /// The sprite or picture file; - is standard input
    ///
    /// Example: spare-tile play sprite gull.dots
    #[arg(value_name = "FILE")]
    file: PathBuf,
    /// How often it plays [default: until stopped on a terminal, otherwise once]
    ///
    /// Example: spare-tile play sprite gull.dots --times 3
    #[arg(long, value_name = "N", value_parser = clap::value_parser!(u32).range(1..=1_000_000))]
    times: Option<u32>,
    #[command(flatten)]
    reading: Reading,
    #[command(flatten)]
    changes: Changes,
}

impl ActOptions for SpriteOptions {
    const ABOUT: &'static str = "Play the frames of a sprite, or of a moving picture, on a face of dots";
    const DETAILS: &'static str = "Each frame stays as long as its file says. The format of sprites is a text: docs/dots-file.md. \
        Pictures are GIF and PNG, or PBM, PGM and PPM, and are made to fit the face.";

    fn program(&self, stage: &Stage<'_>, session: &mut Session<'_>) -> Result<Program, Failure> {
        let mount = stage.mount();
        let sprite = sprites::load(&self.file, &self.reading, Target::of(mount)?)?;
        let (sprite, at) = self.changes.apply(&sprite);
        session.warn(self.changes.cut(&sprite, &mount.face).as_slice());
        Ok(stage.program_of(Box::new(Animation { sprite, times: stage.times(self.times), at })))
    }
}
