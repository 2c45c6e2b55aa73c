//! Files: read with a limit, written whole or not at all.

use std::fs::{self, File};
use std::io::{self, BufWriter, Read, Write};
use std::path::{Path, PathBuf};

use clap::Args;
use spare_tile_core::capture::vcd::{self, Scope};
use spare_tile_core::units::Nanos;

use crate::failure::{Failure, Outcome};
use crate::input;
use crate::session::Session;
use crate::view::page::Page;
use crate::view::{pixels, svg};

/// Where a drawing is written to.
#[derive(Args)]
#[command(next_help_heading = "Files")]
pub struct DrawingFiles {
    /// Also write the drawing as SVG
    ///
    /// Example: spare-tile show 7 --svg seven.svg
    #[arg(long, value_name = "FILE")]
    svg: Option<PathBuf>,
    /// Also write the drawing as PNG
    ///
    /// Example: spare-tile show 7 --png seven.png
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
            write_and_tell(path, Kind::Svg, session, |out| out.write_all(svg::write(&page).as_bytes()))?;
        }
        if let Some(path) = &self.png {
            let png = pixels::png(&page).map_err(Failure::unusable_plainly)?;
            write_and_tell(path, Kind::Png, session, |out| out.write_all(&png))?;
        }
        Ok(())
    }
}

/// Writes a value change dump of a face's lines, up to `end`, and says so.
pub fn write_dump(path: &Path, scope: Scope<'_>, end: Nanos, session: &mut Session<'_>) -> Outcome {
    write_and_tell(path, Kind::Dump, session, |out| vcd::write(out, &[scope], end))
}

/// What a file is written as. Another kind of file that has its name is left alone: it is someone's work.
#[derive(Clone, Copy)]
pub enum Kind {
    Svg,
    Png,
    Gif,
    Dump,
    Sprite,
    Ops,
}

impl Kind {
    /// What it is called, and how such a file may begin.
    const fn traits(self) -> (&'static str, &'static [&'static [u8]]) {
        match self {
            Self::Svg => ("an SVG drawing", &[b"<svg"]),
            Self::Png => ("a PNG picture", &[b"\x89PNG"]),
            Self::Gif => ("a GIF picture", &[b"GIF8"]),
            Self::Dump => ("a value change dump", &[b"$"]),
            Self::Ops => ("a list of operations", &[b"{\"spare_tile_ops"]),
            Self::Sprite => ("a sprite", &[b"dots ", b";"]),
        }
    }

    /// Refuses to write over a file of another kind.
    fn check(self, path: &Path) -> Outcome {
        let (name, begins) = self.traits();
        let mut first = Vec::new();
        let is_file = fs::metadata(path).is_ok_and(|found| found.is_file());
        if !is_file || File::open(path).and_then(|file| file.take(16).read_to_end(&mut first)).is_err() {
            return Ok(());
        }
        let first = first.trim_ascii_start();
        if first.is_empty() || begins.iter().any(|begin| first.starts_with(begin)) {
            return Ok(());
        }
        let message = format!("{} exists and is not {name}: it was left as it is", path.display());
        Err(Failure::unusable(message, "name another file, or remove that one first"))
    }
}

/// Writes a file of some kind and says so.
pub fn write_and_tell(
    path: &Path,
    kind: Kind,
    session: &mut Session<'_>,
    write: impl FnOnce(&mut dyn Write) -> io::Result<()>,
) -> Outcome {
    kind.check(path)?;
    write_whole(path, write)?;
    session.say_aside(&format!("wrote {}", path.display()));
    Ok(())
}

/// The largest text file that is read. A rig of 64 faces takes a tenth of it.
const TEXT_LIMIT: u64 = input::LIMIT;

/// The largest file of any kind that is read.
const BYTES_LIMIT: u64 = 32 * 1024 * 1024;

/// Reads a text file, or standard input.
pub fn read_text(path: &Path, what: &str) -> Result<String, Failure> {
    text(path, what, read_within(path, what, TEXT_LIMIT)?)
}

/// Reads a file of any kind, or standard input.
pub fn read_bytes(path: &Path, what: &str) -> Result<Vec<u8>, Failure> {
    read_within(path, what, BYTES_LIMIT)
}

/// What a file says that is to be text.
pub fn text(path: &Path, what: &str, bytes: Vec<u8>) -> Result<String, Failure> {
    String::from_utf8(bytes).map_err(|error| {
        let at = error.utf8_error().valid_up_to();
        let message = format!("{} is not text: byte {} is not UTF-8", input::called(path), at + 1);
        Failure::unusable(message, format!("a {what} file is text in UTF-8"))
    })
}

fn read_within(path: &Path, what: &str, limit: u64) -> Result<Vec<u8>, Failure> {
    let name = input::called(path);
    let cannot = |error: &io::Error| match error.kind() {
        io::ErrorKind::NotFound => Failure::unusable(
            format!("there is no {what} file {name}"),
            if what == "rig" {
                "name another with --rig FILE, or begin one: spare-tile rig new"
            } else {
                "check the name and the folder"
            },
        ),
        io::ErrorKind::IsADirectory => {
            Failure::unusable(format!("{name} is a directory"), format!("name the {what} file in it"))
        }
        _ => Failure::unusable_plainly(format!("cannot read {name}: {error}")),
    };
    let (bytes, limit) = if input::is_named(path) {
        (input::bytes().map_err(|error| cannot(&error))?.to_vec(), input::LIMIT)
    } else {
        let mut bytes = Vec::new();
        let file = File::open(path).map_err(|error| cannot(&error))?;
        file.take(limit + 1).read_to_end(&mut bytes).map_err(|error| cannot(&error))?;
        (bytes, limit)
    };
    if bytes.len() as u64 > limit {
        let message = format!("{name} is larger than {} MiB, too large for a {what} file", limit >> 20);
        return Err(Failure::unusable(message, format!("name the {what} file itself")));
    }
    Ok(bytes)
}

/// Writes a file whole or not at all: into a neighbour first, which then takes its name. A device or pipe is
/// written to directly, and so is a file with several names, which all stay its names.
pub fn write_whole(path: &Path, write: impl FnOnce(&mut dyn Write) -> io::Result<()>) -> Result<(), Failure> {
    write_whole_or_tell(path, write).map_err(|error| {
        // Of an error that the system told, the words are its own and not those of a neighbour.
        let words = error
            .raw_os_error()
            .map_or_else(|| error.to_string(), |code| io::Error::from_raw_os_error(code).to_string());
        let help = match error.kind() {
            io::ErrorKind::StorageFull | io::ErrorKind::QuotaExceeded => {
                "make room, or name a file on another disk"
            }
            _ => "name a file in a folder that exists and can be written to",
        };
        Failure::unusable(format!("cannot write {}: {words}", path.display()), help)
    })
}

fn write_whole_or_tell(path: &Path, write: impl FnOnce(&mut dyn Write) -> io::Result<()>) -> io::Result<()> {
    let target = followed(path);
    let there = match fs::metadata(&target) {
        Ok(found) if found.is_dir() => return Err(io::ErrorKind::IsADirectory.into()),
        Ok(found) if !found.is_file() || names_of(&found) > 1 => {
            return written(File::create(&target)?, write).map(|_| ());
        }
        found => found.ok(),
    };
    let folder = target.parent().filter(|folder| !folder.as_os_str().is_empty());
    let mut builder = tempfile::Builder::new();
    #[cfg(unix)]
    let builder = {
        use std::os::unix::fs::PermissionsExt;
        // As any new file: what the person's mask leaves of it.
        builder.permissions(fs::Permissions::from_mode(0o666))
    };
    let neighbour = builder.tempfile_in(folder.unwrap_or(Path::new(".")))?;
    if let Some(found) = there {
        // Who may read it stays as it was.
        neighbour.as_file().set_permissions(found.permissions())?;
    }
    written(neighbour, write)?.persist(&target).map_err(|error| error.error)?;
    Ok(())
}

/// The same file or neighbour with everything in it.
fn written<W: Write>(out: W, write: impl FnOnce(&mut dyn Write) -> io::Result<()>) -> io::Result<W> {
    let mut out = BufWriter::new(out);
    write(&mut out)?;
    out.into_inner().map_err(io::IntoInnerError::into_error)
}

/// What a link leads to, so that it stays a link, even where nothing is there yet.
fn followed(path: &Path) -> PathBuf {
    const MOST: usize = 16;
    let mut target = path.to_owned();
    for _ in 0..MOST {
        let Ok(next) = fs::read_link(&target) else { break };
        target = target.parent().map_or(next.clone(), |folder| folder.join(&next));
    }
    target
}

/// How many names a file has.
#[cfg(unix)]
fn names_of(found: &fs::Metadata) -> u64 {
    std::os::unix::fs::MetadataExt::nlink(found)
}

#[cfg(not(unix))]
fn names_of(_: &fs::Metadata) -> u64 {
    1
}
