//! How measured numbers are written for programs: as quantities are, but without an exact number, since there is none.
//!
//! Each function is one for serde's `serialize_with`, and takes a number or one that may be missing.

use serde::ser::SerializeStruct;
use serde::{Serialize, Serializer};

/// Seconds.
pub fn seconds<S: Serializer>(value: &(impl Into<Option<f64>> + Copy), to: S) -> Result<S::Ok, S::Error> {
    write((*value).into(), Some("s"), to)
}

/// Hertz.
pub fn hertz<S: Serializer>(value: &(impl Into<Option<f64>> + Copy), to: S) -> Result<S::Ok, S::Error> {
    write((*value).into(), Some("Hz"), to)
}

/// Turns a minute.
pub fn rpm<S: Serializer>(value: &(impl Into<Option<f64>> + Copy), to: S) -> Result<S::Ok, S::Error> {
    write((*value).into(), Some("rpm"), to)
}

/// Degrees.
pub fn degrees<S: Serializer>(value: &(impl Into<Option<f64>> + Copy), to: S) -> Result<S::Ok, S::Error> {
    write((*value).into(), Some("deg"), to)
}

/// A ratio, which has no unit.
pub fn ratio<S: Serializer>(value: &(impl Into<Option<f64>> + Copy), to: S) -> Result<S::Ok, S::Error> {
    write((*value).into(), None, to)
}

/// Ratios.
pub fn ratios<S: Serializer>(values: &&[f64], to: S) -> Result<S::Ok, S::Error> {
    to.collect_seq(values.iter().map(|value| Number { approx: *value, unit: None }))
}

struct Number {
    approx: f64,
    unit: Option<&'static str>,
}

impl Serialize for Number {
    fn serialize<S: Serializer>(&self, to: S) -> Result<S::Ok, S::Error> {
        let mut fields = to.serialize_struct("Number", if self.unit.is_some() { 2 } else { 1 })?;
        fields.serialize_field("approx", &self.approx)?;
        if let Some(unit) = self.unit {
            fields.serialize_field("unit", unit)?;
        }
        fields.end()
    }
}

fn write<S: Serializer>(value: Option<f64>, unit: Option<&'static str>, to: S) -> Result<S::Ok, S::Error> {
    value.map(|approx| Number { approx, unit }).serialize(to)
}
