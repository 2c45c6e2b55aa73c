//! `rig`: what a rig file says, what is wrong with it, and what to connect.

pub mod add;
pub mod check;
mod electrical;
pub mod new;
pub mod parts;
pub mod pins;
mod questions;
pub mod schema;
pub mod wires;
mod wish;

use clap::Subcommand;

use crate::failure::Outcome;
use crate::session::Session;

/// Begin, check and wire a rig
#[derive(Subcommand)]
pub enum Rig {
    New(new::New),
    Add(add::Add),
    Check(check::Check),
    Wires(wires::Wires),
    Pins(pins::Pins),
    Parts(parts::Parts),
    Schema(schema::Schema),
}

/// Runs a `rig` command.
pub fn run(rig: &Rig, session: &mut Session<'_>) -> Outcome {
    match rig {
        Rig::New(new) => new::run(new, session),
        Rig::Add(add) => add::run(add, session),
        Rig::Pins(pins) => pins::run(pins, session),
        Rig::Parts(parts) => parts::run(parts, session),
        Rig::Schema(schema) => schema::run(schema, session),
        Rig::Check(check) => check::run(check, session),
        Rig::Wires(wires) => wires::run(wires, session),
    }
}
