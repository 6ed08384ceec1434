//! What is wrong with a step of a sequence.

use std::fmt;

use super::Error;
use crate::quantity::Time;

/// What is wrong with a step of a sequence.
#[derive(Debug, Clone, PartialEq)]
#[non_exhaustive]
pub enum StepProblem {
    /// The signal is still at another step.
    Overlap {
        /// The signal.
        signal: String,
        /// The step that it is at, from one on.
        busy: usize,
        /// Until when.
        until: Time,
        /// When this one begins.
        begins: Time,
    },
    /// It begins nowhere.
    UnknownStart {
        /// The signal.
        signal: String,
    },
    /// Nothing that is to be armed.
    NothingToArm {
        /// The signal.
        signal: String,
    },
    /// Nothing that is to learn its ends.
    NothingToTeach {
        /// The signal.
        signal: String,
    },
    /// Levels between, on a way that takes no time.
    LevelsAtOnce,
    /// A single level between two.
    OneLevel,
    /// Something that is for levels, asked of a stepper.
    OfStepper {
        /// The stepper.
        signal: String,
        /// What was asked, as it is spelt.
        what: &'static str,
    },
    /// Words that make no step.
    Words {
        /// What was expected.
        expected: &'static str,
        /// What came; nothing where the text ended.
        found: String,
    },
    /// A value that is wrong.
    Value(Error),
}

impl StepProblem {
    /// This problem of a step, counted from zero.
    pub fn at(self, step: usize) -> Error {
        Error::SequenceStep { step: step.saturating_add(1), problem: Box::new(self) }
    }

    /// What to try.
    pub(super) fn hint(&self) -> Option<String> {
        Some(match self {
            Self::Overlap { until, .. } => format!("begin it at {} or later", until.told().replace(' ', "")),
            Self::UnknownStart { .. } => {
                "say where it begins with `from`, or with `at`, `pulse` or `duty` of the signal".to_owned()
            }
            Self::NothingToArm { .. } => {
                "give its load `arm-pulse` and `arm-hold`: a speed controller has them".to_owned()
            }
            Self::NothingToTeach { .. } => {
                "give its load `calibrate-hold`: a speed controller may have it".to_owned()
            }
            Self::LevelsAtOnce => "say with `over` how long all of them take".to_owned(),
            Self::OneLevel => "two levels or more: both ends count".to_owned(),
            Self::OfStepper { .. } => "give it an angle, and with `over` the time".to_owned(),
            Self::Words { .. } => {
                "for example `30% for 10s, to 100% over 20s in 12 levels, hold 5s`".to_owned()
            }
            Self::Value(error) => return error.hint(),
        })
    }
}

impl fmt::Display for StepProblem {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self {
            Self::Overlap { signal, busy, until, begins } => {
                write!(f, "it begins at {begins}, and `{signal}` is at step {busy} until {until}")
            }
            Self::UnknownStart { signal } => write!(f, "it is not said where `{signal}` is before"),
            Self::NothingToArm { signal } => write!(f, "`{signal}` drives nothing that is armed"),
            Self::NothingToTeach { signal } => {
                write!(f, "it is not said how long `{signal}` holds the ends for its load to learn them")
            }
            Self::LevelsAtOnce => f.write_str("`levels` lie on a way, and this one takes no time"),
            Self::OneLevel => f.write_str("expected at least 2 `levels`, found 1"),
            Self::OfStepper { signal, what } => write!(f, "`{signal}` is a stepper, which has no {what}"),
            Self::Words { expected, found } if found.is_empty() => {
                write!(f, "expected {expected}, found nothing more")
            }
            Self::Words { expected, found } => write!(f, "expected {expected}, found `{found}`"),
            Self::Value(error) => error.fmt(f),
        }
    }
}
