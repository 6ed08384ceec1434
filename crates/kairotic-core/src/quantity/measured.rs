//! Measured numbers: floats, since what is measured is never exact.

use std::cmp::Ordering;
use std::fmt;
use std::marker::PhantomData;

use serde::ser::SerializeStruct;
use serde::{Serialize, Serializer};

#[cfg(feature = "capture")]
use super::DeviationDimension;
use super::{Dimension, Quantity, Rational};

/// A measured number of a dimension's base units. Programs are told it as quantities are, but without an exact number.
pub struct Measured<D> {
    value: f64,
    dimension: PhantomData<fn() -> D>,
}

impl<D> Measured<D> {
    /// So many of the dimension's base units.
    pub const fn new(value: f64) -> Self {
        Self { value, dimension: PhantomData }
    }

    /// The number of base units.
    pub const fn value(self) -> f64 {
        self.value
    }
}

impl<D: Dimension> Measured<D> {
    /// The number in the unit that programs are told it in, with that unit; a ratio has none.
    pub fn reported(self) -> (f64, Option<&'static str>) {
        let unit = D::REPORTED.map(|unit| (self.value * unit.inverse.approx(), unit.symbol));
        unit.map_or((self.value, None), |(value, symbol)| (value, Some(symbol)))
    }
}

impl<D: Dimension + Copy> Measured<D> {
    /// Text with so many significant digits and the unit that suits; empty for a number that is none.
    pub fn rounded(self, digits: usize) -> String {
        Rational::measured(self.value)
            .map(|value| Quantity::<D>::new(value).rounded(digits))
            .unwrap_or_default()
    }
}

impl<D> Clone for Measured<D> {
    fn clone(&self) -> Self {
        *self
    }
}

impl<D> Copy for Measured<D> {}

impl<D> fmt::Debug for Measured<D> {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        fmt::Debug::fmt(&self.value, f)
    }
}

impl<D> PartialEq for Measured<D> {
    fn eq(&self, other: &Self) -> bool {
        self.value == other.value
    }
}

impl<D> PartialOrd for Measured<D> {
    fn partial_cmp(&self, other: &Self) -> Option<Ordering> {
        self.value.partial_cmp(&other.value)
    }
}

impl<D: Dimension> Serialize for Measured<D> {
    fn serialize<S: Serializer>(&self, serializer: S) -> Result<S::Ok, S::Error> {
        let (value, unit) = self.reported();
        let mut fields = serializer.serialize_struct("Measured", if unit.is_some() { 2 } else { 1 })?;
        fields.serialize_field("approx", &value)?;
        if let Some(unit) = unit {
            fields.serialize_field("unit", unit)?;
        }
        fields.end()
    }
}

/// A measured ratio as programs are told it, for serde's `serialize_with`.
#[cfg(feature = "capture")]
pub(crate) fn ratio<S: Serializer>(value: &f64, serializer: S) -> Result<S::Ok, S::Error> {
    Measured::<DeviationDimension>::new(*value).serialize(serializer)
}
