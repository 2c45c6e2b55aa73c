//! The closed chain: a project is written, compiled and run, and what its lines did is given to the board as built. The pictures
//! over time must be those that `play` shows of the same reel.

use std::collections::BTreeSet;
use std::fmt;

use serde_json::Value;

use super::BEGINS;
use super::cases::Case;
use crate::folder::Folder;

/// A picture of a face from a moment on: all lights, as the program reports them.
#[derive(Clone, PartialEq)]
pub struct Seen {
    pub at_ms: f64,
    pub picture: String,
    /// Where greys are part of the picture: the step of each light, dark being 0.
    pub greys: Vec<u32>,
    /// Where a panel is dimmed: how bright its brightest light is, of the brightest of all pictures.
    pub share: f64,
    pub is_dark: bool,
}

impl fmt::Debug for Seen {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        let steps: BTreeSet<_> = self.greys.iter().collect();
        writeln!(f, "at {} ms, lights of steps {steps:?}, {:.2} of the brightest:", self.at_ms, self.share)?;
        f.write_str(&self.picture)
    }
}

impl Seen {
    /// Returns true if another looks the same.
    fn is_like(&self, other: &Self, steps: u32) -> bool {
        // A turn is not just as long as the board's.
        let near = steps / 16;
        let mut pairs = self.greys.iter().zip(&other.greys);
        self.picture == other.picture
            && (self.share - other.share).abs() < 0.08
            && self.greys.len() == other.greys.len()
            && pairs.all(|(one, other)| one.abs_diff(*other) <= near)
    }
}

/// Pictures that stand for less are on their way to the next one: a turn of a scan in which it changes has something of both.
const SHORTEST_MS: f64 = 10.0;

/// The pictures of a face, in the words of a picture in JSON.
fn picture(of: &Value, case: &Case) -> String {
    let digits = of["digits"]
        .as_array()
        .map(|digits| digits.iter().map(|digit| digit["lit"].to_string()).collect::<Vec<_>>().join(" "));
    let dots =
        of["dots"].as_array().map(|rows| rows.iter().map(ToString::to_string).collect::<Vec<_>>().join("\n"));
    // A light that is lit for a share of time is lit for about that share.
    let lit = |extra: &&Value| extra["light"].as_f64().is_some_and(|light| light > 0.05);
    let extras =
        of["extras"].as_array().into_iter().flatten().filter(lit).map(|extra| extra["name"].to_string());
    format!(
        "{} {} {} {}",
        if case.has_brightness() { light(of) } else { 1.0 },
        digits.unwrap_or_default(),
        dots.unwrap_or_default(),
        extras.collect::<Vec<_>>().join(" ")
    )
}

/// The steps of light above dark: of dots light by light, and of the brightest segment of each digit. A program shifts the rows of a panel
/// in the dark, so that its lights are all darker by as much: they are compared as shares of the brightest.
fn greys(of: &Value, case: &Case) -> Vec<u32> {
    let lights = lights(of);
    let brightest = lights.iter().copied().fold(0.0, f64::max);
    let full = if case.has_panel() && brightest > 0.0 { brightest } else { 1.0 };
    lights.into_iter().map(|light| (light / full * f64::from(case.grey_steps())).round() as u32).collect()
}

/// How bright each light of dots is, and the brightest segment of each digit.
fn lights(of: &Value) -> Vec<f64> {
    let digits = of["digits"].as_array().into_iter().flatten();
    let digits = digits.filter_map(|digit| digit["light"].as_f64());
    // Levels are perceived brightness.
    let of_level = |two: &[u8]| {
        let level = u8::from_str_radix(std::str::from_utf8(two).unwrap(), 16).unwrap();
        (f64::from(level) / 255.0).powf(2.2)
    };
    let of_row = |row: &Value| match row.as_array() {
        Some(dots) => {
            let dots = dots.iter().flat_map(|dot| dot.as_str().unwrap().as_bytes().chunks(2));
            dots.map(of_level).collect()
        }
        None => row.as_str().unwrap().bytes().map(|dot| f64::from(u8::from(dot == b'#'))).collect::<Vec<_>>(),
    };
    // Levels are printed unless all lights are fully lit.
    let rows = of["colours"].as_array().or(of["dots"].as_array());
    digits.chain(rows.into_iter().flatten().flat_map(of_row)).collect()
}

/// How bright its brightest light is, in tenths.
fn light(of: &Value) -> f64 {
    let of_digits = of["digits"].as_array().into_iter().flatten().filter_map(|digit| digit["light"].as_f64());
    (of_digits.fold(0.0, f64::max) * 10.0).round() / 10.0
}

/// Returns true if nothing at all is lit.
fn is_dark(of: &Value) -> bool {
    let none = |value: &Value| value.as_f64().is_none_or(|light| light == 0.0);
    let digits = of["digits"].as_array().into_iter().flatten();
    let dots = of["dots"].as_array().into_iter().flatten();
    let extras = of["extras"].as_array().into_iter().flatten();
    digits.into_iter().all(|digit| digit["lit"].as_array().is_some_and(Vec::is_empty))
        && dots.into_iter().all(|row| row.as_str().is_some_and(|row| row.bytes().all(|dot| dot == b'.')))
        && extras.into_iter().all(|extra| none(&extra["light"]))
}

fn seen(at: &Value, of: &Value, case: &Case) -> Seen {
    let greys = if case.grey_steps() > 1 { greys(of, case) } else { Vec::new() };
    let is_dimmed = case.has_panel() && case.has_brightness();
    let share = if is_dimmed { lights(of).into_iter().fold(0.0, f64::max) } else { 0.0 };
    Seen { at_ms: at.as_f64().unwrap() / 1e3, picture: picture(of, case), greys, share, is_dark: is_dark(of) }
}

/// Leaves out what stands too short to be seen and what is as before, and what is after the end.
pub fn settled(mut seen: Vec<Seen>, end_ms: f64, steps: u32) -> Vec<Seen> {
    let brightest = seen.iter().map(|seen| seen.share).fold(0.0, f64::max);
    if brightest > 0.0 {
        seen.iter_mut().for_each(|seen| seen.share /= brightest);
    }
    let ends = seen.iter().skip(1).map(|next| next.at_ms).chain([end_ms]).collect::<Vec<_>>();
    let stands = seen.into_iter().zip(ends).filter(|(seen, ends)| ends - seen.at_ms >= SHORTEST_MS);
    let mut settled: Vec<Seen> = Vec::new();
    for (seen, _) in stands.filter(|(seen, _)| seen.at_ms < end_ms) {
        if settled.last().is_none_or(|last| !last.is_like(&seen, steps)) {
            settled.push(seen);
        }
    }
    settled
}

/// The mark by which a dump names the changes of a pin.
pub fn wire_id(trace: &str, pin: &str) -> String {
    let wires = trace
        .lines()
        .filter_map(|line| line.strip_prefix("$var wire 1 ")?.strip_suffix(" $end")?.split_once(' '));
    wires.filter(|(_, name)| *name == pin).map(|(id, _)| id.to_owned()).next().unwrap()
}

/// The pictures that `play` shows of a face.
pub fn played(folder: &Folder, case: &Case, face: &str, end_ms: f64) -> Vec<Seen> {
    let presses = case.presses.iter().map(|(key, at)| format!("{key}@{at}ms")).collect::<Vec<_>>();
    let presses = if presses.is_empty() { String::new() } else { format!("--press {}", presses.join(",")) };
    let frames = folder.answer(&format!(
        "play this.reel.toml --unsound --rig this.toml --time {BEGINS} --for {end_ms}ms {presses} --json"
    ));
    let frames = frames.lines().map(|line| serde_json::from_str::<Value>(line).unwrap());
    let of_face = frames.filter(|frame| frame["face"] == face);
    let seen = of_face.map(|frame| seen(&frame["t_us"], &frame["picture"], case));
    settled(seen.collect(), end_ms, case.grey_steps())
}

/// The first picture that `play` shows of a face, as if it came at a moment.
pub fn picture_at(folder: &Folder, case: &Case, face: &str, at_ms: f64) -> Seen {
    let frames = folder.answer("play this.reel.toml --unsound --rig this.toml --stills 0s --json");
    let frames = frames.lines().map(|line| serde_json::from_str::<Value>(line).unwrap());
    let frame = { frames }.find(|frame| frame["face"] == face).unwrap();
    Seen { at_ms, ..seen(&frame["t_us"], &frame["picture"], case) }
}

/// Returns the pictures that a recording shows on a board as built, or an error if something was odd.
pub fn recorded(folder: &Folder, case: &Case, face: &str, end_ms: f64) -> Result<Vec<Seen>, String> {
    let run = folder.run(&format!("capture trace.vcd --rig this.toml --face {face} --json"));
    assert!(run.status <= 1, "{}", run.err);
    let told: Vec<_> = run.out.lines().map(|line| serde_json::from_str::<Value>(line).unwrap()).collect();
    // Some simulators record a released line as high, so that a missing acknowledge looks like a refused one.
    let is_odd = |told: &&Value| told["kind"] == "odd" && !told["words"].to_string().contains("acknowledge");
    if let Some(odd) = told.iter().find(is_odd) {
        return Err(odd["words"].to_string());
    }
    let pictures = told.iter().filter(|told| told["kind"] == "picture");
    let seen = pictures.map(|told| seen(&told["at_us"], told, case));
    Ok(settled(seen.collect(), end_ms, case.grey_steps()))
}

/// Where the two differ, in words; nothing where they are the same.
/// `late_ms` is how late one may be, and `steps` how many steps of light there are.
pub fn difference(played: &[Seen], recorded: &[Seen], late_ms: f64, steps: u32) -> Option<String> {
    // A face is dark before the first picture.
    let played: Vec<_> = played.iter().skip_while(|seen| seen.is_dark).collect();
    let recorded: Vec<_> = recorded.iter().skip_while(|seen| seen.is_dark).collect();
    let (Some(first), Some(wanted)) = (recorded.first(), played.first()) else {
        return Some(format!("{} pictures are to be seen, and {} are", played.len(), recorded.len()));
    };
    let began = first.at_ms - wanted.at_ms;
    for (number, (wanted, found)) in played.iter().zip(&recorded).enumerate() {
        if !wanted.is_like(found, steps) {
            return Some(format!("picture {number}: {wanted:#?} is to be seen, and {found:#?} is"));
        }
        let late = found.at_ms - began - wanted.at_ms;
        if late.abs() > late_ms + wanted.at_ms * 1e-3 {
            return Some(format!("picture {number} is {late} ms late: {wanted:#?} and {found:#?}"));
        }
    }
    if played.len().abs_diff(recorded.len()) > 1 {
        return Some(format!("{} pictures are to be seen, and {} are", played.len(), recorded.len()));
    }
    None
}
