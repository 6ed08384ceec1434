//! The setting has fewer steps than the load needs.

use super::{Finding, Severity};

/// The finding's name.
pub const NAME: &str = "too-few-steps";

/// `steps` are there, `needed` were asked for.
pub fn new(steps: u64, needed: u64) -> Finding {
    let bits = |steps: u64| crate::quantity::show::significant((steps as f64).log2(), 3);
    Finding {
        name: NAME,
        severity: Severity::Error,
        message: format!(
            "{steps} steps ({} bit) are fewer than the {needed} ({} bit) that were asked for",
            bits(steps),
            bits(needed)
        ),
        remedy: "ask for a lower frequency or a wider window, or give a faster clock".to_owned(),
    }
}
