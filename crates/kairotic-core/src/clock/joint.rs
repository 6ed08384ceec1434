//! Clock tree and timer searched together: the setting of both whose frequency is nearest to a wanted one.
//!
//! The clocks that a path can make come as stretches: whole multiples of a step, since a multiplier is on the way. The
//! remainder of a division tells how near to the wanted frequency a clock can lead at best; which multiples have a small
//! enough remainder is solved for, and only on those is the timer searched. So nothing is missed, and little is looked
//! at.

use std::cmp::Ordering;

use serde::Serialize;

use num_rational::Ratio;

use super::arrange::Arrangement;
use super::nearby::Nearby;
use super::reach::{best_way, deviation};
use super::route::roads;
use super::source::{SourceAsk, known};
use super::stretch::{Clock, Stretch, Stretches, order};
use super::tree_and_node;
use crate::error::{Error, OrOverflow, Result};
use crate::part::{Part, Timer};
use crate::quantity::{Deviation, Frequency, Rational};
use crate::search::{Closest, Goal, Near, RelativeError, compare_errors};
use crate::setting::{FieldWrite, Setting};

/// How many settings are answered.
const SHOWN: usize = 6;

/// A signal's frequency that is wanted, with the clock left open.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct JointRequest {
    /// The timer's name.
    pub timer: String,
    /// The base counter's name, where another than the default is meant.
    pub base: Option<String>,
    /// Where the clock starts; any internal oscillator where none is given.
    pub source: Option<SourceAsk>,
    /// The wanted frequency.
    pub frequency: Frequency,
}

/// Clock settings with timer settings for a frequency.
#[derive(Debug, Clone, PartialEq, Serialize)]
pub struct Joint {
    /// The timer.
    pub timer: Timer,
    /// What was wanted.
    pub frequency: Frequency,
    /// Whether a fractional part of the tree was left at whole numbers.
    pub whole_only: bool,
    /// The settings: smallest error first, then most steps; at least one.
    pub settings: Vec<JointSetting>,
}

/// One clock setting with the timer setting on it.
#[derive(Debug, Clone, PartialEq, Serialize)]
pub struct JointSetting {
    /// How the clock reaches the timer.
    pub arrangement: Arrangement,
    /// What the timer makes of it.
    pub setting: Setting,
    /// What is written to the timer.
    pub registers: Vec<FieldWrite>,
    /// Realised over wanted, less one.
    pub error: Deviation,
}

/// Searches clock tree and timer together.
///
/// # Errors
/// [`Error::NoClockTree`], [`Error::NoSource`], names that the part does not have, and [`Error::JointUnreachable`].
pub fn joint(part: &Part, request: &JointRequest) -> Result<Joint> {
    let timer = part.timer(&request.timer, request.base.as_deref())?;
    let wanted = request.frequency.positive()?;
    let closest = Closest::of(&timer, wanted)?;
    let (tree, node) = tree_and_node(part, &timer)?;
    let mut stretches = Stretches::default();
    let roads = roads(part, tree, node, request.source.as_ref())?;
    for road in &roads {
        stretches.add_path(&road.hops, road.start, &road.switches)?;
    }
    let whole_only = stretches.whole_only;
    let stretches = stretches.fastest_first()?;
    let mut search = JointSearch { closest: &closest, held: Vec::new(), exact_only: true };
    if !search.the_nearest_are_best(&stretches)? {
        search.along(&stretches)?;
    }
    let mut settings = Vec::new();
    for (clock, near) in search.held {
        let frequency = Frequency::new(
            Rational::new(i128::from(*clock.numer()), i128::from(*clock.denom())).or_overflow("clock")?,
        );
        let Some(arrangement) = best_way(&roads, frequency)? else { continue };
        let setting = closest.setting(&near, frequency)?;
        let error = deviation(setting.frequency, wanted)?;
        let registers = setting.writes(&timer)?;
        settings.push(JointSetting { arrangement, setting, registers, error });
    }
    if settings.is_empty() {
        let sources = known(part, tree);
        return Err(Error::JointUnreachable { timer: timer.path(), wanted, sources });
    }
    Ok(Joint { frequency: wanted, whole_only, settings, timer: timer.clone() })
}

struct JointSearch<'c> {
    closest: &'c Closest<'c>,
    /// The best settings, each with its clock, best first.
    held: Vec<(Clock, Near)>,
    /// Whether only settings without error are looked for, as at first: where there are enough of them, no others are
    /// needed.
    exact_only: bool,
}

impl JointSearch<'_> {
    /// Looks at every clock that could lead to a setting better than what is held.
    fn along(&mut self, stretches: &[Stretch]) -> Result<()> {
        for stretch in stretches {
            // The fastest come first: once one is too slow, the others are as well.
            let top = stretch.at_most()?;
            if self.goal().is_some_and(|goal| self.closest.is_too_slow(top, goal).unwrap_or(false)) {
                return Ok(());
            }
            let mut from = stretch.from;
            while let Some(number) =
                first_near(self.closest, stretch, from, self.goal().map(|goal| goal.error))?
            {
                from = match self.with_more_steps(stretch, number)? {
                    Some(later) if later > number => later,
                    Some(_) => {
                        self.look(stretch.clock(number)?)?;
                        number + 1
                    }
                    None => break,
                };
            }
        }
        Ok(())
    }

    /// Looks at the clocks that could lead nearest if the timer could divide by any whole number; whether nothing else
    /// can be better than what is held then, as is the rule.
    fn the_nearest_are_best(&mut self, stretches: &[Stretch]) -> Result<bool> {
        // At least as many as are shown, and all that are as near as the last of those.
        let mut nearest: Vec<(RelativeError, (u64, u64))> = Vec::new();
        let last = |nearest: &[(RelativeError, _)]| nearest.get(SHOWN - 1).map(|(error, _)| *error);
        for (place, stretch) in stretches.iter().enumerate() {
            let mut from = stretch.from;
            while let Some(number) = first_near(self.closest, stretch, from, last(&nearest))? {
                from = number + 1;
                let clock = stretch.clock(number)?;
                let error = self.closest.least_error(clock)?;
                if error.0 == 0 {
                    self.look(clock)?;
                    if self.held.len() == SHOWN {
                        // Enough are exact: only exact ones with more steps need a look.
                        self.along(stretches.get(place..).unwrap_or_default())?;
                        return Ok(true);
                    }
                }
                let place =
                    nearest.partition_point(|(known, _)| compare_errors(*known, error) != Ordering::Greater);
                nearest.insert(place, (error, clock));
                if let Some(most) = last(&nearest) {
                    let near = nearest
                        .partition_point(|(error, _)| compare_errors(*error, most) != Ordering::Greater);
                    nearest.truncate(near);
                }
            }
        }
        self.exact_only = false;
        nearest.iter().try_for_each(|(_, clock)| self.look(*clock))?;
        let goal = self.goal().map(|goal| goal.error);
        let held = goal.zip(last(&nearest));
        Ok(held.is_some_and(|(held, most)| compare_errors(held, most) != Ordering::Greater))
    }

    /// The first multiple of a stretch, from one on, whose clock may give more steps, where that is what counts; `None`
    /// where none does.
    fn with_more_steps(&self, stretch: &Stretch, number: u32) -> Result<Option<u32>> {
        let Some(goal) = self.goal().filter(|goal| goal.error.0 == 0) else { return Ok(Some(number)) };
        let (step, whole) = self.closest.period(stretch.step())?;
        let period = step.checked_mul(number.into()).or_overflow("clock")? / whole;
        // What does not fit rules nothing out.
        let Ok(period) = u64::try_from(period) else { return Ok(Some(number)) };
        let Some(later) = self.closest.period_with_more(period, goal.steps) else { return Ok(None) };
        if later == period {
            return Ok(Some(number));
        }
        let later = u128::from(later).checked_mul(whole).or_overflow("clock")?.div_ceil(step);
        Ok(u32::try_from(later).ok().filter(|later| *later <= stretch.to))
    }

    /// Searches the timer on one clock, unless it cannot be better than what is held.
    fn look(&mut self, parts: (u64, u64)) -> Result<()> {
        let Some(near) = self.closest.nearest(parts, self.goal())? else { return Ok(()) };
        let clock = Ratio::new(parts.0, parts.1);
        if self.held.iter().any(|(known, _)| *known == clock) {
            return Ok(());
        }
        let place = self.held.partition_point(|(known, other)| {
            let better = compare_errors(other.error, near.error).then(near.steps.cmp(&other.steps));
            better.then_with(|| order(known, &clock)) != Ordering::Greater
        });
        self.held.insert(place, (clock, near));
        self.held.truncate(SHOWN);
        Ok(())
    }

    /// What a setting has to better to be held.
    fn goal(&self) -> Option<Goal> {
        let last = self.held.last().filter(|_| self.held.len() == SHOWN);
        let goal = last.map(|(_, near)| Goal { error: near.error, steps: near.steps });
        goal.or(self.exact_only.then_some(Goal { error: (0, 1), steps: 0 }))
    }
}

/// The first multiple of a stretch, from a given one on, whose clock may lead to no larger error; any without one.
pub(crate) fn first_near(
    closest: &Closest<'_>,
    stretch: &Stretch,
    from: u32,
    most: Option<RelativeError>,
) -> Result<Option<u32>> {
    let inside = |number: &u32| *number <= stretch.to;
    let Some((off, period)) = most else { return Ok(Some(from).filter(inside)) };
    let (step, whole) = closest.source_units(stretch.step())?;
    // As the errors e of periods are counted, |period - wanted| / period, e / (1 - e) of the wanted one.
    let longest = step.checked_mul(stretch.to.into()).or_overflow("clock")?;
    let reach = match period.checked_sub(off).filter(|rest| *rest > 0) {
        Some(rest) => longest.checked_mul(off).map(|product| product / rest),
        None => None,
    };
    // An error too large for this rules nothing out.
    let Some(reach) = reach else { return Ok(Some(from).filter(inside)) };
    Ok(Nearby { step, whole, reach }.first(from, stretch.to))
}
