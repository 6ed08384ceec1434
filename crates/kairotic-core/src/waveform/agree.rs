//! Whether the laws of a timer agree with the behaviours it states, played out on small periods.

use super::machine::{Machine, Values};
use crate::part::check::{PartProblem, mode_path};
use crate::part::{CompareLaw, ComparePoint, Mode, Part, PastTop, Timer};
use crate::quantity::Rational;

/// Every mode of a part whose law contradicts its behaviour. The part must have passed
/// [`part::check`](crate::part::check).
pub fn problems(part: &Part) -> Vec<PartProblem> {
    let mut found: Vec<PartProblem> = Vec::new();
    for instance in &part.timers {
        let views = part.views(instance).unwrap_or_default();
        for (timer, mode) in
            views.iter().flat_map(|timer| timer.block.modes.iter().map(move |mode| (timer, mode)))
        {
            let path = mode_path(part, &instance.block, &mode.name);
            if found.iter().any(|problem| problem.path == path) {
                continue;
            }
            if let Some(contradiction) = contradiction(timer, mode) {
                found.push(PartProblem {
                    path,
                    message: format!("law and behaviour disagree: {contradiction}"),
                });
            }
        }
    }
    found
}

/// The first contradiction between a mode's law and its behaviour, told for the author of the family file.
///
/// Every top from 1 to 5 is tried with every compare value that the law covers and one beyond, whatever tops the mode
/// really has: a law holds for short periods as for long ones.
fn contradiction(timer: &Timer, mode: &Mode) -> Option<String> {
    let Some(dither) = mode.dither else {
        return (1..=5).find_map(|top| contradiction_at(timer, mode, top));
    };
    let whole = 1 << dither.bits;
    [whole, whole + 1, 2 * whole + whole / 2 + 1, 3 * whole - 1]
        .into_iter()
        .find_map(|top| contradiction_at(timer, mode, top))
}

fn contradiction_at(timer: &Timer, mode: &Mode, top: u64) -> Option<String> {
    let ticks = mode.period.ticks(top)?;
    match &mode.compare {
        CompareLaw::Toggle => {
            let (length, high) = played(timer, mode, top, 0);
            // Two runs of the counter make one period of the square wave.
            (2 * length != u128::from(ticks) || high != length).then(|| {
                format!(
                    "with top {top} the law says a period of {ticks} ticks, the behaviour gives {}",
                    2 * length
                )
            })
        }
        CompareLaw::Linear(law) => {
            let sub_ticks = i128::from(ticks) * i128::from(law.per_tick);
            let covered = law.full.value(top).max(law.zero.value(top)).unwrap_or(top);
            // Where no compare value gives a constant output, dithered ones past the top do what two patterns make of
            // them.
            let beyond = u64::from(mode.dither.is_none() || law.full != ComparePoint::Never);
            (0..=covered + beyond).find_map(|compare| {
                let stated = law.sub_ticks(top, compare);
                let beyond = compare > covered;
                let active = match (beyond, law.past_top) {
                    (true, PastTop::Active) => sub_ticks,
                    (true, PastTop::Inactive) => 0,
                    (false, _) => stated,
                };
                let (length, high) = played(timer, mode, top, compare);
                (length != sub_ticks.unsigned_abs() || i128::try_from(high) != Ok(active)).then(|| {
                    format!(
                        "with top {top} and compare {compare} the law says {active} of {sub_ticks} steps active, \
                         the behaviour gives {high} of {length}"
                    )
                })
            })
        }
    }
}

/// Length and active time of a settled cycle, in compare steps.
fn played(timer: &Timer, mode: &Mode, top: u64, compare: u64) -> (u128, u128) {
    // As many source clocks in a tick as it has compare steps: one clock a step.
    let machine = Machine::of(timer, mode, Rational::ONE, false);
    let machine = Machine { divider: machine.per_tick.into(), ..machine };
    let cycles = machine.play(Values { top, compare }, &[]).cycles();
    if let Some(dither) = mode.dither {
        // The sum over all cycles of the pattern, in steps, is as many times the law's.
        let count = 1_usize << dither.bits;
        return cycles
            .skip(count)
            .take(count)
            .fold((0, 0), |(length, high), cycle| (length + cycle.length, high + cycle.high));
    }
    // The first cycles settle the output; a toggling one is high in every other.
    let (length, high) = cycles
        .skip(2)
        .take(2)
        .fold((0, 0), |(length, high), cycle| (length.max(cycle.length), high.max(cycle.high)));
    (length, high)
}
