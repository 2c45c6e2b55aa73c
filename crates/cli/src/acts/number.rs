//! The act `number`: numbers as they come, from the command line or from standard input.

use std::time::Duration;

use clap::Args;
use spare_tile_core::content::lettering::Look;
use spare_tile_core::content::number::Decimal;
use spare_tile_core::content::text::Align;
use spare_tile_core::content::{Canvas, Content};
use spare_tile_core::face::Face;
use spare_tile_core::play::Value;
use spare_tile_core::play::reading::{Of, Reading, Smooth};
use spare_tile_core::play::reel::Program;

use super::{ActOptions, Stage};
use crate::failure::{Failure, Outcome};
use crate::feed::Feed;
use crate::files;
use crate::lettering::LookArgs;
use crate::options::{every, word};
use crate::rigs::GlyphFile;
use crate::session::Session;
use crate::words::NumberForm;

/// The variable that holds the numbers.
const VALUE: &str = "value";

/// The time from one number to the next unless it is given.
const EVERY: Duration = Duration::from_secs(1);

/// The options of numbers.
#[derive(Args)]
#[command(next_help_heading = "Number")]
pub struct NumberOptions {
    /// The numbers, one after another; - is standard input, a number in each line
    ///
    /// Example: spare-tile play number 2.1 2.3 2.2 --unit m
    #[arg(required = true, value_name = "NUMBER", allow_negative_numbers = true)]
    numbers: Vec<String>,
    /// The time from one number to the next [default: 1s]
    ///
    /// Example: spare-tile play number 2.1 2.3 --every 500ms
    #[arg(long, value_name = "TIME", value_parser = every)]
    every: Option<Duration>,
    /// The value that is shown [default: last]
    ///
    /// Example: spare-tile play number 2.1 2.3 2.2 --show most
    #[arg(long, value_parser = word::<Of>())]
    show: Option<Of>,
    /// Show the mean of all numbers that came within this time
    ///
    /// Example: spare-tile play number 2.1 2.3 2.2 --mean 3s --places 1
    #[arg(long, value_name = "TIME", value_parser = every, conflicts_with = "median")]
    mean: Option<Duration>,
    /// Show the median of all numbers that came within this time
    ///
    /// Example: spare-tile play number 2.1 9.9 2.2 --median 3s
    #[arg(long, value_name = "TIME", value_parser = every)]
    median: Option<Duration>,
    /// Keep the shown number until one comes that differs by more than this, so that the last digit does not flicker
    ///
    /// Example: spare-tile play number 2.1 2.11 2.3 --band 0.05
    #[arg(long, value_name = "NUMBER")]
    band: Option<Decimal>,
    /// Keep each shown number for this time
    ///
    /// Example: spare-tile play number 2.1 2.3 2.2 --keep 2s
    #[arg(long, value_name = "TIME", value_parser = every)]
    keep: Option<Duration>,
    /// Show dashes if no number came for this time
    ///
    /// Example: spare-tile play number 2.1 --stale 10s --for 15s
    #[arg(long, value_name = "TIME", value_parser = every)]
    stale: Option<Duration>,
    #[command(flatten)]
    form: NumberForm,
    #[command(flatten)]
    look: LookArgs,
    #[command(flatten)]
    glyphs: GlyphFile,
}

impl NumberOptions {
    fn is_fed(&self) -> bool {
        self.numbers == ["-"]
    }

    /// Returns the numbers that are known before playing begins.
    fn known(&self, stage: &Stage<'_>) -> Result<Vec<String>, Failure> {
        match (self.is_fed(), stage.is_endless) {
            (true, true) => Ok(Vec::new()),
            (true, false) => Ok(files::said("-")?.lines().map(str::to_owned).collect()),
            (false, _) => Ok(self.numbers.clone()),
        }
    }

    fn reading(&self, look: Option<Look>) -> Reading {
        Reading {
            of: self.show.unwrap_or_default(),
            smooth: match (self.mean, self.median) {
                (Some(mean), _) => Smooth::Mean(mean),
                (_, Some(median)) => Smooth::Median(median),
                _ => Smooth::Not,
            },
            band: self.band,
            every: self.keep,
            stale: self.stale,
            format: self.form.format(),
            look,
            ..Reading::of(VALUE.to_owned())
        }
    }
}

impl ActOptions for NumberOptions {
    const ABOUT: &'static str =
        "Show numbers as they come, from the command line or line by line from standard input";
    const DETAILS: &'static str = "A value that is not a number, or that does not fit, is shown as dashes. On a terminal lines of \
        standard input are shown when they come; elsewhere they come one after another, --every apart.";

    fn program(&self, stage: &Stage<'_>, _: &mut Session<'_>) -> Result<Program, Failure> {
        let face = &stage.mount().face;
        let failed = |error| Failure::of_content(&error, &face.name);
        let look = self.look.on(face)?.map(|look| Look { align: Align::Right, ..look });
        let format = self.form.format();
        Content::check_form(&format, look.as_ref(), face).map_err(failed)?;
        let numbers = self.known(stage)?;
        if !self.is_fed() {
            // A typed number must be one that can be shown; values from outside may be anything.
            for number in &numbers {
                let content = Content::of_words(number, Some(&format), None, look.as_ref(), face);
                let drawn =
                    content.and_then(|content| content.draw(&mut Canvas::whole(face, &mut face.blank())));
                drawn.map_err(failed)?;
            }
        }
        let every = self.every.unwrap_or(EVERY);
        let times = (0..).map(|place: u32| every.saturating_mul(place));
        let values = numbers.iter().zip(times).map(|(number, at)| (at, VALUE.to_owned(), Value::of(number)));
        let length = every.saturating_mul(u32::try_from(numbers.len()).unwrap_or(u32::MAX));
        Ok(Program {
            values: values.collect(),
            // The last number is shown as long as the others, and stays on a terminal.
            length: (!stage.is_endless).then_some(length),
            ..stage.program_of(Box::new(self.reading(look)))
        })
    }

    fn add_glyphs(&self, face: &mut Face) -> Outcome {
        self.glyphs.add_to(face)
    }

    fn feed(&self) -> Option<Feed> {
        self.is_fed().then(|| Feed::of_one(VALUE))
    }
}
