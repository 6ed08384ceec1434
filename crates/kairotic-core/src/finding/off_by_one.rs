//! What the two off-by-one findings have in common: a register that holds a count where one less is written.

use super::{Finding, Severity};
use crate::quantity::Frequency;

/// One register that is one too large, perhaps together with another.
#[derive(Debug, Clone)]
pub struct Correction<'w> {
    /// How bad it is.
    pub severity: Severity,
    /// The register or field.
    pub field: &'w str,
    /// What it holds; at least 1.
    pub written: u64,
    /// The other register's correction, where both are needed.
    pub also: Option<String>,
    /// The frequency as it is.
    pub now: Frequency,
    /// The frequency with the correction.
    pub corrected: Frequency,
}

impl Correction<'_> {
    /// What to write instead, as an assignment.
    pub fn assignment(&self) -> String {
        format!("{}={}", self.field, self.written.saturating_sub(1))
    }

    pub(super) fn finding(&self, name: &'static str, makes: &str) -> Finding {
        let together = self.also.as_ref().map(|also| format!(" and {also}")).unwrap_or_default();
        Finding {
            name,
            severity: self.severity,
            message: format!(
                "{}={} {makes}, and the frequency is {}; with {}{together} it is {}",
                self.field,
                self.written,
                self.now.rounded(6),
                self.assignment(),
                self.corrected.rounded(6)
            ),
            remedy: format!("write {}, one less than the count", self.assignment()),
        }
    }
}
