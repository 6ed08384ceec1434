//! What `measure` shows of a capture.

mod page;
mod view;

use kairotic_core::capture::{
    CommonClock, Comparison, Measurement, PairMeasurement, Recorder, Spread, Timing,
};
use kairotic_core::quantity::{Dimension, Quantity, Rational};
use kairotic_core::setting::Derivation;
use kairotic_formats::capture::{Header, Trailer};

use crate::fault::Result;
use crate::render::{Page, Report, Table};

/// A capture, measured.
#[derive(Debug)]
pub struct MeasureReport {
    /// The file.
    pub file: String,
    /// What it says of itself.
    pub header: Header,
    /// What it left at its end.
    pub trailer: Trailer,
    /// What recorded it.
    pub recorder: Recorder,
    /// Whether the accuracy of the recorder's clock was stated.
    pub stated: bool,
    /// The signals.
    pub signals: Vec<MeasuredSignal>,
    /// Pairs of them.
    pub pairs: Vec<MeasuredPair>,
    /// The clock behind them, where it was asked for.
    pub clock: Option<FittedClock>,
}

/// One signal.
#[derive(Debug)]
pub struct MeasuredSignal {
    /// Its name in the capture.
    pub name: String,
    /// What was measured.
    pub measurement: Measurement,
    /// The same against the plan, where it is planned.
    pub comparison: Option<Comparison>,
}

/// Two signals against one another.
#[derive(Debug)]
pub struct MeasuredPair {
    /// The first.
    pub first: String,
    /// The second.
    pub second: String,
    /// What they do.
    pub measurement: PairMeasurement,
}

/// The clock behind the planned signals.
#[derive(Debug)]
pub struct FittedClock {
    /// What it is off by.
    pub common: CommonClock,
    /// Each signal with registers for it.
    pub derived: Vec<(String, Derivation)>,
}

/// A measured number as text with a unit.
fn shown<D: Dimension + Copy>(value: f64, digits: usize) -> String {
    Rational::measured(value).map(|value| Quantity::<D>::new(value).rounded(digits)).unwrap_or_default()
}

/// The parts of a duration that no tick can resolve are not shown: digits down to a tenth of a tick.
fn digits(value: f64, tick: f64) -> usize {
    let wanted = (value.abs() / tick).max(1.0).log10().floor() as usize + 2;
    wanted.clamp(3, 12)
}

/// Mean high time over mean period.
fn duty(timing: &Timing) -> f64 {
    timing.high.total() as f64 / (timing.period.total() as f64).max(1.0)
}

/// Longest less shortest, in ticks.
fn peak_to_peak(spread: &Spread) -> i64 {
    spread.ends().map_or(0, |(least, most)| most - least)
}

impl Report for MeasureReport {
    fn page(&self) -> Result<Page> {
        Ok(page::page(self))
    }

    fn table(&self) -> Result<Table> {
        Ok(view::table(self))
    }

    fn json(&self) -> Result<String> {
        Ok(serde_json::to_string_pretty(&view::View::of(self)?)?)
    }
}
