//! What can be wrong with a quantity.

/// A result with this room's error.
pub(super) type Result<T, E = QuantityError> = std::result::Result<T, E>;

/// What is wrong with a text that should have been a quantity.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum TextProblem {
    /// There is nothing.
    Empty,
    /// It does not begin with a number.
    NotANumber,
    /// The number has no unit.
    MissingUnit,
    /// The number is followed by something that is no unit of this quantity.
    WrongUnit {
        /// What stands there.
        unit: String,
        /// The unit that was probably meant, if one is near.
        nearest: Option<&'static str>,
    },
    /// Digits are missing after a point, a slash or an underscore.
    MissingDigits,
    /// The number needs more than 127 bits.
    TooLarge,
    /// A division by zero.
    ZeroDenominator,
    /// A range without two dots, or a tolerance without its sign.
    MissingSeparator(&'static str),
}

/// What can be wrong with a quantity.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
#[non_exhaustive]
pub enum QuantityError {
    /// A text that is no quantity of the kind that is needed.
    #[error("expected {}, found `{text}`: {}", with_article(quantity), problem_words(problem))]
    Text {
        /// The kind that is needed.
        quantity: &'static str,
        /// What came, shortened when long.
        text: String,
        /// What is wrong with it.
        problem: TextProblem,
        /// The units that fit.
        units: String,
    },
    /// A number that needs more bits than there are.
    #[error("the {quantity} needs more than the 127 bits that exact numbers have here")]
    Overflow {
        /// What did not fit.
        quantity: &'static str,
    },
    /// A quantity that must be greater than zero.
    #[error("expected {} greater than zero, found {value}", with_article(quantity))]
    NotPositive {
        /// The kind of quantity.
        quantity: &'static str,
        /// What came.
        value: String,
    },
    /// A duty outside 0 % to 100 %.
    #[error("expected a duty from 0 % to 100 %, found {found}")]
    DutyRange {
        /// What came.
        found: String,
    },
}

impl QuantityError {
    /// Whether a number needs more bits than there are.
    pub const fn is_overflow(&self) -> bool {
        matches!(self, Self::Overflow { .. })
    }

    /// What to try instead, where there is something to say.
    pub fn hint(&self) -> Option<String> {
        Some(match self {
            Self::Text { problem, units, .. } => match problem {
                TextProblem::WrongUnit { nearest: Some(unit), .. } => format!("the unit is spelt {unit}"),
                TextProblem::TooLarge => "use fewer digits".to_owned(),
                TextProblem::MissingSeparator(separator) => {
                    format!("write two of them with `{separator}` between; units that fit: {units}")
                }
                _ => format!("units that fit here: {units}"),
            },
            Self::Overflow { .. } => "use fewer digits, or a simpler fraction".to_owned(),
            Self::DutyRange { .. } => {
                "a duty is the active share of the period; an active time is a pulse".to_owned()
            }
            Self::NotPositive { .. } => return None,
        })
    }
}

fn with_article(word: &str) -> String {
    let article = if word.starts_with(['a', 'e', 'i', 'o', 'u']) { "an" } else { "a" };
    format!("{article} {word}")
}

fn problem_words(problem: &TextProblem) -> String {
    match problem {
        TextProblem::Empty => "there is nothing".to_owned(),
        TextProblem::NotANumber => "it does not begin with a number".to_owned(),
        TextProblem::MissingUnit => "the unit is missing".to_owned(),
        TextProblem::WrongUnit { unit, .. } => format!("`{unit}` is not a unit of it"),
        TextProblem::MissingDigits => "digits are missing".to_owned(),
        TextProblem::TooLarge => "the number is too long to be held exactly".to_owned(),
        TextProblem::ZeroDenominator => "it divides by zero".to_owned(),
        TextProblem::MissingSeparator(separator) => format!("there is no `{separator}` in it"),
    }
}
