//! `scan`: the plan of a scan, what the eye gets of it, and the scan slowed down.

use std::path::PathBuf;
use std::time::Duration;

use clap::Args;
use serde::Serialize;
use spare_tile_core::bus::Edge;
use spare_tile_core::capture::vcd::{self, Scope};
use spare_tile_core::dots;
use spare_tile_core::face::Face;
use spare_tile_core::frame::{Frame, Level};
use spare_tile_core::glyph::text::{self, Align, Field};
use spare_tile_core::pipeline::Pipeline;
use spare_tile_core::rig::Mount;
use spare_tile_core::scan::eye::Sight;
use spare_tile_core::scan::plan::{self, Plan};
use spare_tile_core::scan::recording::Recording;
use spare_tile_core::scan::slow;
use spare_tile_core::scan::stall::{Fate, Stall, fates};
use spare_tile_core::units::{Nanos, parse_duration};

use crate::failure::{Complaint, Failure, Outcome};
use crate::files::{self, DrawingFiles};
use crate::rigs::FaceOfRig;
use crate::session::Session;
use crate::view::columns::Columns;
use crate::view::live::{Live, Stop};
use crate::view::{self, gif, timing};

/// Plan the scan of a face, and see what the eye gets of it
///
/// What the eye gets is worked out from the edges on the lines, not from the plan. For a face that the controller
/// does not scan, the pins of every way of driving it are told.
#[derive(Args)]
pub struct Scan {
    #[command(flatten)]
    rig: FaceOfRig,
    /// What is shown meanwhile; for dots their rows: ".##./#..#" [default: 1234..., or all dots]
    #[arg(allow_negative_numbers = true)]
    text: Option<String>,
    /// Let the program block now and then, such as "40ms every 1s"
    #[arg(long, value_name = "STALL", conflicts_with = "stall_for")]
    stall: Option<Stall>,
    /// Let the program block once for so long
    #[arg(long, value_name = "TIME", value_parser = parse_duration)]
    stall_for: Option<Duration>,
    /// Play the scan so many times slower, then faster and faster until it fuses: 200x
    #[arg(long, value_name = "TIMES", value_parser = times)]
    slow: Option<f64>,
    /// Write the slow motion as GIF; without --slow 200 times slower
    #[arg(long, value_name = "FILE")]
    gif: Option<PathBuf>,
    /// Write the lines as a value change dump (IEEE 1364) for a waveform viewer
    #[arg(long, value_name = "FILE")]
    vcd: Option<PathBuf>,
    /// How many turns of the scan the dump has
    #[arg(long, value_name = "N", default_value = "1", value_parser = clap::value_parser!(u32).range(1..=10_000))]
    turns: u32,
    /// The timing diagram
    #[command(flatten)]
    drawing: DrawingFiles,
}

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
    let mount = scan.rig.pick(&rig)?;
    let (words, frame) = shown(scan.text.as_deref(), &mount.face)?;
    let turn = Recording::of(mount, &frame);
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
    let plan = plan::plan(mount);
    let eye = plan.scan.is_some().then(|| what_is_seen(mount, &frame));
    let fates = stall(scan).map(|stall| (stall, fates(mount, &frame, stall)));
    if session.json {
        session.write_json(&Answer::of(mount, &plan, eye.as_deref(), fates.as_ref(), &words))?;
    } else {
        print(mount, &plan, eye.as_deref(), &words, session)?;
        if let Some((stall, fates)) = &fates {
            print_fates(*stall, fates.as_deref(), mount, session)?;
        }
    }
    write_files(scan, mount, turn.as_ref(), &words, session)
}

/// The text and its frame. Without one, each digit shows another, so that their order can be seen.
fn shown(text: Option<&str>, face: &Face) -> Result<(String, Frame), Failure> {
    let mut frame = face.blank();
    if face.dots.width > 0 {
        match text {
            None => frame.levels_mut().fill(Level::FULL),
            Some(rows) => dots::write(rows, face, &mut frame).map_err(|error| {
                Failure::unusable(error.to_string(), "write the dots in rows: \".##./#..#\"")
            })?,
        }
        return Ok((text.unwrap_or("all dots").to_owned(), frame));
    }
    let words = text.map_or_else(|| "1234567890".chars().cycle().take(face.digits).collect(), str::to_owned);
    text::write(&words, face, Field::whole(face, Align::Left), &mut frame)
        .map_err(|error| Failure::of_text(&error, &words))?;
    Ok((words, frame))
}

fn stall(scan: &Scan) -> Option<Stall> {
    scan.stall.or_else(|| scan.stall_for.map(|length| Stall { length: length.into(), every: None }))
}

/// What is perceived of a select.
struct Seen {
    name: String,
    /// Of its brightest light.
    sight: Sight,
    /// The light of what should be dark on it, against that of what is lit anywhere.
    ghost: f64,
}

/// What the eye gets of each digit, row or column over some turns.
fn what_is_seen(mount: &Mount, frame: &Frame) -> Vec<Seen> {
    const TURNS: usize = 8;
    let mut pipeline = Pipeline::new(mount);
    pipeline.power_up();
    pipeline.show(frame);
    pipeline.turn();
    pipeline.open_eye();
    for _ in 0..TURNS {
        pipeline.turn();
    }
    let sights = pipeline.sights();
    let full = sights.iter().map(|sight| sight.light).fold(0.0, f64::max);
    let face = &mount.face;
    let groups: Vec<(String, Vec<usize>)> = if face.dots.width > 0 {
        let row = |y| (format!("row {y}"), (0..face.dots.width).map(|x| face.dot(x, y).0).collect());
        (0..face.dots.height).map(row).collect()
    } else {
        let segments = 0..face.style.segment_count();
        let digit =
            |digit| (format!("digit {digit}"), segments.clone().map(|s| face.element(digit, s).0).collect());
        (0..face.digits).map(digit).collect()
    };
    let seen = |(name, elements): (String, Vec<usize>)| {
        let is_wanted = |element: &usize| frame.levels()[*element] != Level::OFF;
        let brightest = |wanted: bool| {
            let of_kind = elements.iter().filter(|element| is_wanted(element) == wanted);
            of_kind
                .map(|element| sights[*element])
                .max_by(|a, b| a.light.total_cmp(&b.light))
                .unwrap_or_default()
        };
        let ghost = if full > 0.0 { brightest(false).light / full } else { 0.0 };
        Seen { name, sight: brightest(true), ghost }
    };
    groups.into_iter().map(seen).collect()
}

fn print(
    mount: &Mount,
    plan: &Plan,
    eye: Option<&[Seen]>,
    words: &str,
    session: &mut Session<'_>,
) -> Outcome {
    let name = session.bold(&mount.face.name).into_owned();
    writeln!(session.out, "{name}: {}, {}\n", mount.face.summary(), mount.drive.ends.summary())?;
    match &plan.scan {
        None => writeln!(
            session.out,
            "The controller does no scan for this face: it sets the lights and they stay.\n"
        )?,
        Some(scan) => {
            let timing = &scan.timing;
            let percent = |share: f64| format!("{:.1} %", 100.0 * share);
            let mut table = Columns::new(&["the scan", "", ""]);
            for (what, figure, note) in [
                ("a turn", timing.turn().to_string(), format!("{} of them a second", timing.refresh.0)),
                ("slots", timing.slots.to_string(), format!("of {} each", timing.slot())),
                (
                    "blanking",
                    timing.blanking.to_string(),
                    format!("{} of the time", percent(scan.blanking_share)),
                ),
                ("on-time", timing.lit().to_string(), format!("a duty of {}", percent(timing.duty()))),
                (
                    "writes",
                    format!("{} /s", scan.writes_a_second),
                    format!("busy {} of the time", percent(scan.busy_share)),
                ),
            ] {
                table.row([what.to_owned(), figure, note]);
            }
            writeln!(session.out, "{}", table.text(|heading| session.bold(heading).into_owned()))?;
        }
    }
    if let Some(eye) = eye {
        print_eye(eye, words, session)?;
    }
    let mut table = Columns::new(&["other ways", "pins", "and"]);
    for (method, needs) in &plan.ways {
        let (method, pins) = if *method == mount.method {
            (format!("{method}, as here"), plan.pins)
        } else {
            ((*method).to_owned(), needs.pins)
        };
        table.row([method, pins.to_string(), needs.parts.clone()]);
    }
    writeln!(session.out, "{}", table.text(|heading| session.bold(heading).into_owned()).trim_end())?;
    for doubt in plan.scan.iter().flat_map(|scan| &scan.doubts) {
        let complaint = Complaint::warning(doubt.to_string(), doubt.fix());
        writeln!(session.out, "\n{}", session.render(&complaint))?;
    }
    Ok(())
}

fn print_eye(eye: &[Seen], words: &str, session: &mut Session<'_>) -> Outcome {
    let heading = format!("the eye, of {words}");
    let mut table = Columns::new(&[
        &heading,
        "light",
        "flashes",
        "percent flicker",
        "flicker index",
        "longest dark",
        "ghosts",
    ]);
    for Seen { name, sight, ghost } in eye {
        let ghosts = if *ghost > 0.0 { format!("{:.1} %", 100.0 * ghost) } else { "none".to_owned() };
        if sight.light == 0.0 {
            table.row([
                name.clone(),
                "dark".to_owned(),
                String::new(),
                String::new(),
                String::new(),
                String::new(),
                ghosts,
            ]);
            continue;
        }
        table.row([
            name.clone(),
            format!("{:.1} %", 100.0 * sight.light),
            format!("{:.0} /s", sight.flashes_hz),
            format!("{:.0}", sight.percent_flicker),
            format!("{:.2}", sight.flicker_index),
            sight.longest_dark.to_string(),
            ghosts,
        ]);
    }
    Ok(writeln!(session.out, "{}", table.text(|heading| session.bold(heading).into_owned()))?)
}

/// How the stall is named: `40 ms every 1 s`.
fn stall_words(stall: Stall) -> String {
    match stall.every {
        Some(every) => format!("{} every {every}", stall.length),
        None => format!("{} once", stall.length),
    }
}

fn print_fates(stall: Stall, fates: Option<&[Fate]>, mount: &Mount, session: &mut Session<'_>) -> Outcome {
    let Some(fates) = fates else {
        let message = "a program that blocks changes nothing here: nothing is scanned, or nothing lit";
        return Ok(writeln!(session.out, "\n{message}")?);
    };
    let heading = format!("blocked for {}", stall_words(stall));
    let mut table = Columns::new(&[&heading, "brightness", "longest lit", "longest dark", ""]);
    for fate in fates {
        let verdict = match (fate.burns(), fate.goes_dark()) {
            (true, _) => "burns at its peak",
            (false, true) => "goes dark, and that is seen",
            (false, false) => "as ever",
        };
        table.row([
            fate.name.clone(),
            format!("{:.0} %", 100.0 * fate.brightness()),
            fate.stalled.longest_lit.to_string(),
            fate.stalled.longest_dark.to_string(),
            verdict.to_owned(),
        ]);
    }
    writeln!(session.out, "\n{}", table.text(|heading| session.bold(heading).into_owned()).trim_end())?;
    let slot = mount
        .drive
        .ends
        .circuit()
        .and_then(|circuit| circuit.timing)
        .map_or(Nanos(0), |timing| timing.slot());
    if fates.iter().any(|fate| fate.burns() || fate.goes_dark()) {
        let message = "the scan stands still while the program blocks".to_owned();
        let help = format!(
            "do the scan in a timer interrupt every {slot}, or cut the work into pieces shorter than that, or put a part \
             between that scans by itself (max7219) or holds (74hc573, 74hc595)"
        );
        writeln!(session.out, "\n{}", session.render(&Complaint::warning(message, help)))?;
    }
    Ok(())
}

/// Between two pictures of the slow motion.
const PIECE: Duration = Duration::from_millis(40);

fn play_slow(slowed: f64, mount: &Mount, turn: &Recording<'_>, session: &mut Session<'_>) -> Outcome {
    let lines = &mount.drive.lines;
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
        match live.wait_until(Some(at))? {
            None => {}
            Some(stop) => {
                live.end(session)?;
                return if stop == Stop::Quit { Ok(()) } else { Err(Failure::interrupted()) };
            }
        }
    }
    live.end(session)
}

fn write_files(
    scan: &Scan,
    mount: &Mount,
    turn: Option<&Recording<'_>>,
    words: &str,
    session: &mut Session<'_>,
) -> Outcome {
    let Some(turn) = turn else { return Ok(()) };
    scan.drawing.write(|| timing::draw(mount, turn, words), session)?;
    if let Some(path) = &scan.vcd {
        files::write_and_tell(path, dump(mount, turn, scan.turns)?.as_bytes(), session)?;
    }
    if let Some(path) = &scan.gif {
        let drawings = drawings(mount, turn, scan.slow.unwrap_or(200.0));
        files::write_and_tell(path, &gif::encode(&drawings).map_err(Failure::unusable_plainly)?, session)?;
    }
    Ok(())
}

/// The pictures of the slow motion, each as long as it stays the same.
fn drawings(mount: &Mount, turn: &Recording<'_>, slowed: f64) -> Vec<(String, Duration)> {
    let mut replay = turn.replay();
    let mut drawings: Vec<(String, Duration)> = Vec::new();
    for piece in slow::timetable(turn.length, slowed, PIECE) {
        let (picture, levels) = replay.play(piece.passes);
        let drawing = view::slow::draw(&picture, &mount.drive.lines, levels, piece.slowed);
        match drawings.last_mut().filter(|(last, _)| *last == drawing) {
            Some((_, stays)) => *stays += piece.shown,
            None => drawings.push((drawing, piece.shown)),
        }
    }
    drawings
}

fn dump(mount: &Mount, turn: &Recording<'_>, turns: u32) -> Result<String, Failure> {
    let mut edges: Vec<Edge> = Vec::new();
    for index in 0..u64::from(turns) {
        let begin = Nanos(turn.length.0 * index);
        edges.extend(turn.edges.iter().map(|edge| Edge { at: begin + edge.at, ..*edge }));
    }
    let mut dump = String::new();
    let scope = Scope { mount, levels: turn.levels.clone(), edges: &edges };
    vcd::write(&mut dump, &[scope], Nanos(turn.length.0 * u64::from(turns)))
        .map_err(|error| Failure::unusable_plainly(format!("cannot form the dump: {error}")))?;
    Ok(dump)
}

#[derive(Serialize)]
struct SlowAnswer<'a> {
    at_ms: f64,
    scan_us: f64,
    bits: std::collections::BTreeMap<&'a str, Option<bool>>,
}

#[derive(Serialize)]
struct Answer<'a> {
    face: &'a str,
    method: &'a str,
    shows: &'a str,
    scan: Option<ScanAnswer>,
    pins: usize,
    ways: Vec<WayAnswer<'a>>,
    eye: Option<Vec<SeenAnswer<'a>>>,
    stall: Option<StallAnswer<'a>>,
    warnings: Vec<WarningAnswer>,
}

#[derive(Serialize)]
struct ScanAnswer {
    refresh_hz: u32,
    slots: usize,
    turn_us: f64,
    slot_us: f64,
    blanking_us: f64,
    lit_us: f64,
    duty: f64,
    blanking_share: f64,
    writes_a_second: u64,
    busy_share: f64,
}

#[derive(Serialize)]
struct WayAnswer<'a> {
    method: &'a str,
    pins: usize,
    parts: &'a str,
}

#[derive(Serialize)]
struct SeenAnswer<'a> {
    name: &'a str,
    #[serde(flatten)]
    sight: SightAnswer,
    ghost: f64,
}

#[derive(Serialize)]
struct SightAnswer {
    light: f64,
    flashes_hz: f64,
    percent_flicker: f64,
    flicker_index: f64,
    longest_lit_us: f64,
    longest_dark_us: f64,
}

#[derive(Serialize)]
struct StallAnswer<'a> {
    length_us: f64,
    every_us: Option<f64>,
    digits: Vec<FateAnswer<'a>>,
}

#[derive(Serialize)]
struct FateAnswer<'a> {
    name: &'a str,
    brightness: f64,
    burns: bool,
    goes_dark: bool,
    #[serde(flatten)]
    sight: SightAnswer,
}

#[derive(Serialize)]
struct WarningAnswer {
    message: String,
    fix: &'static str,
}

impl SightAnswer {
    fn of(sight: &Sight) -> Self {
        Self {
            light: sight.light,
            flashes_hz: sight.flashes_hz,
            percent_flicker: sight.percent_flicker,
            flicker_index: sight.flicker_index,
            longest_lit_us: sight.longest_lit.as_micros(),
            longest_dark_us: sight.longest_dark.as_micros(),
        }
    }
}

impl<'a> Answer<'a> {
    fn of(
        mount: &'a Mount,
        plan: &'a Plan,
        eye: Option<&'a [Seen]>,
        fates: Option<&'a (Stall, Option<Vec<Fate>>)>,
        words: &'a str,
    ) -> Self {
        let scan = plan.scan.as_ref();
        Self {
            face: &mount.face.name,
            method: mount.method,
            shows: words,
            scan: scan.map(|scan| ScanAnswer {
                refresh_hz: scan.timing.refresh.0,
                slots: scan.timing.slots,
                turn_us: scan.timing.turn().as_micros(),
                slot_us: scan.timing.slot().as_micros(),
                blanking_us: scan.timing.blanking.as_micros(),
                lit_us: scan.timing.lit().as_micros(),
                duty: scan.timing.duty(),
                blanking_share: scan.blanking_share,
                writes_a_second: scan.writes_a_second,
                busy_share: scan.busy_share,
            }),
            pins: plan.pins,
            ways: plan
                .ways
                .iter()
                .map(|(method, needs)| WayAnswer { method, pins: needs.pins, parts: &needs.parts })
                .collect(),
            eye: eye.map(|eye| {
                eye.iter()
                    .map(|seen| SeenAnswer {
                        name: &seen.name,
                        sight: SightAnswer::of(&seen.sight),
                        ghost: seen.ghost,
                    })
                    .collect()
            }),
            stall: fates.map(|(stall, fates)| StallAnswer {
                length_us: stall.length.as_micros(),
                every_us: stall.every.map(Nanos::as_micros),
                digits: fates.iter().flatten().map(FateAnswer::of).collect(),
            }),
            warnings: scan
                .iter()
                .flat_map(|scan| &scan.doubts)
                .map(|doubt| WarningAnswer { message: doubt.to_string(), fix: doubt.fix() })
                .collect(),
        }
    }
}

impl<'a> FateAnswer<'a> {
    fn of(fate: &'a Fate) -> Self {
        Self {
            name: &fate.name,
            brightness: fate.brightness(),
            burns: fate.burns(),
            goes_dark: fate.goes_dark(),
            sight: SightAnswer::of(&fate.stalled),
        }
    }
}
