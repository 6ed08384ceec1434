//! A measured capture for eyes.

use kairotic_core::capture::{
    Cause, Comparison, Events, Measurement, PairMeasurement, Recorder, Spread, Timing,
};
use kairotic_core::quantity::{DeviationDimension, DutyDimension, FrequencyDimension, TimeDimension};

use super::super::floats::{digits, shown};
use super::super::requirements;
use super::super::setting;
use super::super::words::counted;
use super::{FittedClock, MeasureReport, MeasuredPair, MeasuredSignal, peak_to_peak};
use crate::format::{Cell, Line, Page};

/// The most lines of one kind.
const LINES: usize = 12;
/// The most times of events in one line.
const TIMES: usize = 4;
/// Bars of the histogram, and the characters of the longest.
const BARS: (usize, usize) = (9, 40);

pub(super) fn page(report: &MeasureReport) -> Page {
    let tick = report.recorder.tick;
    let length = shown::<TimeDimension>(report.trailer.end as f64 * tick, 6);
    let mut page = Page::headed([
        report.file.clone(),
        format!("{}, {length}", report.header.kind),
        format!("sample resolution {}", shown::<TimeDimension>(report.recorder.floor(), 4)),
    ]);
    for signal in &report.signals {
        of_signal(&mut page, report, signal);
    }
    for pair in &report.pairs {
        page.push("between", &["what", "mean", "least", "most"], of_pair(pair, tick));
    }
    if let Some(clock) = &report.clock {
        page.push("clock", &["figure", "value", "note"], of_clock(clock));
    }
    let mut notes: Vec<Line> = report.trailer.notes.iter().cloned().map(Line::Prose).collect();
    if !report.stated && report.signals.iter().any(|signal| signal.comparison.is_some()) {
        let text = "the recorder's own clock is taken as exact: say how far it may be off with --recorder";
        notes.push(Line::Prose(text.to_owned()));
    }
    page.push("assumed", &["what"], notes);
    page
}

fn of_signal(page: &mut Page, report: &MeasureReport, signal: &MeasuredSignal) {
    let tick = report.recorder.tick;
    let Measurement { edges, active, timing, .. } = &signal.measurement;
    let during = active.map_or_else(String::new, |(first, last)| {
        let (first, last) = (first as f64 * tick, last as f64 * tick);
        format!("from {} to {}", shown::<TimeDimension>(first, 6), shown::<TimeDimension>(last, 6))
    });
    let heading =
        Line::row([Cell::left(signal.name.clone()), Cell::left(counted(*edges, "edge")), Cell::left(during)]);
    page.push("signal", &["name", "edges", "active"], vec![heading]);
    if let Some(timing) = timing {
        page.push("gives", &["figure", "mean", "note"], gives(report, timing));
        page.push("jitter", &["figure", "peak to peak", "rms", "note"], jitter(report, timing));
        page.table("spread", &["periods", "count", "of the most"], spread(report, &timing.period));
    }
    page.table("steps", &["from", "cycles", "frequency", "high", "duty"], steps(&signal.measurement, tick));
    page.table("faults", &["what", "count", "when"], faults(&signal.measurement, tick));
    if let Some(comparison) = &signal.comparison {
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

/// A time of some ticks, to a tenth of what can be seen.
fn fine(report: &MeasureReport, ticks: f64) -> String {
    let Recorder { tick, interval, .. } = report.recorder;
    shown::<TimeDimension>(ticks * tick, digits(ticks, interval as f64))
}

fn gives(report: &MeasureReport, timing: &Timing) -> Vec<Line> {
    let Recorder { tick, interval, .. } = report.recorder;
    let uncertainty = timing.clock.uncertainty(interval);
    let relative = uncertainty.map(|off| shown::<DeviationDimension>(off, 3));
    let frequency = 1.0 / (timing.clock.period * tick);
    let line = |name: &str, value: String, uncertainty: Option<String>, note: String| {
        Line::row([
            Cell::left(name),
            Cell::point(value),
            Cell::left(or_unknown(uncertainty)),
            Cell::left(note),
        ])
    };
    let cycles = format!("over {}", counted(timing.cycles, "cycle"));
    let digits_of = |value: f64, off: Option<f64>| digits(value, off.unwrap_or(value / 1e6) / 2.0);
    let digits = digits_of(1.0, uncertainty);
    let mut lines = vec![line(
        "frequency",
        shown::<FrequencyDimension>(frequency, digits),
        relative.clone(),
        format!("{cycles}; each ± at 95 % confidence"),
    )];
    let period = timing.clock.period;
    for (name, spread, mean, off) in [
        ("period", &timing.period, period, uncertainty.map(|off| off * period)),
        ("high", &timing.high, timing.high.mean(), timing.high.uncertainty(interval)),
        ("low", &timing.low, timing.low.mean(), timing.low.uncertainty(interval)),
    ] {
        let Some((least, most)) = spread.ends() else { continue };
        let time = |ticks: f64| fine(report, ticks);
        let note = if least == most {
            "always".to_owned()
        } else {
            let (low, high) = (time(spread.percentile(0.01)), time(spread.percentile(0.99)));
            format!("{} to {}, 98 % {low} to {high}", time(least as f64), time(most as f64))
        };
        let off_text = off.map(|off| shown::<TimeDimension>(off * tick, 3));
        let value = shown::<TimeDimension>(mean * tick, digits_of(mean, off));
        lines.push(line(name, value, off_text, note));
    }
    let off = timing.duty_uncertainty(interval);
    let duty = timing.duty();
    let off_text = off.map(|off| shown::<DutyDimension>(off, 3));
    lines.push(line("duty", shown::<DutyDimension>(duty, digits_of(duty, off)), off_text, String::new()));
    lines
}

fn jitter(report: &MeasureReport, timing: &Timing) -> Vec<Line> {
    let tick = report.recorder.tick;
    let time = |ticks: f64| shown::<TimeDimension>(ticks * tick, 4);
    let line = |name: &str, most: f64, rms: f64, note: &str| {
        Line::row([Cell::left(name), Cell::point(time(most)), Cell::point(time(rms)), Cell::left(note)])
    };
    let below = report.recorder.is_below_floor(timing);
    let floor = if below { "below the floor of the capture" } else { "" };
    let note = if below { floor } else { "peak to peak, rms" };
    let spread = peak_to_peak(&timing.period) as f64;
    if timing.cycles < 2 {
        return Vec::new();
    }
    if spread == 0.0 {
        return vec![Line::Prose(format!("none: {floor}"))];
    }
    let mut lines = vec![line("period", spread, timing.period.deviation(), note)];
    if let Some((most, rms)) = timing.cycle_to_cycle {
        lines.push(line("cycle to cycle", most as f64, rms, ""));
    }
    let (low, high) = timing.clock.ends;
    lines.push(line("time interval error", high - low, timing.clock.rms, "about the best line"));
    if let Some(drift) = timing.drift(report.recorder.interval) {
        let change = Cell::point(signed(drift));
        let note = Cell::left("of the frequency, from the first edge to the last");
        lines.push(Line::row([Cell::left("drift"), change, Cell::left(""), note]));
    }
    // Below the floor it would be that of the samples.
    let most = if floor.is_empty() { timing.allan.len().min(LINES) } else { 0 };
    for one in timing.allan.get(..most).unwrap_or_default() {
        let span = one.periods as f64 * timing.clock.period * tick;
        lines.push(Line::row([
            Cell::left(format!("over {}", shown::<TimeDimension>(span, 3))),
            Cell::left(""),
            Cell::point(shown::<DeviationDimension>(one.deviation, 3)),
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
            Cell::point(fine(report, middle)),
            Cell::right(count.to_string()),
            Cell::left("=".repeat(bar(*count))),
        ])
    };
    bins.iter().map(line).collect()
}

fn steps(measurement: &Measurement, tick: f64) -> Vec<Line> {
    let segments = &measurement.segments;
    if segments.len() < 2 {
        return Vec::new();
    }
    let mut lines: Vec<Line> = segments
        .iter()
        .take(LINES)
        .map(|segment| {
            Line::row([
                Cell::point(shown::<TimeDimension>(segment.start as f64 * tick, 6)),
                Cell::left(counted(segment.cycles, "cycle")),
                Cell::point(shown::<FrequencyDimension>(1.0 / (segment.period * tick), 5)),
                Cell::point(shown::<TimeDimension>(segment.high * tick, 5)),
                Cell::point(shown::<DutyDimension>(segment.high / segment.period, 4)),
            ])
        })
        .collect();
    let more = segments.len().saturating_sub(LINES) as u64 + measurement.further_segments;
    if more > 0 {
        lines.push(Line::Prose(format!("and {more} more")));
    }
    lines
}

fn faults(measurement: &Measurement, tick: f64) -> Vec<Line> {
    let time = |ticks: u64| shown::<TimeDimension>(ticks as f64 * tick, 6);
    let kinds: [(&str, &Events); 4] = [
        ("pulses missing", &measurement.missing),
        ("pulses too many", &measurement.doubled),
        ("other periods", &measurement.irregular),
        ("glitches", &measurement.glitches),
    ];
    let mut lines: Vec<Line> = kinds
        .into_iter()
        .filter(|(_, events)| events.count > 0)
        .map(|(name, events)| {
            let first = events.first.iter().take(TIMES).map(|event| time(event.at));
            let first = first.collect::<Vec<_>>().join(", ");
            let more = if events.count > TIMES as u64 { ", …" } else { "" };
            let when = format!("at {first}{more}");
            Line::row([Cell::left(name), Cell::right(events.count.to_string()), Cell::left(when)])
        })
        .collect();
    let (count, ticks) = measurement.unknown;
    if count > 0 {
        let text = format!("{} in all", time(ticks));
        lines.push(Line::row([
            Cell::left("unknown levels"),
            Cell::right(count.to_string()),
            Cell::left(text),
        ]));
    }
    lines
}

fn of_pair(pair: &MeasuredPair, tick: f64) -> Vec<Line> {
    let MeasuredPair { first, second, measurement } = pair;
    let PairMeasurement { delay, period, overlap, dead_after_first, dead_after_second } = measurement;
    let time = |ticks: f64| shown::<TimeDimension>(ticks * tick, 5);
    let line = |name: String, spread: &Spread| {
        spread.ends().map(|(least, most)| {
            let ends = match least == most {
                true => "always".to_owned(),
                false => format!("from {} to {}", time(least as f64), time(most as f64)),
            };
            Line::row([Cell::left(name), Cell::point(time(spread.mean())), Cell::left(ends)])
        })
    };
    let phase = (delay.count() > 0 && period.count() > 0).then(|| {
        let degrees = delay.mean() / period.mean() * 360.0;
        Line::row([
            Cell::left(format!("{second} after {first}")),
            Cell::point(format!("{degrees:.3} deg")),
            Cell::left("phase"),
        ])
    });
    let lines = [
        line(format!("{second} after {first}"), delay),
        phase,
        line("both high".to_owned(), overlap),
        line(format!("both low after {first}"), dead_after_first),
        line(format!("both low after {second}"), dead_after_second),
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
    for (name, derivation) in derived {
        let setting = &derivation.best.setting;
        let writes = setting.writes(&derivation.timer).unwrap_or_default();
        // The numbers come first; the mode bits do not change with the clock.
        let numbers =
            setting.plan.dividers.len() + usize::from(setting.top_register.is_some()) + setting.outputs.len();
        let writes = writes.iter().take(numbers).map(|write| format!("{}={}", write.name(), write.written));
        lines.push(Line::row([
            Cell::left(format!("{name} then")),
            Cell::point(setting.frequency.rounded(6)),
            Cell::left(writes.collect::<Vec<_>>().join(", ")),
        ]));
    }
    lines
}
