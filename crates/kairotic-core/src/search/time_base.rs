//! A time base: a counter tick of a wanted length, without a signal.

use serde::Serialize;

use super::channels::no_mode;
use super::findings;
use super::rank::{compare_fractions, wide};
use crate::error::{Error, NoModeReason, OrOverflow, Result};
use crate::finding::{Finding, SettingsLeftOut};
use crate::limits;
use crate::part::{CompareLaw, Mode, Timer, TimerUse};
use crate::quantity::{Deviation, Frequency, Range, Rational, Time, Tolerance};
use crate::setting::divider::Dividers;
use crate::setting::{ClockError, FieldWrite, RegisterPlan, Setting};

/// What tick to derive, and how.
#[derive(Debug, Clone, PartialEq)]
pub struct TimeBaseRequest<'p> {
    /// The timer and its clock.
    pub on: TimerUse<'p>,
    /// The wanted counter tick.
    pub tick: Time,
    /// How far the tick may be off.
    pub within: Deviation,
    /// A mode's name, or an alignment, to insist on.
    pub mode: Option<String>,
    /// Whether every setting within the tolerance is wanted.
    pub all: bool,
}

/// The settings for a wanted tick, each with the counter at its full length.
#[derive(Debug, Clone, PartialEq, Serialize)]
pub struct TimeBase {
    /// The timer.
    pub timer: Timer,
    /// The source clock.
    pub clock: Tolerance<Frequency>,
    /// Whether that is the part's default, for want of another.
    pub default_clock: bool,
    /// What was wanted.
    pub tick: Time,
    /// The settings, best first, each with its tick's relative error.
    pub settings: Vec<TickSetting>,
    /// What the clock's tolerance adds, where it has one.
    pub clock_error: Option<ClockError>,
    /// What is or may be wrong.
    #[serde(skip)]
    pub findings: Vec<Finding>,
}

/// A setting with the tick that it makes.
#[derive(Debug, Clone, PartialEq, Serialize)]
pub struct TickSetting {
    /// The setting.
    #[serde(flatten)]
    pub setting: Setting,
    /// What is written for it.
    pub registers: Vec<FieldWrite>,
    /// Its tick over the wanted one, less one.
    #[serde(rename = "tick_error")]
    pub error: Deviation,
}

/// Finds the divisions of a timer whose tick is nearest to the wanted one: the nearest on either side, or
/// all that are within the tolerance.
///
/// # Errors
/// [`QuantityError::NotPositive`](crate::quantity::QuantityError::NotPositive), [`Error::ClockTooFast`],
/// [`Error::UnknownName`] for a mode; [`Error::NoMode`] where the tick is out of reach.
pub fn derive_time_base(request: &TimeBaseRequest<'_>) -> Result<TimeBase> {
    let tick = request.tick.positive()?;
    request.on.first_that_works(|timer| derive_on(timer, request, tick))
}

fn derive_on(owned: Timer, request: &TimeBaseRequest<'_>, tick: Time) -> Result<TimeBase> {
    let timer = &owned;
    let given = request.on.clock_of(timer)?;
    let clock = given.nominal;
    let mode = counting_mode(timer, request.mode.as_deref())?;
    let (_, top) = timer.top_limits(mode)?;

    let dividers = Dividers::of(timer)?;
    let ideal = tick.in_ticks(clock)?;
    let scale = Rational::new(1 << dividers.fraction_bits, 1).or_overflow("divider")?;
    let ideal = ideal.times(scale).or_overflow("divider")?;
    let candidates = nearest_first(&dividers, ideal, request)?;
    let left_out = candidates.len().saturating_sub(limits::SETTINGS.most as usize) as u64;
    let settings = candidates
        .into_iter()
        .take(limits::SETTINGS.most as usize)
        .map(|index| {
            let plan = RegisterPlan {
                mode: mode.name.clone(),
                dividers: dividers.written(index),
                top,
                channels: Vec::new(),
                dead_time: None,
            };
            let setting = Setting::evaluate(timer, clock, plan)?;
            let error = setting.tick.relative_to(tick)?;
            let registers = setting.writes(timer)?;
            Ok(TickSetting { setting, registers, error })
        })
        .collect::<Result<Vec<_>>>()?;
    let best = settings.first().ok_or_else(|| out_of_reach(&dividers, clock, tick, timer))?;
    // Half a division away is as bad as rounding gets; further off means that there is no division for it.
    if best.error.value().magnitude() > Rational::new(1, 2).or_overflow("tick")? {
        return Err(out_of_reach(&dividers, clock, tick, timer));
    }
    let mut findings = findings::of_time_base(timer, mode, &best.setting, tick, best.error, request.within);
    findings.extend(
        (left_out > 0).then(|| SettingsLeftOut { shown: limits::SETTINGS.most, omitted: left_out }.into()),
    );
    Ok(TimeBase {
        clock_error: ClockError::of(&best.setting, given.deviation)?,
        clock: given,
        default_clock: request.on.clock.is_none(),
        tick,
        settings,
        findings,
        timer: owned,
    })
}

/// The first mode, or the one insisted on, whose counter counts the ticks of one period.
fn counting_mode<'t>(timer: &'t Timer, asked: Option<&str>) -> Result<&'t Mode> {
    let fits = |mode: &&Mode| {
        mode.dither.is_none() && asked.is_none_or(|name| name == mode.name || name == mode.alignment.word())
    };
    let mut asked_for = timer.block.modes.iter().filter(fits).peekable();
    if let (Some(name), None) = (asked, asked_for.peek()) {
        timer.mode(name)?;
    }
    asked_for
        .find(|mode| mode.compare != CompareLaw::Toggle)
        .ok_or_else(|| no_mode(timer, NoModeReason::SquareOnly))
}

/// Positions of the divisions worth showing, the nearest to `ideal` first; equals go to the smaller division.
fn nearest_first(dividers: &Dividers, ideal: Rational, request: &TimeBaseRequest<'_>) -> Result<Vec<usize>> {
    let (numerator, denominator) = (ideal.numerator().unsigned_abs(), ideal.denominator().unsigned_abs());
    let above = dividers.at_least(numerator.div_ceil(denominator));
    let distance = |index: usize| -> Option<u128> {
        u128::from(dividers.scaled(index)).checked_mul(denominator).map(|scaled| scaled.abs_diff(numerator))
    };
    let (within, whole) = (
        request.within.value().numerator().unsigned_abs(),
        request.within.value().denominator().unsigned_abs(),
    );
    let inside = |index: &usize| {
        distance(*index).is_some_and(|distance| wide(distance, whole) <= wide(numerator, within))
    };
    let mut indexes: Vec<usize> = if request.all {
        let below = (0..above).rev().take_while(inside);
        below.chain((above..dividers.len()).take_while(inside)).collect()
    } else {
        Vec::new()
    };
    // The nearest on either side are always shown.
    for index in
        [above.checked_sub(1), Some(above).filter(|index| *index < dividers.len())].into_iter().flatten()
    {
        if !indexes.contains(&index) {
            indexes.push(index);
        }
    }
    let key = |index: usize| distance(index).or_overflow("tick").map(|distance| (distance, index));
    let mut keyed = indexes.into_iter().map(key).collect::<Result<Vec<_>>>()?;
    keyed.sort_by(|left, right| compare_fractions((left.0, 1), (right.0, 1)).then(left.1.cmp(&right.1)));
    if let Some((0, index)) = keyed.first()
        && !request.all
    {
        return Ok(vec![*index]);
    }
    Ok(keyed.into_iter().map(|(_, index)| index).collect())
}

fn out_of_reach(dividers: &Dividers, clock: Frequency, tick: Time, timer: &Timer) -> Error {
    let limits = dividers.ends().and_then(|(smallest, largest)| {
        let time = |division: Rational| division.over(clock.value()).map(Time::new);
        Some(Range { low: time(smallest)?, high: time(largest)? })
    });
    no_mode(timer, NoModeReason::TickOutOfReach { tick, limits })
}
