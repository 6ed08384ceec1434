//! A step between reset and the moving pin that the catalogue does not know.

use std::fmt;

use serde::Serialize;

use super::{Described, Remedy, Severity};

/// A step between reset and the moving pin that the catalogue does not know.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
pub struct ProgramIncomplete {
    /// The function that does it.
    pub function: String,
    /// What it has to do.
    pub task: String,
}

impl Described for ProgramIncomplete {
    const NAME: &'static str = "program-incomplete";
    const ABOUT: &'static str = "The catalogue does not know a step between reset and the moving pin: a clock, a gate, or \
        what connects a pin. Code that is made from the board calls a function for it, and does not compile until there is \
        one. *Remedy*: write that function, or state the step in a family file of your own.";

    fn severity(&self) -> Severity {
        Severity::Note
    }

    fn remedies(&self) -> Vec<Remedy> {
        vec![Remedy::SupplyFunction(self.function.clone())]
    }
}

impl fmt::Display for ProgramIncomplete {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str(&self.task)
    }
}
