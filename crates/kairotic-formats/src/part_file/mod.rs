//! A family file in TOML, with the block files that it draws on: read, validated, and complained about by line and key.

mod place;
mod problem;

use kairotic_core::part::check::{self, Path, Step};
use kairotic_core::part::{BlockFile, Part};
use kairotic_core::waveform::agree;
use serde::de::DeserializeOwned;
use toml::de::DeTable;

use self::place::{key_at, span_of};
pub use self::problem::{PartFileError, Problem};

/// A file's name for messages, and its bytes.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Source {
    /// The name.
    pub file: String,
    /// The bytes.
    pub bytes: Vec<u8>,
}

/// A file that has been read as text.
struct Text<'s> {
    file: &'s str,
    text: &'s str,
}

/// Reads a family file. `block_file` finds a block file by the name that `blocks_from` gives it.
///
/// # Errors
/// [`PartFileError`] with every problem found: the first that keeps a text from being read at all, else all that
/// [`check`] finds, else every mode whose law and behaviour [disagree](agree).
pub fn read(source: &Source, block_file: impl Fn(&str) -> Option<Source>) -> Result<Part, PartFileError> {
    let family = Text::of(source)?;
    let mut part: Part = family.parse()?;
    let mut sources = Vec::new();
    for (index, name) in part.blocks_from.iter().enumerate() {
        let found = block_file(name).ok_or_else(|| {
            let path = Path::default().key("blocks_from").index(index);
            family.problem(&path, format!("there is no block file `{name}`"))
        })?;
        sources.push(found);
    }
    let mut texts = vec![family];
    let mut origins: Vec<(String, usize)> = Vec::new();
    for source in &sources {
        let text = Text::of(source)?;
        let blocks: BlockFile = text.parse()?;
        origins.extend(blocks.blocks.keys().map(|name| (name.clone(), texts.len())));
        part.draw_on(blocks).map_err(|clash| text.problem(&clash.path, clash.message))?;
        texts.push(text);
    }
    part.drop_unused_blocks(&origins.iter().map(|(name, _)| name.as_str()).collect::<Vec<_>>());
    let mut found = check::problems(&part);
    if found.is_empty() {
        found = agree::problems(&part);
    }
    if found.is_empty() {
        return Ok(part);
    }
    let problems = found.into_iter().map(|check::Problem { path, message }| {
        // A block that was drawn on is wrong in its own file.
        let origin = match path.0.as_slice() {
            [Step::Key(first), Step::Key(block), ..] if first == "blocks" => {
                origins.iter().find(|(name, _)| name == block).map_or(0, |(_, origin)| *origin)
            }
            _ => 0,
        };
        (origin, path, message)
    });
    let mut problems: Vec<(usize, Problem)> = problems
        .filter_map(|(origin, path, message)| Some((origin, texts.get(origin)?.problem(&path, message))))
        .collect();
    problems.sort_by_key(|(origin, problem)| (*origin, problem.line, problem.column));
    Err(PartFileError { problems: problems.into_iter().map(|(_, problem)| problem).collect() })
}

impl<'s> Text<'s> {
    fn of(source: &'s Source) -> Result<Self, Problem> {
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

    fn parse<T: DeserializeOwned>(&self) -> Result<T, Problem> {
        toml::from_str(self.text).map_err(|error| {
            let at = error.span().unwrap_or(0..0);
            let key = DeTable::parse(self.text).map(|table| key_at(&table, at.start)).unwrap_or_default();
            Problem::at(self.file, self.text, at, key, error.message().replace('\n', " "))
        })
    }

    /// A problem with the value at a path.
    fn problem(&self, path: &Path, message: String) -> Problem {
        let at = DeTable::parse(self.text).map_or(0..0, |table| span_of(&table, path));
        Problem::at(self.file, self.text, at, path.to_string(), message)
    }
}
