//! What is or may be wrong with registers that were decoded.

use super::clock_suspects::clock_suspects;
use super::expectation::Expectation;
use super::off_by_one::off_by_one;
use super::single_change::single_changes;
use crate::error::Result;
use crate::finding::{BusClockSuspected, ComparePastTop, Finding, Made, OutsideTolerance, Severity};
use crate::part::{CompareLaw, Mode, Timer};
use crate::quantity::Deviation;
use crate::setting::findings::{
    full_remedies, gap, of_silicon, reaches_full, reaches_zero, spike, zero_remedies,
};
use crate::setting::{Constant, Output, Setting, is_past_top, ruler};
use crate::target::Level;

/// What is or may be wrong with decoded registers.
pub(crate) fn of_reading(
    timer: &Timer,
    mode: &Mode,
    setting: &Setting,
    expectation: Option<&Expectation>,
    within: Deviation,
) -> Result<Vec<Finding>> {
    let mut found = off_by_one(timer, mode, setting, expectation, within)?;
    if let Some(expectation) =
        expectation.filter(|expected| expected.error.value().magnitude() > within.value())
    {
        found.extend(suspected_clock(timer, setting, expectation, within)?);
        if found.is_empty() {
            let Expectation { frequency, error } = *expectation;
            let changes = single_changes(timer, mode, setting, frequency, within)?;
            let (found_frequency, wanted) = (Made::Frequency(setting.frequency), Made::Frequency(frequency));
            found.push(
                OutsideTolerance { found: found_frequency, wanted, error, tolerance: within, changes }.into(),
            );
        }
    }
    let mut past: Vec<&str> = Vec::new();
    if let CompareLaw::Linear(law) = &mode.compare {
        let ruler = ruler(setting.divider, setting.dither_bits, setting.plan.top, setting.ticks)?;
        for output in &setting.outputs {
            let limit = timer.compare_limit(mode, timer.channel(&output.channel)?)?;
            if let Some(compare) = output.compare.filter(|compare| is_past_top(law, ruler, *compare, limit)) {
                past.push(&output.channel);
                let (_, last) = crate::setting::active::legal(law, limit, ruler);
                let last = u64::try_from(last).unwrap_or(0);
                let constant = constant_level(output);
                let (channel, top) = (output.channel.clone(), setting.plan.top);
                found.push(ComparePastTop { channel, compare, top, last, constant }.into());
            }
        }
        for output in &setting.outputs {
            let severity = |at_end: bool| if at_end { Severity::Warning } else { Severity::Note };
            if !reaches_zero(setting) {
                let remedies = zero_remedies(None);
                let severity = severity(output.duty == setting.ends.lowest);
                found.push(spike(severity, Some(&output.channel), setting, remedies));
            }
            if !reaches_full(setting) {
                let severity = severity(output.duty == setting.ends.highest);
                found.push(gap(severity, Some(&output.channel), setting, full_remedies(setting, None))?);
            }
        }
    }
    of_silicon(timer, mode, setting, &past, &mut found);
    Ok(found)
}

/// A clock other than the one given from which the registers make what was meant: a factor of 2 or 4, or a clock of the
/// part.
fn suspected_clock(
    timer: &Timer,
    setting: &Setting,
    expectation: &Expectation,
    within: Deviation,
) -> Result<Option<Finding>> {
    for (origin, suspect) in clock_suspects(timer, setting.clock)? {
        let frequency = setting.frequency.times(suspect.ratio_to(setting.clock)?)?;
        let error = frequency.relative_to(expectation.frequency)?;
        if error.magnitude() <= within {
            let (found, expected, clock) = (setting.frequency, expectation.frequency, setting.clock);
            return Ok(Some(BusClockSuspected { found, expected, clock, suspect, origin }.into()));
        }
    }
    Ok(None)
}

fn constant_level(output: &Output) -> Level {
    match (output.constant, output.level) {
        (Some(Constant::Active), Level::High) | (Some(Constant::Inactive), Level::Low) => Level::High,
        _ => Level::Low,
    }
}
