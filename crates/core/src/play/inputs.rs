//! Inputs while acts play: values, buttons, and the clock on the wall.

use std::collections::BTreeMap;
use std::fmt;
use std::sync::Arc;
use std::time::Duration;

use jiff::Timestamp;

use super::keyboard::KeyEvent;
use super::timeline::Timeline;
use crate::content::number::Decimal;
use crate::plan::ButtonId;

/// The inputs so far, as an act sees them: their moments count from the beginning of the act.
///
/// Nothing is forgotten but what is long past, so that any moment can be looked at again. A copy costs nothing.
#[derive(Debug, Clone, Default, PartialEq)]
pub struct Inputs {
    log: Arc<Log>,
    /// When the act began.
    began: Duration,
}

#[derive(Debug, Clone, Default, PartialEq)]
struct Log {
    variables: BTreeMap<String, Timeline<Value>>,
    wall: Timeline<Timestamp>,
    keys: Vec<KeyMoment>,
}

/// A value from outside.
#[derive(Debug, Clone, PartialEq)]
#[non_exhaustive]
pub enum Value {
    /// A number.
    Number(Decimal),
    /// Words.
    Words(String),
}

impl fmt::Display for Value {
    /// A number in digits, words in quotes.
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self {
            Self::Number(number) => write!(f, "{number}"),
            Self::Words(words) => write!(f, "{words:?}"),
        }
    }
}

impl Value {
    /// Takes words for a number where they are one.
    #[must_use]
    pub fn of(words: &str) -> Self {
        words.trim().parse().map_or_else(|_| Self::Words(words.to_owned()), Self::Number)
    }

    /// The number that it is; `None` of words.
    #[must_use]
    pub const fn number(&self) -> Option<Decimal> {
        match self {
            Self::Number(number) => Some(*number),
            Self::Words(_) => None,
        }
    }
}

/// Something that happened to a push button.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct KeyMoment {
    /// When, since playing began.
    pub at: Duration,
    /// The button.
    pub button: ButtonId,
    /// The event.
    pub event: KeyEvent,
}

impl Inputs {
    /// Notes what a variable is from a moment on.
    pub fn note(&mut self, name: &str, at: Duration, value: Value) {
        let at = self.began + at;
        let variables = &mut Arc::make_mut(&mut self.log).variables;
        match variables.get_mut(name) {
            Some(values) => values.note(at, value),
            None => variables.entry(name.to_owned()).or_default().note(at, value),
        }
    }

    /// Notes what the clock on the wall says at a moment; it goes on from there.
    pub fn set_wall(&mut self, at: Duration, time: Timestamp) {
        let at = self.began + at;
        Arc::make_mut(&mut self.log).wall.note(at, time);
    }

    /// Advances the clock on the wall while playing was held at a moment.
    pub fn pass_wall(&mut self, at: Duration, passed: Duration) {
        self.move_wall(at, self.wall(at) + passed.as_nanos() as i128);
    }

    /// Notes what the clock on the wall says at a moment, in nanoseconds since 1970, where somebody noted it before.
    fn move_wall(&mut self, at: Duration, nanos: i128) {
        if let (true, Ok(time)) = (self.has_wall(), Timestamp::from_nanosecond(nanos)) {
            self.set_wall(at, time);
        }
    }

    /// Playing goes on from another moment: the variables and the clock on the wall are there what they are here, and what
    /// was to come after that moment is forgotten.
    pub fn carry(&mut self, from: Duration, to: Duration) {
        let wall = self.wall(from);
        let log = &self.log.variables;
        let values: Vec<_> =
            log.keys().filter_map(|name| Some((name.clone(), self.value(name, from)?.clone()))).collect();
        values.into_iter().for_each(|(name, value)| self.note(&name, to, value));
        self.move_wall(to, wall);
        self.keys_up_to(self.began + to);
    }

    /// Notes what happened to a push button. What happened later is forgotten, as with values.
    pub fn press(&mut self, key: KeyMoment) {
        let at = self.began + key.at;
        self.keys_up_to(at).push(KeyMoment { at, ..key });
    }

    /// Returns the events of push buttons up to a moment since playing began; later ones are dropped.
    fn keys_up_to(&mut self, at: Duration) -> &mut Vec<KeyMoment> {
        let keys = &mut Arc::make_mut(&mut self.log).keys;
        keys.truncate(keys.partition_point(|known| known.at <= at));
        keys
    }

    /// The same as an act sees it that begins at a moment of this one.
    #[must_use]
    pub fn since(&self, began: Duration) -> Self {
        Self { log: Arc::clone(&self.log), began: self.began.saturating_add(began) }
    }

    /// A moment of the act, counted from when playing began, as those are that come with values and keys.
    #[must_use]
    pub const fn absolute(&self, elapsed: Duration) -> Duration {
        self.began.saturating_add(elapsed)
    }

    /// All that a variable was up to a moment, each with its own moment since playing began.
    #[must_use]
    pub fn values(&self, name: &str, elapsed: Duration) -> &[(Duration, Value)] {
        self.log.variables.get(name).map_or(&[], |values| values.up_to(self.absolute(elapsed)))
    }

    /// Returns the value of a variable at a moment.
    #[must_use]
    pub fn value(&self, name: &str, elapsed: Duration) -> Option<&Value> {
        self.values(name, elapsed).last().map(|(_, value)| value)
    }

    /// When a variable next becomes another.
    #[must_use]
    pub fn next_value(&self, name: &str, elapsed: Duration) -> Option<Duration> {
        let next = self.log.variables.get(name)?.next_after(self.absolute(elapsed))?;
        next.checked_sub(self.began)
    }

    /// Returns the time of the clock on the wall at a moment, in nanoseconds since 1970. Unless it was set, it began with playing.
    #[must_use]
    pub fn wall(&self, elapsed: Duration) -> i128 {
        self.wall_at(self.absolute(elapsed))
    }

    /// The same at a moment since playing began.
    #[must_use]
    pub fn wall_at(&self, now: Duration) -> i128 {
        let noted = self.log.wall.at(now).or(self.log.wall.first());
        let nanos = |time: Duration| time.as_nanos() as i128;
        noted.map_or(nanos(now), |(at, time)| time.as_nanosecond() + nanos(now) - nanos(*at))
    }

    /// When the clock on the wall is next set.
    #[must_use]
    pub fn wall_is_set(&self, elapsed: Duration) -> Option<Duration> {
        self.log.wall.next_after(self.absolute(elapsed))?.checked_sub(self.began)
    }

    /// Returns true if somebody noted what the clock on the wall says.
    #[must_use]
    pub fn has_wall(&self) -> bool {
        self.log.wall.first().is_some()
    }

    /// When something next happens to a push button.
    #[must_use]
    pub fn next_key(&self, elapsed: Duration) -> Option<Duration> {
        self.log.keys.get(self.keys(elapsed).len())?.at.checked_sub(self.began)
    }

    /// Returns the events of push buttons up to a moment.
    #[must_use]
    pub fn keys(&self, elapsed: Duration) -> &[KeyMoment] {
        let now = self.absolute(elapsed);
        &self.log.keys[..self.log.keys.partition_point(|key| key.at <= now)]
    }
}
