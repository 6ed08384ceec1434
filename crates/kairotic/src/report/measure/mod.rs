//! What `measure` shows of a capture.

mod page;
mod table;

use kairotic_core::capture::{
    Comparison, FittedClock, MeasuredTime, Measurement, PairResult, Recorder, SignalResult, Spread, Timing,
    TracePoint,
};
use kairotic_core::finding::Finding;
use kairotic_core::quantity::Time;
use serde::Serialize;

use super::floats::{self, unit};
use crate::chart::{Band, Bins, CapturePlot};
use crate::fault::Result;
use crate::format::{Page, Report, Table, envelope};

/// A capture, measured.
#[derive(Debug, Serialize)]
pub struct MeasureReport {
    /// The file.
    pub file: String,
    /// What kind of file that is.
    pub kind: &'static str,
    /// The file's tick.
    pub tick: Time,
    /// From one sample to the next.
    pub step: MeasuredTime,
    /// From the capture's start to its end.
    pub length: MeasuredTime,
    /// The signals.
    pub signals: Vec<MeasuredSignal>,
    /// Pairs of them.
    pub pairs: Vec<MeasuredPair>,
    /// The clock behind them, where it was asked for.
    pub clock: Option<FittedClock>,
    /// What was assumed of the file.
    pub notes: Vec<String>,
    /// What recorded it.
    #[serde(skip)]
    pub recorder: Recorder,
}

/// One signal.
#[derive(Debug, Serialize)]
pub struct MeasuredSignal {
    /// Its name in the capture.
    #[serde(rename = "signal")]
    pub name: String,
    /// What was measured.
    #[serde(flatten)]
    pub result: SignalResult,
    /// The same against the plan, where it is planned.
    pub plan: Option<Comparison>,
    /// The same in ticks, for pictures.
    #[serde(skip)]
    pub measurement: Measurement,
}

/// Two signals against one another.
#[derive(Debug, Serialize)]
pub struct MeasuredPair {
    /// The first.
    pub first: String,
    /// The second.
    pub second: String,
    /// What they do.
    #[serde(flatten)]
    pub result: PairResult,
}

impl MeasureReport {
    /// The first signal that has a period, as a picture.
    pub fn figure(&self) -> Option<CapturePlot> {
        let (signal, timing) =
            self.signals.iter().find_map(|signal| Some((signal, signal.measurement.timing.as_ref()?)))?;
        let allowed = signal.plan.as_ref().map(|comparison| comparison.allowed);
        let low = allowed.is_some_and(|allowed| allowed.low);
        let (name, pulse) = if low { ("low", &timing.low) } else { ("high", &timing.high) };
        let period =
            self.bins("period", &timing.period, allowed.map(|allowed| (allowed.planned, allowed.period)));
        let pulses = allowed.and_then(|allowed| Some((allowed.pulse?, allowed.pulses)));
        let pulse = self.bins(name, pulse, pulses);
        let marked = match (&period, &pulse) {
            (Bins { limits: None, .. }, Bins { limits: None, .. }) if allowed.is_some() => {
                "; the line is as planned"
            }
            _ if allowed.is_some() => "; black: nominal, orange: limits",
            _ => "",
        };
        Some(CapturePlot {
            title: format!("{}: {} cycles{marked}", signal.name, timing.cycles),
            periods: self.band("period", timing, timing.period.mean(), &|point| {
                (point.period.0 as f64, point.period.1 as f64)
            }),
            errors: self.band(
                "time interval error",
                timing,
                timing.clock.ends.1 - timing.clock.ends.0,
                &|point| point.error,
            ),
            period,
            pulse,
            allan: timing
                .allan
                .iter()
                .map(|one| (one.periods as f64 * timing.clock.period * self.recorder.tick, one.deviation))
                .collect(),
        })
    }

    /// Something over time, in the unit that suits what is `typical`; all in ticks.
    fn band(
        &self,
        name: &str,
        timing: &Timing,
        typical: f64,
        ends: &dyn Fn(&TracePoint) -> (f64, f64),
    ) -> Band {
        let tick = self.recorder.tick;
        let (unit, worth) = unit(typical * tick);
        let last = timing.trace.last().map_or(0.0, |point| point.at as f64 * tick);
        let (time_unit, per_time) = floats::unit(last);
        let point = |point: &TracePoint| {
            let (least, most) = ends(point);
            (point.at as f64 * tick / per_time, least * tick / worth, most * tick / worth)
        };
        Band {
            unit: format!("{name}, {unit}"),
            time_unit: time_unit.to_owned(),
            points: timing.trace.iter().map(point).collect(),
        }
    }

    /// How intervals are spread, with what was planned and what will do, in seconds.
    fn bins(&self, name: &str, spread: &Spread, plan: Option<(f64, Option<(f64, f64)>)>) -> Bins {
        let tick = self.recorder.tick;
        let (unit, worth) = unit(spread.mean() * tick);
        let shown = |ticks: f64| ticks * tick / worth;
        let bars = (2.0 * (spread.count() as f64).sqrt()) as usize;
        let bins = spread.bins(bars.clamp(BINS.0, BINS.1), self.recorder.interval).into_iter();
        Bins {
            unit: format!("{name}, {unit}"),
            bins: bins.map(|(from, to, count)| (shown(from), shown(to), count)).collect(),
            planned: plan.map(|(planned, _)| planned / worth),
            limits: plan.and_then(|(_, limits)| limits).map(|(low, high)| (low / worth, high / worth)),
        }
    }
}

/// The fewest and the most bars of the picture's histogram.
const BINS: (usize, usize) = (9, 60);

impl Report for MeasureReport {
    fn page(&self) -> Result<Page> {
        Ok(page::page(self))
    }

    fn table(&self) -> Result<Table> {
        Ok(table::table(self))
    }

    fn json(&self) -> Result<String> {
        let compared = self.signals.iter().filter_map(|signal| signal.plan.as_ref());
        let findings: Vec<Finding> = compared.flat_map(|comparison| comparison.findings.clone()).collect();
        envelope("measure", self, &findings)
    }
}
