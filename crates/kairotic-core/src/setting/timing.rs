//! What time does to a setting: the jitter of a fractional divider, and the error that the source clock brings.

use serde::Serialize;

use super::{RegisterPlan, Setting};
use crate::error::{OrOverflow, Result};
use crate::part::{Dither, Mode, Timer};
use crate::quantity::{Deviation, Frequency, Rational, Time};

/// How much one period differs from the next, because a fractional divider hands out whole source clocks, or because a
/// mode dithers.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
pub struct Jitter {
    /// The longest period less the shortest: zero, or one source clock, or one counter tick.
    pub peak_to_peak: Time,
    /// Root mean square of a single period's deviation, in seconds.
    #[serde(rename = "rms_s")]
    pub rms: f64,
    /// After so many periods the pattern repeats.
    pub repeats: u64,
    /// Whether it comes from dither.
    pub dithers: bool,
    /// The longest pulse less the shortest, where the mode dithers.
    pub pulses: Time,
}

impl Jitter {
    /// The jitter of a period of `clocks` source clocks: from a dithering mode, or from a first-order fractional
    /// divider; `None` where every divider of the timer is whole and nothing dithers.
    ///
    /// # Errors
    /// [`QuantityError::Overflow`](crate::quantity::QuantityError::Overflow).
    pub(crate) fn of(
        timer: &Timer,
        mode: &Mode,
        clock: Frequency,
        clocks: Rational,
        plan: &RegisterPlan,
    ) -> Result<Option<Self>> {
        let clock = Rational::ONE.over(clock.value()).or_overflow("source clock's period")?;
        if let Some(dither) = mode.dither {
            return Self::of_dither(dither, clock, clocks, mode, plan).map(Some);
        }
        if timer.block.dividers.iter().all(|stage| stage.steps.fraction_bits() == 0) {
            return Ok(None);
        }
        let whole = Rational::new(clocks.floor(), 1).or_overflow("period")?;
        let part = clocks.minus(whole).or_overflow("period")?.approx();
        Ok(Some(Self {
            peak_to_peak: Time::new(if clocks.is_whole() { Rational::ZERO } else { clock }),
            rms: (part * (1.0 - part)).sqrt() * clock.approx(),
            // The pattern is over when the accumulator has gone round: after as many periods as the fraction needs.
            repeats: u64::try_from(clocks.denominator()).ok().or_overflow("period")?,
            dithers: false,
            pulses: Time::ZERO,
        }))
    }

    fn of_dither(
        dither: Dither,
        clock: Rational,
        clocks: Rational,
        mode: &Mode,
        plan: &RegisterPlan,
    ) -> Result<Self> {
        let size = 1_u64 << dither.bits.min(32);
        // One tick in source clocks: the period has so many steps of a part of it.
        let steps = mode.period.ticks(plan.top).or_overflow("period")?;
        let tick =
            clocks.times(size.into()).and_then(|clocks| clocks.over(steps.into())).or_overflow("tick")?;
        let tick = tick.times(clock).or_overflow("tick")?;
        let low = |value: u64| value % size;
        let compares = || plan.channels.iter().filter_map(|channel| channel.compare);
        let moves = |any: bool| Time::new(if any { tick } else { Rational::ZERO });
        let part = low(plan.top) as f64 / size as f64;
        // The patterns of top and compare values together.
        let repeats =
            compares().chain([plan.top]).map(|value| size >> low(value).trailing_zeros().min(dither.bits));
        Ok(Self {
            peak_to_peak: moves(low(plan.top) != 0),
            rms: (part * (1.0 - part)).sqrt() * tick.approx(),
            repeats: repeats.max().unwrap_or(1),
            dithers: true,
            pulses: moves(compares().any(|compare| low(compare) != 0)),
        })
    }
}

/// What the source clock's tolerance does to a setting; quantisation is not in it.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
pub struct ClockError {
    /// The clock's tolerance.
    pub deviation: Deviation,
    /// How far the frequency may be off either way.
    pub frequency: Frequency,
    /// How far the longest pulse may be off either way, where there is a signal.
    pub pulse: Option<Time>,
}

impl ClockError {
    /// The clock error of a setting; `None` for a clock without tolerance.
    ///
    /// # Errors
    /// [`QuantityError::Overflow`](crate::quantity::QuantityError::Overflow).
    pub(crate) fn of(setting: &Setting, deviation: Deviation) -> Result<Option<Self>> {
        if deviation == Deviation::ZERO {
            return Ok(None);
        }
        let share = deviation.value();
        let longest = setting.outputs.iter().map(|output| output.pulse).max();
        let pulse = longest.map(|pulse| pulse.times(share)).transpose()?;
        Ok(Some(Self { deviation, frequency: setting.frequency.times(share)?, pulse }))
    }
}
