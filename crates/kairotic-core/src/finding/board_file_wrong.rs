//! Something in a board file is wrong.

use std::fmt;

use serde::Serialize;

use super::{Described, Remedy, Severity};

/// Something in a board file is wrong.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
pub struct BoardFileWrong {
    /// What was expected and what came.
    pub problem: String,
}

impl Described for BoardFileWrong {
    const NAME: &'static str = "board-file-wrong";
    const ABOUT: &'static str = "A board file has a key or a value that is none, that is missing, or that does not go \
        with the others. Nothing else is looked at until it is right. *Remedy*: docs/board-files.md describes each key.";

    fn severity(&self) -> Severity {
        Severity::Error
    }

    fn remedies(&self) -> Vec<Remedy> {
        vec![Remedy::CorrectBoardFile]
    }
}

impl fmt::Display for BoardFileWrong {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str(&self.problem)
    }
}
