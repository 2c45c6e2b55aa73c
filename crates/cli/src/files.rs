//! Files: read with a limit, written whole or not at all.

use std::fs::{self, File};
use std::io::{self, Read, Write};
use std::path::{Path, PathBuf};

use clap::Args;
use spare_tile_core::capture::vcd::{self, Scope};
use spare_tile_core::units::Nanos;

use crate::failure::{Failure, Outcome};
use crate::session::Session;
use crate::view::page::Page;
use crate::view::{pixels, svg};

/// Where a drawing is written to.
#[derive(Args)]
pub struct DrawingFiles {
    /// Also write the drawing as SVG
    #[arg(long, value_name = "FILE")]
    svg: Option<PathBuf>,
    /// Also write the drawing as PNG
    #[arg(long, value_name = "FILE")]
    png: Option<PathBuf>,
}

impl DrawingFiles {
    /// Whether a file is asked for.
    pub const fn any(&self) -> bool {
        self.svg.is_some() || self.png.is_some()
    }

    /// Draws and writes the files that are asked for, if any.
    pub fn write(&self, draw: impl FnOnce() -> Page, session: &mut Session<'_>) -> Outcome {
        if !self.any() {
            return Ok(());
        }
        let page = draw();
        if let Some(path) = &self.svg {
            write_and_tell(path, svg::write(&page).as_bytes(), session)?;
        }
        if let Some(path) = &self.png {
            write_and_tell(path, &pixels::png(&page).map_err(Failure::unusable_plainly)?, session)?;
        }
        Ok(())
    }
}

/// Writes a value change dump of a face's lines, up to `end`, and says so.
pub fn write_dump(path: &Path, scope: Scope<'_>, end: Nanos, session: &mut Session<'_>) -> Outcome {
    let mut dump = String::new();
    vcd::write(&mut dump, &[scope], end)
        .map_err(|error| Failure::unusable_plainly(format!("cannot form the dump: {error}")))?;
    write_and_tell(path, dump.as_bytes(), session)
}

/// Writes a file and says so.
pub fn write_and_tell(path: &Path, bytes: &[u8], session: &mut Session<'_>) -> Outcome {
    write_whole(path, bytes)?;
    session.say_aside(&format!("wrote {}", path.display()));
    Ok(())
}

/// The largest text file that is read. A rig of 64 faces takes a tenth of it.
const TEXT_LIMIT: u64 = 1024 * 1024;

/// Reads a text file.
pub fn read_text(path: &Path, what: &str) -> Result<String, Failure> {
    let name = path.display();
    let cannot = |error: &io::Error| match error.kind() {
        io::ErrorKind::NotFound => Failure::unusable(
            format!("there is no {what} file {name}"),
            if what == "rig" {
                "name another with --rig FILE, or get one to start from: spare-tile demo --out DIR"
            } else {
                "check the name and the folder"
            },
        ),
        io::ErrorKind::IsADirectory => {
            Failure::unusable(format!("{name} is a directory"), format!("name the {what} file in it"))
        }
        _ => Failure::unusable_plainly(format!("cannot read {name}: {error}")),
    };
    let mut bytes = Vec::new();
    let file = File::open(path).map_err(|error| cannot(&error))?;
    file.take(TEXT_LIMIT + 1).read_to_end(&mut bytes).map_err(|error| cannot(&error))?;
    if bytes.len() as u64 > TEXT_LIMIT {
        let message = format!("{name} is larger than {} MiB, too large for a {what} file", TEXT_LIMIT >> 20);
        return Err(Failure::unusable(message, format!("name the {what} file itself")));
    }
    String::from_utf8(bytes).map_err(|error| {
        let at = error.utf8_error().valid_up_to();
        let message = format!("{name} is not text: byte {} is not UTF-8", at + 1);
        Failure::unusable(message, format!("a {what} file is text in UTF-8"))
    })
}

/// Writes a file whole or not at all: into a neighbour first, which then takes its name. A device or pipe is
/// written to directly.
pub fn write_whole(path: &Path, bytes: &[u8]) -> Result<(), Failure> {
    write_whole_or_tell(path, bytes).map_err(|error| {
        let help = "name a file in a folder that exists and can be written to";
        Failure::unusable(format!("cannot write {}: {error}", path.display()), help)
    })
}

fn write_whole_or_tell(path: &Path, bytes: &[u8]) -> io::Result<()> {
    // A link is followed, so that it stays a link.
    let target = fs::canonicalize(path).unwrap_or_else(|_| path.to_owned());
    match fs::metadata(&target) {
        Ok(found) if found.is_dir() => return Err(io::ErrorKind::IsADirectory.into()),
        Ok(found) if !found.is_file() => return File::create(&target)?.write_all(bytes),
        _ => {}
    }
    let folder = target.parent().filter(|folder| !folder.as_os_str().is_empty());
    let mut builder = tempfile::Builder::new();
    #[cfg(unix)]
    let builder = {
        use std::os::unix::fs::PermissionsExt;
        // As any new file: what the person's mask leaves of it.
        builder.permissions(fs::Permissions::from_mode(0o666))
    };
    let mut neighbour = builder.tempfile_in(folder.unwrap_or(Path::new(".")))?;
    neighbour.write_all(bytes)?;
    neighbour.persist(&target).map_err(|error| error.error)?;
    Ok(())
}
