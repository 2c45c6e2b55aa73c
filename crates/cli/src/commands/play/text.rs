//! `play text`: texts that pass across a face, or come one after another.

use std::time::Duration;

use clap::{Args, ValueEnum};
use spare_tile_core::content::text::Align;
use spare_tile_core::face::Face;
use spare_tile_core::play::say::{self, SayError, Saying};
use spare_tile_core::play::scroll::{Move, Points};
use spare_tile_core::play::{Reel, Track};
use spare_tile_core::rig::Severity;

use super::how::{How, every, play_reel};
use crate::failure::{Failure, Outcome};
use crate::input;
use crate::lettering::LookArgs;
use crate::rigs::FaceOfRig;
use crate::session::Session;
use crate::words::{AlignArg, doubts};

/// Let texts pass across a face, or come one after another
///
/// A text that passes enters from beyond the edge and leaves wholly on the other side, a dot or a digit at each step; with
/// --gap the next one follows before it has left. Otherwise each text stands for a while, and the next comes as --motion
/// says.
#[derive(Args)]
pub struct PlayText {
    /// The text, or several that come one after another; - is standard input
    ///
    /// Example: spare-tile play text "TEAL 07:58 BERTH 2"
    #[arg(required = true, value_name = "TEXT", allow_negative_numbers = true)]
    texts: Vec<String>,
    /// How a text comes
    ///
    /// Example: spare-tile play text TEAL 07:58 --motion push
    #[arg(long, value_enum, default_value = "pass")]
    motion: Motion,
    /// Which way it passes or pushes
    ///
    /// Example: spare-tile play text TEAL --way up
    #[arg(long, value_enum, default_value = "left")]
    way: WayArg,
    /// How long it stands before each step further [default: on dots 60ms, to pass on digits 300ms, to be typed 150ms, to
    /// blink 500ms, a fade 30ms]
    ///
    /// Example: spare-tile play text TEAL --step 40ms
    #[arg(long, value_name = "TIME", value_parser = every)]
    step: Option<Duration>,
    /// How long each text stands that does not pass [default: 2s]
    ///
    /// Example: spare-tile play text TEAL DUNLIN --motion wipe --hold 5s
    #[arg(long, value_name = "TIME", value_parser = every)]
    hold: Option<Duration>,
    /// How often it plays [default: without end on a terminal, once elsewhere]
    ///
    /// Example: spare-tile play text TEAL --times 2
    #[arg(long, value_name = "N", value_parser = clap::value_parser!(u32).range(1..=1000))]
    times: Option<u32>,
    /// Dots or digits between the end of what passes and its next beginning
    ///
    /// Example: spare-tile play text TEAL --gap 8 --for 10s
    #[arg(long, value_name = "PLACES", value_parser = clap::value_parser!(u16).range(0..=1024))]
    gap: Option<u16>,
    /// Let each point of what passes across digits take one of its own: it moves a character or a point at a time
    ///
    /// Example: spare-tile play text "4.2 m" --part-points --for 3s
    #[arg(long)]
    part_points: bool,
    /// Where a text stands that does not pass [default: centre]
    ///
    /// Example: spare-tile play text TEAL DUNLIN --motion wipe --align left
    #[arg(long, value_enum)]
    align: Option<AlignArg>,
    #[command(flatten)]
    look: LookArgs,
    #[command(flatten)]
    rig: FaceOfRig,
    #[command(flatten)]
    how: How,
}

/// How a text comes, on the command line.
#[derive(ValueEnum, Clone, Copy, PartialEq, Eq)]
enum Motion {
    /// It enters at one edge and leaves at the other
    Pass,
    /// At once
    Cut,
    /// Character by character
    Type,
    /// Column by column over the one before
    Wipe,
    /// It pushes the one before out
    Push,
    /// The one before turns into it, on faces that have greys
    Fade,
    /// It comes and goes
    Blink,
}

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
    let mount = &rig.faces[face];
    let texts: Vec<String> =
        play.texts.iter().map(|text| Ok(input::said(text)?.into_owned())).collect::<Result<_, Failure>>()?;
    if mount.face.dots().is_none() {
        texts.iter().for_each(|text| session.warn(&doubts(text, &mount.face, Severity::Warning)));
    }
    let shown = &mount.face;
    let saying = Saying {
        texts,
        motion: play.motion.into(),
        way: play.way.into(),
        step: play.step,
        hold: play.hold,
        times: play.how.times(play.times, session),
        gap: play.gap.map(usize::from),
        align: play.align.map(Align::from),
        points: if play.part_points { Points::Parted } else { Points::Joined },
    };
    let look = play.look.on(shown)?;
    let has_greys = mount.drive.display().grey_steps() > 1;
    let act = saying.act(look.as_ref(), (shown, has_greys)).map_err(|error| failure(&error, shown))?;
    let tracks = vec![Track { face, act }];
    play_reel(&rig, Reel { tracks }, &play.rig, &play.how, session)
}

/// Why it cannot come so, with the next step.
fn failure(error: &SayError, face: &Face) -> Failure {
    let name = &face.name;
    let (message, help) = match error {
        SayError::Content(error) => return Failure::of_content(error, name),
        SayError::OneAtATime => (
            error.to_string(),
            "put them into one, or choose how the next comes: --motion push, wipe, type, fade or cut",
        ),
        SayError::StandsNowhere => (
            format!("{error}: --hold and --align are for the other motions"),
            "choose one: --motion push, wipe, type, fade, cut or blink",
        ),
        SayError::NoGap => (error.to_string(), "leave out --gap, or --motion"),
        SayError::NoGreys => (
            format!("face {name} has no greys: its lights are lit or dark, and nothing fades"),
            "where the controller scans it, write depth = 4 in its drive; or choose --motion wipe",
        ),
        SayError::OneRow => (
            format!("face {name} has one row of digits: a text moves to the left or right"),
            "leave out --way, or write --way right",
        ),
        SayError::NoPoints => (
            "--part-points is for a text that passes across digits".to_owned(),
            "leave it out, or pick a face with digits and no other --motion",
        ),
    };
    Failure::unusable(message, help)
}

impl From<Motion> for say::Motion {
    fn from(motion: Motion) -> Self {
        match motion {
            Motion::Pass => Self::Pass,
            Motion::Cut => Self::Cut,
            Motion::Type => Self::Type,
            Motion::Wipe => Self::Wipe,
            Motion::Push => Self::Push,
            Motion::Fade => Self::Fade,
            Motion::Blink => Self::Blink,
        }
    }
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
