//! The act `test`: a face tests itself.

use std::time::Duration;

use clap::Args;
use spare_tile_core::play::reel::Program;
use spare_tile_core::play::selftest::{EVERY, SelfTest};

use super::{ActOptions, Stage};
use crate::failure::Failure;
use crate::options::every;
use crate::session::Session;

/// The options of a test.
#[derive(Args)]
#[command(next_help_heading = "Test")]
pub struct TestOptions {
    /// The time for each step [default: 250ms]
    ///
    /// Example: spare-tile play test --every 100ms
    #[arg(long, value_name = "TIME", value_parser = every)]
    every: Option<Duration>,
    /// Begin again after the last step
    ///
    /// Example: spare-tile play test --again
    #[arg(long)]
    again: bool,
}

impl ActOptions for TestOptions {
    const ABOUT: &'static str =
        "Test a face: each light alone, all going out in turn, 0 to 9 on each digit, all on";
    const DETAILS: &'static str = "On more than 128 dots, rows and columns light in each colour instead of single \
        dots. Compare with --frames what the display should show at each step, or with --ops what should go over its \
        lines.";

    fn program(&self, stage: &Stage<'_>, _: &mut Session<'_>) -> Result<Program, Failure> {
        let test = SelfTest::of(stage.mount(), self.every.unwrap_or(EVERY), self.again);
        Ok(stage.program_of(Box::new(test)))
    }
}
