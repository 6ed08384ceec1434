//! Registers that hold a count where one less is written.

use super::expectation::Expectation;
use crate::error::Result;
use crate::finding::{DividerOffByOne, Finding, RegisterSlip, Severity, TopOffByOne};
use crate::part::{Mode, Steps, Timer, TopSource};
use crate::quantity::{Deviation, Frequency, show};
use crate::setting::{RegisterPlan, Setting};

/// The registers that could be one too large.
struct Suspects {
    /// The top less one, where that is a legal top.
    top: Option<u64>,
    /// The divider's position, its field, and what it holds.
    divider: Option<(usize, String, u64)>,
}

/// The correction (top, divider, or both, each by one less) that comes nearest to what was meant, or without that
/// knowledge makes the roundest number; of equals the smaller correction.
pub(crate) fn off_by_one(
    timer: &Timer,
    mode: &Mode,
    setting: &Setting,
    expectation: Option<&Expectation>,
    within: Deviation,
) -> Result<Vec<Finding>> {
    // The numbers of a mode that dithers are not round in the first place.
    if mode.dither.is_some() {
        return Ok(Vec::new());
    }
    let doubt = |frequency: Frequency| match expectation {
        Some(expected) => distance(frequency, expected.frequency, within),
        None => roundness(frequency),
    };
    let severity = match (expectation, doubt(setting.frequency)?) {
        // What is round without being meant to be is meant to be.
        (None, Some(_)) | (Some(_), Some(0)) => return Ok(Vec::new()),
        (None, None) | (Some(_), Some(_)) => Severity::Warning,
        (Some(_), None) => Severity::Error,
    };
    // What is within the tolerance already is only suspicious when one less makes it exact.
    let limit = doubt(setting.frequency)?.unwrap_or(usize::MAX);
    let suspects = suspects(timer, mode, setting)?;
    let mut best: Option<(usize, [bool; 2], Frequency)> = None;
    for which in [[true, false], [false, true], [true, true]] {
        let Some(corrected) = corrected(timer, setting, &suspects, which)? else { continue };
        if let Some(doubt) = doubt(corrected)?
            && doubt < best.as_ref().map_or(limit, |(least, ..)| *least)
        {
            best = Some((doubt, which, corrected));
        }
    }
    Ok(match best {
        Some((_, which, corrected)) => findings(setting, &suspects, severity, which, corrected),
        None => Vec::new(),
    })
}

fn suspects(timer: &Timer, mode: &Mode, setting: &Setting) -> Result<Suspects> {
    let plan = &setting.plan;
    let (least, _) = timer.top_limits(mode)?;
    let top = match &mode.top {
        TopSource::Fixed(_) => None,
        _ => plan.top.checked_sub(1).filter(|less| *less >= least),
    };
    // Only a divider that is written as one less can be mistaken for one that is not.
    let mut stages = timer.block.dividers.iter().zip(&plan.dividers).enumerate();
    let stage = stages.find(|(_, (stage, written))| {
        let less = written.checked_sub(1).and_then(|less| stage.steps.meaning(less));
        matches!(stage.steps, Steps::Range { minus_one: true, .. }) && less.is_some()
    });
    let divider = match stage {
        Some((place, (stage, written))) => Some((place, timer.slot(&stage.slot)?.name(), *written)),
        None => None,
    };
    Ok(Suspects { top, divider })
}

/// The findings for a correction of the top, the divider, or both.
fn findings(
    setting: &Setting,
    suspects: &Suspects,
    severity: Severity,
    [of_top, of_divider]: [bool; 2],
    corrected: Frequency,
) -> Vec<Finding> {
    let slip =
        |field: &str, holds: u64, makes: u64, together_with: Option<(&str, u64)>| RegisterSlip::Decoded {
            severity,
            field: field.to_owned(),
            holds,
            makes,
            together_with: together_with.map(|(field, holds)| (field.to_owned(), holds.saturating_sub(1))),
            found: setting.frequency,
            corrected,
        };
    let top = of_top.then(|| (setting.top_register.as_deref().unwrap_or_default(), setting.plan.top));
    let divider = suspects.divider.as_ref().filter(|_| of_divider);
    let divider = divider.map(|(_, field, written)| (field.as_str(), *written));
    let of_top =
        top.map(|(field, holds)| TopOffByOne { slip: slip(field, holds, setting.ticks, divider) }.into());
    let of_divider = divider.map(|(field, holds)| {
        DividerOffByOne { slip: slip(field, holds, holds.saturating_add(1), top) }.into()
    });
    of_top.into_iter().chain(of_divider).collect()
}

/// The frequency with one less in the top, the divider, or both; `None` where there is no such register.
fn corrected(
    timer: &Timer,
    setting: &Setting,
    suspects: &Suspects,
    [of_top, of_divider]: [bool; 2],
) -> Result<Option<Frequency>> {
    let mut plan = RegisterPlan { channels: Vec::new(), ..setting.plan.clone() };
    if of_top {
        let Some(top) = suspects.top else { return Ok(None) };
        plan.top = top;
    }
    if of_divider {
        let Some((place, _, written)) = &suspects.divider else { return Ok(None) };
        for slot in plan.dividers.iter_mut().skip(*place).take(1) {
            *slot = written.saturating_sub(1);
        }
    }
    Ok(Some(Setting::evaluate(timer, setting.clock, plan)?.frequency))
}

/// 0 for what was meant, 1 for what is within the tolerance of it.
fn distance(frequency: Frequency, wanted: Frequency, within: Deviation) -> Result<Option<usize>> {
    if frequency == wanted {
        return Ok(Some(0));
    }
    Ok((frequency.relative_to(wanted)?.magnitude() <= within).then_some(1))
}

/// The significant digits of the frequency or of the period, where one of them has at most three.
fn roundness(frequency: Frequency) -> Result<Option<usize>> {
    let digits = [frequency.value(), frequency.period()?.value()].map(show::significant_digits);
    Ok(digits.into_iter().flatten().min().filter(|digits| *digits <= 3))
}
