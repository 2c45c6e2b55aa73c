//! A value as a length: a bar of dots or of lamps, and a graph of what it has been.

use std::time::Duration;

use super::scroll::Move;
use super::{Act, Inputs, Kind, duration};
use crate::content::number::Decimal;
use crate::content::{Canvas, Region};
use crate::frame::Level;

/// From where to where a value goes.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Scale {
    /// Where nothing is lit.
    pub from: Decimal,
    /// Where all is lit; another than `from`.
    pub to: Decimal,
}

impl Scale {
    /// Returns the number of steps for a value, rounded to the nearest and clamped to the ends.
    #[must_use]
    pub fn steps(&self, value: Decimal, most: usize) -> usize {
        let places = self.from.places().max(self.to.places()).max(value.places());
        let (from, to, value) =
            (self.from.in_units(places), self.to.in_units(places), value.in_units(places));
        let (way, come) = if to >= from { (to - from, value - from) } else { (from - to, from - value) };
        if way == 0 || come <= 0 {
            return 0;
        }
        let steps = come.min(way).saturating_mul(most as i128).saturating_add(way / 2) / way;
        usize::try_from(steps).unwrap_or(most).min(most)
    }
}

/// Where a value comes from.
#[derive(Debug, Clone, PartialEq, Eq)]
#[non_exhaustive]
pub enum Source {
    /// It stays as it is.
    Fixed(Decimal),
    /// A variable.
    Variable(String),
}

impl Source {
    fn at(&self, elapsed: Duration, inputs: &Inputs) -> Option<Decimal> {
        match self {
            Self::Fixed(value) => Some(*value),
            Self::Variable(name) => inputs.value(name, elapsed)?.number(),
        }
    }

    fn variable(&self) -> Option<&str> {
        match self {
            Self::Fixed(_) => None,
            Self::Variable(name) => Some(name),
        }
    }

    fn next_after(&self, elapsed: Duration, inputs: &Inputs) -> Option<Duration> {
        match self {
            Self::Fixed(_) => None,
            Self::Variable(name) => inputs.next_value(name, elapsed),
        }
    }
}

/// The lights of a bar.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum Bar {
    /// The dots of the region, growing this way.
    Dots(Move),
    /// Lamps and colons of the face, by their places in [`Face::extras`](crate::face::Face::extras), the first lit first.
    Lamps(Vec<usize>),
}

/// A bar.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Gauge {
    /// The value; nothing is lit while there is none.
    pub source: Source,
    /// Its ends.
    pub scale: Scale,
    /// Its lights.
    pub bar: Bar,
}

impl Act for Gauge {
    fn draw(&self, elapsed: Duration, inputs: &Inputs, canvas: &mut Canvas<'_>) {
        let Some(value) = self.source.at(elapsed, inputs) else { return };
        match (&self.bar, canvas.region()) {
            (Bar::Lamps(lamps), _) => {
                for lamp in &lamps[..self.scale.steps(value, lamps.len())] {
                    let element = canvas.face().extra(*lamp).0;
                    canvas.levels_mut().get_mut(element).into_iter().for_each(|level| *level = Level::FULL);
                }
            }
            (Bar::Dots(way), Region::Dots { width, height, .. }) => {
                let along = if matches!(way, Move::Left | Move::Right) { width } else { height };
                let lit = self.scale.steps(value, along);
                for (x, y) in crate::dots::places(width, height) {
                    let come = match way {
                        Move::Right => x,
                        Move::Left => width - 1 - x,
                        Move::Down => y,
                        Move::Up => height - 1 - y,
                    };
                    if come < lit {
                        canvas.set_dot(x, y, Level::FULL);
                    }
                }
            }
            _ => {}
        }
    }

    fn next_change(&self, elapsed: Duration, inputs: &Inputs) -> Option<Duration> {
        self.source.next_after(elapsed, inputs)
    }

    fn length(&self) -> Option<Duration> {
        None
    }

    fn variables(&self) -> Vec<&str> {
        self.source.variable().into_iter().collect()
    }

    fn kind(&self) -> Kind<'_> {
        Kind::Gauge(self)
    }
}

/// A graph that moves on by a column of dots in each step of time; the value of now stands at the right.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Plot {
    /// The value; a column without one stays dark.
    pub source: Source,
    /// The foot and the top of the graph.
    pub scale: Scale,
    /// How much time a column is; more than nothing.
    pub every: Duration,
    /// True if columns are filled from the foot, or else just have the dot of the value.
    pub filled: bool,
}

impl Act for Plot {
    fn draw(&self, elapsed: Duration, inputs: &Inputs, canvas: &mut Canvas<'_>) {
        let Region::Dots { width, height, .. } = canvas.region() else { return };
        let every = self.every.as_nanos().max(1);
        let steps = elapsed.as_nanos() / every;
        for back in 0..width {
            let Some(step) = steps.checked_sub(back as u128) else { break };
            let at = duration(step * every);
            let Some(value) = self.source.at(at, inputs) else { continue };
            let (x, lit) = (width - 1 - back, self.scale.steps(value, height - 1));
            let top = height - 1 - lit;
            let foot = if self.filled { height } else { top + 1 };
            (top..foot).for_each(|y| canvas.set_dot(x, y, Level::FULL));
        }
    }

    fn next_change(&self, elapsed: Duration, _: &Inputs) -> Option<Duration> {
        let every = self.every.as_nanos().max(1);
        let next = (elapsed.as_nanos() / every + 1) * every;
        Some(Duration::from_nanos(u64::try_from(next).ok()?))
    }

    fn variables(&self) -> Vec<&str> {
        self.source.variable().into_iter().collect()
    }

    fn length(&self) -> Option<Duration> {
        None
    }
}
