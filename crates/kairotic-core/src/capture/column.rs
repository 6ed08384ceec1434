//! Extremes and exact sums of many numbers at once: in arithmetic of one word where it is known to suffice.

/// The first of some numbers, the least and the most.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(super) struct Extremes {
    pub(super) first: i64,
    pub(super) least: i64,
    pub(super) most: i64,
}

impl Extremes {
    /// `None` where there are no numbers.
    pub(super) fn of(values: &[i64]) -> Option<Self> {
        let first = *values.first()?;
        let ends =
            values.iter().fold((first, first), |(least, most), value| (least.min(*value), most.max(*value)));
        Some(Self { first, least: ends.0, most: ends.1 })
    }

    /// Whether all are so near to a number that the squares of the distances of `count` of them fit a word.
    fn are_near(self, reference: i64, count: usize) -> bool {
        const NEAR: u64 = 1 << 26;
        const COUNT: usize = 1 << 10;
        count <= COUNT && self.least.abs_diff(reference) < NEAR && self.most.abs_diff(reference) < NEAR
    }
}

/// Sums of distances from a number.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(super) struct DistanceSums {
    pub(super) sum: i128,
    pub(super) squares: i128,
}

impl DistanceSums {
    /// `None` where they need more than a word: each number has to be added by itself then.
    #[inline]
    pub(super) fn about(reference: i64, values: &[i64], ends: Extremes) -> Option<Self> {
        if !ends.are_near(reference, values.len()) {
            return None;
        }
        let (mut sum, mut squares) = (0_i64, 0_i64);
        for value in values {
            let distance = value - reference;
            sum += distance;
            squares += distance * distance;
        }
        Some(Self { sum: sum.into(), squares: squares.into() })
    }
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;

    use super::*;

    proptest! {
        #[test]
        fn sums_are_whole_or_there_are_none(
            reference in any::<i64>(), near in proptest::collection::vec(-(1_i64 << 27)..1 << 27, 1..300), shift in 0_u32..30,
        ) {
            let values: Vec<i64> = near.iter().map(|off| reference.saturating_add(off >> shift)).collect();
            let ends = Extremes::of(&values).unwrap();
            prop_assert_eq!((Some(&ends.least), Some(&ends.most)), (values.iter().min(), values.iter().max()));
            let distances = || values.iter().map(|value| i128::from(*value) - i128::from(reference));
            let expected = DistanceSums { sum: distances().sum(), squares: distances().map(|off| off * off).sum() };
            match DistanceSums::about(reference, &values, ends) {
                Some(sums) => prop_assert_eq!(sums, expected),
                None => prop_assert!(distances().any(|off| off.unsigned_abs() >= 1 << 26)),
            }
        }
    }
}
