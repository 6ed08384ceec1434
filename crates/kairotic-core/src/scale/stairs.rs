//! Which factor and which rounding constant keep `(place * factor + add) >> shift` between limits at every place: decided
//! exactly, not by trying.
//!
//! A limit at one place is a half-plane of factors and constants, `low << shift <= place * factor + add < (high + 1) <<
//! shift`. For one factor they leave a range of constants, whose length is a concave function of the factor: the best
//! factor is where it is longest. Only the corners of the limits' hulls ever bind.

use num_traits::ToPrimitive;

/// At every place the lowest and the highest whole number that will do, as the corners of their hulls.
#[derive(Debug, Clone)]
pub(super) struct Stairs {
    last: i64,
    low: Vec<(i64, i64)>,
    high: Vec<(i64, i64)>,
}

/// A factor and what is added.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(super) struct Chosen {
    pub(super) factor: u64,
    pub(super) add: u64,
}

impl Stairs {
    /// The limits of places from zero on; `None` where some place has none that will do.
    pub(super) fn of(limits: impl Iterator<Item = (i64, i64)>) -> Option<Self> {
        let mut stairs = Self { last: -1, low: Vec::new(), high: Vec::new() };
        for (low, high) in limits {
            if low > high {
                return None;
            }
            stairs.last += 1;
            push(&mut stairs.low, (stairs.last, low), 1);
            push(&mut stairs.high, (stairs.last, high), -1);
        }
        (stairs.last > 0).then_some(stairs)
    }

    /// The factor with the widest choice of constants, and the smallest of those, where every number on the way is at
    /// most `largest`; `None` where nothing keeps the limits.
    pub(super) fn chosen(&self, shift: u32, largest: u128) -> Option<Chosen> {
        let largest = largest.to_i128()?;
        let adds = |factor: i128| {
            let below = |(place, low): &(i64, i64)| (i128::from(*low) << shift) - i128::from(*place) * factor;
            let above = |(place, high): &(i64, i64)| {
                ((i128::from(*high) + 1) << shift) - 1 - i128::from(*place) * factor
            };
            let low = self.low.iter().map(below).max().unwrap_or(0).max(0);
            let room = largest - i128::from(self.last) * factor;
            (low, self.high.iter().map(above).min().unwrap_or(room).min(room))
        };
        let length = |factor: i128| {
            let (low, high) = adds(factor);
            high - low
        };
        let (mut from, mut to) = (1, largest / i128::from(self.last));
        while from < to {
            let middle = (from + to) / 2;
            if length(middle) < length(middle + 1) {
                from = middle + 1;
            } else {
                to = middle;
            }
        }
        let (low, high) = adds(from);
        (from >= 1 && low <= high).then_some(())?;
        Some(Chosen { factor: from.to_u64()?, add: low.to_u64()? })
    }
}

/// Takes a corner up; corners that no line over all others touches any more leave. The sign is that of the hull's bulge.
fn push(hull: &mut Vec<(i64, i64)>, point: (i64, i64), sign: i128) {
    while let [.., before, last] = hull.as_slice() {
        let run = |from: &(i64, i64), to: &(i64, i64)| {
            (i128::from(to.0 - from.0), i128::from(to.1) - i128::from(from.1))
        };
        let ((first, rise), (second, climb)) = (run(before, last), run(last, &point));
        if (rise * second - climb * first) * sign > 0 {
            break;
        }
        hull.pop();
    }
    hull.push(point);
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;

    use super::*;

    /// Whether a factor and a constant keep limits, and every number on the way below `largest`: place by place.
    fn keeps(limits: &[(i64, i64)], shift: u32, largest: u64, factor: u64, add: u64) -> bool {
        (0..).zip(limits).all(|(place, (low, high)): (u64, _)| {
            let product = place * factor + add;
            let made = (product >> shift) as i64;
            product <= largest && (*low..=*high).contains(&made)
        })
    }

    proptest! {
        #[test]
        fn a_factor_is_found_wherever_there_is_one(
            slope in 0_i64..40, lows in proptest::collection::vec((-3_i64..3, 0_i64..4), 2..12), shift in 0_u32..4,
            largest in 1_u64..200,
        ) {
            // Limits about a line, some wide and some of one number.
            let about = |(place, (off, width)): (i64, &(i64, i64))| {
                let low = slope * place / 8 + off;
                (low, low + width)
            };
            let limits: Vec<(i64, i64)> = (0..).zip(&lows).map(about).collect();
            let tried = (1..=largest)
                .any(|factor| (0..=largest).any(|add| keeps(&limits, shift, largest, factor, add)));
            let found = Stairs::of(limits.iter().copied()).and_then(|stairs| stairs.chosen(shift, largest.into()));
            prop_assert_eq!(found.is_some(), tried, "{:?}", limits);
            if let Some(Chosen { factor, add }) = found {
                prop_assert!(keeps(&limits, shift, largest, factor, add), "{factor} {add} {limits:?}");
                // The smallest constant of that factor.
                prop_assert!(add == 0 || !keeps(&limits, shift, largest, factor, add - 1));
            }
        }
    }

    #[test]
    fn limits_that_nothing_keeps_leave_no_stairs() {
        assert!(Stairs::of([(0, 1), (3, 2)].into_iter()).is_none());
        // One place is no line.
        assert!(Stairs::of([(0, 1)].into_iter()).is_none());
    }
}
