//! What `budget --population` shows: how the signals of many boards come out.

use kairotic_core::accuracy::{Bin, Budget, MeasuredError, Population, Share};
use kairotic_core::quantity::show;
use kairotic_core::signal::Need;
use serde::Serialize;

use super::budget::{heading, setting_line};
use crate::chart::Histogram;
use crate::fault::Result;
use crate::format::{Cell, Line, Page, Report, Table, column, envelope};

/// The boards of a budget.
#[derive(Debug, Serialize)]
pub struct PopulationReport {
    /// The signal's name, where it is one of a board.
    pub signal: Option<String>,
    /// The boards.
    #[serde(flatten)]
    pub population: Population,
    /// The budget that they are drawn from.
    #[serde(skip)]
    pub budget: Budget,
}

/// Characters of the longest bar.
const BAR: usize = 40;

/// What errors are told in: a base unit as so many of the unit that fits, and its symbol.
const fn scale(error: MeasuredError) -> (f64, &'static str) {
    match error {
        MeasuredError::Angle(_) => (360.0, "deg"),
        MeasuredError::Share(_) => (100.0, "%"),
        MeasuredError::Power(_) => (1.0, "W"),
        MeasuredError::Pulse(_) => (1e6, "us"),
    }
}

impl PopulationReport {
    /// The distribution, with what is allowed of the same quantity.
    pub fn figure(&self) -> Histogram {
        let population = &self.population;
        let (factor, unit) = scale(population.mean);
        let (need, what) = match population.mean {
            MeasuredError::Pulse(_) => (Need::Pulse, "pulse"),
            _ => (Need::Level, "level"),
        };
        let asked = population.shares.iter().find(|share| share.need == need);
        let note = asked.map(|share| format!("allowed: {} of {} boards", share.met, population.boards));
        Histogram {
            title: format!(
                "{} boards  {}",
                population.boards,
                heading(&self.budget, self.signal.as_ref()).join(", ")
            ),
            unit: format!("error of the {what} in {unit}"),
            bins: population
                .spread
                .iter()
                .map(|bin| (bin.from.value() * factor, bin.to.value() * factor, bin.boards))
                .collect(),
            limit: asked.map(|share| share.limit * factor),
            note: note.unwrap_or_default(),
        }
    }

    fn value(&self, error: MeasuredError) -> String {
        let (factor, symbol) = scale(error);
        // As many places as tell the columns apart.
        let width = self.population.spread.first();
        let width = width.map_or(0.0, |bin| (bin.to.value() - bin.from.value()) * factor);
        let places = if width > 0.0 { (1.0 - width.log10().floor()).clamp(0.0, 12.0) as usize } else { 6 };
        format!("{:+.places$} {symbol}", error.value() * factor)
    }
}

impl Report for PopulationReport {
    fn page(&self) -> Result<Page> {
        let population = &self.population;
        let mut page = Page::headed(heading(&self.budget, self.signal.as_ref()));
        page.push("setting", &["setting"], vec![Line::Prose(setting_line(&self.budget))]);
        let row = |figure: &str, value: String| Line::Row(vec![Cell::left(figure), Cell::left(value)]);
        let [low, middle, high] = population.quantiles.map(|error| self.value(error));
        let deviation = self.value(population.standard_deviation);
        let rows = vec![
            row("drawn", format!("{} boards, seed {}", population.boards, population.seed)),
            row("mean error", self.value(population.mean)),
            row("standard deviation", deviation.trim_start_matches('+').to_owned()),
            row("half of them below", middle),
            row("95 of 100 between", format!("{low} and {high}")),
        ];
        page.table("boards", &["figure", "value"], rows);
        page.table("meet", MEET, population.shares.iter().map(share).collect());
        let most = population.spread.iter().map(|bin| bin.boards).max().unwrap_or(1).max(1);
        let bar = |bin: &Bin| {
            let length = (f64::from(bin.boards) / f64::from(most) * BAR as f64).round() as usize;
            Line::Row(vec![
                Cell::point(self.value(bin.from)),
                Cell::point(self.value(bin.to)),
                Cell::right(bin.boards.to_string()),
                Cell::left("#".repeat(length)),
            ])
        };
        page.table("spread", &["from", "to", "boards", ""], population.spread.iter().map(bar).collect());
        Ok(page)
    }

    fn table(&self) -> Result<Table> {
        let unit = self.population.spread.first().and_then(|bin| bin.from.reported().1);
        let [from, to] = ["from", "to"].map(|name| column(name, unit));
        let header = [&from, &to, "boards"];
        let rows = self.population.spread.iter().map(|bin| {
            let [from, to] = [bin.from, bin.to].map(|end| end.reported().0.to_string());
            vec![from, to, bin.boards.to_string()]
        });
        Ok(Table::new(&header, rows))
    }

    fn json(&self) -> Result<String> {
        envelope("budget", self, &[])
    }
}

const MEET: &[&str] = &["requirement", "boards", "share", "of all boards there could be"];

fn share(share: &Share) -> Line {
    let percent = |share: f64| show::significant(share * 100.0, 4);
    Line::Row(vec![
        Cell::left(share.need.words()),
        Cell::right(share.met.to_string()),
        Cell::left(format!("{} %", percent(share.share))),
        Cell::left(format!(
            "{} to {} %, with a confidence of 95 %",
            percent(share.interval.0),
            percent(share.interval.1)
        )),
    ])
}
