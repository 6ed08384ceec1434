//! A frequency that changes slowly: edges that are off the best line by a parabola.

use super::trace::TracePoint;

/// With fewer points a parabola is no more than chance.
const FEWEST: usize = 16;
/// A parabola counts when it is so many times as large as chance would make it.
const SURE: f64 = 6.0;

/// How much the frequency changes from the first edge to the last, as a share of it; `None` where that cannot be told from
/// chance, or from steps of so many ticks.
pub(super) fn drift(trace: &[TracePoint], interval: u64) -> Option<f64> {
    let (first, last) = (trace.first()?.at as f64, trace.last()?.at as f64);
    let half = (last - first) / 2.0;
    if trace.len() < FEWEST || half <= 0.0 {
        return None;
    }
    // What is left of a line has no slope any more: of the parabola only its bend is to be found.
    let place = |point: &TracePoint| (point.at as f64 - first) / half - 1.0;
    let count = trace.len() as f64;
    let middle = trace.iter().map(|point| place(point).powi(2)).sum::<f64>() / count;
    let bend = |point: &TracePoint| place(point).powi(2) - middle;
    let off = |point: &TracePoint| f64::midpoint(point.error.0, point.error.1);
    let mean = trace.iter().map(off).sum::<f64>() / count;
    let squares: f64 = trace.iter().map(|point| bend(point).powi(2)).sum();
    let size = trace.iter().map(|point| bend(point) * (off(point) - mean)).sum::<f64>() / squares;
    let left: f64 = trace.iter().map(|point| (off(point) - mean - size * bend(point)).powi(2)).sum();
    let chance = (left / (count - 2.0) / squares).sqrt();
    // Edges late by x² at both ends: the period grows by eight times that, over the whole time.
    let sure = size.abs() > SURE * chance && size.abs() > interval.max(1) as f64;
    sure.then(|| -8.0 * size / (last - first))
}
