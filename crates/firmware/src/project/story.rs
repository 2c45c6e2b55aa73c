//! Acts as stories: what a small program can play in their place.
//!
//! Counts and clocks are counted by the program itself. Whatever else follows from the time alone is played from pictures, which are
//! drawn now.

use std::time::Duration;

use jiff::Timestamp;

use super::error::CannotWrite;
use super::field::{Ink, is_grey};
use super::hearing::hearings;
use super::passage::{Film, Millis, Passage, Shown};
use super::values::Lives;
use spare_tile_core::content::Canvas;
use spare_tile_core::face::{Element, Face};
use spare_tile_core::frame::{Frame, Level};
use spare_tile_core::plan::Mount;
use spare_tile_core::play::place::Placed;
use spare_tile_core::play::sequence::{Part, Sequence};
use spare_tile_core::play::together::Together;
use spare_tile_core::play::{Act, Inputs, Kind};

/// What a track shows from the beginning on.
#[derive(Debug, Clone, PartialEq)]
pub struct Story {
    /// One after another.
    pub passages: Vec<Passage>,
    /// Whether they begin again after the last one.
    pub again: bool,
}

/// Draws on a part of the face, and gives the whole frame.
pub(super) type Onto<'a> = dyn Fn(&dyn Fn(&mut Canvas<'_>)) -> Frame + 'a;

impl Story {
    /// What acts show on a face, a later one over an earlier one.
    ///
    /// # Errors
    /// When it cannot be written.
    pub fn of(acts: &[&dyn Act], writing: &Writing<'_>) -> Result<Self, CannotWrite> {
        let is_heard = |act: &&dyn Act| !hearings(0, *act).is_empty();
        if let [act] = acts {
            let story = writing.story(*act)?;
            let is_alone = matches!(story.passages[..], [Passage::Stopwatch(_) | Passage::Clock(_)]);
            return if is_alone || !is_heard(act) { Ok(story) } else { Err(CannotWrite::Heard) };
        }
        if acts.iter().any(is_heard) {
            return Err(CannotWrite::Heard);
        }
        let together = Together(acts.to_vec());
        // What stays as it is fits to anything.
        let moves = |act: &&&dyn Act| act.next_change(Duration::ZERO, writing.inputs).is_some();
        let moving: Vec<_> = acts.iter().filter(moves).copied().collect();
        let (passage, again) = writing.drawn(&together, together.length(), common_period(&moving))?;
        Ok(writing.ended(vec![passage], again, None))
    }
}

/// An act being written.
pub struct Writing<'a> {
    /// The face that it plays on.
    pub mount: &'a Mount,
    /// What variables are, and become as time goes.
    pub inputs: &'a Inputs,
    /// The variables that the program keeps.
    pub lives: &'a Lives,
    /// When a clock begins that is not said to begin at another time.
    pub begins: Option<Timestamp>,
}

impl Story {
    /// Whether it ever lights anything but fully.
    pub(super) fn has_greys(&self) -> bool {
        let is_grey_ink = |ink: &Ink| ink.iter().any(|level| is_grey(*level));
        let is_grey_frame = |frame: &Frame| frame.levels().iter().any(|level| is_grey(*level));
        self.passages.iter().any(|passage| match passage {
            Passage::Film(film) => film.shown.iter().any(|shown| is_grey_frame(&shown.frame)),
            Passage::Moving(moving) => is_grey_ink(&moving.ink),
            Passage::Count(count) => is_grey_ink(&count.figures.field.ink),
            Passage::Clock(clock) => is_grey_ink(&clock.field.ink),
            Passage::Value(value) => is_grey_ink(&value.figures.field.ink),
            Passage::Chosen(chosen) => chosen.pictures.iter().any(|(_, frame)| is_grey_frame(frame)),
            Passage::Stopwatch(watch) => is_grey_ink(&watch.field.ink),
        })
    }

    /// Whether it ever lights an element.
    pub(super) fn lights(&self, element: Element) -> bool {
        let lit = |frame: &Frame| frame.levels().get(element.0).is_some_and(|level| *level != Level::OFF);
        self.passages.iter().any(|passage| match passage {
            Passage::Film(film) => film.shown.iter().any(|shown| lit(&shown.frame)),
            Passage::Moving(_) => false,
            Passage::Count(count) => count.figures.field.marks.contains(&element),
            Passage::Clock(clock) => {
                let afternoon = clock.twelve.iter();
                { afternoon }
                    .chain([&clock.field.marks, &clock.colon])
                    .any(|lights| lights.contains(&element))
            }
            Passage::Value(value) => {
                let beyond = [&value.under, &value.over].into_iter().flatten();
                value.figures.field.marks.contains(&element) || { beyond }.any(lit)
            }
            Passage::Chosen(chosen) => chosen.pictures.iter().any(|(_, frame)| lit(frame)),
            Passage::Stopwatch(watch) => watch.field.marks.contains(&element) || lit(&watch.over),
        })
    }
}

impl Writing<'_> {
    pub(super) const fn face(&self) -> &Face {
        &self.mount.face
    }

    fn story(&self, act: &dyn Act) -> Result<Story, CannotWrite> {
        if let Kind::Sequence(sequence) = act.kind()
            && let Some(passages) = self.parts(sequence)?
        {
            return Ok(self.ended(passages, sequence.again.is_some(), sequence.again));
        }
        let (passage, again) = self.drawn(&Together(vec![act]), act.length(), period_of(act))?;
        Ok(self.ended(vec![passage], again, None))
    }

    /// Acts as pictures, by the time or by a value; whether they then begin again.
    fn drawn(
        &self,
        acts: &Together<&dyn Act>,
        length: Option<Duration>,
        period: Option<Duration>,
    ) -> Result<(Passage, bool), CannotWrite> {
        if let Some(passage) = self.chosen(acts, length)? {
            return Ok((passage, false));
        }
        let (film, again) = self.film(acts, length, period)?;
        Ok((Passage::Film(film), again))
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
            sequence.parts().windows(2).all(|pair| pair[0].ends.is_some_and(|ends| ends <= pair[1].begins));
        if !follow {
            return Ok(None);
        }
        let length = |part: &Part| part.ends.map(|ends| ends - part.begins);
        let counted = |part: &Part| self.told(&*part.act, (length(part), part.period));
        let counted = sequence.parts().iter().map(counted).collect::<Result<Vec<_>, _>>()?;
        if counted.iter().all(Option::is_none) {
            return Ok(None);
        }
        let mut passages = Vec::new();
        let mut now = Duration::ZERO;
        for (part, counted) in sequence.parts().iter().zip(counted) {
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

    /// An act that is more than pictures one after another; `None` of others.
    fn told(
        &self,
        act: &dyn Act,
        (length, period): (Option<Duration>, Option<Duration>),
    ) -> Result<Option<Passage>, CannotWrite> {
        match self.counted(act, &|draw| self.whole(draw), (length, period)) {
            Ok(Some(passage)) => Ok(Some(passage)),
            Ok(None) => self.chosen(&Together(vec![act]), length),
            // A number that is not written figure by figure may have a picture for each of its values.
            Err(error) => self.chosen(&Together(vec![act]), length).ok().flatten().map(Some).ok_or(error),
        }
    }

    pub(super) fn whole(&self, draw: &dyn Fn(&mut Canvas<'_>)) -> Frame {
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
            Kind::Reading(reading) => {
                Some(Passage::Value(Box::new(self.value(reading, None, onto, length)?)))
            }
            Kind::Cursor(cursor) => {
                let value = self.value(&cursor.reading, Some(&cursor.at), onto, length)?;
                Some(Passage::Value(Box::new(value)))
            }
            Kind::Stopwatch(_) if length.is_some() => {
                return Err(CannotWrite::Stopwatch("it is not shown for good"));
            }
            Kind::Stopwatch(watch) => match self.stopwatch(watch, onto) {
                Some(stopping) => Some(Passage::Stopwatch(Box::new(stopping))),
                None => return Err(CannotWrite::Stopwatch("its figures have no places of their own")),
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

/// After how long all acts begin again together, where each does after whole milliseconds; `None` where there are none.
fn common_period(acts: &[&dyn Act]) -> Option<Duration> {
    let millis = |act: &&dyn Act| {
        let nanos = period_of(*act)?.as_nanos();
        (nanos > 0 && nanos % 1_000_000 == 0).then_some(nanos / 1_000_000)
    };
    let periods: Vec<_> = acts.iter().map(millis).collect::<Option<_>>()?;
    if periods.is_empty() {
        return None;
    }
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
