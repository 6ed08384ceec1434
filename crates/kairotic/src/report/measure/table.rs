//! A measured capture as a table: a row a signal.

use kairotic_core::capture::TimingResult;

use super::super::setting::names;
use super::MeasureReport;
use crate::format::Table;

pub(super) fn table(report: &MeasureReport) -> Table {
    let rows = report.signals.iter().map(|signal| {
        let result = &signal.result;
        let some = |value: &dyn Fn(&TimingResult) -> Option<f64>| {
            result.timing.as_ref().and_then(value).map(|value| value.to_string()).unwrap_or_default()
        };
        let of = |value: &dyn Fn(&TimingResult) -> f64| some(&|timing| Some(value(timing)));
        let comparison = signal.plan.as_ref();
        vec![
            signal.name.clone(),
            result.edges.to_string(),
            result.timing.as_ref().map(|timing| timing.cycles.to_string()).unwrap_or_default(),
            of(&|timing| timing.frequency.value()),
            some(&|timing| Some(timing.frequency_uncertainty?.value())),
            of(&|timing| timing.duty.value()),
            some(&|timing| Some(timing.duty_uncertainty?.value())),
            of(&|timing| timing.high.mean.value()),
            some(&|timing| Some(timing.high.mean_uncertainty?.value())),
            of(&|timing| timing.low.mean.value()),
            of(&|timing| timing.period.peak_to_peak.value()),
            of(&|timing| timing.period.deviation.value()),
            result.missing.count.to_string(),
            result.doubled.count.to_string(),
            result.glitches.count.to_string(),
            comparison.map(|one| one.cause.word().to_owned()).unwrap_or_default(),
            comparison.map(|one| names(&one.findings)).unwrap_or_default(),
        ]
    });
    let header = [
        "signal",
        "edges",
        "cycles",
        "frequency_hz",
        "frequency_uncertainty_hz",
        "duty",
        "duty_uncertainty",
        "high_s",
        "high_uncertainty_s",
        "low_s",
        "period_peak_to_peak_s",
        "period_deviation_s",
        "missing",
        "doubled",
        "glitches",
        "cause",
        "findings",
    ];
    Table::new(&header, rows)
}
