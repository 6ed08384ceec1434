//! What recorded a capture, and how far that can be trusted.

use super::measurement::Timing;
use crate::quantity::Deviation;

/// What recorded a capture.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Recorder {
    /// Seconds in a tick.
    pub tick: f64,
    /// Ticks from the start of the capture to its end.
    pub length: u64,
    /// Ticks from one sample to the next: finer than this nothing is seen.
    pub interval: u64,
    /// How far its clock may be off; taken as exact where it is not stated.
    pub accuracy: Option<Deviation>,
}

impl Recorder {
    /// Seconds from one sample to the next.
    pub fn floor(&self) -> f64 {
        self.tick * self.interval.max(1) as f64
    }

    /// How far its clock may be off, as a share; zero where that is not stated.
    pub fn by_clock(&self) -> f64 {
        self.accuracy.map_or(0.0, |accuracy| accuracy.value().approx())
    }

    /// Whether periods differ by no more than samples make them differ; a single one differs from none.
    pub fn is_below_floor(&self, timing: &Timing) -> bool {
        let several = timing.cycles > 1;
        several
            && timing
                .period
                .ends()
                .is_some_and(|(least, most)| (most - least).unsigned_abs() <= self.interval.max(1))
    }
}
