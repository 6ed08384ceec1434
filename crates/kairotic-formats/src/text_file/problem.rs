//! What is wrong with a file, told by file, line and key.

use std::fmt;
use std::ops::Range;

/// What is wrong with a file.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
pub struct FileError {
    /// What is wrong, in the order of the files: the first of it.
    pub problems: Vec<Problem>,
    /// How much more is wrong.
    pub more: usize,
}

/// One thing wrong with a file.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Problem {
    /// The file's name as the user knows it.
    pub file: String,
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
impl fmt::Display for FileError {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        for (index, problem) in self.problems.iter().enumerate() {
            let Problem { file, line, column, key, message, excerpt } = problem;
            let lead = if index == 0 { "" } else { "\n" };
            let at = if key.is_empty() { String::new() } else { format!(" at {key}:") };
            write!(f, "{lead}{file}:{line}:{column}:{at} {message}")?;
            if !excerpt.is_empty() {
                write!(f, "\n    {excerpt}")?;
            }
        }
        if self.more > 0 {
            write!(f, "\nand {} more", self.more)?;
        }
        Ok(())
    }
}

impl Problem {
    /// A problem at a place of a text.
    pub(super) fn at(file: &str, text: &str, at: Range<usize>, key: String, message: String) -> Self {
        let before = text.get(..at.start).unwrap_or(text);
        let line_start = before.rfind('\n').map_or(0, |newline| newline + 1);
        let excerpt = text.get(line_start..).unwrap_or_default().lines().next().unwrap_or_default().trim();
        Self {
            file: file.to_owned(),
            line: before.matches('\n').count() + 1,
            column: before.get(line_start..).unwrap_or_default().chars().count() + 1,
            key,
            message,
            excerpt: excerpt.chars().take(90).collect(),
        }
    }
}

impl From<Problem> for FileError {
    fn from(problem: Problem) -> Self {
        Self { problems: vec![problem], more: 0 }
    }
}
