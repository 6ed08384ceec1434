//! Timers whose channels can get their new compare values together.

use kairotic_core::program::{CompareUpdate, HeldUpdate, held_update};

use super::identifiers::identifier;
use super::{EmitError, EmitRequest};

/// A timer of which several signals are set, and what keeps their new compare values waiting.
#[derive(Debug, Clone, PartialEq, Eq)]
pub(super) struct EmittedHold {
    /// What the timer is called in the code.
    pub(super) timer: String,
    /// The signals that wait, as the board names them.
    pub(super) signals: Vec<String>,
    /// What is written.
    pub(super) held: HeldUpdate,
}

/// The timers whose channels can get their new compare values together; `updates` are those of each signal.
pub(super) fn holds(
    request: EmitRequest<'_>,
    updates: &[Option<CompareUpdate>],
) -> Result<Vec<EmittedHold>, EmitError> {
    let mut holds = Vec::new();
    for (place, timer) in request.plan.timers.iter().enumerate() {
        let of_timer = request.plan.signals.iter().zip(updates);
        let of_timer = of_timer.filter(|(signal, update)| signal.timer == place && update.is_some());
        let signals: Vec<String> = of_timer.map(|(signal, _)| signal.name.clone()).collect();
        if signals.len() < 2 {
            continue;
        }
        if let Some(held) = held_update(request.part, timer)? {
            holds.push(EmittedHold { timer: identifier(&timer.timer.name)?, signals, held });
        }
    }
    Ok(holds)
}

impl EmittedHold {
    /// What the functions that begin and end it do, in words; `end` is the name of the second.
    pub(super) fn told(&self, end: &str) -> [String; 2] {
        let (last, others) = self
            .signals
            .split_last()
            .map_or(("", String::new()), |(last, others)| (last.as_str(), others.join(", ")));
        [
            format!("New compare values of {others} and {last} wait from here on, until {end}()."),
            "They then take effect together, at the next update.".to_owned(),
        ]
    }
}
