//! `rig parts`: the shopping list.

use std::io;

use clap::Args;
use serde::Serialize;
use spare_tile_core::plan::parts::{self, Item};

use crate::failure::Outcome;
use crate::rigs::{RigFile, RigText};
use crate::session::Session;
use crate::view::columns::Columns;

/// List what to buy: displays, chips, resistors by value and power, and what else belongs to them
///
/// The list is of the whole rig. Resistors are rated at twice what they turn into heat; transistors say what they carry.
///
/// Example: spare-tile rig parts --csv
#[derive(Args)]
pub struct Parts {
    /// Answer in CSV, with a line of headings
    ///
    /// Example: spare-tile rig parts --csv > order.csv
    #[arg(long, conflicts_with = "json")]
    csv: bool,
    #[command(flatten)]
    file: RigFile,
}

#[derive(Serialize)]
struct ItemAnswer<'a> {
    count: usize,
    kind: &'static str,
    what: &'a str,
    note: &'a str,
    faces: &'a [String],
}

/// The same as a line of CSV, which has no lists.
#[derive(Serialize)]
struct Record<'a> {
    count: usize,
    kind: &'static str,
    what: &'a str,
    note: &'a str,
    faces: String,
}

/// Runs `rig parts`.
pub fn run(args: &Parts, session: &mut Session<'_>) -> Outcome {
    let rig = RigText::read(&args.file, session)?.into_rig()?;
    let items = parts::list(&rig);
    if session.json {
        return session.write_json(&items.iter().map(answer).collect::<Vec<_>>());
    }
    if args.csv {
        let mut lines = csv::Writer::from_writer(&mut session.out);
        for item in &items {
            lines.serialize(record(item)).map_err(io::Error::from)?;
        }
        return Ok(lines.flush()?);
    }
    let mut table = Columns::new(&["", "what", "which", "note", "for"]);
    for Item { kind, count, what, note, faces } in &items {
        table.row([count.to_string(), kind.name().to_owned(), what.clone(), note.clone(), faces.join(", ")]);
    }
    Ok(write!(session.out, "{}", table.text(0, session))?)
}

fn answer(item: &Item) -> ItemAnswer<'_> {
    let Item { kind, count, what, note, faces } = item;
    ItemAnswer { count: *count, kind: kind.name(), what, note, faces }
}

fn record(item: &Item) -> Record<'_> {
    let Item { kind, count, what, note, faces } = item;
    Record { count: *count, kind: kind.name(), what, note, faces: faces.join(", ") }
}
