//! A value from outside, made steady enough to be read.

use std::time::Duration;

use super::{Act, Inputs, Kind, Value, duration};
use crate::content::lettering::{Lettering, Look};
use crate::content::number::{Decimal, NumberFormat, Room};
use crate::content::text::Align;
use crate::content::{Canvas, Region};
use crate::words::words;

words! {
    /// The value that is shown.
    #[derive(Default)]
    pub enum Of {
        /// The last value.
        #[default]
        Last = "last",
        /// The lowest value so far.
        Least = "least",
        /// The highest value so far.
        Most = "most",
    }
}

/// How values are smoothed: each one together with those that came so long before it.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq)]
pub enum Smooth {
    /// Not at all.
    #[default]
    Not,
    /// Their mean.
    Mean(Duration),
    /// The one in the middle; of an even count the lower of the two.
    Median(Duration),
}

/// A variable on digits or dots.
///
/// It only depends on the values and their times: seeking to a moment gives the same as playing to it.
#[derive(Debug, Clone, PartialEq)]
pub struct Reading {
    /// The variable.
    pub variable: String,
    /// The value that is shown.
    pub of: Of,
    /// Over which time.
    pub smooth: Smooth,
    /// The value that is shown stays as long as the next one is not farther from it than this, so that a last digit does not
    /// flicker.
    pub band: Option<Decimal>,
    /// The value is looked at so often and stays in between; at once where that is not said.
    pub every: Option<Duration>,
    /// After so long without a new value there are dashes.
    pub stale: Option<Duration>,
    /// How it is written.
    pub format: NumberFormat,
    /// How it looks on dots.
    pub look: Option<Look>,
}

/// Values further back than this do not decide which side of a band is shown.
const MOST_BACK: usize = 4096;
/// Places that a mean has more than its values.
const MEAN_PLACES: u32 = 2;

impl Reading {
    /// A variable as it comes.
    #[must_use]
    pub fn of(variable: String) -> Self {
        Self {
            variable,
            of: Of::Last,
            smooth: Smooth::Not,
            band: None,
            every: None,
            stale: None,
            format: NumberFormat::default(),
            look: None,
        }
    }

    /// The last moment at which the value was looked at.
    fn looked_at(&self, elapsed: Duration) -> Duration {
        match self.every.filter(|every| !every.is_zero()) {
            Some(every) => {
                let looks = elapsed.as_nanos() / every.as_nanos();
                duration(looks * every.as_nanos())
            }
            None => elapsed,
        }
    }

    /// The first look at a moment or after it.
    fn look_from(&self, moment: Duration) -> Duration {
        match self.every.filter(|every| !every.is_zero()) {
            Some(every) => duration(moment.as_nanos().div_ceil(every.as_nanos()) * every.as_nanos()),
            None => moment,
        }
    }

    /// The value that is shown; `None` where there is no news.
    #[must_use]
    pub fn value_at(&self, elapsed: Duration, inputs: &Inputs) -> Option<Decimal> {
        let looked = self.looked_at(elapsed);
        let values = inputs.values(&self.variable, looked);
        let (came, newest) = values.last()?;
        let is_stale = |stale| inputs.absolute(looked) - *came >= stale;
        if newest.number().is_none() || self.stale.is_some_and(is_stale) {
            return None;
        }
        match (self.smooth, self.of, self.band) {
            (Smooth::Not, Of::Last, None) => newest.number(),
            _ => self.steadied(values),
        }
    }

    /// Returns the value to show, if the last one is a number: smoothed, held, or the lowest or highest.
    fn steadied(&self, values: &[(Duration, Value)]) -> Option<Decimal> {
        let numbers: Vec<(Duration, Decimal)> =
            values.iter().filter_map(|(at, value)| Some((*at, value.number()?))).collect();
        let smoothed = |place: usize| self.smoothed(&numbers[..=place]);
        let last = numbers.len() - 1;
        match self.of {
            Of::Least => (0..=last).map(smoothed).reduce(|a, b| if b.is_less(a) { b } else { a }),
            Of::Most => (0..=last).map(smoothed).reduce(|a, b| if a.is_less(b) { b } else { a }),
            Of::Last => match self.band {
                None => Some(smoothed(last)),
                Some(band) => (last.saturating_sub(MOST_BACK)..=last).map(smoothed).reduce(|shown, next| {
                    let is_near = !band.is_less(next.distance(shown));
                    if is_near { shown } else { next }
                }),
            },
        }
    }

    /// The last of some values together with those shortly before it.
    fn smoothed(&self, values: &[(Duration, Decimal)]) -> Decimal {
        let (at, last) = values[values.len() - 1];
        let within = |window: Duration| {
            let begin = values.partition_point(|(came, _)| *came + window <= at);
            values[begin.min(values.len() - 1)..].iter().map(|(_, value)| *value)
        };
        match self.smooth {
            Smooth::Not => last,
            Smooth::Mean(window) => {
                let places = within(window).map(Decimal::places).max().unwrap_or(0) + MEAN_PLACES;
                let sum: i128 =
                    within(window).map(|value| value.in_units(places)).fold(0, i128::saturating_add);
                let count = within(window).count() as i128;
                // Halves go away from zero, as everywhere.
                let half = count / 2 * sum.signum();
                Decimal::new(sum.saturating_add(half) / count, places)
            }
            Smooth::Median(window) => {
                let mut all: Vec<_> = within(window).collect();
                all.sort_by(Decimal::compared);
                all[(all.len() - 1) / 2]
            }
        }
    }

    fn words(&self, value: Option<Decimal>, room: Room) -> String {
        match value {
            Some(value) => self.format.write_live(value, room),
            None => "-".repeat(room.digits),
        }
    }

    /// Draws a value as when it came, or dashes if there is no value.
    pub fn draw_value(&self, value: Option<Decimal>, canvas: &mut Canvas<'_>) {
        let drawn = match (&self.look, canvas.region()) {
            (Some(look), Region::Dots { width, .. }) => {
                let room = Room { digits: look.digits_in(width), points: true };
                let words = self.words(value, room);
                Lettering::of_number(words, look).draw(canvas).is_ok()
            }
            _ => {
                let words = self.words(value, canvas.room());
                canvas.write(&words, Align::Right).is_ok()
            }
        };
        if !drawn {
            canvas.clear();
        }
    }
}

impl Act for Reading {
    fn draw(&self, elapsed: Duration, inputs: &Inputs, canvas: &mut Canvas<'_>) {
        self.draw_value(self.value_at(elapsed, inputs), canvas);
    }

    fn next_change(&self, elapsed: Duration, inputs: &Inputs) -> Option<Duration> {
        // Values since the last poll are seen at the next one.
        let next =
            inputs.next_value(&self.variable, self.looked_at(elapsed)).map(|next| self.look_from(next));
        let stale = self.stale.and_then(|stale| {
            let (came, _) = inputs.values(&self.variable, elapsed).last()?;
            let stale = (*came + stale).saturating_sub(inputs.absolute(Duration::ZERO));
            Some(self.look_from(stale))
        });
        next.into_iter().chain(stale).filter(|next| *next > elapsed).min()
    }

    fn length(&self) -> Option<Duration> {
        None
    }

    fn variables(&self) -> Vec<&str> {
        vec![&self.variable]
    }

    fn kind(&self) -> Kind<'_> {
        Kind::Reading(self)
    }
}
