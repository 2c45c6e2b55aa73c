//! Values that are shown and are not known beforehand: keys change them, or the person's own code gives them.

use std::collections::{BTreeMap, BTreeSet};

use super::error::CannotWrite;
use super::hearing::each_act;
use spare_tile_core::content::number::Decimal;
use spare_tile_core::plan::Rig;
use spare_tile_core::play::gauge::{Gauge, Source};
use spare_tile_core::play::reel::{Doing, LampOf, Program};
use spare_tile_core::play::{Kind, Value};

/// A variable of a reel in a program.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Live {
    /// What it is at first, in units of its last place.
    pub first: i64,
    /// How many places after the point it has.
    pub places: u32,
    /// The least that keys make of it, in the same units; none where that has no end.
    pub least: Option<i64>,
    /// The most.
    pub most: Option<i64>,
    /// Whether no key changes it, so that the person's own code gives it.
    pub is_given: bool,
    /// Whether a face that shows it has room for more than four figures, or a bar of it goes as far.
    pub is_wide: bool,
    /// The texts that it can be, by number; none of a number.
    pub texts: Vec<String>,
}

impl Live {
    /// A text that buttons set: the first one, and those that they set it to. `None` if one of these is a number.
    fn of_texts(first: &Value, doings: &[&Doing]) -> Option<Self> {
        let mut texts = Vec::new();
        let set = doings.iter().map(|doing| match doing {
            Doing::Set { value, .. } => Some(value),
            _ => None,
        });
        for value in [Some(first)].into_iter().chain(set) {
            let Some(Value::Words(text)) = value else { return None };
            if !texts.contains(text) {
                texts.push(text.clone());
            }
        }
        let most = i64::try_from(texts.len()).ok()? - 1;
        let (least, most) = (Some(0), Some(most));
        Some(Self { first: 0, places: 0, least, most, is_given: false, is_wide: false, texts })
    }

    /// The number of a value in a program: of a text its place, of a number the units of the last place. `None` if it has none.
    #[must_use]
    pub fn number_of(&self, value: &Value) -> Option<i64> {
        match value {
            Value::Words(text) => {
                let place = self.texts.iter().position(|known| known == text)?;
                i64::try_from(place).ok()
            }
            _ => i32::try_from(value.number()?.in_units(self.places)).ok().map(i64::from),
        }
    }

    /// The value that a number in a program is.
    #[must_use]
    pub fn value_of(&self, number: i64) -> Value {
        let text = usize::try_from(number).ok().and_then(|place| self.texts.get(place));
        match text {
            Some(text) => Value::Words(text.clone()),
            None => Value::Number(Decimal::new(i128::from(number), self.places)),
        }
    }

    /// The meaning of its numbers, behind its name; empty if they are the value.
    pub(super) fn meaning(&self, is_lamp: bool) -> String {
        if is_lamp {
            return ": 1 while it is lit".to_owned();
        }
        let texts = self.texts.iter().enumerate().map(|(place, text)| format!("{place} is {text:?}"));
        let texts = texts.collect::<Vec<_>>().join(", ");
        if texts.is_empty() { texts } else { format!(": {texts}") }
    }

    /// The least and the most that keys make of it, where both have an end.
    #[must_use]
    pub fn within(&self) -> Option<(i64, i64)> {
        self.least.zip(self.most)
    }

    /// How many bits it takes, with its sign: 16 where keys keep it within them, or where it is given and four figures are shown of it.
    #[must_use]
    pub fn bits(&self) -> u32 {
        let is_short = |number: i64| i16::try_from(number).is_ok();
        let is_within = self
            .within()
            .map_or(self.is_given && !self.is_wide, |(least, most)| is_short(least) && is_short(most));
        if is_within && is_short(self.first) { 16 } else { 32 }
    }
}

/// The variables that a program keeps, by name. All others stay what they are at first.
pub type Lives = BTreeMap<String, Live>;

/// The variables that keys change, and those that are shown as numbers.
///
/// # Errors
/// When one of them is no number that a program can keep.
pub fn lives(rig: &Rig, program: &Program) -> Result<Lives, CannotWrite> {
    let mut wide = BTreeSet::new();
    let mut ends: Vec<(&str, Decimal)> = Vec::new();
    let mut places: BTreeMap<&str, u32> = BTreeMap::new();
    let mut shown = BTreeSet::new();
    for track in &program.reel.tracks {
        each_act(&*track.act, &mut |kind| {
            let reading = match kind {
                Kind::Reading(reading) => reading,
                Kind::Cursor(cursor) => &cursor.reading,
                Kind::Gauge(Gauge { source: Source::Variable(variable), scale, .. }) => {
                    shown.insert(variable.as_str());
                    ends.extend([scale.from, scale.to].map(|end| (variable.as_str(), end)));
                    return;
                }
                _ => return,
            };
            shown.insert(reading.variable.as_str());
            let face = &rig.faces[track.face].face;
            if face.dots().is_some() || face.digits() > 4 {
                wide.insert(reading.variable.as_str());
            }
            let own = places.entry(&reading.variable).or_default();
            *own = (*own).max(reading.format.places.unwrap_or(0));
        });
    }
    let mut changed: BTreeMap<&str, Vec<&Doing>> = BTreeMap::new();
    for binding in &program.bindings {
        if let Some(variable) = variable_of(&binding.doing) {
            changed.entry(variable).or_default().push(&binding.doing);
        }
        if let Doing::Add { at: Some(at), .. } = &binding.doing {
            changed.entry(at).or_default();
        }
    }
    let names: BTreeSet<&str> = changed.keys().copied().chain(shown.iter().copied()).collect();
    let live = |name: &str| {
        let is_number = || CannotWrite::Value { variable: name.to_owned(), why: "it is not a number" };
        let doings = changed.get(name).map_or(&[][..], Vec::as_slice);
        let first = program.variables.get(name).ok_or_else(is_number)?;
        // A text has no figures.
        if !doings.is_empty()
            && !shown.contains(name)
            && let Some(texts) = Live::of_texts(first, doings)
        {
            return Ok(texts);
        }
        let first = first.number().ok_or_else(is_number)?;
        let ends = ends.iter().filter(|(of, _)| *of == name).map(|(_, end)| *end);
        let numbers = doings.iter().flat_map(|doing| numbers_of(doing)).chain([first]).chain(ends.clone());
        let own = places.get(name).copied().unwrap_or(0);
        let places = numbers.map(Decimal::places).max().unwrap_or(0).max(own);
        let units = |number: Decimal| i64::try_from(number.in_units(places)).ok();
        let end_of_all = |way: Way, better: fn(i64, i64) -> i64| {
            let mut ends =
                doings.iter().filter_map(|doing| end_of(doing, way)).map(|end| end.and_then(units));
            ends.try_fold(units(first)?, |all, end| Some(better(all, end?)))
        };
        let is_given = !changed.contains_key(name);
        let end = |way, better| end_of_all(way, better).filter(|_| !is_given);
        let (least, most) = (end(Way::Down, i64::min), end(Way::Up, i64::max));
        let first = units(first).filter(|first| i32::try_from(*first).is_ok()).ok_or_else(is_number)?;
        let is_wide = wide.contains(name) || { ends }.any(|end| i16::try_from(end.in_units(places)).is_err());
        Ok(Live { first, places, least, most, is_given, is_wide, texts: Vec::new() })
    };
    names.into_iter().map(|name| Ok((name.to_owned(), live(name)?))).collect()
}

/// The variables that are shown and stay what they are at first, with their values: no button changes them, and the program
/// has no other source of values for what shows them.
pub fn fixed<'p>(program: &'p Program, lives: &Lives) -> impl Iterator<Item = (&'p str, &'p Value)> {
    let shown: BTreeSet<&str> = program.reel.tracks.iter().flat_map(|track| track.act.variables()).collect();
    let all = program.variables.iter().map(|(name, value)| (name.as_str(), value));
    all.filter(move |(name, _)| shown.contains(name) && !lives.contains_key(*name))
}

/// The variable that a key changes.
fn variable_of(doing: &Doing) -> Option<&str> {
    match doing {
        Doing::Toggle(LampOf { variable, .. })
        | Doing::Light(LampOf { variable, .. })
        | Doing::Add { variable, .. }
        | Doing::Set { variable, .. } => Some(variable),
        Doing::Jump(_) | Doing::Pause => None,
    }
}

/// The numbers that a key works with.
fn numbers_of(doing: &Doing) -> Vec<Decimal> {
    match doing {
        Doing::Add { step, limits, .. } => {
            [Some(*step), limits.least, limits.most].into_iter().flatten().collect()
        }
        Doing::Set { value, .. } => value.number().into_iter().collect(),
        Doing::Toggle(_) | Doing::Light(_) | Doing::Jump(_) | Doing::Pause => Vec::new(),
    }
}

/// A way that a value goes.
#[derive(Clone, Copy, PartialEq, Eq)]
enum Way {
    Down,
    Up,
}

/// How far a key takes a variable at most: nowhere where it never goes that way, and where it has no end to no number.
#[allow(clippy::option_option, reason = "no way and no end are two things")]
fn end_of(doing: &Doing, way: Way) -> Option<Option<Decimal>> {
    match doing {
        Doing::Toggle(_) | Doing::Light(_) => Some(Some(if way == Way::Down { 0.into() } else { 1.into() })),
        Doing::Add { step, limits, .. } => {
            let (goes, end, other) = match way {
                Way::Down => (step.is_less(0.into()), limits.least, limits.most),
                Way::Up => (!step.is_less(0.into()), limits.most, limits.least),
            };
            // Who begins again at the other end is there, too.
            let is_round = limits.wrap && other.is_some();
            match (goes, end) {
                (true, end) => Some(end.filter(|_| !limits.wrap || is_round)),
                (false, Some(end)) if is_round => Some(Some(end)),
                (false, _) => None,
            }
        }
        Doing::Set { value, .. } => Some(value.number()),
        Doing::Jump(_) | Doing::Pause => None,
    }
}
