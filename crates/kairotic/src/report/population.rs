//! What `budget --population` shows: how the signals of many boards come out.

use kairotic_core::accuracy::{Bin, Budget, Population, Share};
use kairotic_core::quantity::show;
use kairotic_core::requirement::Need;
use serde::Serialize;

use super::budget::{heading, setting_line};
use crate::chart::Histogram;
use crate::fault::Result;
use crate::format::{Cell, Line, Page, Report, Table, envelope};

/// The boards of a budget.
#[derive(Debug)]
pub struct PopulationReport {
    /// The budget that they are drawn from.
    pub budget: Budget,
    /// The boards.
    pub population: Population,
    /// The signal's name, where it is one of a board.
    pub signal: Option<String>,
}

/// Characters of the longest bar.
const BAR: usize = 40;

/// What errors are counted in: a base unit as so many of the unit that fits, and its symbol.
fn scale(population: &Population) -> (f64, &'static str) {
    use kairotic_core::quantity::LoadLevel;
    match population.unit {
        Some(LoadLevel::Angle(_)) => (360.0, "deg"),
        Some(LoadLevel::Share(_)) => (100.0, "%"),
        Some(LoadLevel::Power(_)) => (1.0, "W"),
        None => (1e6, "us"),
    }
}

impl PopulationReport {
    /// The distribution, with what is allowed of the same quantity.
    pub fn figure(&self) -> Histogram {
        let population = &self.population;
        let (factor, unit) = scale(population);
        let need = if population.unit.is_some() { Need::Level } else { Need::Pulse };
        let asked = population.shares.iter().find(|share| share.need == need);
        let note = asked.map(|share| format!("allowed: {} of {} boards", share.met, population.boards));
        let what = if population.unit.is_some() { "level" } else { "pulse" };
        Histogram {
            title: format!(
                "{} boards  {}",
                population.boards,
                heading(&self.budget, self.signal.as_ref()).join(", ")
            ),
            unit: format!("error of the {what} in {unit}"),
            bins: population
                .bins
                .iter()
                .map(|bin| (bin.low * factor, bin.high * factor, bin.count))
                .collect(),
            limit: asked.map(|share| share.limit * factor),
            note: note.unwrap_or_default(),
        }
    }

    fn value(&self, error: f64) -> String {
        let (factor, symbol) = scale(&self.population);
        // As many places as tell the columns apart.
        let width = self.population.bins.first().map_or(0.0, |bin| (bin.high - bin.low) * factor);
        let places = if width > 0.0 { (1.0 - width.log10().floor()).clamp(0.0, 12.0) as usize } else { 6 };
        format!("{:+.places$} {symbol}", error * factor)
    }
}

impl Report for PopulationReport {
    fn page(&self) -> Result<Page> {
        let population = &self.population;
        let mut page = Page::headed(heading(&self.budget, self.signal.as_ref()));
        page.push("setting", &["setting"], vec![Line::Prose(setting_line(&self.budget))]);
        let row = |figure: &str, value: String| Line::Row(vec![Cell::left(figure), Cell::left(value)]);
        let [low, middle, high] = population.quantiles.map(|error| self.value(error));
        let deviation = self.value(population.deviation);
        let rows = vec![
            row("drawn", format!("{} boards, seed {}", population.boards, population.seed)),
            row("mean error", self.value(population.mean)),
            row("standard deviation", deviation.trim_start_matches('+').to_owned()),
            row("half of them below", middle),
            row("95 of 100 between", format!("{low} and {high}")),
        ];
        page.table("boards", &["figure", "value"], rows);
        page.table("meet", MEET, population.shares.iter().map(share).collect());
        let most = population.bins.iter().map(|bin| bin.count).max().unwrap_or(1).max(1);
        let bar = |bin: &Bin| {
            let length = (f64::from(bin.count) / f64::from(most) * BAR as f64).round() as usize;
            Line::Row(vec![
                Cell::point(self.value(bin.low)),
                Cell::point(self.value(bin.high)),
                Cell::right(bin.count.to_string()),
                Cell::left("#".repeat(length)),
            ])
        };
        page.table("spread", &["from", "to", "boards", ""], population.bins.iter().map(bar).collect());
        Ok(page)
    }

    fn table(&self) -> Result<Table> {
        let header = vec!["from", "to", "boards"];
        let rows = self
            .population
            .bins
            .iter()
            .map(|bin| vec![bin.low.to_string(), bin.high.to_string(), bin.count.to_string()]);
        Ok(Table { header, rows: rows.collect() })
    }

    fn json(&self) -> Result<String> {
        let population = &self.population;
        let (factor, unit) = scale(population);
        let in_unit = |error: f64| error * factor;
        let view = View {
            signal: self.signal.as_deref(),
            boards: population.boards,
            seed: population.seed,
            unit,
            mean: in_unit(population.mean),
            standard_deviation: in_unit(population.deviation),
            quantiles: population.quantiles.map(in_unit),
            shares: population
                .shares
                .iter()
                .map(|share| ShareView {
                    requirement: share.need.words(),
                    met: share.met,
                    share: share.share,
                    interval: [share.interval.0, share.interval.1],
                })
                .collect(),
            spread: population
                .bins
                .iter()
                .map(|bin| BinView { from: in_unit(bin.low), to: in_unit(bin.high), boards: bin.count })
                .collect(),
        };
        envelope("budget", view, &[])
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

#[derive(Serialize)]
struct View<'r> {
    signal: Option<&'r str>,
    boards: u32,
    seed: u64,
    unit: &'static str,
    mean: f64,
    standard_deviation: f64,
    quantiles: [f64; 3],
    shares: Vec<ShareView>,
    spread: Vec<BinView>,
}

#[derive(Serialize)]
struct ShareView {
    requirement: &'static str,
    met: u32,
    share: f64,
    interval: [f64; 2],
}

#[derive(Serialize)]
struct BinView {
    from: f64,
    to: f64,
    boards: u32,
}
