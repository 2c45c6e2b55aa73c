//! The act `count`: one number after another.

use std::time::Duration;

use clap::Args;
use spare_tile_core::content::Content;
use spare_tile_core::content::number::Decimal;
use spare_tile_core::face::Face;
use spare_tile_core::play::count::{Count, CountError, EVERY, Pace, Range};
use spare_tile_core::play::reel::Program;
use spare_tile_core::units::parse_duration;

use super::{ActOptions, Stage};
use crate::failure::{Failure, Outcome};
use crate::lettering::LookArgs;
use crate::options::every;
use crate::rigs::GlyphFile;
use crate::session::Session;
use crate::words::NumberForm;

/// The options of a count.
#[derive(Args)]
#[command(next_help_heading = "Count")]
pub struct CountOptions {
    /// The first number [default: 0]
    ///
    /// Example: spare-tile play count --from 60 --to 0
    #[arg(long, value_name = "N", allow_negative_numbers = true)]
    from: Option<Decimal>,
    /// The last number, or the last whole step before it; below the first it counts down [default: count as long as numbers fit,
    /// then begin again]
    ///
    /// Example: spare-tile play count --to 48
    #[arg(long, value_name = "N", allow_negative_numbers = true)]
    to: Option<Decimal>,
    /// The difference between two numbers, such as 1, 0.5 or -1 [default: 1]
    ///
    /// Example: spare-tile play count --from 2 --to -0.5 --step -0.1
    #[arg(long, value_name = "N", allow_negative_numbers = true)]
    step: Option<Decimal>,
    /// The time for each number, such as 250ms, 1.5s or 2m [default: 1s]
    ///
    /// Example: spare-tile play count --every 250ms
    #[arg(long, value_name = "TIME", value_parser = every)]
    every: Option<Duration>,
    /// The time for the last number [default: as for the others]
    ///
    /// Example: spare-tile play count --to 9 --hold 5s
    #[arg(long, value_name = "TIME", value_parser = parse_duration)]
    hold: Option<Duration>,
    /// Begin again after the last number
    ///
    /// Example: spare-tile play count --to 9 --again
    #[arg(long)]
    again: bool,
    #[command(flatten)]
    form: NumberForm,
    #[command(flatten)]
    look: LookArgs,
    #[command(flatten)]
    glyphs: GlyphFile,
}

impl ActOptions for CountOptions {
    const ABOUT: &'static str = "Count from one number to another, up or down";
    const DETAILS: &'static str = "On a terminal the picture is redrawn in place until the end, q or Ctrl-C. Off a terminal, or with \
        --frames, the frames come one after another as fast as they can be made.";

    fn program(&self, stage: &Stage<'_>, _: &mut Session<'_>) -> Result<Program, Failure> {
        let face = &stage.mount().face;
        let range = Range {
            from: self.from.unwrap_or_else(|| 0.into()),
            to: self.to,
            step: self.step.unwrap_or_else(|| 1.into()),
        };
        let every = self.every.unwrap_or(EVERY);
        let pace = Pace { every, hold: self.hold.unwrap_or(every), again: self.again };
        let look = self.look.on(face)?;
        let format = self.form.format();
        Content::check_form(&format, look.as_ref(), face)
            .map_err(|error| Failure::of_content(&error, &face.name))?;
        let count = Count::new(range, pace, format, look, face).map_err(|error| {
            let help = match error {
                CountError::NoStep => "give a step such as 1, 0.5 or -1",
                CountError::Lettering(_) => "choose another font: --font NAME; spare-tile fonts lists ours",
                CountError::Number(_) => "count between shorter numbers, or pick a wider face",
            };
            Failure::unusable(format!("this cannot be counted on face {}: {error}", face.name), help)
        })?;
        Ok(stage.program_of(Box::new(count)))
    }

    fn add_glyphs(&self, face: &mut Face) -> Outcome {
        self.glyphs.add_to(face)
    }
}
