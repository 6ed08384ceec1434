//! A step is longer than the load's requirement.

use super::{Finding, Severity};

/// The finding's name.
pub const NAME: &str = "few-steps-in-span";

/// Inside the span of `load` there are `steps` steps of `step`; for steps of `wanted` it takes `needed`. `elsewhere` makes them.
pub fn new(
    load: &str,
    steps: u64,
    step: &str,
    needed: u64,
    wanted: &str,
    elsewhere: Option<&str>,
) -> Finding {
    let remedy = match elsewhere {
        Some(place) => place.to_owned(),
        None => "a faster clock, a finer timer, or a lower frequency".to_owned(),
    };
    Finding {
        name: NAME,
        severity: Severity::Error,
        message: format!(
            "inside the span of {load} there are {steps} steps of {step}: {} too few for steps of {wanted}, which take \
             {needed}",
            needed.saturating_sub(steps)
        ),
        remedy,
    }
}
