//! `rig schema`: what an editor wants to know of rig files.

use clap::Args;
use spare_tile_core::plan::schema;

use crate::failure::Outcome;
use crate::session::Session;

/// Write the JSON Schema of rig files, for editors that complete and check while one types
///
/// It is made of the types that read a rig, so that it knows every key that the program knows. A line at the top of a rig
/// tells many editors of it: #:schema rig.schema.json
///
/// Example: spare-tile rig schema > rig.schema.json
#[derive(Args)]
pub struct Schema {}

/// Runs `rig schema`.
pub fn run(_: &Schema, session: &mut Session<'_>) -> Outcome {
    session.write_json(&schema::rig())
}
