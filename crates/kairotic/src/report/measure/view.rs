//! A measured capture for programs. Times are in seconds; what is measured is a float.

use kairotic_core::capture::{Comparison, Events, Measurement, Recorder, Spread, Timing};
use kairotic_core::requirement::RequirementCheck;
use kairotic_core::simulation::Logic;
use serde::Serialize;

use super::super::json::FindingView;
use super::super::setting::names;
use super::{MeasureReport, MeasuredPair, peak_to_peak};
use crate::fault::Result;
use crate::format::{Head, Table, exact};

/// The whole.
#[derive(Serialize)]
pub(super) struct View<'r> {
    #[serde(flatten)]
    head: Head,
    file: &'r str,
    kind: &'static str,
    tick_s: String,
    step_s_approx: f64,
    length_s_approx: f64,
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
    first_edge_s_approx: Option<f64>,
    last_edge_s_approx: Option<f64>,
    timing: Option<TimingView>,
    segments: Vec<SegmentView>,
    further_segments: u64,
    missing: EventsView,
    doubled: EventsView,
    irregular: EventsView,
    glitches: EventsView,
    unknown_count: u64,
    unknown_s_approx: f64,
    plan: Option<PlanView<'r>>,
}

#[derive(Serialize)]
struct TimingView {
    cycles: u64,
    frequency_hz_approx: f64,
    frequency_uncertainty_approx: Option<f64>,
    duty_approx: f64,
    duty_uncertainty_approx: Option<f64>,
    period: SpreadView,
    high: SpreadView,
    low: SpreadView,
    below_the_floor: bool,
    cycle_to_cycle_s_approx: Option<f64>,
    cycle_to_cycle_rms_s_approx: Option<f64>,
    time_interval_error_s_approx: f64,
    time_interval_error_rms_s_approx: f64,
    drift_approx: Option<f64>,
    allan: Vec<AllanView>,
}

#[derive(Serialize)]
struct SpreadView {
    mean_s_approx: f64,
    /// Only of intervals of one signal's cycles.
    #[serde(skip_serializing_if = "Option::is_none")]
    mean_uncertainty_s_approx: Option<f64>,
    least_s_approx: f64,
    most_s_approx: f64,
    peak_to_peak_s_approx: f64,
    deviation_s_approx: f64,
    percentile_1_s_approx: f64,
    percentile_50_s_approx: f64,
    percentile_99_s_approx: f64,
}

#[derive(Serialize)]
struct AllanView {
    span_s_approx: f64,
    deviation_approx: f64,
}

#[derive(Serialize)]
struct SegmentView {
    start_s_approx: f64,
    end_s_approx: f64,
    cycles: u64,
    period_s_approx: f64,
    high_s_approx: f64,
}

#[derive(Serialize)]
struct EventsView {
    count: u64,
    first: Vec<EventView>,
}

#[derive(Serialize)]
struct EventView {
    at_s_approx: f64,
    size: u64,
}

#[derive(Serialize)]
struct PlanView<'r> {
    cause: &'static str,
    frequency_error_approx: f64,
    uncertainty_approx: Option<f64>,
    needs: &'r [RequirementCheck],
    findings: Vec<FindingView>,
}

#[derive(Serialize)]
struct PairView<'r> {
    first: &'r str,
    second: &'r str,
    delay: Option<SpreadView>,
    phase_deg_approx: Option<f64>,
    overlap: Option<SpreadView>,
    dead_after_first: Option<SpreadView>,
    dead_after_second: Option<SpreadView>,
}

#[derive(Serialize)]
struct ClockView<'r> {
    error_approx: f64,
    uncertainty_approx: f64,
    signals: usize,
    agree: bool,
    derived: Vec<DerivedView<'r>>,
}

#[derive(Serialize)]
struct DerivedView<'r> {
    signal: &'r str,
    setting: super::super::json::SettingView,
}

impl<'r> View<'r> {
    pub(super) fn of(report: &'r MeasureReport) -> Result<Self> {
        let tick = report.recorder.tick;
        let clock = report.clock.as_ref().map(|clock| -> Result<ClockView<'r>> {
            let derived = clock.derived.iter().map(|(signal, derivation)| {
                let setting = super::super::json::SettingView::chosen(&derivation.timer, &derivation.best)?;
                Ok(DerivedView { signal, setting })
            });
            Ok(ClockView {
                error_approx: clock.common.error,
                uncertainty_approx: clock.common.uncertainty,
                signals: clock.common.signals,
                agree: clock.common.agree,
                derived: derived.collect::<Result<_>>()?,
            })
        });
        Ok(Self {
            head: Head::of("measure"),
            file: &report.file,
            kind: report.header.kind,
            tick_s: exact(report.header.tick),
            step_s_approx: report.recorder.floor(),
            length_s_approx: report.trailer.end as f64 * tick,
            signals: report
                .signals
                .iter()
                .map(|signal| {
                    SignalView::of(&signal.name, &signal.measurement, signal.comparison.as_ref(), report)
                })
                .collect(),
            pairs: report.pairs.iter().map(|pair| PairView::of(pair, tick)).collect(),
            clock: clock.transpose()?,
            notes: &report.trailer.notes,
        })
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
            start_s_approx: seconds(segment.start),
            end_s_approx: seconds(segment.end),
            cycles: segment.cycles,
            period_s_approx: segment.period * tick,
            high_s_approx: segment.high * tick,
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
            first_edge_s_approx: measurement.active.map(|(first, _)| seconds(first)),
            last_edge_s_approx: measurement.active.map(|(_, last)| seconds(last)),
            timing: timing.map(|timing| TimingView::of(timing, &report.recorder)),
            segments: segments.collect(),
            further_segments: measurement.further_segments,
            missing: EventsView::of(&measurement.missing, tick),
            doubled: EventsView::of(&measurement.doubled, tick),
            irregular: EventsView::of(&measurement.irregular, tick),
            glitches: EventsView::of(&measurement.glitches, tick),
            unknown_count: measurement.unknown.0,
            unknown_s_approx: seconds(measurement.unknown.1),
            plan: comparison.map(PlanView::of),
        }
    }
}

impl TimingView {
    fn of(timing: &Timing, recorder: &Recorder) -> Self {
        let tick = recorder.tick;
        let (low, high) = timing.clock.ends;
        let allan = timing.allan.iter().map(|one| AllanView {
            span_s_approx: one.periods as f64 * timing.clock.period * tick,
            deviation_approx: one.deviation,
        });
        Self {
            cycles: timing.cycles,
            frequency_hz_approx: 1.0 / (timing.clock.period * tick),
            frequency_uncertainty_approx: timing.clock.uncertainty(recorder.interval),
            duty_approx: timing.duty(),
            duty_uncertainty_approx: timing.duty_uncertainty(recorder.interval),
            period: SpreadView::of(&timing.period, tick)
                .within(timing.period_uncertainty(recorder.interval), tick),
            high: SpreadView::of(&timing.high, tick).within(timing.high.uncertainty(recorder.interval), tick),
            low: SpreadView::of(&timing.low, tick).within(timing.low.uncertainty(recorder.interval), tick),
            below_the_floor: recorder.is_below_floor(timing),
            cycle_to_cycle_s_approx: timing.cycle_to_cycle.map(|(most, _)| most as f64 * tick),
            cycle_to_cycle_rms_s_approx: timing.cycle_to_cycle.map(|(_, rms)| rms * tick),
            time_interval_error_s_approx: (high - low) * tick,
            time_interval_error_rms_s_approx: timing.clock.rms * tick,
            drift_approx: timing.drift(recorder.interval),
            allan: allan.collect(),
        }
    }
}

impl SpreadView {
    fn of(spread: &Spread, tick: f64) -> Self {
        let (least, most) = spread.ends().unwrap_or((0, 0));
        Self {
            mean_s_approx: spread.mean() * tick,
            mean_uncertainty_s_approx: None,
            least_s_approx: least as f64 * tick,
            most_s_approx: most as f64 * tick,
            peak_to_peak_s_approx: peak_to_peak(spread) as f64 * tick,
            deviation_s_approx: spread.deviation() * tick,
            percentile_1_s_approx: spread.percentile(0.01) * tick,
            percentile_50_s_approx: spread.percentile(0.5) * tick,
            percentile_99_s_approx: spread.percentile(0.99) * tick,
        }
    }

    fn within(self, uncertainty: Option<f64>, tick: f64) -> Self {
        Self { mean_uncertainty_s_approx: uncertainty.map(|ticks| ticks * tick), ..self }
    }

    fn some(spread: &Spread, tick: f64) -> Option<Self> {
        (spread.count() > 0).then(|| Self::of(spread, tick))
    }
}

impl EventsView {
    fn of(events: &Events, tick: f64) -> Self {
        let first = events.first.iter();
        let first = first.map(|event| EventView { at_s_approx: event.at as f64 * tick, size: event.size });
        Self { count: events.count, first: first.collect() }
    }
}

impl<'r> PlanView<'r> {
    fn of(comparison: &'r Comparison) -> Self {
        Self {
            cause: comparison.cause.word(),
            frequency_error_approx: comparison.error,
            uncertainty_approx: comparison
                .uncertainty
                .0
                .map(|by_capture| by_capture + comparison.uncertainty.1),
            needs: &comparison.checks,
            findings: comparison.findings.iter().map(FindingView::of).collect(),
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
            phase_deg_approx: phase.then(|| found.delay.mean() / found.period.mean() * 360.0),
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
