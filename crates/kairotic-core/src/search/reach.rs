//! What a timer can reach at all, and what would reach a frequency that it cannot.

use std::fmt;

use crate::error::{Error, Result};
use crate::part::{CompareLaw, Mode, Part, Timer};
use crate::quantity::{Frequency, OrOverflow, Rational, show};
use crate::setting::divider::Dividers;

/// The frequencies that one mode can make from a source clock.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Reach {
    /// The mode's name.
    pub mode: String,
    /// The lowest.
    pub lowest: Frequency,
    /// The highest.
    pub highest: Frequency,
}

/// A frequency that a timer cannot make, with what would make it.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Unreachable {
    /// The timer.
    pub timer: String,
    /// What was wanted.
    pub wanted: Frequency,
    /// The source clock.
    pub clock: Frequency,
    /// What each mode can do; the nearest to what was wanted first.
    pub reaches: Vec<Reach>,
    /// The smallest and the largest division that the timer has.
    pub divisions: (Rational, Rational),
    /// The division that a timer with this top would need.
    pub needed_division: Rational,
    /// The source clock at which the frequency comes within reach: at most this when it is too low, else at least.
    pub needed_clock: Frequency,
    /// Other timers of the part that reach it from the same clock, where they have been looked for.
    pub other_timers: Vec<String>,
}

impl Unreachable {
    fn is_too_low(&self) -> bool {
        self.reaches.first().is_some_and(|reach| self.wanted < reach.lowest)
    }

    /// What would reach the frequency, one way a line.
    pub fn hint(&self) -> String {
        let low = self.is_too_low();
        let (bound, clock) = if low { ("at most", "slower") } else { ("at least", "faster") };
        let mut ways =
            vec![format!("a {clock} clock: {bound} {} on this timer", self.needed_clock.rounded(6))];
        let (smallest, largest) = self.divisions;
        let needed = show::significant(self.needed_division.approx(), 4);
        ways.push(match low {
            true => {
                format!("a division by {needed} (this timer's end at {})", largest.mixed())
            }
            false => {
                format!("a division by {needed} (this timer's begin at {})", smallest.mixed())
            }
        });
        if !self.other_timers.is_empty() {
            ways.push(format!("on this part: {}", self.other_timers.join(", ")));
        }
        ways.join("\nor ")
    }
}

impl fmt::Display for Unreachable {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        let low = self.is_too_low();
        write!(f, "{} cannot make {} from {}: its ", self.timer, self.wanted, self.clock)?;
        f.write_str(if low { "lowest is " } else { "highest is " })?;
        for (place, reach) in self.reaches.iter().enumerate() {
            let limit = if low { reach.lowest } else { reach.highest };
            f.write_str(if place == 0 { "" } else { ", " })?;
            write!(f, "{} ({})", limit.rounded(5), reach.mode)?;
        }
        Ok(())
    }
}

/// What a mode can reach.
pub(crate) fn reach(timer: &Timer, mode: &Mode, dividers: &Dividers, clock: Frequency) -> Result<Reach> {
    let (least, most) = timer.top_limits(mode)?;
    let (smallest, largest) = dividers.ends().or_overflow("divider")?;
    let frequency = |division: Rational, top: u64| {
        let ticks = mode.period.ticks(top).or_overflow("number of ticks in a period")?;
        let ticks = Rational::from(ticks).over(Rational::from(1_u64 << mode.dither_bits().min(32)));
        let clocks = ticks.and_then(|ticks| division.times(ticks));
        let clocks = clocks.or_overflow("number of source clocks in a period")?;
        clock.value().over(clocks).or_overflow("frequency").map(Frequency::new)
    };
    Ok(Reach {
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
    let ratio = limit.value().over(wanted.value()).or_overflow("frequency")?;
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
