//! `clock`: the time, the date, and the time to a moment or since one.

use jiff::Timestamp;
use serde::Deserialize;

use super::super::super::Act;
use super::super::super::clock::{
    Afternoon, BLINK, Clock, ColonState, Sets, Setter, Show, Shows, Speed, Style, TimeError, parse_moment,
};
use super::super::keys::{LookKeys, NoKeys, time_if_any};
use super::super::making::{CannotPlay, Making};
use super::Keys;
use crate::content::Region;
use crate::content::number::Decimal;
use crate::content::text::Align;
use crate::rig::{Problem, Spanned};

/// Shows the time, the date, or the time to a moment or since one.
#[derive(Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub struct ClockKeys {
    /// The time or date that is shown [default: time]
    show: Option<Show>,
    /// How long it is to a moment: "2026-11-28T07:58"
    until: Option<Spanned<String>>,
    /// How long it has been since a moment
    since: Option<Spanned<String>>,
    /// The time zone: a name, or an offset; UTC where that is not said
    zone: Option<Spanned<String>>,
    /// The time at which it begins: "2026-11-28T07:57" [default: the time of the computer]
    time: Option<Spanned<String>>,
    /// The seconds that it counts in a second, 0.001 to 100000
    rate: Option<Spanned<Decimal>>,
    /// Show the seconds too
    seconds: Option<bool>,
    /// Hours from 1 to 12
    twelve: Option<bool>,
    /// The light that is lit in the afternoon: "point", or a lamp by its name
    afternoon: Option<Spanned<String>>,
    /// The state of the colon [default: blink]
    colon: Option<ColonState>,
    /// How long the colon takes to blink once; "1s" where that is not said
    blink: Option<Spanned<String>>,
    /// Keys that set it
    set: Option<SetKeys>,
    /// How it looks on dots
    look: Option<LookKeys>,
}

/// Keys that set a clock.
#[derive(Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
struct SetKeys {
    /// This key adds an hour, within the day: "desk.call1"
    hours: Option<Spanned<String>>,
    /// This one a minute, within the hour
    minutes: Option<Spanned<String>>,
    /// This one goes to the nearest full minute
    seconds: Option<Spanned<String>>,
}

impl SetKeys {
    fn setters(&self, making: &mut Making<'_>) -> Option<Vec<Setter>> {
        let said = [(&self.hours, Sets::Hour), (&self.minutes, Sets::Minute), (&self.seconds, Sets::Second)];
        let said = said.into_iter().filter_map(|(name, sets)| Some((name.as_ref()?, sets)));
        said.map(|(name, sets)| {
            let button = making.button(name)?;
            Some(Setter { button, sets })
        })
        .collect()
    }
}

impl Keys for ClockKeys {
    type Form = NoKeys;

    fn act(&self, _: &NoKeys, making: &mut Making<'_>) -> Option<Box<dyn Act>> {
        let wrong = |error: TimeError, text: &Spanned<String>| {
            let trouble = CannotPlay { message: error.to_string(), fix: None };
            making.findings.error(text.span(), trouble);
        };
        let zone = making.zone(self.zone.as_ref())?;
        // A time without a date is one of the day on which the clock begins.
        let moment = |text: Option<&Spanned<String>>, day: Option<Timestamp>| match text {
            Some(text) if day.is_none() && !text.get_ref().contains('-') => {
                let (found, allowed) = (text.get_ref().clone(), "a time with its date".to_owned());
                making.findings.stop(text.span(), Problem::WrongValue { found, allowed })
            }
            Some(text) => {
                let day = day.unwrap_or(Timestamp::UNIX_EPOCH);
                parse_moment(text.get_ref(), &zone, day).map(Some).map_err(|error| wrong(error, text)).ok()
            }
            None => Some(None),
        };
        let from = moment(self.time.as_ref(), None)?;
        let shows = match (moment(self.until.as_ref(), from)?, moment(self.since.as_ref(), from)?, self.show)
        {
            (Some(until), None, None) => Shows::Until(until),
            (None, Some(since), None) => Shows::Since(since),
            (None, None, show) => show.unwrap_or_default().into(),
            _ => return making.cannot("a clock shows one thing", Some("leave one of show, until and since")),
        };
        let afternoon = match &self.afternoon {
            None => Afternoon::Untold,
            Some(name) if name.get_ref() == "point" => Afternoon::Point,
            Some(name) => Afternoon::Light(making.lamp(name)?),
        };
        let blink = time_if_any(self.blink.as_ref(), making)?.unwrap_or(BLINK);
        let style = Style {
            seconds: self.seconds.unwrap_or(false),
            twelve: self.twelve.unwrap_or(false).then_some(afternoon),
            colon: self.colon.unwrap_or_default().colon(blink),
            look: LookKeys::on_dots(self.look.as_ref(), "clock", Align::Centre, making)?,
        };
        let rate = match &self.rate {
            Some(rate) => match Speed::of_rate(*rate.get_ref()) {
                Some(speed) => speed,
                None => {
                    let (found, allowed) = (rate.get_ref().to_string(), Speed::RATES.to_owned());
                    return making.findings.stop(rate.span(), Problem::WrongValue { found, allowed });
                }
            },
            None => Speed::TRUE,
        };
        let setters = match &self.set {
            Some(set) => set.setters(making)?,
            None => Vec::new(),
        };
        match Clock::new(shows, zone, style, from, rate, making.face, Region::whole(making.face)) {
            Ok(clock) => Some(Box::new(clock.set_by(setters))),
            Err(error) => making.cannot(error, None),
        }
    }
}
