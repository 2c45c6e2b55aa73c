//! The reel file: acts in tracks, variables, and what keys do, from its text to what a player plays.
//!
//! ```toml
//! loop = true
//!
//! [variables]
//! minutes = 12
//!
//! [buttons]
//! "desk.call1" = { toggle = "berth1" }
//!
//! [[track]]
//! face = "gauge"
//! [[track.act]]
//! count = { from = 0, to = 48, every = "250ms" }
//! [[track.act]]
//! number = { value = -0.4, places = 1, for = "3s" }
//! ```
//!
//! Whatever is wrong is said with its place, and reading goes on to find more. The kinds of acts are in `kinds`, a file
//! each.

mod binding;
mod keys;
mod kinds;
mod making;
mod nested;
#[cfg(feature = "schema")]
pub mod schema;

use std::collections::BTreeMap;
use std::ops::Range;
use std::time::Duration;

use jiff::Timestamp;
use serde::Deserialize;
use serde::de::IgnoredAny;

use super::gauge::{Bar, Gauge, Scale, Source};
use super::place::{Part as PartOfFace, Placed};
use super::repeated::Repeated;
use super::sequence::{Part, Sequence};
use super::{Act, Inputs, Reel, Track, Value};
use crate::board::presses::Press;
use crate::content::Region;
use crate::content::number::Decimal;
use crate::content::written::{NumberOrText, number_or_text};
use crate::face::{Face, Layout};
use crate::plan::{Keypad, Mount, Rig};
use crate::rig::value::Value as Toml;
use crate::rig::{Finding, Findings, Problem, Spanned, reader};

pub use binding::{Binding, Doing, LampOf, Limits, Wish};
use binding::{Bound, DoKeys};
use keys::{CommonKeys, PlaceKeys, moment, place_in, place_of, time_if_any};
use kinds::{KINDS, Kind};
pub use making::Sources;
use making::{Brought, CannotPlay, Making, find_button};
use nested::Nesting;

/// A reel file, ready to be played.
#[derive(Default)]
pub struct Program {
    /// Its name.
    pub name: Option<String>,
    /// The tracks.
    pub reel: Reel,
    /// The variables, and what they are at first.
    pub variables: BTreeMap<String, Value>,
    /// Later values, if they are known beforehand: time, variable and value.
    pub values: Vec<(Duration, String, Value)>,
    /// Keys that are pressed, where that is known beforehand.
    pub presses: Vec<Press>,
    /// When it begins by the clock on the wall, where that is not the time at which it is played.
    pub begins: Option<Timestamp>,
    /// How long it plays, where that is not as long as its tracks.
    pub length: Option<Duration>,
    /// The actions of buttons.
    pub bindings: Vec<Binding>,
    /// The buttons that are listened to.
    pub heard: Vec<Keypad>,
    /// The acts of each track with their times, in the order of the file.
    pub plan: Vec<Planned>,
}

impl Program {
    /// Returns the playing time; `None` if it plays forever.
    #[must_use]
    pub fn length(&self) -> Option<Duration> {
        self.length.or(self.reel.length())
    }

    /// Notes what its variables are at first, what they become, and when it begins.
    pub fn begin(&self, inputs: &mut Inputs) {
        self.begins.into_iter().for_each(|time| inputs.set_wall(Duration::ZERO, time));
        self.variables.iter().for_each(|(name, value)| inputs.note(name, Duration::ZERO, value.clone()));
        self.values.iter().for_each(|(at, name, value)| inputs.note(name, *at, value.clone()));
    }
}

/// An act of a track, as it is planned.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Planned {
    /// The track, from 0.
    pub track: usize,
    /// The face, by its place in the rig.
    pub face: usize,
    /// The kind of act.
    pub kind: &'static str,
    /// When it begins.
    pub begins: Duration,
    /// Its end; `None` if it plays forever.
    pub ends: Option<Duration>,
    /// How long it is until its track begins again, where that does.
    pub again: Option<Duration>,
}

impl Planned {
    /// Returns true if it plays at a moment, however often its track has begun again by then.
    #[must_use]
    pub fn plays_at(&self, elapsed: Duration) -> bool {
        let within = match self.again.filter(|again| !again.is_zero()) {
            Some(again) => super::duration(elapsed.as_nanos() % again.as_nanos()),
            None => elapsed,
        };
        self.begins <= within && self.ends.is_none_or(|ends| within < ends)
    }
}

/// The keys of a reel file besides its tracks.
#[derive(Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
struct ReelKeys {
    /// Its name
    name: Option<String>,
    /// It begins again when its last track ends
    r#loop: Option<Spanned<bool>>,
    /// Values that acts show and keys change, and what they are at first
    variables: Option<BTreeMap<Spanned<String>, FirstValue>>,
    /// The actions of push buttons: "desk.call1" = { toggle = "berth1" }
    buttons: Option<BTreeMap<Spanned<String>, Spanned<DoKeys>>>,
}

/// The first value of a variable.
#[derive(Clone)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[cfg_attr(feature = "schema", schemars(untagged))]
enum FirstValue {
    /// A number
    Number(Decimal),
    /// Words
    Words(String),
}

impl From<FirstValue> for Value {
    fn from(value: FirstValue) -> Self {
        match value {
            FirstValue::Number(number) => Self::Number(number),
            FirstValue::Words(words) => Self::Words(words),
        }
    }
}

impl NumberOrText for FirstValue {
    const EXPECTED: &'static str = "a number or a text";

    fn of_number(number: Decimal) -> Self {
        Self::Number(number)
    }

    fn of_text(text: &str) -> Option<Self> {
        Some(Self::Words(text.to_owned()))
    }
}

impl<'de> Deserialize<'de> for FirstValue {
    fn deserialize<D: serde::Deserializer<'de>>(deserializer: D) -> Result<Self, D::Error> {
        number_or_text(deserializer)
    }
}

/// The keys of a track besides its acts.
#[derive(Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
struct TrackKeys {
    /// The face that it plays on; may be left out where the rig has one
    face: Option<Spanned<String>>,
    /// It begins again when its last act ends, whatever the others do
    r#loop: Option<Spanned<bool>>,
}

#[derive(Deserialize)]
#[allow(dead_code, reason = "it states the key")]
struct Tracks {
    track: Option<IgnoredAny>,
}

#[derive(Deserialize)]
#[allow(dead_code, reason = "it states the key")]
struct Acts {
    act: Option<IgnoredAny>,
}

/// More acts than anybody writes.
const MOST_ACTS: usize = 10_000;

/// Reads a reel file for a rig: the program, unless there is an error, and all findings. Variables begin as
/// `settings` say where those name them.
#[must_use]
pub fn read(
    source: &str,
    rig: &Rig,
    sources: &dyn Sources,
    settings: &[(String, Value)],
) -> (Option<Program>, Vec<Finding>) {
    let findings = Findings::default();
    let within = Nesting::default().and(source).unwrap_or_default();
    let reading = Reading { rig, sources, settings, findings: &findings, only: None, within: &within };
    let program = reader::parse(source, &findings).and_then(|(root, whole)| reading.program(&root, whole));
    let program = program.filter(|_| !findings.are_blocking());
    (program, findings.in_order())
}

/// A reel file that is being read.
struct Reading<'r> {
    rig: &'r Rig,
    sources: &'r dyn Sources,
    settings: &'r [(String, Value)],
    findings: &'r Findings,
    /// The one face whose tracks are wanted, by its place in the rig, and what there is of it.
    only: Option<(usize, &'r Face)>,
    within: &'r Nesting,
}

impl Reading<'_> {
    fn program(&self, root: &Toml, whole: Range<usize>) -> Option<Program> {
        let (keys, _) = reader::read_both::<ReelKeys, Tracks>(root, whole.clone(), self.findings)?;
        let mut variables = BTreeMap::new();
        for (name, value) in keys.variables.unwrap_or_default() {
            let is_plain = name.get_ref().starts_with(|first: char| first.is_alphabetic())
                && name
                    .get_ref()
                    .chars()
                    .all(|letter| letter.is_alphanumeric() || letter == '_' || letter == '-');
            if !is_plain {
                let (found, allowed) =
                    (format!("the name {:?}", name.get_ref()), "letters, digits, - and _".to_owned());
                self.findings.error(name.span(), Problem::WrongValue { found, allowed });
            }
            let name = name.into_inner();
            let setting = self.settings.iter().rfind(|(known, _)| *known == name);
            let value = setting.map_or(value.into(), |(_, value)| value.clone());
            variables.insert(name, value);
        }
        let mut program = Program { name: keys.name, variables, ..Program::default() };
        for (name, does) in keys.buttons.unwrap_or_default() {
            self.bind(&name, &does, &mut program);
        }
        let tracks = list(root, "track");
        if tracks.is_empty() {
            let (found, allowed) = ("no track".to_owned(), "a table [[track]] with its acts".to_owned());
            self.findings.error(whole, Problem::WrongValue { found, allowed });
        }
        let mut sequences: Vec<(usize, Sequence)> = Vec::new();
        let mut numbers = Vec::new();
        for (number, (track, span)) in tracks.into_iter().enumerate() {
            if let Some(sequence) = self.track(number, track, span, &mut program) {
                sequences.push(sequence);
                numbers.push(number);
            }
        }
        let mut lengths = sequences.iter().map(|(_, sequence)| sequence.length());
        let length = lengths.try_fold(Duration::ZERO, |longest, length| Some(longest.max(length?)));
        if let Some(span) = keys.r#loop.filter(|again| *again.get_ref()).map(|again| again.span()) {
            match length {
                Some(length) if !length.is_zero() => {
                    let tracks = sequences.iter_mut().filter(|(_, sequence)| sequence.again.is_none());
                    tracks.for_each(|(_, sequence)| sequence.again = Some(length));
                }
                _ => {
                    self.never_ends(span, "a track of this reel plays forever, so that it never begins again")
                }
            }
        }
        for planned in &mut program.plan {
            let place = numbers.iter().position(|number| *number == planned.track);
            planned.again = place.and_then(|place| sequences[place].1.again);
        }
        let tracks = sequences.into_iter().map(|(face, sequence)| Track { face, act: Box::new(sequence) });
        // Lamps of buttons are drawn over the acts.
        let switched = std::mem::take(&mut program.reel.tracks);
        let is_wanted = |track: &Track| self.only.is_none_or(|(face, _)| face == track.face);
        program.reel.tracks = tracks.chain(switched).filter(is_wanted).collect();
        Some(program)
    }

    fn never_ends(&self, span: Range<usize>, message: &str) {
        let fix = Some("say for how long: for = \"10s\"".to_owned());
        self.findings.error(span, CannotPlay { message: message.to_owned(), fix });
    }

    /// The face of this name, or the only one.
    fn face(&self, name: Option<&Spanned<String>>, span: Range<usize>) -> Option<usize> {
        match name {
            Some(name) => {
                let names = self.rig.faces.iter().map(|mount| mount.face.name.as_str());
                place_of("face", name, names, self.findings)
            }
            None if self.only.is_some() => self.only.map(|(face, _)| face),
            None if self.rig.faces.len() == 1 => Some(0),
            None => self.findings.stop(span, Problem::MissingKey { key: "face" }),
        }
    }

    /// Reads the action of a button.
    fn bind(&self, name: &Spanned<String>, does: &Spanned<DoKeys>, program: &mut Program) -> Option<()> {
        let button = find_button(self.rig, name, None, self.findings)?;
        let binding = Bound { rig: self.rig, keypad: button.keypad, variables: &program.variables };
        let doing = does.get_ref().doing(does.span(), &binding, self.findings)?;
        if let Some(LampOf { face, lamp, variable }) = doing.lamp() {
            // Lit while the variable is 1.
            let bar = Bar::Lamps(vec![*lamp]);
            let (source, scale) =
                (Source::Variable(variable.clone()), Scale { from: 0.into(), to: 1.into() });
            let is_new = program.variables.insert(variable.clone(), Value::Number(0.into())).is_none();
            if is_new {
                program.reel.tracks.push(Track { face: *face, act: Box::new(Gauge { source, scale, bar }) });
            }
        }
        program.heard.push(button.keypad);
        program.bindings.push(Binding { button, doing });
        Some(())
    }

    /// A track: its acts one after another.
    fn track(
        &self,
        number: usize,
        track: &Toml,
        span: Range<usize>,
        program: &mut Program,
    ) -> Option<(usize, Sequence)> {
        let (keys, _) = reader::read_both::<TrackKeys, Acts>(track, span.clone(), self.findings)?;
        let face = self.face(keys.face.as_ref(), span.clone())?;
        if self.only.is_some_and(|(only, _)| only != face) {
            return None;
        }
        let acts = list(track, "act");
        if acts.len() > MOST_ACTS {
            let problem = Problem::TooMany { what: "acts in a track", found: acts.len(), most: MOST_ACTS };
            return self.findings.stop(span, problem);
        }
        let mut sequence = Sequence::default();
        // The beginning of the next act; `None` behind one that plays forever.
        let mut next = Some(Duration::ZERO);
        for (act, span) in acts {
            let Some((kind, value, span)) = self.kind(act, span) else { continue };
            let common: Option<CommonKeys> = reader::read_loosely(value, span.clone(), self.findings);
            let Some(common) = common else { continue };
            let made = self.act(&common, kind, value, span.clone(), face, &mut *program);
            let Some((Times { at, length, period }, act)) = made else { continue };
            let begins = match (at, next) {
                (None, Some(next)) => next,
                (None, None) => {
                    self.never_ends(span, "the act before this one plays forever");
                    continue;
                }
                (Some(at), next) => {
                    if next.is_some_and(|next| at < next) {
                        let message = "this act begins before the one before it ends".to_owned();
                        let fix = Some("begin it later, or put it into a track of its own".to_owned());
                        self.findings.error(span, CannotPlay { message, fix });
                        continue;
                    }
                    if next.is_none() {
                        sequence.end_last(at);
                    }
                    at
                }
            };
            let ends = length.map(|length| begins.saturating_add(length));
            let planned = Planned { track: number, face, kind: kind.name, begins, ends, again: None };
            program.plan.push(planned);
            sequence.push(Part { act, begins, ends, period });
            next = ends;
        }
        if let (Some(length), true) = (next, keys.r#loop.is_some_and(|again| *again.get_ref())) {
            sequence.again = Some(length).filter(|length| !length.is_zero());
        }
        Some((face, sequence))
    }

    /// The kind of an act, and its table.
    fn kind<'v>(&self, act: &'v Toml, span: Range<usize>) -> Option<(&'static Kind, &'v Toml, Range<usize>)> {
        let names: Vec<_> = KINDS.iter().map(|kind| kind.name).collect();
        let entries: Vec<_> = match act {
            Toml::Table(table) => table.iter().collect(),
            _ => Vec::new(),
        };
        let [(name, value)] = entries[..] else {
            let found = format!("{} acts", entries.len());
            let allowed =
                format!("one act, such as text = {{ say = \"TEAL\" }}; there are {}", names.join(", "));
            return self.findings.stop(span, Problem::WrongValue { found, allowed });
        };
        let place = place_in("act", name.get_ref(), name.span(), names.into_iter(), self.findings)?;
        let kind = &KINDS[place];
        Some((kind, value.get_ref(), value.span()))
    }

    /// An act in its place, with its times.
    fn act(
        &self,
        common: &CommonKeys,
        kind: &Kind,
        value: &Toml,
        span: Range<usize>,
        face: usize,
        program: &mut Program,
    ) -> Option<(Times, Box<dyn Act>)> {
        let mount = &self.rig.faces[face];
        let whole = self.only.map_or(&mount.face, |(_, part)| part);
        let region = match &common.place {
            Some(place) => Some(self.region(place, whole)?),
            None => None,
        };
        let part_of_face = region.map(|region| (PartOfFace::of(whole, region), region));
        let mut making = self.making(
            mount,
            part_of_face.as_ref().map_or(whole, |(part, _)| &part.face),
            program,
            span.clone(),
        );
        making.times = common.times.as_ref().map(|times| *times.get_ref());
        if let Some(times) = common.times.as_ref().filter(|times| !(1..=1_000_000).contains(times.get_ref()))
        {
            let (found, allowed) = (times.get_ref().to_string(), "1 to 1000000".to_owned());
            return self.findings.stop(times.span(), Problem::WrongValue { found, allowed });
        }
        let at = match &common.at {
            Some(at) => Some(moment(at, self.findings)?),
            None => None,
        };
        let length = time_if_any(common.r#for.as_ref(), &making)?;
        let act = (kind.make)(value, &mut making)?;
        let (left, brought) = (making.times, std::mem::take(&mut making.brought));
        let Brought { heard, bindings, variables } = brought;
        program.heard.extend(heard);
        program.bindings.extend(bindings);
        for (name, value) in variables {
            program.variables.entry(name).or_insert(value);
        }
        let (whole, period) = match (act.length(), left) {
            (None, Some(_)) => {
                self.never_ends(span, "this act plays forever, so that it cannot play several times");
                return None;
            }
            (Some(once), Some(times)) => (once.checked_mul(times), Some(once)),
            (once, None) => (once, None),
        };
        // An act that plays longer than that holds its end.
        let (act, period): (Box<dyn Act>, _) = match (period, left, length, whole) {
            (Some(once), Some(times), Some(length), Some(whole)) if length > whole => {
                (Box::new(Repeated::new(act, once, times)), None)
            }
            (period, ..) => (act, period),
        };
        let act: Box<dyn Act> = match part_of_face {
            Some((part, region)) => Box::new(Placed::new(act, part, region)),
            None => act,
        };
        Some((Times { at, length: length.or(whole), period }, act))
    }

    fn making<'m>(
        &'m self,
        mount: &'m Mount,
        face: &'m Face,
        program: &'m Program,
        span: Range<usize>,
    ) -> Making<'m> {
        Making {
            face,
            mount,
            rig: self.rig,
            brought: Brought::default(),
            times: None,
            variables: &program.variables,
            sources: self.sources,
            settings: self.settings,
            findings: self.findings,
            span,
            within: self.within,
        }
    }

    /// The region that a place says.
    fn region(&self, place: &Spanned<PlaceKeys>, face: &Face) -> Option<Region> {
        let wrong = |found: String, allowed: String| {
            self.findings.stop(place.span(), Problem::WrongValue { found, allowed })
        };
        let keys = place.get_ref();
        match face.layout {
            Layout::Digits { count, .. } => {
                match (keys.start, keys.length, keys.left.or(keys.top).or(keys.width).or(keys.height)) {
                    (Some(start), Some(length), None) if length > 0 && start + length <= count => {
                        Some(Region::Digits { start, length })
                    }
                    _ => wrong("another place".to_owned(), format!("start and length within {count} digits")),
                }
            }
            Layout::Dots(grid) => {
                match (keys.left, keys.top, keys.width, keys.height, keys.start.or(keys.length)) {
                    (Some(left), Some(top), Some(width), Some(height), None)
                        if width > 0
                            && height > 0
                            && left + width <= grid.width
                            && top + height <= grid.height =>
                    {
                        Some(Region::Dots { left, top, width, height })
                    }
                    _ => wrong(
                        "another place".to_owned(),
                        format!("left, top, width and height within {}x{} dots", grid.width, grid.height),
                    ),
                }
            }
        }
    }
}

/// When an act plays.
struct Times {
    /// When it begins, where it says so.
    at: Option<Duration>,
    /// The playing time; `None` if it plays forever.
    length: Option<Duration>,
    /// How long it is once, where it repeats itself.
    period: Option<Duration>,
}

/// The tables of a list of tables.
fn list<'v>(table: &'v Toml, key: &str) -> Vec<(&'v Toml, Range<usize>)> {
    let Toml::Table(table) = table else { return Vec::new() };
    match table.get(key).map(toml::Spanned::get_ref) {
        Some(Toml::List(items)) => items.iter().map(|item| (item.get_ref(), item.span())).collect(),
        _ => Vec::new(),
    }
}
