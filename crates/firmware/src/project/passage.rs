//! What a track shows, as a small program can play it: passages one after another.

use std::collections::BTreeSet;

use serde::Serialize;

use super::field::{Field, Ink, Pattern};
use spare_tile_core::face::Element;
use spare_tile_core::frame::Frame;

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
    /// A value, written as a number.
    Value(Box<Valued>),
    /// A value, shown as pictures.
    Chosen(Box<Chosen>),
    /// A stopwatch.
    Stopwatch(Box<Stopping>),
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
    /// How its lights are lit.
    pub ink: Ink,
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

/// A value that keys change, or the person's own code gives.
#[derive(Debug, Clone, PartialEq)]
pub struct Valued {
    /// The variable.
    pub variable: String,
    /// How many places after the point it has.
    pub places: u32,
    /// How it is written.
    pub figures: Figures,
    /// The least number that is written, in units of its last place.
    pub from: i64,
    /// The most.
    pub to: i64,
    /// What is shown below the least; none where it never is.
    pub under: Option<Frame>,
    /// The same above the most.
    pub over: Option<Frame>,
    /// What is made of the values that came before it is shown.
    pub steadied: Option<Steadied>,
    /// What is shown stays until it is farther away than this.
    pub band: i64,
    /// How often it is looked at; none where it is shown as it changes.
    pub every: Option<Millis>,
    /// The variable that says which of its figures blinks.
    pub cursor: Option<String>,
    /// How long it is shown; none for good.
    pub lasts: Option<Millis>,
}

/// What is made of the values of several looks; templates read how, and of how many.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
#[serde(tag = "how", content = "looks", rename_all = "snake_case")]
pub enum Steadied {
    /// The least so far.
    Least,
    /// The most so far.
    Most,
    /// The mean of the last ones, so many of them.
    Mean(usize),
    /// The one in the middle of so many; of an even count the lower of the two.
    Median(usize),
}

/// Pictures of which a value chooses one.
#[derive(Debug, Clone, PartialEq)]
pub struct Chosen {
    /// The variable.
    pub variable: String,
    /// From which value on each is shown, in units of its last place; the first below that, too.
    pub pictures: Vec<(i64, Frame)>,
    /// How often the value is looked at; none where it is shown as it changes.
    pub every: Option<Millis>,
    /// How long it is shown; none for good.
    pub lasts: Option<Millis>,
}

/// A stopwatch, which keys let run and stop.
#[derive(Debug, Clone, PartialEq)]
pub struct Stopping {
    /// Where its figures stand: two of the minutes, of the seconds, and perhaps of the hundredths.
    pub field: Field,
    /// Whether it has hundredths.
    pub hundredths: bool,
    /// What is shown after 99 minutes.
    pub over: Frame,
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
    /// Whether keys set it.
    pub is_set: bool,
    /// Whether it shows the time as it is, and not one that begins with the reel.
    pub is_wall: bool,
}

impl Telling {
    /// What it shows first, in seconds: counted up, or down from the last second of a minute that is left.
    #[must_use]
    pub fn start(&self) -> u32 {
        let [hours, minutes, seconds] = self.first.map(u32::from);
        let into = match (self.seconds, self.runs) {
            (true, _) => seconds,
            (false, Runs::Down) => 59 - u32::from(self.passed),
            (false, Runs::Day | Runs::Up) => u32::from(self.passed),
        };
        3600 * hours + 60 * minutes + into
    }
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
            Self::Value(value) => value.lasts.map(u64::from),
            Self::Chosen(chosen) => chosen.lasts.map(u64::from),
            Self::Stopwatch(_) => None,
        }
    }
}
