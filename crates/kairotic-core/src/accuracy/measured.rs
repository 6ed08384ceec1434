//! From what was measured at a pin to the clock that makes it, and the setting that suits that clock.

use serde::Serialize;

use super::budget::drawn_up;
use crate::error::{Error, Result};
use crate::quantity::{Deviation, Frequency, Time, Tolerance};
use crate::search::{Derivation, SearchOptions, derive};
use crate::signal::SignalSpec;

/// What was measured.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
#[serde(rename_all = "snake_case")]
pub enum MeasuredQuantity {
    /// The signal's frequency.
    Frequency(Frequency),
    /// The pulse.
    Pulse(Time),
}

/// A measurement with its uncertainty.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct BenchMeasurement {
    /// What was measured.
    pub measured: MeasuredQuantity,
    /// How far it may be off either way, as a share of it.
    pub uncertainty: Deviation,
}

/// A clock as a measurement tells it.
#[derive(Debug, Clone, PartialEq, Serialize)]
pub struct MeasuredClock {
    /// What the registers make from the nominal clock.
    pub before: Derivation,
    /// The clock's real frequency.
    pub clock: Frequency,
    /// That over the nominal one, less one.
    pub error: Deviation,
    /// How far that may be off either way.
    pub uncertainty: Deviation,
    /// The signal derived from the real clock.
    pub after: Derivation,
}

/// The clock that a measurement tells of.
///
/// # Errors
/// As [`budget()`](super::budget()); [`QuantityError::NotPositive`](crate::quantity::QuantityError::NotPositive) for a
/// measurement that is not greater than zero.
pub fn measured(spec: &SignalSpec<'_>, measurement: &BenchMeasurement) -> Result<MeasuredClock> {
    let budget = drawn_up(spec, SearchOptions::default())?;
    let setting = &budget.derivation.best.setting;
    let ratio = match measurement.measured {
        MeasuredQuantity::Frequency(frequency) => frequency.positive()?.ratio_to(setting.frequency)?,
        MeasuredQuantity::Pulse(pulse) => budget.realised.pulse.ratio_to(pulse.positive()?)?,
    };
    if ratio.is_zero() {
        return Err(Error::NoSignal { timer: budget.derivation.timer.path() });
    }
    let nominal = budget.derivation.clock.nominal;
    let clock = nominal.times(ratio)?;
    let uncertainty = measurement.uncertainty;
    let real = Tolerance { nominal: clock, deviation: uncertainty };
    Ok(MeasuredClock {
        clock,
        error: clock.relative_to(nominal)?,
        uncertainty,
        after: derive(&spec.on.with_real_clock(real), &spec.target)?,
        before: budget.derivation,
    })
}
