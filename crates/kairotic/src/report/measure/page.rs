//! A measured capture for eyes.

use kairotic_core::capture::{
    Cause, Comparison, EventsResult, FittedClock, MeasuredTime, Refitted, SegmentResult, SignalResult,
    Spread, SpreadResult, TimingResult,
};
use kairotic_core::quantity::{DeviationDimension, Dimension, DutyDimension, FrequencyDimension, Measured};
use kairotic_core::search::RankedSetting;

use super::super::floats::{digits, shown};
use super::super::words::counted;
use super::super::{requirements, setting};
use super::{MeasureReport, MeasuredPair, MeasuredSignal};
use crate::format::{Cell, Line, Page};

/// The most lines of one kind.
const LINES: usize = 12;
/// The most times of events in one line.
const TIMES: usize = 4;
/// Bars of the histogram, and the characters of the longest.
const BARS: (usize, usize) = (9, 40);

pub(super) fn page(report: &MeasureReport) -> Page {
    let mut page = Page::headed([
        report.file.clone(),
        format!("{}, {}", report.kind, report.length.rounded(6)),
        format!("sample resolution {}", report.step.rounded(4)),
    ]);
    for signal in &report.signals {
        of_signal(&mut page, report, signal);
    }
    for pair in &report.pairs {
        page.push("between", &["what", "mean", "least", "most"], of_pair(pair));
    }
    if let Some(clock) = &report.clock {
        page.push("clock", &["figure", "value", "note"], of_clock(clock));
    }
    let mut notes: Vec<Line> = report.notes.iter().cloned().map(Line::Prose).collect();
    if report.recorder.accuracy.is_none() && report.signals.iter().any(|signal| signal.plan.is_some()) {
        let text = "the recorder's own clock is taken as exact: say how far it may be off with --recorder";
        notes.push(Line::Prose(text.to_owned()));
    }
    page.push("assumed", &["what"], notes);
    page
}

fn of_signal(page: &mut Page, report: &MeasureReport, signal: &MeasuredSignal) {
    let MeasuredSignal { name, result, plan, measurement } = signal;
    let during = match (result.first_edge, result.last_edge) {
        (Some(first), Some(last)) => format!("from {} to {}", first.rounded(6), last.rounded(6)),
        _ => String::new(),
    };
    let edges = counted(result.edges, "edge");
    let heading = Line::row([Cell::left(name.clone()), Cell::left(edges), Cell::left(during)]);
    page.push("signal", &["name", "edges", "active"], vec![heading]);
    if let Some(timing) = &result.timing {
        page.push("gives", &["figure", "mean", "note"], gives(report, timing));
        page.push("jitter", &["figure", "peak to peak", "rms", "note"], jitter(timing));
    }
    if let Some(timing) = &measurement.timing {
        page.table("spread", &["periods", "count", "of the most"], spread(report, &timing.period));
    }
    page.table("steps", &["from", "cycles", "frequency", "high", "duty"], steps(result));
    page.table("faults", &["what", "count", "when"], faults(result));
    if let Some(comparison) = plan {
        page.table("needs", requirements::MEASURED, requirements::measured(&comparison.checks));
        page.push("cause", &["cause", "frequency error", "uncertainty"], vec![cause(comparison)]);
        page.push("findings", &[], setting::findings(&comparison.findings));
    }
}

fn cause(comparison: &Comparison) -> Line {
    if comparison.cause == Cause::Missing {
        return Line::row([Cell::left(comparison.cause.word())]);
    }
    let (by_capture, by_recorder) = comparison.uncertainty;
    let uncertainty = by_capture.map(|off| shown::<DeviationDimension>(off + by_recorder, 3));
    Line::row([
        Cell::left(comparison.cause.word()),
        Cell::point(signed(comparison.error)),
        Cell::left(format!("{} of the planned frequency", or_unknown(uncertainty))),
    ])
}

/// What something may be off, where more than one value tells.
fn or_unknown(uncertainty: Option<String>) -> String {
    uncertainty.map_or_else(|| "± unknown".to_owned(), |off| format!("± {off}"))
}

fn signed(error: f64) -> String {
    let sign = if error > 0.0 { "+" } else { "" };
    format!("{sign}{}", shown::<DeviationDimension>(error, 4))
}

/// A time to a tenth of what can be seen.
fn fine(report: &MeasureReport, time: MeasuredTime) -> String {
    time.rounded(digits(time.value(), report.step.value()))
}

/// A figure with as many digits as its uncertainty leaves it.
fn within<D: Dimension + Copy>(figure: Measured<D>, off: Option<Measured<D>>) -> String {
    let value = figure.value();
    figure.rounded(digits(value, off.map_or(value / 1e6, Measured::value) / 2.0))
}

fn gives(report: &MeasureReport, timing: &TimingResult) -> Vec<Line> {
    let line = |name: &str, value: String, uncertainty: Option<String>, note: String| {
        Line::row([
            Cell::left(name),
            Cell::point(value),
            Cell::left(or_unknown(uncertainty)),
            Cell::left(note),
        ])
    };
    let relative = timing.frequency_uncertainty;
    let of = |whole: f64| relative.map(|off| off.value() * whole);
    let mut lines = vec![line(
        "frequency",
        within(timing.frequency, of(timing.frequency.value()).map(Measured::new)),
        relative.map(|off| off.rounded(3)),
        format!("over {}; each ± at 95 % confidence", counted(timing.cycles, "cycle")),
    )];
    // The line through the edges knows the period best.
    let period = 1.0 / timing.frequency.value();
    for (name, spread, mean, off) in [
        ("period", &timing.period, Measured::new(period), of(period).map(Measured::new)),
        ("high", &timing.high, timing.high.mean, timing.high.mean_uncertainty),
        ("low", &timing.low, timing.low.mean, timing.low.mean_uncertainty),
    ] {
        let time = |time: MeasuredTime| fine(report, time);
        let note = if spread.least == spread.most {
            "always".to_owned()
        } else {
            let (low, high) = (time(spread.percentile_1), time(spread.percentile_99));
            format!("{} to {}, 98 % {low} to {high}", time(spread.least), time(spread.most))
        };
        lines.push(line(name, within(mean, off), off.map(|off| off.rounded(3)), note));
    }
    let off = timing.duty_uncertainty;
    lines.push(line("duty", within(timing.duty, off), off.map(|off| off.rounded(3)), String::new()));
    lines
}

fn jitter(timing: &TimingResult) -> Vec<Line> {
    let line = |name: &str, most: MeasuredTime, rms: MeasuredTime, note: &str| {
        let figures = [most, rms].map(|time| Cell::point(time.rounded(4)));
        let [most, rms] = figures;
        Line::row([Cell::left(name), most, rms, Cell::left(note)])
    };
    let floor = if timing.below_the_floor { "below the floor of the capture" } else { "" };
    let note = if timing.below_the_floor { floor } else { "peak to peak, rms" };
    if timing.cycles < 2 {
        return Vec::new();
    }
    if timing.period.peak_to_peak.value() == 0.0 {
        return vec![Line::Prose(format!("none: {floor}"))];
    }
    let mut lines = vec![line("period", timing.period.peak_to_peak, timing.period.deviation, note)];
    if let (Some(most), Some(rms)) = (timing.cycle_to_cycle, timing.cycle_to_cycle_rms) {
        lines.push(line("cycle to cycle", most, rms, ""));
    }
    let (error, rms) = (timing.time_interval_error, timing.time_interval_error_rms);
    lines.push(line("time interval error", error, rms, "about the best line"));
    if let Some(drift) = timing.drift {
        let change = Cell::point(signed(drift.value()));
        let note = Cell::left("of the frequency, from the first edge to the last");
        lines.push(Line::row([Cell::left("drift"), change, Cell::left(""), note]));
    }
    // Below the floor it would be that of the samples.
    let most = if floor.is_empty() { timing.allan.len().min(LINES) } else { 0 };
    for one in timing.allan.get(..most).unwrap_or_default() {
        lines.push(Line::row([
            Cell::left(format!("over {}", one.span.rounded(3))),
            Cell::left(""),
            Cell::point(one.deviation.rounded(3)),
            Cell::left("Allan deviation"),
        ]));
    }
    lines
}

/// A histogram in text, where there is anything to see.
fn spread(report: &MeasureReport, spread: &Spread) -> Vec<Line> {
    let (bars, length) = BARS;
    let bins = spread.bins(bars, report.recorder.interval);
    if bins.len() < 3 {
        return Vec::new();
    }
    let most = bins.iter().map(|(.., count)| *count).max().unwrap_or(1).max(1);
    let bar = |count: u64| (count as f64 / most as f64 * length as f64).ceil() as usize;
    let line = |(from, to, count): &(f64, f64, u64)| {
        let middle = (from + to) / 2.0;
        Line::row([
            Cell::point(fine(report, report.recorder.time(middle))),
            Cell::right(count.to_string()),
            Cell::left("=".repeat(bar(*count))),
        ])
    };
    bins.iter().map(line).collect()
}

fn steps(result: &SignalResult) -> Vec<Line> {
    let segments = &result.segments;
    if segments.len() < 2 {
        return Vec::new();
    }
    let row = |segment: &SegmentResult| {
        let (period, high) = (segment.period.value(), segment.high);
        Line::row([
            Cell::point(segment.start.rounded(6)),
            Cell::left(counted(segment.cycles, "cycle")),
            Cell::point(shown::<FrequencyDimension>(1.0 / period, 5)),
            Cell::point(high.rounded(5)),
            Cell::point(shown::<DutyDimension>(high.value() / period, 4)),
        ])
    };
    let mut lines: Vec<Line> = segments.iter().take(LINES).map(row).collect();
    let more = segments.len().saturating_sub(LINES) as u64 + result.further_segments;
    if more > 0 {
        lines.push(Line::Prose(format!("and {more} more")));
    }
    lines
}

fn faults(result: &SignalResult) -> Vec<Line> {
    let kinds: [(&str, &EventsResult); 4] = [
        ("pulses missing", &result.missing),
        ("pulses too many", &result.doubled),
        ("other periods", &result.irregular),
        ("glitches", &result.glitches),
    ];
    let mut lines: Vec<Line> = kinds
        .into_iter()
        .filter(|(_, events)| events.count > 0)
        .map(|(name, events)| {
            let first = events.first.iter().take(TIMES).map(|event| event.at.rounded(6));
            let first = first.collect::<Vec<_>>().join(", ");
            let more = if events.count > TIMES as u64 { ", …" } else { "" };
            let when = format!("at {first}{more}");
            Line::row([Cell::left(name), Cell::right(events.count.to_string()), Cell::left(when)])
        })
        .collect();
    if result.unknown_count > 0 {
        lines.push(Line::row([
            Cell::left("unknown levels"),
            Cell::right(result.unknown_count.to_string()),
            Cell::left(format!("{} in all", result.unknown.rounded(6))),
        ]));
    }
    lines
}

fn of_pair(MeasuredPair { first, second, result }: &MeasuredPair) -> Vec<Line> {
    let line = |name: String, spread: &Option<SpreadResult>| {
        spread.as_ref().map(|spread| {
            let ends = match spread.least == spread.most {
                true => "always".to_owned(),
                false => format!("from {} to {}", spread.least.rounded(5), spread.most.rounded(5)),
            };
            Line::row([Cell::left(name), Cell::point(spread.mean.rounded(5)), Cell::left(ends)])
        })
    };
    let phase = result.phase.map(|phase| {
        Line::row([
            Cell::left(format!("{second} after {first}")),
            Cell::point(format!("{:.3} deg", phase.value() * 360.0)),
            Cell::left("phase"),
        ])
    });
    let lines = [
        line(format!("{second} after {first}"), &result.delay),
        phase,
        line("both high".to_owned(), &result.overlap),
        line(format!("both low after {first}"), &result.dead_after_first),
        line(format!("both low after {second}"), &result.dead_after_second),
    ];
    lines.into_iter().flatten().collect()
}

fn of_clock(clock: &FittedClock) -> Vec<Line> {
    let FittedClock { common, derived } = clock;
    let agree = match (common.signals, common.agree) {
        (1, _) => "",
        (_, true) => "; they agree",
        (_, false) => "; they do not agree: it is not the clock alone",
    };
    let mut lines = vec![Line::row([
        Cell::left("off by"),
        Cell::point(signed(common.error)),
        Cell::left(format!(
            "± {}, from {}{agree}",
            shown::<DeviationDimension>(common.uncertainty, 3),
            counted(common.signals as u64, "signal")
        )),
    ])];
    for Refitted { signal, setting: RankedSetting { setting, registers, .. } } in derived {
        // The numbers come first; the mode bits do not change with the clock.
        let numbers =
            setting.plan.dividers.len() + usize::from(setting.top_register.is_some()) + setting.outputs.len();
        let writes =
            registers.iter().take(numbers).map(|write| format!("{}={}", write.name(), write.written));
        lines.push(Line::row([
            Cell::left(format!("{signal} then")),
            Cell::point(setting.frequency.rounded(6)),
            Cell::left(writes.collect::<Vec<_>>().join(", ")),
        ]));
    }
    lines
}
