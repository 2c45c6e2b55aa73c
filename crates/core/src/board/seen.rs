//! The observations of each node: for how long it had which light, and how often it flashed.

use crate::units::Nanos;

/// The light of each node now, and its observations.
pub(super) struct Seen {
    pub(super) light: Vec<f32>,
    tallies: Vec<Tally>,
}

impl Seen {
    /// Of so many nodes, all dark.
    pub(super) fn dark(nodes: usize) -> Self {
        Self { light: vec![0.0; nodes], tallies: vec![Tally::default(); nodes] }
    }

    /// The light of a node is `after` from `now` on.
    #[inline]
    pub(super) fn change(&mut self, node: usize, after: f32, now: Nanos) {
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

    /// Forgets what was seen before `now`.
    pub(super) fn open(&mut self, now: Nanos) {
        for tally in &mut self.tallies {
            tally.others.clear();
            let others = std::mem::take(&mut tally.others);
            *tally = Tally { since: now, turned: now, others, ..Tally::default() };
        }
    }

    /// Returns the perceived light of each node in a window of this length, which ends `now`.
    pub(super) fn sights(&mut self, window: Nanos, now: Nanos) -> Vec<Sight> {
        self.tally_up(now);
        let nodes = self.tallies.iter().zip(&self.light);
        nodes.map(|(tally, light)| tally.sight(window, now, *light > 0.0)).collect()
    }

    /// The observations up to `now`.
    pub(super) fn mark(&mut self, now: Nanos) -> Mark {
        self.tally_up(now);
        Mark { at: now, tallies: self.tallies.clone() }
    }

    /// The observations from a mark up to `now`.
    pub(super) fn cycle(&mut self, since: &Mark, now: Nanos) -> Cycle {
        self.tally_up(now);
        let nodes = self.tallies.iter().zip(&since.tallies);
        Cycle { span: now - since.at, nodes: nodes.map(|(after, before)| after.since(before)).collect() }
    }

    /// Repeats a cycle that ends `now` another `times` times.
    pub(super) fn repeat(&mut self, cycle: &Cycle, times: u64, now: Nanos) {
        self.tally_up(now);
        let skipped = cycle.times(times);
        for (tally, seen) in self.tallies.iter_mut().zip(&cycle.nodes) {
            tally.repeat(seen, times, now - cycle.span, skipped);
        }
    }
}

/// The observations of each node in a time that ends in the state in which it began.
#[derive(Debug)]
pub(super) struct Cycle {
    /// How long it took.
    span: Nanos,
    nodes: Vec<OfCycle>,
}

impl Cycle {
    /// The time that `times` cycles take.
    pub(super) fn times(&self, times: u64) -> Nanos {
        Nanos(self.span.0.saturating_mul(times))
    }
}

/// The observations of a node in a cycle.
#[derive(Debug)]
struct OfCycle {
    flashes: u64,
    first: u64,
    /// The time of each light in `Tally::others`.
    others: Vec<u64>,
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

    /// The observations since an earlier state of it.
    fn since(&self, before: &Self) -> OfCycle {
        let earlier = |place: usize| before.others.get(place).map_or(0, |(_, time)| *time);
        let others = self.others.iter().enumerate().map(|(place, (_, time))| time - earlier(place)).collect();
        OfCycle { flashes: self.flashes - before.flashes, first: self.first.1 - before.first.1, others }
    }

    /// Repeats the observations since `began` another `times` times, which takes as long as is skipped.
    fn repeat(&mut self, seen: &OfCycle, times: u64, began: Nanos, skipped: Nanos) {
        self.flashes += seen.flashes * times;
        self.first.1 += seen.first * times;
        for ((_, time), seen) in self.others.iter_mut().zip(&seen.others) {
            *time += seen * times;
        }
        self.since = self.since + skipped;
        // A stretch through the whole cycle continues; one that began in it began later by the skipped time.
        if self.turned > began {
            self.turned = self.turned + skipped;
        }
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
