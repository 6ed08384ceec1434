//! The compare value at which an output becomes constant, as a rule in the top.

use std::fmt;
use std::str::FromStr;

use serde::{Deserialize, Serialize};

/// `never`, or a compare value `m*top+k`, written `0`, `top`, `top+1`, `4*top+4`.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(try_from = "String", into = "String")]
pub enum ComparePoint {
    /// No compare value does it.
    Never,
    /// The compare value `per_top * top + plus` does it.
    At {
        /// Factor of the top.
        per_top: u32,
        /// Added to it.
        plus: u32,
    },
}

impl ComparePoint {
    /// The compare value for a top, if there is one.
    pub fn value(self, top: u64) -> Option<u64> {
        match self {
            Self::Never => None,
            Self::At { per_top, plus } => u64::from(per_top).checked_mul(top)?.checked_add(plus.into()),
        }
    }
}

/// A text that is no compare point.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
#[error("expected `never` or a rule such as `0`, `top`, `top+1` or `4*top+4`, found `{0}`")]
pub struct PointError(String);

impl FromStr for ComparePoint {
    type Err = PointError;

    fn from_str(text: &str) -> Result<Self, PointError> {
        let wrong = || PointError(text.to_owned());
        let number = |digits: &str| digits.trim().parse::<u32>().map_err(|_| wrong());
        let text = text.trim();
        if text == "never" {
            return Ok(Self::Never);
        }
        let Some((factor, rest)) = text.split_once("top") else {
            return Ok(Self::At { per_top: 0, plus: number(text)? });
        };
        let per_top = match factor.trim() {
            "" => 1,
            factor => number(factor.strip_suffix('*').ok_or_else(wrong)?)?,
        };
        let plus = match rest.trim() {
            "" => 0,
            rest => number(rest.strip_prefix('+').ok_or_else(wrong)?)?,
        };
        Ok(Self::At { per_top, plus })
    }
}

impl TryFrom<String> for ComparePoint {
    type Error = PointError;

    fn try_from(text: String) -> Result<Self, PointError> {
        text.parse()
    }
}

impl From<ComparePoint> for String {
    fn from(point: ComparePoint) -> Self {
        point.to_string()
    }
}

impl fmt::Display for ComparePoint {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match *self {
            Self::Never => f.write_str("never"),
            Self::At { per_top: 0, plus } => write!(f, "{plus}"),
            Self::At { per_top, plus } => {
                if per_top != 1 {
                    write!(f, "{per_top}*")?;
                }
                f.write_str("top")?;
                if plus == 0 { Ok(()) } else { write!(f, "+{plus}") }
            }
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn points_are_read_and_shown() {
        for text in ["never", "0", "3", "top", "top+1", "4*top", "4*top+4"] {
            assert_eq!(text.parse::<ComparePoint>().unwrap().to_string(), text);
        }
        assert_eq!("4 * top + 4".parse(), Ok(ComparePoint::At { per_top: 4, plus: 4 }));
    }

    #[test]
    fn other_texts_are_refused() {
        for text in ["", "top-1", "-1", "top*4", "4top", "toptop", "99999999999"] {
            assert!(text.parse::<ComparePoint>().is_err(), "{text}");
        }
    }

    #[test]
    fn the_value_follows_the_top() {
        assert_eq!("4*top+4".parse::<ComparePoint>().unwrap().value(199), Some(800));
        assert_eq!(ComparePoint::Never.value(199), None);
    }
}
