//! Square roots without floats: what they are rounded down to, and which of two sums with them is larger.

/// The root rounded down.
pub(super) fn root(square: u128) -> u128 {
    // A float is at most one off as long as it has digits enough, and saves most of the time: whole numbers decide.
    const DIGITS: u128 = 1 << 51;
    let near = (square as f64).sqrt() as u128;
    if near >= DIGITS {
        return square.isqrt();
    }
    if near * near > square {
        near - 1
    } else if (near + 1) * (near + 1) <= square {
        near + 1
    } else {
        near
    }
}

/// `a / b`, rounded down; none for a divisor of zero. Most numbers fit 64 bits, of which quotients are many times faster.
pub(super) fn quotient(a: u128, b: u128) -> Option<u128> {
    match (u64::try_from(a), u64::try_from(b)) {
        (Ok(a), Ok(b)) => a.checked_div(b).map(u128::from),
        _ => a.checked_div(b),
    }
}

/// `a * b` in 256 bits, the high half first.
fn product(a: u128, b: u128) -> (u128, u128) {
    let (low, high) = a.carrying_mul(b, 0);
    (high, low)
}

/// Whether `factor * sqrt(square) <= bound`.
pub(super) fn is_root_within(factor: u128, square: u128, bound: u128) -> Option<bool> {
    // Both sides squared; the factor's square has to fit, which it does for every factor below 2^64.
    Some(product(factor.checked_mul(factor)?, square) <= product(bound, bound))
}

/// `sqrt(a) - sqrt(b)` rounded down, for `a >= b`.
pub(super) fn root_difference(a: u128, b: u128) -> Option<u128> {
    let whole = root(a).checked_sub(root(b))?;
    // The difference of the rounded roots is right or one too many: it is right where sqrt(a) >= whole + sqrt(b), which is
    // a - whole^2 - b >= 2 * whole * sqrt(b).
    let rest = a.checked_sub(whole.checked_mul(whole)?).and_then(|rest| rest.checked_sub(b));
    let reached = match rest {
        Some(rest) => is_root_within(whole.checked_mul(2)?, b, rest)?,
        None => false,
    };
    if reached { Some(whole) } else { whole.checked_sub(1) }
}

#[cfg(test)]
mod tests {
    use num_bigint::BigUint;
    use proptest::prelude::*;

    use super::*;

    proptest! {
        #[test]
        fn a_difference_of_roots_is_that_of_roots_with_sixty_more_digits(a in 0_u128..1 << 120, b in 0_u128..1 << 120) {
            let (a, b) = if a >= b { (a, b) } else { (b, a) };
            let scale = BigUint::from(10_u32).pow(60);
            let long = |square: u128| (BigUint::from(square) * &scale * &scale).sqrt();
            let difference: BigUint = (long(a) - long(b)) / scale;
            prop_assert_eq!(BigUint::from(root_difference(a, b).unwrap()), difference);
        }

        #[test]
        fn a_root_is_within_its_square(factor in 0_u128..1 << 50, square in 0_u128..1 << 100, off in -2_i128..3) {
            let wanted = (BigUint::from(factor) * BigUint::from(factor) * BigUint::from(square)).sqrt();
            let bound = u128::try_from(wanted).unwrap().saturating_add_signed(off);
            let squares = BigUint::from(factor).pow(2) * BigUint::from(square) <= BigUint::from(bound).pow(2);
            prop_assert_eq!(is_root_within(factor, square, bound), Some(squares));
        }
    }

    #[test]
    fn a_root_is_right_on_both_sides_of_a_square_and_of_what_floats_hold() {
        for bits in 0..64 {
            for near in [(1_u128 << bits) - 1, 1 << bits, (1 << bits) + 1, (1 << bits) * 10 / 7] {
                let square = near * near;
                let roots = [square.saturating_sub(1), square, square + 2 * near].map(root);
                assert_eq!(roots, [near.saturating_sub(1), near, near], "{near}");
            }
        }
    }

    #[test]
    fn roots_of_squares_are_whole() {
        assert_eq!(
            (root_difference(100, 49), root_difference(100, 48), root_difference(9, 9)),
            (Some(3), Some(3), Some(0))
        );
        assert_eq!((root(24), root(25), root(u128::MAX)), (4, 5, (1 << 64) - 1));
    }
}
