//! 0 % cannot be reached: the lowest compare value still gives a pulse.

use std::fmt;

use serde::Serialize;

use super::{Described, Remedy, Severity, channel};
use crate::quantity::{Duty, Time};

/// 0 % cannot be reached: the lowest compare value still gives a pulse.
#[derive(Debug, Clone, PartialEq, Serialize)]
pub struct SpikeAtZero {
    /// How bad it is here.
    pub severity: Severity,
    /// The channel; `None` where a span was asked for and no signal.
    pub channel: Option<String>,
    /// Its lowest duty.
    pub lowest: Duty,
    /// The spike in every period.
    pub spike: Time,
    /// What to do.
    pub remedies: Vec<Remedy>,
}

impl Described for SpikeAtZero {
    const NAME: &'static str = "spike-at-zero";
    const ABOUT: &'static str = "0 % is asked for and cannot be made: the lowest compare \
        value still gives a short pulse in every period. A note where nobody asked for it. *Remedy*: a mode that \
        reaches 0 %, or a pin that is taken from the timer.";

    fn severity(&self) -> Severity {
        self.severity
    }

    fn remedies(&self) -> Vec<Remedy> {
        self.remedies.clone()
    }
}

impl fmt::Display for SpikeAtZero {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(
            f,
            "{} cannot make 0 %: its lowest duty is {}, a spike of {} in every period",
            channel(self.channel.as_deref()),
            self.lowest.rounded(4),
            self.spike.rounded(4)
        )
    }
}
