//! The act `clock`: the time, the date, and the time to a moment or since one.

use std::time::Duration;

use clap::Args;
use clap_complete::ArgValueCompleter;
use jiff::Timestamp;
use jiff::tz::TimeZone;
use spare_tile_core::content::lettering::Look;
use spare_tile_core::content::text::Align;
use spare_tile_core::content::text::TextError;
use spare_tile_core::content::{ContentError, Region};
use spare_tile_core::face::Face;
use spare_tile_core::play::clock::{
    Afternoon, BLINK, Clock, ColonState, Show, Shows, Speed, Style, parse_moment, parse_zone,
};
use spare_tile_core::play::reel::Program;

use super::{ActOptions, Stage};
use crate::complete;
use crate::failure::Failure;
use crate::lettering::LookArgs;
use crate::options::{every, word};
use crate::session::Session;

/// The options of a clock.
#[derive(Args)]
#[command(next_help_heading = "Clock")]
pub struct ClockOptions {
    /// The time or date that is shown [default: time]
    ///
    /// Example: spare-tile play clock --show day-month
    #[arg(long, value_parser = word::<Show>(), conflicts_with_all = ["until", "since"])]
    show: Option<Show>,
    /// Show how long it is to a moment: 07:58, or 2026-11-28T07:58, or with an offset 2026-11-28T07:58+01:00
    ///
    /// The rest of a minute, or with --seconds of a second, counts as one, so that 0 is the moment.
    ///
    /// Example: spare-tile play clock --until 07:58
    #[arg(long, value_name = "TIME")]
    until: Option<String>,
    /// Show how long it has been since a moment
    ///
    /// Example: spare-tile play clock --since 2026-11-28T06:00 --seconds
    #[arg(long, value_name = "TIME", conflicts_with = "until")]
    since: Option<String>,
    /// Show the seconds too
    ///
    /// Example: spare-tile play clock --seconds
    #[arg(long)]
    seconds: bool,
    /// Hours from 1 to 12
    ///
    /// Example: spare-tile play clock --twelve
    #[arg(long)]
    twelve: bool,
    /// The light that is lit in the afternoon: point, the one behind the last figure, or a lamp or colon by its name
    ///
    /// Example: spare-tile play clock --twelve --afternoon point
    #[arg(long, value_name = "LIGHT", requires = "twelve")]
    afternoon: Option<String>,
    /// The state of the colon [default: blink]
    ///
    /// Example: spare-tile play clock --colon steady
    #[arg(long, value_parser = word::<ColonState>())]
    colon: Option<ColonState>,
    /// The time in which the colon blinks once, half of it lit [default: 1s]
    ///
    /// Example: spare-tile play clock --blink 2s
    #[arg(long, value_name = "TIME", value_parser = every)]
    blink: Option<Duration>,
    #[command(flatten)]
    zone: ZoneArg,
    /// The time at which it begins [default: now]
    ///
    /// Example: spare-tile play clock --time 07:57:50 --for 30s
    #[arg(long, value_name = "TIME")]
    time: Option<String>,
    /// The seconds that it counts in a second: 60 turns minutes into seconds [default: 1]
    ///
    /// Example: spare-tile play clock --time 07:00 --rate 60 --for 1m
    #[arg(long, value_name = "N", value_parser = rate)]
    rate: Option<Speed>,
    #[command(flatten)]
    look: LookArgs,
}

/// A time zone.
#[derive(Args)]
pub struct ZoneArg {
    /// The time zone: a name (`spare-tile help zones` lists them) or an offset such as +02:00 [default: that of this computer; UTC
    /// in generated clocks]
    ///
    /// Example: spare-tile play clock --zone Europe/Lisbon
    #[arg(long, value_name = "ZONE", allow_hyphen_values = true, add = ArgValueCompleter::new(complete::zones))]
    zone: Option<String>,
}

impl ZoneArg {
    /// Returns the zone, if one is given.
    ///
    /// # Errors
    /// If there is no such zone.
    pub fn zone(&self) -> Result<Option<TimeZone>, Failure> {
        let zone = self.zone.as_deref().map(parse_zone).transpose();
        zone.map_err(|error| Failure::unusable(error.to_string(), "spare-tile help play clock has examples"))
    }
}

/// Reads how fast a clock runs.
fn rate(text: &str) -> Result<Speed, String> {
    let speed = text.parse().ok().and_then(Speed::of_rate);
    speed.ok_or_else(|| format!("write a number from {}, such as 60 or 0.5; found {text}", Speed::RATES))
}

impl ActOptions for ClockOptions {
    const ABOUT: &'static str = "Show the time, the date, or the time to a moment";
    const DETAILS: &'static str = "It follows the clock of this computer, also when that is set; with --time it begins at a time of its \
        own. If a zone changes its clocks, an hour is left out or comes twice; a leap second is not counted. \
        On a face without a colon a point is lit instead.";

    fn program(&self, stage: &Stage<'_>, _: &mut Session<'_>) -> Result<Program, Failure> {
        let face = &stage.mount().face;
        let help = "spare-tile help play clock has examples";
        let unusable = |error: &dyn ToString| Failure::unusable(error.to_string(), help);
        let zone = self.zone.zone()?.unwrap_or_else(|| stage.zone.clone());
        let now = Timestamp::now();
        let moment = |text: &String, now| parse_moment(text, &zone, now).map_err(|error| unusable(&error));
        let from = self.time.as_ref().map(|time| moment(time, now)).transpose()?.or(stage.begins);
        let begin = from.unwrap_or(now);
        let shows = match (&self.until, &self.since) {
            (Some(until), _) => Shows::Until(moment(until, begin)?),
            (_, Some(since)) => Shows::Since(moment(since, begin)?),
            _ => self.show.unwrap_or_default().into(),
        };
        let style = Style {
            seconds: self.seconds,
            twelve: if self.twelve { Some(afternoon(self, face)?) } else { None },
            colon: self.colon.unwrap_or_default().colon(self.blink.unwrap_or(BLINK)),
            // The figures are centred.
            look: self.look.on_with(face, "clock")?.map(|look| Look { align: Align::Centre, ..look }),
        };
        let speed = self.rate.unwrap_or(Speed::TRUE);
        let clock = Clock::new(shows, zone.clone(), style, from, speed, face, Region::whole(face));
        Ok(stage.program_of(Box::new(clock.map_err(|error| too_wide(&error, face))?)))
    }
}

/// Describes why figures do not fit.
fn too_wide(error: &ContentError, face: &Face) -> Failure {
    let ContentError::Text { error: TextError::TooLong { needed, digits, .. }, .. } = error else {
        return Failure::of_content(error, &face.name);
    };
    let message = format!("the figures take {needed} digits; face {} has {digits}", face.name);
    Failure::unusable(message, "leave out --seconds or the year, or pick a face with more digits")
}

/// Returns the light that is lit in the afternoon.
fn afternoon(options: &ClockOptions, face: &Face) -> Result<Afternoon, Failure> {
    let Some(name) = &options.afternoon else { return Ok(Afternoon::Untold) };
    if name == "point" && (face.points || face.dots().is_some()) {
        return Ok(Afternoon::Point);
    }
    let extra = face.extras.iter().position(|extra| extra.name == *name);
    extra.map(Afternoon::Light).ok_or_else(|| {
        let point = (face.points || face.dots().is_some()).then_some("point");
        let lights = point.into_iter().chain(face.extras.iter().map(|extra| extra.name.as_str()));
        let lights: Vec<_> = lights.collect();
        let help = if lights.is_empty() {
            "it has none: leave out --afternoon".to_owned()
        } else {
            format!("its lights: {}", lights.join(", "))
        };
        Failure::unusable(format!("face {} has no light '{name}' beside its figures", face.name), help)
    })
}
