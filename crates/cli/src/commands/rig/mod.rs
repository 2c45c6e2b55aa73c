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
#[command(defer = true)]
pub enum Rig {
    /// Write a rig file to begin with, pins and resistors chosen
    New(new::New),
    /// Add a display to a rig file, on an existing bus if its part allows that
    Add(add::Add),
    /// Check a rig file: every rule it breaks, with the fix
    Check(check::Check),
    /// List what to connect to what, in the order in which one would plug it
    Wires(wires::Wires),
    /// List the controller's pins: what each can do, which are taken, and which are better left alone
    Pins(pins::Pins),
    /// List what to buy: displays, chips, resistors by value and power, and what else belongs to them
    Parts(parts::Parts),
    /// Write the JSON Schema of rig files, for editors that complete and check while one types
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
