//! What `derive` shows of the settings for a signal.

use kairotic_core::board::Outcome;
use kairotic_core::decode::PropertyChange;
use kairotic_core::explain::ArithmeticLine;
use kairotic_core::program::Program;
use kairotic_core::quantity::LoadLevel;
use kairotic_core::search::{Derivation, FitOf, RankedSetting};
use kairotic_core::target::{Active, Aim, Target};
use serde::Serialize;

use super::clock::{THROUGH, way_lines};
use super::pins::{PIN, pin_lines};
use super::setting::{self, GIVES, WRITE};
use super::{board, program, requirements, words};
use crate::arguments::routing::{Compared, Routing};
use crate::fault::Result;
use crate::format::{Cell, Line, Page, Report, Table, envelope};

pub use super::time_base::TimeBaseReport;

/// The settings for a signal, and the arithmetic where it is wanted.
#[derive(Debug, Serialize)]
pub struct DeriveReport {
    /// The settings.
    #[serde(flatten)]
    pub derivation: Derivation,
    /// What changes, where the signal is carried over from another timer.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub changes: Vec<PropertyChange>,
    /// What lies around the timer, as far as it was asked.
    #[serde(flatten)]
    pub around: Routing,
    /// The arithmetic, where it is wanted.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub explanation: Vec<ArithmeticLine>,
    /// What becomes of it on its board, where it is a signal of one.
    #[serde(rename = "signal", skip_serializing_if = "Option::is_none")]
    pub outcome: Option<Outcome>,
    /// Every step from reset to the moving pin, where that is wanted.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub program: Option<Program>,
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
        page.push("write", WRITE, setting::write_lines(&best.registers));
        let mut gives = setting::gives(&best.setting, Some(&best.fit), clock_error.as_ref());
        gives.extend(self.outcome.iter().flat_map(board::gives));
        page.push("gives", GIVES, gives);
        page.table("program", program::STEPS, self.program.as_ref().map(program::rows).unwrap_or_default());
        let checks = self.outcome.as_ref().map_or(&[][..], |outcome| &outcome.checks);
        page.table("needs", requirements::NEEDS, requirements::rows(checks));
        let mut reasons = vec![Line::Prose(because.clone())];
        reasons.extend(compared(&self.around.compared, &timer.part).map(Line::Prose));
        reasons.extend(words::working(&self.explanation));
        page.push("pin", PIN, pin_lines(self.around.pin.as_ref()));
        page.push("through", THROUGH, way_lines(self.around.way.as_ref()));
        page.push("because", &["figure", "arithmetic"], reasons);
        page.table("changes", CHANGES, self.changes.iter().map(change).collect());
        page.push("findings", &[], setting::findings(findings));
        page.push("or", OTHERS, others.iter().map(|choice| other(choice, best)).collect());
        Ok(page)
    }

    fn table(&self) -> Result<Table> {
        let Derivation { timer, best, others, findings, .. } = &self.derivation;
        let mut rows = setting::csv_rows(timer, 1, &best.setting, Some(&best.fit), findings)?;
        for (index, choice) in others.iter().enumerate() {
            rows.extend(setting::csv_rows(timer, index + 2, &choice.setting, Some(&choice.fit), &[])?);
        }
        Ok(Table::new(setting::CSV, rows))
    }

    fn json(&self) -> Result<String> {
        envelope("derive", self, &self.derivation.findings)
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
    let RankedSetting { setting, fit, better, .. } = choice;
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
