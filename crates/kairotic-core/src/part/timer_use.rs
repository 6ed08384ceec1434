//! A timer of a part as it is used: with which counter, from which clock.

use super::{Part, Timer, Trust};
use crate::error::{ClockTooFast, Error, Result};
use crate::quantity::{Frequency, Tolerance};

/// A timer of a part, as it is used.
#[derive(Debug, Clone, PartialEq)]
pub struct TimerUse<'p> {
    /// The part that it is on.
    pub part: &'p Part,
    /// The timer's name.
    pub timer: String,
    /// The base counter's name, where the timer can choose one; where none is given, the first that does what is
    /// wanted.
    pub base: Option<String>,
    /// The clock that reaches the timer; the part's own after reset where none is given.
    pub clock: Option<Tolerance<Frequency>>,
    /// Whether a clock above the timer's maximum is accepted.
    pub allow_overclock: bool,
}

impl<'p> TimerUse<'p> {
    /// A timer from the clock that it has after reset, with any of its counters.
    pub fn of(part: &'p Part, timer: impl Into<String>) -> Self {
        Self { part, timer: timer.into(), base: None, clock: None, allow_overclock: false }
    }

    /// The same from another clock.
    #[must_use]
    pub const fn clocked(mut self, clock: Tolerance<Frequency>) -> Self {
        self.clock = Some(clock);
        self
    }

    /// The same from the frequency that the clock really has, which is not asked whether it may have that.
    #[must_use]
    pub fn with_real_clock(&self, clock: Tolerance<Frequency>) -> Self {
        Self { clock: Some(clock), allow_overclock: true, ..self.clone() }
    }

    /// Another timer of the part, from the same clock.
    #[must_use]
    pub fn moved_to(&self, timer: &str) -> Self {
        Self { timer: timer.to_owned(), base: None, ..self.clone() }
    }

    /// The part and the timer, as `part/timer`.
    pub fn path(&self) -> String {
        format!("{}/{}", self.part.name, self.timer)
    }

    /// The timer with its counter; with the default one where none is named.
    ///
    /// # Errors
    /// [`Error::UnknownName`] for a timer or counter that the part does not have.
    pub fn timer(&self) -> Result<Timer> {
        self.part.timer(&self.timer, self.base.as_deref())
    }

    /// The timer with the counter that is named; with each that it can choose, the default one first, where none is.
    ///
    /// # Errors
    /// As [`TimerUse::timer`].
    pub fn views(&self) -> Result<Vec<Timer>> {
        match &self.base {
            Some(_) => Ok(vec![self.timer()?]),
            None => self.part.views(self.part.instance(&self.timer)?),
        }
    }

    /// The first success of `attempt` over the views of the timer, or what was wrong with the default one.
    pub(crate) fn first_that_works<T>(&self, attempt: impl Fn(Timer) -> Result<T>) -> Result<T> {
        // The default comes alone first: mostly it works, and the others need not be made.
        let complaint = match attempt(self.timer()?) {
            Err(complaint) => complaint,
            success => return success,
        };
        self.views()?.into_iter().skip(1).map(attempt).find(Result::is_ok).unwrap_or(Err(complaint))
    }

    /// The clock that reaches a view of the timer.
    ///
    /// # Errors
    /// [`QuantityError::NotPositive`](crate::quantity::QuantityError::NotPositive); [`Error::ClockTooFast`] for one
    /// above the maximum, unless that is accepted.
    pub(crate) fn clock_of(&self, timer: &Timer) -> Result<Tolerance<Frequency>> {
        let given = self.clock.map_or_else(|| timer.default_clock(), Ok)?;
        let clock = given.nominal.positive()?;
        if self.allow_overclock || clock <= timer.clock.maximum {
            return Ok(given);
        }
        let unsure = timer.clock.facts.iter().find(|fact| fact.trust == Trust::Unsure);
        Err(Error::ClockTooFast(Box::new(ClockTooFast {
            clock,
            maximum: timer.clock.maximum,
            title: timer.clock.title.clone(),
            doubt: unsure.map(|fact| fact.says.clone()),
        })))
    }
}
