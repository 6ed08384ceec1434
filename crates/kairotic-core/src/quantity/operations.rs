//! What is done with quantities, checked: a number that does not fit is an overflow that names its quantity.

use super::error::{QuantityError, Result};
use super::{Deviation, Dimension, Duty, Frequency, Quantity, Rational, Time};

fn fitting(value: Option<Rational>, quantity: &'static str) -> Result<Rational> {
    // Spelt out, since an error that is made and dropped each time costs more than most operations.
    let Some(value) = value else { return Err(QuantityError::Overflow { quantity }) };
    Ok(value)
}

impl<D: Dimension> Quantity<D> {
    /// How many of another one this is.
    ///
    /// # Errors
    /// [`QuantityError::Overflow`], also for an other of zero.
    pub fn ratio_to(self, other: Self) -> Result<Rational> {
        fitting(self.value.over(other.value), D::NAME)
    }

    /// How far this is off a wanted one, as a share of that: this over that, less one.
    ///
    /// # Errors
    /// As [`Quantity::ratio_to`].
    pub fn relative_to(self, wanted: Self) -> Result<Deviation> {
        fitting(self.ratio_to(wanted)?.minus(Rational::ONE), D::NAME).map(Deviation::new)
    }

    /// This and another one.
    ///
    /// # Errors
    /// [`QuantityError::Overflow`].
    pub fn plus(self, other: Self) -> Result<Self> {
        fitting(self.value.plus(other.value), D::NAME).map(Self::new)
    }

    /// This less another one.
    ///
    /// # Errors
    /// [`QuantityError::Overflow`].
    pub fn less(self, other: Self) -> Result<Self> {
        fitting(self.value.minus(other.value), D::NAME).map(Self::new)
    }

    /// So many times this.
    ///
    /// # Errors
    /// [`QuantityError::Overflow`].
    pub fn times(self, factor: Rational) -> Result<Self> {
        fitting(self.value.times(factor), D::NAME).map(Self::new)
    }

    /// The same without its sign.
    pub fn magnitude(self) -> Self {
        Self::new(self.value.magnitude())
    }
}

impl Duty {
    /// How long a period is active with this duty.
    ///
    /// # Errors
    /// [`QuantityError::Overflow`].
    pub fn of(self, period: Time) -> Result<Time> {
        fitting(self.value.times(period.value), "pulse").map(Time::new)
    }
}

impl Time {
    /// Which share of a period this is.
    ///
    /// # Errors
    /// [`QuantityError::Overflow`], also for a period of zero.
    pub fn share_of(self, period: Self) -> Result<Duty> {
        fitting(self.value.over(period.value), "duty").map(Duty::new)
    }

    /// How many ticks of a clock this is.
    ///
    /// # Errors
    /// [`QuantityError::Overflow`].
    pub fn in_ticks(self, clock: Frequency) -> Result<Rational> {
        fitting(self.value.times(clock.value), "number of clock ticks")
    }
}

#[cfg(test)]
mod tests {
    use super::super::units::{khz, mhz, percent, us};
    use super::*;

    #[test]
    fn a_quarter_of_40_us_is_10_us_and_960_ticks_of_96_mhz() {
        let pulse = percent(25).of(us(40)).unwrap();
        assert_eq!((pulse, pulse.in_ticks(mhz(96)).unwrap()), (us(10), Rational::whole(960)));
        assert_eq!((pulse.share_of(us(40)).unwrap(), us(50).less(us(40)).unwrap()), (percent(25), us(10)));
    }

    #[test]
    fn a_quantity_is_held_against_another() {
        assert_eq!(khz(25).ratio_to(khz(10)).unwrap(), Rational::new(5, 2).unwrap());
        // 101 of 100 are one per cent more.
        assert_eq!(khz(101).relative_to(khz(100)).unwrap(), Deviation::new(Rational::new(1, 100).unwrap()));
        assert_eq!(
            khz(99).relative_to(khz(100)).unwrap().magnitude(),
            khz(101).relative_to(khz(100)).unwrap()
        );
        assert_eq!(
            khz(3).times(Rational::new(1, 2).unwrap()).unwrap(),
            Frequency::new(Rational::whole(1500))
        );
    }

    #[test]
    fn what_does_not_fit_is_named() {
        let none = us(10).share_of(Time::ZERO).unwrap_err();
        assert_eq!(none, QuantityError::Overflow { quantity: "duty" });
        let vast = Time::new(Rational::new(i128::MAX / 2, 1).unwrap());
        assert!(vast.in_ticks(mhz(96)).unwrap_err().is_overflow());
        assert_eq!(vast.times(Rational::whole(3)), Err(QuantityError::Overflow { quantity: "time" }));
    }
}
