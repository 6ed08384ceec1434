//! Cosines between two bounds that are fractions: a float cannot say to which side of a half an exact value lies.

use crate::quantity::Rational;

/// Bits behind the point.
const BITS: u32 = 62;

/// Pi, rounded.
const PI: i128 = 14_488_038_916_154_245_685;

/// The angle is off by two units at most, each of the terms by less than three, and what comes after them by less than one.
const UNCERTAIN: i128 = 2 + 3 * TERMS + 1;

/// Terms of the series, of which the next is less than a unit for an eighth of a turn.
const TERMS: i128 = 10;

/// The cosine of `part / whole` of a quarter turn, between its bounds; they are one where it is a fraction. `None` for a part
/// that is larger than the whole, or a whole of more than 32 bits.
pub(super) fn quarter_cosine(part: u32, whole: u32) -> Option<[Rational; 2]> {
    let rest = whole.checked_sub(part)?;
    // In a quarter turn no other cosine is a fraction: of all angles that are fractions of a turn only 0, 60 and 90 degrees.
    if let Some(exact) = match (part, rest) {
        (0, _) => Some(Rational::ONE),
        (_, 0) => Some(Rational::ZERO),
        _ if u64::from(part) == 2 * u64::from(rest) => Rational::new(1, 2),
        _ => None,
    } {
        return Some([exact, exact]);
    }
    // Of small angles, for which the series is short: the cosine of a large one is the sine of what is left of the quarter.
    let near = match part < rest {
        true => series(ONE, 1, angle(part, whole)),
        false => series(angle(rest, whole), 2, angle(rest, whole)),
    };
    let bound = |number: i128| Rational::new(number, ONE);
    Some([bound(near - UNCERTAIN)?, bound((near + UNCERTAIN).min(ONE))?])
}

const ONE: i128 = 1 << BITS;

/// `part / whole` of a quarter turn in radians, at most pi / 4.
const fn angle(part: u32, whole: u32) -> i128 {
    PI * part as i128 / (2 * whole as i128)
}

/// The sum that begins with a term, of which each is the one before times `-angle^2 / (n * (n + 1))`.
const fn series(first: i128, mut n: i128, angle: i128) -> i128 {
    let square = (angle * angle) >> BITS;
    let (mut term, mut sum, mut left) = (first, first, TERMS);
    while left > 0 {
        term = -((term * square) >> BITS) / (n * (n + 1));
        sum += term;
        n += 2;
        left -= 1;
    }
    sum
}

#[cfg(test)]
mod tests {
    use num_bigint::BigInt;

    use super::*;

    /// In units of 2^-62.
    fn units(bound: Rational) -> BigInt {
        BigInt::from(bound.numerator()) * BigInt::from(ONE) / BigInt::from(bound.denominator())
    }

    #[test]
    fn squares_of_sine_and_cosine_are_one_together_and_the_double_angle_follows() {
        for whole in [2, 3, 5, 7, 16, 100, 1024] {
            for part in 0..=whole {
                let [low, high] = quarter_cosine(part, whole).unwrap().map(units);
                let [sine_low, sine_high] = quarter_cosine(whole - part, whole).unwrap().map(units);
                let one = BigInt::from(ONE) * BigInt::from(ONE);
                assert!(&low * &low + &sine_low * &sine_low <= one, "{part}/{whole}");
                assert!(&high * &high + &sine_high * &sine_high >= one, "{part}/{whole}");
                assert!(&high - &low <= BigInt::from(2 * UNCERTAIN));
                if 2 * part <= whole {
                    // cos 2a = 2 cos^2 a - 1.
                    let [double_low, double_high] = quarter_cosine(2 * part, whole).unwrap().map(units);
                    assert!(2 * (&low * &low) - &one <= double_high * BigInt::from(ONE));
                    assert!(2 * (&high * &high) - &one >= double_low * BigInt::from(ONE));
                }
            }
        }
    }

    #[test]
    fn bounds_hold_what_floats_give() {
        for part in 0..=999_u32 {
            let [low, high] = quarter_cosine(part, 999).unwrap().map(Rational::approx);
            let float = (f64::from(part) / 999.0 * std::f64::consts::FRAC_PI_2).cos();
            assert!(low - 1e-15 <= float && float <= high + 1e-15, "{part}");
        }
        assert_eq!(quarter_cosine(2, 3), Some([Rational::new(1, 2).unwrap(); 2]));
        assert_eq!(quarter_cosine(3, 2), None);
    }
}
