//! The codes under which a part is sold: `STM32F411R[CE]*`.

use glob::{MatchOptions, Pattern};
use serde::{Deserialize, Serialize};

/// A pattern of order codes: `*` stands for any characters, `?` for one, `[CE]` for one of those.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(try_from = "String", into = "String")]
pub struct OrderCode(Pattern);

/// A text that is no pattern.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
#[error("expected a pattern of order codes such as `STM32F411R[CE]*`, found `{text}`: {why}")]
pub struct OrderCodeError {
    text: String,
    why: &'static str,
}

impl TryFrom<String> for OrderCode {
    type Error = OrderCodeError;

    fn try_from(text: String) -> Result<Self, OrderCodeError> {
        // Codes are what follows `--on` up to its first slash.
        if text.contains('/') {
            return Err(OrderCodeError { text, why: "it has a slash" });
        }
        match Pattern::new(&text) {
            Ok(pattern) => Ok(Self(pattern)),
            Err(error) => Err(OrderCodeError { text, why: error.msg }),
        }
    }
}

impl From<OrderCode> for String {
    fn from(code: OrderCode) -> Self {
        code.as_str().to_owned()
    }
}

impl OrderCode {
    /// The pattern as it is written.
    pub fn as_str(&self) -> &str {
        self.0.as_str()
    }

    /// Whether it is a pattern of this code. Small letters count as capital ones.
    pub fn means(&self, code: &str) -> bool {
        let options = MatchOptions { case_sensitive: false, ..MatchOptions::new() };
        self.0.matches_with(code, options)
    }
}
