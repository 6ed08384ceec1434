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
