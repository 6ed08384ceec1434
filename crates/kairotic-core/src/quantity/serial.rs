//! How quantities are written for programs: exactly, as a float, and with their unit.
//!
//! Formats that people cannot read (the embedded catalogue) keep the exact text, which is what is read back.

use serde::ser::SerializeStruct;
use serde::{Serialize, Serializer};

use super::{Dimension, LoadLevel, Quantity, Range, Rational, Tolerance, show};

impl Serialize for Rational {
    fn serialize<S: Serializer>(&self, serializer: S) -> Result<S::Ok, S::Error> {
        number(*self, None, serializer)
    }
}

impl<D: Dimension> Serialize for Quantity<D> {
    fn serialize<S: Serializer>(&self, serializer: S) -> Result<S::Ok, S::Error> {
        if !serializer.is_human_readable() {
            return serializer.collect_str(&show::exact::<D>(self.value));
        }
        let (value, unit) = self.reported();
        number(value, unit, serializer)
    }
}

fn number<S: Serializer>(value: Rational, unit: Option<&str>, serializer: S) -> Result<S::Ok, S::Error> {
    let mut fields = serializer.serialize_struct("Number", if unit.is_some() { 3 } else { 2 })?;
    fields.serialize_field("exact", &value.to_string())?;
    fields.serialize_field("approx", &value.approx())?;
    if let Some(unit) = unit {
        fields.serialize_field("unit", unit)?;
    }
    fields.end()
}

impl<D: Dimension> Serialize for Range<Quantity<D>> {
    fn serialize<S: Serializer>(&self, serializer: S) -> Result<S::Ok, S::Error> {
        if !serializer.is_human_readable() {
            let exact = |end: &Quantity<D>| show::exact::<D>(end.value);
            return serializer.collect_str(&format_args!("{}..{}", exact(&self.low), exact(&self.high)));
        }
        ends(self, serializer)
    }
}

impl Serialize for Range<LoadLevel> {
    fn serialize<S: Serializer>(&self, serializer: S) -> Result<S::Ok, S::Error> {
        ends(self, serializer)
    }
}

fn ends<Q: Serialize, S: Serializer>(range: &Range<Q>, serializer: S) -> Result<S::Ok, S::Error> {
    let mut fields = serializer.serialize_struct("Range", 2)?;
    fields.serialize_field("low", &range.low)?;
    fields.serialize_field("high", &range.high)?;
    fields.end()
}

impl<Q: Serialize> Serialize for Tolerance<Q> {
    fn serialize<S: Serializer>(&self, serializer: S) -> Result<S::Ok, S::Error> {
        let mut fields = serializer.serialize_struct("Tolerance", 2)?;
        fields.serialize_field("nominal", &self.nominal)?;
        fields.serialize_field("deviation", &self.deviation)?;
        fields.end()
    }
}
