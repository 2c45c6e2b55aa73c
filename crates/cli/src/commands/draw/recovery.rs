//! Work that was not saved when a signal or a lost terminal ended the editor: it is kept in a file beside the drawing and
//! offered the next time.

use std::ffi::OsString;
use std::fs;
use std::path::{Path, PathBuf};

use crossterm::event::KeyCode;

use crate::failure::Failure;
use crate::files;
use crate::session::Session;
use crate::view::live;

/// The file for the unsaved work on a drawing: `.gull.dots.unsaved` for `gull.dots`.
pub fn place(path: &Path) -> PathBuf {
    let mut name = OsString::from(".");
    name.push(path.file_name().unwrap_or_default());
    name.push(".unsaved");
    path.with_file_name(name)
}

/// Writes the unsaved work; returns where.
pub fn keep(path: &Path, text: &str) -> Result<PathBuf, Failure> {
    let place = place(path);
    files::write_whole(&place, |out| out.write_all(text.as_bytes()))?;
    Ok(place)
}

/// Removes the unsaved work on a drawing, if there is any.
pub fn remove(path: &Path) {
    // If it cannot be removed it is offered again, which does no harm.
    let _ = fs::remove_file(place(path));
}

/// Asks whether to take unsaved work, if there is any. Returns the file to begin with.
pub fn offered(path: &Path, session: &mut Session<'_>) -> Result<Option<PathBuf>, Failure> {
    let place = place(path);
    if !place.is_file() {
        return Ok(None);
    }
    let question = format!(
        "{} was not saved when the editor was interrupted: y takes that work, d deletes it, any other key leaves it ",
        path.display()
    );
    match live::ask(&question, session)? {
        KeyCode::Char('y') => Ok(Some(place)),
        KeyCode::Char('d') => {
            remove(path);
            Ok(None)
        }
        _ => Ok(None),
    }
}
