//! What `move` shows of a motor that is run for a time.

use kairotic_core::motion::{DriftSource, DriftSum, MoveDrift, TimedMove};
use kairotic_core::quantity::{Angle, Rational, show};
use serde::Serialize;

use super::setting;
use super::words::{brief, counted};
use crate::fault::Result;
use crate::format::{Cell, Line, Page, Report, Table, decimal, envelope};

/// A timed move.
#[derive(Debug, Serialize)]
pub struct TimedMoveReport {
    /// The move.
    #[serde(flatten)]
    pub made: TimedMove,
}

const FACTS: &[&str] = &["figure", "value", "note"];
const DRIFTS: &[&str] = &["contribution", "each move", "kind"];
const MOVES: &[&str] = &["what is left over", "adds up to", "by chance", "beyond what is allowed"];

impl Report for TimedMoveReport {
    fn page(&self) -> Result<Page> {
        let made = &self.made;
        let mut page = Page::headed([
            format!("by {}", brief(made.by)),
            format!("at {}", brief(made.speed)),
            format!("in ticks of {}", brief(made.tick)),
        ]);
        let row = |figure: &str, value: String, note: String| {
            Line::row([Cell::left(figure), Cell::point(value), Cell::left(note)])
        };
        page.push(
            "write",
            FACTS,
            vec![row("run", made.ticks.to_string(), format!("ticks, {}", brief(made.time)))],
        );
        let mut gives = vec![
            row("ideal", made.ideal.rounded(6), String::new()),
            row("tick", made.tick_angle.rounded(4), "turned in each".to_owned()),
        ];
        if let Some(plan) = made.encoder {
            let counts = show::significant(plan.counts_of_move.approx(), 4);
            let counts = format!("turned from count to count, {counts} counts in the move");
            gives.push(row("encoder", plan.resolution.rounded(4), counts));
            gives.push(row(
                "overrun",
                plan.overrun.rounded(4),
                "turned on after a count, by the latency".to_owned(),
            ));
            let hunts = "the least that keeps on and off from hunting".to_owned();
            gives.push(row("dead band", plan.dead_band.rounded(4), hunts));
        }
        page.push("gives", FACTS, gives);
        page.table("budget", DRIFTS, made.contributions.iter().map(drift).collect());
        let [dropped, carried] = made.broken_after;
        let sums = [("dropped", made.dropped, dropped), ("carried", made.carried, carried)];
        page.table("again", MOVES, sums.map(|(what, sum, broken)| self.sum(what, sum, broken)).into());
        page.push("findings", &[], setting::findings(&made.findings));
        Ok(page)
    }

    fn table(&self) -> Result<Table> {
        let degrees = |angle: Angle| decimal(angle.reported().0);
        let rows = self.made.contributions.iter().map(|MoveDrift { source, each }| {
            vec![word(*source).to_owned(), degrees(*each), kind(*source).to_owned()]
        });
        Ok(Table::new(&["contribution", "each_deg", "kind"], rows))
    }

    fn json(&self) -> Result<String> {
        envelope("move", self, &self.made.findings)
    }
}

impl TimedMoveReport {
    fn sum(&self, what: &str, sum: DriftSum, broken: Option<u32>) -> Line {
        let after =
            format!("{} after {}", sum.systematic.rounded(4), counted(self.made.moves.into(), "move"));
        let random = match sum.random.value() > 0.0 {
            true => format!("± {}", sum.random.rounded(3)),
            false => String::new(),
        };
        let beyond = match (self.made.need, broken) {
            (None, _) => String::new(),
            (Some(need), None) => format!("never more than {need}"),
            (Some(need), Some(from)) => format!("{need} from move {from} on"),
        };
        Line::row([Cell::left(what), Cell::left(after), Cell::left(random), Cell::left(beyond)])
    }
}

fn drift(MoveDrift { source, each }: &MoveDrift) -> Line {
    let sign = match source {
        DriftSource::Rounding | DriftSource::SpinUp if each.value() > Rational::ZERO => "+",
        DriftSource::Rounding | DriftSource::SpinUp => "",
        DriftSource::Clock | DriftSource::Spread => "± ",
    };
    let each = format!("{sign}{}", each.rounded(4));
    Line::row([Cell::left(word(*source)), Cell::right(each), Cell::left(kind(*source))])
}

const fn word(source: DriftSource) -> &'static str {
    match source {
        DriftSource::Rounding => "rounding to a tick",
        DriftSource::Clock => "clock",
        DriftSource::SpinUp => "spin-up and run-down",
        DriftSource::Spread => "spread of the speed",
    }
}

const fn kind(source: DriftSource) -> &'static str {
    match source.is_random() {
        true => "by chance",
        false => "the same each time",
    }
}
