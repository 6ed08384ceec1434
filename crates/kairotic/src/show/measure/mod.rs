//! What `measure` shows of a capture.

mod page;
mod view;

use kairotic_core::capture::{
    CommonClock, Comparison, Measurement, PairMeasurement, Recorder, Spread, Timing, TracePoint,
};
use kairotic_core::setting::Derivation;
use kairotic_formats::capture::{Header, Trailer};

use super::floats::unit;
use crate::fault::Result;
use crate::plot::{Band, CapturePlot};
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

impl MeasureReport {
    /// The first signal that has a period, as a picture.
    pub fn figure(&self) -> Option<CapturePlot> {
        let (signal, timing) =
            self.signals.iter().find_map(|signal| Some((signal, signal.measurement.timing.as_ref()?)))?;
        let tick = self.recorder.tick;
        let trace = &timing.trace;
        let longest = timing.period.mean() * tick;
        let (period_unit, per_period) = unit(longest);
        let (error_unit, per_error) = unit((timing.clock.ends.1 - timing.clock.ends.0) * tick);
        let last = trace.last().map_or(0.0, |point| point.at as f64 * tick);
        let (time_unit, per_time) = unit(last);
        let band = |unit: String, ends: &dyn Fn(&TracePoint) -> (f64, f64)| Band {
            unit,
            time_unit: time_unit.to_owned(),
            points: trace
                .iter()
                .map(|point| {
                    let (least, most) = ends(point);
                    (point.at as f64 * tick / per_time, least, most)
                })
                .collect(),
        };
        let period = |ticks: f64| ticks * tick / per_period;
        let error = |ticks: f64| ticks * tick / per_error;
        let planned = signal
            .comparison
            .as_ref()
            .map(|comparison| timing.clock.period * tick * (1.0 + comparison.error) / per_period);
        let cycles = format!("{}: {} cycles", signal.name, timing.cycles);
        let bars = (2.0 * (timing.cycles as f64).sqrt()) as usize;
        let bins = timing.period.bins(bars.clamp(BINS.0, BINS.1)).into_iter();
        let shown = |planned: f64| {
            let ends = timing.period.ends();
            ends.is_some_and(|(least, most)| (period(least as f64)..=period(most as f64)).contains(&planned))
        };
        Some(CapturePlot {
            title: match planned {
                Some(planned) if shown(planned) => format!("{cycles}; the line is the planned period"),
                Some(planned) => {
                    format!("{cycles}; the planned period of {planned:.6} {period_unit} is outside")
                }
                None => cycles,
            },
            periods: band(format!("period, {period_unit}"), &|point| {
                (period(point.period.0 as f64), period(point.period.1 as f64))
            }),
            errors: band(format!("time interval error, {error_unit}"), &|point| {
                (error(point.error.0), error(point.error.1))
            }),
            bins: bins.map(|(from, to, count)| (period(from), period(to), count)).collect(),
            planned,
            allan: timing
                .allan
                .iter()
                .map(|one| (one.periods as f64 * timing.clock.period * tick, one.deviation))
                .collect(),
        })
    }
}

/// The fewest and the most bars of the picture's histogram.
const BINS: (usize, usize) = (9, 60);

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
