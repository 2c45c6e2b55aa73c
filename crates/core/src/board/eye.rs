//! The eye: what a person perceives of nodes switching over time.
//!
//! It watches the lights of any model while edges come in, and integrates them over a window. The cost
//! follows the edges, not the time between them, and the memory does not grow with either: an hour of a scan
//! is a stream.
//!
//! Relative brightness is the mean light over the window (Talbot-Plateau law: above the fusion frequency a
//! switched light looks as bright as a steady one of the same mean). Percent flicker and flicker index are
//! the lighting trade's: 100 (max - min) / (max + min), and the share of the light that lies above its mean.

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
}

/// The light of each node now, and what of it was seen.
struct Seen {
    light: Vec<f32>,
    tallies: Vec<Tally>,
}

impl Seen {
    /// The light of a node is `after` from `now` on.
    #[inline]
    fn change(&mut self, node: usize, after: f32, now: Nanos) {
        if let (Some(tally), Some(light)) = (self.tallies.get_mut(node), self.light.get_mut(node))
            && *light != after
        {
            tally.change(std::mem::replace(light, after), after, now);
        }
    }

    /// Counts the present light of every node up to `now`.
    fn tally_up(&mut self, now: Nanos) {
        for (tally, light) in self.tallies.iter_mut().zip(&self.light) {
            tally.add(*light, now);
        }
    }
}

/// The observations of one node since the window opened.
#[derive(Debug, Clone, Default)]
struct Tally {
    /// Since when it has had its present light.
    since: Nanos,
    /// Since when it has been lit, or dark.
    turned: Nanos,
    /// For how many it had the first light that was seen of it, mostly the only one.
    first: (f32, u64),
    /// The same of every other; there are as many as the drive has steps.
    others: Vec<(f32, u64)>,
    /// How often it went from dark to lit.
    flashes: u64,
    longest_lit: Nanos,
    longest_dark: Nanos,
}

/// The observations of an eye up to a moment.
#[derive(Debug, Clone)]
pub struct Mark {
    at: Nanos,
    tallies: Vec<Tally>,
}

/// The perceived light of one node.
#[derive(Debug, Clone, Copy, PartialEq, Default)]
pub struct Sight {
    /// The mean light over the window: 1 is a node lit all the time.
    pub light: f64,
    /// From 0 (steady) to 100 (goes dark in between).
    pub percent_flicker: f64,
    /// From 0 (steady) towards 1 (short flashes).
    pub flicker_index: f64,
    /// How often a second it went from dark to lit.
    pub flashes_hz: f64,
    /// The longest time without a break that it was lit.
    pub longest_lit: Nanos,
    /// The longest time without a break that it was dark.
    pub longest_dark: Nanos,
}

impl Tally {
    /// The light changes at `now` from `before` to `after`.
    #[inline]
    fn change(&mut self, before: f32, after: f32, now: Nanos) {
        self.add(before, now);
        if before == 0.0 {
            self.longest_dark = self.longest_dark.max(now - self.turned);
            (self.turned, self.flashes) = (now, self.flashes + 1);
        } else if after == 0.0 {
            self.longest_lit = self.longest_lit.max(now - self.turned);
            self.turned = now;
        }
    }

    /// Counts the present light up to `now`. How long it was dark is what is left of the window.
    #[inline]
    fn add(&mut self, light: f32, now: Nanos) {
        if light != 0.0 {
            *self.time_of(light) += (now - self.since).0;
        }
        self.since = now;
    }

    /// For how long it has had a light.
    #[inline]
    fn time_of(&mut self, light: f32) -> &mut u64 {
        if self.first.1 == 0 {
            self.first.0 = light;
        }
        if self.first.0 == light {
            return &mut self.first.1;
        }
        let place = self.others.iter().position(|(level, _)| *level == light);
        let place = place.unwrap_or_else(|| {
            self.others.push((light, 0));
            self.others.len() - 1
        });
        &mut self.others[place].1
    }

    /// How long it has had each light so far.
    fn levels(&self) -> impl Iterator<Item = (f32, u64)> {
        std::iter::once(self.first).chain(self.others.iter().copied())
    }

    /// The perceived light in a window of this length, which ends `now`.
    fn sight(&self, window: Nanos, now: Nanos, is_lit: bool) -> Sight {
        let lit: u64 = self.levels().map(|(_, time)| time).sum();
        let dark = (0.0, window.0.saturating_sub(lit));
        let levels = || self.levels().chain([dark]).filter(|(_, time)| *time > 0);
        let seen = || levels().map(|(level, time)| (f64::from(level), time as f64));
        let window: f64 = seen().map(|(_, time)| time).sum();
        if window == 0.0 {
            return Sight::default();
        }
        let stretch = now - self.turned;
        let light = seen().map(|(level, time)| level * time).sum::<f64>() / window;
        let most = seen().map(|(level, _)| level).fold(0.0, f64::max);
        let least = seen().map(|(level, _)| level).fold(f64::MAX, f64::min);
        let above: f64 = seen().map(|(level, time)| (level - light).max(0.0) * time).sum();
        Sight {
            light,
            percent_flicker: if most > 0.0 { 100.0 * (most - least) / (most + least) } else { 0.0 },
            flicker_index: if light > 0.0 { above / (light * window) } else { 0.0 },
            flashes_hz: self.flashes as f64 * 1e9 / window,
            longest_lit: self.longest_lit.max(if is_lit { stretch } else { Nanos(0) }),
            longest_dark: self.longest_dark.max(if is_lit { Nanos(0) } else { stretch }),
        }
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
            seen: Seen { light: vec![0.0; nodes], tallies: vec![Tally::default(); nodes] },
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
        self.model.as_mut()
    }

    /// Looks at the model again after it was changed past the eye.
    pub fn look_again(&mut self) {
        self.changes = self.model.changes().wrapping_add(1);
        self.look();
    }

    /// Takes edges in order of time.
    pub fn take(&mut self, edges: &[Edge]) {
        if self.is_shut {
            return self.model.take(edges);
        }
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
            self.pass(group[0].at);
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
        while let Some(at) = self.model.next_change().filter(|at| *at <= now) {
            self.now = self.now.max(at);
            self.model.pass(at);
            self.look();
        }
        self.now = self.now.max(now);
    }

    /// Shuts it until it is opened: the model goes on, and nothing of it is seen.
    pub const fn shut(&mut self) {
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
        for tally in &mut self.seen.tallies {
            tally.others.clear();
            *tally = Tally {
                since: self.now,
                turned: self.now,
                others: std::mem::take(&mut tally.others),
                ..Tally::default()
            };
        }
    }

    /// Returns the perceived light of each node since the window was opened, up to `until`.
    pub fn sights(&mut self, until: Nanos) -> Vec<Sight> {
        self.pass(until);
        self.seen.tally_up(self.now);
        let (window, Seen { light, tallies }) = (self.now - self.opened, &self.seen);
        tallies.iter().zip(light).map(|(tally, light)| tally.sight(window, self.now, *light > 0.0)).collect()
    }

    /// Returns the observations so far, to be [repeated](Self::repeat) from here.
    pub fn mark(&mut self) -> Mark {
        self.seen.tally_up(self.now);
        Mark { at: self.now, tallies: self.seen.tallies.clone() }
    }

    /// Repeats the observations since a mark `times` times, one after another from now on. For light that has come
    /// full circle this is what watching on would give: the model remembers its times as so much later.
    ///
    /// The light before the mark must have been the same too, or the longest stretches may be longer than reported.
    pub fn repeat(&mut self, since: &Mark, times: u64) {
        self.seen.tally_up(self.now);
        let span = self.now - since.at;
        let skipped = Nanos(span.0.saturating_mul(times));
        for (tally, before) in self.seen.tallies.iter_mut().zip(&since.tallies) {
            tally.flashes += (tally.flashes - before.flashes) * times;
            for (level, time) in std::iter::once(&mut tally.first).chain(&mut tally.others) {
                let known = before.levels().find(|(known, _)| known == level);
                *time += (*time - known.map_or(0, |(_, time)| time)) * times;
            }
            tally.since = tally.since + skipped;
            // A stretch through the whole cycle continues; one that began in it began later by the skipped time.
            if tally.turned > since.at {
                tally.turned = tally.turned + skipped;
            }
        }
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
