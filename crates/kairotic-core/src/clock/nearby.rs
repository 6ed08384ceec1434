//! Whole numbers whose multiples of a fraction come near a whole number: with them the multiplier of a loop is solved
//! for instead of tried, number by number.

use num_integer::Integer;
use num_traits::{CheckedAdd, CheckedMul, PrimInt};

/// Multiples `m · step / whole` are looked at; near is one that is at most `reach / whole` off a whole number.
#[derive(Debug, Clone, Copy)]
pub(super) struct Nearby {
    pub(super) step: u128,
    pub(super) whole: u128,
    pub(super) reach: u128,
}

impl Nearby {
    /// The smallest `m` from `from` to `to` whose multiple is near a whole number; `None` where none is. Where numbers do
    /// not fit, nothing can be ruled out: it is `from` then.
    pub(super) fn first(self, from: u32, to: u32) -> Option<u32> {
        let most = to.checked_sub(from)?;
        let more = self.solved(from.into(), most.into()).unwrap_or(Some(0))?;
        u32::try_from(more).ok().map(|more| from + more)
    }

    /// How far the first is from `from`, at most so far; `None` where numbers do not fit. Nearly all numbers fit 64 bits,
    /// and dividing those is many times faster.
    fn solved(self, from: u64, most: u64) -> Option<Option<u64>> {
        let short = |number: u128| u64::try_from(number).ok();
        let in_64_bits = || -> Option<Option<u64>> {
            let whole = short(self.whole)?;
            solved(short(self.step)?, whole, short(self.reach)?, (from, most))
        };
        in_64_bits().or_else(|| {
            let found = solved(self.step, self.whole, self.reach, (from.into(), most.into()))?;
            Some(found.and_then(short))
        })
    }
}

/// How far the first near multiple is from `from`, at most `most`; `None` where numbers do not fit.
fn solved<N: PrimInt + Integer + CheckedAdd + CheckedMul>(
    step: N,
    whole: N,
    reach: N,
    (from, most): (N, N),
) -> Option<Option<N>> {
    let (none, one) = (N::zero(), N::one());
    if reach.is_zero() {
        // Every so many multiples are whole.
        let every = if step.is_zero() { one } else { whole / step.gcd(&whole) };
        return Some(Some(Integer::next_multiple_of(&from, &every) - from).filter(|more| *more <= most));
    }
    let both = reach.checked_add(&reach)?;
    if both.checked_add(&one)? >= whole {
        return Some(Some(none));
    }
    let step = step % whole;
    // With z = m - from: z · step has to fall into low..=high, counted around the circle of `whole`.
    let before = step.checked_mul(&from)?.checked_add(&reach)? % whole;
    let low = if before.is_zero() { none } else { whole - before };
    let high = low.checked_add(&both)?;
    if high >= whole {
        return Some(Some(none));
    }
    first_within(step, whole, (low, high), most)
}

/// The smallest `z`, at most so large, for which `low <= z · step mod whole <= high`, with `low <= high < whole`;
/// `Some(None)` where there is none, `None` where numbers do not fit.
///
/// Euclid's algorithm: where no multiple of the step falls into the band before the first time round, the number of
/// times round has to solve the same question with the step as the circle. There are fewer rounds than multiples, so
/// that a small limit ends it soon.
fn first_within<N: PrimInt + Integer + CheckedAdd + CheckedMul>(
    step: N,
    whole: N,
    (low, high): (N, N),
    most: N,
) -> Option<Option<N>> {
    if low.is_zero() {
        return Some(Some(low));
    }
    if step.is_zero() || most.is_zero() {
        return Some(None);
    }
    if step > whole - step {
        return first_within(whole - step, whole, (whole - high, whole - low), most);
    }
    let reached = Integer::div_ceil(&low, &step);
    if reached > most {
        return Some(None);
    }
    if reached * step <= high {
        return Some(Some(reached));
    }
    let less = (step - whole % step) % step;
    let rounds = most.checked_mul(&step)? / whole;
    let Some(rounds) = first_within(less, step, (low % step, high % step), rounds)? else {
        return Some(None);
    };
    let found = Integer::div_ceil(&low.checked_add(&whole.checked_mul(&rounds)?)?, &step);
    Some(Some(found).filter(|found| *found <= most))
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    proptest! {
        #[test]
        fn the_first_is_the_first_of_all(
            step in 0_u128..400, whole in 1_u128..400, reach in 0_u128..20, from in 0_u32..300, most in 0_u32..500,
        ) {
            let near = |m: &u32| {
                let rest = u128::from(*m) * step % whole;
                rest.min(whole - rest) <= reach
            };
            let wanted = (from..=from + most).find(near);
            prop_assert_eq!(Nearby { step, whole, reach }.first(from, from + most), wanted);
            // The same question in finer units, which no longer fit 64 bits.
            let fine = Nearby { step: step << 60, whole: whole << 60, reach: reach << 60 };
            prop_assert_eq!(fine.first(from, from + most), wanted);
        }
    }

    #[test]
    fn numbers_that_do_not_fit_rule_nothing_out() {
        let huge = Nearby { step: u128::MAX - 1, whole: u128::MAX, reach: u128::MAX / 2 + 1 };
        assert_eq!(huge.first(7, 9), Some(7));
        assert_eq!(huge.first(9, 7), None);
    }
}
