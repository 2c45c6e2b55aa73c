//! Lists of operations as data for controllers: what to send, transfer by transfer.

use std::fmt::Write;

use super::project::targets::Target;
use crate::bus::Role;
use crate::units::Nanos;

/// One operation of a list, as it is written down.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Listed {
    /// What it is for.
    pub role: Role,
    /// What goes out over the lines, with the address byte where the bus has one.
    pub bytes: Vec<u8>,
    /// How many bytes are read after that.
    pub reads: usize,
    /// The earliest moment at which it may begin, counted from the beginning of the list.
    pub not_before: Nanos,
    /// What it says, for the one who reads the source.
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
    let mut source = String::new();
    // Writing to a string cannot fail.
    let _ = match language {
        "c" => {
            let _ = writeln!(
                source,
                "/* {about}\n   Each row: how many bytes to send, how many to read after them, the bytes. 255 ends the list. */\n\
                 #include <stdint.h>\n\nstatic const uint8_t {name}_ops[] = {{"
            );
            for transfer in transfers {
                let bytes: String = transfer.bytes.iter().map(|byte| format!(" 0x{byte:02X},")).collect();
                let _ = writeln!(
                    source,
                    "    {}, {},{bytes}{}",
                    transfer.bytes.len(),
                    transfer.reads,
                    comment("  /*", transfer, " */")
                );
            }
            writeln!(source, "    255\n}};")
        }
        "rust" => {
            let name = name.to_uppercase();
            let _ = writeln!(
                source,
                "/// {about}\n/// Each: the bytes to send, and how many to read after them.\npub const {name}_OPS: &[(&[u8], usize)] = &["
            );
            for transfer in transfers {
                let bytes: Vec<_> = transfer.bytes.iter().map(|byte| format!("0x{byte:02X}")).collect();
                let _ = writeln!(
                    source,
                    "    (&[{}], {}),{}",
                    bytes.join(", "),
                    transfer.reads,
                    comment(" //", transfer, "")
                );
            }
            writeln!(source, "];")
        }
        "micropython" => {
            let name = name.to_uppercase();
            let _ = writeln!(
                source,
                "# {about}\n# Each: the bytes to send, and how many to read after them.\n{name}_OPS = ("
            );
            for transfer in transfers {
                let bytes: String = transfer.bytes.iter().map(|byte| format!("\\x{byte:02x}")).collect();
                let _ = writeln!(
                    source,
                    "    (b\"{bytes}\", {}),{}",
                    transfer.reads,
                    comment("  #", transfer, "")
                );
            }
            writeln!(source, ")")
        }
        _ => return Err(OpsError::Language { language: language.to_owned() }),
    };
    Ok(source)
}

fn comment(open: &str, transfer: &Listed, close: &str) -> String {
    let at = if transfer.not_before > Nanos(0) {
        format!(", not before {}", transfer.not_before)
    } else {
        String::new()
    };
    // No words of ours end a comment, but nothing else promises it.
    let words = transfer.words.replace("*/", "* /").replace('\n', " ");
    format!("{open} {}{at}: {words}{close}", transfer.role)
}
