//! The time of day, the date, and the time to a moment or since one.
//!
//! Midnight follows 23:59:59, as 00:00. Where a zone puts its clocks forward an hour is left out, and where it puts them back
//! one comes twice. There is no 23:59:60: as in most computers' time, a leap second is not counted (POSIX, "Seconds Since
//! the Epoch").

use std::time::Duration;

use jiff::Timestamp;
use jiff::civil::{DateTime, Time};
use jiff::tz::{Offset, TimeZone};

use super::figures::{Between, Figures};
use super::keyboard::KeyEvent;
use super::{Act, Inputs, KeyMoment, Kind};
use crate::content::lettering::Look;
use crate::content::number::Decimal;
use crate::content::{Canvas, ContentError, Region};
use crate::face::Face;
use crate::frame::Level;
use crate::plan::ButtonId;
use crate::rig::nearest;
use crate::words::words;

/// The time in which a colon blinks once by default.
pub const BLINK: Duration = Duration::from_secs(1);

/// The quantity that a clock shows.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Shows {
    /// The time of day.
    Time,
    /// The date.
    Date(DateOrder),
    /// How long it is to a moment; nothing left from that on. What is left of a second counts as one, so that 0 is the moment.
    Until(Timestamp),
    /// How long it has been since a moment; nothing before it.
    Since(Timestamp),
}

words! {
    /// The time or date that a clock shows.
    #[derive(Default)]
    pub enum Show {
        /// The time of day.
        #[default]
        Time = "time",
        /// 28.11.
        DayMonth = "day-month",
        /// 11-28.
        MonthDay = "month-day",
        /// 28.11.2026.
        DayMonthYear = "day-month-year",
        /// 2026-11-28.
        YearMonthDay = "year-month-day",
    }
}

impl From<Show> for Shows {
    fn from(show: Show) -> Self {
        match show {
            Show::Time => Self::Time,
            Show::DayMonth => Self::Date(DateOrder::DayMonth),
            Show::MonthDay => Self::Date(DateOrder::MonthDay),
            Show::DayMonthYear => Self::Date(DateOrder::DayMonthYear),
            Show::YearMonthDay => Self::Date(DateOrder::YearMonthDay),
        }
    }
}

words! {
    /// The state of the colon of a clock.
    #[derive(Default)]
    pub enum ColonState {
        /// It blinks.
        #[default]
        Blink = "blink",
        /// It is lit.
        Steady = "steady",
        /// It is dark.
        Off = "off",
    }
}

impl ColonState {
    /// Returns the colon; `period` is how long it takes to blink once.
    #[must_use]
    pub const fn colon(self, period: Duration) -> Colon {
        match self {
            Self::Blink => Colon::Blinking(period),
            Self::Steady => Colon::Steady,
            Self::Off => Colon::Dark,
        }
    }
}

/// The order of a date.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
#[allow(missing_docs, reason = "the words say it")]
pub enum DateOrder {
    DayMonth,
    MonthDay,
    DayMonthYear,
    YearMonthDay,
}

/// How hours and minutes are parted.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Colon {
    /// It is lit.
    Steady,
    /// It is lit for the first half of each so long a time, which is more than nothing; where that goes into a second, from each full
    /// second on.
    Blinking(Duration),
    /// It is dark.
    Dark,
}

/// The mark of the afternoon if hours go to twelve.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Afternoon {
    /// By nothing.
    Untold,
    /// By the point behind the last figure.
    Point,
    /// By a lamp or colon of the face, by its place in [`Face::extras`].
    Light(usize),
}

/// The speed of the clock: its seconds in a number of ours.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Speed {
    /// Its seconds; more than none.
    pub shown: u32,
    /// Ours; more than none.
    pub passed: u32,
}

impl Speed {
    /// As time goes.
    pub const TRUE: Self = Self { shown: 1, passed: 1 };

    /// The rates that a clock can have, in words.
    pub const RATES: &'static str = "0.001 to 100000, with three places at most";

    /// Returns the speed for a number of seconds that a clock counts in a second, if a clock can have that rate.
    #[must_use]
    pub fn of_rate(rate: Decimal) -> Option<Self> {
        let thousandths = rate.in_units(3);
        let is_sound = rate.places() <= 3 && (1..=100_000_000).contains(&thousandths);
        Some(Self { shown: u32::try_from(thousandths).ok().filter(|_| is_sound)?, passed: 1000 })
    }
}

/// A push button that sets a clock.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Setter {
    /// The button.
    pub button: ButtonId,
    /// The unit that it sets.
    pub sets: Sets,
}

/// The unit that is set on a clock. None carries to the next.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Sets {
    /// An hour more, within the day.
    Hour,
    /// A minute more, within the hour.
    Minute,
    /// The nearest full minute.
    Second,
}

/// How it looks.
#[derive(Debug, Clone, PartialEq)]
pub struct Style {
    /// True if the seconds are shown.
    pub seconds: bool,
    /// Hours from 1 to 12; how the afternoon is then told.
    pub twelve: Option<Afternoon>,
    /// How hours and minutes are parted.
    pub colon: Colon,
    /// How the figures look on dots.
    pub look: Option<Look>,
}

/// A clock.
#[derive(Debug, Clone, PartialEq)]
pub struct Clock {
    /// The time or date that it shows.
    pub shows: Shows,
    zone: TimeZone,
    /// How it is written.
    pub style: Style,
    /// The time when it begins; where that is not said, that of the clock on the wall.
    pub from: Option<Timestamp>,
    /// How fast it runs.
    pub speed: Speed,
    /// The buttons that set it.
    pub setters: Vec<Setter>,
}

/// Nanoseconds since 1970.
type Nanos = i128;

const SECOND: Nanos = 1_000_000_000;
const MINUTE: Nanos = 60 * SECOND;
const HOUR: Nanos = 60 * MINUTE;

impl Clock {
    /// A clock in a region of a face.
    ///
    /// # Errors
    /// When its figures do not fit there.
    pub fn new(
        shows: Shows,
        zone: TimeZone,
        style: Style,
        from: Option<Timestamp>,
        speed: Speed,
        face: &Face,
        region: Region,
    ) -> Result<Self, ContentError> {
        let clock = Self { shows, zone, style, from, speed, setters: Vec::new() };
        let widest = Figures { is_afternoon: true, ..clock.figures(0).widest() };
        clock.try_draw(&widest, &mut Canvas::new(face, &mut face.blank(), region))?;
        Ok(clock)
    }

    /// The same, set by push buttons.
    #[must_use]
    pub fn set_by(self, setters: Vec<Setter>) -> Self {
        Self { setters, ..self }
    }

    /// The time that is shown when so much has passed.
    fn shown(&self, elapsed: Duration, inputs: &Inputs) -> Nanos {
        self.running(inputs.absolute(elapsed), inputs) + self.set_off(elapsed, inputs)
    }

    /// By how much it has been set. It keeps that when it begins again: buttons count since playing began.
    fn set_off(&self, elapsed: Duration, inputs: &Inputs) -> Nanos {
        if self.setters.is_empty() {
            return 0;
        }
        let set = |off: Nanos, key: &KeyMoment| {
            let is_it = |setter: &&Setter| setter.button == key.button;
            let Some(setter) = self.setters.iter().find(is_it).filter(|_| key.event == KeyEvent::Down) else {
                return off;
            };
            let local = self.local(self.running(key.at, inputs) + off);
            off + match setter.sets {
                Sets::Hour if local.hour() == 23 => -23 * HOUR,
                Sets::Hour => HOUR,
                Sets::Minute if local.minute() == 59 => -59 * MINUTE,
                Sets::Minute => MINUTE,
                Sets::Second => {
                    let within = within_minute(local);
                    if within < MINUTE / 2 { -within } else { MINUTE - within }
                }
            }
        };
        inputs.keys(elapsed).iter().fold(0, set)
    }

    /// The time at a moment since playing began, as if nobody had set the clock.
    fn running(&self, at: Duration, inputs: &Inputs) -> Nanos {
        let began = inputs.absolute(Duration::ZERO);
        let (base, passed) = match self.from {
            Some(from) => (from.as_nanosecond(), at.as_nanos() as Nanos - began.as_nanos() as Nanos),
            None => {
                let base = inputs.wall(Duration::ZERO);
                (base, inputs.wall_at(at) - base)
            }
        };
        let Speed { shown, passed: own } = self.speed;
        base + (passed * Nanos::from(shown)).div_euclid(Nanos::from(own.max(1)))
    }

    /// When a time will be shown.
    fn elapsed_at(&self, shown: Nanos, elapsed: Duration, inputs: &Inputs) -> Option<Duration> {
        let Speed { shown: fast, passed: own } = self.speed;
        let passed_since = |base: Nanos| {
            // Not a moment too early.
            let passed = (shown - base) * Nanos::from(own);
            -(-passed).div_euclid(Nanos::from(fast.max(1)))
        };
        let Some(from) = self.from else {
            let base = inputs.wall(Duration::ZERO);
            let left = base + passed_since(base) - inputs.wall(elapsed);
            let next = duration(left).and_then(|left| elapsed.checked_add(left));
            // The clock on the wall may be set before that.
            return next.into_iter().chain(inputs.wall_is_set(elapsed)).min();
        };
        duration(passed_since(from.as_nanosecond()))
    }

    /// The unit in which a length of time is counted.
    const fn unit(&self) -> Nanos {
        if self.style.seconds { SECOND } else { MINUTE }
    }

    /// The time in its zone.
    pub fn local(&self, shown: Nanos) -> DateTime {
        let latest = || if shown < 0 { Timestamp::MIN } else { Timestamp::MAX };
        let moment = Timestamp::from_nanosecond(shown).unwrap_or_else(|_| latest());
        self.zone.to_datetime(moment)
    }

    fn figures(&self, shown: Nanos) -> Figures {
        let two = |number: i128| format!("{number:02}");
        let local = self.local(shown);
        let lit = match self.style.colon {
            Colon::Steady => true,
            Colon::Dark => false,
            Colon::Blinking(period) => is_first_half(shown, period),
        };
        let (groups, between, is_afternoon) = match self.shows {
            Shows::Time => {
                let (hour, minute, second) = (local.hour(), local.minute(), local.second());
                let hour = match self.style.twelve {
                    Some(_) => format!("{:2}", (hour + 11) % 12 + 1),
                    None => two(hour.into()),
                };
                let mut groups = vec![hour, two(minute.into())];
                if self.style.seconds {
                    groups.push(two(second.into()));
                }
                (groups, Between::Colon { lit }, local.hour() >= 12 && self.style.twelve.is_some())
            }
            Shows::Date(order) => {
                let (day, month) = (two(local.day().into()), two(local.month().into()));
                let year = format!("{:04}", local.year());
                let (groups, between) = match order {
                    DateOrder::DayMonth => (vec![day, month], Between::Point),
                    DateOrder::MonthDay => (vec![month, day], Between::Dash),
                    DateOrder::DayMonthYear => (vec![day, month, year], Between::Point),
                    DateOrder::YearMonthDay => (vec![year, month, day], Between::Dash),
                };
                (groups, between, false)
            }
            Shows::Until(moment) => {
                (self.span(moment.as_nanosecond() - shown, true), Between::Colon { lit }, false)
            }
            Shows::Since(moment) => {
                (self.span(shown - moment.as_nanosecond(), false), Between::Colon { lit }, false)
            }
        };
        Figures { groups, between, is_afternoon }
    }

    /// The figures of a length of time: hours and minutes, with the seconds hours, minutes and seconds. More than 99 hours are
    /// dashes.
    fn span(&self, length: Nanos, rounds_up: bool) -> Vec<String> {
        let (unit, length) = (self.unit(), length.max(0));
        let units = if rounds_up { -(-length).div_euclid(unit) } else { length / unit };
        let mut groups = Vec::new();
        let mut left = units;
        for _ in 0..if self.style.seconds { 2 } else { 1 } {
            groups.push(format!("{:02}", left % 60));
            left /= 60;
        }
        groups.push(format!("{left:02}"));
        groups.reverse();
        if left > 99 { vec!["--".to_owned(); groups.len()] } else { groups }
    }

    /// Draws these groups of figures as it draws those that it shows.
    pub fn draw_groups(&self, groups: Vec<String>, lit: bool, is_afternoon: bool, canvas: &mut Canvas<'_>) {
        let figures = Figures { groups, between: Between::Colon { lit }, is_afternoon };
        if self.try_draw(&figures, canvas).is_err() {
            canvas.clear();
        }
    }

    fn try_draw(&self, figures: &Figures, canvas: &mut Canvas<'_>) -> Result<(), ContentError> {
        if let (true, Some(Afternoon::Light(extra))) = (figures.is_afternoon, self.style.twelve) {
            let (element, levels) = (canvas.face().extra(extra).0, canvas.levels_mut());
            levels.get_mut(element).into_iter().for_each(|level| *level = Level::FULL);
        }
        let is_pointed = figures.is_afternoon && self.style.twelve == Some(Afternoon::Point);
        figures.draw(is_pointed, self.style.look.as_ref(), canvas)
    }
}

/// The reason why a text is not a time zone or a moment.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
#[allow(missing_docs, reason = "the messages say what the fields are")]
#[non_exhaustive]
pub enum TimeError {
    #[error(
        "unknown time zone '{found}'; {}write a name such as Europe/Lisbon, UTC, or an offset such as +02:00",
        nearest_zone(found).map_or_else(String::new, |name| format!("did you mean '{name}'? "))
    )]
    Zone { found: String },
    #[error(
        "'{found}' is not a time; write 07:58, 2026-11-28T07:58, or with an offset 2026-11-28T07:58:30+01:00"
    )]
    Moment { found: String },
}

/// The names of the time zones that the program brings along.
#[must_use]
pub fn zones() -> Vec<String> {
    jiff::tz::db().available().map(|name| name.as_str().to_owned()).collect()
}

/// The time zone that was most likely meant: by its whole name, or by its place alone.
fn nearest_zone(found: &str) -> Option<String> {
    let zones = zones();
    let place = |name: &str| name.rsplit('/').next().unwrap_or(name).to_owned();
    let places: Vec<_> = zones.iter().map(|name| place(name)).collect();
    let by_place = nearest(&place(found), places.iter().map(String::as_str));
    let by_place = by_place.and_then(|near| zones.iter().find(|name| place(name) == near));
    let whole = nearest(found, zones.iter().map(String::as_str)).map(str::to_owned);
    by_place.cloned().or(whole)
}

/// Reads a time zone: its name in the database that the program brings along, or an offset.
///
/// # Errors
/// When there is no such zone.
pub fn parse_zone(text: &str) -> Result<TimeZone, TimeError> {
    let wrong = || TimeError::Zone { found: text.to_owned() };
    if !text.starts_with(['+', '-']) {
        return TimeZone::get(text).map_err(|_| wrong());
    }
    // An offset is the end of a time: what can be read as such is one.
    let moment: Timestamp = format!("2000-01-01T00:00{text}").parse().map_err(|_| wrong())?;
    let midnight = DateTime::constant(2000, 1, 1, 0, 0, 0, 0);
    let own = TimeZone::UTC.to_timestamp(midnight).map_err(|_| wrong())?;
    let seconds = own.as_second() - moment.as_second();
    let offset = i32::try_from(seconds).ok().and_then(|seconds| Offset::from_seconds(seconds).ok());
    offset.map(TimeZone::fixed).ok_or_else(wrong)
}

/// Reads a moment: a time of the day on which `now` is, a date and time, or one with its own offset. Where a zone puts its clocks
/// back, the first of the two is meant; where it puts them forward, a time that is left out is an hour later.
///
/// # Errors
/// When it is none.
pub fn parse_moment(text: &str, zone: &TimeZone, now: Timestamp) -> Result<Timestamp, TimeError> {
    let wrong = || TimeError::Moment { found: text.to_owned() };
    // An hour is often written with one figure.
    let written = if text.find(':') == Some(1) { format!("0{text}") } else { text.to_owned() };
    if let Ok(moment) = text.parse::<Timestamp>() {
        return Ok(moment);
    }
    let local = match (text.parse::<DateTime>(), written.parse::<Time>()) {
        (Ok(local), _) => local,
        (_, Ok(time)) => zone.to_datetime(now).date().to_datetime(time),
        _ => return Err(wrong()),
    };
    zone.to_timestamp(local).map_err(|_| wrong())
}

fn within_minute(local: DateTime) -> Nanos {
    Nanos::from(local.second()) * SECOND + Nanos::from(local.subsec_nanosecond())
}

/// Returns true if a moment lies in the first half of a time that comes again and again since 1970.
fn is_first_half(shown: Nanos, period: Duration) -> bool {
    let period = (period.as_nanos() as Nanos).max(2);
    shown.rem_euclid(period) < period / 2
}

fn duration(nanos: Nanos) -> Option<Duration> {
    Some(Duration::from_nanos(u64::try_from(nanos).ok()?))
}

impl Act for Clock {
    fn kind(&self) -> Kind<'_> {
        Kind::Clock(self)
    }

    fn draw(&self, elapsed: Duration, inputs: &Inputs, canvas: &mut Canvas<'_>) {
        if self.try_draw(&self.figures(self.shown(elapsed, inputs)), canvas).is_err() {
            canvas.clear();
        }
    }

    fn next_change(&self, elapsed: Duration, inputs: &Inputs) -> Option<Duration> {
        let shown = self.shown(elapsed, inputs);
        // Zones are whole seconds apart, and since they are kept by law, whole minutes.
        let after = |unit: Nanos| (shown.div_euclid(unit) + 1) * unit;
        let of_figures = match self.shows {
            Shows::Until(moment) | Shows::Since(moment) => {
                let (unit, moment) = (self.unit(), moment.as_nanosecond());
                match self.shows {
                    // The rest is rounded up: a figure stays until the next one is exactly the rest.
                    Shows::Until(_) => {
                        let units = -(shown - moment).div_euclid(unit);
                        (units > 0).then(|| moment - (units - 1) * unit)
                    }
                    _ => Some(moment + ((shown - moment).max(0).div_euclid(unit) + 1) * unit),
                }
            }
            _ if self.style.seconds => Some(after(SECOND)),
            _ => Some(shown + MINUTE - within_minute(self.local(shown))),
        };
        let of_colon = match (self.style.colon, self.shows) {
            (_, Shows::Date(_)) => None,
            (Colon::Blinking(period), _) => {
                let period = (period.as_nanos() as Nanos).max(2);
                let within = shown.rem_euclid(period);
                Some(shown - within + if within < period / 2 { period / 2 } else { period })
            }
            _ => None,
        };
        let next = of_figures.into_iter().chain(of_colon).min();
        let next = match next {
            Some(next) => self.elapsed_at(next - self.set_off(elapsed, inputs), elapsed, inputs),
            None if self.from.is_none() => inputs.wall_is_set(elapsed),
            None => None,
        };
        let set = inputs.next_key(elapsed).filter(|_| !self.setters.is_empty());
        next.into_iter().chain(set).min()
    }

    fn length(&self) -> Option<Duration> {
        match (self.shows, self.from) {
            (Shows::Until(moment), Some(_)) => self
                .elapsed_at(moment.as_nanosecond(), Duration::ZERO, &Inputs::default())
                .or(Some(Duration::ZERO)),
            _ => None,
        }
    }
}
