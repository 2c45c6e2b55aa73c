//! `play sprite`: the frames of a sprite, one after another.

use std::path::PathBuf;

use clap::Args;
use spare_tile_core::play::animation::Animation;
use spare_tile_core::play::{Reel, Track};

use super::how::{How, play_reel};
use crate::failure::Outcome;
use crate::pictures::Reading;
use crate::rigs::FaceOfRig;
use crate::session::Session;
use crate::sprites::{self, Changes};

/// Play the frames of a sprite, or of a moving picture, on a face of dots
///
/// Each frame stays as long as its file says. The format of sprites is a text: docs/dots-file.md. Pictures are GIF and
/// PNG, or PBM, PGM and PPM, and are made to fit the face.
#[derive(Args)]
pub struct PlaySprite {
    /// The sprite or picture file; - is standard input
    ///
    /// Example: spare-tile play sprite gull.dots
    #[arg(value_name = "FILE")]
    file: PathBuf,
    /// How often it plays [default: without end on a terminal, once elsewhere]
    ///
    /// Example: spare-tile play sprite gull.dots --times 3
    #[arg(long, value_name = "N", value_parser = clap::value_parser!(u32).range(1..=1_000_000))]
    times: Option<u32>,
    #[command(flatten)]
    reading: Reading,
    #[command(flatten)]
    changes: Changes,
    #[command(flatten)]
    rig: FaceOfRig,
    #[command(flatten)]
    how: How,
}

/// Runs `play sprite`.
pub fn run(play: &PlaySprite, session: &mut Session<'_>) -> Outcome {
    let rig = play.rig.load(session)?;
    let face = play.rig.place(&rig)?;
    let goal = sprites::goal(&rig.faces[face])?;
    let sprite = sprites::load(&play.file, &play.reading, goal)?;
    let (sprite, at) = play.changes.apply(&sprite);
    session.warn(play.changes.cut(&sprite, &rig.faces[face].face).as_slice());
    let times = play.how.times(play.times, session);
    let tracks = vec![Track { face, act: Box::new(Animation { sprite, times, at }) }];
    play_reel(&rig, Reel { tracks }, &play.rig, &play.how, session)
}
