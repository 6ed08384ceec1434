//! From a load's keys to the load: each kind says which keys it has, and reads them.

use std::collections::BTreeMap;

use kairotic_core::Error;
use kairotic_core::load::{KINDS, KeyValues, Keys, Kind, KindEntry, Load, LoadKey};
use kairotic_core::part::check::Path;

use super::Problems;
use super::given::{Count, FromText, Raw, complaint};
use super::raw::RawLoad;

/// The keys that every load has.
pub(super) const COMMON: [(&str, &str); 3] = [
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
pub(super) fn keys() -> impl Iterator<Item = (&'static KindEntry, &'static LoadKey)> {
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
