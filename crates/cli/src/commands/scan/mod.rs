//! `scan`: the plan of a scan, what the eye gets of it, and the scan slowed down.

mod answer;
mod print;

use std::path::{Path, PathBuf};
use std::time::Duration;

use clap::Args;
use spare_tile_core::board::Board;
use spare_tile_core::board::seen::Sight;
use spare_tile_core::capture::vcd::{self, Scope};
use spare_tile_core::content::{Canvas, Content};
use spare_tile_core::face::Element;
use spare_tile_core::frame::{Frame, Level};
use spare_tile_core::plan::{BothRigs, Mount, scan as plan};
use spare_tile_core::play::scheduler::Scheduler;
use spare_tile_core::play::slow;
use spare_tile_core::play::stall::{Stall, fates};
use spare_tile_core::play::turn::Turn;
use spare_tile_core::units::{Nanos, parse_duration};

use answer::{Answer, SlowAnswer};

use crate::exports::{self, DrawingFiles, Moving, dump::ValueChanges, gif::Film};
use crate::failure::{Failure, Outcome};
use crate::rigs::{BuiltFile, FaceOfRig};
use crate::session::Session;
use crate::shown::Shown;
use crate::view::live::{Live, Woken};
use crate::view::{self, timing};

/// Plan the scan of a face, and see what the eye gets of it
///
/// The perceived light is worked out from the edges on the lines, not from the plan. For a face that the controller
/// does not scan, the pins of every method are listed.
#[derive(Args)]
#[command(mut_arg("text", |text| text.long_help(TEXT_HELP).help(TEXT_HELP)))]
pub struct Scan {
    /// Let the program block regularly, such as "40ms every 1s"
    ///
    /// Example: spare-tile scan --stall "40ms every 1s"
    #[arg(long, value_name = "STALL", conflicts_with = "stall_for")]
    stall: Option<Stall>,
    /// Let the program block once for this time
    ///
    /// Example: spare-tile scan --stall-for 40ms
    #[arg(long, value_name = "TIME", value_parser = parse_duration)]
    stall_for: Option<Duration>,
    /// Play the scan slower by this factor, then faster and faster until it fuses: 200x
    ///
    /// Example: spare-tile scan --slow 200x
    #[arg(long, value_name = "TIMES", value_parser = times)]
    slow: Option<f64>,
    /// Write the slow motion as GIF [default: 200 times slower]
    ///
    /// Example: spare-tile scan --gif slow.gif
    #[arg(long, help_heading = "Files", value_name = "FILE")]
    gif: Option<PathBuf>,
    /// Write the lines as a value change dump (IEEE 1364) for a waveform viewer
    ///
    /// Example: spare-tile scan --vcd scan.vcd --turns 2
    #[arg(long, help_heading = "Files", value_name = "FILE")]
    vcd: Option<PathBuf>,
    /// The number of scan cycles in the dump
    ///
    /// Example: spare-tile scan --vcd scan.vcd --turns 2
    #[arg(long, help_heading = "Files", value_name = "N", default_value = "1", value_parser = clap::value_parser!(u32).range(1..=10_000))]
    turns: u32,
    #[command(flatten)]
    rig: FaceOfRig,
    #[command(flatten)]
    built: BuiltFile,
    #[command(flatten)]
    shown: Shown,
    /// The timing diagram
    #[command(flatten)]
    drawing: DrawingFiles,
}

const TEXT_HELP: &str = "What is shown meanwhile: a text, or for dots rows of them too: \".##./#..#\"; a - alone is \
                         standard input [default: 1234..., or all dots]\n\nExample: spare-tile scan 12.34";

/// How many times slower: `200x` or `200`.
fn times(text: &str) -> Result<f64, String> {
    let number = text.strip_suffix('x').unwrap_or(text).parse::<f64>().ok();
    number
        .filter(|times| (1.0..=100_000.0).contains(times))
        .ok_or_else(|| "write how many times slower, from 1x to 100000x, such as 200x".to_owned())
}

/// Runs `scan`.
pub fn run(scan: &Scan, session: &mut Session<'_>) -> Outcome {
    let rig = scan.rig.load(session)?;
    let face = scan.rig.place(&rig)?;
    let other = scan.built.load(&scan.rig, &rig, session)?;
    let rigs = BothRigs::new(&rig, other.as_ref());
    let mount = &rig.faces[face];
    let (words, frame) = shown(&scan.shown, mount, session)?;
    let turn = Turn::record(rigs, face, &frame)?;
    if turn.is_none()
        && (scan.gif.is_some() || scan.vcd.is_some() || scan.slow.is_some() || scan.drawing.any())
    {
        let message =
            format!("face {} is not scanned by the controller: there is no turn to show", mount.face.name);
        let help = "pick a face with a scan, or see its traffic: spare-tile bytes TEXT --vcd FILE";
        return Err(Failure::unusable(message, help));
    }
    if let (Some(slowed), Some(turn)) = (scan.slow, &turn)
        && scan.gif.is_none()
    {
        return play_slow(slowed, mount, turn, session);
    }
    let plan = plan::plan(&rig, mount);
    let eye = plan.scan.is_some().then(|| what_is_seen(rigs, face, &frame)).transpose()?;
    let fates = stall(scan).map(|stall| fates(rigs, face, &frame, stall).map(|fates| (stall, fates)));
    let fates = fates.transpose()?;
    if session.json {
        session.write_json(&Answer::of(mount, &plan, eye.as_deref(), fates.as_ref(), &words))?;
    } else {
        print::print(mount, &plan, eye.as_deref(), &words, session)?;
        if let Some((stall, fates)) = &fates {
            print::print_fates(*stall, fates.as_deref(), mount, session)?;
        }
    }
    write_files(scan, mount, turn.as_ref(), &words, session)
}

/// The words for the content, and its frame. By default all dots are lit, or each digit shows another figure, which shows their
/// order.
fn shown(shown: &Shown, mount: &Mount, session: &mut Session<'_>) -> Result<(String, Frame), Failure> {
    let face = &mount.face;
    if let Some(words) = shown.called()? {
        return Ok((words, shown.frame(mount, session)?));
    }
    let mut frame = face.blank();
    if face.dots().is_some() {
        frame.levels_mut().fill(Level::FULL);
        return Ok(("all dots".to_owned(), frame));
    }
    let words: String = "1234567890".chars().cycle().take(face.digits()).collect();
    Content::of_words(&words, None, None, None, face)
        .and_then(|content| content.draw(&mut Canvas::whole(face, &mut frame)))
        .map_err(|error| Failure::of_content(&error, &face.name))?;
    Ok((words, frame))
}

fn stall(scan: &Scan) -> Option<Stall> {
    scan.stall.or_else(|| scan.stall_for.map(|length| Stall { length: length.into(), every: None }))
}

/// The perceived light of a select.
struct Seen {
    name: String,
    /// Of its brightest light.
    sight: Sight,
    /// The light of what should be dark on it, against that of what is lit anywhere.
    ghost: f64,
}

/// The perceived light of each digit, row or column that is selected, over some scan cycles.
fn what_is_seen(rigs: BothRigs<'_>, face: usize, frame: &Frame) -> Result<Vec<Seen>, Failure> {
    const TURNS: usize = 8;
    let mut scheduler = Scheduler::new(rigs.described, Board::built_as(rigs));
    scheduler.power_up(face)?;
    scheduler.show(face, frame)?;
    scheduler.settle(face)?;
    for _ in 0..TURNS {
        scheduler.run_turn(face)?;
    }
    let end = scheduler.now();
    let sights = scheduler.link_mut().sights(face, end);
    let full = sights.iter().map(|sight| sight.light).fold(0.0, f64::max);
    let seen = |(name, elements): (String, Vec<Element>)| {
        let is_wanted = |element: &Element| frame.levels()[element.0] != Level::OFF;
        let brightest = |wanted: bool| {
            let of_kind = elements.iter().filter(|element| is_wanted(element) == wanted);
            of_kind
                .map(|element| sights[element.0])
                .max_by(|a, b| a.light.total_cmp(&b.light))
                .unwrap_or_default()
        };
        let ghost = if full > 0.0 { brightest(false).light / full } else { 0.0 };
        Seen { name, sight: brightest(true), ghost }
    };
    let mount = &rigs.described.faces[face];
    Ok(mount.drive.display().selected(&mount.face).into_iter().map(seen).collect())
}

/// Between two pictures of the slow motion.
const PIECE: Duration = Duration::from_millis(40);

fn play_slow(slowed: f64, mount: &Mount, turn: &Turn<'_>, session: &mut Session<'_>) -> Outcome {
    let lines = &mount.lines;
    let mut replay = turn.replay();
    if !session.live || session.json {
        // One turn, each moment that differs from the one before.
        let mut last = String::new();
        let pieces = slow::timetable(turn.length, slowed, PIECE);
        let (mut passed, mut at) = (Nanos(0), Duration::ZERO);
        for piece in pieces.take_while(|piece| piece.slowed == slowed) {
            passed = passed + piece.passes;
            if passed > turn.length {
                break;
            }
            let (picture, levels) = replay.play(piece.passes);
            let drawing = view::slow::text(&picture, lines, levels, slowed, session);
            if drawing != last && session.json {
                let bits =
                    lines.iter().zip(levels).map(|(line, level)| (line.role.as_str(), *level)).collect();
                session.write_json_line(&SlowAnswer {
                    at_ms: at.as_secs_f64() * 1e3,
                    scan_us: passed.as_micros(),
                    bits,
                })?;
            } else if drawing != last {
                writeln!(session.out, "{passed}\n{drawing}\n")?;
            }
            last = drawing;
            at += piece.shown;
        }
        return Ok(());
    }
    let mut live = Live::begin(session)?;
    let mut at = Duration::ZERO;
    let mut last = String::new();
    for piece in slow::timetable(turn.length, slowed, PIECE) {
        let (picture, levels) = replay.play(piece.passes);
        let drawing = view::slow::text(&picture, lines, levels, piece.slowed, session);
        if drawing != last {
            live.draw(&drawing, session)?;
            last = drawing;
        }
        at += piece.shown;
        loop {
            match live.wait_until(Some(at), session)? {
                Woken::Due => break,
                Woken::Redraw => {
                    last = view::slow::text(&picture, lines, levels, piece.slowed, session);
                    live.draw(&last, session)?;
                }
                stop => {
                    live.end(session)?;
                    return if stop == Woken::Quit { Ok(()) } else { Err(Failure::interrupted()) };
                }
            }
        }
    }
    live.end(session)
}

fn write_files(
    scan: &Scan,
    mount: &Mount,
    turn: Option<&Turn<'_>>,
    words: &str,
    session: &mut Session<'_>,
) -> Outcome {
    let Some(turn) = turn else { return Ok(()) };
    scan.drawing.write(|| timing::draw(mount, turn, words), session)?;
    if let Some(path) = &scan.vcd {
        write_dump(path, mount, turn, scan.turns, session)?;
    }
    if let Some(path) = &scan.gif {
        let slowed = scan.slow.unwrap_or(200.0);
        check_length(turn, slowed)?;
        let (mut film, length) = film(mount, turn, slowed).map_err(Failure::unusable_plainly)?;
        exports::write_moving(path, &mut film, length, session)?;
    }
    Ok(())
}

/// The slow motion as GIF, and its length.
fn film(mount: &Mount, turn: &Turn<'_>, slowed: f64) -> Result<(Film, Duration), String> {
    let mut replay = turn.replay();
    let (mut film, mut at) = (Film::default(), Duration::ZERO);
    for piece in slow::timetable(turn.length, slowed, PIECE) {
        let (picture, levels) = replay.play(piece.passes);
        film.show(view::slow::draw(&picture, &mount.lines, levels, piece.slowed), at)?;
        at += piece.shown;
    }
    Ok((film, at))
}

/// The longest show that is kept as a picture.
const MOST_SHOWN: Duration = Duration::from_secs(180);

/// Refuses a picture that takes too long to watch.
fn check_length(turn: &Turn<'_>, slowed: f64) -> Outcome {
    let long = slow::length(turn.length, slowed);
    if long <= MOST_SHOWN {
        return Ok(());
    }
    let (most, long) = (Nanos::from(MOST_SHOWN), Nanos::from(long));
    let message = format!("{slowed} times slower the show takes {long}; as a GIF it may take {most}");
    let fits = (slowed * most.0 as f64 / long.0 as f64 * 0.9).floor().max(1.0);
    Err(Failure::unusable(message, format!("play it slower on a terminal only, or write --slow {fits}x")))
}

/// Writes so many turns as a dump.
fn write_dump(path: &Path, mount: &Mount, turn: &Turn<'_>, turns: u32, session: &mut Session<'_>) -> Outcome {
    exports::write_and_tell(path, &ValueChanges, session, |out| {
        let mut dump = vcd::Dump::begin(out, &[Scope::of(mount, turn.levels.clone(), &[])])?;
        for index in 0..u64::from(turns) {
            let begin = Nanos(turn.length.0 * index);
            for edge in &turn.edges {
                dump.change(begin + edge.at, edge.line, edge.level)?;
            }
        }
        dump.end(Nanos(turn.length.0 * u64::from(turns)))
    })
}
