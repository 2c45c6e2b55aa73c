//! Standard input, which is named `-` where a file or a text can come in.

use std::borrow::Cow;
use std::io::{self, Read};
use std::path::Path;
use std::sync::OnceLock;

use crate::failure::Failure;

/// The name of standard input.
const NAME: &str = "-";
/// The longest text that is taken from it: as long as a text file may be.
pub const LIMIT: u64 = 1024 * 1024;

/// All of it. It can be read only once, and two options may ask for it.
static ALL: OnceLock<Vec<u8>> = OnceLock::new();

/// Returns true if a file name stands for it.
pub fn is_named(path: &Path) -> bool {
    path.as_os_str() == NAME
}

/// A file, or standard input, as messages call it.
pub fn called(path: &Path) -> String {
    if is_named(path) { "standard input".to_owned() } else { path.display().to_string() }
}

/// All of standard input, and one byte more than the limit where it is longer.
pub fn bytes() -> io::Result<&'static [u8]> {
    if let Some(all) = ALL.get() {
        return Ok(all);
    }
    let mut read = Vec::new();
    io::stdin().lock().take(LIMIT + 1).read_to_end(&mut read)?;
    Ok(ALL.get_or_init(|| read))
}

/// A text of the command line, or where that is `-` what standard input says, without the end of its last line.
pub fn said(text: &str) -> Result<Cow<'_, str>, Failure> {
    if text != NAME {
        return Ok(text.into());
    }
    let read = crate::files::read_text(Path::new(NAME), "text")?;
    let line = read.strip_suffix('\n').unwrap_or(&read);
    Ok(line.strip_suffix('\r').unwrap_or(line).to_owned().into())
}
