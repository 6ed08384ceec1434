//! What `derive` shows of the settings for a signal.

use kairotic_core::board::Outcome;
use kairotic_core::decode::PropertyChange;
use kairotic_core::explain::Line as Sum;
use kairotic_core::quantity::LoadLevel;
use kairotic_core::search::{Derivation, FitOf, RankedSetting};
use kairotic_core::signal::{Active, Aim, Span, Target};
use serde::Serialize;

use super::board;
use super::clock::{THROUGH, way_lines};
use super::json::{Answer, SettingView};
use super::pins::{PIN, pin_lines};
use super::requirements;
use super::setting::{self, GIVES, WRITE};
use super::words;
use crate::arguments::routing::{Compared, Routing};
use crate::fault::Result;
use crate::format::{Cell, Line, Page, Report, Table, exact};

pub use super::time_base::TimeBaseReport;

/// The settings for a signal, and the arithmetic where it is wanted.
#[derive(Debug)]
pub struct DeriveReport {
    /// The settings.
    pub derivation: Derivation,
    /// What changes, where the signal is carried over from another timer.
    pub changes: Vec<PropertyChange>,
    /// What lies around the timer, as far as it was asked.
    pub around: Routing,
    /// The arithmetic, where it is wanted.
    pub working: Vec<Sum>,
    /// What becomes of it on its board, where it is a signal of one.
    pub outcome: Option<Outcome>,
}

impl Report for DeriveReport {
    fn page(&self) -> Result<Page> {
        let Derivation { timer, clock, default_clock, target, best, because, others, findings, clock_error } =
            &self.derivation;
        let place = match best.setting.outputs.as_slice() {
            [output] => format!("{}/{}", timer.path(), output.channel),
            _ => timer.path(),
        };
        let mut heading: Vec<String> = self.outcome.iter().map(|outcome| outcome.signal.clone()).collect();
        let level = self.outcome.as_ref().and_then(|outcome| outcome.asked);
        heading.extend([place, wanted(target, best, level)]);
        heading.extend(target.span.map(|span| format!("span {}", span.told())));
        heading.push(words::clock(*clock, *default_clock));
        let mut page = Page::headed(heading);
        page.push("write", WRITE, setting::writes(timer, &best.setting)?);
        let mut gives = setting::gives(&best.setting, Some(&best.fit), clock_error.as_ref());
        gives.extend(self.outcome.iter().flat_map(board::gives));
        page.push("gives", GIVES, gives);
        let checks = self.outcome.as_ref().map_or(&[][..], |outcome| &outcome.checks);
        page.push("needs", requirements::NEEDS, requirements::rows(checks));
        let mut reasons = vec![Line::Prose(because.clone())];
        reasons.extend(compared(&self.around.compared, &timer.part).map(Line::Prose));
        reasons.extend(words::working(&self.working));
        page.push("pin", PIN, pin_lines(self.around.pin.as_ref()));
        page.push("through", THROUGH, way_lines(self.around.way.as_ref()));
        page.push("because", &["figure", "arithmetic"], reasons);
        page.push("changes", CHANGES, self.changes.iter().map(change).collect());
        page.push("watch", &[], setting::findings(findings));
        page.push("or", OTHERS, others.iter().map(|choice| other(choice, best)).collect());
        Ok(page)
    }

    fn table(&self) -> Result<Table> {
        let Derivation { timer, best, others, findings, .. } = &self.derivation;
        let mut rows = setting::csv_rows(timer, 1, &best.setting, Some(&best.fit), findings)?;
        for (index, choice) in others.iter().enumerate() {
            rows.extend(setting::csv_rows(timer, index + 2, &choice.setting, Some(&choice.fit), &[])?);
        }
        Ok(Table { header: setting::CSV.to_vec(), rows })
    }

    fn json(&self) -> Result<String> {
        let derivation = &self.derivation;
        let settings = std::iter::once(&derivation.best).chain(&derivation.others);
        Answer {
            command: "derive",
            timer: &derivation.timer,
            clock: derivation.clock,
            default_clock: derivation.default_clock,
            working: &self.working,
            around: &self.around,
            clock_error: derivation.clock_error.as_ref(),
            findings: &derivation.findings,
        }
        .with(View {
            target: TargetView::of(&derivation.target),
            settings: settings
                .map(|choice| SettingView::chosen(&derivation.timer, choice))
                .collect::<Result<_>>()?,
            because: &derivation.because,
            signal: self.outcome.as_ref().map(board::SignalView::of),
            changes: self.changes.iter().map(ChangeView::of).collect(),
            compared: self.around.compared.iter().map(ComparedView::of).collect(),
        })
    }
}

/// Which of several places leads, and which ones follow.
fn compared(places: &[Compared], part: &str) -> Option<String> {
    let [leading, others @ ..] = places else { return None };
    let mut text = format!("{} leads by the rule of `survey`", leading.place);
    let follow: Vec<String> =
        others.iter().take(FOLLOWING).map(|one| format!("{} {:.1}", one.place, one.score)).collect();
    if follow.is_empty() {
        text.push_str(": no other place makes it");
    } else {
        let more = others.len().saturating_sub(FOLLOWING);
        let more = if more > 0 { format!(" and {more} more") } else { String::new() };
        let score = leading.score;
        text.push_str(&format!(
            ", with {score:.1} points; then {}{more}: --on {part}/TIMER takes another",
            follow.join(", ")
        ));
    }
    Some(text)
}

/// So many of the places that do not lead are named.
const FOLLOWING: usize = 4;

/// What was wanted, as a reader says it.
fn wanted(target: &Target, best: &RankedSetting, level: Option<LoadLevel>) -> String {
    let mut text = match target.aim {
        Aim::Frequency(frequency) => frequency.told(),
        Aim::Period(period) => format!("a period of {period}"),
        Aim::Window(window) => window.to_string(),
    };
    if let Some(level) = level {
        return format!("{text} at {}", level.told());
    }
    let several = target.asks.len() > 1;
    for (index, (ask, output)) in target.asks.iter().zip(&best.setting.outputs).enumerate() {
        text.push_str(match (index, ask.active) {
            (0, Active::Duty(_)) => " at ",
            (0, Active::Pulse(_)) => " with a pulse of ",
            _ => ", ",
        });
        text.push_str(&ask.active.told());
        if several {
            text.push_str(&format!(" on {}", output.channel));
        }
    }
    text
}

const CHANGES: &[&str] = &["property", "before", "now", "verdict"];

fn change(change: &PropertyChange) -> Line {
    let PropertyChange { what, before, after, verdict } = change;
    Line::Row(vec![
        Cell::left(what.clone()),
        Cell::left(before.clone()),
        Cell::left(after.clone()),
        Cell::left(verdict.word()),
    ])
}

const OTHERS: &[&str] = &["divider", "top", "steps", "frequency", "signals", "better at"];

/// Another setting in one line.
fn other(choice: &RankedSetting, best: &RankedSetting) -> Line {
    let RankedSetting { setting, fit, better } = choice;
    let mut notes: Vec<String> = better.iter().map(|word| (*word).to_owned()).collect();
    if setting.plan.mode != best.setting.plan.mode {
        notes.push(format!("mode {}", setting.plan.mode));
    }
    let top = match &setting.top_register {
        Some(register) => format!("{register} {}", setting.plan.top),
        None => format!("top {}", setting.plan.top),
    };
    let several = fit.signals.len() > 1;
    let named = |signal: &FitOf, channel: &str| {
        let name = if several { channel } else { signal.wanted.word() };
        format!("{name} {}", words::signal_error(signal.error, signal.exact))
    };
    let outputs = setting.outputs.iter().map(|output| output.channel.as_str());
    let signals: Vec<String> =
        fit.signals.iter().zip(outputs).map(|(signal, channel)| named(signal, channel)).collect();
    Line::Row(vec![
        Cell::left(format!("divide by {}", words::division(setting.divider))),
        Cell::left(top),
        Cell::right(words::counted(choice.steps(), "step")),
        Cell::left(words::frequency_error(fit.frequency_error, fit.frequency_exact)),
        Cell::left(signals.join(", ")),
        Cell::left(notes.join(", ")),
    ])
}

#[derive(Serialize)]
struct View<'r> {
    target: TargetView,
    settings: Vec<SettingView>,
    because: &'r str,
    #[serde(skip_serializing_if = "Option::is_none")]
    signal: Option<board::SignalView<'r>>,
    #[serde(skip_serializing_if = "Vec::is_empty")]
    changes: Vec<ChangeView<'r>>,
    #[serde(skip_serializing_if = "Vec::is_empty")]
    compared: Vec<ComparedView<'r>>,
}

/// One of several places that were compared.
#[derive(Serialize)]
struct ComparedView<'r> {
    place: &'r str,
    score_approx: f64,
}

impl<'r> ComparedView<'r> {
    fn of(compared: &'r Compared) -> Self {
        Self { place: &compared.place, score_approx: compared.score }
    }
}

/// What changes by carrying a signal over.
#[derive(Serialize)]
struct ChangeView<'r> {
    what: &'r str,
    before: &'r str,
    after: &'r str,
    verdict: &'static str,
}

impl<'r> ChangeView<'r> {
    fn of(change: &'r PropertyChange) -> Self {
        let PropertyChange { what, before, after, verdict } = change;
        Self { what, before, after, verdict: verdict.word() }
    }
}

/// What was wanted.
#[derive(Serialize)]
struct TargetView {
    #[serde(skip_serializing_if = "Option::is_none")]
    frequency_hz: Option<String>,
    #[serde(skip_serializing_if = "Option::is_none")]
    period_s: Option<String>,
    #[serde(skip_serializing_if = "Option::is_none")]
    window_hz: Option<[String; 2]>,
    #[serde(skip_serializing_if = "is_nought")]
    min_steps: u64,
    #[serde(skip_serializing_if = "Option::is_none")]
    dead_time_s: Option<String>,
    signals: Vec<AskView>,
    #[serde(skip_serializing_if = "Option::is_none")]
    span_duty: Option<[String; 2]>,
    #[serde(skip_serializing_if = "Option::is_none")]
    span_s: Option<[String; 2]>,
    within: String,
    active: &'static str,
}

#[expect(clippy::trivially_copy_pass_by_ref, reason = "serde passes a reference")]
const fn is_nought(number: &u64) -> bool {
    *number == 0
}

/// One wanted signal.
#[derive(Serialize)]
struct AskView {
    channel: Option<String>,
    #[serde(skip_serializing_if = "Option::is_none")]
    duty: Option<String>,
    #[serde(skip_serializing_if = "Option::is_none")]
    pulse_s: Option<String>,
}

impl TargetView {
    fn of(target: &Target) -> Self {
        let (frequency_hz, period_s, window_hz) = match target.aim {
            Aim::Frequency(frequency) => (Some(exact(frequency.value())), None, None),
            Aim::Period(period) => (None, Some(exact(period.value())), None),
            Aim::Window(window) => {
                (None, None, Some([window.low, window.high].map(|end| exact(end.value()))))
            }
        };
        let (span_duty, span_s) = match target.span {
            None => (None, None),
            Some(Span::Duty(range)) => (Some([range.low.value(), range.high.value()].map(exact)), None),
            Some(Span::Pulse(range)) => (None, Some([range.low.value(), range.high.value()].map(exact))),
        };
        let signals = target.asks.iter().map(|ask| {
            let (duty, pulse_s) = match ask.active {
                Active::Duty(duty) => (Some(exact(duty.value())), None),
                Active::Pulse(pulse) => (None, Some(exact(pulse.value()))),
            };
            AskView { channel: ask.channel.clone(), duty, pulse_s }
        });
        Self {
            frequency_hz,
            period_s,
            window_hz,
            min_steps: target.min_steps,
            dead_time_s: target.dead_time.map(|time| exact(time.value())),
            signals: signals.collect(),
            span_duty,
            span_s,
            within: exact(target.within.value()),
            active: target.level.word(),
        }
    }
}
