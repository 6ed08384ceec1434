//! The counters that a timer can work with, tried one after the other.

use super::Part;
use super::timer::Timer;
use crate::error::Result;

/// The timer with the named base counter, or with each that it can choose, the default first.
pub(crate) fn views(part: &Part, timer: &str, base: Option<&str>) -> Result<Vec<Timer>> {
    match base {
        Some(_) => Ok(vec![part.timer(timer, base)?]),
        None => part.views(part.instance(timer)?),
    }
}

/// The first success of `attempt` over the views of a timer, or what was wrong with the default one.
pub(crate) fn first_that_works<T>(
    part: &Part,
    timer: &str,
    base: Option<&str>,
    attempt: impl Fn(Timer) -> Result<T>,
) -> Result<T> {
    // The default comes alone first: mostly it works, and the others need not be made.
    let complaint = match attempt(part.timer(timer, base)?) {
        Err(complaint) => complaint,
        success => return success,
    };
    let others = views(part, timer, base)?.into_iter().skip(1);
    others.map(attempt).find(Result::is_ok).unwrap_or(Err(complaint))
}
