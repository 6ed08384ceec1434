//! A measured capture for programs. Times are in seconds; what is measured is a float.

use kairotic_core::capture::{Comparison, Events, Measurement, Recorder, Spread, Timing};
use kairotic_core::finding::Finding;
use kairotic_core::quantity::Time;
use kairotic_core::requirement::RequirementCheck;
use kairotic_core::search::RankedSetting;
use kairotic_core::simulation::Logic;
use serde::Serialize;

use super::super::setting::names;
use super::{MeasureReport, MeasuredPair, peak_to_peak};
use crate::format::Table;
use crate::format::approximate;

/// The whole.
#[derive(Serialize)]
pub(super) struct View<'r> {
    file: &'r str,
    kind: &'static str,
    tick: Time,
    #[serde(serialize_with = "approximate::seconds")]
    step: f64,
    #[serde(serialize_with = "approximate::seconds")]
    length: f64,
    signals: Vec<SignalView<'r>>,
    pairs: Vec<PairView<'r>>,
    clock: Option<ClockView<'r>>,
    notes: &'r [String],
}

#[derive(Serialize)]
struct SignalView<'r> {
    signal: &'r str,
    edges: u64,
    before: &'static str,
    #[serde(serialize_with = "approximate::seconds")]
    first_edge: Option<f64>,
    #[serde(serialize_with = "approximate::seconds")]
    last_edge: Option<f64>,
    timing: Option<TimingView>,
    segments: Vec<SegmentView>,
    further_segments: u64,
    missing: EventsView,
    doubled: EventsView,
    irregular: EventsView,
    glitches: EventsView,
    unknown_count: u64,
    #[serde(serialize_with = "approximate::seconds")]
    unknown: f64,
    plan: Option<PlanView<'r>>,
}

#[derive(Serialize)]
struct TimingView {
    cycles: u64,
    #[serde(serialize_with = "approximate::hertz")]
    frequency: f64,
    #[serde(serialize_with = "approximate::ratio")]
    frequency_uncertainty: Option<f64>,
    #[serde(serialize_with = "approximate::ratio")]
    duty: f64,
    #[serde(serialize_with = "approximate::ratio")]
    duty_uncertainty: Option<f64>,
    period: SpreadView,
    high: SpreadView,
    low: SpreadView,
    below_the_floor: bool,
    #[serde(serialize_with = "approximate::seconds")]
    cycle_to_cycle: Option<f64>,
    #[serde(serialize_with = "approximate::seconds")]
    cycle_to_cycle_rms: Option<f64>,
    #[serde(serialize_with = "approximate::seconds")]
    time_interval_error: f64,
    #[serde(serialize_with = "approximate::seconds")]
    time_interval_error_rms: f64,
    #[serde(serialize_with = "approximate::ratio")]
    drift: Option<f64>,
    allan: Vec<AllanView>,
}

#[derive(Serialize)]
struct SpreadView {
    #[serde(serialize_with = "approximate::seconds")]
    mean: f64,
    /// Only of intervals of one signal's cycles.
    #[serde(skip_serializing_if = "Option::is_none", serialize_with = "approximate::seconds")]
    mean_uncertainty: Option<f64>,
    #[serde(serialize_with = "approximate::seconds")]
    least: f64,
    #[serde(serialize_with = "approximate::seconds")]
    most: f64,
    #[serde(serialize_with = "approximate::seconds")]
    peak_to_peak: f64,
    #[serde(serialize_with = "approximate::seconds")]
    deviation: f64,
    #[serde(serialize_with = "approximate::seconds")]
    percentile_1: f64,
    #[serde(serialize_with = "approximate::seconds")]
    percentile_50: f64,
    #[serde(serialize_with = "approximate::seconds")]
    percentile_99: f64,
}

#[derive(Serialize)]
struct AllanView {
    #[serde(serialize_with = "approximate::seconds")]
    span: f64,
    #[serde(serialize_with = "approximate::ratio")]
    deviation: f64,
}

#[derive(Serialize)]
struct SegmentView {
    #[serde(serialize_with = "approximate::seconds")]
    start: f64,
    #[serde(serialize_with = "approximate::seconds")]
    end: f64,
    cycles: u64,
    #[serde(serialize_with = "approximate::seconds")]
    period: f64,
    #[serde(serialize_with = "approximate::seconds")]
    high: f64,
}

#[derive(Serialize)]
struct EventsView {
    count: u64,
    first: Vec<EventView>,
}

#[derive(Serialize)]
struct EventView {
    #[serde(serialize_with = "approximate::seconds")]
    at: f64,
    size: u64,
}

#[derive(Serialize)]
struct PlanView<'r> {
    cause: &'static str,
    #[serde(serialize_with = "approximate::ratio")]
    frequency_error: f64,
    #[serde(serialize_with = "approximate::ratio")]
    uncertainty: Option<f64>,
    checks: &'r [RequirementCheck],
    findings: &'r [Finding],
}

#[derive(Serialize)]
struct PairView<'r> {
    first: &'r str,
    second: &'r str,
    delay: Option<SpreadView>,
    #[serde(serialize_with = "approximate::degrees")]
    phase: Option<f64>,
    overlap: Option<SpreadView>,
    dead_after_first: Option<SpreadView>,
    dead_after_second: Option<SpreadView>,
}

#[derive(Serialize)]
struct ClockView<'r> {
    #[serde(serialize_with = "approximate::ratio")]
    error: f64,
    #[serde(serialize_with = "approximate::ratio")]
    uncertainty: f64,
    signals: usize,
    agree: bool,
    derived: Vec<DerivedView<'r>>,
}

#[derive(Serialize)]
struct DerivedView<'r> {
    signal: &'r str,
    setting: &'r RankedSetting,
}

impl<'r> View<'r> {
    pub(super) fn of(report: &'r MeasureReport) -> Self {
        let tick = report.recorder.tick;
        let clock = report.clock.as_ref().map(|clock| ClockView {
            error: clock.common.error,
            uncertainty: clock.common.uncertainty,
            signals: clock.common.signals,
            agree: clock.common.agree,
            derived: clock
                .derived
                .iter()
                .map(|(signal, derivation)| DerivedView { signal, setting: &derivation.best })
                .collect(),
        });
        Self {
            file: &report.file,
            kind: report.header.kind,
            tick: Time::new(report.header.tick),
            step: report.recorder.floor(),
            length: report.trailer.end as f64 * tick,
            signals: report
                .signals
                .iter()
                .map(|signal| {
                    SignalView::of(&signal.name, &signal.measurement, signal.comparison.as_ref(), report)
                })
                .collect(),
            pairs: report.pairs.iter().map(|pair| PairView::of(pair, tick)).collect(),
            clock,
            notes: &report.trailer.notes,
        }
    }
}

impl<'r> SignalView<'r> {
    fn of(
        name: &'r str,
        measurement: &'r Measurement,
        comparison: Option<&'r Comparison>,
        report: &MeasureReport,
    ) -> Self {
        let tick = report.recorder.tick;
        let seconds = |ticks: u64| ticks as f64 * tick;
        let segments = measurement.segments.iter().map(|segment| SegmentView {
            start: seconds(segment.start),
            end: seconds(segment.end),
            cycles: segment.cycles,
            period: segment.period * tick,
            high: segment.high * tick,
        });
        let timing = measurement.timing.as_ref();
        Self {
            signal: name,
            edges: measurement.edges,
            before: match measurement.before {
                Logic::Low => "low",
                Logic::High => "high",
                Logic::Unknown => "unknown",
            },
            first_edge: measurement.active.map(|(first, _)| seconds(first)),
            last_edge: measurement.active.map(|(_, last)| seconds(last)),
            timing: timing.map(|timing| TimingView::of(timing, &report.recorder)),
            segments: segments.collect(),
            further_segments: measurement.further_segments,
            missing: EventsView::of(&measurement.missing, tick),
            doubled: EventsView::of(&measurement.doubled, tick),
            irregular: EventsView::of(&measurement.irregular, tick),
            glitches: EventsView::of(&measurement.glitches, tick),
            unknown_count: measurement.unknown.0,
            unknown: seconds(measurement.unknown.1),
            plan: comparison.map(PlanView::of),
        }
    }
}

impl TimingView {
    fn of(timing: &Timing, recorder: &Recorder) -> Self {
        let tick = recorder.tick;
        let (low, high) = timing.clock.ends;
        let allan = timing.allan.iter().map(|one| AllanView {
            span: one.periods as f64 * timing.clock.period * tick,
            deviation: one.deviation,
        });
        Self {
            cycles: timing.cycles,
            frequency: 1.0 / (timing.clock.period * tick),
            frequency_uncertainty: timing.clock.uncertainty(recorder.interval),
            duty: timing.duty(),
            duty_uncertainty: timing.duty_uncertainty(recorder.interval),
            period: SpreadView::of(&timing.period, tick)
                .within(timing.period_uncertainty(recorder.interval), tick),
            high: SpreadView::of(&timing.high, tick).within(timing.high.uncertainty(recorder.interval), tick),
            low: SpreadView::of(&timing.low, tick).within(timing.low.uncertainty(recorder.interval), tick),
            below_the_floor: recorder.is_below_floor(timing),
            cycle_to_cycle: timing.cycle_to_cycle.map(|(most, _)| most as f64 * tick),
            cycle_to_cycle_rms: timing.cycle_to_cycle.map(|(_, rms)| rms * tick),
            time_interval_error: (high - low) * tick,
            time_interval_error_rms: timing.clock.rms * tick,
            drift: timing.drift(recorder.interval),
            allan: allan.collect(),
        }
    }
}

impl SpreadView {
    fn of(spread: &Spread, tick: f64) -> Self {
        let (least, most) = spread.ends().unwrap_or((0, 0));
        Self {
            mean: spread.mean() * tick,
            mean_uncertainty: None,
            least: least as f64 * tick,
            most: most as f64 * tick,
            peak_to_peak: peak_to_peak(spread) as f64 * tick,
            deviation: spread.deviation() * tick,
            percentile_1: spread.percentile(0.01) * tick,
            percentile_50: spread.percentile(0.5) * tick,
            percentile_99: spread.percentile(0.99) * tick,
        }
    }

    fn within(self, uncertainty: Option<f64>, tick: f64) -> Self {
        Self { mean_uncertainty: uncertainty.map(|ticks| ticks * tick), ..self }
    }

    fn some(spread: &Spread, tick: f64) -> Option<Self> {
        (spread.count() > 0).then(|| Self::of(spread, tick))
    }
}

impl EventsView {
    fn of(events: &Events, tick: f64) -> Self {
        let first = events.first.iter();
        let first = first.map(|event| EventView { at: event.at as f64 * tick, size: event.size });
        Self { count: events.count, first: first.collect() }
    }
}

impl<'r> PlanView<'r> {
    fn of(comparison: &'r Comparison) -> Self {
        Self {
            cause: comparison.cause.word(),
            frequency_error: comparison.error,
            uncertainty: comparison.uncertainty.0.map(|by_capture| by_capture + comparison.uncertainty.1),
            checks: &comparison.checks,
            findings: &comparison.findings,
        }
    }
}

impl<'r> PairView<'r> {
    fn of(pair: &'r MeasuredPair, tick: f64) -> Self {
        let found = &pair.measurement;
        let phase = found.delay.count() > 0 && found.period.count() > 0;
        Self {
            first: &pair.first,
            second: &pair.second,
            delay: SpreadView::some(&found.delay, tick),
            phase: phase.then(|| found.delay.mean() / found.period.mean() * 360.0),
            overlap: SpreadView::some(&found.overlap, tick),
            dead_after_first: SpreadView::some(&found.dead_after_first, tick),
            dead_after_second: SpreadView::some(&found.dead_after_second, tick),
        }
    }
}

/// A row a signal.
pub(super) fn table(report: &MeasureReport) -> Table {
    let tick = report.recorder.tick;
    let rows = report.signals.iter().map(|signal| {
        let measurement = &signal.measurement;
        let timing = measurement.timing.as_ref();
        let of = |value: &dyn Fn(&Timing) -> f64| {
            timing.map(|timing| value(timing).to_string()).unwrap_or_default()
        };
        let some = |value: &dyn Fn(&Timing) -> Option<f64>| {
            timing.and_then(value).map(|value| value.to_string()).unwrap_or_default()
        };
        let comparison = signal.comparison.as_ref();
        vec![
            signal.name.clone(),
            measurement.edges.to_string(),
            timing.map(|timing| timing.cycles.to_string()).unwrap_or_default(),
            of(&|timing| 1.0 / (timing.clock.period * tick)),
            some(&|timing| timing.clock.uncertainty(report.recorder.interval)),
            of(&Timing::duty),
            some(&|timing| timing.duty_uncertainty(report.recorder.interval)),
            of(&|timing| timing.high.mean() * tick),
            some(&|timing| Some(timing.high.uncertainty(report.recorder.interval)? * tick)),
            of(&|timing| timing.low.mean() * tick),
            of(&|timing| peak_to_peak(&timing.period) as f64 * tick),
            of(&|timing| timing.period.deviation() * tick),
            measurement.missing.count.to_string(),
            measurement.doubled.count.to_string(),
            measurement.glitches.count.to_string(),
            comparison.map(|one| one.cause.word().to_owned()).unwrap_or_default(),
            comparison.map(|one| names(&one.findings)).unwrap_or_default(),
        ]
    });
    let header = vec![
        "signal",
        "edges",
        "cycles",
        "frequency_hz_approx",
        "frequency_uncertainty_approx",
        "duty_approx",
        "duty_uncertainty_approx",
        "high_s_approx",
        "high_uncertainty_s_approx",
        "low_s_approx",
        "period_peak_to_peak_s_approx",
        "period_deviation_s_approx",
        "missing",
        "doubled",
        "glitches",
        "cause",
        "findings",
    ];
    Table { header, rows: rows.collect() }
}
