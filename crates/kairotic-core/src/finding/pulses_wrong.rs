//! Pulses are missing, too many, or out of step: what the registers do not do, software does.

use super::{Finding, Severity};

/// The finding's name.
pub const NAME: &str = "pulses-wrong";

/// So many cycles of a signal have pulses missing, have one too many, or have a length of their own.
pub fn new(signal: &str, missing: u64, doubled: u64, irregular: u64) -> Finding {
    let words = [
        (missing, "with pulses missing"),
        (doubled, "with a pulse too many"),
        (irregular, "of another length"),
    ];
    let told = words.iter().filter(|(count, _)| *count > 0);
    let told: Vec<String> = told.map(|(count, words)| format!("{count} {words}")).collect();
    Finding {
        name: NAME,
        severity: Severity::Error,
        message: format!("{signal} has cycles that are none of the timer's: {}", told.join(", ")),
        remedy: "look for firmware that stops the timer or writes its registers in the middle of a period"
            .to_owned(),
    }
}
