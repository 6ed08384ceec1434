//! From a load's keys to the load: each kind says which keys it has, and reads them.

use std::collections::BTreeMap;

use kairotic_core::Error;
use kairotic_core::load::{KeyValues, Keys, Load, LoadKey, Stepper};
use kairotic_core::part::check::Path;

use super::Problems;
use super::given::{Count, FromText, Raw, complaint};
use super::raw::RawLoad;
use super::words::LoadWord;

/// The keys that every load has.
pub(super) const COMMON: [(&str, &str); 3] = [
    ("name", "Its name."),
    ("kind", ""),
    ("tolerance", "How far its level may be off for a given signal, as a share of its range."),
];

/// What a load's table says.
pub(super) enum MadeLoad {
    /// Something that a signal holds at a level.
    Load(Load),
    /// Something that is moved by steps.
    Stepper(NamedStepper),
}

/// A stepper with its name.
#[derive(Debug)]
pub(super) struct NamedStepper {
    pub(super) name: String,
    pub(super) stepper: Stepper,
}

/// The load, or `None` where something that it needs is missing or wrong; its name all the same.
pub(super) fn load(
    problems: &mut Problems,
    path: &Path,
    mut raw: RawLoad,
) -> (Option<String>, Option<MadeLoad>) {
    let name = problems.need(path, "name", raw.name.take()).map(|words| words.0);
    let has_tolerance = raw.tolerance.is_some();
    let tolerance = problems.positive_or_zero(path, "tolerance", raw.tolerance.take());
    let Some(word) = kind(problems, path, &mut raw) else { return (name, None) };
    let mut values = LoadValues { problems, path, given: raw.keys };
    let made = match word {
        LoadWord::Levelled(entry) => (entry.read)(&mut Keys(&mut values))
            .zip(name.clone())
            .map(|(kind, name)| MadeLoad::Load(Load { name, kind, tolerance })),
        LoadWord::Stepper => {
            if has_tolerance {
                values.report(Some("tolerance"), "a stepper has no level that could be off".to_owned());
            }
            let stepper = Stepper::read(&mut values).zip(name.clone());
            stepper.map(|(stepper, name)| MadeLoad::Stepper(NamedStepper { name, stepper }))
        }
    };
    (name, made)
}

/// What it is; keys that it does not have are reported.
fn kind(problems: &mut Problems, path: &Path, raw: &mut RawLoad) -> Option<LoadWord> {
    let known = || COMMON.iter().map(|(key, _)| *key).chain(keys().map(|(_, key)| key.name));
    for key in raw.keys.keys().filter(|key| !known().any(|known| known == *key)) {
        let error = Error::unknown("key", key, "a board file at this place", known());
        problems.report(&path.key(key), complaint(error));
    }
    let word = problems.need(path, "kind", raw.kind.take())?;
    let own = |key: &str| word.keys().iter().any(|known| known.name == key);
    for key in raw.keys.keys().filter(|key| known().any(|known| known == *key) && !own(key)) {
        let names: Vec<&str> = word.keys().iter().map(|key| key.name).collect();
        let has = if names.is_empty() { "no keys of its own".to_owned() } else { names.join(", ") };
        problems.report(&path.key(key), format!("a {} has no `{key}`; it has {has}", word.word()));
    }
    Some(word)
}

/// Every key of every kind, with the word for the kind.
pub(super) fn keys() -> impl Iterator<Item = (&'static str, &'static LoadKey)> {
    LoadWord::all().flat_map(|kind| kind.keys().iter().map(move |key| (kind.word(), key)))
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
