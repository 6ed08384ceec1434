//! Exact numbers with a dimension: read from text, checked in every operation, shown as text.
//!
//! ```
//! use kairotic_core::quantity::{Frequency, Rational, Time};
//!
//! let (pulse, frame): (Time, Time) = ("1.5ms".parse()?, "20ms".parse()?);
//! assert_eq!(pulse.share_of(frame)?.told(), "7.5 %");
//! let clock: Frequency = "2.5MHz".parse()?;
//! assert_eq!(pulse.in_ticks(clock)?, Rational::whole(3750));
//! # Ok::<(), kairotic_core::Error>(())
//! ```

pub mod dimension;
mod error;
mod figure;
mod level;
pub(crate) mod measured;
mod operations;
pub mod parse;
mod rational;
#[cfg(feature = "schema")]
mod schema;
mod serial;
pub mod show;
#[cfg(test)]
mod tests;
pub mod units;

use std::fmt;
use std::marker::PhantomData;
use std::str::FromStr;

use serde::Deserialize;

pub use self::dimension::{
    AngleDimension, DeviationDimension, Dimension, DutyDimension, FrequencyDimension, PowerDimension,
    ResistanceDimension, SpeedDimension, StepAccelerationDimension, StepJerkDimension, StepRateDimension,
    TimeDimension, VoltageDimension,
};
pub use self::error::QuantityError;
use self::error::Result;
pub use self::figure::Figure;
pub use self::level::LoadLevel;
pub use self::measured::Measured;
pub use self::rational::Rational;

/// Events a second, in hertz.
pub type Frequency = Quantity<FrequencyDimension>;
/// Time, in seconds.
pub type Time = Quantity<TimeDimension>;
/// The active share of a period, 0 to 1.
pub type Duty = Quantity<DutyDimension>;
/// An angle: of a period, or of a servo's travel.
pub type Angle = Quantity<AngleDimension>;
/// Electric tension, in volts.
pub type Voltage = Quantity<VoltageDimension>;
/// Power, in watts.
pub type Power = Quantity<PowerDimension>;
/// Electric resistance, in ohms.
pub type Resistance = Quantity<ResistanceDimension>;
/// Speed of turning, in turns a second.
pub type Speed = Quantity<SpeedDimension>;
/// Steps of a stepper a second.
pub type StepRate = Quantity<StepRateDimension>;
/// How fast a step rate changes, in steps a second squared.
pub type StepAcceleration = Quantity<StepAccelerationDimension>;
/// How fast an acceleration changes, in steps a second cubed.
pub type StepJerk = Quantity<StepJerkDimension>;
/// A relative deviation: 1 ppm is a millionth.
pub type Deviation = Quantity<DeviationDimension>;

/// An exact number of a dimension's base unit.
#[derive(Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Deserialize)]
#[serde(try_from = "String", bound = "D: Dimension")]
pub struct Quantity<D> {
    value: Rational,
    dimension: PhantomData<D>,
}

impl<D: Dimension> Quantity<D> {
    /// Nothing of it.
    pub const ZERO: Self = Self::new(Rational::ZERO);

    /// So many base units: hertz, seconds, wholes.
    pub const fn new(value: Rational) -> Self {
        Self { value, dimension: PhantomData }
    }

    /// The number of base units.
    pub fn value(self) -> Rational {
        self.value
    }

    /// The shortest exact text; reading it back gives the same quantity.
    pub fn exact(self) -> String {
        show::exact::<D>(self.value)
    }

    /// Text for a person: the exact decimal where there is a short one, else nine significant digits. A fraction of long
    /// numbers says nothing.
    pub fn told(self) -> String {
        show::told::<D>(self.value)
    }

    /// Text to a number of significant digits.
    pub fn rounded(self, digits: usize) -> String {
        show::rounded::<D>(self.value, digits)
    }

    /// The number in the unit that programs are told it in, with that unit; a ratio has none.
    pub fn reported(&self) -> (Rational, Option<&'static str>) {
        let unit = D::REPORTED.and_then(|unit| Some((self.value.times(unit.inverse)?, unit.symbol)));
        unit.map_or((self.value, None), |(value, symbol)| (value, Some(symbol)))
    }

    /// This quantity, or an error where it is zero or less.
    ///
    /// # Errors
    /// [`QuantityError::NotPositive`] with the dimension's name.
    pub fn positive(self) -> Result<Self> {
        if self.value.is_positive() {
            Ok(self)
        } else {
            Err(QuantityError::NotPositive { quantity: D::NAME, value: self.exact() })
        }
    }
}

impl Duty {
    /// The same duty, if it is from 0 % to 100 %.
    ///
    /// # Errors
    /// [`QuantityError::DutyRange`].
    pub fn share(self) -> Result<Self> {
        if self >= Self::ZERO && self.value <= Rational::ONE {
            Ok(self)
        } else {
            Err(QuantityError::DutyRange { found: self.exact() })
        }
    }
}

impl Frequency {
    /// The period of this frequency, or the frequency of this period's reciprocal.
    ///
    /// # Errors
    /// [`QuantityError::NotPositive`] for a frequency of zero.
    pub fn period(self) -> Result<Time> {
        reciprocal(self.positive()?.value, "period").map(Time::new)
    }
}

impl Time {
    /// The frequency whose period this is.
    ///
    /// # Errors
    /// [`QuantityError::NotPositive`] for a time of zero.
    pub fn frequency(self) -> Result<Frequency> {
        reciprocal(self.positive()?.value, "frequency").map(Frequency::new)
    }
}

fn reciprocal(value: Rational, quantity: &'static str) -> Result<Rational> {
    Rational::ONE.over(value).ok_or(QuantityError::Overflow { quantity })
}

impl<D: Dimension> FromStr for Quantity<D> {
    type Err = QuantityError;

    fn from_str(text: &str) -> Result<Self> {
        parse::quantity(text)
    }
}

impl<D: Dimension> TryFrom<String> for Quantity<D> {
    type Error = QuantityError;

    fn try_from(text: String) -> Result<Self> {
        text.parse()
    }
}

/// The text for a person, as [`Quantity::told`].
impl<D: Dimension> fmt::Display for Quantity<D> {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str(&show::told::<D>(self.value))
    }
}

impl<D: Dimension> fmt::Debug for Quantity<D> {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str(&show::exact::<D>(self.value))
    }
}

/// Two quantities with everything between them.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Deserialize)]
#[serde(try_from = "String", bound = "Self: TryFrom<String, Error = QuantityError>")]
pub struct Range<Q> {
    /// The end that was written first.
    pub low: Q,
    /// The end that was written last.
    pub high: Q,
}

impl<D: Dimension> TryFrom<String> for Range<Quantity<D>> {
    type Error = QuantityError;

    fn try_from(text: String) -> Result<Self> {
        parse::range(&text)
    }
}

/// The ends as [`Quantity::told`] has them.
impl<D: Dimension> fmt::Display for Range<Quantity<D>> {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(f, "{}..{}", self.low, self.high)
    }
}

impl<D: Dimension + Copy> Range<Quantity<D>> {
    /// Whether a quantity lies between the ends, or on one.
    pub fn holds(&self, quantity: Quantity<D>) -> bool {
        self.low.value <= quantity.value && quantity.value <= self.high.value
    }
}

impl<D: Dimension> Quantity<D> {
    /// This quantity, without any deviation.
    pub const fn exactly(self) -> Tolerance<Self> {
        Tolerance { nominal: self, deviation: Deviation::ZERO }
    }
}

/// A quantity that may deviate both ways by a relative amount.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Tolerance<Q> {
    /// The value without deviation.
    pub nominal: Q,
    /// How far it may be off, either way; zero where nothing was said.
    pub deviation: Deviation,
}
