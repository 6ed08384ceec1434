//! From a wanted active time to a compare value, in whole numbers.

use crate::error::{OrOverflow, Result};
use crate::part::{ComparePoint, LinearLaw};
use crate::quantity::Rational;
use crate::target::Active;

/// A wanted active time as the search uses it: a fraction of source clocks, or of the period.
#[derive(Debug, Clone, Copy)]
pub(crate) enum Wanted {
    /// So many source clocks.
    Clocks { numerator: i128, denominator: i128 },
    /// Such a share of the period.
    Share { numerator: i128, denominator: i128 },
}

/// One division and one top: what a compare value is measured in.
#[derive(Debug, Clone, Copy)]
pub(crate) struct Ruler {
    /// The division in units of `1 / 2^fraction_bits`.
    pub(crate) scaled: u64,
    /// Bits after the division's point, dither included.
    pub(crate) fraction_bits: u32,
    /// Bits of the ticks that only count on average.
    pub(crate) dither_bits: u32,
    /// The top.
    pub(crate) top: u64,
    /// Ticks in a period.
    pub(crate) ticks: u64,
}

/// The compare value nearest to a wanted active time.
#[derive(Debug, Clone, Copy)]
pub(crate) struct Nearest {
    /// The compare value.
    pub(crate) compare: u64,
    /// Numerator of the distance from what is wanted, in source clocks.
    pub(crate) error: u128,
    /// Its denominator.
    pub(crate) error_scale: u128,
    /// Whether what is wanted is met, in a whole number of source clocks.
    pub(crate) exact: bool,
}

impl Wanted {
    /// What `active` means for a counter with this source clock.
    pub(crate) fn of(active: Active, clock: Rational) -> Result<Self> {
        Ok(match active {
            Active::Duty(duty) => {
                Self::Share { numerator: duty.value().numerator(), denominator: duty.value().denominator() }
            }
            Active::Pulse(pulse) => {
                let clocks = pulse.value().times(clock).or_overflow("pulse in source clocks")?;
                Self::Clocks { numerator: clocks.numerator(), denominator: clocks.denominator() }
            }
        })
    }

    /// The wanted active time in compare steps, as a fraction.
    fn sub_ticks(self, law: &LinearLaw, ruler: Ruler) -> Option<(i128, i128)> {
        let per_tick = i128::from(law.per_tick);
        match self {
            Self::Clocks { numerator, denominator } => Some((
                numerator.checked_mul(per_tick)?.checked_mul(1 << ruler.fraction_bits)?,
                denominator.checked_mul(ruler.scaled.into())?,
            )),
            Self::Share { numerator, denominator } => {
                Some((numerator.checked_mul(per_tick)?.checked_mul(ruler.ticks.into())?, denominator))
            }
        }
    }
}

/// The compare value whose active time is nearest to `wanted`; halves go to the shorter pulse. `None` on overflow.
pub(crate) fn nearest(law: &LinearLaw, limit: u64, ruler: Ruler, wanted: Wanted) -> Option<Nearest> {
    let (numerator, denominator) = wanted.sub_ticks(law, ruler)?;
    let gain = i128::from(law.gain);
    let rest = law.sub_ticks(ruler.top, 0);
    let (low, high) = legal(law, limit, ruler);
    let below =
        floor_over(numerator.checked_sub(rest.checked_mul(denominator)?)?, gain.checked_mul(denominator)?);
    let mut best: Option<(i128, i128, i128)> = None;
    for compare in [below.clamp(low, high), (below + 1).clamp(low, high)] {
        let active = rest + gain * compare;
        let distance = active.checked_mul(denominator)?.checked_sub(numerator)?.abs();
        if best.is_none_or(|(least, shortest, _)| (distance, active) < (least, shortest)) {
            best = Some((distance, active, compare));
        }
    }
    let (distance, active, compare) = best?;
    let scaled = i128::from(ruler.scaled);
    let clock = i128::from(law.per_tick) << ruler.fraction_bits;
    // A dithered pulse is the same in every period only where it is a whole number of ticks.
    let undithered =
        ruler.dither_bits == 0 || is_multiple(active, i128::from(law.per_tick) << ruler.dither_bits);
    let whole = is_multiple(active.checked_mul(scaled)?, clock) && undithered;
    let steady = match wanted {
        Wanted::Clocks { .. } => true,
        Wanted::Share { .. } => is_whole(ruler),
    };
    Some(Nearest {
        compare: u64::try_from(compare).ok()?,
        error: distance.checked_mul(scaled)?.unsigned_abs(),
        error_scale: denominator.checked_mul(clock)?.unsigned_abs(),
        exact: distance == 0 && whole && steady,
    })
}

/// The compare value that would meet `wanted` if compare values were no whole numbers. `None` on overflow.
pub(crate) fn exact(law: &LinearLaw, ruler: Ruler, wanted: Wanted) -> Option<Rational> {
    let (numerator, denominator) = wanted.sub_ticks(law, ruler)?;
    let rest = Rational::new(law.sub_ticks(ruler.top, 0), 1)?;
    Rational::new(numerator, denominator)?.minus(rest)?.over(Rational::whole(law.gain.into()))
}

/// Whether some compare value might meet a wanted active time exactly: quick to answer, for most tops do not.
pub(crate) fn may_be_exact(law: &LinearLaw, ruler: Ruler, wanted: Wanted) -> bool {
    // What does not fit is left to the exact answer.
    wanted.sub_ticks(law, ruler).is_none_or(|(numerator, denominator)| is_multiple(numerator, denominator))
}

/// How many compare values give active times between `low` and `high`, less one. `None` on overflow.
pub(crate) fn span_steps(
    law: &LinearLaw,
    limit: u64,
    ruler: Ruler,
    low: Wanted,
    high: Wanted,
) -> Option<u64> {
    let gain = i128::from(law.gain);
    let rest = law.sub_ticks(ruler.top, 0);
    let compare = |wanted: Wanted| -> Option<(i128, i128)> {
        let (numerator, denominator) = wanted.sub_ticks(law, ruler)?;
        Some((numerator.checked_sub(rest.checked_mul(denominator)?)?, gain.checked_mul(denominator)?))
    };
    let (low, high) = if gain.is_positive() { (low, high) } else { (high, low) };
    let (first, last) = (compare(low)?, compare(high)?);
    let (least, most) = legal(law, limit, ruler);
    let first = (-floor_over(-first.0, first.1)).max(least);
    let last = floor_over(last.0, last.1).min(most);
    Some(u64::try_from(last - first).unwrap_or(0))
}

/// No division further on gives more steps than this, in the span if there is one. `None` on overflow.
pub(crate) fn most_steps(law: &LinearLaw, ruler: Ruler, span: Option<(Wanted, Wanted)>) -> Option<u64> {
    let gain = i128::from(law.gain.unsigned_abs());
    let steps = match span {
        None => i128::from(ruler.ticks).checked_mul(law.per_tick.into())? / gain,
        Some((low, high)) => {
            let (low, high) = (low.sub_ticks(law, ruler)?, high.sub_ticks(law, ruler)?);
            let length = high.0.checked_mul(low.1)?.checked_sub(low.0.checked_mul(high.1)?)?;
            length / low.1.checked_mul(high.1)?.checked_mul(gain)?
        }
    };
    u64::try_from(steps).ok()
}

/// Whether every period is the same whole number of source clocks.
pub(crate) fn is_whole(ruler: Ruler) -> bool {
    (u128::from(ruler.ticks) * u128::from(ruler.scaled)).is_multiple_of(1 << ruler.fraction_bits)
        && ruler.ticks.is_multiple_of(1 << ruler.dither_bits)
}

/// The lowest and highest compare value that may be written, and for which the law holds and the register has room.
pub(crate) fn legal(law: &LinearLaw, limit: u64, ruler: Ruler) -> (i128, i128) {
    let (low, high) = covered(law, limit, ruler);
    let low = low.max(law.min.into());
    (low, high.max(low))
}

/// The lowest and highest compare value for which the law holds and the register has room.
pub(crate) fn covered(law: &LinearLaw, limit: u64, ruler: Ruler) -> (i128, i128) {
    let gain = i128::from(law.gain);
    let rest = law.sub_ticks(ruler.top, 0);
    let whole = i128::from(ruler.ticks) * i128::from(law.per_tick);
    let (start, end) = if gain.is_positive() { (-rest, whole - rest) } else { (whole - rest, -rest) };
    let low = (-floor_over(-start, gain)).max(0);
    let mut high = floor_over(end, gain).min(limit.into());
    if law.full == ComparePoint::Never && gain.is_positive() {
        // No compare value gives a constant output: those past the top are not for pulses either.
        high = high.min(ruler.top.into());
    }
    (low, high.max(low))
}

/// `numerator / denominator`, rounded down; the denominator may be negative.
fn floor_over(numerator: i128, denominator: i128) -> i128 {
    // Nearly all numbers of a search fit 64 bits, and dividing those is many times faster.
    let short = i64::try_from(numerator).ok().zip(i64::try_from(denominator).ok());
    if let Some((numerator, denominator)) = short
        && let (Some(quotient), Some(rest)) =
            (numerator.checked_div(denominator), numerator.checked_rem(denominator))
    {
        let inexact = rest != 0;
        return (quotient - i64::from(inexact && numerator.is_negative() != denominator.is_negative()))
            .into();
    }
    if denominator.is_negative() {
        (-numerator).div_euclid(-denominator)
    } else {
        numerator.div_euclid(denominator)
    }
}

/// Whether `number` is a multiple of `of`.
fn is_multiple(number: i128, of: i128) -> bool {
    match (i64::try_from(number), i64::try_from(of)) {
        (Ok(number), Ok(of)) if of > 0 => number % of == 0,
        _ => number % of == 0,
    }
}

#[cfg(test)]
mod tests;
