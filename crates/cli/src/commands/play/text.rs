//! `play text`: a text that passes across a face of dots.

use std::time::Duration;

use clap::{Args, ValueEnum};
use spare_tile_core::content::lettering::{Lettering, LetteringError};
use spare_tile_core::play::scroll::{Move, Scroll};
use spare_tile_core::play::{Reel, Track};

use super::{How, every, play_reel};
use crate::failure::{Failure, Outcome};
use crate::input;
use crate::lettering::LookArgs;
use crate::rigs::FaceOfRig;
use crate::session::Session;

/// Let a text pass across a face of dots
///
/// It enters from beyond the edge and leaves wholly on the other side, a dot at each step; with --gap the next one follows
/// before it has left.
#[derive(Args)]
pub struct PlayText {
    /// The text; - is standard input
    ///
    /// Example: spare-tile play text "TEAL 07:58 BERTH 2"
    #[arg(allow_negative_numbers = true)]
    text: String,
    /// Which way it goes
    ///
    /// Example: spare-tile play text TEAL --way up
    #[arg(long, value_enum, default_value = "left")]
    way: WayArg,
    /// How long it stands before each dot further
    ///
    /// Example: spare-tile play text TEAL --step 40ms
    #[arg(long, value_name = "TIME", default_value = "60ms", value_parser = every)]
    step: Duration,
    /// How often it passes [default: without end on a terminal, once elsewhere]
    ///
    /// Example: spare-tile play text TEAL --times 2
    #[arg(long, value_name = "N", value_parser = clap::value_parser!(u32).range(1..=1000))]
    times: Option<u32>,
    /// Dots between its end and its next beginning
    ///
    /// Example: spare-tile play text TEAL --gap 8 --for 10s
    #[arg(long, value_name = "DOTS", value_parser = clap::value_parser!(u16).range(0..=1024))]
    gap: Option<u16>,
    #[command(flatten)]
    look: LookArgs,
    #[command(flatten)]
    rig: FaceOfRig,
    #[command(flatten)]
    how: How,
}

/// Which way a picture goes, on the command line.
#[derive(ValueEnum, Clone, Copy)]
enum WayArg {
    Left,
    Right,
    Up,
    Down,
}

/// Runs `play text`.
pub fn run(play: &PlayText, session: &mut Session<'_>) -> Outcome {
    let rig = play.rig.load(session)?;
    let face = play.rig.place(&rig)?;
    let shown = &rig.faces[face].face;
    let Some(grid) = shown.dots() else {
        let message = format!("face {} has digits: no text passes across it", shown.name);
        return Err(Failure::unusable(message, "pick a face with dots; on digits spare-tile show TEXT"));
    };
    let words = input::said(&play.text)?.into_owned();
    let lettering = Lettering { words, look: play.look.look()? };
    let strip = lettering
        .strip()
        .map_err(|error| Failure::of_content(&LetteringError::from(error).into(), &shown.name))?;
    let scroll = Scroll {
        strip,
        way: match play.way {
            WayArg::Left => Move::Left,
            WayArg::Right => Move::Right,
            WayArg::Up => Move::Up,
            WayArg::Down => Move::Down,
        },
        step: play.step,
        gap: play.gap.map(usize::from),
        times: play.times.or((!play.how.is_watched(session)).then_some(1)),
        room: (grid.width, grid.height),
    };
    let tracks = vec![Track { face, region: None, act: Box::new(scroll) }];
    play_reel(&rig, &Reel { tracks }, &play.rig, &play.how, session)
}
