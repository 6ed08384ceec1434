//! From a load's keys to the load: each kind says which keys it has, and reads them.

use std::borrow::Cow;
use std::collections::BTreeMap;

use kairotic_core::Error;
use kairotic_core::load::{KINDS, KeyValues, Keys, Kind, KindEntry, Load, LoadKey};
use kairotic_core::part::check::Path;
use schemars::{JsonSchema, Schema, SchemaGenerator, json_schema};
use serde_json::json;

use super::Problems;
use super::given::{Count, FromText, Raw, complaint};
use super::raw::RawLoad;

/// The keys that every load has.
const COMMON: [(&str, &str); 3] = [
    ("name", "Its name."),
    ("kind", ""),
    ("tolerance", "How far its level may be off for a given signal, as a share of its range."),
];

/// The load, or `None` where something that it needs is missing or wrong; its name all the same.
pub(super) fn load(problems: &mut Problems, path: &Path, mut raw: RawLoad) -> (Option<String>, Option<Load>) {
    let name = problems.need(path, "name", raw.name.take()).map(|words| words.0);
    let tolerance = problems.positive_or_zero(path, "tolerance", raw.tolerance.take());
    let made = kind(problems, path, raw).zip(name.clone());
    (name, made.map(|(kind, name)| Load { name, kind, tolerance }))
}

/// What it is.
fn kind(problems: &mut Problems, path: &Path, raw: RawLoad) -> Option<Kind> {
    let known = || COMMON.iter().map(|(key, _)| *key).chain(keys().map(|(_, key)| key.name));
    for key in raw.keys.keys().filter(|key| !known().any(|known| known == *key)) {
        let error = Error::unknown("key", key, "a board file at this place", known());
        problems.report(&path.key(key), complaint(error));
    }
    let entry = problems.need(path, "kind", raw.kind)?;
    let own = |key: &str| entry.keys.iter().any(|known| known.name == key);
    for key in raw.keys.keys().filter(|key| known().any(|known| known == *key) && !own(key)) {
        let names: Vec<&str> = entry.keys.iter().map(|key| key.name).collect();
        let has = if names.is_empty() { "no keys of its own".to_owned() } else { names.join(", ") };
        problems.report(&path.key(key), format!("a {} has no `{key}`; it has {has}", entry.word));
    }
    (entry.read)(&mut Keys(&mut LoadValues { problems, path, given: raw.keys }))
}

/// Every key of every kind.
fn keys() -> impl Iterator<Item = (&'static KindEntry, &'static LoadKey)> {
    KINDS.iter().flat_map(|kind| kind.keys.iter().map(move |key| (*kind, key)))
}

/// The keys of one load in a file.
struct LoadValues<'p> {
    problems: &'p mut Problems,
    path: &'p Path,
    given: BTreeMap<String, Raw>,
}

/// A text that its kind reads.
struct LoadText(String);

impl FromText for LoadText {
    fn from_text(text: &str) -> Result<Self, String> {
        Ok(Self(text.to_owned()))
    }
}

impl LoadValues<'_> {
    fn read<T: FromText>(&mut self, key: &str) -> Option<T> {
        let read = self.given.get(key)?.clone().read();
        read.map_err(|message| self.problems.report(&self.path.key(key), message)).ok()
    }
}

impl KeyValues for LoadValues<'_> {
    fn text(&mut self, key: &str) -> Option<String> {
        self.read(key).map(|LoadText(text)| text)
    }

    fn whole(&mut self, key: &str) -> Option<u64> {
        self.read(key).map(|Count(count)| count)
    }

    fn has(&self, key: &str) -> bool {
        self.given.contains_key(key)
    }

    fn report(&mut self, key: Option<&str>, message: String) {
        let path = key.map_or_else(|| self.path.clone(), |key| self.path.key(key));
        self.problems.report(&path, message);
    }

    fn refuse(&mut self, key: &str, error: Error) {
        self.problems.report(&self.path.key(key), complaint(error));
    }
}

impl JsonSchema for RawLoad {
    fn schema_name() -> Cow<'static, str> {
        "load".into()
    }

    fn json_schema(_: &mut SchemaGenerator) -> Schema {
        let mut properties = serde_json::Map::new();
        let words: Vec<String> = KINDS.iter().map(|kind| format!("`{}`", kind.word)).collect();
        let kinds = match words.split_last() {
            Some((last, others)) => format!("{} or {last}.", others.join(", ")),
            None => String::new(),
        };
        for (key, about) in COMMON {
            let about = if about.is_empty() { kinds.as_str() } else { about };
            let property = json!({ "description": about, "type": ["string", "null"] });
            properties.insert(key.to_owned(), property);
        }
        for (_, LoadKey { name, whole, .. }) in keys() {
            let description = description(name);
            let property = match whole {
                true => json!({ "description": description, "type": ["integer", "null"], "minimum": 0 }),
                false => json!({ "description": description, "type": ["string", "null"] }),
            };
            properties.insert((*name).to_owned(), property);
        }
        json_schema!({
            "description": "Something that a signal drives. Which keys it has depends on its kind.",
            "properties": properties,
            "type": "object"
        })
    }
}

/// What a key means, kind by kind; kinds for which it means the same stand together.
fn description(name: &str) -> String {
    let mut meanings: Vec<(&str, String)> = Vec::new();
    for (kind, key) in keys().filter(|(_, key)| key.name == name) {
        let word = kind.word.replace('-', " ");
        match meanings.iter_mut().find(|(about, _)| *about == key.about) {
            Some((_, words)) => words.push_str(&format!(", {word}")),
            None => meanings.push((key.about, word)),
        }
    }
    let meanings = meanings.iter().map(|(about, words)| format!("{}: {about}.", capital(words)));
    meanings.collect::<Vec<_>>().join(" ")
}

fn capital(words: &str) -> String {
    let mut letters = words.chars();
    letters.next().map(|first| first.to_uppercase().chain(letters).collect()).unwrap_or_default()
}
