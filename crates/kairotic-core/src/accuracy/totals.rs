//! What all contributions make together.

use serde::Serialize;

use super::contribution::{Contribution, Reach};
use crate::error::{OrOverflow, Result};
use crate::quantity::{Deviation, Dimension, Duty, LoadLevel, Quantity, Range, Rational, Time};

/// The likely sum reaches so many times its standard uncertainty either way: where many contributions are alike, about 95
/// of 100 signals lie inside.
pub const COVERAGE: u32 = 2;

/// What all contributions make together.
#[derive(Debug, Clone, PartialEq, Serialize)]
pub struct Totals {
    /// The ends of all added up.
    pub worst: Reach,
    /// The same in the load's unit.
    pub worst_level: Option<Range<LoadLevel>>,
    /// The root of the sum of squares about what is known.
    pub likely: Likely,
}

/// A likely sum: known part, and [`COVERAGE`] times the root of the sum of squares of the others.
#[derive(Debug, Clone, PartialEq, Serialize)]
pub struct Likely {
    /// How far it takes the signal.
    pub reach: Reach,
    /// The same in the load's unit.
    pub level: Option<Range<LoadLevel>>,
}

/// The worst and the likely sum of something that each contribution has.
pub(super) fn sums(
    all: &[Contribution],
    of: impl Fn(&Contribution) -> Option<(Rational, Rational)>,
) -> Result<[(Rational, Rational); 2]> {
    let mut worst = (Rational::ZERO, Rational::ZERO);
    let (mut middle, mut squares) = (0.0, 0.0);
    for contribution in all {
        let Some((low, high)) = of(contribution) else { continue };
        worst.0 = worst.0.plus(low).or_overflow("sum")?;
        worst.1 = worst.1.plus(high).or_overflow("sum")?;
        let (low, width) = (low.approx(), high.approx() - low.approx());
        middle += low + width * contribution.mean;
        squares += (width * contribution.rms).powi(2);
    }
    if squares == 0.0 {
        return Ok([worst, worst]);
    }
    let reach = f64::from(COVERAGE) * squares.sqrt();
    // The squares of a few bounded contributions can come out wider than their ends.
    let likely = (statistic(middle - reach)?.max(worst.0), statistic(middle + reach)?.min(worst.1));
    Ok([worst, likely])
}

/// A statistic as a fraction, to twelve digits.
pub(super) fn statistic(value: f64) -> Result<Rational> {
    if value == 0.0 || !value.is_finite() {
        return Ok(Rational::ZERO);
    }
    let places = (12 - value.abs().log10().ceil() as i32).clamp(-18, 27);
    let scale = 10_i128.checked_pow(places.unsigned_abs()).or_overflow("statistic")?;
    let scaled = (value * 10_f64.powi(places)).round() as i128;
    let fraction = if places < 0 {
        scaled.checked_mul(scale).and_then(|whole| Rational::new(whole, 1))
    } else {
        Rational::new(scaled, scale)
    };
    fraction.or_overflow("statistic")
}

/// Pulse, duty and frequency of all contributions, at worst and likely.
pub(super) fn reaches(all: &[Contribution]) -> Result<[Reach; 2]> {
    let ends = |range: Range<Rational>| (range.low, range.high);
    let [pulse, likely_pulse] = sums(all, |one| Some(ends(values(one.reach.pulse))))?;
    let [duty, likely_duty] = sums(all, |one| Some(ends(values(one.reach.duty))))?;
    let [frequency, likely_frequency] = sums(all, |one| Some(ends(values(one.reach.frequency))))?;
    let reach = |pulse, duty, frequency| Reach {
        pulse: range::<_>(pulse, Time::new),
        duty: range(duty, Duty::new),
        frequency: range(frequency, Deviation::new),
    };
    Ok([reach(pulse, duty, frequency), reach(likely_pulse, likely_duty, likely_frequency)])
}

fn values<D: Dimension + Copy>(range: Range<Quantity<D>>) -> Range<Rational> {
    Range { low: range.low.value(), high: range.high.value() }
}

fn range<Q>((low, high): (Rational, Rational), of: impl Fn(Rational) -> Q) -> Range<Q> {
    Range { low: of(low), high: of(high) }
}
