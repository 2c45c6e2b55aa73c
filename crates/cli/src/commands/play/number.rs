//! `play number`: values as they come, from the command line or from standard input.

use std::time::Duration;

use clap::{Args, ValueEnum};
use spare_tile_core::content::lettering::Look;
use spare_tile_core::content::number::Decimal;
use spare_tile_core::content::text::Align;
use spare_tile_core::content::{Canvas, Content};
use spare_tile_core::play::reading::{Of, Reading, Smooth};
use spare_tile_core::play::reel::Program;
use spare_tile_core::play::{Reel, Track, Value};

use super::how::{How, every, play_fed};
use crate::failure::{Failure, Outcome};
use crate::feed::Feed;
use crate::input;
use crate::lettering::LookArgs;
use crate::rigs::FaceOfRig;
use crate::session::Session;
use crate::words::NumberForm;

/// The variable that the values are of.
const VALUE: &str = "value";

/// Show numbers as they come, from the command line or line by line from standard input
///
/// What is no number shows as dashes, and so does a value that does not fit. On a terminal lines of standard input are
/// shown when they come; elsewhere they come one after another, --every apart.
#[derive(Args)]
pub struct PlayNumber {
    /// The numbers, one after another; - is standard input, a number in each line
    ///
    /// Example: spare-tile play number 2.1 2.3 2.2 --unit m
    #[arg(required = true, value_name = "NUMBER", allow_negative_numbers = true)]
    numbers: Vec<String>,
    /// How long it is from one to the next
    ///
    /// Example: spare-tile play number 2.1 2.3 --every 500ms
    #[arg(long, value_name = "TIME", default_value = "1s", value_parser = every)]
    every: Duration,
    /// What is shown of them
    ///
    /// Example: spare-tile play number 2.1 2.3 2.2 --show most
    #[arg(long, value_enum, default_value = "last")]
    show: ShowArg,
    /// Show the mean of all that came in so long a time
    ///
    /// Example: spare-tile play number 2.1 2.3 2.2 --mean 3s --places 1
    #[arg(long, value_name = "TIME", value_parser = every, conflicts_with = "median")]
    mean: Option<Duration>,
    /// Show the one in the middle of all that came in so long a time
    ///
    /// Example: spare-tile play number 2.1 9.9 2.2 --median 3s
    #[arg(long, value_name = "TIME", value_parser = every)]
    median: Option<Duration>,
    /// Keep what is shown until a number comes that is farther from it than this, so that a last digit does not flicker
    ///
    /// Example: spare-tile play number 2.1 2.11 2.3 --band 0.05
    #[arg(long, value_name = "NUMBER")]
    band: Option<Decimal>,
    /// Look at the number so often, and keep what is shown in between
    ///
    /// Example: spare-tile play number 2.1 2.3 2.2 --keep 2s
    #[arg(long, value_name = "TIME", value_parser = every)]
    keep: Option<Duration>,
    /// Show dashes when nothing came for so long
    ///
    /// Example: spare-tile play number 2.1 --stale 10s --for 15s
    #[arg(long, value_name = "TIME", value_parser = every)]
    stale: Option<Duration>,
    #[command(flatten)]
    form: NumberForm,
    #[command(flatten)]
    look: LookArgs,
    #[command(flatten)]
    rig: FaceOfRig,
    #[command(flatten)]
    how: How,
}

/// What is shown of numbers, on the command line.
#[derive(ValueEnum, Clone, Copy)]
enum ShowArg {
    Last,
    Least,
    Most,
}

/// Runs `play number`.
pub fn run(play: &PlayNumber, session: &mut Session<'_>) -> Outcome {
    let rig = play.rig.load(session)?;
    let place = play.rig.place(&rig)?;
    let face = &rig.faces[place].face;
    let look = play.look.on(face)?;
    let look = look.map(|look| Look { align: Align::Right, ..look });
    Content::check_form(&play.form.format(), look.as_ref(), face)
        .map_err(|error| Failure::of_content(&error, &face.name))?;
    let is_fed = play.numbers == ["-"];
    let feed = (is_fed && play.how.is_watched(session)).then(|| Feed::of_one(VALUE));
    let numbers: Vec<String> = match &feed {
        Some(_) => Vec::new(),
        None if is_fed => input::said("-")?.lines().map(str::to_owned).collect(),
        None => play.numbers.clone(),
    };
    if !is_fed {
        // What is typed must be a number that can be shown; what comes in may be anything.
        for number in &numbers {
            let content = Content::of_words(number, Some(&play.form.format()), None, look.as_ref(), face);
            let drawn = content.and_then(|content| content.draw(&mut Canvas::whole(face, &mut face.blank())));
            drawn.map_err(|error| Failure::of_content(&error, &face.name))?;
        }
    }
    let reading = Reading {
        of: match play.show {
            ShowArg::Last => Of::Last,
            ShowArg::Least => Of::Least,
            ShowArg::Most => Of::Most,
        },
        smooth: match (play.mean, play.median) {
            (Some(mean), _) => Smooth::Mean(mean),
            (_, Some(median)) => Smooth::Median(median),
            _ => Smooth::Not,
        },
        band: play.band,
        every: play.keep,
        stale: play.stale,
        format: play.form.format(),
        look,
        ..Reading::of(VALUE.to_owned())
    };
    let times = (0..).map(|place: u32| play.every.saturating_mul(place));
    let values = numbers.iter().zip(times).map(|(number, at)| (at, VALUE.to_owned(), Value::of(number)));
    let tracks = vec![Track { face: place, act: Box::new(reading) }];
    let length = play.every.saturating_mul(u32::try_from(numbers.len()).unwrap_or(u32::MAX));
    let program = Program {
        reel: Reel { tracks },
        values: values.collect(),
        // The last one is seen as long as the others; what is watched stays.
        length: (feed.is_none() && !play.how.is_watched(session)).then_some(length),
        ..Program::default()
    };
    play_fed(&rig, &program, (&play.rig, &play.how), feed.as_ref(), session)
}
