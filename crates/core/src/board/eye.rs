//! The eye: what a person perceives of nodes switching over time.
//!
//! It watches the lights of any model while edges come in, and integrates them over a window. The cost
//! follows the edges, not the time between them, and the memory does not grow with either: an hour of a scan
//! is a stream.
//!
//! Relative brightness is the mean light over the window (Talbot-Plateau law: above the fusion frequency a
//! switched light looks as bright as a steady one of the same mean). Percent flicker and flicker index are
//! the lighting trade's: 100 (max - min) / (max + min), and the share of the light that lies above its mean.

use std::ops::RangeInclusive;

use super::seen::{Cycle, Mark, Seen, Sight};
use crate::bus::panel::Panel;
use crate::bus::whole::Bytewise;
use crate::bus::{Edge, Protocol, Reply, Transfer};
use crate::model::Model;
use crate::units::Nanos;

/// A model that is being watched.
pub struct Eye {
    model: Box<dyn Model>,
    /// True if it is shut and does not look.
    is_shut: bool,
    /// Up to when time has passed.
    now: Nanos,
    opened: Nanos,
    /// The model's count of changes when it was last looked at.
    changes: u64,
    seen: Seen,
    /// A buffer for the lights of a model that does not tell which changed.
    fresh: Vec<f32>,
    /// The last edges, if nothing else happened since; the same may come again.
    last: Option<Stream>,
}

/// Edges that may be one turn of a stream in which they come again and again.
struct Stream {
    edges: Vec<Edge>,
    /// When they came last.
    begun: Nanos,
    /// The time from the previous edges to these, if both are the same.
    gap: Option<Nanos>,
    /// The state of the model after them, if the edges before were the same.
    state: Option<Vec<u64>>,
    /// The observations up to that state, if the edges before ended in the same one.
    mark: Option<Mark>,
    /// The observations of each turn, once they are certain.
    cycle: Option<Cycle>,
}

impl Stream {
    /// How many edges a turn has: to recognise few does not pay, and of many it takes too much memory.
    const SIZES: RangeInclusive<usize> = 16..=4096;

    /// These edges as its first turn.
    fn begin(edges: &[Edge]) -> Option<Self> {
        let begun = edges.first()?.at;
        let stream =
            || Self { edges: edges.to_vec(), begun, gap: None, state: None, mark: None, cycle: None };
        Self::SIZES.contains(&edges.len()).then(stream)
    }

    /// The time from these edges to others, if those are the same but later.
    fn gap_to(&self, edges: &[Edge]) -> Option<Nanos> {
        let (first, again) = (self.edges.first()?.at, edges.first()?.at);
        let gap = Nanos(again.0.checked_sub(self.begun.0)?);
        let later = Nanos(again.0.checked_sub(first.0)?);
        let is_same = |(one, other): (&Edge, &Edge)| {
            (one.line, one.level, one.at + later) == (other.line, other.level, other.at)
        };
        let is_expected = self.cycle.is_none() || self.gap == Some(gap);
        (is_expected && self.edges.len() == edges.len() && self.edges.iter().zip(edges).all(is_same))
            .then_some(gap)
    }
}

impl Eye {
    /// Watches a model of so many nodes from time 0 on.
    #[must_use]
    pub fn new(model: Box<dyn Model>, nodes: usize) -> Self {
        let mut eye = Self {
            changes: 0,
            is_shut: false,
            model,
            now: Nanos(0),
            opened: Nanos(0),
            fresh: vec![0.0; nodes],
            seen: Seen::dark(nodes),
            last: None,
        };
        eye.look_again();
        eye
    }

    /// The model that it watches.
    #[must_use]
    pub fn model(&self) -> &dyn Model {
        self.model.as_ref()
    }

    /// The same, to be acted on.
    pub fn model_mut(&mut self) -> &mut dyn Model {
        self.last = None;
        self.model.as_mut()
    }

    /// Looks at the model again after it was changed past the eye.
    pub fn look_again(&mut self) {
        self.last = None;
        self.changes = self.model.changes().wrapping_add(1);
        self.look();
    }

    /// Takes edges in order of time. A stream in which the same edges come again and again, such as the turns of a scan, is
    /// recognised after a few of them, and costs little from there on.
    pub fn take(&mut self, edges: &[Edge]) {
        if self.is_shut {
            return self.model.take(edges);
        }
        let last = self.last.take();
        let gap = last.as_ref().and_then(|last| last.gap_to(edges));
        let Some((mut stream, gap)) = last.zip(gap) else {
            self.watch(edges);
            self.last = Stream::begin(edges);
            return;
        };
        let is_known = match &stream.cycle {
            Some(cycle) => {
                self.skip(cycle, 1);
                true
            }
            None => {
                // The time of edges that come late is not theirs, and they can be late in part.
                let is_on_time = edges.first().is_some_and(|first| first.at >= self.now);
                self.watch(edges);
                self.compare(&mut stream, gap, is_on_time)
            }
        };
        stream.begun = stream.begun + gap;
        self.last = Some(stream).filter(|_| is_known);
    }

    /// Compares what stands after a turn, `gap` after the turn before, with what stood after that. Returns false if what the turn does
    /// cannot be known.
    fn compare(&mut self, stream: &mut Stream, gap: Nanos, is_on_time: bool) -> bool {
        // Notes are more than light: they cannot be repeated.
        let is_listening = self.model.notebook().is_some_and(|notes| notes.is_open());
        let Some(state) = self.model.state(self.now).filter(|_| !is_listening) else { return false };
        let is_same_gap = stream.gap.is_none_or(|before| before == gap);
        let is_alike = is_on_time && is_same_gap && stream.state.as_ref() == Some(&state);
        (stream.gap, stream.state) = (Some(gap), Some(state));
        // Before the turn that is repeated there must have been one like it, or the first stretch of a light would be another.
        match stream.mark.take().filter(|_| is_alike) {
            Some(mark) => stream.cycle = Some(self.seen.cycle(&mark, self.now)),
            None => stream.mark = is_alike.then(|| self.seen.mark(self.now)),
        }
        true
    }

    /// Watches what edges do.
    fn watch(&mut self, edges: &[Edge]) {
        let (now, seen) = (&mut self.now, &mut self.seen);
        let mut report = |at: Nanos, node: usize, light: f32| {
            *now = (*now).max(at);
            seen.change(node, light, *now);
        };
        if self.model.take_reporting(edges, &mut report) {
            self.changes = self.model.changes();
            self.now = edges.last().map_or(self.now, |last| self.now.max(last.at));
            return;
        }
        // Edges at one moment are one change.
        for group in edges.chunk_by(|a, b| a.at == b.at) {
            self.advance(group[0].at);
            self.model.take(group);
            self.look();
        }
    }

    /// Takes a burst that begins at `at` with a time for each column. Returns false if the model does not take bursts; then
    /// it is unchanged.
    pub fn take_burst(&mut self, columns: &[u8], at: Nanos, panel: &Panel) -> bool {
        if !self.model.take_burst(&[]) {
            return false;
        }
        let mut begun = 0;
        for alike in columns.chunk_by(|a, b| (a ^ b) >> panel.data_lines & 1 == 0) {
            self.pass(at + panel.length(begun));
            self.model.take_burst(alike);
            self.look();
            begun += alike.len();
        }
        true
    }

    /// Takes a transfer as bytes, each at its moment, and returns the reply. Returns `None` if the model needs edges.
    pub fn take_whole(&mut self, protocol: &Protocol, transfer: Transfer<'_>, at: Nanos) -> Option<Reply> {
        if self.is_shut && self.model.next_change().is_none() {
            // Nobody looks, and nothing comes by itself: the part is as well without a look after each byte.
            let reply = protocol.send_whole(transfer, at, self.model.bytewise()?)?;
            self.now = self.now.max(reply.ended);
            return Some(reply);
        }
        self.model.bytewise()?;
        protocol.send_whole(transfer, at, &mut Watched(self))
    }

    /// Lets time pass until `now`.
    pub fn pass(&mut self, now: Nanos) {
        self.last = None;
        self.advance(now);
    }

    fn advance(&mut self, now: Nanos) {
        while let Some(at) = self.model.next_change().filter(|at| *at <= now) {
            self.now = self.now.max(at);
            self.model.pass(at);
            self.look();
        }
        self.now = self.now.max(now);
    }

    /// Shuts it until it is opened: the model goes on, and nothing of it is seen.
    pub fn shut(&mut self) {
        self.last = None;
        self.is_shut = true;
    }

    /// Returns true if it is shut.
    #[must_use]
    pub const fn is_shut(&self) -> bool {
        self.is_shut
    }

    /// Begins a new window at `at`; what was seen before is forgotten.
    pub fn open(&mut self, at: Nanos) {
        if std::mem::take(&mut self.is_shut) {
            self.look_again();
        }
        self.pass(at);
        self.opened = self.now;
        self.seen.open(self.now);
    }

    /// Returns the perceived light of each node since the window was opened, up to `until`.
    pub fn sights(&mut self, until: Nanos) -> Vec<Sight> {
        self.pass(until);
        self.seen.sights(self.now - self.opened, self.now)
    }

    /// Returns the observations so far, to be [repeated](Self::repeat) from here.
    pub fn mark(&mut self) -> Mark {
        self.seen.mark(self.now)
    }

    /// Repeats the observations since a mark `times` times, one after another from now on. For light that has come
    /// full circle this is what watching on would give: the model remembers its times as so much later.
    ///
    /// The light before the mark must have been the same too, or the longest stretches may be longer than reported.
    pub fn repeat(&mut self, since: &Mark, times: u64) {
        self.last = None;
        let cycle = self.seen.cycle(since, self.now);
        self.skip(&cycle, times);
    }

    /// Goes on as if the cycle that ends now had happened another `times` times.
    fn skip(&mut self, cycle: &Cycle, times: u64) {
        self.seen.repeat(cycle, times, self.now);
        let skipped = cycle.times(times);
        self.model.shift(skipped);
        self.now = self.now + skipped;
    }

    /// The light of each node at this moment.
    #[must_use]
    pub fn light(&self) -> &[f32] {
        &self.seen.light
    }

    /// When the window was opened.
    #[must_use]
    pub const fn opened(&self) -> Nanos {
        self.opened
    }

    /// Up to when time has passed.
    #[must_use]
    pub const fn now(&self) -> Nanos {
        self.now
    }

    #[inline]
    fn look(&mut self) {
        let changes = self.model.changes();
        if self.is_shut || changes == self.changes {
            return;
        }
        self.changes = changes;
        let (now, seen) = (self.now, &mut self.seen);
        if !self.model.report_lights(&mut |node, light| seen.change(node, light, now)) {
            self.model.lit(&mut self.fresh);
            self.fresh.iter().enumerate().for_each(|(node, light)| seen.change(node, *light, now));
        }
    }
}

/// A model that takes bytes, and the eye looks after each.
struct Watched<'e>(&'e mut Eye);

impl Watched<'_> {
    fn hear<T: Default>(&mut self, at: Nanos, tell: impl FnOnce(&mut dyn Bytewise) -> T) -> T {
        self.0.pass(at);
        let answer = self.0.model.bytewise().map(tell).unwrap_or_default();
        self.0.look();
        answer
    }
}

impl Bytewise for Watched<'_> {
    fn begin(&mut self, at: Nanos) {
        self.hear(at, |part| part.begin(at));
    }

    fn written(&mut self, byte: u8, at: Nanos) -> bool {
        self.hear(at, |part| part.written(byte, at))
    }

    fn read(&mut self, at: Nanos) -> u8 {
        self.hear(at, |part| part.read(at))
    }

    fn end(&mut self, at: Nanos) {
        self.hear(at, |part| part.end(at));
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    /// One node whose light is the level of line 0, at half light while line 1 is high.
    #[derive(Default)]
    struct Lamp {
        levels: [bool; 2],
        changes: u64,
    }

    impl Model for Lamp {
        fn take(&mut self, edges: &[Edge]) {
            for edge in edges {
                self.levels[edge.line] = edge.level;
                self.changes += 1;
            }
        }
        fn changes(&self) -> u64 {
            self.changes
        }
        fn lit(&self, nodes: &mut [f32]) {
            nodes[0] = if self.levels[0] { 1.0 } else { 0.0 } * if self.levels[1] { 0.5 } else { 1.0 };
        }
    }

    fn seen(edges: &[(u64, usize, bool)], until: u64) -> Sight {
        let mut eye = Eye::new(Box::new(Lamp::default()), 1);
        for (at, line, level) in edges {
            eye.take(&[Edge { at: Nanos(*at), line: *line, level: *level }]);
        }
        eye.sights(Nanos(until))[0]
    }

    #[test]
    fn a_quarter_of_the_time_is_a_quarter_of_the_light() {
        let quarter = [(0, 0, true), (25, 0, false), (100, 0, true), (125, 0, false)];
        let sight = seen(&quarter, 200);
        assert_eq!((sight.light, sight.percent_flicker, sight.flicker_index), (0.25, 100.0, 0.75));
        assert_eq!((sight.longest_lit, sight.longest_dark), (Nanos(25), Nanos(75)));
        assert_eq!(sight.flashes_hz, 1e7);
    }

    #[test]
    fn a_light_that_only_dims_flickers_less() {
        let sight = seen(&[(0, 0, true), (50, 1, true)], 100);
        assert_eq!(sight.light, 0.75);
        assert!((sight.percent_flicker - 100.0 / 3.0).abs() < 1e-9);
        assert!((sight.flicker_index - 0.25 * 50.0 / 75.0).abs() < 1e-9);
        assert_eq!((sight.longest_lit, sight.longest_dark), (Nanos(100), Nanos(0)));
    }

    #[test]
    fn steady_and_dark() {
        let steady = seen(&[(0, 0, true)], 100);
        assert_eq!((steady.light, steady.percent_flicker, steady.flicker_index), (1.0, 0.0, 0.0));
        assert_eq!(seen(&[], 100), Sight { longest_dark: Nanos(100), ..Sight::default() });
        assert_eq!(seen(&[], 0), Sight::default(), "no time, no sight");
    }

    #[test]
    fn a_window_forgets_what_was_before() {
        let mut eye = Eye::new(Box::new(Lamp::default()), 1);
        eye.take(&[
            Edge { at: Nanos(0), line: 0, level: true },
            Edge { at: Nanos(90), line: 0, level: false },
        ]);
        eye.open(Nanos(80));
        assert_eq!(eye.sights(Nanos(180))[0].light, 0.0, "time does not run back");
        eye.open(Nanos(200));
        eye.take(&[Edge { at: Nanos(250), line: 0, level: true }]);
        assert_eq!(eye.sights(Nanos(300))[0].light, 0.5);
        assert_eq!(eye.sights(Nanos(400))[0].light, 0.75, "the window goes on");
    }
}
