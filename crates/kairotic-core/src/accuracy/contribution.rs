//! One thing that takes a signal away from what is wanted.

use crate::load::LoadKind;
use serde::Serialize;

use crate::error::{OrOverflow, Result};
use crate::load::{Kind, Realised};
use crate::quantity::{Deviation, Duty, LoadLevel, Range, Rational, Time};

/// What takes a signal away from what is wanted.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
#[serde(rename_all = "snake_case")]
pub enum ErrorSource {
    /// The period is a whole number of ticks.
    Period,
    /// The pulse is a whole number of compare steps.
    Compare,
    /// The oscillator as it was made, or as it was trimmed.
    Tolerance,
    /// The oscillator's temperature.
    Temperature,
    /// The oscillator's age.
    Ageing,
    /// A divider with a fractional part hands out whole source clocks.
    Fraction,
    /// Dither hands out whole ticks.
    Dither,
    /// The PLL.
    Pll,
    /// A driver whose edges are not delayed alike.
    Edges,
    /// The load itself.
    Load,
}

impl ErrorSource {
    /// The words that outputs use.
    pub const fn words(self) -> &'static str {
        match self {
            Self::Period => "period rounding",
            Self::Compare => "compare rounding",
            Self::Tolerance => "clock tolerance",
            Self::Temperature => "clock temperature",
            Self::Ageing => "clock ageing",
            Self::Fraction => "fractional divider",
            Self::Dither => "dither",
            Self::Pll => "PLL jitter",
            Self::Edges => "driver edges",
            Self::Load => "load",
        }
    }

    /// Whether it comes from the oscillator.
    pub const fn is_clock(self) -> bool {
        matches!(self, Self::Tolerance | Self::Temperature | Self::Ageing)
    }
}

/// What is known of a contribution.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
#[serde(rename_all = "snake_case")]
pub enum Nature {
    /// It is the same in every pulse of every board, and known.
    Systematic,
    /// It lies between two ends; nothing is said of where.
    Bounded,
    /// It is different in each pulse, and has no ends: three times its root mean square stand for them.
    Random,
}

impl Nature {
    /// The word that outputs use.
    pub const fn word(self) -> &'static str {
        match self {
            Self::Systematic => "systematic",
            Self::Bounded => "bounded",
            Self::Random => "random",
        }
    }
}

/// How far pulse, duty and frequency may be off, from the lowest to the highest.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
pub struct Reach {
    /// The pulse.
    pub pulse: Range<Time>,
    /// The duty.
    pub duty: Range<Duty>,
    /// The frequency, relative.
    pub frequency: Range<Deviation>,
}

/// One thing that takes a signal away from what is wanted.
#[derive(Debug, Clone, PartialEq, Serialize)]
pub struct Contribution {
    /// What it is.
    pub cause: ErrorSource,
    /// What is known of it.
    pub nature: Nature,
    /// How far it takes the signal.
    pub reach: Reach,
    /// The same in the load's unit.
    pub level: Option<Range<LoadLevel>>,
    /// Where its mean lies between the two ends, from 0 to 1.
    #[serde(rename = "mean_s")]
    pub mean: f64,
    /// Root mean square about its mean, in parts of the distance between the two ends.
    #[serde(rename = "rms_s")]
    pub rms: f64,
    /// After how many periods its pattern repeats, where it has one.
    pub repeats: Option<u64>,
    /// Where the numbers come from.
    pub says: String,
}

impl Contribution {
    /// A contribution without a pattern. One that is bounded may lie anywhere between its ends; the ends of one that is
    /// random stand for three times its root mean square.
    pub(super) fn new(cause: ErrorSource, nature: Nature, reach: Reach, says: String) -> Self {
        let rms = match nature {
            Nature::Systematic => 0.0,
            Nature::Bounded => 1.0 / 12.0_f64.sqrt(),
            Nature::Random => 1.0 / 6.0,
        };
        Self { cause, nature, reach, level: None, mean: 0.5, rms, repeats: None, says }
    }

    /// Root mean square of a single pulse's deviation, in seconds.
    pub fn pulse_rms(&self) -> f64 {
        self.rms * (self.reach.pulse.high.value().approx() - self.reach.pulse.low.value().approx())
    }
}

impl Reach {
    /// Nothing.
    pub(super) const NONE: Self = Self {
        pulse: Range { low: Time::ZERO, high: Time::ZERO },
        duty: Range { low: Duty::ZERO, high: Duty::ZERO },
        frequency: Range { low: Deviation::ZERO, high: Deviation::ZERO },
    };

    /// A change of the pulse alone.
    pub(super) fn of_pulse(low: Rational, high: Rational, period: Time) -> Result<Self> {
        let duty = |pulse: Rational| -> Result<Duty> {
            pulse.over(period.value()).or_overflow("duty").map(Duty::new)
        };
        Ok(Self {
            pulse: Range { low: Time::new(low), high: Time::new(high) },
            duty: Range { low: duty(low)?, high: duty(high)? },
            ..Self::NONE
        })
    }

    /// Whether it takes nothing anywhere.
    pub fn is_none(&self) -> bool {
        *self == Self::NONE
    }

    /// The larger distance of the pulse from what is wanted.
    pub fn worst_pulse(&self) -> Time {
        self.pulse.low.magnitude().max(self.pulse.high.magnitude())
    }

    /// The larger relative distance of the frequency.
    pub fn worst_frequency(&self) -> Deviation {
        Deviation::new(self.frequency.low.value().magnitude().max(self.frequency.high.value().magnitude()))
    }

    /// The levels that a load leaves its own by, where the signal is at `at`.
    pub(super) fn levels(&self, kind: &Kind, at: Realised) -> Result<Range<LoadLevel>> {
        let own = kind.level(at)?;
        let change = |pulse: Time, duty: Duty| -> Result<LoadLevel> {
            let sum = |left: Rational, right: Rational| left.plus(right).or_overflow("level");
            let moved = Realised {
                pulse: Time::new(sum(at.pulse.value(), pulse.value())?),
                duty: Duty::new(sum(at.duty.value(), duty.value())?),
            };
            Ok(kind.level(moved)?.less(own)?)
        };
        let (one, other) = (change(self.pulse.low, self.duty.low)?, change(self.pulse.high, self.duty.high)?);
        // A servo may be mounted so that a longer pulse is a smaller angle.
        Ok(if one.value() <= other.value() {
            Range { low: one, high: other }
        } else {
            Range { low: other, high: one }
        })
    }
}
