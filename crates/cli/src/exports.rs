//! Files that answers are written into: drawings, dumps, sprites, logs. An existing file is replaced only if the program wrote it.

use std::fs::{self, File};
use std::io::{self, Read, Write};
use std::path::{Path, PathBuf};

use clap::Args;
use spare_tile_core::capture::vcd::{self, Scope};
use spare_tile_core::units::Nanos;

use crate::failure::{Failure, Outcome};
use crate::files::{BYTES_LIMIT, is_sealed, write_whole};
use crate::session::Session;
use crate::view::page::{MARK, Page};
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
    /// Returns true if a file is asked for.
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

/// The format of a file that is written. Each carries a mark by which the program knows its own files again.
#[derive(Clone, Copy)]
pub enum Kind {
    Svg,
    Png,
    Gif,
    Dump,
    Sprite,
    Ops,
    Manual,
}

impl Kind {
    /// Returns true if a file is one that the program wrote.
    fn wrote(self, bytes: &[u8]) -> bool {
        /// Marks stand near the beginning.
        const HEAD: usize = 4096;
        let head = &bytes[..bytes.len().min(HEAD)];
        let has = |mark: &str| memmem(head, mark.as_bytes());
        match self {
            Self::Svg => head.starts_with(b"<svg") && has(MARK),
            Self::Png => head.starts_with(b"\x89PNG") && has(MARK),
            Self::Gif => head.starts_with(b"GIF8") && has(MARK),
            Self::Dump => has("$version spare-tile "),
            Self::Ops => head.starts_with(b"{\"spare_tile_ops"),
            Self::Manual => has(".TH spare-tile"),
            Self::Sprite => str::from_utf8(bytes).is_ok_and(is_sealed),
        }
    }

    /// Refuses to write over a file that the program did not write.
    fn check(self, path: &Path, session: &Session<'_>) -> Outcome {
        let is_file = fs::metadata(path).is_ok_and(|found| found.is_file());
        let mut found = Vec::new();
        let is_read = is_file
            && File::open(path).and_then(|file| file.take(BYTES_LIMIT).read_to_end(&mut found)).is_ok();
        if session.force || !is_read || found.is_empty() || self.wrote(&found) {
            return Ok(());
        }
        let message = format!("{} exists and Spare Tile did not write it: it is unchanged", path.display());
        Err(Failure::unusable(message, "name another file, or write over it with --force"))
    }
}

/// Refuses to write over an existing file of a person's own.
pub fn refuse_existing(path: &Path, session: &Session<'_>) -> Outcome {
    if session.force || !path.exists() {
        return Ok(());
    }
    let message = format!("{} exists: nothing was written", path.display());
    Err(Failure::unusable(message, "name another file with --out, or write over it: --force"))
}

/// Writes a file of some kind and says so.
pub fn write_and_tell(
    path: &Path,
    kind: Kind,
    session: &mut Session<'_>,
    write: impl FnOnce(&mut dyn Write) -> io::Result<()>,
) -> Outcome {
    write_ours(path, kind, session, write)?;
    session.say_aside(&format!("wrote {}", path.display()));
    Ok(())
}

/// Writes a file of some kind, unless it would replace one that the program did not write.
pub fn write_ours(
    path: &Path,
    kind: Kind,
    session: &Session<'_>,
    write: impl FnOnce(&mut dyn Write) -> io::Result<()>,
) -> Outcome {
    kind.check(path, session)?;
    write_whole(path, write)
}

fn memmem(text: &[u8], part: &[u8]) -> bool {
    text.windows(part.len()).any(|window| window == part)
}
