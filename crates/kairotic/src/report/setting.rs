//! What is shown of one setting, whether it was derived or decoded.

use kairotic_core::finding::Finding;
use kairotic_core::part::Timer;
use kairotic_core::quantity::{Duty, Rational, Time, show};
use kairotic_core::search::{Fit, SpanFit};
use kairotic_core::setting::{ClockError, Constant, FieldWrite, Jitter, Output, Setting, Written};
use kairotic_core::target::{Active, Level, Span};

use super::words::{bits, brief, counted, frequency_error, signal_error};
use crate::fault::Result;
use crate::format::{Cell, Line, decimal, decimal_or_none};

/// The columns of the block `write`.
pub const WRITE: &[&str] = &["field", "value", "meaning"];
/// The columns of the block `gives`.
pub const GIVES: &[&str] = &["figure", "value", "note"];

/// Fields with the values to write.
pub fn write_lines(writes: &[FieldWrite]) -> Vec<Line> {
    let row = |write: &FieldWrite| {
        let value = match &write.written {
            Written::Number(number) => Cell::value(*number),
            Written::AddressOf(_) => Cell::left(write.written.to_string()),
        };
        Line::Row(vec![Cell::left(write.name()), value, Cell::left(write.note.clone())])
    };
    writes.iter().map(row).collect()
}

/// What the pin will do.
pub fn gives(setting: &Setting, fit: Option<&Fit>, clock_error: Option<&ClockError>) -> Vec<Line> {
    let mut rows = SettingRows(Vec::new());
    let error = fit.map(|fit| match fit.window {
        Some(window) => format!("inside {window}"),
        None => frequency_error(fit.frequency_error, fit.frequency_exact),
    });
    rows.add("frequency", brief(setting.frequency), error.unwrap_or_default());
    rows.add("period", brief(setting.period), "");
    for (index, output) in setting.outputs.iter().enumerate() {
        let on = if setting.outputs.len() > 1 { format!(" {}", output.channel) } else { String::new() };
        let signal = fit.and_then(|fit| fit.signals.get(index));
        let error = signal.map(|signal| signal_error(signal.error, signal.exact)).unwrap_or_default();
        let wants_pulse = signal.is_some_and(|signal| matches!(signal.wanted, Active::Pulse(_)));
        let (of_duty, of_pulse) = if wants_pulse { (String::new(), error) } else { (error, String::new()) };
        rows.add(&format!("duty{on}"), brief(output.duty), joined(&[of_duty, constant(output)]));
        rows.add(&format!("pulse{on}"), brief(output.pulse), joined(&[of_pulse, level(output)]));
        if let Some(start) = output.start.filter(|start| !start.value().is_zero()) {
            let error = signal.and_then(|signal| signal.start_error).map(super::words::time_error);
            rows.add(&format!("start{on}"), brief(start), error.unwrap_or_default());
        }
    }
    if let Some(dead_time) = setting.dead_time {
        let error = fit.and_then(|fit| fit.dead_time_error).map(super::words::time_error).unwrap_or_default();
        let note = "both outputs off, each active that much shorter".to_owned();
        rows.add("dead time", brief(dead_time), joined(&[error, note]));
    }
    rows.add("tick", setting.tick.rounded(4), "");
    rows.add("step", setting.step.rounded(4), format!("{} of the period", setting.step_duty.rounded(4)));
    rows.add("resolution", counted(setting.steps, "step"), bits(setting.steps));
    if let Some(span) = fit.and_then(|fit| fit.span.as_ref()) {
        rows.add("in the span", counted(span.steps, "step"), span_note(span));
    }
    let ends = setting.ends;
    if ends.lowest != Duty::ZERO || ends.highest.value() != Rational::ONE {
        let highest = ends.highest.rounded(6);
        rows.add("lowest duty", ends.lowest.rounded(4), format!("highest {highest}"));
    }
    if let Some(jitter) = &setting.jitter {
        rows.jitter(jitter, setting);
    }
    if let Some(error) = clock_error {
        let pulse = error.pulse.map(|pulse| format!(", the pulse by up to {}", pulse.rounded(3)));
        rows.add(
            "clock error",
            brief(error.deviation),
            format!(
                "moves the frequency by up to {}{}, either way",
                error.frequency.rounded(3),
                pulse.unwrap_or_default()
            ),
        );
    }
    rows.0
}

struct SettingRows(Vec<Line>);

impl SettingRows {
    fn add(&mut self, figure: &str, value: impl Into<String>, note: impl Into<String>) {
        self.0.push(Line::Row(vec![Cell::left(figure), Cell::point(value), Cell::left(note)]));
    }

    fn dither(&mut self, jitter: &Jitter) {
        let moves = |time: Time| match time.value().is_zero() {
            true => "none".to_owned(),
            false => time.rounded(4),
        };
        let rms = show::significant(jitter.rms * 1e9, 3);
        let pattern = format!("the pattern repeats every {}", counted(jitter.repeats, "period"));
        self.add(
            "jitter",
            moves(jitter.peak_to_peak),
            format!("of the period by dither; {rms} ns RMS; {pattern}"),
        );
        self.add("", moves(jitter.pulses), "of the pulses by dither");
    }

    fn jitter(&mut self, jitter: &Jitter, setting: &Setting) {
        if jitter.dithers {
            return self.dither(jitter);
        }
        if jitter.peak_to_peak.value().is_zero() {
            let outputs = &setting.outputs;
            let pulses =
                match (outputs.is_empty(), outputs.iter().all(|output| output.pulse_clocks.is_none())) {
                    (true, _) => "",
                    (false, true) => ", and so is each pulse",
                    (false, false) => "; pulses are the same in every period",
                };
            self.add("jitter", "none", format!("a period is a whole number of source clocks{pulses}"));
            for output in outputs {
                let Some([fewest, most]) = output.pulse_clocks else { continue };
                let note = format!("{fewest} or {most} source clocks, by how the divider starts");
                self.add("", format!("pulse of {}", output.channel), note);
            }
            return;
        }
        let rms = show::significant(jitter.rms * 1e9, 3);
        self.add(
            "jitter",
            jitter.peak_to_peak.rounded(4),
            format!(
                "peak to peak, one source clock; {rms} ns RMS; the pattern repeats every {} periods",
                jitter.repeats
            ),
        );
    }
}

fn joined(notes: &[String]) -> String {
    notes.iter().filter(|note| !note.is_empty()).cloned().collect::<Vec<_>>().join(", ")
}

fn constant(output: &Output) -> String {
    match output.constant {
        Some(Constant::Active) => "constant, always active".to_owned(),
        Some(Constant::Inactive) => "constant, never active".to_owned(),
        None => String::new(),
    }
}

fn level(output: &Output) -> String {
    match output.level {
        Level::High => String::new(),
        Level::Low => "active low".to_owned(),
    }
}

fn span_note(span: &SpanFit) -> String {
    let (low, high) = (span.low.min(span.high), span.low.max(span.high));
    let ends = match span.span {
        Span::Duty(range) => format!("{} to {}", range.low, range.high),
        Span::Pulse(range) => format!("{} to {}", range.low, range.high),
    };
    format!("{}, compare {low} to {high} for {ends}", bits(span.steps))
}

/// The names of findings in one cell.
pub fn names(findings: &[Finding]) -> String {
    findings.iter().map(Finding::name).collect::<Vec<_>>().join(" ")
}

/// The findings, worst first.
pub fn findings(findings: &[Finding]) -> Vec<Line> {
    findings.iter().cloned().map(Line::Finding).collect()
}

/// The columns of a CSV row of a setting.
pub const CSV: &[&str] = &[
    "part",
    "timer",
    "rank",
    "mode",
    "divider",
    "top",
    "period_ticks",
    "frequency_hz",
    "frequency_error",
    "frequency_exact",
    "tick_s",
    "steps",
    "step_s",
    "span_steps",
    "channel",
    "compare",
    "duty",
    "pulse_s",
    "signal_exact",
    "jitter_peak_to_peak_s",
    "registers",
    "findings",
];

/// The CSV rows of a setting: one for each channel, or one without channel.
///
/// # Errors
/// Those of a setting of another timer.
pub fn csv_rows(
    timer: &Timer,
    rank: usize,
    setting: &Setting,
    fit: Option<&Fit>,
    findings: &[Finding],
) -> Result<Vec<Vec<String>>> {
    let outputs: Vec<Option<&Output>> = match setting.outputs.as_slice() {
        [] => vec![None],
        outputs => outputs.iter().map(Some).collect(),
    };
    let registers: Vec<String> =
        setting.writes(timer)?.iter().map(|write| format!("{}={}", write.name(), write.written)).collect();
    let jitter = setting.jitter.map(|jitter| jitter.peak_to_peak.value());
    let mut rows = Vec::new();
    for (index, output) in outputs.into_iter().enumerate() {
        let signal = fit.and_then(|fit| fit.signals.get(index));
        let of = |text: fn(&Output) -> String| output.map(text).unwrap_or_default();
        let span = fit.and_then(|fit| fit.span.as_ref());
        rows.push(vec![
            timer.part.clone(),
            timer.name.clone(),
            rank.to_string(),
            setting.plan.mode.clone(),
            decimal(setting.divider),
            setting.plan.top.to_string(),
            setting.ticks.to_string(),
            decimal(setting.frequency.value()),
            fit.map(|fit| decimal(fit.frequency_error.value())).unwrap_or_default(),
            fit.map(|fit| fit.frequency_exact.to_string()).unwrap_or_default(),
            decimal(setting.tick.value()),
            setting.steps.to_string(),
            decimal(setting.step.value()),
            span.map(|span| span.steps.to_string()).unwrap_or_default(),
            of(|output| output.channel.clone()),
            of(|output| output.compare.map(|compare| compare.to_string()).unwrap_or_default()),
            of(|output| decimal(output.duty.value())),
            of(|output| decimal(output.pulse.value())),
            signal.map(|signal| signal.exact.to_string()).unwrap_or_default(),
            decimal_or_none(jitter),
            registers.join(" "),
            names(findings),
        ]);
    }
    Ok(rows)
}
