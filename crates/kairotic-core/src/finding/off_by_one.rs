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

/// A register that a measurement shows to hold one more, or one less, than was planned.
#[derive(Debug, Clone, Copy)]
pub(super) struct Seen<'w> {
    pub(super) field: &'w str,
    pub(super) written: u64,
    pub(super) by: i64,
    pub(super) measured: Frequency,
    pub(super) planned: Frequency,
}

impl Seen<'_> {
    pub(super) fn finding(&self, name: &'static str) -> Finding {
        let holds = self.written.saturating_add_signed(self.by);
        let Self { field, written, measured, planned, .. } = self;
        Finding {
            name,
            severity: Severity::Error,
            message: format!(
                "the pin has {} where {} was planned, as with {field}={holds} instead of {field}={written}",
                measured.rounded(6),
                planned.rounded(6)
            ),
            remedy: format!("write {field}={written}"),
        }
    }
}
