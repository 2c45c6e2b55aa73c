//! Standard input, which is named `-` where a file or a text can come in.

use std::io::{self, Read};
use std::path::Path;
use std::sync::OnceLock;

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
