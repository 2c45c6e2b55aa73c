//! Sender and receiver share no code: an error in code that both use would be wrong on both sides, and cancel out.
//!
//! The sources are parsed. A file sends or receives by its name. What it names is followed through imports, re-exports and the
//! helper files that it calls. Both sides may use the same types, which carry what the rig says, but no function, constant
//! or method of a part.

use std::collections::{BTreeMap, BTreeSet};
use std::fs;
use std::path::Path;

use syn::visit::{self, Visit};

use super::folders::files_below;
use super::layers::sources;

/// A path from the root of the crate, without `crate`.
type Name = Vec<String>;

/// Which side a file is on.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord)]
enum Side {
    Sends,
    Receives,
}

/// The contents of a file.
#[derive(Default)]
struct Source {
    side: Option<Side>,
    /// True for the file of a folder, which knows both sides.
    is_folder: bool,
    /// Imports and re-exports: the path that each name stands for.
    aliases: BTreeMap<String, Name>,
    /// The paths that it names, and the methods that it calls.
    named: BTreeSet<Name>,
    calls: BTreeSet<String>,
    /// The methods that it has, but for those of traits.
    methods: BTreeSet<String>,
}

/// Reads one file.
struct Reader {
    module: Name,
    source: Source,
}

impl Reader {
    /// A path from the root for one that is written in this file; none for what is not of this crate.
    fn resolved(&self, written: &[String]) -> Option<Name> {
        let mut here = self.module.clone();
        let mut rest = written;
        match rest.first()?.as_str() {
            "crate" => (here, rest) = (Vec::new(), &rest[1..]),
            "self" => rest = &rest[1..],
            "super" => {
                while rest.first().is_some_and(|first| first == "super") {
                    here.pop();
                    rest = &rest[1..];
                }
            }
            first => {
                if let Some(known) = self.source.aliases.get(first) {
                    (here, rest) = (known.clone(), &rest[1..]);
                } else if !self.source.is_folder || rest.len() < 2 {
                    return None;
                }
            }
        }
        here.extend(rest.iter().cloned());
        Some(here)
    }

    fn import(&mut self, tree: &syn::UseTree, before: &[String]) {
        let with = |name: &syn::Ident| [before, &[name.to_string()]].concat();
        match tree {
            syn::UseTree::Path(path) => self.import(&path.tree, &with(&path.ident)),
            syn::UseTree::Group(group) => group.items.iter().for_each(|tree| self.import(tree, before)),
            syn::UseTree::Name(name) if name.ident == "self" => self.alias(before.last().cloned(), before),
            syn::UseTree::Name(name) => self.alias(Some(name.ident.to_string()), &with(&name.ident)),
            syn::UseTree::Rename(rename) => self.alias(Some(rename.rename.to_string()), &with(&rename.ident)),
            // There are none outside tests.
            syn::UseTree::Glob(_) => {}
        }
    }

    fn alias(&mut self, name: Option<String>, written: &[String]) {
        if let (Some(name), Some(resolved)) = (name, self.resolved(written)) {
            self.source.aliases.insert(name, resolved);
        }
    }

    fn name(&mut self, written: &[String]) {
        if let Some(name) = self.resolved(written) {
            self.source.named.insert(name);
        }
    }
}

fn is_of_tests(attributes: &[syn::Attribute]) -> bool {
    attributes.iter().any(|attribute| {
        attribute.path().is_ident("test")
            || attribute.meta.require_list().is_ok_and(|list| list.tokens.to_string() == "test")
    })
}

impl Visit<'_> for Reader {
    fn visit_item_mod(&mut self, item: &syn::ItemMod) {
        if !is_of_tests(&item.attrs) {
            visit::visit_item_mod(self, item);
        }
    }

    fn visit_item_use(&mut self, item: &syn::ItemUse) {
        self.import(&item.tree, &[]);
    }

    fn visit_path(&mut self, path: &syn::Path) {
        let written: Vec<_> = path.segments.iter().map(|segment| segment.ident.to_string()).collect();
        self.name(&written);
        visit::visit_path(self, path);
    }

    fn visit_expr_method_call(&mut self, call: &syn::ExprMethodCall) {
        self.source.calls.insert(call.method.to_string());
        visit::visit_expr_method_call(self, call);
    }

    fn visit_item_impl(&mut self, item: &syn::ItemImpl) {
        if item.trait_.is_none() {
            let functions = item.items.iter().filter_map(|item| match item {
                syn::ImplItem::Fn(function) => Some(function.sig.ident.to_string()),
                _ => None,
            });
            self.source.methods.extend(functions);
        }
        visit::visit_item_impl(self, item);
    }

    /// The tokens of a macro, in which paths and calls are found without knowing what it makes of them.
    fn visit_macro(&mut self, makes: &syn::Macro) {
        let text = makes.tokens.to_string();
        let is_name = |token: &str| token.starts_with(|c: char| c.is_ascii_alphabetic() || c == '_');
        let tokens: Vec<_> = text.split(|c: char| c.is_whitespace() || "(){}[],;&*!".contains(c)).collect();
        let mut path: Vec<String> = Vec::new();
        let mut before = "";
        for token in tokens.into_iter().filter(|token| !token.is_empty()) {
            if before == "." && is_name(token) {
                self.source.calls.insert(token.to_owned());
            } else if is_name(token) && before == "::" {
                path.push(token.to_owned());
            } else if is_name(token) {
                self.name(&std::mem::replace(&mut path, vec![token.to_owned()]));
            }
            before = token;
        }
        self.name(&path);
    }
}

/// The files below a folder, by their modules.
fn read(root: &Path) -> BTreeMap<Name, Source> {
    let mut paths = Vec::new();
    files_below(root, &mut paths);
    let read = |path: &Path| {
        let below = path.strip_prefix(root).unwrap().with_extension("");
        let mut module: Name = below.iter().map(|name| name.to_string_lossy().into_owned()).collect();
        let is_folder = module.last().is_some_and(|last| last == "mod" || last == "lib");
        if is_folder {
            module.pop();
        }
        let side = match module.last().map(String::as_str) {
            Some("driver" | "wiring" | "scanner" | "shadow") => Some(Side::Sends),
            // It wires bare displays.
            Some("plan") if module[0] == "bare" => Some(Side::Sends),
            Some("model" | "geometry" | "lights" | "eye") => Some(Side::Receives),
            _ => None,
        };
        let source = Source { side, is_folder, ..Source::default() };
        let mut reader = Reader { module: module.clone(), source };
        let file = syn::parse_file(&fs::read_to_string(path).unwrap()).unwrap();
        // Imports first: they hold wherever they stand.
        let imports = file.items.iter().filter_map(|item| match item {
            syn::Item::Use(item) => Some(item),
            _ => None,
        });
        imports.for_each(|item| reader.visit_item_use(item));
        reader.visit_file(&file);
        (module, reader.source)
    };
    paths.iter().map(|path| read(path)).collect()
}

/// The path that a name stands for in the end, through re-exports.
fn canonical(sources: &BTreeMap<Name, Source>, name: &Name) -> Name {
    let mut name = name.clone();
    // A limit, as imports could form a circle.
    for _ in 0..8 {
        let exported = (1..name.len()).rev().find_map(|length| {
            let (module, rest) = name.split_at(length);
            let target = sources.get(module)?.aliases.get(&rest[0])?;
            Some([target.as_slice(), &rest[1..]].concat())
        });
        match exported.filter(|exported| *exported != name) {
            Some(exported) => name = exported,
            None => break,
        }
    }
    name
}

/// The module that a name is in.
fn module_of<'s>(sources: &'s BTreeMap<Name, Source>, name: &Name) -> Option<(&'s Name, &'s Source)> {
    (1..=name.len()).rev().find_map(|length| sources.get_key_value(&name[..length]))
}

/// Returns true if a name is that of a function or a constant in a module, not of a type or of something in one.
fn is_value(name: &Name, module: &Name) -> bool {
    let is_type = |word: &String| word.starts_with(char::is_uppercase) && word.contains(char::is_lowercase);
    name.len() > module.len() && !name[module.len()..].iter().any(is_type)
}

/// The layers in which there are two sides.
fn has_sides(name: &Name) -> bool {
    name.len() > 1 && (name[0] == "part" || name[0] == "bare")
}

/// All that a side names in those layers, and what it calls, by folder; helper files are followed.
#[derive(Default)]
struct Reached {
    values: BTreeSet<Name>,
    calls: BTreeMap<Name, BTreeSet<String>>,
    of_other: BTreeSet<String>,
}

fn reached(sources: &BTreeMap<Name, Source>, side: Side) -> Reached {
    let mut found = Reached::default();
    let mut left: Vec<&Name> =
        sources.iter().filter(|(_, source)| source.side == Some(side)).map(|(module, _)| module).collect();
    let mut seen: BTreeSet<&Name> = left.iter().copied().collect();
    while let Some(module) = left.pop() {
        let source = &sources[module];
        let folder = module[..module.len() - 1].to_vec();
        found.calls.entry(folder).or_default().extend(source.calls.iter().cloned());
        for name in source.named.iter().map(|name| canonical(sources, name)) {
            let Some((of, target)) = module_of(sources, &name).filter(|(of, _)| *of != module) else {
                continue;
            };
            if target.side.is_some_and(|other| other != side) {
                found.of_other.insert(format!("{} names {}", module.join("::"), name.join("::")));
            }
            if has_sides(&name) && is_value(&name, of) {
                if target.side.is_none() {
                    found.values.insert(name.clone());
                }
                if !target.is_folder && seen.insert(of) {
                    left.push(of);
                }
            }
        }
    }
    found
}

/// The code that both sides use.
fn shared(sources: &BTreeMap<Name, Source>) -> Vec<String> {
    let (sends, receives) = (reached(sources, Side::Sends), reached(sources, Side::Receives));
    let mut shared: Vec<String> = sends.of_other.iter().chain(&receives.of_other).cloned().collect();
    let values = sends.values.intersection(&receives.values);
    shared.extend(values.map(|name| format!("both name {}", name.join("::"))));
    for (folder, calls) in sends.calls.iter().filter(|(folder, _)| has_sides(folder)) {
        let Some(of_receiver) = receives.calls.get(folder) else { continue };
        let in_common =
            sources.iter().filter(|(module, source)| module.starts_with(folder) && source.side.is_none());
        for (module, source) in in_common {
            let methods = source
                .methods
                .iter()
                .filter(|method| calls.contains(*method) && of_receiver.contains(*method));
            shared.extend(methods.map(|method| format!("both call {}::{method}()", module.join("::"))));
        }
    }
    shared
}

#[test]
fn sender_and_receiver_share_no_code() {
    let sources = read(&sources());
    let shared = shared(&sources);
    assert!(shared.is_empty(), "{}", shared.join("\n"));
    for side in [Side::Sends, Side::Receives] {
        let files = sources.values().filter(|source| source.side == Some(side)).count();
        assert!(files > 8, "files have moved: only {files} are on the side that {side:?}");
    }
}

/// A part of five files, and the wiring that all parts use.
fn shared_in(driver: &str, model: &str) -> Vec<String> {
    const FOLDER: &str =
        "mod driver;\nmod helper;\nmod model;\npub mod deep;\npub use helper::renamed as exported;";
    const HELPER: &str = "pub fn renamed() {}\npub fn outer() { super::deep::inner() }\n\
                          pub struct Plan { pub first: usize }\nimpl Plan { pub fn columns(&self) -> usize { 8 } }\n";
    const DEEP: &str = "pub fn inner() {}\npub const LINES: usize = 6;\n";
    let folder = tempfile::tempdir().unwrap();
    let part = folder.path().join("part").join("chip");
    fs::create_dir_all(&part).unwrap();
    fs::write(folder.path().join("wiring.rs"), "pub struct Node;").unwrap();
    for (file, text) in
        [("mod", FOLDER), ("helper", HELPER), ("deep", DEEP), ("driver", driver), ("model", model)]
    {
        fs::write(part.join(file).with_extension("rs"), text).unwrap();
    }
    shared(&read(folder.path()))
}

#[test]
fn what_both_sides_use_is_found() {
    for (driver, model, found) in [
        (
            "use super::deep::LINES;\nfn f() { g(LINES) }",
            "fn f() -> Vec<u8> { vec![0; super::deep::LINES] }",
            "both name part::chip::deep::LINES",
        ),
        (
            "use super::helper;\nfn f() { helper::outer() }",
            "use crate::part::chip::deep::{self};\nfn f() { deep::inner() }",
            "both name part::chip::deep::inner",
        ),
        (
            "fn f() { super::exported() }",
            "use super::helper::renamed as other;\nfn f() { other() }",
            "both name part::chip::deep::inner, both name part::chip::helper::renamed",
        ),
        (
            "use super::helper::Plan;\nfn f(plan: &Plan) { plan.columns(); }",
            "use super::helper::Plan;\nfn f(plan: &Plan) { assert!(8 == plan.columns()); }",
            "both call part::chip::helper::columns()",
        ),
        (
            "pub struct Chain;",
            "use super::driver::Chain;\nfn f(_: Chain) {}",
            "part::chip::model names part::chip::driver::Chain",
        ),
        ("", "use crate::wiring::Node;\nfn f(_: Node) {}", "part::chip::model names wiring::Node"),
    ] {
        assert_eq!(shared_in(driver, model).join(", "), found);
    }
}

#[test]
fn what_the_rig_says_may_be_shared() {
    let driver = "use super::helper::Plan;\nfn f(plan: &Plan) { plan.columns(); super::helper::outer(); }";
    let model = "use super::helper::Plan;\nfn f(plan: &Plan) -> usize { plan.first }\n\
                 #[cfg(test)]\nmod tests { fn f() { super::super::helper::outer() } }";
    assert!(shared_in(driver, model).is_empty());
}
