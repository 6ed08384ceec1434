//! Products for exact sums.

/// The product of two numbers, whole. Nearly all fit 64 bits, where multiplying is many times faster.
#[inline]
pub(super) fn product(left: i64, right: i64) -> i128 {
    match left.checked_mul(right) {
        Some(product) => product.into(),
        None => i128::from(left) * i128::from(right),
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    proptest! {
        #[test]
        fn a_product_is_whole(left in any::<i64>(), right in any::<i64>(), shift in 0_u32..63) {
            for (left, right) in [(left, right), (left >> shift, right), (left >> shift, right >> shift)] {
                prop_assert_eq!(product(left, right), i128::from(left) * i128::from(right));
            }
        }
    }
}
