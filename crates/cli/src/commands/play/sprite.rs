//! `play sprite`: the frames of a sprite, one after another.

use std::path::PathBuf;

use clap::Args;
use spare_tile_core::play::animation::Animation;
use spare_tile_core::play::{Reel, Track};

use super::{How, play_reel};
use crate::failure::Outcome;
use crate::rigs::FaceOfRig;
use crate::session::Session;
use crate::sprites::{self, Changes};

/// Play the frames of a sprite on a face of dots
///
/// Each frame stays as long as its file says. The format is a text: docs/dots-file.md.
#[derive(Args)]
pub struct PlaySprite {
    /// The sprite file; - is standard input
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
    let sprite = sprites::load(&play.file)?;
    sprites::check(&rig.faces[face].face)?;
    let (sprite, at) = play.changes.apply(&sprite);
    let times = play.times.or((!play.how.is_watched(session)).then_some(1));
    let tracks = vec![Track { face, region: None, act: Box::new(Animation { sprite, times, at }) }];
    play_reel(&rig, &Reel { tracks }, &play.rig, &play.how, session)
}
