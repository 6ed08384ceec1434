//! What a signal refers to in the rest of the file, and where it comes out.

use kairotic_core::board::{Placed, TimerOutput};
use kairotic_core::load::Load;
use kairotic_core::part::check::Path;

use super::Problems;
use super::loads::NamedStepper;

/// What the rest of the file says that a signal refers to.
#[derive(Debug, Clone, Copy)]
pub(super) struct Known<'f> {
    /// The part's name.
    pub(super) part: Option<&'f str>,
    /// The loads.
    pub(super) loads: &'f [Load],
    /// The steppers among the loads.
    pub(super) steppers: &'f [NamedStepper],
    /// How many signals that hold a level were read before.
    pub(super) before: usize,
    /// The names of loads that are wrong: nothing more is said of what hangs on them.
    pub(super) wrong: &'f [String],
}

/// Where it comes out; `None` where that is wrong.
pub(super) fn place(
    problems: &mut Problems,
    path: &Path,
    part: Option<&str>,
    [on, pin]: [Option<Result<String, String>>; 2],
) -> Option<Placed> {
    let mut text = |key: &str, given: Option<Result<String, String>>| {
        given.and_then(|given| given.map_err(|message| problems.report(&path.key(key), message)).ok())
    };
    let (on, pin) = (text("on", on), text("pin", pin));
    let Some(on) = on else { return Some(Placed { on: None, pin }) };
    let lower = on.to_lowercase();
    let mut steps: Vec<&str> = lower.split('/').collect();
    // The part may stand before the timer, as on the command line.
    if steps.len() > 1 && steps.first().copied() == part {
        steps.remove(0);
    }
    let (timer, channel) = match steps.as_slice() {
        [timer] if !timer.is_empty() => (*timer, None),
        [timer, channel] if !timer.is_empty() && !channel.is_empty() => (*timer, Some((*channel).to_owned())),
        _ => {
            let text = format!("expected TIMER or TIMER/CHANNEL, as in tim3/1, found `{on}`");
            problems.report(&path.key("on"), text);
            return None;
        }
    };
    Some(Placed { on: Some(TimerOutput { timer: timer.to_owned(), channel }), pin })
}
