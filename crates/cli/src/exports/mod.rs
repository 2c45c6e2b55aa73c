//! Files that answers are written into: drawings, dumps, sprites, logs. An existing file is replaced only if the program wrote it.
//!
//! Each [`Format`] has a file: of still drawings [`svg`] and [`png`], of moving ones [`svg`] and [`gif`], of lines [`dump`], of
//! operations [`ops`], of dots [`sprite`], and of commands [`manual`].

pub mod dump;
pub mod gif;
pub mod manual;
pub mod ops;
pub mod png;
pub mod sprite;
pub mod svg;

use std::fs::{self, File};
use std::io::{self, Read, Write};
use std::path::{Path, PathBuf};
use std::time::Duration;

use clap::Args;

use crate::failure::{Failure, Outcome};
use crate::files::{BYTES_LIMIT, write_whole};
use crate::session::Session;
use crate::view::page::Page;

/// The format of a file that is written. Each carries a mark by which the program recognises its own files.
pub trait Format {
    /// Returns true if the program wrote a file with these bytes.
    fn wrote(&self, bytes: &[u8]) -> bool;
}

/// A format for one drawing.
pub trait Still: Format {
    /// Returns the drawing as a file.
    ///
    /// # Errors
    /// If it is too large for memory, in words.
    fn write(&self, page: &Page) -> Result<Vec<u8>, String>;
}

/// A format for drawings that follow one another, being written.
pub trait Moving: Format {
    /// Shows a drawing of the same size from a moment on, which is not before the last one's.
    ///
    /// # Errors
    /// If the file grows larger than viewers can open, in words.
    fn show(&mut self, page: Page, at: Duration) -> Result<(), String>;

    /// Returns the file, which repeats forever and ends at a moment.
    ///
    /// # Errors
    /// If nothing was shown, or the drawing is too large for memory, in words.
    fn finish(&mut self, end: Duration) -> Result<Vec<u8>, String>;
}

/// The error of a film without a drawing.
const NOTHING: &str = "there is nothing to be shown";

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
        let formats: [(_, &dyn Still); 2] = [(&self.svg, &svg::Svg), (&self.png, &png::Png)];
        formats.into_iter().try_for_each(|(path, format)| match path {
            Some(path) => write_drawing(path, format, &page, session),
            None => Ok(()),
        })
    }
}

/// Writes a drawing and says so.
pub fn write_drawing(path: &Path, format: &dyn Still, page: &Page, session: &mut Session<'_>) -> Outcome {
    let bytes = format.write(page).map_err(Failure::unusable_plainly)?;
    write_and_tell(path, format, session, |out| out.write_all(&bytes))
}

/// Writes moving drawings that end at a moment, and says so.
pub fn write_moving(
    path: &Path,
    moving: &mut dyn Moving,
    end: Duration,
    session: &mut Session<'_>,
) -> Outcome {
    let bytes = moving.finish(end).map_err(Failure::unusable_plainly)?;
    write_and_tell(path, moving, session, |out| out.write_all(&bytes))
}

/// Writes a file of some format and says so.
pub fn write_and_tell(
    path: &Path,
    format: &(impl Format + ?Sized),
    session: &mut Session<'_>,
    write: impl FnOnce(&mut dyn Write) -> io::Result<()>,
) -> Outcome {
    write_ours(path, format, session, write)?;
    session.say_aside(&format!("wrote {}", path.display()));
    Ok(())
}

/// Writes a file of some format, unless it would replace one that the program did not write.
pub fn write_ours(
    path: &Path,
    format: &(impl Format + ?Sized),
    session: &Session<'_>,
    write: impl FnOnce(&mut dyn Write) -> io::Result<()>,
) -> Outcome {
    refuse_others(path, format, session)?;
    write_whole(path, write)
}

/// Refuses to write over a file that the program did not write.
fn refuse_others(path: &Path, format: &(impl Format + ?Sized), session: &Session<'_>) -> Outcome {
    let is_file = fs::metadata(path).is_ok_and(|found| found.is_file());
    let mut found = Vec::new();
    let is_read =
        is_file && File::open(path).and_then(|file| file.take(BYTES_LIMIT).read_to_end(&mut found)).is_ok();
    if session.force || !is_read || found.is_empty() || format.wrote(&found) {
        return Ok(());
    }
    let message = format!("{} exists and Spare Tile did not write it: it is unchanged", path.display());
    Err(Failure::unusable(message, "name another file, or write over it with --force"))
}

/// Refuses to write over an existing file of a person's own.
pub fn refuse_existing(path: &Path, session: &Session<'_>) -> Outcome {
    if session.force || !path.exists() {
        return Ok(());
    }
    let message = format!("{} exists: nothing was written", path.display());
    Err(Failure::unusable(message, "name another file with --out, or write over it: --force"))
}

/// Returns true if a mark stands near the beginning of a file.
fn has_mark(bytes: &[u8], mark: &str) -> bool {
    const HEAD: usize = 4096;
    let head = &bytes[..bytes.len().min(HEAD)];
    head.windows(mark.len()).any(|window| window == mark.as_bytes())
}
