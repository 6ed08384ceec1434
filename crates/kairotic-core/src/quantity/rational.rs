//! Exact rational numbers whose every operation is checked.

use std::cmp::Ordering;
use std::fmt;
use std::hash::{Hash, Hasher};

use num_integer::Integer;
use num_rational::Ratio;
use num_traits::{CheckedAdd, CheckedDiv, CheckedMul, CheckedSub, Signed, Zero};

/// An exact fraction of two 128-bit integers, always reduced, denominator positive.
///
/// There are no operators: each operation answers `None` when the result does not fit, so that nothing can wrap. Nearly
/// all parts fit 64 bits, and for those there are ways that are many times faster.
#[derive(Clone, Copy)]
pub struct Rational(Ratio<i128>);

/// The greatest common divisor. One of the two is often one, for which the search for it takes longest.
fn common(left: u64, right: u64) -> u64 {
    if left == 1 || right == 1 { 1 } else { left.gcd(&right) }
}

/// A fraction whose parts fit 64 bits, sign apart.
#[derive(Clone, Copy)]
struct Short {
    negative: bool,
    numerator: u64,
    denominator: u64,
}

impl Short {
    /// `None` where the parts do not fit.
    fn of(value: Rational) -> Option<Self> {
        let numerator = i64::try_from(value.numerator()).ok()?;
        let denominator = i64::try_from(value.denominator()).ok()?.unsigned_abs();
        Some(Self { negative: numerator < 0, numerator: numerator.unsigned_abs(), denominator })
    }

    /// Turned upside down; `None` for zero.
    fn inverse(self) -> Option<Self> {
        let turned = Self { numerator: self.denominator, denominator: self.numerator, ..self };
        (self.numerator != 0).then_some(turned)
    }

    /// With the other sign.
    const fn opposite(self) -> Self {
        Self { negative: !self.negative, ..self }
    }

    /// The sum. What the reduced sum and its denominator have in common divides what the two denominators have in common
    /// (Knuth, The Art of Computer Programming 4.5.1).
    fn plus(self, other: Self) -> Rational {
        let shared = common(self.denominator, other.denominator);
        let part = |short: Self, by: u64| {
            let product = (u128::from(short.numerator) * u128::from(by / shared)).cast_signed();
            if short.negative { -product } else { product }
        };
        let sum = part(self, other.denominator) + part(other, self.denominator);
        let rest = u64::try_from(sum.unsigned_abs() % u128::from(shared)).unwrap_or(0);
        let again = common(shared, rest);
        let denominator = u128::from(self.denominator / shared) * u128::from(other.denominator / again);
        Rational(Ratio::new_raw(sum / i128::from(again), denominator.cast_signed()))
    }

    /// The product. What a numerator has in common with the other's denominator is taken out first: the rest is reduced.
    fn times(self, other: Self) -> Rational {
        let first = common(self.numerator, other.denominator);
        let second = common(other.numerator, self.denominator);
        let product = |left: u64, right: u64| (u128::from(left) * u128::from(right)).cast_signed();
        let numerator = product(self.numerator / first, other.numerator / second);
        let denominator = product(self.denominator / second, other.denominator / first);
        let numerator = if self.negative == other.negative { numerator } else { -numerator };
        Rational(Ratio::new_raw(numerator, denominator))
    }
}

impl Rational {
    /// Zero.
    pub const ZERO: Self = Self(Ratio::new_raw(0, 1));
    /// One.
    pub const ONE: Self = Self(Ratio::new_raw(1, 1));

    /// The fraction `numerator / denominator`, or `None` for a denominator of zero or a number that does not fit.
    pub fn new(numerator: i128, denominator: i128) -> Option<Self> {
        // The smallest i128 has no positive counterpart, and reducing by it would overflow.
        if denominator == 0 || numerator == i128::MIN || denominator == i128::MIN {
            return None;
        }
        if let (Ok(short), Ok(parts)) = (i64::try_from(numerator), i64::try_from(denominator)) {
            let shared = common(short.unsigned_abs(), parts.unsigned_abs());
            let shared = if parts < 0 { -i128::from(shared) } else { shared.into() };
            return Some(Self(Ratio::new_raw(numerator / shared, denominator / shared)));
        }
        Some(Self(Ratio::new(numerator, denominator)))
    }

    /// A fraction that is reduced already, its denominator positive.
    pub(super) const fn reduced(numerator: i64, denominator: i64) -> Self {
        Self(Ratio::new_raw(numerator as i128, denominator as i128))
    }

    /// The number as a reader writes a division: `40`, or `39 + 1/16`.
    pub fn mixed(self) -> String {
        let whole = self.floor();
        match Self::new(whole, 1).and_then(|whole| self.minus(whole)) {
            Some(rest) if !rest.is_zero() && whole != 0 => format!("{whole} + {rest}"),
            _ => self.to_string(),
        }
    }

    /// The whole number `n`.
    pub const fn whole(n: i64) -> Self {
        Self(Ratio::new_raw(n as i128, 1))
    }

    /// The numerator of the reduced fraction; it carries the sign.
    pub fn numerator(self) -> i128 {
        *self.0.numer()
    }

    /// The denominator of the reduced fraction, at least 1.
    pub fn denominator(self) -> i128 {
        *self.0.denom()
    }

    /// `self + other`.
    pub fn plus(self, other: Self) -> Option<Self> {
        if let (Some(left), Some(right)) = (Short::of(self), Short::of(other)) {
            return Some(left.plus(right));
        }
        Self::representable(self.0.checked_add(&other.0))
    }

    /// `self - other`.
    pub fn minus(self, other: Self) -> Option<Self> {
        if let (Some(left), Some(right)) = (Short::of(self), Short::of(other)) {
            return Some(left.plus(right.opposite()));
        }
        Self::representable(self.0.checked_sub(&other.0))
    }

    /// `self * other`.
    pub fn times(self, other: Self) -> Option<Self> {
        if let (Some(left), Some(right)) = (Short::of(self), Short::of(other)) {
            return Some(left.times(right));
        }
        Self::representable(self.0.checked_mul(&other.0))
    }

    /// `self / other`; `None` for a divisor of zero too.
    pub fn over(self, other: Self) -> Option<Self> {
        if let (Some(left), Some(right)) = (Short::of(self), Short::of(other)) {
            return right.inverse().map(|right| left.times(right));
        }
        if other.is_zero() {
            return None;
        }
        Self::representable(self.0.checked_div(&other.0))
    }

    /// How often `other` goes into `self`, in units of `1 / 2^fraction_bits`, where that is a whole number of them that
    /// fits: several times quicker than a quotient, which has to be reduced.
    pub fn whole_quotient(self, other: Self, fraction_bits: u32) -> Option<u64> {
        if let Some(quotient) = self.short_quotient(other, fraction_bits) {
            return quotient;
        }
        let scale = 1_i128.checked_shl(fraction_bits)?;
        let whole = self.numerator().checked_mul(other.denominator())?.checked_mul(scale)?;
        let part = self.denominator().checked_mul(other.numerator())?;
        let quotient = whole.checked_div(part)?;
        (quotient * part == whole).then(|| u64::try_from(quotient).ok()).flatten()
    }

    /// [`Rational::whole_quotient`] where all numbers are positive and their products fit 64 bits, as nearly always.
    fn short_quotient(self, other: Self, fraction_bits: u32) -> Option<Option<u64>> {
        let short = |number: i128| u64::try_from(number).ok();
        let product = |left: i128, right: i128| short(left)?.checked_mul(short(right)?);
        let scale = 1_u64.checked_shl(fraction_bits)?;
        let whole = product(self.numerator(), other.denominator())?.checked_mul(scale)?;
        let part = product(self.denominator(), other.numerator())?;
        let (quotient, rest) = whole.checked_div(part).zip(whole.checked_rem(part))?;
        Some((rest == 0).then_some(quotient))
    }

    /// The distance from zero.
    pub fn magnitude(self) -> Self {
        Self(self.0.abs())
    }

    /// Whether this is zero.
    pub fn is_zero(self) -> bool {
        self.0.is_zero()
    }

    /// Whether this is greater than zero.
    pub fn is_positive(self) -> bool {
        self.0.is_positive()
    }

    /// Whether the denominator is 1.
    pub fn is_whole(self) -> bool {
        self.0.is_integer()
    }

    /// The largest whole number that is not above this one.
    pub fn floor(self) -> i128 {
        self.numerator().div_euclid(self.denominator())
    }

    /// The smallest whole number that is not below it.
    pub fn ceiling(self) -> i128 {
        self.floor() + i128::from(!self.is_whole())
    }

    /// The nearest floating-point number, for display, statistics and logarithms only.
    pub fn approx(self) -> f64 {
        self.numerator() as f64 / self.denominator() as f64
    }

    /// A measured number, to 18 decimal places or as far as it fits; `None` where it is none.
    pub fn measured(value: f64) -> Option<Self> {
        let places = if value.abs() < 1e9 { 18 } else { 6 };
        let scale = 10_i128.checked_pow(places)?;
        let scaled = value * scale as f64;
        // A float beyond this would be cut off.
        (scaled.abs() < 1e36).then(|| Self::new(scaled.round() as i128, scale)).flatten()
    }

    fn representable(result: Option<Ratio<i128>>) -> Option<Self> {
        result.filter(|r| *r.numer() != i128::MIN && *r.denom() != i128::MIN).map(Self)
    }
}

/// Fractions are always reduced, so that their parts are the same where they are: no division is needed.
impl PartialEq for Rational {
    fn eq(&self, other: &Self) -> bool {
        (self.numerator(), self.denominator()) == (other.numerator(), other.denominator())
    }
}

impl Eq for Rational {}

impl Hash for Rational {
    fn hash<H: Hasher>(&self, state: &mut H) {
        (self.numerator(), self.denominator()).hash(state);
    }
}

impl Ord for Rational {
    fn cmp(&self, other: &Self) -> Ordering {
        let parts =
            |value: &Self| i64::try_from(value.numerator()).ok().zip(i64::try_from(value.denominator()).ok());
        match (parts(self), parts(other)) {
            (Some(left), Some(right)) => {
                (i128::from(left.0) * i128::from(right.1)).cmp(&(i128::from(right.0) * i128::from(left.1)))
            }
            _ => self.0.cmp(&other.0),
        }
    }
}

impl PartialOrd for Rational {
    fn partial_cmp(&self, other: &Self) -> Option<Ordering> {
        Some(self.cmp(other))
    }
}

impl From<u32> for Rational {
    fn from(n: u32) -> Self {
        Self(Ratio::new_raw(i128::from(n), 1))
    }
}

impl From<u64> for Rational {
    fn from(n: u64) -> Self {
        Self(Ratio::new_raw(i128::from(n), 1))
    }
}

/// `p/q`, or `p` for a whole number: the form that machine-readable outputs use.
impl fmt::Display for Rational {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        fmt::Display::fmt(&self.0, f)
    }
}

impl fmt::Debug for Rational {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        fmt::Display::fmt(self, f)
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn results_that_do_not_fit_are_none() {
        let huge = Rational::new(i128::MAX, 1).unwrap();
        assert_eq!(huge.plus(Rational::ONE), None);
        assert_eq!(huge.times(Rational::whole(2)), None);
        assert_eq!(huge.times(Rational::whole(-1)).unwrap().minus(Rational::whole(2)), None);
        assert_eq!(Rational::ONE.over(huge).unwrap().over(huge), None);
        assert_eq!(Rational::ONE.over(Rational::ZERO), None);
        assert_eq!(Rational::new(i128::MIN, -1), None);
        assert_eq!(Rational::new(1, 0), None);
    }

    #[test]
    fn the_smallest_integer_is_never_a_result() {
        let low = Rational::new(-i128::MAX, 1).unwrap();
        assert_eq!(low.minus(Rational::ONE), None);
    }

    #[test]
    fn a_whole_quotient_is_one_that_leaves_no_rest() {
        for (left, right) in (-40..40).flat_map(|left| (1..12).map(move |right| (left, right))) {
            let (left, right) = (Rational::new(left, 6).unwrap(), Rational::new(right, 4).unwrap());
            let quotient = left.over(right).unwrap().times(Rational::whole(8)).unwrap();
            let wanted = quotient.is_whole().then(|| u64::try_from(quotient.floor()).ok()).flatten();
            assert_eq!(left.whole_quotient(right, 3), wanted, "{left} / {right}");
            // The same in numbers that do not fit 64 bits.
            let large = |value: Rational| value.times(Rational::new(3_i128.pow(45), 7).unwrap()).unwrap();
            assert_eq!(large(left).whole_quotient(large(right), 3), wanted, "{left} / {right}");
        }
        assert_eq!(Rational::ONE.whole_quotient(Rational::ZERO, 0), None);
    }

    #[test]
    fn a_ceiling_goes_up_for_all_numbers() {
        let of = |numerator, denominator| Rational::new(numerator, denominator).unwrap().ceiling();
        assert_eq!((of(7, 2), of(-7, 2), of(6, 2), of(0, 1)), (4, -3, 3, 0));
    }

    #[test]
    fn floor_goes_down_for_negative_numbers() {
        assert_eq!(Rational::new(-7, 2).unwrap().floor(), -4);
        assert_eq!(Rational::new(7, 2).unwrap().floor(), 3);
    }
}
