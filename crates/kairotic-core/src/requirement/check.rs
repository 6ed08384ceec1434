//! A requirement, held against what there is: one type for settings, budgets and recordings.

use serde::Serialize;

use crate::error::{OrOverflow, Result};
use crate::finding::Remedy;
use crate::quantity::{Figure, Rational};
use crate::signal::Need;

/// Whether a requirement is met.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
#[serde(rename_all = "snake_case")]
pub enum Verdict {
    /// It is, at worst.
    Met,
    /// It is likely, and at worst it is not.
    Marginal,
    /// It is not.
    Missed,
    /// The measurement is not good enough to tell.
    CannotTell,
}

impl Verdict {
    /// The words that outputs use.
    pub const fn words(self) -> &'static str {
        match self {
            Self::Met => "met",
            Self::Marginal => "marginal",
            Self::Missed => "missed",
            Self::CannotTell => "cannot tell",
        }
    }

    /// Whether what is surely no more than `found` is allowed, and what is likely.
    pub fn of_cases(worst: Rational, likely: Rational, limit: Rational) -> Self {
        match () {
            () if worst <= limit => Self::Met,
            () if likely <= limit => Self::Marginal,
            () => Self::Missed,
        }
    }

    /// Whether a measurement that may be off by `uncertainty` keeps a limit: only where the whole interval lies on one
    /// side of it can that be told.
    pub fn of_measurement(found: f64, uncertainty: Option<f64>, limit: f64) -> Self {
        match uncertainty {
            Some(off) if found + off <= limit => Self::Met,
            Some(off) if found - off > limit => Self::Missed,
            _ => Self::CannotTell,
        }
    }
}

/// A limit that would be longer than this is told to four digits.
const LONGEST: usize = 10;

/// A requirement, held against what there is.
#[derive(Debug, Clone, PartialEq, Serialize)]
pub struct RequirementCheck {
    /// What is required.
    pub requirement: Need,
    /// How much is allowed: at most this, or of steps at least.
    pub limit: Figure,
    /// What there is, at worst; `None` where nothing is stated.
    pub found: Option<Figure>,
    /// What is likely, where that is another thing than the worst.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub likely: Option<Figure>,
    /// How far a measurement may be off with 95 % confidence.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub uncertainty: Option<Figure>,
    /// How much of what is allowed is used: above 1 it is more than that. `None` where nothing is allowed.
    pub share: Option<Rational>,
    /// Whether it is met.
    pub outcome: Verdict,
    /// Whether nobody asked for it: it is what the registers should give.
    #[serde(skip_serializing_if = "std::ops::Not::not")]
    pub implied: bool,
    /// What would tell, where a measurement cannot.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub would_tell: Option<Remedy>,
}

impl RequirementCheck {
    /// What is so, against the most that is allowed.
    ///
    /// # Errors
    /// A share that does not fit.
    pub fn at_most(requirement: Need, limit: Figure, found: Figure) -> Result<Self> {
        Self::of_cases(requirement, limit, found, None)
    }

    /// The worst and the likely case against the most that is allowed.
    ///
    /// # Errors
    /// A share that does not fit.
    pub fn of_cases(requirement: Need, limit: Figure, worst: Figure, likely: Option<Figure>) -> Result<Self> {
        let outcome = Verdict::of_cases(worst.value(), likely.unwrap_or(worst).value(), limit.value());
        Ok(Self { likely, ..Self::plain(requirement, limit, worst, outcome)? })
    }

    /// A number of steps against the least that will do.
    ///
    /// # Errors
    /// A share that does not fit.
    pub fn at_least(requirement: Need, limit: u64, found: u64) -> Result<Self> {
        let outcome = if found >= limit { Verdict::Met } else { Verdict::Missed };
        let share = Rational::from(limit).over(Rational::from(found.max(1))).or_overflow("steps")?;
        let check = Self::plain(requirement, Figure::Count(limit), Figure::Count(found), outcome)?;
        Ok(Self { share: Some(share), ..check })
    }

    /// A requirement of something of which nothing is stated.
    pub const fn not_stated(requirement: Need, limit: Figure) -> Self {
        Self {
            requirement,
            limit,
            found: None,
            likely: None,
            uncertainty: None,
            share: None,
            outcome: Verdict::Missed,
            implied: false,
            would_tell: None,
        }
    }

    fn plain(requirement: Need, limit: Figure, found: Figure, outcome: Verdict) -> Result<Self> {
        let share = match limit.value() {
            limit if limit.is_zero() => None,
            limit => Some(found.value().over(limit).or_overflow("requirement")?),
        };
        Ok(Self { found: Some(found), share, outcome, ..Self::not_stated(requirement, limit) })
    }

    /// The limit as text: `at most 4 us`, or of steps `at least 1000`.
    pub fn limit_words(&self) -> String {
        let side = if self.requirement == Need::Steps { "at least" } else { "at most" };
        let exact = self.limit.to_string();
        let limit = if exact.len() > LONGEST { self.limit.rounded(4) } else { exact };
        format!("{side} {limit}")
    }
}

#[cfg(test)]
mod tests {
    use super::Verdict;

    #[test]
    fn an_answer_needs_the_whole_interval_on_one_side() {
        let of = |found, off| Verdict::of_measurement(found, off, 10.0);
        // From 8 to 10 it passes, from 9 to 11 nothing can be told, nor from 10 to 12: 10 would pass. Above 10 it fails.
        assert_eq!(of(9.0, Some(1.0)), Verdict::Met);
        assert_eq!(of(10.0, Some(1.0)), Verdict::CannotTell);
        assert_eq!(of(11.0, Some(1.0)), Verdict::CannotTell);
        assert_eq!(of(11.5, Some(1.0)), Verdict::Missed);
        assert_eq!(of(10.0, Some(0.0)), Verdict::Met);
        // Without an uncertainty there is no answer, however far it is.
        assert_eq!((of(0.0, None), of(1e9, None)), (Verdict::CannotTell, Verdict::CannotTell));
    }
}
