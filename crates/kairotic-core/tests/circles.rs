//! No file leans on one that leans on it, however far around, except a room's own file and those in the room.

// A test may panic: that is how it fails.
#![allow(clippy::unwrap_used, clippy::indexing_slicing)]

use std::collections::{BTreeMap, BTreeSet};
use std::fs;
use std::path::Path;

/// The files of a crate by their module's path, each with its code.
fn modules(root: &Path, folder: &Path, found: &mut BTreeMap<String, String>) {
    for entry in fs::read_dir(folder).unwrap() {
        let path = entry.unwrap().path();
        if path.is_dir() {
            modules(root, &path, found);
            continue;
        }
        let name = path.strip_prefix(root).unwrap().with_extension("").to_str().unwrap().replace('/', "::");
        let ends = ["::mod", "lib", "main"];
        let name = ends.iter().find_map(|end| name.strip_suffix(end)).unwrap_or(&name).to_owned();
        if name.ends_with("tests") {
            continue;
        }
        let text = fs::read_to_string(&path).unwrap();
        let code = text.split("#[cfg(test)]\nmod tests {").next().unwrap();
        let lines = code.lines().filter(|line| !line.trim_start().starts_with("//"));
        found.insert(name, lines.collect::<Vec<_>>().join("\n"));
    }
}

/// The paths that begin at a place: one, or one for each name in braces.
fn paths_from(code: &str) -> Vec<String> {
    let is_path = |letter: char| letter.is_alphanumeric() || letter == '_' || letter == ':';
    let (head, rest) = code.split_at(code.find(|letter| !is_path(letter)).unwrap_or(code.len()));
    let Some(list) = rest.strip_prefix('{').filter(|_| head.ends_with("::")) else {
        return vec![head.to_owned()];
    };
    let items = list.split('}').next().unwrap().split(',').map(str::trim).filter(|item| !item.is_empty());
    items.map(|item| format!("{head}{}", item.split(' ').next().unwrap())).collect()
}

/// Every path in some code that begins with a word such as `super`.
fn paths(code: &str) -> Vec<String> {
    let starts = ["crate::", "super::", "self::"].into_iter().flat_map(|word| code.match_indices(word));
    let alone =
        |at: usize| !code[..at].ends_with(|letter: char| letter.is_alphanumeric() || ":_".contains(letter));
    starts.filter(|(at, _)| alone(*at)).flat_map(|(at, _)| paths_from(&code[at..])).collect()
}

/// A path from a module, as one from the crate's root.
fn absolute(module: &str, path: &str) -> String {
    let mut base: Vec<&str> = module.split("::").filter(|name| !name.is_empty()).collect();
    let mut rest = path.split("::").peekable();
    while let Some(word) = rest.next_if(|word| ["crate", "super", "self"].contains(word)) {
        match word {
            "crate" => base.clear(),
            "super" => drop(base.pop()),
            _ => {}
        }
    }
    base.into_iter().chain(rest).collect::<Vec<_>>().join("::")
}

/// The statements of some code that hand names on, and the rest.
fn handed_on(code: &str) -> (Vec<&str>, Vec<&str>) {
    let hands_on = |statement: &&str| {
        let words: Vec<&str> = statement.split_whitespace().take(2).collect();
        matches!(words.as_slice(), [public, "use"] if public.starts_with("pub"))
    };
    // What a module declares stands before or between, and ends with the same sign.
    code.split(';').map(str::trim_start).partition(hands_on)
}

/// What each module leans on.
fn leanings(modules: &BTreeMap<String, String>) -> BTreeMap<&str, BTreeSet<&str>> {
    let mut handed: BTreeMap<String, String> = BTreeMap::new();
    for (module, code) in modules {
        for path in handed_on(code).0.into_iter().flat_map(paths) {
            let name = path.rsplit("::").next().unwrap();
            handed.insert(absolute(module, name), absolute(module, &path));
        }
    }
    let mut found: BTreeMap<&str, BTreeSet<&str>> = BTreeMap::new();
    for (module, code) in modules {
        for path in handed_on(code).1.into_iter().flat_map(paths) {
            let mut path = absolute(module, &path);
            while let Some(further) = handed.get(&path) {
                path.clone_from(further);
            }
            let above = std::iter::successors(Some(path.as_str()), |path| Some(path.rsplit_once("::")?.0));
            let home = above.into_iter().find_map(|path| modules.get_key_value(path));
            let (home, _) = home.unwrap_or_else(|| modules.get_key_value("").unwrap());
            let family = |one: &str, other: &str| {
                one.is_empty() || one == other || other.starts_with(&format!("{one}::"))
            };
            if !family(module, home) && !family(home, module) {
                found.entry(module).or_default().insert(home);
            }
        }
    }
    found
}

/// The modules that a module leans on, at first or at last hand.
fn reached<'m>(from: &str, leanings: &BTreeMap<&'m str, BTreeSet<&'m str>>) -> BTreeSet<&'m str> {
    let mut found = BTreeSet::new();
    let mut open: Vec<&str> = vec![from];
    while let Some(module) = open.pop() {
        for next in leanings.get(module).into_iter().flatten() {
            if found.insert(*next) {
                open.push(next);
            }
        }
    }
    found
}

#[test]
fn no_file_leans_on_itself_through_others() {
    let crates = Path::new(env!("CARGO_MANIFEST_DIR")).parent().unwrap();
    for name in ["kairotic-core", "kairotic-formats", "kairotic"] {
        let root = crates.join(name).join("src");
        let mut modules = BTreeMap::new();
        self::modules(&root, &root, &mut modules);
        let leanings = leanings(&modules);
        assert!(leanings.len() > 5, "the paths of {name} were not found");
        for module in leanings.keys() {
            let around = reached(module, &leanings);
            let back: Vec<_> =
                around.iter().filter(|other| reached(other, &leanings).contains(module)).collect();
            assert!(back.is_empty(), "{name}: {module} is in a circle with {back:?}");
        }
    }
}

#[test]
fn a_circle_is_found_through_names_that_are_handed_on() {
    let modules: BTreeMap<String, String> = [
        ("", "mod a;"),
        ("a", "mod b; mod c; mod d; pub use self::b::{Ball, Bell}; pub use self::d::Door;"),
        ("a::b", "use super::c::Cat; struct Ball(Cat);"),
        ("a::c", "use super::{Bell, Door}; struct Cat;"),
        ("a::d", "struct Door;"),
    ]
    .map(|(name, code)| (name.to_owned(), code.to_owned()))
    .into();
    let leanings = leanings(&modules);
    assert_eq!(reached("a::b", &leanings), BTreeSet::from(["a::b", "a::c", "a::d"]));
    assert_eq!(reached("a::d", &leanings), BTreeSet::new());
}
