//! What is known of the surroundings that a signal is made in.

use crate::quantity::{Deviation, Range, Time};

/// What is known of a clock and of what happens around it, besides the clock's own tolerance.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub struct Conditions {
    /// The internal oscillator that the clock is known to come from, by name.
    pub oscillator: Option<String>,
    /// How far temperature takes the oscillator.
    pub temperature: Option<Range<Deviation>>,
    /// How far it drifts over its life, either way.
    pub ageing: Option<Deviation>,
    /// The step of its trim: it is trimmed, and half a step is left of its tolerance.
    pub trim: Option<Deviation>,
    /// Root mean square of what a PLL moves an edge.
    pub pll: Option<Time>,
    /// From the shortest to the longest time between a period's start and the firmware's write of a new compare value.
    pub latency: Option<Range<Time>>,
    /// How much longer a driver makes the pulse: the delay of its falling edge less that of its rising edge.
    pub edges: Option<Time>,
}
