//! `spare-tile`: from one description of a display to its bytes, its wiring and a truthful picture.

mod args;
mod commands;
mod failure;
mod files;
mod rigs;
mod session;
mod view;

use std::process::ExitCode;

use clap::Parser;

fn main() -> ExitCode {
    let cli = args::Cli::parse();
    let mut session = session::Session::of_process(&cli.manners);
    let outcome = commands::run(&cli.command, &mut session);
    session.close(outcome)
}
