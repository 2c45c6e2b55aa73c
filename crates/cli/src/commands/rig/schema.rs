//! `rig schema`: the JSON Schemas of rig files and reels, for editors.

use clap::Args;
use spare_tile_core::plan::schema;
use spare_tile_core::play::reel::schema as reels;

use crate::failure::Outcome;
use crate::session::Session;

/// Write the JSON Schema of rig files, for editors that complete and check while one types
///
/// It is made of the types that read a rig, so that it knows every key that the program knows. A line at the top of a rig
/// tells many editors of it: #:schema rig.schema.json
///
/// Example: spare-tile rig schema > rig.schema.json
#[derive(Args)]
pub struct Schema {
    /// The schema of reel files, instead of that of rigs
    ///
    /// Example: spare-tile rig schema --reel > reel.schema.json
    #[arg(long)]
    reel: bool,
    /// The schema of files for --built, in which every key may be left out
    ///
    /// Example: spare-tile rig schema --built > built.schema.json
    #[arg(long, conflicts_with = "reel")]
    built: bool,
}

/// Runs `rig schema`.
pub fn run(wanted: &Schema, session: &mut Session<'_>) -> Outcome {
    session.write_json(&match wanted {
        Schema { reel: true, .. } => reels::reel(),
        Schema { built: true, .. } => schema::built(),
        _ => schema::rig(),
    })
}
