//! Something that is required is not there.

use std::fmt;

use serde::Serialize;

use super::{Described, Remedy, Severity};
use crate::quantity::Figure;

/// Something that is required is not there.
#[derive(Debug, Clone, PartialEq, Serialize)]
pub struct RequirementMissed {
    /// What is required, in words.
    pub requirement: &'static str,
    /// How much is allowed, or how many steps are wanted, in words.
    pub limit: String,
    /// What there is at worst; `None` where nothing is stated.
    pub found: Option<Figure>,
    /// Whether it is kept most of the time.
    pub likely_kept: bool,
}

impl Described for RequirementMissed {
    const NAME: &'static str = "requirement-missed";
    const ABOUT: &'static str = "What a signal's `needs` ask for is not there, with everything counted that is known of \
        clock, registers, load and surroundings. Marginal is what is kept in nineteen cases of twenty, but not in the worst. \
        *Remedy*: the budget of the signal says what takes most of it.";

    fn severity(&self) -> Severity {
        Severity::Error
    }

    fn remedies(&self) -> Vec<Remedy> {
        vec![Remedy::LookAtBudget]
    }
}

impl fmt::Display for RequirementMissed {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        let Self { requirement, limit, found, likely_kept } = self;
        match found {
            Some(found) => {
                write!(f, "{requirement} {limit} is required, and there is {} at worst", found.rounded(4))?
            }
            None => write!(f, "{requirement} {limit} is required, and nothing is stated of it")?,
        }
        if *likely_kept { f.write_str("; it is likely kept") } else { Ok(()) }
    }
}
