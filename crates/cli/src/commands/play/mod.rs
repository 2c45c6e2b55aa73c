//! `play`: moving content on the rig's faces.
//!
//! On a terminal the picture is redrawn in place, each change at its deadline counted from the start. Off a
//! terminal the same frames are written one after another, as fast as they can be made.

mod export;
mod film;
pub mod frames;
mod how;
mod inline;
mod ops;
mod outlet;
pub mod outside;
pub mod reel;
mod watch;

use std::path::PathBuf;
use std::time::Duration;

use clap::{Args, Subcommand};
use jiff::Timestamp;
use spare_tile_core::play::Value;
use spare_tile_core::units::parse_duration;

use crate::acts::{
    ActOptions, ClockOptions, CountOptions, NumberOptions, SpriteOptions, Stage, TestOptions, TextOptions,
};
use crate::failure::Outcome;
use crate::moments::{local_zone, moment};
use crate::options::target_name;
use crate::rigs::FaceOfRig;
use crate::session::Session;
use how::{How, play_fed};

/// Play moving content: an act, or a reel file
///
/// A reel has several tracks, with acts one after another on each face, variables, and actions of buttons:
/// docs/reel-file.md. On a terminal the picture is redrawn in place until the end, q or Ctrl-C. Off a terminal, or with --frames,
/// the frames come one after another as fast as they can be made.
#[derive(Args)]
#[command(args_conflicts_with_subcommands = true, subcommand_negates_reqs = true)]
pub struct Play {
    #[command(subcommand)]
    act: Option<PlayAct>,
    /// The reel file; - is standard input
    ///
    /// Example: spare-tile play morning.reel.toml
    #[arg(value_name = "FILE", required = true)]
    file: Option<PathBuf>,
    /// List the acts of each track with their times, and do not play
    ///
    /// Example: spare-tile play morning.reel.toml --check
    #[arg(long)]
    check: bool,
    /// Also check that a program for this target can play it: c99, avr, setup-loop, mcs51, micropython, rust, pic-asm
    ///
    /// Example: spare-tile play morning.reel.toml --check --target c99
    #[arg(long, value_name = "TARGET", requires = "check", value_parser = target_name())]
    target: Option<String>,
    /// Read rig and reel again when their files change; after a mistake the last good picture stays, with the error below
    /// it
    ///
    /// Example: spare-tile play morning.reel.toml --watch
    #[arg(long, conflicts_with = "check")]
    watch: bool,
    /// Set the first value of a variable of the reel
    ///
    /// Example: spare-tile play morning.reel.toml --set boat=DUNLIN --set minutes=7
    #[arg(long = "set", value_name = "NAME=VALUE", value_parser = setting)]
    settings: Vec<(String, Value)>,
    /// Press buttons for 100 ms, each at its time; name the face too if the rig has several
    ///
    /// Example: spare-tile play morning.reel.toml --press desk.call1@1.2s,desk.call1@3s
    #[arg(long, value_name = "BUTTON@TIME", value_delimiter = ',', value_parser = press, conflicts_with = "check")]
    press: Vec<(String, Duration)>,
    /// The time at which the reel begins: a time of today, a date and time, or one with its offset [default: now]
    ///
    /// A time without an offset is in the zone of this computer.
    ///
    /// Example: spare-tile play morning.reel.toml --time 2026-07-01T13:00+01:00
    #[arg(long, value_name = "TIME", conflicts_with = "check", value_parser = moment)]
    time: Option<Timestamp>,
    /// Take values of variables from standard input as they come, a line NAME=VALUE each
    ///
    /// Off a terminal pictures are written as time goes. A reel that plays forever then ends with the input.
    ///
    /// Example: spare-tile play morning.reel.toml --feed
    #[arg(long, conflicts_with = "check")]
    feed: bool,
    #[command(flatten)]
    rig: FaceOfRig,
    #[command(flatten)]
    how: How,
}

/// An act straight from the command line.
#[derive(Subcommand)]
#[command(defer = true)]
pub enum PlayAct {
    #[command(about = CountOptions::ABOUT)]
    Count(Box<PlayOne<CountOptions>>),
    #[command(about = ClockOptions::ABOUT)]
    Clock(Box<PlayOne<ClockOptions>>),
    #[command(about = NumberOptions::ABOUT)]
    Number(Box<PlayOne<NumberOptions>>),
    #[command(about = TestOptions::ABOUT)]
    Test(Box<PlayOne<TestOptions>>),
    #[command(about = TextOptions::ABOUT)]
    Text(Box<PlayOne<TextOptions>>),
    #[command(about = SpriteOptions::ABOUT)]
    Sprite(Box<PlayOne<SpriteOptions>>),
}

/// An act, its face, and how it is played.
#[derive(Args)]
#[command(about = A::ABOUT, long_about = format!("{}\n\n{}", A::ABOUT, A::DETAILS))]
pub struct PlayOne<A: Args + ActOptions> {
    #[command(flatten)]
    act: A,
    #[command(flatten)]
    rig: FaceOfRig,
    #[command(flatten)]
    how: How,
}

/// Reads what a variable is to be.
fn setting(text: &str) -> Result<(String, Value), String> {
    let (name, value) = text.split_once('=').ok_or("write a variable and its value, such as minutes=7")?;
    Ok((name.trim().to_owned(), Value::of(value)))
}

/// Reads a button, and when it is pressed.
fn press(text: &str) -> Result<(String, Duration), String> {
    let (key, at) = text.rsplit_once('@').ok_or("write a button and when, such as desk.call1@1.2s")?;
    Ok((key.trim().to_owned(), parse_duration(at.trim()).map_err(|error| error.to_string())?))
}

/// Runs a `play` command.
pub fn run(play: &Play, session: &mut Session<'_>) -> Outcome {
    match (&play.act, &play.file) {
        (Some(PlayAct::Count(act)), _) => play_one(act, session),
        (Some(PlayAct::Clock(act)), _) => play_one(act, session),
        (Some(PlayAct::Number(act)), _) => play_one(act, session),
        (Some(PlayAct::Test(act)), _) => play_one(act, session),
        (Some(PlayAct::Text(act)), _) => play_one(act, session),
        (Some(PlayAct::Sprite(act)), _) => play_one(act, session),
        (None, Some(file)) => {
            let Play { rig, how, settings, press, check, target, watch, time, feed, .. } = play;
            let (checks, watches, is_fed) = (*check, *watch, *feed);
            let (begins, target) = (*time, target.as_deref());
            let asked =
                reel::Asked { rig, how, settings, presses: press, begins, checks, target, watches, is_fed };
            reel::run(file, &asked, session)
        }
        (None, None) => Ok(()),
    }
}

/// Plays one act on one face.
fn play_one<A: Args + ActOptions>(play: &PlayOne<A>, session: &mut Session<'_>) -> Outcome {
    let PlayOne { act, rig: file, how } = play;
    let mut rig = file.load(session)?;
    let face = file.place(&rig)?;
    act.add_glyphs(&mut rig.faces[face].face)?;
    let is_endless = how.is_watched(session);
    let stage = Stage { rig: &rig, face, is_endless, zone: local_zone(), begins: None };
    let program = act.program(&stage, session)?;
    let feed = if is_endless { act.feed() } else { None };
    play_fed(&rig, &program, file, how, feed.as_ref(), session)
}
