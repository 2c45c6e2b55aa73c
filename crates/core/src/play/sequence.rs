//! Acts one after another.

use std::time::Duration;

use super::dimming::Light;
use super::{Act, Inputs, Kind, duration};
use crate::content::Canvas;

/// An act in its time.
pub struct Part {
    /// The act.
    pub act: Box<dyn Act>,
    /// When it begins, counted from the beginning of all.
    pub begins: Duration,
    /// Its end; `None` if it plays forever.
    pub ends: Option<Duration>,
    /// How long the act is once, where it plays again and again until it ends.
    pub period: Option<Duration>,
}

/// Parts that follow one another, or overlap; a later one draws over an earlier one.
#[derive(Default)]
pub struct Sequence {
    /// In the order in which they begin.
    parts: Vec<Part>,
    /// By part, when it and all parts before it have ended; `None` if one of them never ends.
    reach: Vec<Option<Duration>>,
    /// How long all of it is, when it then begins again.
    pub again: Option<Duration>,
}

impl Part {
    /// Returns true if it plays at a moment.
    fn plays_at(&self, elapsed: Duration) -> bool {
        self.begins <= elapsed && self.ends.is_none_or(|ends| elapsed < ends)
    }

    /// The time of the act at a moment at which it plays, and the moment at which this playing of it began.
    fn within(&self, elapsed: Duration) -> (Duration, Duration) {
        let passed = elapsed - self.begins;
        let within = match self.period.filter(|period| !period.is_zero()) {
            Some(period) => duration(passed.as_nanos() % period.as_nanos()),
            None => passed,
        };
        (within, elapsed - within)
    }
}

impl Sequence {
    /// These parts, in the order in which they begin.
    #[must_use]
    pub fn of(parts: Vec<Part>, again: Option<Duration>) -> Self {
        let mut sequence = Self { again, ..Self::default() };
        parts.into_iter().for_each(|part| sequence.push(part));
        sequence
    }

    /// Adds a part, which begins no earlier than those before it.
    pub fn push(&mut self, part: Part) {
        let before = self.reach.last().copied().unwrap_or(Some(Duration::ZERO));
        self.reach.push(before.zip(part.ends).map(|(before, ends)| before.max(ends)));
        self.parts.push(part);
    }

    /// Ends the last part at a moment.
    pub fn end_last(&mut self, at: Duration) {
        if let Some(mut last) = self.parts.pop() {
            self.reach.pop();
            last.ends = Some(at);
            self.push(last);
        }
    }

    /// Its parts, in the order in which they begin.
    #[must_use]
    pub fn parts(&self) -> &[Part] {
        &self.parts
    }

    /// Where the parts are that may play at a moment: all before have ended, all after have yet to begin.
    fn around(&self, at: Duration) -> std::ops::Range<usize> {
        let begun = self.parts.partition_point(|part| part.begins <= at);
        let ended = self.reach[..begun].partition_point(|reach| reach.is_some_and(|reach| reach <= at));
        ended..begun
    }

    /// The moment within one playing of all, and when that began.
    fn within(&self, elapsed: Duration) -> (Duration, Duration) {
        match self.again.filter(|again| !again.is_zero()) {
            Some(again) => {
                let within = duration(elapsed.as_nanos() % again.as_nanos());
                (within, elapsed - within)
            }
            None => (elapsed, Duration::ZERO),
        }
    }
}

impl Act for Sequence {
    fn variables(&self) -> Vec<&str> {
        self.parts.iter().flat_map(|part| part.act.variables()).collect()
    }

    fn kind(&self) -> Kind<'_> {
        Kind::Sequence(self)
    }

    fn draw(&self, elapsed: Duration, inputs: &Inputs, canvas: &mut Canvas<'_>) {
        let (at, all_began) = self.within(elapsed);
        for part in self.parts[self.around(at)].iter().filter(|part| part.plays_at(at)) {
            let (within, began) = part.within(at);
            part.act.draw(within, &inputs.since(all_began + began), canvas);
        }
    }

    fn brightness(&self, elapsed: Duration, inputs: &Inputs) -> Option<Light> {
        let (at, all_began) = self.within(elapsed);
        let playing = self.parts[self.around(at)].iter().filter(|part| part.plays_at(at));
        playing.rev().find_map(|part| {
            let (within, began) = part.within(at);
            part.act.brightness(within, &inputs.since(all_began + began))
        })
    }

    fn next_change(&self, elapsed: Duration, inputs: &Inputs) -> Option<Duration> {
        let (at, all_began) = self.within(elapsed);
        let of_part = |part: &Part| {
            let (mut next, mut again) = (None, None);
            if part.plays_at(at) {
                let (within, began) = part.within(at);
                let inputs = inputs.since(all_began + began);
                next = part.act.next_change(within, &inputs).and_then(|next| began.checked_add(next));
                again = part.period.and_then(|period| began.checked_add(period));
            }
            [part.ends, next, again].into_iter().flatten().filter(|moment| *moment > at)
        };
        let around = self.around(at);
        let begins = self.parts.get(around.end).map(|part| part.begins);
        let of_parts = self.parts[around].iter().flat_map(of_part);
        let next = of_parts.chain(begins).chain(self.again.filter(|again| *again > at)).min()?;
        all_began.checked_add(next)
    }

    fn length(&self) -> Option<Duration> {
        if self.again.is_some() {
            return None;
        }
        self.parts
            .iter()
            .map(|part| part.ends)
            .try_fold(Duration::ZERO, |longest, ends| Some(longest.max(ends?)))
    }
}
