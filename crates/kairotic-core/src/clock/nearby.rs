//! Whole numbers whose multiples of a fraction come near a whole number: with them the multiplier of a loop is solved
//! for instead of tried, number by number.

/// Multiples `m · step / whole` are looked at; near is one that is at most `reach / whole` off a whole number.
#[derive(Debug, Clone, Copy)]
pub(super) struct Nearby {
    pub(super) step: u128,
    pub(super) whole: u128,
    pub(super) reach: u128,
}

impl Nearby {
    /// The smallest `m`, not below `from`, whose multiple is near a whole number; `None` where none is. Where numbers do
    /// not fit, nothing can be ruled out: it is `from` then.
    pub(super) fn first(self, from: u64) -> Option<u64> {
        self.solved(from).unwrap_or(Some(from))
    }

    /// The same; `None` where numbers do not fit.
    fn solved(self, from: u64) -> Option<Option<u64>> {
        let Self { step, whole, reach } = self;
        if reach.checked_mul(2)?.checked_add(1)? >= whole {
            return Some(Some(from));
        }
        let step = step % whole;
        // With z = m - from: z · step has to fall into low..=high, counted around the circle of `whole`.
        let before = step.checked_mul(from.into())?.checked_add(reach)? % whole;
        let low = if before == 0 { 0 } else { whole - before };
        let high = low + 2 * reach;
        if high >= whole {
            return Some(Some(from));
        }
        let more = first_within(step, whole, low, high)?;
        Some(more.and_then(|more| from.checked_add(u64::try_from(more).ok()?)))
    }
}

/// The smallest `z` for which `low <= z · step mod whole <= high`, with `low <= high < whole`; `Some(None)` where there is
/// none, `None` where numbers do not fit.
///
/// Euclid's algorithm: where no multiple of the step falls into the band before the first time round, the number of
/// times round has to solve the same question with the step as the circle.
fn first_within(step: u128, whole: u128, low: u128, high: u128) -> Option<Option<u128>> {
    if low == 0 {
        return Some(Some(0));
    }
    if step == 0 {
        return Some(None);
    }
    if step > whole / 2 {
        return first_within(whole - step, whole, whole - high, whole - low);
    }
    let reached = low.div_ceil(step);
    if reached * step <= high {
        return Some(Some(reached));
    }
    let less = (step - whole % step) % step;
    let Some(rounds) = first_within(less, step, low % step, high % step)? else { return Some(None) };
    Some(Some(low.checked_add(whole.checked_mul(rounds)?)?.div_ceil(step)))
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    proptest! {
        #[test]
        fn the_first_is_the_first_of_all(
            step in 0_u128..400, whole in 1_u128..400, reach in 0_u128..20, from in 0_u64..300,
        ) {
            let near = |m: &u64| {
                let rest = u128::from(*m) * step % whole;
                rest.min(whole - rest) <= reach
            };
            // What comes after a whole circle has come before.
            let wanted = (from..from + 400).find(near);
            prop_assert_eq!(Nearby { step, whole, reach }.first(from), wanted);
            // The same question in finer units, which no longer fit 64 bits.
            let fine = Nearby { step: step << 60, whole: whole << 60, reach: reach << 60 };
            prop_assert_eq!(fine.first(from), wanted);
        }
    }

    #[test]
    fn numbers_that_do_not_fit_rule_nothing_out() {
        let huge = Nearby { step: u128::MAX - 1, whole: u128::MAX, reach: u128::MAX / 2 + 1 };
        assert_eq!(huge.first(7), Some(7));
    }
}
