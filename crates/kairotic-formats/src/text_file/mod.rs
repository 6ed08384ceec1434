//! A file in TOML that a person writes: read as text, and complained about by line and key.

mod place;
mod problem;

use kairotic_core::limits;
use kairotic_core::part::check::Path;
use serde::de::DeserializeOwned;
use toml::de::DeTable;

use self::place::{key_at, span_of};
pub use self::problem::{FileError, Problem};

/// A file's name for messages, and its bytes.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Source {
    /// The name.
    pub file: String,
    /// The bytes.
    pub bytes: Vec<u8>,
}

/// A place in a text.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct TextPlace {
    /// Line, counted from 1.
    pub line: usize,
    /// Column in characters, counted from 1.
    pub column: usize,
}

/// Where the value at a path stands in a file, or the last one on the way to it that is there.
pub fn place_of(source: &Source, path: &Path) -> TextPlace {
    let problem = Text::of(source).map_or_else(|problem| problem, |text| text.problem(path, String::new()));
    TextPlace { line: problem.line, column: problem.column }
}

/// A file that has been read as text.
pub(crate) struct Text<'s> {
    file: &'s str,
    text: &'s str,
}

impl<'s> Text<'s> {
    pub(crate) fn of(source: &'s Source) -> Result<Self, Problem> {
        let Source { file, bytes } = source;
        match std::str::from_utf8(bytes) {
            Ok(text) => Ok(Self { file, text }),
            Err(error) => {
                let sound = String::from_utf8_lossy(bytes.get(..error.valid_up_to()).unwrap_or_default());
                let end = sound.len()..sound.len();
                let message = "expected text in UTF-8, found other bytes".to_owned();
                Err(Problem::at(file, &sound, end, String::new(), message))
            }
        }
    }

    /// The text as a value; the first thing that keeps it from being one.
    pub(crate) fn parse<T: DeserializeOwned>(&self) -> Result<T, Problem> {
        toml::from_str(self.text).map_err(|error| {
            let at = error.span().unwrap_or(0..0);
            let key = DeTable::parse(self.text).map(|table| key_at(&table, at.start)).unwrap_or_default();
            Problem::at(self.file, self.text, at, key, error.message().replace('\n', " "))
        })
    }

    /// A problem with the value at a path.
    pub(crate) fn problem(&self, path: &Path, message: String) -> Problem {
        let at = DeTable::parse(self.text).map_or(0..0, |table| span_of(&table, path));
        Problem::at(self.file, self.text, at, path.to_string(), message)
    }

    /// Problems with values at their paths, in the order of the text; the first are told, the rest counted.
    pub(crate) fn problems(&self, found: Vec<(Path, String)>) -> FileError {
        let table = DeTable::parse(self.text).ok();
        let place = |path: &Path| table.as_ref().map_or(0..0, |table| span_of(table, path));
        let mut placed: Vec<_> =
            found.into_iter().map(|(path, message)| (place(&path), path, message)).collect();
        placed.sort_by_key(|(at, ..)| at.start);
        let told = limits::COMPLAINTS.most as usize;
        let more = placed.len().saturating_sub(told);
        let problem = |(at, path, message): (_, Path, _)| {
            Problem::at(self.file, self.text, at, path.to_string(), message)
        };
        FileError { problems: placed.into_iter().take(told).map(problem).collect(), more }
    }
}
