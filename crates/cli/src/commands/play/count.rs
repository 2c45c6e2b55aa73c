//! `play count`: from one number to another.

use std::time::Duration;

use clap::Args;
use spare_tile_core::content::Content;
use spare_tile_core::content::number::Decimal;
use spare_tile_core::play::count::{Count, CountError, Pace, Range};
use spare_tile_core::play::{Reel, Track};
use spare_tile_core::units::parse_duration;

use super::how::{How, every, play_reel};
use crate::failure::{Failure, Outcome};
use crate::lettering::LookArgs;
use crate::rigs::FaceOfRig;
use crate::session::Session;
use crate::words::NumberForm;

/// Count from one number to another, up or down
///
/// On a terminal the picture is redrawn in place until the end, q or Ctrl-C. Off a terminal, or with --frames,
/// the frames come one after another as fast as they can be made.
#[derive(Args)]
pub struct PlayCount {
    /// The first number
    ///
    /// Example: spare-tile play count --from 60 --to 0
    #[arg(long, value_name = "N", default_value = "0", allow_negative_numbers = true)]
    from: Decimal,
    /// The last number, or the last whole step before it; below the first it counts down [default: count on as long as
    /// numbers fit, and begin again]
    ///
    /// Example: spare-tile play count --to 48
    #[arg(long, value_name = "N", allow_negative_numbers = true)]
    to: Option<Decimal>,
    /// How far each step goes, such as 1, 0.5 or -1
    ///
    /// Example: spare-tile play count --from 2 --to -0.5 --step -0.1
    #[arg(long, value_name = "N", default_value = "1", allow_negative_numbers = true)]
    step: Decimal,
    /// How long each number stays: 250ms, 1.5s, 2m
    ///
    /// Example: spare-tile play count --every 250ms
    #[arg(long, value_name = "TIME", default_value = "1s", value_parser = every)]
    every: Duration,
    /// How long the last number stays [default: as long as the others]
    ///
    /// Example: spare-tile play count --to 9 --hold 5s
    #[arg(long, value_name = "TIME", value_parser = parse_duration)]
    hold: Option<Duration>,
    /// Begin again after the last number
    ///
    /// Example: spare-tile play count --to 9 --again
    #[arg(long)]
    again: bool,
    #[command(flatten)]
    rig: FaceOfRig,
    #[command(flatten)]
    form: NumberForm,
    #[command(flatten)]
    look: LookArgs,
    #[command(flatten)]
    how: How,
}

/// Runs `play count`.
pub fn run(play: &PlayCount, session: &mut Session<'_>) -> Outcome {
    let rig = play.rig.load(session)?;
    let face = play.rig.place(&rig)?;
    let mount = &rig.faces[face];
    let PlayCount { from, to, step, every, again, .. } = *play;
    let range = Range { from, to, step };
    let pace = Pace { every, hold: play.hold.unwrap_or(every), again };
    let look = play.look.on(&mount.face)?;
    let format = play.form.format();
    Content::check_form(&format, look.as_ref(), &mount.face)
        .map_err(|error| Failure::of_content(&error, &mount.face.name))?;
    let count = Count::new(range, pace, format, (look, &mount.face)).map_err(|error| {
        let help = match error {
            CountError::NoStep => "give a step such as 1, 0.5 or -1",
            CountError::Lettering(_) => "take another font: --font NAME; spare-tile fonts lists ours",
            CountError::Number(_) => "count between shorter numbers, or pick a wider face",
        };
        Failure::unusable(format!("this cannot be counted on face {}: {error}", mount.face.name), help)
    })?;
    let tracks = vec![Track { face, act: Box::new(count) }];
    play_reel(&rig, Reel { tracks }, &play.rig, &play.how, session)
}
