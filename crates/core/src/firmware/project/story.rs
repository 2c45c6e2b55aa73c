//! Acts as stories: what a small program can play in their place.
//!
//! Counts and clocks are counted by the program itself. Whatever else follows from the time alone is played from pictures, which are
//! drawn now.

use std::time::Duration;

use super::passage::{Film, Millis, Passage, Shown};
use crate::content::Canvas;
use crate::face::Face;
use crate::frame::Frame;
use crate::plan::Mount;
use crate::play::place::Placed;
use crate::play::sequence::{Part, Sequence};
use crate::play::together::Together;
use crate::play::{Act, Inputs, Kind};

/// What a track shows from the beginning on.
#[derive(Debug, Clone, PartialEq)]
pub struct Story {
    /// One after another.
    pub passages: Vec<Passage>,
    /// Whether they begin again after the last one.
    pub again: bool,
}

/// Why a track cannot be written as a program.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
#[allow(missing_docs, reason = "the messages say what the fields are")]
pub enum CannotWrite {
    #[error("it changes {most} times and more before it begins again, or never begins again")]
    TooLong { most: usize },
    #[error("it changes after {0:?}, and a program counts whole milliseconds up to three weeks")]
    Time(Duration),
    #[error("a clock as this one: {0}")]
    Clock(&'static str),
    #[error("it goes by the clock on the wall, which a controller has not: say from when a clock goes")]
    Wall,
}

/// Draws on a part of the face, and gives the whole frame.
pub(super) type Onto<'a> = dyn Fn(&dyn Fn(&mut Canvas<'_>)) -> Frame + 'a;

impl Story {
    /// What acts show on a face with these inputs, a later one over an earlier one.
    ///
    /// # Errors
    /// When it cannot be written.
    pub fn of(acts: &[&dyn Act], mount: &Mount, inputs: &Inputs) -> Result<Self, CannotWrite> {
        let writing = Writing { mount, inputs };
        if let [act] = acts {
            return writing.story(*act);
        }
        let together = Together(acts.to_vec());
        let (film, again) = writing.film(&together, together.length(), common_period(acts))?;
        Ok(writing.ended(vec![Passage::Film(film)], again, None))
    }
}

/// An act being written.
pub(super) struct Writing<'a> {
    pub mount: &'a Mount,
    /// What variables are, and become as time goes.
    pub inputs: &'a Inputs,
}

impl Writing<'_> {
    pub const fn face(&self) -> &Face {
        &self.mount.face
    }

    fn story(&self, act: &dyn Act) -> Result<Story, CannotWrite> {
        if let Kind::Sequence(sequence) = act.kind()
            && let Some(passages) = self.parts(sequence)?
        {
            return Ok(self.ended(passages, sequence.again.is_some(), sequence.again));
        }
        let (film, again) = self.film(act, act.length(), period_of(act))?;
        Ok(self.ended(vec![Passage::Film(film)], again, None))
    }

    /// What comes after the end: all again, after a time in the dark where it is due later, or darkness.
    fn ended(&self, mut passages: Vec<Passage>, again: bool, due: Option<Duration>) -> Story {
        let lengths: Option<Vec<_>> = passages.iter().map(Passage::length).collect();
        let length: Option<u64> = lengths.map(|lengths| lengths.into_iter().sum());
        let due = due.and_then(|due| u64::try_from(due.as_millis()).ok());
        let dark = |lasts| {
            Passage::Film(Film { shown: vec![Shown { frame: self.face().blank(), brightness: None, lasts }] })
        };
        match (length, again, due) {
            (Some(length), true, Some(due)) if due > length => {
                passages.push(dark(Millis::try_from(due - length).ok()));
            }
            (Some(_), false, _) => passages.push(dark(None)),
            _ => {}
        }
        let passages = passages.into_iter().flat_map(|passage| self.with_windows(passage)).collect();
        Story { passages, again: again && length.is_some() }
    }

    /// The parts of a sequence, where they follow one another and at least one is counted by the program. `None` where all can be
    /// pictures.
    fn parts(&self, sequence: &Sequence) -> Result<Option<Vec<Passage>>, CannotWrite> {
        let follow =
            sequence.parts.windows(2).all(|pair| pair[0].ends.is_some_and(|ends| ends <= pair[1].begins));
        if !follow {
            return Ok(None);
        }
        let length = |part: &Part| part.ends.map(|ends| ends - part.begins);
        let counted =
            |part: &Part| self.counted(&*part.act, &|draw| self.whole(draw), (length(part), part.period));
        let counted = sequence.parts.iter().map(counted).collect::<Result<Vec<_>, _>>()?;
        if counted.iter().all(Option::is_none) {
            return Ok(None);
        }
        let mut passages = Vec::new();
        let mut now = Duration::ZERO;
        for (part, counted) in sequence.parts.iter().zip(counted) {
            if part.begins > now {
                let lasts = Some(millis(part.begins)? - millis(now)?);
                let dark = Shown { frame: self.face().blank(), brightness: None, lasts };
                passages.push(Passage::Film(Film { shown: vec![dark] }));
            }
            match counted {
                Some(passage) => passages.push(passage),
                None => {
                    let (film, again) =
                        self.film(&*part.act, length(part), part.period.or(period_of(&*part.act)))?;
                    if again {
                        // A part without an end can only be the last one, and the rest of the track never comes again.
                        return Ok(None);
                    }
                    passages.push(Passage::Film(film));
                }
            }
            now = part.ends.unwrap_or(Duration::MAX);
        }
        Ok(Some(passages))
    }

    pub fn whole(&self, draw: &dyn Fn(&mut Canvas<'_>)) -> Frame {
        let mut frame = self.face().blank();
        draw(&mut Canvas::whole(self.face(), &mut frame));
        frame
    }

    /// An act that a program counts by itself; `None` of others.
    fn counted(
        &self,
        act: &dyn Act,
        onto: &Onto<'_>,
        (length, period): (Option<Duration>, Option<Duration>),
    ) -> Result<Option<Passage>, CannotWrite> {
        Ok(match act.kind() {
            Kind::Count(count) => self.count(count, onto, (length, period))?.map(Passage::Count),
            Kind::Clock(clock) => match self.clock(clock, onto, length) {
                Ok(telling) => Some(Passage::Clock(Box::new(telling))),
                // For a while it can be drawn.
                Err(_) if length.is_some() => None,
                Err(error) => return Err(error),
            },
            Kind::Placed(placed) => {
                self.counted(placed.inner().0, &within(placed, onto), (length, period))?
            }
            _ => None,
        })
    }
}

/// What is drawn on a part of a part.
fn within<'a>(placed: &'a Placed, onto: &'a Onto<'a>) -> impl Fn(&dyn Fn(&mut Canvas<'_>)) -> Frame + 'a {
    move |draw| onto(&|canvas| placed.place(canvas, draw))
}

/// After how long an act begins again, where it is known.
fn period_of(act: &dyn Act) -> Option<Duration> {
    match act.kind() {
        Kind::Sequence(sequence) => sequence.again,
        Kind::Placed(placed) => period_of(placed.inner().0),
        _ => None,
    }
}

/// After how long all acts begin again together, where each does after whole milliseconds.
fn common_period(acts: &[&dyn Act]) -> Option<Duration> {
    let millis = |act: &&dyn Act| {
        let nanos = period_of(*act)?.as_nanos();
        (nanos > 0 && nanos % 1_000_000 == 0).then_some(nanos / 1_000_000)
    };
    let periods: Vec<_> = acts.iter().map(millis).collect::<Option<_>>()?;
    let common = periods.into_iter().try_fold(1, |common: u128, period| {
        let (mut larger, mut rest) = (common, period);
        while rest > 0 {
            (larger, rest) = (rest, larger % rest);
        }
        common.checked_mul(period / larger)
    })?;
    u64::try_from(common).ok().map(Duration::from_millis)
}

/// A time in milliseconds, rounded to the nearest; a half of the longest that can be counted at most.
pub(super) fn millis(time: Duration) -> Result<Millis, CannotWrite> {
    let millis = (time.as_micros() + 500) / 1000;
    Millis::try_from(millis).ok().filter(|millis| *millis < 1 << 31).ok_or(CannotWrite::Time(time))
}
