//! `play clock`: the time, the date, and the time to a moment or since one.

use clap::{Args, ValueEnum};
use clap_complete::ArgValueCompleter;
use jiff::Timestamp;
use spare_tile_core::content::lettering::Look;
use spare_tile_core::content::number::Decimal;
use spare_tile_core::content::text::Align;
use spare_tile_core::content::text::TextError;
use spare_tile_core::content::{ContentError, Region};
use spare_tile_core::face::Face;
use spare_tile_core::play::clock::{
    Afternoon, Clock, Colon, DateOrder, Shows, Speed, Style, parse_moment, parse_zone,
};
use spare_tile_core::play::{Reel, Track};

use super::how::{How, every, play_reel};
use super::outside::local_zone;
use crate::complete;
use crate::failure::{Failure, Outcome};
use crate::lettering::LookArgs;
use crate::rigs::FaceOfRig;
use crate::session::Session;

/// Show the time, the date, or the time to a moment
///
/// It follows the clock of this computer, also when that is set; with --at it begins at a time of its own. Where a zone
/// changes its clocks an hour is left out or comes twice; a leap second is not counted. Where the face has no colon a
/// point does for it.
#[derive(Args)]
#[command(mut_arg("font", |font| font.default_value("clock")))]
pub struct PlayClock {
    /// What is shown
    ///
    /// Example: spare-tile play clock --show day-month
    #[arg(long, value_enum, default_value = "time", conflicts_with_all = ["until", "since"])]
    show: Show,
    /// Show how long it is to a moment: 07:58, or 2026-11-28T07:58, or with an offset 2026-11-28T07:58+01:00
    ///
    /// What is left of a minute, or with --seconds of a second, counts as one, so that 0 is the moment.
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
    /// What lights in the afternoon: point, the one behind the last figure, or a lamp or colon by its name
    ///
    /// Example: spare-tile play clock --twelve --afternoon point
    #[arg(long, value_name = "LIGHT", requires = "twelve")]
    afternoon: Option<String>,
    /// What the colon does
    ///
    /// Example: spare-tile play clock --colon steady
    #[arg(long, value_enum, default_value = "blink")]
    colon: ColonArg,
    /// How long the colon takes to blink once, half of it lit
    ///
    /// Example: spare-tile play clock --blink 2s
    #[arg(long, value_name = "TIME", default_value = "1s", value_parser = every)]
    blink: std::time::Duration,
    /// The time zone: a name, of which `spare-tile help zones` has a list, or an offset such as +02:00 [default: that of this
    /// computer]
    ///
    /// Example: spare-tile play clock --zone Europe/Lisbon
    #[arg(long, value_name = "ZONE", allow_hyphen_values = true, add = ArgValueCompleter::new(complete::zones))]
    zone: Option<String>,
    /// Begin at this time, in place of the one it is
    ///
    /// Example: spare-tile play clock --at 07:57:50 --for 30s
    #[arg(long, value_name = "TIME")]
    at: Option<String>,
    /// How many times as fast it runs: 60 makes seconds of minutes
    ///
    /// Example: spare-tile play clock --at 07:00 --rate 60 --for 1m
    #[arg(long, value_name = "N", default_value = "1", value_parser = rate)]
    rate: Speed,
    #[command(flatten)]
    look: LookArgs,
    #[command(flatten)]
    rig: FaceOfRig,
    #[command(flatten)]
    how: How,
}

/// What a clock shows, on the command line.
#[derive(ValueEnum, Clone, Copy)]
enum Show {
    /// The time of day
    Time,
    /// 28.11
    DayMonth,
    /// 11-28
    MonthDay,
    /// 28.11.2026
    DayMonthYear,
    /// 2026-11-28
    YearMonthDay,
}

/// What the colon does, on the command line.
#[derive(ValueEnum, Clone, Copy)]
enum ColonArg {
    Blink,
    Steady,
    Off,
}

/// Reads how fast a clock runs.
fn rate(text: &str) -> Result<Speed, String> {
    let wrong = || format!("write a number from 0.001 to 100000, such as 60 or 0.5; found {text}");
    let number: Decimal = text.parse().map_err(|_| wrong())?;
    let thousandths = number.in_units(3);
    if number.places() > 3 || !(1..=100_000_000).contains(&thousandths) {
        return Err(wrong());
    }
    let shown = u32::try_from(thousandths).map_err(|_| wrong())?;
    Ok(Speed { shown, passed: 1000 })
}

/// Runs `play clock`.
pub fn run(play: &PlayClock, session: &mut Session<'_>) -> Outcome {
    let rig = play.rig.load(session)?;
    let place = play.rig.place(&rig)?;
    let face = &rig.faces[place].face;
    let help = "spare-tile help play clock has examples";
    let unusable = |error: &dyn ToString| Failure::unusable(error.to_string(), help);
    let zone = match &play.zone {
        Some(zone) => parse_zone(zone).map_err(|error| unusable(&error))?,
        None => local_zone(),
    };
    let now = Timestamp::now();
    let moment = |text: &String, now| parse_moment(text, &zone, now).map_err(|error| unusable(&error));
    let from = play.at.as_ref().map(|at| moment(at, now)).transpose()?;
    let begin = from.unwrap_or(now);
    let shows = match (&play.until, &play.since) {
        (Some(until), _) => Shows::Until(moment(until, begin)?),
        (_, Some(since)) => Shows::Since(moment(since, begin)?),
        _ => play.show.into(),
    };
    let style = Style {
        seconds: play.seconds,
        twelve: if play.twelve { Some(afternoon(play, face)?) } else { None },
        colon: match play.colon {
            ColonArg::Blink => Colon::Blinking(play.blink),
            ColonArg::Steady => Colon::Steady,
            ColonArg::Off => Colon::Dark,
        },
        look: face.dots().map(|_| look(&play.look)).transpose()?,
    };
    let clock = Clock::new((shows, zone.clone()), style, (from, play.rate), (face, Region::whole(face)));
    let clock = clock.map_err(|error| too_wide(&error, face))?;
    let tracks = vec![Track { face: place, act: Box::new(clock) }];
    play_reel(&rig, Reel { tracks }, &play.rig, &play.how, session)
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

/// Figures that a face has no room for.
fn too_wide(error: &ContentError, face: &Face) -> Failure {
    let ContentError::Text { error: TextError::TooLong { needed, digits, .. }, .. } = error else {
        return Failure::of_content(error, &face.name);
    };
    let message = format!("the figures take {needed} digits; face {} has {digits}", face.name);
    Failure::unusable(message, "leave out --seconds or the year, or pick a face with more digits")
}

/// Figures stand in the middle, unless they are moved.
fn look(look: &LookArgs) -> Result<Look, Failure> {
    Ok(Look { align: Align::Centre, ..look.look()? })
}

/// What tells the afternoon.
fn afternoon(play: &PlayClock, face: &Face) -> Result<Afternoon, Failure> {
    let Some(name) = &play.afternoon else { return Ok(Afternoon::Untold) };
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
