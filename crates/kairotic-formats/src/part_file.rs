//! A family file in TOML: read, validated, and complained about by line and key.

use std::fmt;
use std::ops::Range;

use kairotic_core::part::Part;
use kairotic_core::part::check::{self, Path, Step};
use kairotic_core::waveform::agree;
use toml::Spanned;
use toml::de::{DeTable, DeValue};

/// Everything wrong with a family file.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
pub struct PartFileError {
    /// The file's name as the user knows it.
    pub file: String,
    /// What is wrong, in the order of the file.
    pub problems: Vec<Problem>,
}

/// One thing wrong with a family file.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Problem {
    /// Line, counted from 1.
    pub line: usize,
    /// Column in characters, counted from 1.
    pub column: usize,
    /// The way to the value, for example `blocks.slice.modes[0].top`; empty where the text is no TOML at all.
    pub key: String,
    /// What is wrong and what would be right.
    pub message: String,
    /// The line of text that it stands in.
    pub excerpt: String,
}

/// `file:line:column`, the key, the complaint, and the line itself, once for each problem.
impl fmt::Display for PartFileError {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        for (index, problem) in self.problems.iter().enumerate() {
            let Problem { line, column, key, message, excerpt } = problem;
            let lead = if index == 0 { "" } else { "\n" };
            let at = if key.is_empty() { String::new() } else { format!(" at {key}:") };
            write!(f, "{lead}{}:{line}:{column}:{at} {message}", self.file)?;
            if !excerpt.is_empty() {
                write!(f, "\n    {excerpt}")?;
            }
        }
        Ok(())
    }
}

/// Reads a family file from its bytes. `file` is its name for messages.
///
/// # Errors
/// [`PartFileError`] with every problem found: the first that keeps the text from being read at all, else all that
/// [`check`] finds, else every mode whose law and behaviour [disagree](agree).
pub fn read(file: &str, bytes: &[u8]) -> Result<Part, PartFileError> {
    let fail = |problems| Err(PartFileError { file: file.to_owned(), problems });
    let text = match std::str::from_utf8(bytes) {
        Ok(text) => text,
        Err(error) => {
            let sound = bytes.get(..error.valid_up_to()).unwrap_or_default();
            let sound = String::from_utf8_lossy(sound);
            let message = "expected text in UTF-8, found other bytes".to_owned();
            return fail(vec![problem(&sound, sound.len()..sound.len(), String::new(), message)]);
        }
    };
    let part: Part = match toml::from_str(text) {
        Ok(part) => part,
        Err(error) => {
            let at = error.span().unwrap_or(0..0);
            let key = DeTable::parse(text).map(|table| key_at(&table, at.start)).unwrap_or_default();
            let message = error.message().replace('\n', " ");
            return fail(vec![problem(text, at, key, message)]);
        }
    };
    let mut found = check::problems(&part);
    if found.is_empty() {
        found = agree::problems(&part);
    }
    if found.is_empty() {
        return Ok(part);
    }
    let table = DeTable::parse(text).ok();
    let mut problems: Vec<Problem> = found
        .into_iter()
        .map(|check::Problem { path, message }| {
            let at = table.as_ref().map_or(0..0, |table| span_of(table, &path));
            problem(text, at, path.to_string(), message)
        })
        .collect();
    problems.sort_by_key(|problem| (problem.line, problem.column));
    fail(problems)
}

fn problem(text: &str, at: Range<usize>, key: String, message: String) -> Problem {
    let before = text.get(..at.start).unwrap_or(text);
    let line_start = before.rfind('\n').map_or(0, |newline| newline + 1);
    let excerpt: String =
        text.get(line_start..).unwrap_or_default().lines().next().unwrap_or_default().trim().to_owned();
    Problem {
        line: before.matches('\n').count() + 1,
        column: before.get(line_start..).unwrap_or_default().chars().count() + 1,
        key,
        message,
        excerpt: excerpt.chars().take(90).collect(),
    }
}

/// Where the value at a path stands, or the last table on the way to it.
fn span_of(root: &Spanned<DeTable<'_>>, path: &Path) -> Range<usize> {
    // The whole file is no place to point at.
    let mut at = 0..0;
    let mut table = Some(root.get_ref());
    let mut array: Option<&[Spanned<DeValue<'_>>]> = None;
    for step in &path.0 {
        let next = match step {
            Step::Key(key) => {
                table.and_then(|table| table.get_key_value(key.as_str())).map(|(key, value)| {
                    // A table has no text of its own to point at but its key.
                    (if value.get_ref().is_table() { key.span() } else { value.span() }, value.get_ref())
                })
            }
            Step::Index(index) => {
                array.and_then(|array| array.get(*index)).map(|value| (value.span(), value.get_ref()))
            }
        };
        let Some((span, value)) = next else { break };
        at = span;
        table = value.as_table();
        array = value.as_array().map(|array| array.iter().as_slice());
    }
    at
}

/// The way to the innermost value that holds a position.
fn key_at(root: &Spanned<DeTable<'_>>, position: usize) -> String {
    let mut path = Path::default();
    let mut inside = within_table(root.get_ref(), position, &path);
    while let Some((deeper, value)) = inside {
        path = deeper;
        inside = match value {
            DeValue::Table(table) => within_table(table, position, &path),
            DeValue::Array(array) => array
                .iter()
                .enumerate()
                .find(|(_, value)| holds(value, position))
                .map(|(index, value)| (path.index(index), value.get_ref())),
            _ => None,
        };
    }
    path.to_string()
}

fn within_table<'t, 'i>(
    table: &'t DeTable<'i>,
    position: usize,
    path: &Path,
) -> Option<(Path, &'t DeValue<'i>)> {
    table
        .iter()
        .find(|(key, value)| key.span().contains(&position) || holds(value, position))
        .map(|(key, value)| (path.key(key.get_ref().as_ref()), value.get_ref()))
}

/// Whether a value's text, or that of anything in it, holds a position.
fn holds(value: &Spanned<DeValue<'_>>, position: usize) -> bool {
    value.span().contains(&position)
        || match value.get_ref() {
            DeValue::Table(table) => within_table(table, position, &Path::default()).is_some(),
            DeValue::Array(array) => array.iter().any(|value| holds(value, position)),
            _ => false,
        }
}
