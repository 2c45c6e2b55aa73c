//! `rig`: what a rig file says, what is wrong with it, and what to connect.

pub mod check;
mod electrical;
pub mod wires;

use clap::Subcommand;

use crate::failure::Outcome;
use crate::session::Session;

/// Read a rig file: what is wrong with it, and what to connect to what
#[derive(Subcommand)]
pub enum Rig {
    Check(check::Check),
    Wires(wires::Wires),
}

/// Runs a `rig` command.
pub fn run(rig: &Rig, session: &mut Session<'_>) -> Outcome {
    match rig {
        Rig::Check(check) => check::run(check, session),
        Rig::Wires(wires) => wires::run(wires, session),
    }
}
