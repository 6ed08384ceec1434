//! What a timer can reach at all, and what would reach a frequency that it cannot.

use crate::error::{Error, ModeReach, OrOverflow, Result, Unreachable};
use crate::part::{CompareLaw, Mode, Part, Timer};
use crate::quantity::{Frequency, Rational};
use crate::setting::divider::Dividers;

/// What a mode can reach.
pub(crate) fn reach(timer: &Timer, mode: &Mode, dividers: &Dividers, clock: Frequency) -> Result<ModeReach> {
    let (least, most) = timer.top_limits(mode)?;
    let (smallest, largest) = dividers.ends().or_overflow("divider")?;
    let frequency = |division: Rational, top: u64| {
        let ticks = mode.period.ticks(top).or_overflow("number of ticks in a period")?;
        let ticks = Rational::from(ticks).over(Rational::from(1_u64 << mode.dither_bits().min(32)));
        let clocks = ticks.and_then(|ticks| division.times(ticks));
        let clocks = clocks.or_overflow("number of source clocks in a period")?;
        clock.value().over(clocks).or_overflow("frequency").map(Frequency::new)
    };
    Ok(ModeReach {
        mode: mode.name.clone(),
        lowest: frequency(largest, most)?,
        highest: frequency(smallest, least)?,
    })
}

/// Explains why `wanted` cannot be made in any of `modes`; `None` when it lies within what one of them reaches.
pub(crate) fn unreachable(
    timer: &Timer,
    modes: &[&Mode],
    clock: Frequency,
    wanted: Frequency,
) -> Result<Option<Unreachable>> {
    let dividers = Dividers::of(timer)?;
    let mut reaches = Vec::new();
    for mode in modes {
        reaches.push(reach(timer, mode, &dividers, clock)?);
    }
    let (Some(lowest), Some(highest)) =
        (reaches.iter().map(|reach| reach.lowest).min(), reaches.iter().map(|reach| reach.highest).max())
    else {
        return Ok(None);
    };
    if (lowest..=highest).contains(&wanted) {
        return Ok(None);
    }
    let low = wanted < lowest;
    let (limit, divisions) = (if low { lowest } else { highest }, dividers.ends().or_overflow("divider")?);
    let ratio = limit.ratio_to(wanted)?;
    let edge = if low { divisions.1 } else { divisions.0 };
    // The nearest mode first, and of modes that reach equally far only the first.
    reaches.sort_by_key(|reach| if low { reach.lowest } else { reach.highest });
    if !low {
        reaches.reverse();
    }
    reaches.dedup_by_key(|reach| if low { reach.lowest } else { reach.highest });
    Ok(Some(Unreachable {
        timer: timer.path(),
        wanted,
        clock,
        divisions,
        needed_division: edge.times(ratio).or_overflow("divider")?,
        needed_clock: Frequency::new(clock.value().over(ratio).or_overflow("clock")?),
        other_timers: Vec::new(),
        reaches,
    }))
}

/// An error of a timer with the part's other timers that would reach the frequency, where it is about that: they take
/// many times longer to find than the error itself, which a search over many timers does without.
pub(crate) fn with_other_timers(part: &Part, timer: &str, error: Error) -> Error {
    match error {
        Error::Unreachable(reason) => match other_timers(part, timer, reason.clock, reason.wanted) {
            Ok(other_timers) => Error::Unreachable(Box::new(Unreachable { other_timers, ..*reason })),
            Err(error) => error,
        },
        error => error,
    }
}

/// The other timers of the part that make `wanted` in a pulse-width mode from the same clock.
fn other_timers(part: &Part, timer: &str, clock: Frequency, wanted: Frequency) -> Result<Vec<String>> {
    let mut able = Vec::new();
    for instance in part.timers.iter().filter(|instance| instance.name != timer) {
        for other in part.views(instance)? {
            let modes = other.block.modes.iter().filter(|mode| mode.compare != CompareLaw::Toggle);
            let dividers = Dividers::of(&other)?;
            let mut fits = clock <= other.clock.maximum;
            fits &= modes
                .map(|mode| reach(&other, mode, &dividers, clock))
                .collect::<Result<Vec<_>>>()?
                .iter()
                .any(|reach| (reach.lowest..=reach.highest).contains(&wanted));
            if fits && !able.contains(&other.name) {
                able.push(other.name);
            }
        }
    }
    Ok(able)
}
