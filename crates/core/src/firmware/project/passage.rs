//! What a track shows, as a small program can play it: passages one after another.
//!
//! Counts and clocks are counted by the program itself. Whatever else follows from the time alone is played from pictures, which are
//! drawn now: what moves by a column at a step is one long strip, over which a window goes.

use std::collections::BTreeSet;
use std::time::Duration;

use jiff::Timestamp;

use super::field::{self, Field, Pattern, Seat};
use crate::content::Canvas;
use crate::content::number::{Decimal, Radix};
use crate::face::{Element, Face};
use crate::frame::Frame;
use crate::plan::Mount;
use crate::play::clock::{Clock, Colon, Shows, Speed};
use crate::play::count::Count;
use crate::play::dimming::Light;
use crate::play::place::Placed;
use crate::play::sequence::Sequence;
use crate::play::{Act, Inputs, Kind};

/// Milliseconds, in which programs count time.
pub type Millis = u32;

/// What a track shows for a time.
#[derive(Debug, Clone, PartialEq)]
pub enum Passage {
    /// Pictures.
    Film(Film),
    /// A window that moves along a strip.
    Moving(Moving),
    /// A count.
    Count(Counting),
    /// A clock.
    Clock(Box<Telling>),
}

/// Pictures one after another.
#[derive(Debug, Clone, PartialEq)]
pub struct Film {
    /// In their order.
    pub shown: Vec<Shown>,
}

/// One picture of a film.
#[derive(Debug, Clone, PartialEq)]
pub struct Shown {
    /// What is lit.
    pub frame: Frame,
    /// The brightness step that it begins with, where that changes.
    pub brightness: Option<u8>,
    /// How long it is shown; none for good.
    pub lasts: Option<Millis>,
}

/// A window as wide as the face that moves along a strip by a column at a step.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Moving {
    /// The columns, from the left.
    pub strip: Vec<u32>,
    /// How many windows are shown.
    pub windows: usize,
    /// Whether what is seen moves to the left, from the strip's beginning to its end.
    pub to_left: bool,
    /// How long each is shown.
    pub step: Millis,
}

/// Numbers one after another.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Counting {
    /// The first number, in units of its last place.
    pub from: i64,
    /// How far each step goes.
    pub step: i64,
    /// How many numbers come.
    pub numbers: u64,
    /// How long each stays, and the last one.
    pub every: Millis,
    /// How long the last one stays.
    pub hold: Millis,
    /// How often all come; none again and again.
    pub times: Option<u32>,
    /// How they are written.
    pub figures: Figures,
}

/// How a number is written.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Figures {
    /// Where, and with which figures.
    pub field: Field,
    /// How many figures are always written: those behind the point and one before it, or all.
    pub least: usize,
    /// The sign of negative ones; none where none comes.
    pub minus: Option<Pattern>,
}

/// A time that goes on.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Telling {
    /// Where, and with which figures: two for each group.
    pub field: Field,
    /// The hours, minutes and seconds that are shown first.
    pub first: [u8; 3],
    /// Which way it goes.
    pub runs: Runs,
    /// Whether the seconds are shown.
    pub seconds: bool,
    /// Hours from 1 to 12, and what is lit after noon.
    pub twelve: Option<BTreeSet<Element>>,
    /// What is lit of the colon while it is lit.
    pub colon: BTreeSet<Element>,
    /// Into how many equal parts a second is divided: the colon is lit for each other one. One where it does not blink.
    pub ticks: u32,
    /// Whether the colon blinks.
    pub blinks: bool,
    /// How many ticks of the first second are over.
    pub ticked: u32,
    /// How many seconds of the first minute are over, where they are not shown.
    pub passed: u8,
    /// How long a tick is, and how long the first one still goes on.
    pub tick: Millis,
    /// How long the first tick goes on.
    pub first_tick: Millis,
    /// How long it is shown; none for good.
    pub lasts: Option<Millis>,
}

/// Which way a time goes.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Runs {
    /// Round the day.
    Day,
    /// Up from a moment.
    Up,
    /// Down to nothing.
    Down,
}

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

/// More pictures than the memory of any of these controllers holds.
const MOST_SHOWN: usize = 20_000;
/// A moving strip of fewer windows is no shorter than its pictures.
const FEWEST_WINDOWS: usize = 4;

/// Draws on a part of the face, and gives the whole frame.
type Onto<'a> = dyn Fn(&dyn Fn(&mut Canvas<'_>)) -> Frame + 'a;

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
        let layers = Layers(acts);
        let (film, again) = writing.film(&layers, layers.length(), layers.period())?;
        Ok(writing.ended(vec![Passage::Film(film)], again, None))
    }
}

/// Acts on one face at the same time.
struct Layers<'a>(&'a [&'a dyn Act]);

impl Layers<'_> {
    /// After how long all of them begin again together, where each does after whole milliseconds.
    fn period(&self) -> Option<Duration> {
        let millis = |act: &&dyn Act| {
            let nanos = period_of(*act)?.as_nanos();
            (nanos > 0 && nanos % 1_000_000 == 0).then_some(nanos / 1_000_000)
        };
        let periods: Vec<_> = self.0.iter().map(millis).collect::<Option<_>>()?;
        let common = periods.into_iter().try_fold(1, |common: u128, period| {
            let (mut larger, mut rest) = (common, period);
            while rest > 0 {
                (larger, rest) = (rest, larger % rest);
            }
            common.checked_mul(period / larger)
        })?;
        u64::try_from(common).ok().map(Duration::from_millis)
    }
}

impl Act for Layers<'_> {
    fn draw(&self, elapsed: Duration, inputs: &Inputs, canvas: &mut Canvas<'_>) {
        self.0.iter().for_each(|act| act.draw(elapsed, inputs, canvas));
    }

    fn next_change(&self, elapsed: Duration, inputs: &Inputs) -> Option<Duration> {
        self.0.iter().filter_map(|act| act.next_change(elapsed, inputs)).min()
    }

    fn length(&self) -> Option<Duration> {
        self.0
            .iter()
            .map(|act| act.length())
            .try_fold(Duration::ZERO, |longest, length| Some(longest.max(length?)))
    }

    fn brightness(&self, elapsed: Duration, inputs: &Inputs) -> Option<Light> {
        self.0.iter().rev().find_map(|act| act.brightness(elapsed, inputs))
    }
}

/// An act being written.
struct Writing<'a> {
    mount: &'a Mount,
    /// What variables are, and become as time goes.
    inputs: &'a Inputs,
}

impl Writing<'_> {
    const fn face(&self) -> &Face {
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
        let mut passages = Vec::new();
        let mut now = Duration::ZERO;
        let mut counts = false;
        for part in &sequence.parts {
            if part.begins > now {
                let lasts = Some(millis(part.begins)? - millis(now)?);
                let dark = Shown { frame: self.face().blank(), brightness: None, lasts };
                passages.push(Passage::Film(Film { shown: vec![dark] }));
            }
            let length = part.ends.map(|ends| ends - part.begins);
            let own = self.counted(&*part.act, &|draw| self.whole(draw), (length, part.period))?;
            counts |= own.is_some();
            match own {
                Some(passage) => passages.push(passage),
                None => {
                    let (film, again) =
                        self.film(&*part.act, length, part.period.or(period_of(&*part.act)))?;
                    if again {
                        // A part without an end can only be the last one, and the rest of the track never comes again.
                        return Ok(None);
                    }
                    passages.push(Passage::Film(film));
                }
            }
            now = part.ends.unwrap_or(Duration::MAX);
        }
        Ok(counts.then_some(passages))
    }

    fn whole(&self, draw: &dyn Fn(&mut Canvas<'_>)) -> Frame {
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
            Kind::Clock(clock) => Some(Passage::Clock(Box::new(self.clock(clock, onto, length)?))),
            Kind::Placed(placed) => {
                self.counted(placed.inner().0, &within(placed, onto), (length, period))?
            }
            _ => None,
        })
    }

    fn count(
        &self,
        count: &Count,
        onto: &Onto<'_>,
        (length, period): (Option<Duration>, Option<Duration>),
    ) -> Result<Option<Counting>, CannotWrite> {
        let plan = count.plan();
        let whole = |number: i128| i64::try_from(number).ok();
        let last = plan.from + plan.step * i128::from(plan.numbers - 1);
        let (Some(from), Some(step), Some(_)) = (whole(plan.from), whole(plan.step), whole(last)) else {
            return Ok(None);
        };
        let (every, hold) = (millis(plan.every)?, millis(plan.hold)?);
        let (mut numbers, mut hold, mut times) =
            (plan.numbers, hold, if plan.again { None } else { Some(1) });
        if let Some(length) = length {
            let length = millis(length)?;
            let run = u64::from(every) * (numbers - 1) + u64::from(hold);
            if run == 0 {
                return Ok(None);
            }
            if u64::from(length) <= run {
                // It is cut short.
                let whole = u64::from(length.saturating_sub(1)).checked_div(u64::from(every)).unwrap_or(0);
                let shown = (whole + 1).min(numbers);
                hold = length - every * (shown - 1) as u32;
                (numbers, times) = (shown, Some(1));
            } else if u64::from(length) % run == 0 && (plan.again || period.is_some()) {
                times = Some((u64::from(length) / run) as u32);
            } else {
                return Ok(None);
            }
        } else if period.is_some() {
            times = None;
        }
        let number = |units: i128| Decimal::new(units, plan.places);
        let draw = |units: i128| onto(&|canvas| count.draw_number(number(units), canvas));
        let format = count.format();
        if format.radix != Radix::Decimal || format.thousands {
            return Ok(None);
        }
        let all: Vec<i128> = some_of(numbers).map(|n| plan.from + plan.step * i128::from(n)).collect();
        let figures = Figures::learn(self.face(), &all, &draw, plan.places as usize);
        Ok(figures.map(|figures| Counting { from, step, numbers, every, hold, times, figures }))
    }

    fn clock(
        &self,
        clock: &Clock,
        onto: &Onto<'_>,
        length: Option<Duration>,
    ) -> Result<Telling, CannotWrite> {
        const DAY: i128 = 86_400_000;
        let cannot = |why| Err(CannotWrite::Clock(why));
        let Some(from) = clock.from else { return cannot("it needs the time at which it begins") };
        if !clock.setters.is_empty() {
            return cannot("it is set by keys");
        }
        let style = &clock.style;
        // In thousandths of a second of its own time.
        let start = from.as_nanosecond().div_euclid(1_000_000);
        let (runs, shown) = match clock.shows {
            Shows::Date(_) => return cannot("it shows the date"),
            Shows::Time => {
                let local = clock.local(from.as_nanosecond());
                let seconds = i128::from(local.hour()) * 3600
                    + i128::from(local.minute()) * 60
                    + i128::from(local.second());
                (Runs::Day, seconds * 1000 + start.rem_euclid(1000))
            }
            Shows::Until(moment) => (Runs::Down, moment.as_millisecond() as i128 - start),
            Shows::Since(moment) => (Runs::Up, start - moment.as_millisecond() as i128),
        };
        if shown < 0 {
            return cannot("its moment is not yet, or over");
        }
        let Speed { shown: fast, passed } = clock.speed;
        let (blinks, half) = match style.colon {
            Colon::Blinking(period) => (true, millis(period)? / 2),
            Colon::Steady | Colon::Dark => (false, 1000),
        };
        if half == 0 || 1000 % half != 0 || (blinks && (1000 / half) % 2 != 0) {
            return cannot("its colon blinks at another pace than the seconds");
        }
        let scaled = |own: u64| {
            let real = own * u64::from(passed);
            real.is_multiple_of(u64::from(fast)).then_some((real / u64::from(fast)) as Millis)
        };
        let Some(tick) = scaled(u64::from(half)) else {
            return cannot("its seconds are no whole milliseconds");
        };
        // What is left counts as a whole unit while any of it is left.
        let unit = if style.seconds { 1000 } else { 60_000 };
        let into = if runs == Runs::Down { (unit - shown % unit) % unit } else { shown % unit };
        let units = if runs == Runs::Down { (shown + unit - 1) / unit } else { shown / unit };
        let seconds = units * unit / 1000;
        let hours = seconds / 3600;
        if hours > 99 {
            return cannot("it begins with more than 99 hours");
        }
        if runs == Runs::Up && length.is_none_or(|length| shown + length.as_millis() as i128 >= 4 * DAY) {
            return cannot("it may come to more than 99 hours: say for how long it is shown");
        }
        let (ticked, over) = ((into % 1000) / i128::from(half), (into % 1000) % i128::from(half));
        let Some(over) = scaled(over as u64) else { return cannot("it begins between two milliseconds") };
        let groups = if style.seconds { 3 } else { 2 };
        let draw = |figures: &[u8], lit: bool, afternoon: bool| {
            let words = figures.chunks(2).map(|two| format!("{}{}", two[0], two[1])).collect::<Vec<_>>();
            onto(&|canvas| clock.draw_groups(words.clone(), (lit, afternoon), canvas))
        };
        let none = "its figures have no places of their own";
        let learnt = Field::learn(self.face(), 2 * groups, &|figures| draw(figures, false, false));
        let Some(mut field) = learnt else { return cannot(none) };
        let eights = vec![8; 2 * groups];
        let dark = field::lit(&draw(&eights, false, false));
        let more =
            |frame: Frame| -> BTreeSet<Element> { field::lit(&frame).difference(&dark).copied().collect() };
        let mut colon = more(draw(&eights, true, false));
        if style.colon == Colon::Steady {
            field.marks.extend(std::mem::take(&mut colon));
        }
        if style.colon == Colon::Dark {
            colon.clear();
        }
        let twelve = style.twelve.map(|_| more(draw(&eights, false, true)));
        if twelve.is_some() {
            // A blank in place of a first 0 must be as wide as a figure.
            let blank = onto(&|canvas| {
                clock.draw_groups(
                    vec![" 8".to_owned(), "88".to_owned(), "88".to_owned()][..groups].to_vec(),
                    (false, false),
                    canvas,
                )
            });
            let seated = field.seats[1..].iter().map(|seat| (*seat, &field.figures[8]));
            let expected: BTreeSet<_> = match style.colon {
                Colon::Steady => field
                    .compose(self.face(), seated)
                    .difference(&more(draw(&eights, true, false)))
                    .copied()
                    .collect(),
                _ => field.compose(self.face(), seated),
            };
            if field::lit(&blank) != expected {
                return cannot(none);
            }
        }
        Ok(Telling {
            field,
            first: [hours as u8, (seconds / 60 % 60) as u8, (seconds % 60) as u8],
            runs,
            seconds: style.seconds,
            twelve,
            ticks: 1000 / half,
            blinks: blinks && !colon.is_empty(),
            colon,
            ticked: ticked as u32,
            passed: if style.seconds { 0 } else { (into / 1000) as u8 },
            tick,
            first_tick: tick - over,
            lasts: length.map(millis).transpose()?,
        })
    }

    /// The pictures of an act until its end; whether they then begin again.
    fn film(
        &self,
        act: &dyn Act,
        length: Option<Duration>,
        period: Option<Duration>,
    ) -> Result<(Film, bool), CannotWrite> {
        // Whoever looks at the clock on the wall shows something else at another time.
        let at = |seconds: i64| {
            let mut inputs = self.inputs.clone();
            inputs.set_wall(Duration::ZERO, Timestamp::from_second(seconds).unwrap_or_default());
            self.film_with(act, (length, period), &inputs)
        };
        let (now, later) = (at(1_000_000_000)?, at(1_234_567_890)?);
        if now == later { Ok(now) } else { Err(CannotWrite::Wall) }
    }

    fn film_with(
        &self,
        act: &dyn Act,
        (length, period): (Option<Duration>, Option<Duration>),
        inputs: &Inputs,
    ) -> Result<(Film, bool), CannotWrite> {
        let end = length.or(period);
        let period = if length.is_some() { period } else { None };
        let mut shown: Vec<(Duration, Frame, Option<u8>)> = Vec::new();
        let mut now = Duration::ZERO;
        let stays = loop {
            if end.is_some_and(|end| now >= end) {
                break false;
            }
            // An act that is repeated begins anew.
            let within = period.map_or(now, |period| remainder(now, period));
            let frame = self.whole(&|canvas| act.draw(within, &inputs.since(now - within), canvas));
            let light =
                act.brightness(within, &inputs.since(now - within)).and_then(|light| light.step(self.mount));
            let is_new = shown.last().is_none_or(|(_, last, step)| *last != frame || *step != light);
            if is_new {
                shown.push((now, frame, light));
            }
            if shown.len() > MOST_SHOWN {
                return Err(CannotWrite::TooLong { most: MOST_SHOWN });
            }
            let next = act.next_change(within, &inputs.since(now - within)).map(|next| now - within + next);
            let again = period.map(|period| now - within + period);
            match next.into_iter().chain(again).min() {
                Some(next) if next > now => now = next,
                Some(_) => now += Duration::from_millis(1),
                None => break end.is_none(),
            }
        };
        let end = end.map(millis).transpose()?;
        let begins = shown.iter().map(|(at, ..)| millis(*at)).collect::<Result<Vec<_>, _>>()?;
        let mut before = None;
        let shown = shown.into_iter().enumerate().map(|(number, (_, frame, light))| {
            let ends = begins.get(number + 1).copied().or(end);
            let brightness = if light == before { None } else { light };
            before = light;
            Shown { frame, brightness, lasts: ends.map(|ends| ends.saturating_sub(begins[number])) }
        });
        let shown = shown.filter(|shown| shown.lasts != Some(0)).collect();
        Ok((Film { shown }, !stays && length.is_none()))
    }

    /// A film in pieces: those that move by a column at a step become strips.
    fn with_windows(&self, passage: Passage) -> Vec<Passage> {
        let film = match passage {
            Passage::Film(film) if field::has_columns(self.face()) => film,
            other => return vec![other],
        };
        let columns: Vec<_> =
            film.shown.iter().map(|shown| field::columns_of(self.face(), &shown.frame)).collect();
        let steps = |first: usize, to_left: bool| {
            let follows = |number: &usize| {
                let (before, after) = (&film.shown[number - 1], &film.shown[*number]);
                let (old, new) = (&columns[number - 1], &columns[*number]);
                let moved =
                    if to_left { old[1..] == new[..new.len() - 1] } else { old[..old.len() - 1] == new[1..] };
                moved && before.lasts.is_some() && before.lasts == after.lasts && after.brightness.is_none()
            };
            1 + (first + 1..film.shown.len()).take_while(follows).count()
        };
        let plain = |shown: &Shown| !field::has_extras(self.face(), &shown.frame);
        let (mut pieces, mut number) = (Vec::new(), 0);
        let mut stills: Vec<Shown> = Vec::new();
        while number < film.shown.len() {
            let (left, right) = (steps(number, true), steps(number, false));
            let (windows, to_left) = if left >= right { (left, true) } else { (right, false) };
            let run = &film.shown[number..number + windows];
            let (first, step) = (&film.shown[number], film.shown[number].lasts);
            let Some(step) = step.filter(|_| {
                windows >= FEWEST_WINDOWS
                    && columns[number].len() > 1
                    && first.brightness.is_none()
                    && run.iter().all(plain)
            }) else {
                stills.push(film.shown[number].clone());
                number += 1;
                continue;
            };
            if !stills.is_empty() {
                pieces.push(Passage::Film(Film { shown: std::mem::take(&mut stills) }));
            }
            let edge =
                |of: usize| if to_left { columns[of].last().copied() } else { columns[of].first().copied() };
            let entering = (number + 1..number + windows).filter_map(edge);
            let strip = if to_left {
                columns[number].iter().copied().chain(entering).collect()
            } else {
                let mut entering: Vec<_> = entering.collect();
                entering.reverse();
                entering.into_iter().chain(columns[number].iter().copied()).collect()
            };
            pieces.push(Passage::Moving(Moving { strip, windows, to_left, step }));
            number += windows;
        }
        if !stills.is_empty() {
            pieces.push(Passage::Film(Film { shown: stills }));
        }
        pieces
    }
}

impl Passage {
    /// How long it is; `None` where it goes on for good.
    #[must_use]
    pub fn length(&self) -> Option<u64> {
        match self {
            Self::Film(film) => film.shown.iter().map(|shown| shown.lasts.map(u64::from)).sum(),
            Self::Moving(moving) => Some(moving.windows as u64 * u64::from(moving.step)),
            Self::Count(count) => {
                let run = u64::from(count.every) * (count.numbers - 1) + u64::from(count.hold);
                count.times.map(|times| run * u64::from(times))
            }
            Self::Clock(clock) => clock.lasts.map(u64::from),
        }
    }
}

impl Figures {
    /// Learns how numbers are written from whoever draws them, and checks it on these numbers. `None` where they are not written
    /// figure by figure from the right.
    fn learn(face: &Face, numbers: &[i128], draw: &dyn Fn(i128) -> Frame, places: usize) -> Option<Self> {
        let figures_of = |number: &i128| number.unsigned_abs().to_string().len();
        // A sign has a seat before them.
        let signs = usize::from(numbers.iter().any(|number| *number < 0));
        let most = numbers.iter().map(figures_of).max()?.max(places + 1) + signs;
        let value = |figures: &[u8]| figures.iter().fold(0, |value, figure| value * 10 + i128::from(*figure));
        // Where numbers are filled up with zeros there are more seats than figures.
        let most = (most..=face.digits().max(most))
            .rev()
            .find(|count| {
                let shortest = field::lit(&draw(1));
                let padded = Field::learn(face, *count, &|figures| draw(value(figures)));
                padded.is_some_and(|field| {
                    *count > most && {
                        let seats = field.seats.len();
                        let zeros = field.seats[..seats - 1].iter().map(|seat| (*seat, &field.figures[0]));
                        let last = std::iter::once((field.seats[seats - 1], &field.figures[1]));
                        field.compose(face, zeros.chain(last)) == shortest
                    }
                })
            })
            .unwrap_or(most);
        let field = Field::learn(face, most, &|figures| draw(value(figures)))?;
        let minus = if signs > 0 {
            let lights = field::lit(&draw(-8 * 10_i128.pow(places as u32)));
            let plain = field::lit(&draw(8 * 10_i128.pow(places as u32)));
            let sign: BTreeSet<_> = lights.difference(&plain).copied().collect();
            // It stands in the seat before the first figure, where there is one.
            let before = field.seats.len().checked_sub(places + 2)?;
            Some(field.pattern(face, &sign, field.seats[before])?)
        } else {
            None
        };
        let fits = |least: usize| {
            let figures = Self { field: field.clone(), least, minus: minus.clone() };
            numbers
                .iter()
                .all(|number| figures.compose(face, *number) == Some(field::lit(&draw(*number))))
                .then_some(figures)
        };
        fits(places + 1).or_else(|| fits(most))
    }

    /// What is lit for a number, as the program lights it; `None` where it has too few seats.
    fn compose(&self, face: &Face, number: i128) -> Option<BTreeSet<Element>> {
        let (mut rest, mut seats) = (number.unsigned_abs(), self.field.seats.iter().rev());
        let (mut seated, mut written) = (Vec::new(), 0);
        while rest > 0 || written < self.least {
            seated.push((*seats.next()?, &self.field.figures[(rest % 10) as usize]));
            rest /= 10;
            written += 1;
        }
        if number < 0 {
            seated.push((*seats.next()?, self.minus.as_ref()?));
        }
        Some(self.field.compose(face, seated.into_iter()))
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

/// All of so many, or where they are very many the first, the last and some between.
fn some_of(count: u64) -> impl Iterator<Item = u64> {
    const MOST: u64 = 4000;
    let step = count.div_ceil(MOST).max(1);
    (0..count).step_by(usize::try_from(step).unwrap_or(usize::MAX)).chain([count - 1])
}

fn remainder(time: Duration, period: Duration) -> Duration {
    let nanos = time.as_nanos() % period.as_nanos().max(1);
    Duration::from_nanos(u64::try_from(nanos).unwrap_or(u64::MAX))
}

/// A time in milliseconds, rounded to the nearest; a half of the longest that can be counted at most.
fn millis(time: Duration) -> Result<Millis, CannotWrite> {
    let millis = (time.as_micros() + 500) / 1000;
    Millis::try_from(millis).ok().filter(|millis| *millis < 1 << 31).ok_or(CannotWrite::Time(time))
}

impl Seat {
    /// Where it is among the columns.
    #[must_use]
    pub const fn is_digit(self) -> bool {
        matches!(self, Self::Digit(_))
    }
}
