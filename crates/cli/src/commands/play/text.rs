//! `play text`: texts that pass across a face, or come one after another.

use std::time::Duration;

use clap::{Args, ValueEnum};
use spare_tile_core::content::lettering::{Lettering, Look};
use spare_tile_core::content::text::Align;
use spare_tile_core::content::{Canvas, Content, ContentError};
use spare_tile_core::face::Face;
use spare_tile_core::plan::Mount;
use spare_tile_core::play::scroll::{Move, Pace, PassingText, Points, Scroll};
use spare_tile_core::play::slides::{self, Change, Slide, Slides};
use spare_tile_core::play::{Act, Reel, Track};
use spare_tile_core::rig::Severity;

use super::{How, every, play_reel};
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

/// How long a text stands before it moves on: on dots so that it runs, on digits so that each character can be read.
const DOT_STEP: Duration = Duration::from_millis(60);
const DIGIT_STEP: Duration = Duration::from_millis(300);
const TYPE_STEP: Duration = Duration::from_millis(150);
const BLINK_STEP: Duration = Duration::from_millis(500);
/// A fade of so many steps takes about a second.
const FADE_STEP: Duration = Duration::from_millis(30);
const FADE_STEPS: u32 = 32;
/// How long a text stands that does not pass.
const HOLD: Duration = Duration::from_secs(2);

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
    let act = match play.motion {
        Motion::Pass => passing(play, &texts, &mount.face, session)?,
        _ => Box::new(slides(play, &texts, mount, session)?),
    };
    if play.part_points && (play.motion != Motion::Pass || mount.face.dots().is_some()) {
        let message = "--part-points is for a text that passes across digits";
        return Err(Failure::unusable(
            message,
            "leave it out, or pick a face with digits and no other --motion",
        ));
    }
    let tracks = vec![Track { face, region: None, act }];
    play_reel(&rig, &Reel { tracks }, &play.rig, &play.how, session)
}

/// A text that passes.
fn passing(
    play: &PlayText,
    texts: &[String],
    face: &Face,
    session: &Session<'_>,
) -> Result<Box<dyn Act>, Failure> {
    let [words] = texts else {
        let help = "put them into one, or choose how the next comes: --motion push, wipe, type, fade or cut";
        return Err(Failure::unusable("one text passes at a time", help));
    };
    if play.hold.is_some() || play.align.is_some() {
        let message = "a text that passes stands nowhere: --hold and --align are for the other motions";
        return Err(Failure::unusable(message, "choose one: --motion push, wipe, type, fade, cut or blink"));
    }
    let usual = if face.dots().is_some() { DOT_STEP } else { DIGIT_STEP };
    let pace = Pace {
        step: play.step.unwrap_or(usual),
        gap: play.gap.map(usize::from),
        times: play.how.times(play.times, session),
    };
    Ok(match face.dots() {
        Some(grid) => {
            let lettering = Lettering { words: words.clone(), look: play.look.look()? };
            let strip = lettering.strip().map_err(|error| Failure::of_content(&error.into(), &face.name))?;
            Box::new(Scroll::new(strip, play.way.into(), (grid.width, grid.height), pace))
        }
        None => Box::new(on_digits(words, face, play, pace)?),
    })
}

/// Texts that come one after another.
fn slides(
    play: &PlayText,
    texts: &[String],
    mount: &Mount,
    session: &Session<'_>,
) -> Result<Slides, Failure> {
    let face = &mount.face;
    if play.gap.is_some() {
        let message = "there is a gap only between texts that pass";
        return Err(Failure::unusable(message, "leave out --gap, or --motion"));
    }
    if play.motion == Motion::Fade && mount.drive.display().grey_steps() == 1 {
        let message =
            format!("face {} has no greys: its lights are lit or dark, and nothing fades", face.name);
        let help = "where the controller scans it, write depth = 4 in its drive; or choose --motion wipe";
        return Err(Failure::unusable(message, help));
    }
    if play.motion == Motion::Push && face.dots().is_none() && matches!(play.way, WayArg::Up | WayArg::Down) {
        let message = format!("face {} has one row of digits: a text pushes to the left or right", face.name);
        return Err(Failure::unusable(message, "leave out --way, or write --way right"));
    }
    let (change, usual) = match play.motion {
        Motion::Pass | Motion::Cut => (Change::Cut, DOT_STEP),
        Motion::Blink => (Change::Cut, BLINK_STEP),
        Motion::Type => (Change::Type, TYPE_STEP),
        Motion::Wipe => (Change::Wipe, DOT_STEP),
        Motion::Push => (Change::Push(play.way.into()), DOT_STEP),
        Motion::Fade => (Change::Fade(FADE_STEPS), FADE_STEP),
    };
    let step = play.step.unwrap_or(usual);
    let hold = play.hold.unwrap_or(if play.motion == Motion::Blink { step } else { HOLD });
    let align = play.align.map_or(Align::Centre, Align::from);
    let mut slides = Vec::new();
    for words in texts {
        slides.push(slide(play, words, align, face)?);
        if play.motion == Motion::Blink {
            slides.push(Slide::of(face.blank()));
        }
    }
    let pace = slides::Pace { step, hold, times: play.how.times(play.times, session) };
    Ok(Slides::new(face, slides, change, pace))
}

/// One text where it stands.
fn slide(play: &PlayText, words: &str, align: Align, face: &Face) -> Result<Slide, Failure> {
    let failed = |error: ContentError| Failure::of_content(&error, &face.name);
    if face.dots().is_some() {
        let look = Look { align, ..play.look.look()? };
        let lettering = Lettering { words: words.to_owned(), look };
        return Slide::on_dots(face, &lettering).map_err(|error| failed(error.into()));
    }
    let mut frame = face.blank();
    let content = Content::of_words(words, None, Some(align), None, face).map_err(failed)?;
    content.draw(&mut Canvas::whole(face, &mut frame)).map_err(failed)?;
    Ok(Slide::on_digits(face, frame))
}

/// A text on digits, which have one row only.
fn on_digits(words: &str, face: &Face, play: &PlayText, pace: Pace) -> Result<PassingText, Failure> {
    let points = if play.part_points { Points::Parted } else { Points::Joined };
    if matches!(play.way, WayArg::Up | WayArg::Down) {
        let message = format!("face {} has one row of digits: a text passes to the left or right", face.name);
        return Err(Failure::unusable(message, "leave out --way, or write --way right"));
    }
    let text =
        PassingText::new(words, face, face.digits(), (matches!(play.way, WayArg::Right), points), pace);
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
