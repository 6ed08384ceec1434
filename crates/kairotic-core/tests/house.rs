//! The house keeps its order: each room uses only those above it, and none of them knows a command line.

// A test may panic: that is how it fails.
#![allow(clippy::unwrap_used, clippy::indexing_slicing)]

use std::collections::BTreeMap;
use std::fs;
use std::path::{Path, PathBuf};

/// The rooms from the ground up: each may use those that stand before it.
const ROOMS: &[&str] = &[
    "limits",
    "name",
    "quantity",
    "error",
    "target",
    "part",
    "waveform",
    "finding",
    "setting",
    "load",
    "signal",
    "search",
    "requirement",
    "decode",
    "explain",
    "clock",
    "program",
    "survey",
    "scale",
    "accuracy",
    "motion",
    "sequence",
    "simulation",
    "capture",
    "tach",
    "board",
];

fn sources(folder: &Path, found: &mut Vec<PathBuf>) {
    for entry in fs::read_dir(folder).unwrap() {
        let path = entry.unwrap().path();
        match path.is_dir() {
            true => sources(&path, found),
            false => found.push(path),
        }
    }
}

/// The files of the core, each with its path below `src` and its lines of code.
fn files() -> Vec<(String, Vec<String>)> {
    let root = Path::new(env!("CARGO_MANIFEST_DIR")).join("src");
    let mut found = Vec::new();
    sources(&root, &mut found);
    let read = |path: PathBuf| {
        let name = path.strip_prefix(&root).unwrap().to_str().unwrap().to_owned();
        let text = fs::read_to_string(&path).unwrap();
        // Tests stand at a file's end, and may use what they want.
        let code = text.split("#[cfg(test)]\nmod tests {").next().unwrap().to_owned();
        let lines = code.lines().filter(|line| !line.trim_start().starts_with("//"));
        (name, lines.map(ToOwned::to_owned).collect())
    };
    found.into_iter().map(read).filter(|(name, _)| !name.ends_with("tests.rs")).collect()
}

fn room(name: &str) -> &str {
    name.split('/').next().unwrap().trim_end_matches(".rs")
}

#[test]
fn a_room_uses_only_those_above_it() {
    let files = files();
    for (name, _) in files.iter().filter(|(name, _)| name != "lib.rs") {
        assert!(ROOMS.contains(&room(name)), "{name} stands in no room of the list");
    }
    for room in ROOMS {
        assert!(files.iter().any(|(name, _)| self::room(name) == *room), "there is no room {room}");
    }
    let place = |name: &str| ROOMS.iter().position(|room| *room == name);
    for (name, lines) in &files {
        let Some(own) = place(room(name)) else { continue };
        for line in lines {
            for used in line.split("crate::").skip(1) {
                let used: String =
                    used.chars().take_while(|letter| letter.is_ascii_lowercase() || *letter == '_').collect();
                let above = place(&used).is_none_or(|used| used <= own);
                assert!(above, "{name} uses {used}, which stands below it: {line}");
            }
        }
    }
}

#[test]
fn every_room_shows_how_it_is_used() {
    let root = Path::new(env!("CARGO_MANIFEST_DIR")).join("src");
    for room in ROOMS {
        let file = [root.join(format!("{room}/mod.rs")), root.join(format!("{room}.rs"))];
        let text = fs::read_to_string(file.iter().find(|file| file.exists()).unwrap()).unwrap();
        let about = text.lines().take_while(|line| line.starts_with("//!"));
        assert!(about.filter(|line| line.starts_with("//! ```")).count() >= 2, "{room} has no example");
    }
}

#[test]
fn no_room_knows_an_option_or_a_command() {
    let commands = [
        "parts", "clock", "derive", "decode", "survey", "scale", "budget", "tach", "wave", "measure", "demo",
    ];
    for (name, lines) in files() {
        for line in lines {
            let option = line
                .match_indices("--")
                .any(|(at, _)| line[at + 2..].starts_with(|letter: char| letter.is_ascii_lowercase()));
            let command = line.contains("kairotic ")
                || commands.iter().any(|command| {
                    line.contains(&format!("`{command}`")) || line.contains(&format!("`{command} "))
                });
            assert!(!option && !command, "{name}: {line}");
        }
    }
}

/// The type that a line declares, by its name.
fn declared(line: &str) -> Option<&str> {
    let mut words = line.split_whitespace().skip_while(|word| word.starts_with("pub"));
    let rest =
        ["struct", "enum", "trait", "type", "union"].contains(&words.next()?).then(|| words.next())??;
    Some(rest.split(|letter: char| !letter.is_alphanumeric()).next().unwrap())
}

#[test]
fn no_two_types_have_one_name() {
    let crates = Path::new(env!("CARGO_MANIFEST_DIR")).parent().unwrap();
    let mut found = Vec::new();
    for entry in fs::read_dir(crates).unwrap() {
        sources(&entry.unwrap().path().join("src"), &mut found);
    }
    let mut known: BTreeMap<String, PathBuf> = BTreeMap::new();
    for path in found {
        // What is indented belongs to something else: an associated type, a test's own.
        for line in fs::read_to_string(&path).unwrap().lines().filter(|line| !line.starts_with(' ')) {
            // A crate's result goes by the standard library's name.
            let Some(name) = declared(line).filter(|name| *name != "Result") else { continue };
            if let Some(other) = known.insert(name.to_owned(), path.clone()) {
                panic!("{name} is declared in {} and in {}", other.display(), path.display());
            }
        }
    }
    assert!(known.contains_key("Quantity") && known.contains_key("PartLibrary"), "the types were not found");
}
