//! Contents that come one after another: each stands for a while, and the next one comes in step by step.

use std::time::Duration;

use super::scroll::Move;
use super::{Act, Inputs, duration};
use crate::content::Canvas;
use crate::content::lettering::{Lettering, LetteringError};
use crate::face::{Element, ExtraKind, Face};
use crate::frame::{Frame, Level};

/// How the next content comes in.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Change {
    /// At once.
    Cut,
    /// Character by character on a dark face, as if someone typed it.
    Type,
    /// Over the one before, column by column from the left.
    Wipe,
    /// It pushes the one before out.
    Push(Move),
    /// The one before turns into it in this number of steps of brightness.
    Fade(u32),
}

/// A content.
#[derive(Debug, Clone, PartialEq)]
pub struct Slide {
    /// The lit elements.
    pub frame: Frame,
    /// By element, at which step of being typed it comes, from 1.
    typed: Vec<u32>,
}

impl Slide {
    /// A content of which nothing is typed: it comes as one character.
    #[must_use]
    pub fn of(frame: Frame) -> Self {
        let typed = vec![1; frame.levels().len()];
        Self { frame, typed }
    }

    /// A text on digits, typed digit by digit from the first that is lit to the last.
    #[must_use]
    pub fn on_digits(face: &Face, frame: Frame) -> Self {
        let lit = || {
            let elements = frame.levels().iter().enumerate().filter(|(_, level)| **level != Level::OFF);
            elements.filter_map(|(element, _)| digit_of(face, element))
        };
        // The blanks that fill the face up are not typed.
        let (first, last) = (lit().min().unwrap_or(0), lit().max().unwrap_or(0));
        let mut typed = vec![1; frame.levels().len()];
        for (element, step) in typed.iter_mut().enumerate() {
            if let Some(digit) = digit_of(face, element).filter(|digit| (first..=last).contains(digit)) {
                *step = (digit - first) as u32 + 1;
            }
        }
        Self { frame, typed }
    }

    /// A text on dots, typed character by character and line by line.
    ///
    /// # Errors
    /// When the face cannot show it.
    pub fn on_dots(face: &Face, lettering: &Lettering) -> Result<Self, LetteringError> {
        let mut frame = face.blank();
        lettering.draw(&mut Canvas::whole(face, &mut frame))?;
        let mut typed = vec![1; frame.levels().len()];
        let Some(grid) = face.dots() else { return Ok(Self { frame, typed }) };
        // Before the first character of a line the whole line is to come.
        for (step, stop) in lettering.stops((grid.width, grid.height))?.into_iter().enumerate() {
            for y in stop.top.max(0)..stop.foot.min(grid.height as isize) {
                for x in stop.from.max(0)..grid.width as isize {
                    if let Some(Element(first)) = face.dot(x as usize, y as usize) {
                        typed[first..first + grid.channels.count()].fill(step as u32 + 1);
                    }
                }
            }
        }
        Ok(Self { frame, typed })
    }
}

/// The digit of an element; a colon belongs to the digit before it, and a lamp to none.
fn digit_of(face: &Face, element: usize) -> Option<usize> {
    let Some(extra) = element.checked_sub(face.extra(0).0) else {
        return Some(element / face.style().segment_count());
    };
    match face.extras.get(extra)?.kind {
        ExtraKind::Colon { after } => Some(after - 1),
        ExtraKind::Lamp => None,
    }
}

/// How long contents stand.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Pace {
    /// How long each step of a change stands: more than nothing.
    pub step: Duration,
    /// How long each content stands before the next comes in: more than nothing.
    pub hold: Duration,
    /// How often all come; none without end.
    pub times: Option<u32>,
}

impl Pace {
    fn step_nanos(&self) -> u128 {
        self.step.as_nanos().max(1)
    }

    fn hold_nanos(&self) -> u128 {
        self.hold.as_nanos().max(1)
    }
}

/// Contents that come one after another, the first on a dark face.
#[derive(Debug, Clone, PartialEq)]
pub struct Slides {
    face: Face,
    slides: Vec<Slide>,
    /// How many steps it takes each to come in.
    steps: Vec<u32>,
    /// When each has come in and stood, counted from the beginning of all, in nanoseconds.
    ends: Vec<u128>,
    change: Change,
    pace: Pace,
    dark: Frame,
}

/// Where among the slides a moment is.
struct Place {
    /// Counted from the first, through all times.
    slide: u128,
    /// How many steps of its coming in have been taken.
    taken: u32,
    /// When its coming in began.
    began: u128,
}

impl Slides {
    /// These contents on a face.
    #[must_use]
    pub fn new(face: &Face, slides: Vec<Slide>, change: Change, pace: Pace) -> Self {
        let (across, down) = face.dots().map_or((face.digits(), 1), |grid| (grid.width, grid.height));
        let steps = slides.iter().map(|slide| match change {
            Change::Cut => 0,
            Change::Type => slide.typed.iter().copied().max().unwrap_or(1),
            Change::Wipe | Change::Push(Move::Left | Move::Right) => across as u32,
            Change::Push(Move::Up | Move::Down) => down as u32,
            Change::Fade(steps) => steps,
        });
        let steps: Vec<u32> = steps.collect();
        let (step, hold) = (pace.step_nanos(), pace.hold_nanos());
        let ends = steps.iter().scan(0, |end, steps| {
            *end += u128::from(*steps) * step + hold;
            Some(*end)
        });
        let ends = ends.collect();
        Self { face: face.clone(), dark: face.blank(), slides, steps, ends, change, pace }
    }

    /// How long all take once.
    fn run(&self) -> u128 {
        self.ends.last().copied().unwrap_or(0).max(1)
    }

    fn place(&self, elapsed: Duration) -> Place {
        let (elapsed, run) = (elapsed.as_nanos(), self.run());
        let runs = match self.pace.times {
            Some(times) => (elapsed / run).min(u128::from(times.max(1)) - 1),
            None => elapsed / run,
        };
        let within = elapsed - runs * run;
        let slide = self.ends.partition_point(|end| *end <= within).min(self.slides.len().saturating_sub(1));
        let before = slide.checked_sub(1).map_or(0, |before| self.ends[before]);
        let (began, within) = (runs * run + before, within - before);
        let taken = u32::try_from(within / self.pace.step_nanos()).unwrap_or(u32::MAX).min(self.steps[slide]);
        Place { slide: runs * self.slides.len() as u128 + slide as u128, taken, began }
    }

    /// The slide of this number, counted through all times, and what was there before it.
    fn pair(&self, number: u128) -> (&Slide, &Frame, u32) {
        let count = self.slides.len() as u128;
        let slide = (number % count) as usize;
        let before = match number {
            0 => &self.dark,
            number => &self.slides[((number - 1) % count) as usize].frame,
        };
        (&self.slides[slide], before, self.steps[slide])
    }

    /// The levels of all elements after `taken` steps of an unfinished change.
    fn levels(&self, slide: &Slide, before: &Frame, taken: u32) -> Vec<Level> {
        let (old, new) = (before.levels(), slide.frame.levels());
        let both = || old.iter().copied().zip(new.iter().copied());
        match self.change {
            Change::Cut => new.to_vec(),
            Change::Type => {
                let typed = new.iter().zip(&slide.typed);
                typed.map(|(new, step)| if *step <= taken { *new } else { Level::OFF }).collect()
            }
            Change::Wipe => {
                let has_come = |element| self.column(element) < taken as usize;
                both()
                    .enumerate()
                    .map(|(element, (old, new))| if has_come(element) { new } else { old })
                    .collect()
            }
            Change::Fade(steps) => {
                let share = |old: Level, new: Level| {
                    let (old, new) = (i64::from(old.0), i64::from(new.0));
                    Level((old + (new - old) * i64::from(taken) / i64::from(steps.max(1))) as u8)
                };
                both().map(|(old, new)| share(old, new)).collect()
            }
            Change::Push(way) => self.pushed((old, new), way, taken as usize),
        }
    }

    /// How many cells there are across and down, and how many elements each has: digits, or dots.
    fn cells(&self) -> (usize, usize, usize) {
        match self.face.dots() {
            Some(grid) => (grid.width, grid.height, grid.channels.count()),
            None => (self.face.digits(), 1, self.face.style().segment_count()),
        }
    }

    /// The column, or digit, of an element.
    fn column(&self, element: usize) -> usize {
        match self.face.dots() {
            Some(grid) => element / grid.channels.count() % grid.width,
            // A lamp comes last.
            None => digit_of(&self.face, element).unwrap_or(self.face.digits()),
        }
    }

    /// The levels after the new content has come in by `come` cells.
    fn pushed(&self, (old, new): (&[Level], &[Level]), way: Move, come: usize) -> Vec<Level> {
        let (across, down, size) = self.cells();
        let row = across * size;
        // Rows move separately to the left and right, together up and down.
        let (line, by) = match way {
            Move::Left | Move::Right => (row, come * size),
            Move::Up | Move::Down => (row * down, come * row),
        };
        let mut levels = Vec::with_capacity(new.len());
        let cells = row * down;
        for (old, new) in old[..cells].chunks(line.max(1)).zip(new[..cells].chunks(line.max(1))) {
            let by = by.min(line);
            let (first, second) = match way {
                Move::Left | Move::Up => (&old[by..], &new[..by]),
                Move::Right | Move::Down => (&new[line - by..], &old[..line - by]),
            };
            levels.extend_from_slice(first);
            levels.extend_from_slice(second);
        }
        // Colons and lamps stand still.
        levels.extend_from_slice(if 2 * come >= across { &new[cells..] } else { &old[cells..] });
        levels
    }

    /// Puts levels over those that are there: all segments of digits, but only the dots, colons and lamps that are lit.
    fn put(&self, levels: &[Level], there: &mut [Level]) {
        let (across, down, size) = self.cells();
        let (cells, extras) = levels.split_at((across * down * size).min(levels.len()));
        let (there_cells, there_extras) = there.split_at_mut(cells.len());
        if self.face.dots().is_none() {
            there_cells.copy_from_slice(cells);
        } else {
            for (cell, there) in cells.chunks(size).zip(there_cells.chunks_mut(size)) {
                if cell.iter().any(|level| *level != Level::OFF) {
                    there.copy_from_slice(cell);
                }
            }
        }
        for (level, there) in extras.iter().zip(there_extras).filter(|(level, _)| **level != Level::OFF) {
            *there = *level;
        }
    }
}

impl Act for Slides {
    fn draw(&self, elapsed: Duration, _: &Inputs, canvas: &mut Canvas<'_>) {
        if self.slides.is_empty() {
            return;
        }
        let Place { slide, taken, .. } = self.place(elapsed);
        let (slide, before, steps) = self.pair(slide);
        if taken >= steps {
            self.put(slide.frame.levels(), canvas.levels_mut());
        } else {
            self.put(&self.levels(slide, before, taken), canvas.levels_mut());
        }
    }

    fn next_change(&self, elapsed: Duration, _: &Inputs) -> Option<Duration> {
        if self.slides.is_empty() {
            return None;
        }
        let Place { slide, taken, began } = self.place(elapsed);
        let (.., steps) = self.pair(slide);
        let next = if taken < steps {
            began + (u128::from(taken) + 1) * self.pace.step_nanos()
        } else {
            began + u128::from(steps) * self.pace.step_nanos() + self.pace.hold_nanos()
        };
        let next = Duration::from_nanos(u64::try_from(next).ok()?);
        self.length().is_none_or(|length| next < length).then_some(next)
    }

    fn length(&self) -> Option<Duration> {
        let nanos = self.run() * u128::from(self.pace.times?.max(1));
        Some(duration(nanos))
    }
}
