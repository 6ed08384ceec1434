//! The shapes that a move's rate has over time.

use serde::Serialize;

/// How the rate changes over a move.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
#[serde(rename_all = "snake_case")]
pub enum RampShape {
    /// Not at all.
    Steady,
    /// Up to the fastest rate, and down again.
    Trapezoid,
    /// Up to a rate below the fastest, since the way is short.
    Triangle,
    /// Up and down without a jump of the acceleration.
    SCurve,
}

impl RampShape {
    /// The word for it.
    pub const fn word(self) -> &'static str {
        match self {
            Self::Steady => "steady",
            Self::Trapezoid => "trapezoid",
            Self::Triangle => "triangle",
            Self::SCurve => "S-curve",
        }
    }
}
