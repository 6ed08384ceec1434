//! 100 % cannot be reached: the compare value for it does not fit, or the mode has none.

use std::fmt;

use serde::Serialize;

use super::{Described, Remedy, Severity, channel};
use crate::quantity::{Duty, Time};

/// 100 % cannot be reached: the compare value for it does not fit, or the mode has none.
#[derive(Debug, Clone, PartialEq, Serialize)]
pub struct FullOnUnreachable {
    /// How bad it is here.
    pub severity: Severity,
    /// The channel; `None` where a span was asked for and no signal.
    pub channel: Option<String>,
    /// Its highest duty.
    pub highest: Duty,
    /// The gap in every period.
    pub gap: Time,
    /// What to do.
    pub remedies: Vec<Remedy>,
}

impl Described for FullOnUnreachable {
    const NAME: &'static str = "full-on-unreachable";
    const ABOUT: &'static str = "100 % is asked for and cannot be made: the compare value for \
        it does not fit the register at this top, or the mode has none. A note where nobody asked for it. *Remedy*: \
        a smaller top, another mode, or a pin that is taken from the timer.";

    fn severity(&self) -> Severity {
        self.severity
    }

    fn remedies(&self) -> Vec<Remedy> {
        self.remedies.clone()
    }
}

impl fmt::Display for FullOnUnreachable {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(
            f,
            "{} cannot make 100 %: its highest duty is {}, a gap of {} in every period",
            channel(self.channel.as_deref()),
            self.highest.rounded(6),
            self.gap.rounded(4)
        )
    }
}
