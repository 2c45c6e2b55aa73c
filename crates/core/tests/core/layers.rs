//! The house itself: which module may use which, read from the sources.

use std::collections::BTreeSet;
use std::path::{Path, PathBuf};

use super::folders::{code_of, files_below, paths_in};

/// From the lowest to the highest; docs/architecture.md draws them.
const LAYERS: [&str; 24] = [
    "words", "schema", "units", "dots", "frame", "glyph", "drawing", "face", "content", "rig", "bus",
    "wiring", "driver", "geometry", "meaning", "model", "bare", "part", "plan", "draft", "link", "board",
    "play", "capture",
];

pub fn sources() -> PathBuf {
    Path::new(env!("CARGO_MANIFEST_DIR")).join("src")
}

/// Each file's path below src and its code.
fn code() -> Vec<(String, String)> {
    let mut files = Vec::new();
    files_below(&sources(), &mut files);
    files.sort();
    let below = |path: &Path| path.strip_prefix(sources()).unwrap().to_string_lossy().into_owned();
    files.iter().map(|path| (below(path), code_of(path))).collect()
}

fn module_of(path: &str) -> &str {
    path.split('/').next().unwrap().trim_end_matches(".rs")
}

/// The names that follow `crate::`, those between braces among them.
fn uses(code: &str) -> BTreeSet<String> {
    let paths = paths_in(code);
    let names = paths.iter().filter_map(|path| path.strip_prefix("crate::")?.split("::").next());
    names.filter(|name| !name.is_empty()).map(str::to_owned).collect()
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
            match rank(&used) {
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
    assert_eq!(uses(code), BTreeSet::from(["bus", "face", "plan", "units"].map(str::to_owned)));
}
