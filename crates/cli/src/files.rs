//! Files: read with a limit, written whole or not at all.

use std::borrow::Cow;
use std::fs::{self, File};
use std::io::{self, BufWriter, Read, Write};
use std::path::{Path, PathBuf};
use std::sync::{Mutex, PoisonError};

use sha2::{Digest, Sha256};

use crate::failure::Failure;
use crate::input;
use crate::signals;

/// The line that ends a sealed text begins so, behind it a digest of all before it.
const SEAL: &str = "; written by spare-tile, unchanged while this fits: ";

/// A text with a last line by which the program knows whether it was changed. `;` begins a comment in it.
pub fn sealed(text: &str) -> String {
    format!("{text}{SEAL}{}\n", digest(text))
}

/// The text without its seal, if it has one.
pub fn unsealed(text: &str) -> &str {
    text.rsplit_once(SEAL).map_or(text, |(before, _)| before)
}

/// Returns true if a text is unchanged since it was sealed.
pub fn is_sealed(text: &str) -> bool {
    text.rsplit_once(SEAL).is_some_and(|(before, seal)| seal.trim_end() == digest(before))
}

fn digest(text: &str) -> String {
    Sha256::digest(text).iter().take(8).map(|byte| format!("{byte:02x}")).collect()
}

/// The largest text file that is read. A rig of 64 faces takes a tenth of it.
const TEXT_LIMIT: u64 = input::LIMIT;

/// The largest file of any kind that is read.
pub const BYTES_LIMIT: u64 = 32 * 1024 * 1024;

/// Reads a text file, or standard input.
pub fn read_text(path: &Path, what: &str) -> Result<String, Failure> {
    text(path, what, read_within(path, what, TEXT_LIMIT)?)
}

/// Reads a file of any kind, or standard input.
pub fn read_bytes(path: &Path, what: &str) -> Result<Vec<u8>, Failure> {
    read_within(path, what, BYTES_LIMIT)
}

/// Reads the text of a file.
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
                "name another with --rig FILE, begin one: spare-tile rig new; or try the demo files: spare-tile demo --out quillmoor"
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
/// written to directly, and so is a file with several names, which all stay its names. A write-protected file is left
/// unchanged.
pub fn write_whole(path: &Path, write: impl FnOnce(&mut dyn Write) -> io::Result<()>) -> Result<(), Failure> {
    write_whole_or_tell(path, write).map_err(|error| {
        let help = match error.kind() {
            io::ErrorKind::StorageFull | io::ErrorKind::QuotaExceeded => {
                "make room, or name a file on another disk"
            }
            io::ErrorKind::PermissionDenied => "name another file, or allow writing to it",
            _ => "name a file in a folder that exists and can be written to",
        };
        Failure::unusable(format!("cannot write {}: {}", path.display(), system_words(&error)), help)
    })
}

/// The system's own words for an error, without the name of a temporary file around them.
fn system_words(error: &io::Error) -> String {
    let within = || error.get_ref()?.source()?.downcast_ref::<io::Error>()?.raw_os_error();
    match error.raw_os_error().or_else(within) {
        Some(code) => io::Error::from_raw_os_error(code).to_string(),
        None => error.to_string(),
    }
}

/// Temporary files that a signal would leave behind.
static UNFINISHED: Mutex<Vec<PathBuf>> = Mutex::new(Vec::new());

fn remove_unfinished() {
    for path in UNFINISHED.lock().unwrap_or_else(PoisonError::into_inner).drain(..) {
        // There is nobody left to tell.
        let _ = fs::remove_file(path);
    }
}

fn write_whole_or_tell(path: &Path, write: impl FnOnce(&mut dyn Write) -> io::Result<()>) -> io::Result<()> {
    let target = followed(path);
    let there = match fs::metadata(&target) {
        Ok(found) if found.is_dir() => return Err(io::ErrorKind::IsADirectory.into()),
        Ok(found) if found.is_file() && found.permissions().readonly() => {
            return Err(io::Error::new(io::ErrorKind::PermissionDenied, "it is write-protected"));
        }
        Ok(found) if !found.is_file() || names_of(&found) > 1 => {
            return written(File::create(&target)?, write).map(|_| ());
        }
        found => found.ok(),
    };
    if there.is_some() {
        // Replacing needs only a writable folder, but a file that cannot be written to must not be replaced.
        File::options().write(true).open(&target)?;
    }
    let folder = target.parent().filter(|folder| !folder.as_os_str().is_empty());
    let mut builder = tempfile::Builder::new();
    #[cfg(unix)]
    let builder = {
        use std::os::unix::fs::PermissionsExt;
        // As any new file: what the person's mask leaves of it.
        builder.permissions(fs::Permissions::from_mode(0o666))
    };
    signals::clean_up_with(remove_unfinished)?;
    let neighbour = {
        // Held until the file is listed, so that no signal comes between.
        let mut unfinished = UNFINISHED.lock().unwrap_or_else(PoisonError::into_inner);
        let neighbour = builder.tempfile_in(folder.unwrap_or(Path::new(".")))?;
        unfinished.push(neighbour.path().to_owned());
        neighbour
    };
    let unfinished = neighbour.path().to_owned();
    let replaced = || {
        if let Some(found) = there {
            // Who may read it stays as it was.
            neighbour.as_file().set_permissions(found.permissions())?;
        }
        written(neighbour, write)?.persist(&target).map_err(|error| error.error)
    };
    let replaced = replaced();
    UNFINISHED.lock().unwrap_or_else(PoisonError::into_inner).retain(|path| *path != unfinished);
    replaced.map(|_| ())
}

/// Locks a file that is to be edited, so that no other run of the program edits it meanwhile. The lock ends with the file.
///
/// # Errors
/// When the file cannot be opened or locked.
pub fn lock(path: &Path) -> io::Result<File> {
    loop {
        let file = File::open(path)?;
        file.lock()?;
        // The previous owner of the lock may have replaced the file.
        if is_same(&file.metadata()?, &fs::metadata(path)?) {
            return Ok(file);
        }
    }
}

#[cfg(unix)]
fn is_same(one: &fs::Metadata, other: &fs::Metadata) -> bool {
    use std::os::unix::fs::MetadataExt;
    (one.dev(), one.ino()) == (other.dev(), other.ino())
}

#[cfg(not(unix))]
fn is_same(one: &fs::Metadata, other: &fs::Metadata) -> bool {
    one.modified().ok() == other.modified().ok()
}

/// The same file or neighbour with everything in it.
fn written<W: Write>(out: W, write: impl FnOnce(&mut dyn Write) -> io::Result<()>) -> io::Result<W> {
    let mut out = BufWriter::new(out);
    write(&mut out)?;
    out.into_inner().map_err(io::IntoInnerError::into_error)
}

/// Returns the target of a link, so that the link stays, even if the target does not exist yet.
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

/// Returns a text of the command line, or for `-` the text of standard input, without the end of its last line.
pub fn said(text: &str) -> Result<Cow<'_, str>, Failure> {
    if !input::is_named(Path::new(text)) {
        return Ok(text.into());
    }
    let read = read_text(Path::new(text), "text")?;
    let line = read.strip_suffix('\n').unwrap_or(&read);
    Ok(line.strip_suffix('\r').unwrap_or(line).to_owned().into())
}
