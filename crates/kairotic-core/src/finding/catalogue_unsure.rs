//! The result depends on a fact that the catalogue marks as unsure.

use super::{Finding, Severity};
use crate::part::Fact;

/// The finding's name.
pub const NAME: &str = "catalogue-unsure";

/// A doubtful fact that bears on the result.
pub fn new(fact: &Fact, document: &str) -> Finding {
    Finding {
        name: NAME,
        severity: Severity::Note,
        message: format!("the catalogue is unsure here: {}", fact.says),
        remedy: format!("check it in {document}, or on the pin"),
    }
}

/// Nothing is said of what a timer can do with pulses that come in.
pub fn inputs(timer: &str) -> Finding {
    Finding {
        name: NAME,
        severity: Severity::Note,
        message: format!("the catalogue does not say whether {timer} can time pulses, or count them"),
        remedy: "look it up in the part's manual, and state it as `inputs` in the family file".to_owned(),
    }
}
