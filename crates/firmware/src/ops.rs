//! Lists of operations as data for controllers: what to send, transfer by transfer.

use minijinja::context;

use super::forms::{comment, fill};
use super::project::targets::Target;
use spare_tile_core::bus::Role;
use spare_tile_core::units::Nanos;

/// One operation of a list, as it is written down.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Listed {
    /// Its purpose.
    pub role: Role,
    /// The bytes on the lines, with the address byte if the bus has one.
    pub bytes: Vec<u8>,
    /// How many bytes are read after that.
    pub reads: usize,
    /// The earliest moment at which it may begin, counted from the beginning of the list.
    pub not_before: Nanos,
    /// Its meaning, for the reader of the source.
    pub words: String,
}

/// The languages in which a list can be written, each with the [target](super::project::targets) whose sources send it.
pub const LANGUAGES: [(&str, &str); 3] = [("c", "c99"), ("rust", "rust"), ("micropython", "micropython")];

/// The target whose sources send a list in a language.
#[must_use]
pub fn target_of(language: &str) -> Option<&'static dyn Target> {
    let (_, target) = LANGUAGES.iter().find(|(known, _)| *known == language)?;
    super::project::targets::target(target)
}

/// The most bytes of a transfer in C, where 255 ends the list.
const MOST_IN_C: usize = 254;

/// Why a list cannot be written.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
#[non_exhaustive]
pub enum OpsError {
    /// Not in this language.
    #[error("there is no list in {language}")]
    Language {
        /// Which.
        language: String,
    },
    /// A transfer is longer than its length can say.
    #[error("a transfer of {found} bytes; in c a list has {MOST_IN_C} bytes in each at most")]
    TooLong {
        /// How long it is.
        found: usize,
    },
    /// A template is wrong: a mistake of ours.
    #[error("a template cannot be filled: {0}")]
    Template(String),
}

/// Writes a list in a language of [`LANGUAGES`]. `name` is a name in all of them: letters, digits and
/// underscores.
///
/// In C each transfer is its length, how many bytes to read after it, and its bytes; a length of 255 ends the list. In
/// the others a list of pairs, bytes and how many to read.
///
/// # Errors
/// When there is no such language, or in C a transfer is too long.
pub fn write(language: &str, name: &str, about: &str, transfers: &[Listed]) -> Result<String, OpsError> {
    let longest = transfers.iter().map(|transfer| transfer.bytes.len()).max().unwrap_or(0);
    if language == "c" && longest > MOST_IN_C {
        return Err(OpsError::TooLong { found: longest });
    }
    if !LANGUAGES.iter().any(|(known, _)| *known == language) {
        return Err(OpsError::Language { language: language.to_owned() });
    }
    let transfer = |transfer: &Listed| context! { bytes => &transfer.bytes, reads => transfer.reads, words => comment(&words(transfer)) };
    let transfers: Vec<_> = transfers.iter().map(transfer).collect();
    let with = context! { name, capitals => name.to_uppercase(), about => comment(about), transfers };
    fill(&format!("{language}/list.j2"), with).map_err(OpsError::Template)
}

/// The purpose and meaning of a transfer, for a comment.
fn words(transfer: &Listed) -> String {
    let at = if transfer.not_before > Nanos(0) {
        format!(", not before {}", transfer.not_before)
    } else {
        String::new()
    };
    format!("{}{at}: {}", transfer.role, transfer.words)
}
