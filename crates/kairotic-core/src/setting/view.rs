//! The counters that a timer can work with, tried one after the other.

use crate::error::Result;
use crate::part::{Part, Timer};

/// The timer with the named base counter, or with each that it can choose, the default first.
pub(super) fn views(part: &Part, timer: &str, base: Option<&str>) -> Result<Vec<Timer>> {
    match base {
        Some(_) => Ok(vec![part.timer(timer, base)?]),
        None => part.views(part.instance(timer)?),
    }
}

/// The first success of `attempt` over the views of a timer, or what was wrong with the default one.
pub(super) fn first_that_works<T>(
    part: &Part,
    timer: &str,
    base: Option<&str>,
    attempt: impl Fn(&Timer) -> Result<T>,
) -> Result<T> {
    let mut complaint = None;
    for timer in &views(part, timer, base)? {
        match attempt(timer) {
            Err(error) => complaint = complaint.or(Some(error)),
            success => return success,
        }
    }
    match complaint {
        Some(error) => Err(error),
        // A timer has at least one view.
        None => attempt(&part.timer(timer, base)?),
    }
}
