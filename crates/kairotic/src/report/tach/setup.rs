//! A timer set up to measure a speed.

use kairotic_core::quantity::Deviation;
use kairotic_core::tach::{AtSpeed, Interval, Recommendation, SpeedReading, TachPlan, Window};

use super::super::setting::{self, GIVES, WRITE, write_lines};
use super::super::words;
use super::rpm;
use crate::fault::Result;
use crate::format::{Cell, Line, Page, Report, Table, decimal, envelope};

/// A timer set up to measure a speed.
#[derive(Debug)]
pub struct SetupReport {
    /// The plan.
    pub plan: TachPlan,
}

fn figure(name: &str, value: String, note: impl Into<String>) -> Line {
    Line::row([Cell::left(name), Cell::point(value), Cell::left(note)])
}

/// What the timer does between two pulses.
fn interval(plan: &TachPlan, interval: &Interval) -> Vec<Line> {
    let Interval { counter, counter_bits, counts: (fewest, most), slowest, stop, overflow, .. } = interval;
    let round = format!("free running, wraps after {}", overflow.rounded(4));
    let ends = format!("at {}, {most} at {}", plan.speeds.high.rounded(6), plan.speeds.low.rounded(6));
    vec![
        figure("tick", counter.tick.rounded(4), format!("divide by {}", words::division(counter.divider))),
        figure("counter", format!("{counter_bits} bit"), round),
        figure("counts", fewest.to_string(), ends),
        figure("slowest", slowest.rounded(4), "lowest speed that it can measure"),
        figure(
            "timeout",
            stop.rounded(4),
            format!("without a pulse means slower than {}", plan.speeds.low.rounded(6)),
        ),
    ]
}

/// What a window sees.
fn window(plan: &TachPlan) -> Vec<Line> {
    let Window { length, step, counts: (fewest, most), needed_bits, slowest, stop } = &plan.window;
    let by = match plan.counts_pulses {
        true => "counted by the timer's counter, clocked by the pulses",
        false => "counted in an interrupt of the pin: this timer cannot be clocked by pulses",
    };
    let ends = format!("at {}, {most} at {}", plan.speeds.low.rounded(6), plan.speeds.high.rounded(6));
    vec![
        figure("length", length.rounded(6), by),
        figure("counts", fewest.to_string(), ends),
        figure("counter", format!("{needed_bits} bit"), "are enough"),
        figure("step", step.rounded(4), "from one reading to the next, at every speed"),
        figure("slowest", slowest.rounded(4), "lowest speed with at least one pulse per window"),
        figure("timeout", stop.rounded(4), "without a pulse means stopped"),
    ]
}

fn speeds(plan: &TachPlan) -> Vec<Line> {
    let step = |reading: &Option<SpeedReading>| {
        Cell::point(reading.as_ref().map(|reading| reading.step.rounded(3)).unwrap_or_default())
    };
    let line = |at: &AtSpeed| {
        let takes = at.interval.as_ref().map(|interval| interval.takes.rounded(4));
        Line::row([
            Cell::point(at.speed.rounded(4)),
            step(&at.interval),
            Cell::left(takes.map(|takes| format!("in {takes}")).unwrap_or_default()),
            step(&at.turn),
            Cell::point(at.window.step.rounded(3)),
            Cell::left(at.finer().word()),
        ])
    };
    if plan.interval.is_none() {
        return Vec::new();
    }
    plan.at.iter().map(line).collect()
}

/// Why it is so, with the numbers in it.
fn because(plan: &TachPlan) -> Vec<Line> {
    let mut lines = Vec::new();
    let pulses = plan.pulses_per_turn;
    if let Some(Interval { counter, largest, stop, .. }) = &plan.interval {
        let low = rpm(plan.speeds.low).map(|low| low.to_string()).unwrap_or_default();
        let sums = [
            ("between pulses", format!("60 s / ({low} · {pulses}) = {}", stop.rounded(6))),
            ("tick", format!("at least {} / {largest}, so {}", stop.rounded(6), counter.tick.rounded(4))),
        ];
        lines.extend(sums.into_iter().map(|(name, sum)| Line::row([Cell::left(name), Cell::left(sum)])));
        if let Some(crossover) = plan.crossover {
            let (tick, window) = (counter.tick.rounded(4), plan.window.length.rounded(4));
            let sum = format!("60 s / ({pulses} · √({tick} · {window})) = {}", crossover.rounded(4));
            lines.push(Line::row([Cell::left("equally fine"), Cell::left(sum)]));
        }
    }
    let words = match (plan.recommendation, plan.crossover) {
        (Recommendation::Period, _) => {
            "a period tells all these speeds more finely than the window".to_owned()
        }
        (Recommendation::Window, None) => {
            let inputs = plan.timer.block.inputs.as_ref();
            let instead = inputs.and_then(|inputs| inputs.instead.as_ref());
            let instead = instead.map(|instead| format!("; what can, on this part: {instead}"));
            format!("this timer cannot time pulses{}", instead.unwrap_or_default())
        }
        (Recommendation::Window, Some(_)) => {
            "the window tells all these speeds more finely than a period".to_owned()
        }
        (Recommendation::Both, _) => {
            let crossover = plan.crossover.map(|speed| speed.rounded(4)).unwrap_or_default();
            format!("a period is finer below {crossover}, the window above")
        }
    };
    lines.push(Line::Prose(words));
    if let Some(AtSpeed { turn: Some(turn), window, .. }) = plan.at.last()
        && turn.step < window.step
    {
        let step = turn.step.rounded(3);
        let words =
            format!("timed over a whole revolution, the coarsest step is {step}, one reading per revolution");
        lines.push(Line::Prose(words));
    }
    if plan.clock.deviation != Deviation::ZERO {
        let off = plan.clock.deviation.told();
        lines.push(Line::Prose(format!("besides, all readings are off by up to {off}, as the clock is")));
    }
    lines
}

impl Report for SetupReport {
    fn page(&self) -> Result<Page> {
        let plan = &self.plan;
        let (low, high) = (plan.speeds.low, plan.speeds.high);
        let mut page = Page::headed([
            plan.timer.path(),
            format!("{} to {}", low.rounded(6), high.rounded(6)),
            format!("{} per revolution", words::counted(plan.pulses_per_turn.into(), "pulse")),
            words::clock(plan.clock, plan.default_clock),
        ]);
        if let Some(interval) = &plan.interval {
            page.push("write", WRITE, write_lines(&interval.counter.writes));
            page.push("period", GIVES, self::interval(plan, interval));
        }
        page.push("window", GIVES, window(plan));
        page.table(
            "steps",
            &["speed", "by period", "takes", "by revolution", "by window", "finer"],
            speeds(plan),
        );
        page.push("because", &["what", "sum"], because(plan));
        page.push("findings", &[], setting::findings(&plan.findings));
        Ok(page)
    }

    fn table(&self) -> Result<Table> {
        let header = ["speed_rpm", "method", "counts", "step_rpm", "takes_s"];
        let mut rows = Vec::new();
        for at in &self.plan.at {
            let readings = [("period", &at.interval), ("turn", &at.turn)];
            let timed = readings.into_iter().filter_map(|(name, reading)| Some((name, reading.as_ref()?)));
            for (method, reading) in timed.chain([("window", &at.window)]) {
                rows.push(vec![
                    rpm(at.speed).map(decimal).unwrap_or_default(),
                    method.to_owned(),
                    reading.counts.to_string(),
                    rpm(reading.step).map(decimal).unwrap_or_default(),
                    decimal(reading.takes.value()),
                ]);
            }
        }
        Ok(Table::new(&header, rows))
    }

    fn json(&self) -> Result<String> {
        envelope("tach", &self.plan, &self.plan.findings)
    }
}
