//! The effect of a recording on a display: every message on the bus, and every change of the picture.

use std::collections::{BTreeMap, BTreeSet};

use super::{Change, Level};
use crate::board::End;
use crate::board::picture::Picture;
use crate::bus::{Edge, Protocol};
use crate::meaning::Meaning;
use crate::plan::teller::Teller;
use crate::plan::{Mount, Rig};
use crate::units::Nanos;

/// Something that happened.
pub enum Happening<'r> {
    /// The bus said something, or something about it was odd.
    Note(Told),
    /// The picture changed, and stood.
    Picture(Nanos, Picture<'r>),
}

/// Something that was said, in words.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Told {
    /// When it was complete.
    pub at: Nanos,
    /// True if it is odd: not as the data sheet wants it.
    pub odd: bool,
    /// Its kind.
    pub words: String,
}

impl Happening<'_> {
    /// When.
    #[must_use]
    pub fn at(&self) -> Nanos {
        match self {
            Self::Note(note) => note.at,
            Self::Picture(at, _) => *at,
        }
    }
}

/// The options of a story.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Wanted {
    /// Everything.
    Story,
    /// Just what there is to see.
    Pictures,
    /// Just the last picture: the fastest.
    Last,
}

/// How much of a recording was understood.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub struct Account {
    /// How many transfers were understood.
    pub said: usize,
    /// How much was odd.
    pub odd: usize,
    /// How much was allowed, and yet speaks against the traffic being for this part.
    pub doubts: usize,
    /// How many different things were said: commands, and places of a memory.
    pub kinds: usize,
    /// How often each line changed.
    pub edges: Vec<usize>,
    /// Transfers to addresses that are not this face's.
    pub others: BTreeMap<u8, usize>,
    /// The transfer that had begun when the recording ended.
    pub pending: Option<String>,
    /// Why the display is dark at the end, whatever it was given to show.
    pub why_dark: Option<&'static str>,
}

/// Before the name of a place, among the kinds of things that are said.
const PLACE: char = '@';

/// The kinds of messages of a transfer: a command by its words without their numbers, a place of the memory by its name.
fn kinds(meaning: &Meaning) -> Vec<String> {
    match meaning {
        Meaning::Words(words) => vec![words.chars().filter(|c| !c.is_ascii_digit()).collect()],
        Meaning::Memory(written) => {
            written.iter().map(|written| format!("{PLACE}{}", written.place)).collect()
        }
        Meaning::Levels(_) => vec!["levels".to_owned()],
    }
}

/// A scan that is slower than this many times the rig's turn is another one than the rig says.
const SLOWER: f64 = 1.15;

/// The number of flashes that it takes to know the length of a turn, and the number after which no more are looked at.
const LEAST_FLASHES: usize = 8;
const MOST_FLASHES: usize = 400;

/// A picture that changes again within this time is on its way to the next: a frame takes several transfers.
const STANDS: Nanos = Nanos(1_000_000);

/// Follows a recording.
pub struct Follower<'r> {
    wanted: Wanted,
    end: End<'r>,
    teller: Teller<'r>,
    /// By wire: the line that it is.
    map: Vec<Option<usize>>,
    levels: Vec<Option<bool>>,
    /// The model's count of changes, and when it last went up.
    changes: u64,
    changed: Option<Nanos>,
    /// Which elements were lit in the last picture, and how brightly.
    seen: Vec<f32>,
    /// How long a turn is, where the controller scans: pictures are what the eye gets in one.
    turn: Option<Nanos>,
    /// True if lights follow the lines, as those of a bare display or a panel do.
    follows_lines: bool,
    edges: Vec<Edge>,
    /// The level of each line while nothing is sent.
    idle: Vec<Option<bool>>,
    /// True after the first levels have been read.
    has_begun: bool,
    /// The line that the part answers on, and whether the recording says that nothing drives it: then it has no part in it, and the
    /// answers are those that the part would give.
    answer_line: Option<usize>,
    is_open: bool,
    /// The level to which the part drives that line, now and soon.
    answer: Option<bool>,
    coming: Option<(Nanos, Option<bool>)>,
    /// The events after the last change of lights: a picture may yet come before them.
    waiting: Vec<Happening<'r>>,
    /// The messages and oddities, and how often each line changed.
    account: Account,
    /// The different things that were said.
    kinds: BTreeSet<String>,
}

/// More different things are not told apart.
const MOST_KINDS: usize = 64;

/// How long the pull-up takes to raise a line that a part has let go. Where a program drives the line soon afterwards, the part's own
/// latest time would make a glitch that the recording does not have.
const PULL_UP: Nanos = Nanos(120);

impl<'r> Follower<'r> {
    /// Follows a recording of a face's lines; `map` has the line of each wire.
    #[must_use]
    pub fn new(rig: &'r Rig, mount: &'r Mount, map: Vec<Option<usize>>, wanted: Wanted) -> Self {
        let mut end = End::new(mount);
        if wanted == Wanted::Story {
            end.model_mut().listen();
        }
        Self {
            wanted,
            changes: end.eye().model().changes(),
            changed: None,
            seen: vec![0.0; mount.face.element_count()],
            turn: end.turn(),
            follows_lines: mount.drive.display().follows_lines(),
            levels: vec![None; mount.lines.len()],
            teller: Teller::new(mount),
            end,
            map,
            edges: Vec::new(),
            idle: rig.protocol(mount).map_or_else(Vec::new, Protocol::idle),
            has_begun: false,
            answer_line: rig.protocol(mount).and_then(Protocol::answer_line),
            is_open: false,
            answer: None,
            coming: None,
            waiting: Vec::new(),
            account: Account { edges: vec![0; mount.lines.len()], ..Account::default() },
            kinds: BTreeSet::new(),
        }
    }

    /// Takes changes in order of time; what happened is added, in order of time.
    pub fn take(&mut self, changes: &[Change], happened: &mut Vec<Happening<'r>>) {
        let changes = self.begin(changes);
        if self.wanted == Wanted::Last && self.turn.is_none() && !self.is_open && !self.opens(changes) {
            let mut edges = std::mem::take(&mut self.edges);
            edges.clear();
            edges.extend(changes.iter().filter_map(|change| self.edge(change)));
            self.take_edges(&edges);
            self.edges = edges;
            return;
        }
        for change in changes {
            self.answer_until(change.at);
            if let Some(edge) = self.edge(change) {
                self.pass(edge.at);
                self.step(edge);
                self.hear_answer(edge.at);
            }
        }
        self.release(happened);
    }

    /// Reads the first levels of a recording, which are not edges if it has those of all lines at its first moment. Returns the
    /// changes after them.
    fn begin<'c>(&mut self, changes: &'c [Change]) -> &'c [Change] {
        let Some(first) = changes.first().filter(|_| !self.has_begun) else { return changes };
        self.has_begun = true;
        let mut seen = BTreeSet::new();
        let is_first = |change: &&Change| change.at == first.at && seen.insert(change.wire as usize);
        let beginning = changes.iter().take_while(is_first).count();
        let is_known = |(wire, line): (usize, &Option<usize>)| line.is_none() || seen.contains(&wire);
        if !self.map.iter().enumerate().all(is_known) {
            // A line that changes later was in its idle state, and so were the others before the first change.
            self.end.wake(&self.idle);
            self.check_turn(changes, first.at);
            return changes;
        }
        for change in &changes[..beginning] {
            if let Some(line) = self.line_of(change) {
                self.levels[line] = self.level_of(line, change.level);
            }
        }
        self.end.wake(&self.levels);
        self.changes = self.end.eye().model().changes();
        self.check_turn(&changes[beginning..], first.at);
        &changes[beginning..]
    }

    /// Compares the length of a turn of the scan with the rig's. A slower scan is odd, and each picture is then one of its turns.
    fn check_turn(&mut self, changes: &[Change], at: Nanos) {
        let has_greys = self.end.mount().drive.display().grey_steps() > 1;
        let Some(turn) = self.turn.filter(|_| !has_greys) else { return };
        let Some(measured) =
            self.measured_turn(changes).filter(|measured| measured.0 as f64 > SLOWER * turn.0 as f64)
        else {
            return;
        };
        self.turn = Some(measured);
        self.account.odd += 1;
        let words = format!(
            "a turn of the scan takes {measured}; by the rig it is {turn}: its refresh_hz is another one"
        );
        self.waiting.push(Happening::Note(Told { at, odd: true, words }));
    }

    /// The median time from one flash of a light to its next, if there are enough of them.
    fn measured_turn(&self, changes: &[Change]) -> Option<Nanos> {
        let mut end = End::new(self.end.mount());
        end.wake(&self.levels);
        let mut flashed = vec![None; end.eye().light().len()];
        let mut before = end.eye().light().to_vec();
        let mut turns = Vec::new();
        for change in changes {
            let Some(line) = self.line_of(change) else { continue };
            let level = change.level != Level::Low;
            end.take(&[Edge { at: change.at, line, level }]);
            for ((light, before), flashed) in end.eye().light().iter().zip(&mut before).zip(&mut flashed) {
                if *light > 0.0 && *before == 0.0 {
                    turns.extend(flashed.replace(change.at).map(|last| change.at - last));
                }
                *before = *light;
            }
            if turns.len() >= MOST_FLASHES {
                break;
            }
        }
        turns.sort_unstable();
        turns.get(turns.len() / 2).filter(|_| turns.len() >= LEAST_FLASHES).copied()
    }

    /// The line that a change is of, if it is one of the face's.
    fn line_of(&self, change: &Change) -> Option<usize> {
        self.map.get(change.wire as usize).copied().flatten()
    }

    /// The recorded level of a line, if known.
    fn level_of(&mut self, line: usize, level: Level) -> Option<bool> {
        if self.answer_line == Some(line) {
            self.is_open = level == Level::Open;
        }
        match level {
            Level::Low => Some(false),
            Level::Open if self.answer_line == Some(line) => Some(self.answer.unwrap_or(true)),
            // A line that nothing drives is pulled up, or of no concern.
            Level::High | Level::Open => Some(true),
            Level::Unknown => None,
        }
    }

    /// Returns true if the answer line is open in any of these changes.
    fn opens(&self, changes: &[Change]) -> bool {
        self.answer_line.is_some_and(|line| {
            changes.iter().any(|change| change.level == Level::Open && self.line_of(change) == Some(line))
        })
    }

    /// Lets the part drive its answer line up to `now`. If nothing else drives the line in the recording, that is its level.
    fn answer_until(&mut self, now: Nanos) {
        while let Some((at, answer)) = self.coming.filter(|(at, _)| *at <= now) {
            (self.coming, self.answer) = (None, answer);
            let level = answer.unwrap_or(true);
            if let Some(line) = self.answer_line.filter(|_| self.is_open)
                && self.levels[line].replace(level) != Some(level)
            {
                self.step(Edge { at, line, level });
            }
            self.hear_answer(at);
        }
    }

    /// Notes what the part is about to do to its line, after something happened at `at`.
    fn hear_answer(&mut self, at: Nanos) {
        let answer = self.end.answer();
        if answer != self.coming.map_or(self.answer, |(_, answer)| answer) {
            let delay = if answer == Some(false) { Nanos(0) } else { PULL_UP };
            self.coming = Some((at + delay, answer));
        }
    }

    /// Hands out, in order of time, what nothing can come before any more.
    fn release(&mut self, happened: &mut Vec<Happening<'r>>) {
        let teller = &self.teller;
        let heard = self.end.heard();
        for note in &heard {
            self.account.odd += usize::from(note.odd);
            self.account.said += usize::from(!note.odd);
            if !note.odd && self.kinds.len() < MOST_KINDS {
                self.kinds.extend(kinds(&note.meaning));
            }
        }
        let told = heard.into_iter().map(|note| {
            let words = teller.words(&note.meaning);
            Happening::Note(Told { at: note.at, odd: note.odd, words })
        });
        self.waiting.extend(told);
        self.waiting.sort_by_key(Happening::at);
        let settled = self.changed.map_or(self.waiting.len(), |changed| {
            self.waiting.partition_point(|happening| happening.at() <= changed)
        });
        happened.extend(self.waiting.drain(..settled));
    }

    /// The edge of a line that a change is, if it is one.
    fn edge(&mut self, change: &Change) -> Option<Edge> {
        let line = self.line_of(change)?;
        let level = self.level_of(line, change.level)?;
        let before = self.levels[line].replace(level);
        // The first level of a recording is not an edge if the line rests at that level.
        let begins = before.is_none() && self.idle[line] == Some(level);
        let is_edge = before != Some(level) && !begins;
        self.account.edges[line] += usize::from(is_edge);
        is_edge.then_some(Edge { at: change.at, line, level })
    }

    fn step(&mut self, edge: Edge) {
        self.take_edges(&[edge]);
        if self.turn.is_some() {
            return;
        }
        let changes = self.end.eye().model().changes();
        if changes != self.changes {
            self.changes = changes;
            self.changed = Some(edge.at);
        }
    }

    /// The lights of a bare display or a panel change as their lines do; those of a part change on its commands.
    fn take_edges(&mut self, edges: &[Edge]) {
        if self.follows_lines { self.end.take(edges) } else { self.end.take_unseen(edges) }
    }

    fn light(&self) -> Vec<f32> {
        if self.follows_lines { self.end.light() } else { self.end.light_of_model() }
    }

    /// Lets time pass until `now` and reports pictures that were stable.
    fn pass(&mut self, now: Nanos) {
        match self.turn {
            None => {
                if let Some(changed) = self.changed.filter(|changed| now - *changed >= STANDS) {
                    self.changed = None;
                    let light = self.light();
                    self.tell(changed, light);
                }
            }
            Some(turn) => {
                while now - self.end.eye().opened() >= turn {
                    let (begin, end) = (self.end.eye().opened(), self.end.eye().opened() + turn);
                    let light: Vec<_> = self.end.sights(end).iter().map(|sight| sight.light as f32).collect();
                    self.end.eye_mut().open(end);
                    self.tell(begin, light);
                    // A long time without events need not be checked cycle by cycle.
                    if now - self.end.eye().opened() > Nanos(turn.0.saturating_mul(1_000)) {
                        self.end.eye_mut().open(now - turn);
                    }
                }
            }
        }
    }

    /// The recording has ended at `now`.
    pub fn finish(&mut self, now: Nanos, happened: &mut Vec<Happening<'r>>) {
        self.pass(now);
        if let Some(changed) = self.changed.take() {
            let light = self.light();
            self.tell(changed, light);
        }
        self.release(happened);
    }

    /// How much was understood so far.
    #[must_use]
    pub fn account(&mut self) -> Account {
        let model = self.end.model_mut();
        let (pending, why_dark) = (model.pending(), model.why_dark());
        let (others, doubts) = model
            .notebook()
            .map(|notebook| (notebook.others().clone(), notebook.doubts()))
            .unwrap_or_default();
        // A place of the memory is a third of a kind: many values land in one or two by chance.
        let places = self.kinds.iter().filter(|kind| kind.starts_with(PLACE)).count();
        let kinds = self.kinds.len() - places + places / 3;
        Account { kinds, others, doubts, pending, why_dark, ..self.account.clone() }
    }

    /// Returns the present picture.
    #[must_use]
    pub fn picture(&self) -> Picture<'r> {
        let light = if self.turn.is_some() { self.seen.clone() } else { self.light() };
        self.end.exposed(light)
    }

    /// Tells a picture that differs from the last one by more than an eye overlooks.
    fn tell(&mut self, at: Nanos, mut light: Vec<f32>) {
        let display = self.end.mount().drive.display();
        let (full, greys) = (display.full_duty() * display.usual_light(), display.grey_steps());
        // Parts of a scan cycle and ghosts are not a picture: a light is dark below a part of its least step.
        let least = if greys > 1 { 0.5 / greys as f32 } else { 0.25 };
        if self.turn.is_some() {
            light.iter_mut().filter(|light| **light < least * full).for_each(|light| *light = 0.0);
        }
        // A turn is never just as long as that of the rig, so that it takes more than a half of a step to be another one.
        let differing = match (self.turn, greys) {
            (None, _) => 1e-6,
            (Some(_), 1) => f32::INFINITY,
            (Some(_), greys) => 0.75 * full / greys as f32,
        };
        let differs = light
            .iter()
            .zip(&self.seen)
            .any(|(now, before)| (*now > 0.0) != (*before > 0.0) || (now - before).abs() > differing);
        if differs {
            self.seen.clone_from(&light);
            if self.wanted != Wanted::Last {
                let picture = self.end.exposed(light);
                self.waiting.push(Happening::Picture(at, picture));
            }
        }
    }
}
