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

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    fn trace(errors: &[(f64, f64)]) -> Vec<TracePoint> {
        let point = |(place, error): (u64, &(f64, f64))| TracePoint {
            at: 500 + place * 200,
            period: (200, 200),
            error: *error,
        };
        (0..).zip(errors).map(point).collect()
    }

    /// The bend of `a + b · x²` by its normal equations, with x from -1 to 1, and its standard error.
    fn bend(errors: &[f64]) -> (f64, f64) {
        let count = errors.len() as f64;
        let square = |place: usize| (2.0 * place as f64 / (count - 1.0) - 1.0).powi(2);
        let sum = |of: &dyn Fn(usize, f64) -> f64| {
            errors.iter().enumerate().map(|(n, off)| of(n, *off)).sum::<f64>()
        };
        let (z, zz) = (sum(&|n, _| square(n)), sum(&|n, _| square(n).powi(2)));
        let (y, zy) = (sum(&|_, off| off), sum(&|n, off| square(n) * off));
        let determinant = count * zz - z * z;
        let (start, bend) = ((zz * y - z * zy) / determinant, (count * zy - z * y) / determinant);
        let left = sum(&|n, off| (off - start - bend * square(n)).powi(2));
        (bend, (left / (count - 2.0) * count / determinant).sqrt())
    }

    proptest! {
        #[test]
        fn a_drift_is_a_bend_of_six_standard_errors_and_more_than_a_step(
            offs in proptest::collection::vec(-9_i32..9, 16..60), size in -60_i32..60, interval in 0_u64..20, wide in 0_i32..5,
        ) {
            let last = offs.len() as f64 - 1.0;
            let bent = |(n, off): (usize, &i32)| {
                f64::from(*off) + f64::from(size) * (2.0 * n as f64 / last - 1.0).powi(2)
            };
            let errors: Vec<f64> = offs.iter().enumerate().map(bent).collect();
            let ends: Vec<(f64, f64)> =
                errors.iter().map(|off| (off - f64::from(wide), off + f64::from(wide))).collect();
            let found = drift(&trace(&ends), interval);
            let (bend, error) = bend(&errors);
            let least = (6.0 * error).max(interval.max(1) as f64);
            prop_assume!((bend.abs() / least - 1.0).abs() > 1e-6);
            prop_assert_eq!(found.is_some(), bend.abs() > least);
            // Late by the bend at both ends, and early in the middle: the period grows by eight times that over the time.
            let expected = -8.0 * bend / (last * 200.0);
            prop_assert!(found.is_none_or(|found| (found - expected).abs() <= 1e-9 * expected.abs()), "{:?}", found);
        }
    }

    #[test]
    fn few_points_have_no_bend() {
        let off = |n: i32, count: i32| f64::from((2 * n - count + 1).pow(2));
        let parabola = |count: i32| (0..count).map(|n| (off(n, count), off(n, count))).collect::<Vec<_>>();
        assert_eq!(drift(&trace(&parabola(15)), 1), None);
        assert!(drift(&trace(&parabola(16)), 1).is_some());
        let at_once = |point: TracePoint| TracePoint { at: 500, ..point };
        assert_eq!(drift(&trace(&parabola(16)).into_iter().map(at_once).collect::<Vec<_>>(), 1), None);
        assert_eq!(drift(&[], 1), None);
    }
}
