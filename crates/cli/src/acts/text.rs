//! The act `text`: texts that pass across a face, or come one after another.

use std::time::Duration;

use clap::Args;
use spare_tile_core::content::text::Align;
use spare_tile_core::face::Face;
use spare_tile_core::play::reel::Program;
use spare_tile_core::play::say::{Motion, SayError, Saying};
use spare_tile_core::play::scroll::{Move, Points};
use spare_tile_core::rig::Severity;

use super::{ActOptions, Stage};
use crate::failure::{Failure, Outcome};
use crate::files;
use crate::lettering::LookArgs;
use crate::options::{every, word};
use crate::rigs::GlyphFile;
use crate::session::Session;
use crate::words::doubts;

/// The texts, and the options of their motion.
#[derive(Args)]
pub struct TextOptions {
    /// The text, or several that come one after another; - is standard input
    ///
    /// Example: spare-tile play text "TEAL 07:58 BERTH 2"
    #[arg(required = true, value_name = "TEXT", allow_negative_numbers = true)]
    texts: Vec<String>,
    #[command(flatten)]
    motion: TextMotion,
}

/// The options of texts in motion.
#[derive(Args)]
#[command(next_help_heading = "Text")]
pub struct TextMotion {
    /// The motion in which a text comes [default: pass]
    ///
    /// Example: spare-tile play text TEAL 07:58 --motion push
    #[arg(long, value_parser = word::<Motion>())]
    motion: Option<Motion>,
    /// The way in which it passes or pushes [default: left]
    ///
    /// Example: spare-tile play text TEAL --way up
    #[arg(long, value_parser = word::<Move>())]
    way: Option<Move>,
    /// The time for each step of the motion [default: 60ms on dots; on digits 300ms to pass; 150ms to type, 500ms to blink, 30ms
    /// to fade]
    ///
    /// Example: spare-tile play text TEAL --every 40ms
    #[arg(long, value_name = "TIME", value_parser = every)]
    every: Option<Duration>,
    /// The time for each text that does not pass [default: 2s]
    ///
    /// Example: spare-tile play text TEAL DUNLIN --motion wipe --hold 5s
    #[arg(long, value_name = "TIME", value_parser = every)]
    hold: Option<Duration>,
    /// How often it plays [default: until stopped on a terminal, otherwise once]
    ///
    /// Example: spare-tile play text TEAL --times 2
    #[arg(long, value_name = "N", value_parser = clap::value_parser!(u32).range(1..=1000))]
    times: Option<u32>,
    /// Dots or digits between the end of a passing text and its next beginning
    ///
    /// Example: spare-tile play text TEAL --gap 8 --for 10s
    #[arg(long, value_name = "PLACES", value_parser = clap::value_parser!(u16).range(0..=1024))]
    gap: Option<u16>,
    /// Give each point of a text that passes across digits a digit of its own
    ///
    /// Example: spare-tile play text "4.2 m" --part-points --for 3s
    #[arg(long)]
    part_points: bool,
    /// The place of a text that does not pass [default: centre]
    ///
    /// Example: spare-tile play text TEAL DUNLIN --motion wipe --align left
    #[arg(long, value_parser = word::<Align>())]
    align: Option<Align>,
    #[command(flatten)]
    look: LookArgs,
    #[command(flatten)]
    glyphs: GlyphFile,
}

impl TextMotion {
    /// Returns true if the texts play until stopped.
    pub const fn is_endless(&self) -> bool {
        self.times.is_none()
    }

    /// Adds the characters of the glyph file to a face.
    pub fn add_glyphs(&self, face: &mut Face) -> Outcome {
        self.glyphs.add_to(face)
    }
}

impl ActOptions for TextOptions {
    const ABOUT: &'static str = "Let texts pass across a face, or come one after another";
    const DETAILS: &'static str = "A text that passes enters from beyond the edge and leaves wholly on the other side, a dot or a digit \
        at each step; with --gap the next one follows before it has left. Otherwise each text stands for a \
        while, and the next comes as --motion says.";

    fn program(&self, stage: &Stage<'_>, session: &mut Session<'_>) -> Result<Program, Failure> {
        program_of_texts(&self.texts, &self.motion, Motion::Pass, stage, session)
    }

    fn add_glyphs(&self, face: &mut Face) -> Outcome {
        self.motion.add_glyphs(face)
    }
}

/// Returns the program for texts; `usual` is their motion unless the options give one.
///
/// # Errors
/// If the face cannot show them, or not in that motion.
pub fn program_of_texts(
    texts: &[String],
    options: &TextMotion,
    usual: Motion,
    stage: &Stage<'_>,
    session: &mut Session<'_>,
) -> Result<Program, Failure> {
    let mount = stage.mount();
    let face = &mount.face;
    let texts: Vec<String> =
        texts.iter().map(|text| Ok(files::said(text)?.into_owned())).collect::<Result<_, Failure>>()?;
    if face.dots().is_none() {
        texts.iter().for_each(|text| session.warn(&doubts(text, face, Severity::Warning)));
    }
    let saying = Saying {
        texts,
        motion: options.motion.unwrap_or(usual),
        way: options.way.unwrap_or(Move::Left),
        step: options.every,
        hold: options.hold,
        times: stage.times(options.times),
        gap: options.gap.map(usize::from),
        align: options.align,
        points: if options.part_points { Points::Parted } else { Points::Joined },
    };
    let look = options.look.on(face)?;
    let has_greys = mount.drive.display().grey_steps() > 1;
    let act = saying.act(look.as_ref(), face, has_greys).map_err(|error| failure(&error, face))?;
    Ok(stage.program_of(act))
}

/// Describes why a face cannot show texts in such a motion, with the next step.
fn failure(error: &SayError, face: &Face) -> Failure {
    let name = &face.name;
    let (message, help) = match error {
        SayError::Content(error) => return Failure::of_content(error, name),
        SayError::OneAtATime => (
            error.to_string(),
            "join them, or choose how the next one comes: --motion push, wipe, type, fade or cut",
        ),
        SayError::StandsNowhere => (
            format!("{error}: --hold and --align are for the other motions"),
            "choose one: --motion push, wipe, type, fade, cut or blink",
        ),
        SayError::NoGap => (error.to_string(), "leave out --gap, or --motion"),
        SayError::NoGreys => (
            format!("face {name} has no greys: its lights are lit or dark, and nothing fades"),
            "if the controller scans it, write depth = 4 in its drive; or choose --motion wipe",
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
