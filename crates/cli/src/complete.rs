//! Completions that depend on files and on the words typed before: faces of the rig, kinds of displays,
//! controllers and their pins. Whatever goes wrong on the way, there is just nothing to complete.

use std::ffi::{OsStr, OsString};
use std::path::PathBuf;
use std::sync::atomic::{AtomicBool, Ordering};

use clap_complete::engine::CompletionCandidate;
use spare_tile_core::draft::kinds::{KINDS, kind};
use spare_tile_core::draft::roles;
use spare_tile_core::plan::Rig;
use spare_tile_core::play::clock;
use spare_tile_core::rig::{Controller, controllers};

use crate::files;

/// True while bash asks, which takes a candidate as it would be typed.
static IN_BASH: AtomicBool = AtomicBool::new(false);

/// The environment variable by which a shell asks for completions.
pub const ASKS: &str = "SPARE_TILE_COMPLETE";

/// Notes which shell asks.
pub fn begin(shell: &str) {
    IN_BASH.store(shell == "bash", Ordering::Relaxed);
}

/// The faces of the rig that the line names, or that would be taken.
pub fn faces(typed: &OsStr) -> Vec<CompletionCandidate> {
    let Some(rig) = rig() else { return Vec::new() };
    let faces = rig.faces.iter();
    starting(typed, faces.map(|mount| (mount.face.name.clone(), mount.face.summary())))
}

/// The kinds of displays to begin with.
pub fn kinds(typed: &OsStr) -> Vec<CompletionCandidate> {
    starting(typed, KINDS.iter().map(|kind| (kind.name.to_owned(), kind.about.to_owned())))
}

/// The time zones.
pub fn zones(typed: &OsStr) -> Vec<CompletionCandidate> {
    starting(typed, clock::zones().into_iter().map(|name| (name, String::new())))
}

/// The controllers by part number.
pub fn controllers(typed: &OsStr) -> Vec<CompletionCandidate> {
    starting(typed, controllers::names().map(|name| (name.to_owned(), String::new())))
}

/// Completes the line of a pin, and after it the pins of the controller: `clock=GP18`. Only the last of several is completed.
pub fn pins(typed: &OsStr) -> Vec<CompletionCandidate> {
    let Some(typed) = typed.to_str() else { return Vec::new() };
    let (before, last) = typed.rsplit_once(',').map_or(("", typed), |(before, last)| (before, last));
    let before = if before.is_empty() { String::new() } else { format!("{before},") };
    let words: Vec<_> = words().filter_map(|word| word.into_string().ok()).collect();
    let whole = OsString::from(typed);
    match last.split_once('=') {
        None => {
            let Some(kind) = words.iter().find_map(|word| kind(word)) else { return Vec::new() };
            let roles = roles(kind, kind.size.0).into_iter();
            starting(&whole, roles.map(|role| (format!("{before}{role}="), String::new())))
        }
        Some((role, _)) => {
            let part = after(&["-c", "--controller"]);
            let controller = match part {
                Some(part) => Controller::called_by(part.to_str()),
                None => rig().map(|rig| rig.controller),
            };
            let pins: Vec<_> = controller.iter().flat_map(Controller::pins).cloned().collect();
            let free = pins.iter().filter(|pin| pin.reserved.is_none());
            starting(&whole, free.map(|pin| (format!("{before}{role}={}", pin.pin), pin.also.join(", "))))
        }
    }
}

/// Those that begin as what was typed, each with what there is to say of it.
fn starting(typed: &OsStr, all: impl Iterator<Item = (String, String)>) -> Vec<CompletionCandidate> {
    let Some(typed) = typed.to_str() else { return Vec::new() };
    let quotes = IN_BASH.load(Ordering::Relaxed);
    // Bash hands a word over as it is typed, with its quotes.
    let typed = if quotes { typed.replace(['\\', '"', '\''], "") } else { typed.to_owned() };
    let fitting = all.filter(|(name, _)| name.starts_with(&typed));
    let candidate = |(name, about): (String, String)| {
        let candidate = CompletionCandidate::new(if quotes { quoted(&name) } else { name });
        if about.is_empty() { candidate } else { candidate.help(Some(about.into())) }
    };
    fitting.map(candidate).collect()
}

/// A name as bash reads it as one word, and nothing in it as a command.
fn quoted(name: &str) -> String {
    let is_plain = |letter: char| letter.is_alphanumeric() || "_-./=,:+@%".contains(letter);
    name.chars().flat_map(|letter| (!is_plain(letter)).then_some('\\').into_iter().chain([letter])).collect()
}

/// The words of the line that the shell asks about.
fn words() -> impl Iterator<Item = OsString> {
    std::env::args_os().skip_while(|word| word != "--").skip(1)
}

/// The word after one of these options.
fn after(options: &[&str]) -> Option<OsString> {
    let words: Vec<_> = words().collect();
    let at = words.iter().position(|word| options.iter().any(|option| word == option))?;
    words.get(at + 1).cloned()
}

/// The rig that the line names, or that would be taken.
fn rig() -> Option<Rig> {
    let named = after(&["-r", "--rig"]).or_else(|| std::env::var_os("SPARE_TILE_RIG"));
    let path = PathBuf::from(named.unwrap_or_else(|| "rig.toml".into()));
    // Standard input is not the shell's to read.
    let is_file = path.is_file();
    Rig::read(&is_file.then(|| files::read_text(&path, "rig").ok())??).rig
}
