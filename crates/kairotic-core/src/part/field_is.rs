//! A field with a value, as a family file writes it.

use serde::{Deserialize, Serialize};

/// A field and the value that it must have: `DBCTL.OUT_MODE=3`, or `CCER.CC1NE` for 1.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(try_from = "String", into = "String")]
pub struct FieldIs {
    /// The field.
    pub field: String,
    /// The value.
    pub value: u64,
}

/// A text that is no field with a value.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
#[error(
    "expected a register field such as `CCER.CC1NE`, or one with a value such as `DBCTL.OUT_MODE=3`, found `{0}`"
)]
pub struct FieldIsError(String);

impl TryFrom<String> for FieldIs {
    type Error = FieldIsError;

    fn try_from(text: String) -> Result<Self, FieldIsError> {
        let Some((field, value)) = text.split_once('=') else { return Ok(Self { field: text, value: 1 }) };
        match value.trim().parse() {
            Ok(value) => Ok(Self { field: field.trim().to_owned(), value }),
            Err(_) => Err(FieldIsError(text)),
        }
    }
}

impl From<FieldIs> for String {
    fn from(wanted: FieldIs) -> Self {
        match wanted.value {
            1 => wanted.field,
            value => format!("{}={value}", wanted.field),
        }
    }
}
