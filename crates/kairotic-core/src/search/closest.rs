//! How near a timer can come to a frequency, for the search that varies the clock as well: first a bound that costs a
//! few divisions, then the setting itself.

use std::cmp::Ordering;

use super::rank::compare_fractions;
use crate::error::{Error, Result};
use crate::part::{CompareLaw, LinearLaw, Mode, Timer};
use crate::quantity::Frequency;
use crate::setting::divider::Dividers;
use crate::setting::{RegisterPlan, Setting};

/// A relative error as a fraction; the denominator is positive.
pub(crate) type RelativeError = (u128, u128);

/// A period in source clocks and units of the dividers' fraction, behind its error.
type Judged = (RelativeError, u64);

/// A timer, and the frequency that is wanted of it.
pub(crate) struct Closest<'t> {
    timer: &'t Timer,
    dividers: Dividers,
    modes: Vec<PeriodSpan<'t>>,
    wanted: Frequency,
}

/// One mode with what its periods can be.
struct PeriodSpan<'t> {
    mode: &'t Mode,
    law: &'t LinearLaw,
    tops: (u64, u64),
    fewest: u64,
    most: u64,
}

impl PeriodSpan<'_> {
    /// The steps of a period of so many ticks.
    fn steps(&self, ticks: u64) -> u64 {
        let steps = u128::from(ticks) * u128::from(self.law.per_tick) / self.gain();
        u64::try_from(steps).unwrap_or(u64::MAX)
    }

    /// The fewest ticks with more than so many steps; `None` where that many do not fit.
    fn ticks_for_more(&self, steps: u64) -> Option<u64> {
        let ticks = ((u128::from(steps) + 1) * self.gain()).div_ceil(u128::from(self.law.per_tick).max(1));
        u64::try_from(ticks).ok()
    }

    fn gain(&self) -> u128 {
        u128::from(self.law.gain.unsigned_abs().max(1))
    }
}

/// How good a setting has to be.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(crate) struct Goal {
    /// No larger error than this.
    pub(crate) error: RelativeError,
    /// Where the error is the same, more steps than this.
    pub(crate) steps: u64,
}

/// The setting that comes nearest; of those the one with the most steps.
#[derive(Debug, Clone)]
pub(crate) struct Near {
    pub(crate) error: RelativeError,
    pub(crate) steps: u64,
    mode: usize,
    division: usize,
    top: u64,
}

/// The best setting of those that were tried, where one is better than a goal.
struct Best {
    goal: Option<Goal>,
    near: Option<Near>,
}

impl Best {
    fn take(&mut self, near: Near) {
        let better = self.goal.is_none_or(|goal| {
            compare_fractions(near.error, goal.error).then(goal.steps.cmp(&near.steps)) == Ordering::Less
        });
        if better {
            self.goal = Some(Goal { error: near.error, steps: near.steps });
            self.near = Some(near);
        }
    }

    /// Whether nothing with at least this error and at most so many steps is better.
    fn is_out_of_reach(&self, error: RelativeError, steps: u64) -> bool {
        self.goal.is_some_and(|goal| match compare_fractions(error, goal.error) {
            Ordering::Less => false,
            Ordering::Equal => steps <= goal.steps,
            Ordering::Greater => true,
        })
    }
}

impl<'t> Closest<'t> {
    /// The timer's modes that make pulses, for a frequency.
    pub(crate) fn of(timer: &'t Timer, wanted: Frequency) -> Result<Self> {
        let mut modes: Vec<PeriodSpan<'t>> = Vec::new();
        // A mode that dithers is one on request only.
        for mode in timer.block.modes.iter().filter(|mode| mode.dither.is_none()) {
            let CompareLaw::Linear(law) = &mode.compare else { continue };
            let tops = timer.top_limits(mode)?;
            let ticks = |top| mode.period.ticks(top).ok_or_else(overflow);
            let (fewest, most) = (ticks(tops.0)?.max(1), ticks(tops.1)?);
            // Modes whose periods and steps are the same make the same settings: the first stands for all.
            let same = |known: &PeriodSpan<'t>| {
                let gains = [known.law, law].map(|law| (law.gain.unsigned_abs(), law.per_tick));
                (known.mode.period, known.tops) == (mode.period, tops) && gains[0] == gains[1]
            };
            if !modes.iter().any(same) {
                modes.push(PeriodSpan { mode, law, tops, fewest, most });
            }
        }
        Ok(Self { timer, dividers: Dividers::of(timer)?, modes, wanted: wanted.positive()? })
    }

    /// The wanted period from a clock of `clock.0 / clock.1` hertz, in source clocks and units of the dividers'
    /// fraction.
    pub(crate) fn period(&self, clock: (u64, u64)) -> Result<(u128, u128)> {
        let wanted = self.wanted.value();
        let numerator = u128::from(clock.0)
            .checked_mul(wanted.denominator().unsigned_abs())
            .and_then(|product| product.checked_mul(1 << self.dividers.fraction_bits))
            .ok_or_else(overflow)?;
        let denominator = u128::from(clock.1).checked_mul(wanted.numerator().unsigned_abs());
        Ok((numerator, denominator.ok_or_else(overflow)?))
    }

    /// The wanted period from a clock of `clock.0 / clock.1` hertz, as a fraction of the units of which every period
    /// that the timer can make is a whole number.
    pub(crate) fn source_units(&self, clock: (u64, u64)) -> Result<(u128, u128)> {
        let (numerator, denominator) = self.period(clock)?;
        Ok((numerator, self.in_units(denominator)?))
    }

    /// The denominator of a period in source clocks as that of one in units of which every period is a whole number.
    fn in_units(&self, denominator: u128) -> Result<u128> {
        denominator.checked_mul(self.timer.block.fixed_divider.into()).ok_or_else(overflow)
    }

    /// Whether no clock up to `clock.0 / clock.1` hertz can meet a goal that is exact: a period has too few source
    /// clocks for more steps than the goal's.
    pub(crate) fn is_too_slow(&self, clock: (u64, u64), goal: Goal) -> Result<bool> {
        if goal.error.0 != 0 {
            return Ok(false);
        }
        let (numerator, denominator) = self.period(clock)?;
        let smallest = u128::from(self.dividers.scaled(0)).saturating_mul(denominator);
        // A step is no shorter than `gain` parts of a tick.
        let finest = self.modes.iter().map(|span| (span.law.per_tick, span.law.gain.unsigned_abs().max(1)));
        let (per_tick, gain) = finest.max_by_key(|(per_tick, gain)| per_tick * 64 / gain).unwrap_or((1, 1));
        let steps = numerator.saturating_mul(per_tick.into());
        Ok(steps <= smallest.saturating_mul(u128::from(goal.steps)).saturating_mul(gain.into()))
    }

    /// No setting on a clock of `clock.0 / clock.1` hertz has more steps than this.
    pub(crate) fn most_steps(&self, clock: (u64, u64)) -> Result<u64> {
        let (numerator, denominator) = self.period(clock)?;
        let smallest = u128::from(self.dividers.scaled(0)).saturating_mul(denominator).max(1);
        // The nearest period may be the one above.
        let ticks = u64::try_from(numerator / smallest + 1).unwrap_or(u64::MAX);
        Ok(self.modes.iter().map(|span| span.steps(ticks.clamp(span.fewest, span.most))).max().unwrap_or(0))
    }

    /// On which side of all that can be made from a clock of `clock.0 / clock.1` hertz the wanted period lies, by more than
    /// a factor of two: what is nearer may be within a tolerance.
    pub(crate) fn reach(&self, clock: (u64, u64)) -> Result<Ordering> {
        let (numerator, denominator) = self.period(clock)?;
        let ends = |division: usize, ticks: u64| {
            u128::from(self.dividers.scaled(division))
                .saturating_mul(ticks.into())
                .saturating_mul(denominator)
        };
        let shortest = self.modes.iter().map(|span| ends(0, span.fewest)).min().unwrap_or(0);
        let last = self.dividers.len().saturating_sub(1);
        let longest = self.modes.iter().map(|span| ends(last, span.most)).max().unwrap_or(0);
        Ok(match numerator {
            short if short.saturating_mul(2) < shortest => Ordering::Less,
            long if long / 2 > longest => Ordering::Greater,
            _ => Ordering::Equal,
        })
    }

    /// The shortest period, from a given one on, that may have more than so many steps; `None` where none has. In source
    /// clocks and units of the dividers' fraction.
    pub(crate) fn period_with_more(&self, period: u64, steps: u64) -> Option<u64> {
        let of_mode = |span: &PeriodSpan<'_>| {
            let ticks = span.ticks_for_more(steps)?;
            // The finest division that reaches so far has the most ticks.
            let division = self.dividers.at_least(period.div_ceil(span.most.max(1)).into());
            let within = division < self.dividers.len() && ticks <= span.most;
            within.then(|| self.dividers.scaled(division).saturating_mul(ticks).max(period))
        };
        self.modes.iter().filter_map(of_mode).min()
    }

    /// Whether the wanted period is a whole number of the timer's units.
    fn is_whole(&self, numerator: u128, denominator: u128) -> Result<bool> {
        let whole = self.in_units(denominator)?;
        Ok(match (u64::try_from(numerator), u64::try_from(whole)) {
            (Ok(numerator), Ok(whole)) => numerator.is_multiple_of(whole),
            _ => numerator.is_multiple_of(whole),
        })
    }

    /// The nearest setting from a clock of `clock.0 / clock.1` hertz that meets a goal, where there is one.
    pub(crate) fn nearest(&self, clock: (u64, u64), goal: Option<Goal>) -> Result<Option<Near>> {
        let (numerator, denominator) = self.period(clock)?;
        if goal.is_some_and(|goal| goal.error.0 == 0) && !self.is_whole(numerator, denominator)? {
            return Ok(None);
        }
        let bound = self.bound(numerator, denominator)?;
        let order = goal.map_or(Ordering::Less, |goal| compare_fractions(bound, goal.error));
        if order == Ordering::Greater {
            return Ok(None);
        }
        // As a rule the nearest period of all can be made, and then no other is looked at.
        let steps = goal.filter(|_| order == Ordering::Equal).map_or(0, |goal| goal.steps);
        let nearest = self.few_periods(numerator, denominator, Goal { error: bound, steps })?;
        let mut best: Option<Near> = None;
        for (error, period) in nearest.into_iter().flatten().flatten() {
            let steps = best.as_ref().map_or(steps, |best| best.steps);
            best = self.made_of(period, error, Goal { error: bound, steps }).or(best);
        }
        if best.is_some() || order == Ordering::Equal {
            return Ok(best);
        }
        let periods = goal.map(|goal| self.few_periods(numerator, denominator, goal)).transpose()?.flatten();
        let Some((goal, periods)) = goal.zip(periods) else {
            return self.tried(numerator, denominator, goal);
        };
        for (error, period) in periods.into_iter().flatten() {
            if let Some(near) = self.made_of(period, error, goal) {
                return Ok(Some(near));
            }
        }
        Ok(None)
    }

    /// The periods that meet a goal, nearest first, each with its error; `None` where there may be more than two.
    fn few_periods(
        &self,
        numerator: u128,
        denominator: u128,
        goal: Goal,
    ) -> Result<Option<[Option<Judged>; 2]>> {
        let unit = u128::from(self.timer.block.fixed_divider);
        let below = quotient(numerator, self.in_units(denominator)?);
        let meets = |units: u128| -> Result<Option<Judged>> {
            let Some(period) = u64::try_from(units * unit).ok().filter(|period| *period > 0) else {
                return Ok(None);
            };
            let error = relative(numerator, denominator, period.into())?;
            Ok((compare_fractions(error, goal.error) != Ordering::Greater).then_some((error, period)))
        };
        // Where the next ones meet the goal as well, others may.
        if goal.error.0 > 0 && (meets(below.saturating_sub(1))?.is_some() || meets(below + 2)?.is_some()) {
            return Ok(None);
        }
        let mut periods = [meets(below)?, if goal.error.0 > 0 { meets(below + 1)? } else { None }];
        if let [Some((low, _)), Some((high, _))] = periods
            && compare_fractions(high, low) == Ordering::Less
        {
            periods.swap(0, 1);
        }
        Ok(Some(periods))
    }

    /// The setting with exactly this period that has the most steps, where there is one and it meets the goal.
    fn made_of(&self, period: u64, error: RelativeError, goal: Goal) -> Option<Near> {
        let same = compare_fractions(error, goal.error) == Ordering::Equal;
        let mut fewest_steps = if same { goal.steps } else { 0 };
        let mut best: Option<Near> = None;
        for (index, span) in self.modes.iter().enumerate() {
            let fewest = span.ticks_for_more(fewest_steps).map(|ticks| ticks.max(span.fewest));
            let Some(fewest) = fewest.filter(|fewest| *fewest <= span.most) else { continue };
            if let Some((division, top)) = self.parts_of(period, span, fewest) {
                let steps = span.steps(span.mode.period.ticks(top)?);
                fewest_steps = steps;
                best = Some(Near { error, steps, mode: index, division, top });
            }
        }
        best
    }

    /// The division and the top that make exactly a period, with the most ticks there are and at least so many.
    fn parts_of(&self, period: u64, span: &PeriodSpan<'_>, fewest: u64) -> Option<(usize, u64)> {
        let law = span.mode.period;
        let top = |ticks: u64| {
            let top = ticks.saturating_sub(law.plus.into()) / u64::from(law.per_top.max(1));
            let inside = span.tops.0 <= top && top <= span.tops.1;
            (inside && law.ticks(top) == Some(ticks)).then_some(top)
        };
        let first = self.dividers.at_least(period.div_ceil(span.most.max(1)).into());
        for division in first..self.dividers.len() {
            let scaled = self.dividers.scaled(division).max(1);
            let ticks = period / scaled;
            if ticks < fewest {
                return None;
            }
            if ticks - fewest < (division - first) as u64 {
                // Fewer ticks are left to try than divisions have been.
                return (fewest..=ticks).rev().filter(|ticks| period.is_multiple_of(*ticks)).find_map(
                    |ticks| {
                        let division = self.dividers.exactly(period / ticks)?;
                        Some((division, top(ticks)?))
                    },
                );
            }
            if period.is_multiple_of(scaled)
                && let Some(top) = top(ticks)
            {
                return Some((division, top));
            }
        }
        None
    }

    /// The nearest setting, found by trying the divisions one by one, then the tops once fewer of those are left.
    fn tried(&self, numerator: u128, denominator: u128, goal: Option<Goal>) -> Result<Option<Near>> {
        let bound = self.bound(numerator, denominator)?;
        let mut best = Best { goal, near: None };
        for (index, span) in self.modes.iter().enumerate() {
            let law = span.mode.period;
            let near = |division: usize, top: u64| -> Result<Near> {
                let scaled = self.dividers.scaled(division);
                let ticks = law.ticks(top).ok_or_else(overflow)?;
                let error = relative(numerator, denominator, u128::from(ticks) * u128::from(scaled))?;
                Ok(Near { error, steps: span.steps(ticks), mode: index, division, top })
            };
            let most = denominator.checked_mul(span.most.into()).ok_or_else(overflow)?;
            // Just before the divisions whose ideal top is in reach there may be one whose largest top is nearest.
            let first = self.dividers.at_least(quotient(numerator + most - 1, most)).saturating_sub(1);
            for division in first..self.dividers.len() {
                let unit =
                    denominator.checked_mul(self.dividers.scaled(division).into()).ok_or_else(overflow)?;
                let ideal = u64::try_from(quotient(numerator, unit)).map_err(|_| overflow())?;
                let floor = ideal.saturating_sub(law.plus.into()) / u64::from(law.per_top.max(1));
                let [low, high] =
                    [floor, floor.saturating_add(1)].map(|top| top.clamp(span.tops.0, span.tops.1));
                if best.is_out_of_reach(bound, span.steps(law.ticks(high).ok_or_else(overflow)?)) {
                    break;
                }
                if high - span.tops.0 < (division - first) as u64 {
                    // Fewer tops are left to try than divisions have been.
                    for top in (span.tops.0..=high).rev() {
                        let ticks = law.ticks(top).ok_or_else(overflow)?;
                        if best.is_out_of_reach(bound, span.steps(ticks)) {
                            break;
                        }
                        let unit = denominator.checked_mul(ticks.max(1).into()).ok_or_else(overflow)?;
                        let above = self.dividers.at_least(quotient(numerator, unit) + 1);
                        for division in [above.saturating_sub(1), above.min(self.dividers.len() - 1)] {
                            best.take(near(division, top)?);
                        }
                    }
                    break;
                }
                best.take(near(division, low)?);
                best.take(near(division, high)?);
                // Where even the smallest top is too long, larger divisions are only further off.
                if unit.checked_mul(span.fewest.into()).is_none_or(|least| least > numerator) {
                    break;
                }
            }
        }
        Ok(best.near)
    }

    /// No setting on a clock of `clock.0 / clock.1` hertz has a smaller error than this.
    pub(crate) fn least_error(&self, clock: (u64, u64)) -> Result<RelativeError> {
        let (numerator, denominator) = self.period(clock)?;
        self.bound(numerator, denominator)
    }

    /// No period is nearer to the wanted one than this: each is a whole number of the fixed divider's units.
    fn bound(&self, numerator: u128, denominator: u128) -> Result<RelativeError> {
        let unit = u128::from(self.timer.block.fixed_divider);
        let below = quotient(numerator, self.in_units(denominator)?);
        let above = relative(numerator, denominator, (below + 1) * unit)?;
        if below == 0 {
            return Ok(above);
        }
        let below = relative(numerator, denominator, below * unit)?;
        Ok(if compare_fractions(below, above) == Ordering::Greater { above } else { below })
    }

    /// The setting with everything that it realises.
    pub(crate) fn setting(&self, near: &Near, clock: Frequency) -> Result<Setting> {
        let mode = self.modes.get(near.mode).map(|span| span.mode.name.clone()).unwrap_or_default();
        let dividers = self.dividers.written(near.division);
        Setting::evaluate(
            self.timer,
            clock,
            RegisterPlan { mode, dividers, top: near.top, channels: Vec::new(), dead_time: None },
        )
    }
}

/// `numerator / denominator`, rounded down: dividing numbers of 64 bits, as nearly all are, is many times faster.
fn quotient(numerator: u128, denominator: u128) -> u128 {
    match (u64::try_from(numerator), u64::try_from(denominator)) {
        (Ok(numerator), Ok(denominator)) => u128::from(numerator / denominator),
        _ => numerator / denominator,
    }
}

/// How far a period's frequency is off the wanted one, which has a period of `numerator / denominator`.
fn relative(numerator: u128, denominator: u128, period: u128) -> Result<RelativeError> {
    let realised = period.checked_mul(denominator).ok_or_else(overflow)?;
    Ok((realised.abs_diff(numerator), realised))
}

const fn overflow() -> Error {
    Error::overflow("number of source clocks in a period")
}
