//! `play test`: a face tests itself.

use std::time::Duration;

use clap::Args;
use spare_tile_core::play::selftest::SelfTest;
use spare_tile_core::play::{Reel, Track};

use super::how::{How, every, play_reel};
use crate::failure::Outcome;
use crate::rigs::FaceOfRig;
use crate::session::Session;

/// Test a face: each light alone, all going out in turn, 0 to 9 on each digit, all on
///
/// Compare with --frames what the display should show at each step, or with --ops what should go over its lines.
#[derive(Args)]
pub struct PlayTest {
    /// How long each step stays
    ///
    /// Example: spare-tile play test --every 100ms
    #[arg(long, value_name = "TIME", default_value = "250ms", value_parser = every)]
    every: Duration,
    /// Begin again after the last step
    ///
    /// Example: spare-tile play test --again
    #[arg(long)]
    again: bool,
    #[command(flatten)]
    rig: FaceOfRig,
    #[command(flatten)]
    how: How,
}

/// Runs `play test`.
pub fn run(play: &PlayTest, session: &mut Session<'_>) -> Outcome {
    let rig = play.rig.load(session)?;
    let face = play.rig.place(&rig)?;
    let test = SelfTest::of(&rig.faces[face], play.every, play.again);
    let tracks = vec![Track { face, act: Box::new(test) }];
    play_reel(&rig, Reel { tracks }, &play.rig, &play.how, session)
}
