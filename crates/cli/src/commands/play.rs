//! `play`: moving content on the rig's faces.
//!
//! On a terminal the picture is redrawn in place, each change at its deadline counted from the start. Off a
//! terminal the same frames are written one after another, as fast as they can be made.

use std::time::Duration;

use clap::{Args, Subcommand};
use serde::Serialize;
use spare_tile_core::bus::Ops;
use spare_tile_core::frame::Level;
use spare_tile_core::reel::count::Count;
use spare_tile_core::reel::selftest::SelfTest;
use spare_tile_core::reel::{Player, Reel, Track};
use spare_tile_core::units::parse_duration;

use crate::args::Base;
use crate::commands::show::PictureAnswer;
use crate::failure::{Failure, Outcome};
use crate::rigs::FaceOfRig;
use crate::session::Session;
use crate::view::{self, live::Live};
use crate::words::NumberForm;

/// Play moving content
#[derive(Subcommand)]
pub enum Play {
    Count(Box<PlayCount>),
    Test(PlayTest),
}

/// Count from one number to another, up or down
///
/// On a terminal the picture is redrawn in place until the end, q or Ctrl-C. Off a terminal, or with --frames,
/// the frames come one after another as fast as they can be made.
#[derive(Args)]
pub struct PlayCount {
    #[command(flatten)]
    rig: FaceOfRig,
    /// The first number
    #[arg(long, value_name = "N", default_value = "0", allow_negative_numbers = true)]
    from: i64,
    /// The last number; below the first it counts down
    #[arg(long, value_name = "N", allow_negative_numbers = true)]
    to: i64,
    /// How far each step goes
    #[arg(long, value_name = "N", default_value = "1", value_parser = clap::value_parser!(u64).range(1..))]
    step: u64,
    /// How long each number stays: 250ms, 1.5s, 2m
    #[arg(long, value_name = "TIME", default_value = "1s", value_parser = every)]
    every: Duration,
    /// How long the last number stays [default: as long as the others]
    #[arg(long, value_name = "TIME", value_parser = parse_duration)]
    hold: Option<Duration>,
    /// Begin again after the last number
    #[arg(long)]
    again: bool,
    #[command(flatten)]
    form: NumberForm,
    #[command(flatten)]
    how: How,
}

/// Test a face: each light alone, all going out in turn, 0 to 9 on each digit, all on
///
/// Compare with --frames what the display should show at each step, or with --ops what should go over its lines.
#[derive(Args)]
pub struct PlayTest {
    #[command(flatten)]
    rig: FaceOfRig,
    /// How long each step stays
    #[arg(long, value_name = "TIME", default_value = "250ms", value_parser = every)]
    every: Duration,
    /// Begin again after the last step
    #[arg(long)]
    again: bool,
    #[command(flatten)]
    how: How,
}

/// How long to play, and to what.
#[derive(Args)]
pub struct How {
    /// Play so long, whatever the content's own length
    #[arg(long = "for", value_name = "TIME", value_parser = parse_duration)]
    length: Option<Duration>,
    /// Write the frames one after another without waiting, even on a terminal
    #[arg(long)]
    frames: bool,
    /// Write what goes over the lines for each frame, in place of its picture
    #[arg(long)]
    ops: bool,
}

/// A frame of a face at a moment.
#[derive(Serialize)]
struct FrameAnswer<'a> {
    at_ms: f64,
    #[serde(flatten)]
    picture: PictureAnswer<'a>,
}

/// An operation of a frame at a moment.
#[derive(Serialize)]
struct OpAnswer<'a> {
    at_ms: f64,
    face: &'a str,
    role: &'a str,
    bytes: &'a str,
    note: &'a str,
}

fn every(text: &str) -> Result<Duration, String> {
    match parse_duration(text).map_err(|error| error.to_string())? {
        Duration::ZERO => Err("each number must stay for some time, such as 1s".to_owned()),
        every => Ok(every),
    }
}

/// Runs a `play` command.
pub fn run(play: &Play, session: &mut Session<'_>) -> Outcome {
    match play {
        Play::Count(count) => run_count(count, session),
        Play::Test(test) => run_test(test, session),
    }
}

fn run_test(play: &PlayTest, session: &mut Session<'_>) -> Outcome {
    let rig = play.rig.load(session)?;
    let mount = play.rig.pick(&rig)?;
    let test = SelfTest::of(mount, play.every, play.again);
    play_reel(&Reel { tracks: vec![Track { mount, act: Box::new(test) }] }, &play.how, session)
}

fn run_count(play: &PlayCount, session: &mut Session<'_>) -> Outcome {
    let rig = play.rig.load(session)?;
    let mount = play.rig.pick(&rig)?;
    let PlayCount { from, to, step, every, again, .. } = *play;
    let count =
        Count { from, to, step, every, hold: play.hold.unwrap_or(every), format: play.form.format(), again };
    count.check(&mount.face).map_err(|error| {
        let message = format!("the count from {from} to {to} does not fit face {}: {error}", mount.face.name);
        Failure::unusable(message, "count between shorter numbers, or pick a wider face")
    })?;
    play_reel(&Reel { tracks: vec![Track { mount, act: Box::new(count) }] }, &play.how, session)
}

/// Plays a reel as the options and the surroundings ask.
fn play_reel(reel: &Reel<'_>, how: &How, session: &mut Session<'_>) -> Outcome {
    let length = how.length.or(reel.length());
    if session.live && !how.frames && !how.ops && !session.json {
        play_live(reel, length, session)
    } else {
        let length = length.ok_or_else(|| {
            let message = "this plays for ever, and nobody is watching a terminal";
            Failure::unusable(message, "say how long: --for 15s")
        })?;
        if how.ops { write_ops(reel, length, session) } else { write_frames(reel, length, session) }
    }
}

/// Writes the operations of each frame that changes.
fn write_ops(reel: &Reel<'_>, length: Duration, session: &mut Session<'_>) -> Outcome {
    for track in &reel.tracks {
        let (drive, face) = (&track.mount.drive, &track.mount.face);
        let mut nodes = vec![Level::OFF; drive.wiring.node_count()];
        let (mut driver, mut ops) = (drive.ends.driver(), Ops::default());
        driver.power_up(&mut ops);
        let mut shown = None;
        let mut moment = Some(Duration::ZERO);
        while let Some(elapsed) = moment.filter(|elapsed| elapsed.is_zero() || *elapsed < length) {
            let mut frame = face.blank();
            track.act.draw(elapsed, face, &mut frame);
            if shown.as_ref() != Some(&frame) {
                drive.wiring.to_nodes(frame.levels(), &mut nodes);
                driver.frame(&nodes, &mut ops);
                shown = Some(frame);
            }
            for op in ops.iter() {
                let (role, bytes) = (op.role.name(), Base::Hex.write_all(op.bytes));
                let (note, at_ms) = (drive.explain(op.bytes), elapsed.as_secs_f64() * 1e3);
                if session.json {
                    session.write_json_line(&OpAnswer {
                        at_ms,
                        face: &face.name,
                        role,
                        bytes: &bytes,
                        note: &note,
                    })?;
                } else {
                    writeln!(session.out, "{:>9.3} s  {role:8}  {bytes}  {note}", elapsed.as_secs_f64())?;
                }
            }
            ops.clear();
            moment = track.act.next_change(elapsed);
        }
    }
    Ok(())
}

fn play_live(reel: &Reel<'_>, length: Option<Duration>, session: &mut Session<'_>) -> Outcome {
    let mut player = Player::new(reel);
    let mut live = Live::begin(session)?;
    let mut elapsed = Duration::ZERO;
    loop {
        if player.show_at(elapsed) {
            live.draw(&drawing(&mut player, session), session)?;
        }
        let next = player.next_change(elapsed).into_iter().chain(length).filter(|next| *next > elapsed).min();
        if let Some(stop) = live.wait_until(next)? {
            player.off();
            live.draw(&drawing(&mut player, session), session)?;
            live.end(session)?;
            return match stop {
                view::live::Stop::Quit => Ok(()),
                view::live::Stop::Interrupt => Err(Failure::interrupted()),
            };
        }
        match next {
            Some(next) if Some(next) != length => elapsed = next,
            _ => return live.end(session),
        }
    }
}

fn drawing(player: &mut Player<'_>, session: &Session<'_>) -> String {
    let pictures = player.pipelines().map(|pipeline| view::terminal(&pipeline.picture(), session));
    pictures.collect::<Vec<_>>().join("\n")
}

fn write_frames(reel: &Reel<'_>, length: Duration, session: &mut Session<'_>) -> Outcome {
    let mut player = Player::new(reel);
    let mut moment = Some(Duration::ZERO);
    while let Some(elapsed) = moment.filter(|elapsed| elapsed.is_zero() || *elapsed < length) {
        if player.show_at(elapsed) {
            for pipeline in player.pipelines() {
                let picture = pipeline.picture();
                if session.json {
                    let at_ms = elapsed.as_secs_f64() * 1e3;
                    session.write_json_line(&FrameAnswer { at_ms, picture: PictureAnswer::of(&picture) })?;
                } else {
                    let drawing = view::terminal(&picture, session);
                    writeln!(
                        session.out,
                        "{:.3} s  {}\n{drawing}",
                        elapsed.as_secs_f64(),
                        picture.face.name
                    )?;
                }
            }
        }
        moment = player.next_change(elapsed);
    }
    Ok(())
}
