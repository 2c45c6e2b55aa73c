//! `play`: moving content on the rig's faces.
//!
//! On a terminal the picture is redrawn in place, each change at its deadline counted from the start. Off a
//! terminal the same frames are written one after another, as fast as they can be made.

mod clock;
mod count;
mod export;
mod film;
pub mod frames;
mod how;
mod inline;
mod number;
mod ops;
pub mod outside;
pub mod reel;
mod sprite;
mod test;
mod text;
mod watch;

use std::path::PathBuf;
use std::time::Duration;

use clap::{Args, Subcommand};
use jiff::Timestamp;
use spare_tile_core::play::Value;
use spare_tile_core::units::parse_duration;

use super::firmware::target_names;
use crate::failure::Outcome;
use crate::rigs::FaceOfRig;
use crate::session::Session;
use how::How;

/// Play moving content: an act, or a reel file
///
/// A reel has several tracks, with acts one after another on each face, variables, and keys that do something:
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
    /// Say what each track shows when, and do not play
    ///
    /// Example: spare-tile play morning.reel.toml --check
    #[arg(long)]
    check: bool,
    /// Also say whether a program for this target can play it: c99, avr, setup-loop, mcs51, micropython, rust, pic-asm
    ///
    /// Example: spare-tile play morning.reel.toml --check --target c99
    #[arg(long, value_name = "TARGET", requires = "check", value_parser = target_names())]
    target: Option<String>,
    /// Read rig and reel again when their files change; a mistake keeps the last good picture and is said under it
    ///
    /// Example: spare-tile play morning.reel.toml --watch
    #[arg(long, conflicts_with = "check")]
    watch: bool,
    /// What a variable of the reel is at first
    ///
    /// Example: spare-tile play morning.reel.toml --set boat=DUNLIN --set minutes=7
    #[arg(long = "set", value_name = "NAME=VALUE", value_parser = setting)]
    settings: Vec<(String, Value)>,
    /// Press keys: each with its face where the rig has several, and when. It is held for 100 ms
    ///
    /// Example: spare-tile play morning.reel.toml --press desk.call1@1.2s,desk.call1@3s
    #[arg(long, value_name = "KEY@TIME", value_delimiter = ',', value_parser = press, conflicts_with = "check")]
    press: Vec<(String, Duration)>,
    /// When the reel begins: a time of today, a date and time, or one with its offset [default: now]
    ///
    /// A time without an offset is in the zone of this computer.
    ///
    /// Example: spare-tile play morning.reel.toml --at 2026-07-01T13:00+01:00
    #[arg(long, value_name = "TIME", conflicts_with = "check", value_parser = outside::moment)]
    at: Option<Timestamp>,
    /// Take values of variables from standard input as they come, a line NAME=VALUE each
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
    /// Count from one number to another, up or down
    Count(Box<count::PlayCount>),
    /// Show the time, the date, or the time to a moment
    Clock(Box<clock::PlayClock>),
    /// Show numbers as they come, from the command line or line by line from standard input
    Number(Box<number::PlayNumber>),
    /// Test a face: each light alone, all going out in turn, 0 to 9 on each digit, all on
    Test(Box<test::PlayTest>),
    /// Let texts pass across a face, or come one after another
    Text(Box<text::PlayText>),
    /// Play the frames of a sprite, or of a moving picture, on a face of dots
    Sprite(Box<sprite::PlaySprite>),
}

/// Reads what a variable is to be.
fn setting(text: &str) -> Result<(String, Value), String> {
    let (name, value) = text.split_once('=').ok_or("write a variable and its value, such as minutes=7")?;
    Ok((name.trim().to_owned(), Value::of(value)))
}

/// Reads which key is pressed, and when.
fn press(text: &str) -> Result<(String, Duration), String> {
    let (key, at) = text.rsplit_once('@').ok_or("write a key and when, such as desk.call1@1.2s")?;
    Ok((key.trim().to_owned(), parse_duration(at.trim()).map_err(|error| error.to_string())?))
}

/// Runs a `play` command.
pub fn run(play: &Play, session: &mut Session<'_>) -> Outcome {
    match (&play.act, &play.file) {
        (Some(PlayAct::Count(count)), _) => count::run(count, session),
        (Some(PlayAct::Clock(clock)), _) => clock::run(clock, session),
        (Some(PlayAct::Number(number)), _) => number::run(number, session),
        (Some(PlayAct::Test(test)), _) => test::run(test, session),
        (Some(PlayAct::Text(text)), _) => text::run(text, session),
        (Some(PlayAct::Sprite(sprite)), _) => sprite::run(sprite, session),
        (None, Some(file)) => {
            let Play { rig, how, settings, press, check, target, watch, at, feed, .. } = play;
            let (checks, watches, is_fed) = (*check, *watch, *feed);
            let (begins, target) = (*at, target.as_deref());
            let asked =
                reel::Asked { rig, how, settings, presses: press, begins, checks, target, watches, is_fed };
            reel::run(file, &asked, session)
        }
        (None, None) => Ok(()),
    }
}
