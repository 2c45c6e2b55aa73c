//! `rig add`: one face more in a rig file.

use std::path::{Path, PathBuf};

use clap::Args;
use clap_complete::ArgValueCompleter;
use spare_tile_core::draft;
use spare_tile_core::rig::{Finding, Severity};

use super::check::pins;
use super::wish::{WishArgs, unusable};
use crate::complete;
use crate::exports;
use crate::failure::{Failure, Outcome};
use crate::files;
use crate::rigs::{RigFile, RigText};
use crate::session::Session;

/// Add a display to a rig file, on an existing bus if its part allows that
///
/// The file stays as it is, comments and all; the face is written below the others. Lines of a bus are shared by parts
/// that have an address or a select line of their own. All other pins are free ones.
///
/// Example: spare-tile rig add i2c-letters --digits 8
#[derive(Args)]
pub struct Add {
    /// The kind of display; `spare-tile rig new` lists the kinds
    ///
    /// Example: spare-tile rig add i2c-letters
    #[arg(add = ArgValueCompleter::new(complete::kinds))]
    kind: String,
    /// Write the rig to another file and leave this one unchanged; - is standard output
    ///
    /// Example: spare-tile rig add clock-module --out both.toml
    #[arg(short, long, value_name = "FILE")]
    out: Option<PathBuf>,
    #[command(flatten)]
    wish: WishArgs,
    #[command(flatten)]
    file: RigFile,
}

/// Runs `rig add`.
pub fn run(add: &Add, session: &mut Session<'_>) -> Outcome {
    let wish = add.wish.of_kind(&add.kind)?;
    let out = add.out.as_deref().unwrap_or(&add.file.rig);
    // A rig that cannot be locked is one that cannot be read; reading it tells why.
    let _lock = add.out.is_none().then(|| files::lock(out).ok());
    let there = RigText::read(&add.file, session)?;
    let text = draft::added(&wish, &there.source).map_err(|error| unusable(&error, &wish))?;
    if out == Path::new("-") {
        return Ok(write!(session.out, "{text}")?);
    }
    if add.out.is_some() {
        exports::refuse_existing(out, session)?;
    } else if *files::read_text(out, "rig")? != *there.source {
        let message = format!("{} was changed while the face was added: it is unchanged", out.display());
        return Err(Failure::unusable(message, "add the face again"));
    }
    files::write_whole(out, |out| out.write_all(text.as_bytes()))?;
    let written = RigText::of(out, text);
    // Of what was there it was said before; new is at most that the supply gives less than all faces take.
    let before: Vec<_> = there.reading.findings.iter().map(|finding| finding.trouble.to_string()).collect();
    let is_new = |finding: &&Finding| {
        finding.severity != Severity::Note && !before.contains(&finding.trouble.to_string())
    };
    let found: Vec<_> =
        written.reading.findings.iter().filter(is_new).map(|finding| written.complaint(finding)).collect();
    session.warn(&found);
    if let Some(mount) = written.into_rig()?.faces.last() {
        session.say_aside(&format!("added {} to {}: {}", mount.face.name, out.display(), pins(mount)));
    }
    Ok(())
}
