//! `play text`: a text that passes across a face.

use std::time::Duration;

use clap::{Args, ValueEnum};
use spare_tile_core::content::ContentError;
use spare_tile_core::content::lettering::Lettering;
use spare_tile_core::face::Face;
use spare_tile_core::play::scroll::{Move, Pace, PassingText, Scroll};
use spare_tile_core::play::{Act, Reel, Track};
use spare_tile_core::rig::Severity;

use super::{How, every, play_reel};
use crate::failure::{Failure, Outcome};
use crate::input;
use crate::lettering::LookArgs;
use crate::rigs::FaceOfRig;
use crate::session::Session;
use crate::words::doubts;

/// Let a text pass across a face
///
/// It enters from beyond the edge and leaves wholly on the other side, a dot or a digit at each step; with --gap the next
/// one follows before it has left.
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
    /// How long it stands before each dot or digit further [default: 60ms on dots, 300ms on digits]
    ///
    /// Example: spare-tile play text TEAL --step 40ms
    #[arg(long, value_name = "TIME", value_parser = every)]
    step: Option<Duration>,
    /// How often it passes [default: without end on a terminal, once elsewhere]
    ///
    /// Example: spare-tile play text TEAL --times 2
    #[arg(long, value_name = "N", value_parser = clap::value_parser!(u32).range(1..=1000))]
    times: Option<u32>,
    /// Dots or digits between its end and its next beginning
    ///
    /// Example: spare-tile play text TEAL --gap 8 --for 10s
    #[arg(long, value_name = "PLACES", value_parser = clap::value_parser!(u16).range(0..=1024))]
    gap: Option<u16>,
    #[command(flatten)]
    look: LookArgs,
    #[command(flatten)]
    rig: FaceOfRig,
    #[command(flatten)]
    how: How,
}

/// How long a text stands before it moves on: on dots so that it runs, on digits so that each character can be read.
const DOT_STEP: Duration = Duration::from_millis(60);
const DIGIT_STEP: Duration = Duration::from_millis(300);

/// Which way a text goes, on the command line.
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
    let words = input::said(&play.text)?.into_owned();
    let usual = if shown.dots().is_some() { DOT_STEP } else { DIGIT_STEP };
    let pace = Pace {
        step: play.step.unwrap_or(usual),
        gap: play.gap.map(usize::from),
        times: play.how.times(play.times, session),
    };
    let act: Box<dyn Act> = match shown.dots() {
        Some(grid) => {
            let lettering = Lettering { words, look: play.look.look()? };
            let strip = lettering
                .strip()
                .map_err(|error| Failure::of_content(&error.into(), &shown.name))?;
            Box::new(Scroll::new(strip, play.way.into(), (grid.width, grid.height), pace))
        }
        None => {
            let text = on_digits(&words, shown, play.way, pace)?;
            session.warn(&doubts(&words, shown, Severity::Warning));
            Box::new(text)
        }
    };
    let tracks = vec![Track { face, region: None, act }];
    play_reel(&rig, &Reel { tracks }, &play.rig, &play.how, session)
}

/// A text on digits, which have one row only.
fn on_digits(words: &str, face: &Face, way: WayArg, pace: Pace) -> Result<PassingText, Failure> {
    if matches!(way, WayArg::Up | WayArg::Down) {
        let message = format!("face {} has one row of digits: a text passes to the left or right", face.name);
        return Err(Failure::unusable(message, "leave out --way, or write --way right"));
    }
    let text = PassingText::new(words, face, face.digits(), matches!(way, WayArg::Right), pace);
    text.map_err(|error| {
        Failure::of_content(&ContentError::Text { error, words: words.to_owned() }, &face.name)
    })
}

impl From<WayArg> for Move {
    fn from(way: WayArg) -> Self {
        match way {
            WayArg::Left => Self::Left,
            WayArg::Right => Self::Right,
            WayArg::Up => Self::Up,
            WayArg::Down => Self::Down,
        }
    }
}
