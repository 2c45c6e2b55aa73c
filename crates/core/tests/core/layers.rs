//! The house itself: which module may use which, read from the sources.

use std::collections::BTreeSet;
use std::fs;
use std::path::{Path, PathBuf};

use super::folders::files_below;

/// From the lowest to the highest; docs/architecture.md draws them.
const LAYERS: [&str; 23] = [
    "words", "units", "dots", "frame", "glyph", "drawing", "face", "content", "rig", "bus", "wiring",
    "driver", "geometry", "meaning", "model", "bare", "part", "plan", "draft", "board", "play", "capture",
    "firmware",
];

pub fn sources() -> PathBuf {
    Path::new(env!("CARGO_MANIFEST_DIR")).join("src")
}

/// Each file's path below src and its code, without comments and without its tests.
fn code() -> Vec<(String, String)> {
    let mut files = Vec::new();
    files_below(&sources(), &mut files);
    files.sort();
    let read = |path: PathBuf| {
        let text = fs::read_to_string(&path).unwrap();
        let before_tests = text.split("#[cfg(test)]\nmod tests").next().unwrap().to_owned();
        let lines = before_tests.lines().filter(|line| !line.trim_start().starts_with("//"));
        let below = path.strip_prefix(sources()).unwrap().to_string_lossy().into_owned();
        (below, lines.collect::<Vec<_>>().join("\n"))
    };
    files.into_iter().map(read).collect()
}

fn module_of(path: &str) -> &str {
    path.split('/').next().unwrap().trim_end_matches(".rs")
}

/// The names that follow `crate::`, those between braces among them.
fn uses(code: &str) -> BTreeSet<&str> {
    fn name(text: &str) -> &str {
        let end = text.find(|c: char| !(c.is_ascii_alphanumeric() || c == '_')).unwrap_or(text.len());
        &text[..end]
    }
    let mut found = BTreeSet::new();
    for after in code.split("crate::").skip(1) {
        if let Some(group) = after.strip_prefix('{') {
            let mut depth = 1;
            let mut start = 0;
            for (at, c) in group.char_indices() {
                match c {
                    '{' => depth += 1,
                    '}' => depth -= 1,
                    _ => {}
                }
                if depth == 0 || (depth == 1 && c == ',') {
                    found.insert(name(group[start..].trim_start()));
                    start = at + 1;
                }
                if depth == 0 {
                    break;
                }
            }
        } else {
            found.insert(name(after));
        }
    }
    found
}

#[test]
fn arrows_between_modules_point_down_only() {
    let rank = |module: &str| LAYERS.iter().position(|layer| *layer == module);
    let mut upward = Vec::new();
    for (path, code) in code() {
        let own = module_of(&path);
        if own == "lib" {
            continue;
        }
        let here = rank(own).unwrap_or_else(|| panic!("{path}: give the module {own} a place in the layers"));
        for used in uses(&code) {
            match rank(used) {
                Some(there) if there <= here => {}
                Some(_) => upward.push(format!("{path} uses {used}, which lies above {own}")),
                None => upward.push(format!("{path} uses {used}, which is not a module")),
            }
        }
    }
    assert!(upward.is_empty(), "{}", upward.join("\n"));
}

#[test]
fn names_after_crate_are_found() {
    let code = "use crate::bus::{Edge, shift};\nuse crate::{face::{Element, Face}, units};\nlet x = crate::plan::Rig;";
    assert_eq!(uses(code), BTreeSet::from(["bus", "face", "plan", "units"]));
}
