//! What is shown for a time, as a template reads it.

use std::collections::BTreeMap;

use serde::Serialize;

use super::{MarkModel, SeatsModel, ValueModel, place_of};
use crate::project::passage::Steadied;

/// What is shown for a time.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[serde(tag = "kind", rename_all = "snake_case")]
pub enum PassageModel {
    /// Pictures.
    Film {
        /// Which still, for how long (0 for good), and with which brightness.
        shown: Vec<(usize, u32, Option<u8>)>,
        /// Whether any of them changes the brightness.
        dims: bool,
    },
    /// A window along a strip.
    Moving {
        /// The strip.
        strip: usize,
        /// How many windows.
        windows: usize,
        /// Whether what is seen moves to the left.
        to_left: bool,
        /// How long each is shown.
        step: u32,
        /// The number of its colour, where dots have several lights.
        ink: Option<usize>,
    },
    /// A count.
    Count {
        /// The first number, in units of its last place.
        from: i64,
        /// The last one.
        to: i64,
        /// How far each step goes.
        step: i64,
        /// How long each stays.
        every: u32,
        /// How long the last one stays.
        hold: u32,
        /// How often; 0 without end.
        times: u32,
        /// The figures.
        set: usize,
        /// Where they stand.
        seats: SeatsModel,
        /// How many are always written.
        least: usize,
        /// What else is lit.
        marks: Vec<MarkModel>,
        /// Whether there are negative numbers.
        negative: bool,
        /// How many bits a number takes in the source: 8, 16 or 32; with its sign.
        bits: u32,
    },
    /// A clock.
    Clock {
        /// The figures.
        set: usize,
        /// Where they stand.
        seats: SeatsModel,
        /// What else is lit.
        marks: Vec<MarkModel>,
        /// What is lit while the colon is.
        colon: Vec<MarkModel>,
        /// What is lit after noon.
        afternoon: Vec<MarkModel>,
        /// Hours from 1 to 12.
        twelve: bool,
        /// `day`, `up` or `down`.
        runs: &'static str,
        /// Whether seconds are shown.
        seconds: bool,
        /// What it shows first.
        first: [u8; 3],
        /// Seconds of the first minute that are over, where they are not shown.
        passed: u8,
        /// What it shows first, in seconds; with those of the first minute that are over.
        start: u32,
        /// Ticks of a second.
        ticks: u32,
        /// How many of the first second are over.
        ticked: u32,
        /// How long a tick is.
        tick: u32,
        /// How long the first one still goes on.
        first_tick: u32,
        /// Whether the colon blinks.
        blinks: bool,
        /// How long all is shown; 0 for good.
        lasts: u32,
        /// Whether keys set it.
        is_set: bool,
        /// Whether it shows the time as it is, and not one that begins with the reel.
        is_wall: bool,
        /// Whether that is kept while something else is shown, or what plays is held.
        goes_on: bool,
    },
    /// A value.
    Value {
        /// Which.
        value: usize,
        /// The figures.
        set: usize,
        /// Where they stand.
        seats: SeatsModel,
        /// How many are always written.
        least: usize,
        /// What else is lit.
        marks: Vec<MarkModel>,
        /// Whether there are negative numbers.
        negative: bool,
        /// How many bits a number takes in the source: 16 or 32; with its sign.
        bits: u32,
        /// The least number that is written, and which still is shown below it; none where none comes.
        under: Option<(i64, usize)>,
        /// The same of the most.
        over: Option<(i64, usize)>,
        /// What is made of the values of several looks before that is shown.
        steadied: Option<Steadied>,
        /// What is shown stays until the value is farther away than this.
        band: i64,
        /// How often it is looked at; 0 where it is shown as it changes.
        every: u32,
        /// The value that says which figure blinks, and of the last of them which that is: 0 for the ones.
        cursor: Option<(usize, i64)>,
        /// How long it is shown; 0 for good.
        lasts: u32,
    },
    /// Pictures of which a value chooses one.
    Chosen {
        /// Which value.
        value: usize,
        /// From which value on each still is shown; the first one below that, too.
        pictures: Vec<(i64, usize)>,
        /// How many bits the value takes in the source: 16 or 32; with its sign.
        bits: u32,
        /// How often it is looked at; 0 where it is shown as it changes.
        every: u32,
        /// How long it is shown; 0 for good.
        lasts: u32,
    },
    /// A stopwatch.
    Stopwatch {
        /// The figures.
        set: usize,
        /// Where they stand.
        seats: SeatsModel,
        /// What else is lit.
        marks: Vec<MarkModel>,
        /// Whether it has hundredths.
        hundredths: bool,
        /// The milliseconds of its last figure.
        unit: u32,
        /// Which still is shown after 99 minutes.
        over: usize,
    },
}

impl PassageModel {
    /// Whether it comes to something that stays until a key or a value changes it.
    pub(in crate::project) fn rests(&self) -> bool {
        match self {
            Self::Film { shown, .. } => shown.iter().any(|(_, lasts, _)| *lasts == 0),
            Self::Value { every, lasts, .. } | Self::Chosen { every, lasts, .. } => {
                *every == 0 && *lasts == 0
            }
            _ => false,
        }
    }

    /// Lets a clock that shows the time as it is go on while it is not drawn, where that ever comes.
    pub(in crate::project) fn keep_time(&mut self, where_needed: bool) {
        if let Self::Clock { is_wall: true, goes_on, .. } = self {
            *goes_on = where_needed;
        }
    }

    /// The names of what is shown one after another on a face: by its kind, and numbered if there are several of a kind.
    pub(in crate::project) fn names(passages: &[Self]) -> Vec<String> {
        let mut of_kind: BTreeMap<_, usize> = BTreeMap::new();
        passages.iter().for_each(|passage| *of_kind.entry(passage.name()).or_default() += 1);
        let mut named: BTreeMap<_, usize> = BTreeMap::new();
        let number = |passage: &Self| {
            let (name, number) = (passage.name(), named.entry(passage.name()).or_default());
            *number += 1;
            if of_kind[name] == 1 { name.to_owned() } else { format!("{name}_{number}") }
        };
        passages.iter().map(number).collect()
    }

    const fn name(&self) -> &'static str {
        match self {
            Self::Film { .. } => "show_stills",
            Self::Moving { .. } => "move_strip",
            Self::Count { .. } => "count_on",
            Self::Clock { .. } => "tell_time",
            Self::Value { .. } => "show_value",
            Self::Chosen { .. } => "show_picture",
            Self::Stopwatch { .. } => "run_stopwatch",
        }
    }

    /// Whether it is drawn again as a value changes.
    pub(in crate::project) fn follows(&self, values: &[ValueModel]) -> bool {
        self.value().is_some_and(|value| !values[value].is_given)
    }

    /// The value that it shows.
    pub(in crate::project) const fn value(&self) -> Option<usize> {
        match self {
            Self::Value { value, .. } | Self::Chosen { value, .. } => Some(*value),
            _ => None,
        }
    }

    /// Whether keys run or set it.
    pub(in crate::project) const fn is_heard(&self) -> bool {
        matches!(self, Self::Stopwatch { .. } | Self::Clock { is_set: true, .. })
    }

    /// Whether there is a picture for what does not fit.
    pub(in crate::project) const fn has_beyond(&self) -> bool {
        match self {
            Self::Value { under, over, .. } => under.is_some() || over.is_some(),
            Self::Stopwatch { .. } => true,
            _ => false,
        }
    }

    /// Gives its brightness steps other numbers: their places among these.
    pub(in crate::project) fn number_dims(&mut self, used: &[u8]) {
        let Self::Film { shown, .. } = self else { return };
        for step in shown.iter_mut().filter_map(|(.., step)| step.as_mut()) {
            *step = place_of(*step, used);
        }
    }

    /// The brightness steps that it sets.
    pub(in crate::project) fn dimmed_to(&self) -> impl Iterator<Item = u8> + '_ {
        let shown = match self {
            Self::Film { shown, .. } => shown.as_slice(),
            _ => &[],
        };
        shown.iter().filter_map(|(.., step)| *step)
    }

    /// Whether it changes the brightness.
    pub(in crate::project) const fn dims(&self) -> bool {
        matches!(self, Self::Film { dims: true, .. })
    }

    /// Returns true if something is shown for so short that a slow controller may need longer to draw it. A stopwatch skips by
    /// itself.
    pub(in crate::project) fn is_quick(&self) -> bool {
        const QUICK_MS: std::ops::Range<u32> = 1..250;
        let is_quick = |ms: u32| QUICK_MS.contains(&ms);
        match self {
            Self::Film { shown, .. } => shown.iter().any(|(_, lasts, _)| is_quick(*lasts)),
            Self::Moving { step, .. } => is_quick(*step),
            Self::Count { every, .. } | Self::Value { every, .. } | Self::Chosen { every, .. } => {
                is_quick(*every)
            }
            Self::Clock { tick, .. } => is_quick(*tick),
            Self::Stopwatch { .. } => false,
        }
    }

    /// The longest time for which one thing is shown, in milliseconds.
    pub(in crate::project) fn longest(&self) -> u32 {
        match self {
            Self::Film { shown, .. } => shown.iter().map(|(_, lasts, _)| *lasts).max().unwrap_or(0),
            Self::Moving { step, .. } => *step,
            Self::Count { every, hold, .. } => *every.max(hold),
            Self::Clock { tick, .. } => *tick,
            Self::Value { every, lasts, .. } | Self::Chosen { every, lasts, .. } => *every.max(lasts),
            Self::Stopwatch { unit, .. } => *unit,
        }
    }
}
