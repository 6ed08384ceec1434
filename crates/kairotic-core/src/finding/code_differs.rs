//! Code that was made from a board is not what would be made now.

use std::fmt;

use serde::Serialize;

use super::{Described, Remedy, Severity};

/// Code that was made from a board is not what would be made now.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
pub struct CodeDiffers {
    /// The file.
    pub file: String,
    /// Why.
    pub change: CodeChange,
    /// What of the board the differing lines come from, where that is not all of it.
    pub from: Vec<String>,
}

/// Why code is not what would be made.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
#[serde(rename_all = "snake_case")]
pub enum CodeChange {
    /// The board file is another one now.
    Plan,
    /// Somebody changed the code.
    Hand,
    /// Both.
    PlanAndHand,
    /// Neither: another version of the program, or another description of the part.
    Program,
    /// The board file is another one, and the code the same.
    PlanOnly,
    /// It is not there.
    Missing,
}

impl Described for CodeDiffers {
    const NAME: &'static str = "code-differs";
    const ABOUT: &'static str = "Code that was made from a board file is not what would be made from it now. Two digests \
        in the code tell why: the board file is another one, or somebody changed the code, which the next making would \
        undo. That only the board file's text changed, and nothing in the code, is a note. *Remedy*: make the code again, \
        or take the change by hand into the board file first.";

    fn severity(&self) -> Severity {
        match self.change {
            CodeChange::PlanOnly => Severity::Note,
            _ => Severity::Error,
        }
    }

    fn remedies(&self) -> Vec<Remedy> {
        match self.change {
            CodeChange::Hand | CodeChange::PlanAndHand => vec![Remedy::TakeIntoBoard, Remedy::MakeCodeAgain],
            CodeChange::Missing => vec![Remedy::MakeCode],
            _ => vec![Remedy::MakeCodeAgain],
        }
    }
}

impl fmt::Display for CodeDiffers {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        let file = &self.file;
        match self.change {
            CodeChange::Plan => write!(f, "{file}: plan changed since it was made")?,
            CodeChange::Hand => write!(f, "{file}: changed by hand since it was made")?,
            CodeChange::PlanAndHand => write!(f, "{file}: plan changed, and the code was changed by hand")?,
            CodeChange::Program => write!(f, "{file}: this version makes it another way")?,
            CodeChange::PlanOnly => write!(f, "{file}: the board file changed, and nothing in the code")?,
            CodeChange::Missing => write!(f, "{file} is missing")?,
        }
        match self.from.as_slice() {
            [] => Ok(()),
            from => write!(f, "; the lines that differ come from {}", from.join(", ")),
        }
    }
}
