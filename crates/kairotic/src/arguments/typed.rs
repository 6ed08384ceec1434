//! From an option's text to what it means, for the parser of the command line: a text that means nothing is refused where
//! it stands, with what was expected and what to try.

use std::path::PathBuf;

use kairotic_core::Error;
use kairotic_core::quantity::{
    Deviation, Dimension, Duty, Frequency, Quantity, QuantityError, Range, Rational, Tolerance, parse,
};
use kairotic_core::target::Span;

use crate::hints;

/// Why a text is refused, and what to try.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
#[error("{message}")]
pub struct Refusal {
    /// What was expected and what came.
    pub message: String,
    /// What to try.
    pub hint: Option<String>,
}

impl Refusal {
    /// What was expected, and an example.
    pub fn new(message: impl Into<String>, hint: impl Into<String>) -> Self {
        Self { message: message.into(), hint: Some(hint.into()) }
    }
}

impl From<Error> for Refusal {
    fn from(error: Error) -> Self {
        Self { message: error.to_string(), hint: hints::of_error(&error) }
    }
}

impl From<QuantityError> for Refusal {
    fn from(error: QuantityError) -> Self {
        Error::from(error).into()
    }
}

/// What a text means, or why it is refused.
pub type Typed<T> = Result<T, Refusal>;

/// Anything that reads itself from text.
pub fn text<T: std::str::FromStr>(text: &str) -> Typed<T>
where
    Refusal: From<T::Err>,
{
    Ok(text.parse()?)
}

/// A quantity.
pub fn quantity<D: Dimension>(text: &str) -> Typed<Quantity<D>> {
    Ok(parse::quantity(text)?)
}

/// A quantity that has to be greater than zero.
pub fn positive<D: Dimension>(text: &str) -> Typed<Quantity<D>> {
    Ok(parse::quantity(text)?.positive()?)
}

/// From a lower to a higher quantity; which of them is higher is not looked at.
pub fn range<D: Dimension>(text: &str) -> Typed<Range<Quantity<D>>> {
    Ok(parse::range(text)?)
}

/// A clock: a frequency greater than zero, perhaps with a tolerance.
pub fn clock(text: &str) -> Typed<Tolerance<Frequency>> {
    let clock: Tolerance<Frequency> = parse::tolerance(text)?;
    clock.nominal.positive()?;
    Ok(clock)
}

/// A tolerance: zero, or how far something may be off either way.
pub fn tolerance(text: &str) -> Typed<Deviation> {
    let within: Deviation = parse::quantity(text)?;
    if within < Deviation::ZERO {
        return Err(QuantityError::NotPositive { quantity: "tolerance", value: within.told() }.into());
    }
    Ok(within)
}

/// The active times that a load uses, the lower first.
pub fn span(text: &str) -> Typed<Span> {
    Ok(text.parse::<Span>()?.rising()?)
}

/// A whole number from `LOW` to `HIGH`.
pub fn whole<T: TryFrom<u64>, const LOW: u64, const HIGH: u64>(text: &str) -> Typed<T> {
    let number = text.parse().ok().filter(|number| (LOW..=HIGH).contains(number));
    number.and_then(|number| T::try_from(number).ok()).ok_or_else(|| Refusal {
        message: format!("expected a whole number from {LOW} to {HIGH}, found `{text}`"),
        hint: None,
    })
}

/// A name that C and Rust take.
pub fn identifier(text: &str) -> Result<String, String> {
    let letter = |c: char| c.is_ascii_alphabetic() || c == '_';
    let starts = text.chars().next().is_some_and(letter);
    if starts && text.chars().all(|c| letter(c) || c.is_ascii_digit()) {
        return Ok(text.to_owned());
    }
    Err("expected letters, digits and underscores, and no digit first".to_owned())
}

/// A number greater than zero of things that have no unit.
pub fn plain(text: &str, of: &str, example: &str) -> Typed<Rational> {
    let wrong =
        || Refusal::new(format!("expected a number of {of} greater than zero, found `{text}`"), example);
    // A hundredth of a whole is read exactly, and a hundred of them are the number.
    let share: Duty = format!("{text}%").parse().map_err(|_| wrong())?;
    share.value().times(Rational::whole(100)).filter(|number| number.is_positive()).ok_or_else(wrong)
}

/// A file with one of some endings; `example` is a name that has one.
pub fn file(text: &str, endings: &[&str], example: &str) -> Typed<PathBuf> {
    let path = PathBuf::from(text);
    let ending = path.extension().map(|ending| ending.to_string_lossy().to_lowercase());
    if ending.is_some_and(|ending| endings.contains(&ending.as_str())) {
        return Ok(path);
    }
    let endings: Vec<String> = endings.iter().map(|ending| format!(".{ending}")).collect();
    let message = format!("expected a file name that ends in {}, found `{text}`", endings.join(" or "));
    Err(Refusal::new(message, format!("for example {example}")))
}
