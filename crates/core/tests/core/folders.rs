//! The imports between the folders of a crate, read from its sources. The command line's tests use this file too.

use std::collections::{BTreeMap, BTreeSet};
use std::fs;
use std::path::{Path, PathBuf};

/// By folder, the folders that its files import from.
type Imports = BTreeMap<PathBuf, BTreeSet<PathBuf>>;

/// The source files below a folder.
pub fn files_below(folder: &Path, found: &mut Vec<PathBuf>) {
    for entry in fs::read_dir(folder).unwrap() {
        let path = entry.unwrap().path();
        if path.is_dir() {
            files_below(&path, found);
        } else if path.extension().is_some_and(|extension| extension == "rs") {
            found.push(path);
        }
    }
}

/// The code of a file, without comments and without its tests.
pub fn code_of(file: &Path) -> String {
    let text = fs::read_to_string(file).unwrap();
    let before_tests = text.split("#[cfg(test)]\nmod tests").next().unwrap();
    let lines = before_tests.lines().filter(|line| !line.trim_start().starts_with("//"));
    lines.collect::<Vec<_>>().join("\n")
}

/// The module of a file, by its names from the root of the crate.
fn module_of(file: &Path) -> Vec<String> {
    let names = file.with_extension("");
    let mut names: Vec<_> = names.iter().map(|name| name.to_string_lossy().into_owned()).collect();
    if names.last().is_some_and(|last| ["mod", "lib", "main"].contains(&last.as_str())) {
        names.pop();
    }
    names
}

/// The paths of a tree of imports such as `a::{b, c::d}`, each from its first name on.
fn paths_of(tree: &str) -> Vec<String> {
    let tree = tree.trim();
    let Some((before, group)) = tree.split_once('{') else {
        return vec![tree.split(" as ").next().unwrap_or(tree).to_owned()];
    };
    let group = group.strip_suffix('}').unwrap_or(group);
    let mut depth = 0;
    let parts = group.split(|letter: char| {
        depth += i32::from(letter == '{') - i32::from(letter == '}');
        letter == ',' && depth == 0
    });
    parts
        .filter(|part| !part.trim().is_empty())
        .flat_map(paths_of)
        .map(|path| format!("{before}{path}"))
        .collect()
}

/// The paths from `crate` or `super` in code.
pub fn paths_in(code: &str) -> Vec<String> {
    let imports = code.split("use ").skip(1).filter_map(|rest| rest.split_once(';'));
    let imports = imports.filter(|(tree, _)| tree.starts_with("crate::") || tree.starts_with("super::"));
    let mut paths: Vec<_> = imports.flat_map(|(tree, _)| paths_of(tree)).collect();
    for start in ["crate::", "super::"] {
        for (at, _) in code.match_indices(start) {
            let is_end = |letter: char| !(letter.is_alphanumeric() || letter == '_' || letter == ':');
            let end = code[at..].find(is_end).map_or(code.len(), |length| at + length);
            paths.push(code[at..end].to_owned());
        }
    }
    paths
}

/// The folder of a file; a file of the root stands for itself.
fn folder_of(file: &Path) -> PathBuf {
    match file.parent() {
        Some(folder) if folder != Path::new("") => folder.to_owned(),
        _ => file.with_extension(""),
    }
}

/// Reads the imports between the folders below `sources`.
fn imports(sources: &Path) -> Imports {
    let mut files = Vec::new();
    files_below(sources, &mut files);
    let below = |file: &PathBuf| file.strip_prefix(sources).unwrap().to_owned();
    let folders: BTreeMap<_, _> = files
        .iter()
        .map(|file| (module_of(&below(file)), folder_of(&below(file))))
        .filter(|(module, _)| !module.is_empty())
        .collect();
    let mut imports = Imports::new();
    for file in &files {
        let own = below(file);
        let own_folder = folder_of(&own);
        if module_of(&own).is_empty() {
            continue;
        }
        for path in paths_in(&code_of(file)) {
            let mut module = module_of(&own);
            let mut names = path.split("::").filter(|name| !name.is_empty()).peekable();
            if names.next_if_eq(&"crate").is_some() {
                module.clear();
            }
            while names.next_if_eq(&"super").is_some() {
                module.pop();
            }
            module.extend(names.map(str::to_owned));
            // The longest path that is a module; the rest are items of it.
            while !module.is_empty() && !folders.contains_key(&module) {
                module.pop();
            }
            if let Some(folder) = folders.get(&module).filter(|folder| **folder != own_folder) {
                imports.entry(own_folder.clone()).or_default().insert(folder.clone());
            }
        }
    }
    imports
}

/// Returns a cycle of imports that crosses folders below `sources`, if there is one. A folder and the folders in it are one.
pub fn cycle_below(sources: &Path) -> Option<Vec<PathBuf>> {
    let imports = imports(sources);
    imports.keys().find_map(|folder| cycle_from(&imports, &mut vec![folder.clone()], &mut BTreeSet::new()))
}

fn cycle_from(
    imports: &Imports,
    way: &mut Vec<PathBuf>,
    seen: &mut BTreeSet<PathBuf>,
) -> Option<Vec<PathBuf>> {
    let here = way.last().unwrap().clone();
    for next in imports.get(&here).into_iter().flatten() {
        if next.starts_with(&here) || here.starts_with(next) {
            continue;
        }
        if let Some(begin) = way.iter().position(|folder| folder == next) {
            return Some(way[begin..].to_vec());
        }
        if seen.insert(next.clone()) {
            way.push(next.clone());
            let cycle = cycle_from(imports, way, seen);
            if cycle.is_some() {
                return cycle;
            }
            way.pop();
        }
    }
    None
}

#[test]
fn no_cycle_of_imports_crosses_folders() {
    assert_eq!(cycle_below(&Path::new(env!("CARGO_MANIFEST_DIR")).join("src")), None);
}

#[test]
fn a_cycle_of_imports_is_found() {
    let folder = tempfile::tempdir().unwrap();
    let write = |name: &str, text: &str| {
        let path = folder.path().join(name);
        fs::create_dir_all(path.parent().unwrap()).unwrap();
        fs::write(path, text).unwrap();
    };
    write("lib.rs", "mod boats;\nmod piers;\nmod tides;\nuse crate::tides;\n");
    write("boats/mod.rs", "use crate::{piers::{self, Pier}, tides};\n");
    write("piers/mod.rs", "pub struct Pier;\n");
    write("tides/mod.rs", "mod table;\n// use crate::boats;\n");
    write("tides/table.rs", "use super::super::piers::Pier;\n");
    assert_eq!(cycle_below(folder.path()), None);
    write("piers/plan.rs", "fn moor() -> crate::boats::Boat {}\n");
    let cycle = cycle_below(folder.path()).unwrap();
    assert_eq!(cycle.into_iter().collect::<BTreeSet<_>>(), BTreeSet::from(["boats".into(), "piers".into()]));
}
