//! How fast a move is to go: as fast as the stepper may, at a rate, or in a time.

use super::ideal::Ideal;
use crate::error::{Error, OrOverflow, Result};
use crate::load::StepRates;
use crate::quantity::{Rational, Speed, StepRate, Time};

/// How fast a move is to go.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Pace {
    /// As fast as the stepper may.
    Fastest,
    /// No faster than a speed of what it turns.
    Speed(Speed),
    /// No faster than a step rate.
    Rate(StepRate),
    /// As slowly as a time allows.
    Within(Time),
}

/// Rates for a time are searched this finely, in parts of a step a second.
const RATE_PARTS: i64 = 1024;

impl Pace {
    /// The rates with which a move of so many steps goes at this pace; for a time that is too short, the fastest.
    ///
    /// # Errors
    /// [`Error::RateAboveFastest`]; what [`StepRates::checked`] refuses; numbers that do not fit.
    pub(super) fn rates(self, rates: &StepRates, in_turn: Rational, steps: u64) -> Result<StepRates> {
        let limited = |asked: StepRate| {
            if asked > rates.fastest {
                return Err(Error::RateAboveFastest { asked, fastest: rates.fastest });
            }
            StepRates { fastest: asked, start: rates.start.min(asked), ..*rates }.checked()
        };
        match self {
            Self::Fastest => rates.checked(),
            Self::Rate(rate) => limited(rate),
            Self::Speed(speed) => {
                let rate = speed.value().times(in_turn).or_overflow("step rate")?;
                limited(StepRate::new(rate))
            }
            Self::Within(time) => {
                let rates = rates.checked()?;
                slowest_within(&rates, steps, time.positive()?)
            }
        }
    }
}

/// The slowest rates that make a move in a time.
fn slowest_within(rates: &StepRates, steps: u64, time: Time) -> Result<StepRates> {
    // The ideal's own grid is far finer than this tick.
    let tick = time.times(Rational::new(1, 1_000_000).or_overflow("time")?)?;
    let with = |parts: i64| -> Result<StepRates> {
        let rate = Rational::new(parts.into(), RATE_PARTS.into()).or_overflow("step rate")?;
        let fastest = StepRate::new(rate).min(rates.fastest);
        Ok(StepRates { fastest, start: rates.start.min(fastest), ..*rates })
    };
    let fits = |rates: &StepRates| -> Result<bool> {
        let ideal = Ideal::of(steps, rates, tick)?;
        let end = tick.value().times(ideal.floor(steps)?.into());
        let end = end.and_then(|end| end.over(ideal.fineness.into())).or_overflow("time of a move")?;
        Ok(end <= time.value())
    };
    if !fits(rates)? {
        return Ok(*rates);
    }
    let most = rates.fastest.value().times(Rational::whole(RATE_PARTS)).or_overflow("step rate")?.ceiling();
    // No slower than the whole way at one rate would be.
    let mean =
        Rational::from(steps).over(time.value()).and_then(|mean| mean.times(Rational::whole(RATE_PARTS)));
    let least = mean.or_overflow("step rate")?.floor();
    let whole = |parts: i128| i64::try_from(parts).ok().or_overflow("step rate");
    let (mut too_slow, mut fast) = (whole(least)?.max(1) - 1, whole(most)?);
    while too_slow + 1 < fast {
        let middle = i64::midpoint(too_slow, fast);
        *(if fits(&with(middle)?)? { &mut fast } else { &mut too_slow }) = middle;
    }
    with(fast)
}
