//! What was measured, in base units: seconds in place of the recorder's ticks.

use serde::Serialize;

use super::measurement::{Events, Measurement, Timing};
use super::pair::PairMeasurement;
use super::recorder::Recorder;
use super::spread::Spread;
use crate::quantity::{
    AngleDimension, DeviationDimension, DutyDimension, FrequencyDimension, Measured, TimeDimension,
};
use crate::simulation::Logic;

/// A measured time, in seconds.
pub type MeasuredTime = Measured<TimeDimension>;
/// A measured share.
pub type MeasuredRatio = Measured<DeviationDimension>;

/// What was measured of one signal.
#[derive(Debug, Clone, PartialEq, Serialize)]
pub struct SignalResult {
    /// How many edges there were.
    pub edges: u64,
    /// The level before the first of them.
    pub before: Logic,
    /// The first.
    pub first_edge: Option<MeasuredTime>,
    /// The last.
    pub last_edge: Option<MeasuredTime>,
    /// The longest time that the signal had one frequency; none where it has less than one period.
    pub timing: Option<TimingResult>,
    /// Stretches without a change of period or high time.
    pub segments: Vec<SegmentResult>,
    /// How many more of those there were.
    pub further_segments: u64,
    /// Pulses that did not come; each with how many.
    pub missing: EventsResult,
    /// Pulses that came between two others.
    pub doubled: EventsResult,
    /// Periods that were neither.
    pub irregular: EventsResult,
    /// Pulses that were too short to be any.
    pub glitches: EventsResult,
    /// How often the level was unknown once edges had begun.
    pub unknown_count: u64,
    /// For how long, all in all.
    pub unknown: MeasuredTime,
}

/// A signal of one frequency. What a figure may be off is with 95 % confidence, and missing where a single value cannot
/// tell.
#[derive(Debug, Clone, PartialEq, Serialize)]
pub struct TimingResult {
    /// Cycles that are in the figures.
    pub cycles: u64,
    /// The frequency of the line through the rising edges.
    pub frequency: Measured<FrequencyDimension>,
    /// How far that may be off, as a share of it.
    pub frequency_uncertainty: Option<MeasuredRatio>,
    /// Mean high time over mean period.
    pub duty: Measured<DutyDimension>,
    /// How far that may be off.
    pub duty_uncertainty: Option<Measured<DutyDimension>>,
    /// Periods.
    pub period: SpreadResult,
    /// High times of the same cycles.
    pub high: SpreadResult,
    /// Low times of the same cycles.
    pub low: SpreadResult,
    /// Whether periods differ by no more than samples make them differ.
    pub below_the_floor: bool,
    /// The largest difference of neighbouring periods.
    pub cycle_to_cycle: Option<MeasuredTime>,
    /// Its root mean square.
    pub cycle_to_cycle_rms: Option<MeasuredTime>,
    /// From the earliest edge to the latest against the line.
    pub time_interval_error: MeasuredTime,
    /// Its root mean square.
    pub time_interval_error_rms: MeasuredTime,
    /// How much the frequency changes from the first edge to the last, where that can be told from chance.
    pub drift: Option<MeasuredRatio>,
    /// Spans, and how far frequency differs from one to the next.
    pub allan: Vec<AllanResult>,
}

/// How some intervals are spread.
#[derive(Debug, Clone, PartialEq, Serialize)]
pub struct SpreadResult {
    /// The mean.
    pub mean: MeasuredTime,
    /// How far that may be off with 95 % confidence; only of intervals of one signal's cycles.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub mean_uncertainty: Option<MeasuredTime>,
    /// The shortest.
    pub least: MeasuredTime,
    /// The longest.
    pub most: MeasuredTime,
    /// The longest less the shortest.
    pub peak_to_peak: MeasuredTime,
    /// The standard deviation.
    pub deviation: MeasuredTime,
    /// What 1 % of them do not exceed.
    pub percentile_1: MeasuredTime,
    /// What half of them do not exceed.
    pub percentile_50: MeasuredTime,
    /// What 99 % of them do not exceed.
    pub percentile_99: MeasuredTime,
}

/// The Allan deviation over one span.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
pub struct AllanResult {
    /// The span.
    pub span: MeasuredTime,
    /// The deviation, as a share of the frequency.
    pub deviation: MeasuredRatio,
}

/// A stretch without a change.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
pub struct SegmentResult {
    /// When it begins.
    pub start: MeasuredTime,
    /// When it ends.
    pub end: MeasuredTime,
    /// Its cycles.
    pub cycles: u64,
    /// Their mean period.
    pub period: MeasuredTime,
    /// Their mean high time.
    pub high: MeasuredTime,
}

/// Events of one kind.
#[derive(Debug, Clone, PartialEq, Serialize)]
pub struct EventsResult {
    /// How many there were.
    pub count: u64,
    /// The first of them.
    pub first: Vec<EventResult>,
}

/// Something that happened.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
pub struct EventResult {
    /// When.
    pub at: MeasuredTime,
    /// How many ticks it took, or how many pulses it cost.
    pub size: u64,
}

/// What two signals do against one another. What never happens is missing.
#[derive(Debug, Clone, PartialEq, Serialize)]
pub struct PairResult {
    /// From a rising edge of the first to the next of the second.
    pub delay: Option<SpreadResult>,
    /// The same as an angle of the first's period.
    pub phase: Option<Measured<AngleDimension>>,
    /// How long both are high at a time.
    pub overlap: Option<SpreadResult>,
    /// How long both are low between a fall of the first and a rise of the second.
    pub dead_after_first: Option<SpreadResult>,
    /// How long both are low between a fall of the second and a rise of the first.
    pub dead_after_second: Option<SpreadResult>,
}

impl Recorder {
    /// So many ticks.
    pub const fn time(&self, ticks: f64) -> MeasuredTime {
        Measured::new(ticks * self.tick)
    }

    fn at(&self, tick: u64) -> MeasuredTime {
        self.time(tick as f64)
    }

    fn spread(&self, spread: &Spread) -> SpreadResult {
        let (least, most) = spread.ends().unwrap_or((0, 0));
        SpreadResult {
            mean: self.time(spread.mean()),
            mean_uncertainty: None,
            least: self.time(least as f64),
            most: self.time(most as f64),
            peak_to_peak: self.time((most - least) as f64),
            deviation: self.time(spread.deviation()),
            percentile_1: self.time(spread.percentile(0.01)),
            percentile_50: self.time(spread.percentile(0.5)),
            percentile_99: self.time(spread.percentile(0.99)),
        }
    }

    fn spread_within(&self, spread: &Spread, uncertainty: Option<f64>) -> SpreadResult {
        SpreadResult { mean_uncertainty: uncertainty.map(|ticks| self.time(ticks)), ..self.spread(spread) }
    }

    /// Events with their times.
    pub fn events(&self, events: &Events) -> EventsResult {
        let first = events.first.iter();
        let first = first.map(|event| EventResult { at: self.at(event.at), size: event.size });
        EventsResult { count: events.count, first: first.collect() }
    }
}

impl SignalResult {
    /// What a recorder measured of a signal.
    pub fn of(measurement: &Measurement, recorder: &Recorder) -> Self {
        let segments = measurement.segments.iter().map(|segment| SegmentResult {
            start: recorder.at(segment.start),
            end: recorder.at(segment.end),
            cycles: segment.cycles,
            period: recorder.time(segment.period),
            high: recorder.time(segment.high),
        });
        Self {
            edges: measurement.edges,
            before: measurement.before,
            first_edge: measurement.active.map(|(first, _)| recorder.at(first)),
            last_edge: measurement.active.map(|(_, last)| recorder.at(last)),
            timing: measurement.timing.as_ref().map(|timing| TimingResult::of(timing, recorder)),
            segments: segments.collect(),
            further_segments: measurement.further_segments,
            missing: recorder.events(&measurement.missing),
            doubled: recorder.events(&measurement.doubled),
            irregular: recorder.events(&measurement.irregular),
            glitches: recorder.events(&measurement.glitches),
            unknown_count: measurement.unknown.0,
            unknown: recorder.at(measurement.unknown.1),
        }
    }
}

impl TimingResult {
    fn of(timing: &Timing, recorder: &Recorder) -> Self {
        let interval = recorder.interval;
        let (low, high) = timing.clock.ends;
        let allan = timing.allan.iter().map(|one| AllanResult {
            span: recorder.time(one.periods as f64 * timing.clock.period),
            deviation: Measured::new(one.deviation),
        });
        Self {
            cycles: timing.cycles,
            frequency: Measured::new(1.0 / (timing.clock.period * recorder.tick)),
            frequency_uncertainty: timing.clock.uncertainty(interval).map(Measured::new),
            duty: Measured::new(timing.duty()),
            duty_uncertainty: timing.duty_uncertainty(interval).map(Measured::new),
            period: recorder.spread_within(&timing.period, timing.period_uncertainty(interval)),
            high: recorder.spread_within(&timing.high, timing.high.uncertainty(interval)),
            low: recorder.spread_within(&timing.low, timing.low.uncertainty(interval)),
            below_the_floor: recorder.is_below_floor(timing),
            cycle_to_cycle: timing.cycle_to_cycle.map(|(most, _)| recorder.at(most)),
            cycle_to_cycle_rms: timing.cycle_to_cycle.map(|(_, rms)| recorder.time(rms)),
            time_interval_error: recorder.time(high - low),
            time_interval_error_rms: recorder.time(timing.clock.rms),
            drift: timing.drift(interval).map(Measured::new),
            allan: allan.collect(),
        }
    }
}

impl PairResult {
    /// What a recorder measured of two signals.
    pub fn of(found: &PairMeasurement, recorder: &Recorder) -> Self {
        let some = |spread: &Spread| (spread.count() > 0).then(|| recorder.spread(spread));
        let phase = found.delay.count() > 0 && found.period.count() > 0;
        Self {
            delay: some(&found.delay),
            phase: phase.then(|| Measured::new(found.delay.mean() / found.period.mean())),
            overlap: some(&found.overlap),
            dead_after_first: some(&found.dead_after_first),
            dead_after_second: some(&found.dead_after_second),
        }
    }
}
