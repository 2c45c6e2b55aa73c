//! `spare-tile`: from one description of a display to its bytes, its wiring and a truthful picture.
//!
//! The program's story is [`run`]: read the command line, know the surroundings, run the command, tell how it
//! went. Everything about displays is in the core library.

mod acts;
mod brightness;
mod coding;
mod commands;
mod complete;
pub mod exports;
mod failure;
mod feed;
mod files;
mod input;
mod lettering;
mod manners;
mod moments;
mod options;
mod pictures;
mod programs;
mod rigs;
mod session;
mod shown;
mod signals;
mod sprites;
pub mod view;
mod visible;
mod words;
mod wrapping;

use std::process::ExitCode;

/// Runs the program from its command line to its exit status.
#[must_use]
pub fn run() -> ExitCode {
    commands::cli::answer_shell();
    let cli = match commands::cli::Cli::read() {
        Ok(cli) => cli,
        Err(exit) => return exit,
    };
    let mut session = session::Session::of_process(&cli.manners);
    let outcome = commands::run(&cli.command, &mut session);
    session.close(outcome)
}
