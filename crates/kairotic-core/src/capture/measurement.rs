//! What was measured of one signal. Times are in ticks of the recorder.

use super::drift::drift;
use super::spread::Spread;
use super::trace::TracePoint;
use crate::simulation::Logic;

/// What was measured of one signal.
#[derive(Debug, Clone)]
pub struct Measurement {
    /// The level before the first edge.
    pub before: Logic,
    /// How many edges there were.
    pub edges: u64,
    /// The first and the last edge.
    pub active: Option<(u64, u64)>,
    /// The longest time that the signal had one frequency; none where it has less than one period.
    pub timing: Option<Timing>,
    /// Stretches without a change of period or high time.
    pub segments: Vec<Segment>,
    /// How many more of those there were.
    pub further_segments: u64,
    /// Pulses that were too short to be any.
    pub glitches: Events,
    /// Pulses that did not come; each with how many.
    pub missing: Events,
    /// Pulses that came between two others.
    pub doubled: Events,
    /// Periods that were neither.
    pub irregular: Events,
    /// How often the level was unknown, and for how long, once edges had begun.
    pub unknown: (u64, u64),
}

/// Events of one kind: all are counted, the first are kept.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub struct Events {
    /// How many.
    pub count: u64,
    /// The first of them.
    pub first: Vec<Anomaly>,
}

/// Something that happened.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Anomaly {
    /// When.
    pub at: u64,
    /// How long it took, or how many pulses it cost.
    pub size: u64,
}

/// The most events of one kind that are kept.
const KEPT: usize = 100;

impl Events {
    /// Adds one.
    pub(crate) fn add(&mut self, at: u64, size: u64) {
        self.count += 1;
        if self.first.len() < KEPT {
            self.first.push(Anomaly { at, size });
        }
    }
}

/// A signal of one frequency.
#[derive(Debug, Clone)]
pub struct Timing {
    /// Cycles that are in the figures.
    pub cycles: u64,
    /// Periods.
    pub period: Spread,
    /// High times of the same cycles.
    pub high: Spread,
    /// Low times of the same cycles.
    pub low: Spread,
    /// The line through the rising edges.
    pub clock: Clocked,
    /// The largest difference of neighbouring periods, and its root mean square.
    pub cycle_to_cycle: Option<(u64, f64)>,
    /// Spans of periods and how far frequency differs from one to the next.
    pub allan: Vec<Allan>,
    /// Periods and edges over time; at most 1024 points.
    pub trace: Vec<TracePoint>,
}

impl Timing {
    /// Mean high time over mean period.
    pub fn duty(&self) -> f64 {
        self.high.total() as f64 / (self.period.total() as f64).max(1.0)
    }

    /// How far the mean period may be off with 95 % confidence, in ticks, in a capture with steps of so many ticks. The line
    /// knows the period better than the mean does: the mean is off by what it is off the line, and by what that is off.
    pub fn period_uncertainty(&self, interval: u64) -> Option<f64> {
        let line = self.clock.uncertainty(interval)? * self.clock.period;
        Some((self.period.mean() - self.clock.period).abs() + line)
    }

    /// How far the duty may be off with 95 % confidence, in a capture with steps of so many ticks.
    pub fn duty_uncertainty(&self, interval: u64) -> Option<f64> {
        let (high, period) = (self.high.uncertainty(interval)?, self.period_uncertainty(interval)?);
        Some((high + self.duty() * period) / self.period.mean())
    }

    /// How much the frequency changes from the first edge to the last, as a share of it, in a capture with steps of so many
    /// ticks; `None` where that cannot be told from chance.
    pub fn drift(&self, interval: u64) -> Option<f64> {
        drift(&self.trace, interval)
    }
}

/// The line through the rising edges.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Clocked {
    /// Its period.
    pub period: f64,
    /// How far jitter may take that off, with 95 % confidence; `None` where a single period has no scatter to tell it.
    pub error: Option<f64>,
    /// What whole ticks may take it off, at most; steps of several ticks so much more.
    pub rounding: f64,
    /// What edges are off the line: root mean square.
    pub rms: f64,
    /// The earliest edge and the latest against the line.
    pub ends: (f64, f64),
}

impl Clocked {
    /// How far the period, and so the frequency, may be off with 95 % confidence, as a share of it; in a capture with steps
    /// of so many ticks. `None` where a single period has no scatter to tell it.
    pub fn uncertainty(&self, interval: u64) -> Option<f64> {
        Some((self.error? + self.rounding * interval.max(1) as f64) / self.period)
    }
}

/// The Allan deviation over one span.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Allan {
    /// Periods in the span.
    pub periods: u64,
    /// The relative deviation of the mean frequency from one span to the next.
    pub deviation: f64,
}

/// A stretch without a change of period or high time.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Segment {
    /// Its first rising edge.
    pub start: u64,
    /// The end of its last period.
    pub end: u64,
    /// Cycles in it.
    pub cycles: u64,
    /// The mean period.
    pub period: f64,
    /// The mean high time.
    pub high: f64,
}
