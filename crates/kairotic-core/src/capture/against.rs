//! A whole capture against a whole plan: which signal is which, what becomes of each, and which clock is behind them all.

use serde::Serialize;

use super::common::{CommonClock, common_clock};
use super::comparison::{Comparison, compare};
use super::matching::places;
use super::measurement::Measurement;
use super::recorder::Recorder;
use crate::error::Result;
use crate::search::{DerivedSignal, RankedSetting};
use crate::signal::SignalSpec;

/// What a recorder saw.
#[derive(Debug, Clone, Copy)]
pub struct Captured<'c> {
    /// The names of all signals of the capture.
    pub names: &'c [String],
    /// Those that were measured, each with its place among the names.
    pub measured: &'c [(u32, Measurement)],
    /// Who saw it.
    pub recorder: &'c Recorder,
}

/// A capture held against a plan.
#[derive(Debug, Clone, PartialEq)]
pub struct CaptureCheck {
    /// The planned signals that are in the capture, each by its place there.
    pub comparisons: Vec<(u32, Comparison)>,
    /// The planned signals that are not in it.
    pub absent: Vec<String>,
    /// The clock behind the signals, where it was asked for and any of them tells of it.
    pub clock: Option<FittedClock>,
}

/// The clock behind the signals of a capture, with registers for it.
#[derive(Debug, Clone, PartialEq, Serialize)]
pub struct FittedClock {
    /// What it is off by.
    #[serde(flatten)]
    pub common: CommonClock,
    /// Each planned signal, derived for the clock as it really is.
    pub derived: Vec<Refitted>,
}

/// A planned signal with the setting that suits its clock as it really is.
#[derive(Debug, Clone, PartialEq, Serialize)]
pub struct Refitted {
    /// The signal's name.
    pub signal: String,
    /// The setting.
    pub setting: RankedSetting,
}

/// Holds a capture against a plan. `said` are the places in the capture of the planned signals whose names differ there.
/// With `fit_clock` the clock behind all of them is told as well.
///
/// # Errors
/// What cannot be derived; numbers that do not fit.
pub fn check_capture(
    plan: Vec<SignalSpec<'_>>,
    said: &[(u32, String)],
    captured: Captured<'_>,
    fit_clock: bool,
) -> Result<CaptureCheck> {
    let Captured { names, measured, recorder } = captured;
    let planned: Vec<&str> = plan.iter().map(|spec| spec.name.as_str()).collect();
    let known: Vec<u32> = measured.iter().map(|(place, _)| *place).collect();
    let places = places(names, &known, &planned, said);
    let (mut pairs, mut found, mut absent) = (Vec::new(), Vec::new(), Vec::new());
    for (spec, place) in plan.into_iter().zip(places) {
        let Some(place) = place else {
            absent.push(spec.name);
            continue;
        };
        // One that was not chosen to be measured is not judged either.
        let Some((_, measurement)) = measured.iter().find(|(known, _)| *known == place) else { continue };
        pairs.push((DerivedSignal::of(spec)?, measurement));
        found.push(place);
    }
    let comparisons = compare(&pairs, recorder)?;
    let clock = if fit_clock { fitted(&pairs, &comparisons)? } else { None };
    Ok(CaptureCheck { comparisons: found.into_iter().zip(comparisons).collect(), absent, clock })
}

/// The clock behind the planned signals, and each of them derived for it.
fn fitted(
    pairs: &[(DerivedSignal<'_>, &Measurement)],
    comparisons: &[Comparison],
) -> Result<Option<FittedClock>> {
    let Some(common) = common_clock(comparisons) else { return Ok(None) };
    let derive = |(signal, _): &(DerivedSignal<'_>, &Measurement)| {
        let again = signal.with_real_clock(common.real(signal.derivation.clock.nominal)?)?;
        Ok(Refitted { signal: again.spec.name, setting: again.derivation.best })
    };
    Ok(Some(FittedClock { common, derived: pairs.iter().map(derive).collect::<Result<_>>()? }))
}
