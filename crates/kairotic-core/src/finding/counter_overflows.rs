//! A counter overflows before the next pulse, or within a window.

use std::fmt;

use serde::Serialize;

use super::{Described, Remedy, Severity};
use crate::quantity::{Speed, Time};

/// A counter overflows before the next pulse, or within a window.
#[derive(Debug, Clone, PartialEq, Serialize)]
pub struct CounterOverflows {
    /// The counter's bits.
    pub bits: u32,
    /// When it overflows.
    pub overflow: Overflow,
}

/// When a counter overflows.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[serde(tag = "kind", rename_all = "snake_case")]
pub enum Overflow {
    /// Between two pulses, even at the counter's longest tick.
    BetweenPulses {
        /// The slowest speed that is wanted.
        speed: Speed,
        /// The slowest speed that the counter can tell.
        reach: Speed,
        /// Another timer of the part with more bits, where there is one, and how many.
        wider: Option<(String, u32)>,
    },
    /// Within a window.
    InWindow {
        /// The window's length.
        window: Time,
        /// The pulses that it can see.
        pulses: u64,
    },
}

impl Described for CounterOverflows {
    const NAME: &'static str = "counter-overflows";
    const ABOUT: &'static str = "A counter that measures a speed comes round before the next \
        pulse of the slowest speed, at its longest tick (an error), or within a window (a warning). *Remedy*: count \
        how often it comes round, take the wider counter that is named, or a shorter window.";

    fn severity(&self) -> Severity {
        match self.overflow {
            Overflow::BetweenPulses { .. } => Severity::Error,
            Overflow::InWindow { .. } => Severity::Warning,
        }
    }

    fn remedies(&self) -> Vec<Remedy> {
        match &self.overflow {
            Overflow::BetweenPulses { wider, .. } => {
                let wider = wider.clone().map(|(timer, bits)| Remedy::UseWiderTimer { timer, bits });
                std::iter::once(Remedy::CountOverflows).chain(wider).collect()
            }
            Overflow::InWindow { .. } => vec![Remedy::ShorterWindow],
        }
    }
}

impl fmt::Display for CounterOverflows {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        let bits = self.bits;
        match &self.overflow {
            Overflow::BetweenPulses { speed, reach, .. } => write!(
                f,
                "between two pulses at {} the counter's {bits} bits overflow, even at its longest tick: the slowest speed \
                 that it can tell is {}",
                speed.rounded(4),
                reach.rounded(4)
            ),
            Overflow::InWindow { window, pulses } => {
                write!(
                    f,
                    "a window of {} can see {pulses} pulses: more than {bits} bits hold",
                    window.rounded(4)
                )
            }
        }
    }
}
