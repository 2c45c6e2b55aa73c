//! `play`: moving content on the rig's faces.
//!
//! On a terminal the picture is redrawn in place, each change at its deadline counted from the start. Off a
//! terminal the same frames are written one after another, as fast as they can be made.

mod clock;
mod export;
mod gif;
mod number;
mod reel;
mod sprite;
mod text;
mod watch;

use std::path::PathBuf;
use std::time::Duration;

use clap::{Args, Subcommand};
use jiff::Timestamp;
use serde::Serialize;
use spare_tile_core::board::Board;
use spare_tile_core::board::link::{Link, Tap};
use spare_tile_core::board::picture::Picture;
use spare_tile_core::bus::{Op, Reply};
use spare_tile_core::content::number::Decimal;
use spare_tile_core::plan::teller::Teller;
use spare_tile_core::plan::{DeviceId, Mount, Rig};
use spare_tile_core::play::count::{Count, CountError, Pace, Range};
use spare_tile_core::play::reel::Program;
use spare_tile_core::play::selftest::SelfTest;
use spare_tile_core::play::{Player, Reel, Track, Value};
use spare_tile_core::units::parse_duration;

use crate::args::Base;
use crate::commands::show::PictureAnswer;
use crate::failure::{Failure, Outcome};
use crate::feed::Feed;
use crate::lettering::LookArgs;
use crate::rigs::{BuiltFile, FaceOfRig};
use crate::session::Session;
use crate::view;
use crate::view::live::{Live, Woken};
use crate::words::NumberForm;

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
    Count(Box<PlayCount>),
    /// Show the time, the date, or the time to a moment
    Clock(Box<clock::PlayClock>),
    /// Show numbers as they come, from the command line or line by line from standard input
    Number(Box<number::PlayNumber>),
    /// Test a face: each light alone, all going out in turn, 0 to 9 on each digit, all on
    Test(Box<PlayTest>),
    /// Let texts pass across a face, or come one after another
    Text(Box<text::PlayText>),
    /// Play the frames of a sprite, or of a moving picture, on a face of dots
    Sprite(Box<sprite::PlaySprite>),
}

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

/// The longest that is played where nobody is watching.
const LONGEST: Duration = Duration::from_secs(24 * 3600);

/// Reads how long to play. What nobody waits for to its end is a slip of the pen.
fn parse_length(text: &str) -> Result<Duration, String> {
    let length = parse_duration(text).map_err(|error| error.to_string())?;
    if length > LONGEST {
        Err(format!("{text} is more than a day; write 24h or less, or leave it out"))
    } else {
        Ok(length)
    }
}

/// How long to play, and to what.
#[derive(Args)]
#[command(next_help_heading = "Playing")]
pub struct How {
    /// Play so long, at most a day, whatever the content's own length
    ///
    /// Example: spare-tile play count --for 10s
    #[arg(long = "for", value_name = "TIME", value_parser = parse_length)]
    length: Option<Duration>,
    /// Write the frames one after another without waiting, even on a terminal
    ///
    /// Example: spare-tile play count --to 9 --frames
    #[arg(long)]
    frames: bool,
    /// On a terminal, draw below what is there, in place of taking the whole screen
    ///
    /// Example: spare-tile play count --inline
    #[arg(long)]
    inline: bool,
    /// Write what goes over the lines, in place of pictures
    ///
    /// Example: spare-tile play count --to 9 --ops
    #[arg(long)]
    ops: bool,
    /// Write it as GIF, its times to the hundredth of a second
    ///
    /// Example: spare-tile play text TEAL --gif teal.gif
    #[arg(long, value_name = "FILE", conflicts_with = "ops")]
    gif: Option<PathBuf>,
    /// Write its pictures side by side as PNG, each with its time
    ///
    /// Example: spare-tile play count --to 9 --png-sheet count.png
    #[arg(long, value_name = "FILE", conflicts_with = "ops")]
    png_sheet: Option<PathBuf>,
    /// Write what the lines do as a value change dump (IEEE 1364) for a waveform viewer
    ///
    /// Example: spare-tile play count --to 9 --every 10ms --vcd count.vcd
    #[arg(long, value_name = "FILE", conflicts_with = "ops")]
    vcd: Option<PathBuf>,
    #[command(flatten)]
    built: BuiltFile,
}

impl How {
    /// Whether it is written into a file.
    const fn has_file(&self) -> bool {
        self.gif.is_some() || self.png_sheet.is_some() || self.vcd.is_some()
    }

    /// Whether a person watches it in a terminal, for as long as they like.
    fn is_watched(&self, session: &Session<'_>) -> bool {
        session.live && !self.frames && !self.ops && !self.has_file() && !session.json
    }

    /// How often what has an end plays where that is not said: for as long as someone watches, else once.
    fn times(&self, said: Option<u32>, session: &Session<'_>) -> Option<u32> {
        said.or((!self.is_watched(session)).then_some(1))
    }
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

/// A moment in milliseconds, exact where that is a whole number of nanoseconds.
fn millis(at: Duration) -> f64 {
    at.as_nanos() as f64 / 1e6
}

fn every(text: &str) -> Result<Duration, String> {
    match parse_duration(text).map_err(|error| error.to_string())? {
        Duration::ZERO => Err("each number must stay for some time, such as 1s".to_owned()),
        every => Ok(every),
    }
}

/// Reads what a variable is to be.
fn setting(text: &str) -> Result<(String, Value), String> {
    let (name, value) = text.split_once('=').ok_or("write a variable and its value, such as minutes=7")?;
    Ok((name.trim().to_owned(), Value::of(value)))
}

/// Runs a `play` command.
pub fn run(play: &Play, session: &mut Session<'_>) -> Outcome {
    match (&play.act, &play.file) {
        (Some(PlayAct::Count(count)), _) => run_count(count, session),
        (Some(PlayAct::Clock(clock)), _) => clock::run(clock, session),
        (Some(PlayAct::Number(number)), _) => number::run(number, session),
        (Some(PlayAct::Test(test)), _) => run_test(test, session),
        (Some(PlayAct::Text(text)), _) => text::run(text, session),
        (Some(PlayAct::Sprite(sprite)), _) => sprite::run(sprite, session),
        (None, Some(file)) => {
            let Play { rig, how, settings, check, watch, .. } = play;
            let asked = reel::Asked { rig, how, settings, checks: *check, watches: *watch };
            reel::run(file, &asked, session)
        }
        (None, None) => Ok(()),
    }
}

fn run_test(play: &PlayTest, session: &mut Session<'_>) -> Outcome {
    let rig = play.rig.load(session)?;
    let face = play.rig.place(&rig)?;
    let test = SelfTest::of(&rig.faces[face], play.every, play.again);
    let tracks = vec![Track { face, act: Box::new(test) }];
    play_reel(&rig, Reel { tracks }, &play.rig, &play.how, session)
}

fn run_count(play: &PlayCount, session: &mut Session<'_>) -> Outcome {
    let rig = play.rig.load(session)?;
    let face = play.rig.place(&rig)?;
    let mount = &rig.faces[face];
    let PlayCount { from, to, step, every, again, .. } = *play;
    let range = Range { from, to, step };
    let pace = Pace { every, hold: play.hold.unwrap_or(every), again };
    let look = mount.face.dots().map(|_| play.look.look()).transpose()?;
    let count = Count::new(range, pace, play.form.format(), (look, &mount.face)).map_err(|error| {
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

/// Plays a reel as the options and the surroundings ask.
fn play_reel(rig: &Rig, reel: Reel, file: &FaceOfRig, how: &How, session: &mut Session<'_>) -> Outcome {
    let program = Program { reel, ..Program::default() };
    play_program(rig, &program, file, how, session)
}

/// Plays a program as the options and the surroundings ask.
fn play_program(
    rig: &Rig,
    program: &Program,
    file: &FaceOfRig,
    how: &How,
    session: &mut Session<'_>,
) -> Outcome {
    play_fed(rig, program, (file, how), None, session)
}

/// The same with values that come while someone watches.
fn play_fed(
    rig: &Rig,
    program: &Program,
    (file, how): (&FaceOfRig, &How),
    feed: Option<&Feed>,
    session: &mut Session<'_>,
) -> Outcome {
    let other = how.built.load(&file.file, rig, session)?;
    let built = other.as_ref().unwrap_or(rig);
    let length = how.length.or(program.length());
    let new_player = || -> Result<_, Failure> {
        let mut player = Player::of_program(rig, program, Board::built_as(rig, built))?;
        follow_wall(&mut player, Duration::ZERO);
        Ok(player)
    };
    if how.is_watched(session) {
        if how.inline {
            return play_live(new_player()?, (length, feed), session);
        }
        return watch::run((rig, built), program, watch::View::of(length, feed), session).map(|_| ());
    }
    let too_long = |long: &str| {
        let message = format!("this plays {long}, and the output is not a terminal");
        Failure::unusable(message, "say how long: --for 15s")
    };
    let length = length.ok_or_else(|| too_long("forever"))?;
    if length > LONGEST {
        return Err(too_long("for more than a day"));
    }
    if how.has_file() {
        let place = file.place(rig)?;
        let name = &rig.faces[place].face.name;
        if let Some(path) = &how.gif {
            gif::write(new_player()?, length, (name, path), session)?;
        }
        if let Some(path) = &how.png_sheet {
            export::sheet(new_player()?, length, (name, path), session)?;
        }
        if let Some(path) = &how.vcd {
            export::dump((rig, built), program, length, (place, path), session)?;
        }
        Ok(())
    } else if how.ops {
        write_ops((rig, built), program, length, session)
    } else {
        write_frames(new_player()?, length, session)
    }
}

/// Writes the operations as they go over the buses, of all faces in the order of their moments.
fn write_ops(
    (rig, built): (&Rig, &Rig),
    program: &Program,
    length: Duration,
    session: &mut Session<'_>,
) -> Outcome {
    let tellers: Vec<_> = rig.faces.iter().map(|mount| (mount, Teller::new(mount))).collect();
    let of_device = |id: DeviceId| tellers.iter().find(|(mount, _)| mount.device == id);
    let mut written: Outcome = Ok(());
    let tell = |id: DeviceId, op: &Op<'_>, reply: &Reply, _: &mut Board<'_>| {
        if let Some((mount, teller)) = of_device(id).filter(|_| written.is_ok()) {
            written = write_op(mount, teller, op, reply, session);
        }
    };
    let mut player = Player::of_program(rig, program, Tap { link: Board::built_as(rig, built), tell })?;
    follow_wall(&mut player, Duration::ZERO);
    // The end itself is no longer played: what is due at that moment does not come.
    player.advance(length.saturating_sub(Duration::from_nanos(1)))?;
    drop(player);
    written
}

fn write_op(
    mount: &Mount,
    teller: &Teller<'_>,
    op: &Op<'_>,
    reply: &Reply,
    session: &mut Session<'_>,
) -> Outcome {
    let bytes: Vec<u8> = op.transfer.on_the_wire().collect();
    let (role, bytes) = (op.role.name(), Base::Hex.write_all(&bytes));
    let (note, at) = (teller.of_transfer(&op.transfer), Duration::from(reply.began));
    let face = mount.face.name.as_str();
    if session.json {
        let at_ms = millis(at);
        return session.write_json_line(&OpAnswer { at_ms, face, role, bytes: &bytes, note: &note });
    }
    Ok(writeln!(session.out, "{:>11.6} s  {role:8}  {bytes}  {note}", at.as_secs_f64())?)
}

/// How far the clock of this computer may be from where it should be by now; beyond that it was set.
const SET_BY: Duration = Duration::from_millis(50);

/// How often values from outside are looked for.
const LOOK_AT_FEED: Duration = Duration::from_millis(20);

/// Takes note of the values that have come by now.
fn take_values<L: Link>(player: &mut Player<'_, L>, feed: Option<&Feed>, now: Duration) {
    let Some(feed) = feed.filter(|_| !player.transport().is_held()) else { return };
    let act = player.transport().act_time(now);
    let mut came = false;
    for value in feed.take() {
        player.inputs_mut().note(&feed.variable, act, value);
        came = true;
    }
    if came {
        player.look_again();
    }
}

/// How often the clock of this computer is looked at.
const LOOK_AT_WALL: Duration = Duration::from_secs(1);

/// Takes note of the clock of this computer, when playing begins and whenever it was set since. While the acts are held or hurried
/// their time is not ours.
fn follow_wall<L: Link>(player: &mut Player<'_, L>, now: Duration) {
    if !player.transport().is_true() {
        return;
    }
    let (act, time) = (player.transport().act_time(now), Timestamp::now());
    let off = time.as_nanosecond() - player.inputs().wall(act);
    if !player.inputs().has_wall() || off.unsigned_abs() > SET_BY.as_nanos() {
        player.inputs_mut().set_wall(act, time);
        player.look_again();
    }
}

/// Plays on a terminal. Each picture is what the eye has got by the time it is drawn.
fn play_live<'p>(
    mut player: Player<'p, Board<'p>>,
    (length, feed): (Option<Duration>, Option<&Feed>),
    session: &mut Session<'_>,
) -> Outcome {
    let mut live = Live::begin(session)?;
    let mut elapsed = Duration::ZERO;
    loop {
        follow_wall(&mut player, live.elapsed());
        take_values(&mut player, feed, live.elapsed());
        if player.advance(elapsed)? {
            let seen = player.expose(None)?;
            live.draw(&drawing(&mut player, session), session)?;
            elapsed = elapsed.max(seen);
        }
        // What came due meanwhile is looked at once, as it is by then.
        let next = player.next_moment().map(|next| next.max(live.elapsed()).max(elapsed));
        let look = live.elapsed() + if feed.is_some() { LOOK_AT_FEED } else { LOOK_AT_WALL };
        let next = next.into_iter().chain(length).chain([look]).min();
        let stop = loop {
            match live.wait_until(next, session)? {
                Woken::Redraw => live.draw(&drawing(&mut player, session), session)?,
                Woken::Due => break None,
                stop => break Some(stop),
            }
        };
        if let Some(stop) = stop {
            player.off()?;
            player.expose(None)?;
            live.draw(&drawing(&mut player, session), session)?;
            live.end(session)?;
            return if stop == Woken::Quit { Ok(()) } else { Err(Failure::interrupted()) };
        }
        match next {
            Some(next) if length.is_none_or(|length| next < length) => elapsed = next,
            _ => return live.end(session),
        }
    }
}

fn drawing<'p>(player: &mut Player<'p, Board<'p>>, session: &Session<'_>) -> String {
    let pictures = player.pictures();
    pictures.iter().map(|picture| view::terminal(picture, session)).collect::<Vec<_>>().join("\n")
}

/// Writes the picture of each frame, as fast as they can be made: of each face that looks different.
fn write_frames<'p>(player: Player<'p, Board<'p>>, length: Duration, session: &mut Session<'_>) -> Outcome {
    let mut written: Vec<Vec<f32>> = Vec::new();
    walk(player, length, |pictures, time| {
        written.resize(pictures.len().max(written.len()), Vec::new());
        for (picture, before) in pictures.iter().zip(&mut written) {
            if *before == picture.light {
                continue;
            }
            before.clone_from(&picture.light);
            let at = time.start.as_secs_f64();
            if session.json {
                let (at_ms, picture) = (millis(time.start), PictureAnswer::of(picture));
                session.write_json_line(&FrameAnswer { at_ms, picture })?;
            } else {
                let (drawing, name) = (view::terminal(picture, session), &picture.face.name);
                writeln!(session.out, "{at:.3} s  {name}\n{drawing}")?;
            }
        }
        Ok(())
    })
}

/// Goes from moment to moment without waiting: what is to be seen anew, which may be nothing, and for how long it stays.
fn walk<'p>(
    mut player: Player<'p, Board<'p>>,
    length: Duration,
    mut seen: impl FnMut(&[Picture<'_>], std::ops::Range<Duration>) -> Outcome,
) -> Outcome {
    let mut elapsed = Duration::ZERO;
    loop {
        let changed = player.advance(elapsed)?;
        let next = player.next_moment().filter(|next| *next < length);
        let mut pictures = Vec::new();
        if changed {
            player.expose(next)?;
            pictures = player.pictures();
        }
        seen(&pictures, elapsed..next.unwrap_or(length))?;
        match next {
            Some(next) => elapsed = next,
            None => return Ok(()),
        }
    }
}
