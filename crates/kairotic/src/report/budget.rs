//! What `budget` shows: the contributions, what they make together, and what that means for what is required.

use kairotic_core::accuracy::{Budget, Contribution, ErrorSource, Reach};
use kairotic_core::quantity::{Dimension, LoadLevel, Quantity, Range, Rational, Time, show};
use kairotic_core::signal::Need;
use serde::Serialize;

use super::words::{self, brief};
use super::{requirements, setting};
use crate::chart::Bars;
use crate::fault::Result;
use crate::format::{Cell, Line, Page, Report, Table, column, decimal, decimal_or_none, envelope};
use crate::hints;

/// The budget of a signal.
#[derive(Debug, Serialize)]
pub struct BudgetReport {
    /// The budget.
    #[serde(flatten)]
    pub budget: Budget,
    /// The signal's name, where it is one of a board.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub signal: Option<String>,
}

const CONTRIBUTIONS: &[&str] = &["contribution", "pulse", "duty", "frequency", "level", "used"];

/// Where, what is wanted, and from which clock.
pub fn heading(budget: &Budget, signal: Option<&String>) -> Vec<String> {
    let derivation = &budget.derivation;
    let output = derivation.best.setting.outputs.first();
    let place = output.map_or_else(
        || derivation.timer.path(),
        |output| format!("{}/{}", derivation.timer.path(), output.channel),
    );
    let mut heading: Vec<String> = signal.cloned().into_iter().collect();
    let (pulse, period) = (budget.wanted_pulse, budget.wanted_period);
    heading.push(place);
    heading.push(format!("pulse {} in {}", brief(pulse), brief(period)));
    heading.extend(budget.level.map(|level| level.rounded(5)));
    heading.push(words::clock(derivation.clock, derivation.default_clock));
    heading
}

/// A setting in a few words.
pub fn setting_line(budget: &Budget) -> String {
    let setting = &budget.derivation.best.setting;
    let top = setting.top_register.as_ref().map(|name| format!(", {name} {}", setting.plan.top));
    let compare = setting.outputs.first().and_then(|output| output.compare);
    let compare = compare.map(|compare| format!(", compare {compare}")).unwrap_or_default();
    format!("divide by {}{}{compare}", setting.divider.mixed(), top.unwrap_or_default())
}

impl Report for BudgetReport {
    fn page(&self) -> Result<Page> {
        let budget = &self.budget;
        let mut page = Page::headed(heading(budget, self.signal.as_ref()));
        page.push("setting", &["setting"], vec![Line::Prose(setting_line(budget))]);
        let mut rows: Vec<Line> = budget
            .contributions
            .iter()
            .map(|one| {
                let share = self.share(&one.reach, one.level);
                row(one.cause.words(), &one.reach, one.level, share)
            })
            .collect();
        if rows.is_empty() {
            rows.push(Line::Prose("nothing that is known takes it away from what is wanted".to_owned()));
        }
        page.table("budget", CONTRIBUTIONS, rows);
        page.push(
            "from",
            &["contribution", "kind", "source"],
            budget.contributions.iter().map(source).collect(),
        );
        let totals = &budget.totals;
        let together = vec![
            row(
                "worst case",
                &totals.worst,
                totals.worst_level,
                self.share(&totals.worst, totals.worst_level),
            ),
            row(
                "likely, 95 %",
                &totals.likely.reach,
                totals.likely.level,
                self.share(&totals.likely.reach, totals.likely.level),
            ),
        ];
        page.table("sums", CONTRIBUTIONS, together);
        page.push("jitter", &["figure", "value", "note"], self.jitter());
        page.table("needs", requirements::CASES, requirements::cases(&budget.checks));
        page.push("largest", &[], self.largest().into_iter().map(Line::Prose).collect());
        page.push("update", &[], vec![Line::Prose(self.update())]);
        let mut watch = Vec::new();
        if !budget.clock_known {
            let text = "nothing is known of the clock's deviation, and none is counted: write it behind the clock, as in \
                        16MHz+-1%";
            watch.push(Line::Prose(text.to_owned()));
        }
        watch.extend(setting::findings(&budget.findings));
        page.push("findings", &[], watch);
        Ok(page)
    }

    fn table(&self) -> Result<Table> {
        let unit = self.budget.totals.worst_level.and_then(|level| level.low.reported().1);
        let [level_low, level_high] = ["level_error_low", "level_error_high"].map(|name| column(name, unit));
        let header = [
            "contribution",
            "kind",
            "pulse_error_low_s",
            "pulse_error_high_s",
            "duty_error_low",
            "duty_error_high",
            "frequency_error_low",
            "frequency_error_high",
            &level_low,
            &level_high,
            "pulse_rms_s",
        ];
        let row = |name: &str, kind: &str, reach: &Reach, level: Option<Range<LoadLevel>>, rms: String| {
            let level = |end: fn(Range<LoadLevel>) -> LoadLevel| {
                decimal_or_none(level.map(|level| end(level).reported().0))
            };
            vec![
                name.to_owned(),
                kind.to_owned(),
                decimal(reach.pulse.low.value()),
                decimal(reach.pulse.high.value()),
                decimal(reach.duty.low.value()),
                decimal(reach.duty.high.value()),
                decimal(reach.frequency.low.value()),
                decimal(reach.frequency.high.value()),
                level(|level| level.low),
                level(|level| level.high),
                rms,
            ]
        };
        let totals = &self.budget.totals;
        let mut rows: Vec<Vec<String>> = self
            .budget
            .contributions
            .iter()
            .map(|one| {
                let rms = show::significant(one.pulse_rms(), 6);
                row(one.cause.words(), one.nature.word(), &one.reach, one.level, rms)
            })
            .collect();
        rows.push(row("worst case", "total", &totals.worst, totals.worst_level, String::new()));
        rows.push(row("likely", "total", &totals.likely.reach, totals.likely.level, String::new()));
        Ok(Table::new(&header, rows))
    }

    fn json(&self) -> Result<String> {
        envelope("budget", self, &self.budget.findings)
    }
}

impl BudgetReport {
    /// The contributions as bars: in the load's unit where there is one, else of the pulse.
    pub fn figure(&self) -> Bars {
        let budget = &self.budget;
        let totals = &budget.totals;
        let worst = totals.worst.worst_pulse().value().approx();
        let (scale, unit, what) = match budget.level {
            Some(LoadLevel::Angle(_)) => (360.0, "deg", "angle"),
            Some(LoadLevel::Share(_)) => (100.0, "%", "level"),
            Some(LoadLevel::Power(_)) => (1.0, "W", "power"),
            None if worst < 1e-6 => (1e9, "ns", "pulse"),
            None if worst < 1e-3 => (1e6, "us", "pulse"),
            None => (1e3, "ms", "pulse"),
        };
        let ends = |reach: &Reach, level: Option<Range<LoadLevel>>| match level {
            Some(level) => (level.low.value().approx() * scale, level.high.value().approx() * scale),
            None => (reach.pulse.low.value().approx() * scale, reach.pulse.high.value().approx() * scale),
        };
        let mut rows: Vec<(String, f64, f64, bool)> = budget
            .contributions
            .iter()
            .map(|one| {
                let (low, high) = ends(&one.reach, one.level);
                (one.cause.words().to_owned(), low, high, false)
            })
            .collect();
        let sums = [
            ("worst case", &totals.worst, totals.worst_level),
            ("likely, 95 %", &totals.likely.reach, totals.likely.level),
        ];
        rows.extend(sums.map(|(name, reach, level)| {
            let (low, high) = ends(reach, level);
            (name.to_owned(), low, high, true)
        }));
        let need = if budget.level.is_some() { Need::Level } else { Need::Pulse };
        let limit = limit_of(budget, need);
        Bars {
            title: format!("Error budget of {}", heading(budget, self.signal.as_ref()).join(", ")),
            unit: format!("error of the {what} in {unit}"),
            rows,
            limit: limit.map(|limit| limit.approx() * scale),
        }
    }

    /// How much of what is allowed something takes: of the level's error, else of the pulse's, else of the frequency's.
    fn share(&self, reach: &Reach, level: Option<Range<LoadLevel>>) -> String {
        let limit = |need: Need| limit_of(&self.budget, need);
        let of_level =
            limit(Need::Level).zip(level).map(|(most, level)| (LoadLevel::further(level).value(), most));
        let of_pulse = limit(Need::Pulse).map(|most| (reach.worst_pulse().value(), most));
        let of_frequency = limit(Need::Frequency).map(|most| (reach.worst_frequency().value(), most));
        match of_level.or(of_pulse).or(of_frequency) {
            Some((is, most)) if most.is_positive() => {
                format!("{} %", show::significant(is.approx() / most.approx() * 100.0, 3))
            }
            _ => String::new(),
        }
    }

    /// How periods and pulses differ from one to the next, where a divider is fractional or a mode dithers.
    fn jitter(&self) -> Vec<Line> {
        let setting = &self.budget.derivation.best.setting;
        let Some(jitter) =
            setting.jitter.filter(|jitter| jitter.peak_to_peak.max(jitter.pulses) > Time::ZERO)
        else {
            return Vec::new();
        };
        let rate = setting.frequency.value().approx() / jitter.repeats as f64;
        let rate = show::significant(rate, 4);
        let rms = format!("{} ns RMS of a single period", show::significant(jitter.rms * 1e9, 4));
        let again = words::counted(jitter.repeats, "period");
        let row = |figure: &str, value: String, note: String| {
            Line::Row(vec![Cell::left(figure), Cell::point(value), Cell::left(note)])
        };
        vec![
            row("peak to peak", jitter.peak_to_peak.max(jitter.pulses).rounded(4), rms),
            row("again after", again, format!("{rate} times a second")),
        ]
    }

    fn largest(&self) -> Vec<String> {
        let budget = &self.budget;
        let Some(largest) = budget.largest.and_then(|place| budget.contributions.get(place)) else {
            return Vec::new();
        };
        let [is, all] = match (largest.level, budget.totals.worst_level) {
            (Some(is), Some(all)) if !is.low.value().is_zero() || !is.high.value().is_zero() => {
                [is, all].map(|range| LoadLevel::further(range).rounded(4))
            }
            _ => [&largest.reach, &budget.totals.worst].map(|reach| reach.worst_pulse().rounded(4)),
        };
        let mut lines = vec![format!("{}: {is} of the {all} of the worst case", largest.cause.words())];
        if largest.cause == ErrorSource::Load {
            lines
                .push("calibrate the load that is there (scale --observed), or take a better one".to_owned());
            return lines;
        }
        lines.push(match &budget.remedy {
            Some(improvement) => format!(
                "{}: the worst case is {} then",
                hints::of_improvement(improvement),
                improvement.worst.rounded(4)
            ),
            None => {
                "no other setting, timer or clock of this part that was tried makes it smaller".to_owned()
            }
        });
        lines
    }

    fn update(&self) -> String {
        let update = &self.budget.update;
        match (update.glitch, update.safe_until) {
            (Some(glitch), _) => format!(
                "a new compare value takes effect {}: one pulse may come out up to {} too long",
                update.point.words(),
                glitch.rounded(4)
            ),
            (None, Some(safe)) => format!(
                "a new compare value takes effect {}, and is written before the shortest pulse of {} is over",
                update.point.words(),
                safe.rounded(4)
            ),
            (None, None) => format!(
                "a new compare value is buffered and takes effect {}, at most {} later",
                update.point.words(),
                update.wait.rounded(4)
            ),
        }
    }
}

fn source(one: &Contribution) -> Line {
    let mut text = one.says.clone();
    if let Some(repeats) = one.repeats {
        let rms = show::significant(one.pulse_rms() * 1e9, 3);
        text.push_str(&format!("; {rms} ns RMS, again after {}", words::counted(repeats, "period")));
    }
    Line::Row(vec![Cell::left(one.cause.words()), Cell::left(one.nature.word()), Cell::left(text)])
}

fn row(name: &str, reach: &Reach, level: Option<Range<LoadLevel>>, share: String) -> Line {
    let level = level.map(|level| {
        ends(level.low.value(), level.high.value(), level.low.rounded(4), level.high.rounded(4))
    });
    Line::Row(vec![
        Cell::left(name),
        Cell::left(of_range(reach.pulse)),
        Cell::left(of_range(reach.duty)),
        Cell::left(of_range(reach.frequency)),
        Cell::left(level.unwrap_or_default()),
        Cell::right(share),
    ])
}

fn of_range<D: Dimension + Copy>(range: Range<Quantity<D>>) -> String {
    ends(range.low.value(), range.high.value(), range.low.rounded(4), range.high.rounded(4))
}

/// Two ends with their signs; nothing where both are zero, one where they are the same.
pub fn ends(low: Rational, high: Rational, low_text: String, high_text: String) -> String {
    let signed = |value: Rational, text: String| if value.is_positive() { format!("+{text}") } else { text };
    if low.is_zero() && high.is_zero() {
        return String::new();
    }
    if low == high {
        return signed(low, low_text);
    }
    // The unit stands once where it is the same.
    let (low_text, high_text) = (signed(low, low_text), signed(high, high_text));
    match (low_text.split_once(' '), high_text.split_once(' ')) {
        (Some((number, unit)), Some((_, other))) if unit == other => format!("{number}..{high_text}"),
        _ => format!("{low_text}..{high_text}"),
    }
}

/// The limit of a requirement, in base units.
fn limit_of(budget: &Budget, need: Need) -> Option<Rational> {
    budget.checks.iter().find(|check| check.requirement == need).map(|check| check.limit.value())
}
