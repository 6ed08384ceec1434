//! Numbers of a family file that hang on others: addresses with a stride, bit positions that follow a pin's number.

use std::collections::BTreeMap;

use serde::{Deserialize, Serialize};

/// Sums and products of whole numbers, decimal or `0x`, and `{names}`: `0x20 + 4*{pin}/8`. Products come before sums,
/// and division rounds down.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(try_from = "String", into = "String")]
pub struct Formula(String);

/// A text that is no formula.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
#[error("expected whole numbers and {{names}} with + - * / %, such as `0x20 + 4*{{pin}}`, found `{0}`")]
pub struct FormulaError(String);

impl TryFrom<String> for Formula {
    type Error = FormulaError;

    fn try_from(text: String) -> Result<Self, FormulaError> {
        // With one for every name a formula that is well formed has a value, whatever it is.
        let one = |_: &str| Some(1);
        match evaluate(&text, &one) {
            Some(_) => Ok(Self(text)),
            None => Err(FormulaError(text)),
        }
    }
}

impl From<Formula> for String {
    fn from(formula: Formula) -> Self {
        formula.0
    }
}

impl Formula {
    /// Its value with numbers for its names; `None` where one is missing, or where it is negative or too large.
    pub fn value(&self, names: &BTreeMap<String, u64>) -> Option<u64> {
        let found = evaluate(&self.0, &|name| names.get(name).and_then(|value| i64::try_from(*value).ok()))?;
        u64::try_from(found).ok()
    }

    /// The text with other text in the place of names.
    pub(crate) fn fill(&mut self, mut fill: impl FnMut(&mut String)) {
        fill(&mut self.0);
    }
}

/// The value of a text; `None` where it is no formula, a name has no value, or a number does not fit.
fn evaluate(text: &str, value: &dyn Fn(&str) -> Option<i64>) -> Option<i64> {
    let mut sum = 0_i64;
    let mut rest = text.trim();
    let mut sign = 1_i64;
    loop {
        let (term, after) = product(rest, value)?;
        sum = sum.checked_add(sign.checked_mul(term)?)?;
        let after = after.trim_start();
        sign = match after.chars().next() {
            None => return Some(sum),
            Some('+') => 1,
            Some('-') => -1,
            Some(_) => return None,
        };
        rest = after.get(1..)?;
    }
}

/// The product at the start of a text, and what follows it.
fn product<'t>(text: &'t str, value: &dyn Fn(&str) -> Option<i64>) -> Option<(i64, &'t str)> {
    let (mut product, mut rest) = number(text, value)?;
    loop {
        let after = rest.trim_start();
        let Some(operator) = after.chars().next().filter(|sign| "*/%".contains(*sign)) else {
            return Some((product, after));
        };
        let (next, behind) = number(after.get(1..)?, value)?;
        product = match operator {
            '*' => product.checked_mul(next)?,
            '/' => product.checked_div(next)?,
            _ => product.checked_rem(next)?,
        };
        rest = behind;
    }
}

/// The number or the name at the start of a text, and what follows it.
fn number<'t>(text: &'t str, value: &dyn Fn(&str) -> Option<i64>) -> Option<(i64, &'t str)> {
    let text = text.trim_start();
    if let Some(named) = text.strip_prefix('{') {
        let (name, rest) = named.split_once('}')?;
        return Some((value(name)?, rest));
    }
    let end = text.find(|c: char| !c.is_ascii_alphanumeric()).unwrap_or(text.len());
    let (digits, rest) = text.split_at_checked(end)?;
    let parsed = match digits.strip_prefix("0x") {
        Some(hex) => i64::from_str_radix(hex, 16),
        None => digits.parse(),
    };
    Some((parsed.ok()?, rest))
}

#[cfg(test)]
mod tests {
    use super::*;

    fn value(text: &str, names: &[(&str, u64)]) -> Option<u64> {
        let names = names.iter().map(|(name, value)| ((*name).to_owned(), *value)).collect();
        Formula::try_from(text.to_owned()).ok()?.value(&names)
    }

    #[test]
    fn products_come_before_sums() {
        assert_eq!(value("0x20 + 4*{pin}", &[("pin", 9)]), Some(0x44));
        assert_eq!(value("4*{pin} - 32", &[("pin", 9)]), Some(4));
        assert_eq!(value("0x20+4*{pin}/8%3", &[("pin", 15)]), Some(0x21));
        assert_eq!(value("{a}-{b}-1", &[("a", 7), ("b", 2)]), Some(4));
    }

    #[test]
    fn what_is_missing_or_does_not_fit_has_no_value() {
        assert_eq!(value("4*{pin}", &[]), None);
        assert_eq!(value("1 - {pin}", &[("pin", 2)]), None, "negative");
        assert_eq!(value("1/{pin}", &[("pin", 0)]), None);
        assert_eq!(value("0x7fffffffffffffff*{pin}", &[("pin", 2)]), None);
    }

    #[test]
    fn other_texts_are_refused() {
        for text in ["", "+", "1+", "0x", "0xg", "1 2", "{pin", "pin", "*2", "-1+", "(1)"] {
            assert!(Formula::try_from(text.to_owned()).is_err(), "{text}");
        }
    }
}
