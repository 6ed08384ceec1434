//! What a timer can do with pulses that come in.

use serde::{Deserialize, Serialize};

use super::fact::Fact;

/// What a timer's counter can do with pulses that come in at a pin, as when it measures a speed.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct Inputs {
    /// Whether an edge can latch the counter, so that the time between two edges is told in ticks.
    pub capture: bool,
    /// Whether the counter can be clocked by the pulses themselves.
    pub count: bool,
    /// The counter's width then, in bits, where it differs from the one that makes signals.
    #[serde(default)]
    pub counter_bits: Option<u32>,
    /// What does it instead, where this timer cannot, in a clause.
    #[serde(default)]
    pub instead: Option<String>,
    /// Where that stands.
    pub facts: Vec<Fact>,
}
