//! From what registers hold to everything that it realises.

use super::active::{self, Ruler};
use super::timing::Jitter;
use super::{Constant, Ends, Output, RegisterPlan, Setting, undithered};
use crate::error::{Error, OrOverflow, Result};
use crate::part::{CompareLaw, LinearLaw, Mode, PastTop, Timer};
use crate::quantity::{Duty, Frequency, Rational, Time};

impl Setting {
    /// Everything that `plan` realises on `timer` from a source clock.
    ///
    /// # Errors
    /// [`QuantityError::Overflow`](crate::quantity::QuantityError::Overflow) where a figure does not fit,
    /// [`Error::RegisterValue`] for a divider code without meaning.
    pub fn evaluate(timer: &Timer, clock: Frequency, plan: RegisterPlan) -> Result<Self> {
        let mode = timer.mode(&plan.mode)?;
        let divisions = divisions(timer, &plan.dividers)?;
        let divider = divisions
            .iter()
            .try_fold(Rational::from(timer.block.fixed_divider), |all, one| all.times(*one))
            .or_overflow("divider")?;
        let ticks = mode.period.ticks(plan.top).or_overflow("number of ticks in a period")?;
        let tick = divider.over(clock.value()).or_overflow("tick")?;
        let dither_bits = mode.dither_bits();
        let mean = undithered(ticks.into(), dither_bits)?;
        let clocks = divider.times(mean).or_overflow("number of source clocks in a period")?;
        let period = tick.times(mean).or_overflow("period")?;
        let frequency = Time::new(period).frequency()?;
        let ruler = ruler(divider, dither_bits, plan.top, ticks)?;

        let mut outputs = Vec::new();
        for channel in &plan.channels {
            let limit = timer.compare_limit(mode, timer.channel(&channel.label)?)?;
            let steps = active_ticks(mode, ruler, channel.compare.unwrap_or(plan.top), limit)?;
            let duty = steps.over(ticks.into()).or_overflow("duty")?;
            let active = undithered(steps, dither_bits)?;
            let start = tick.times(channel.start.into()).or_overflow("start")?;
            let clocks = active.times(divider).or_overflow("pulse")?;
            outputs.push(Output {
                channel: channel.label.clone(),
                compare: channel.compare,
                level: channel.level,
                start: mode.start.as_ref().map(|_| Time::new(start)),
                ticks: active,
                pulse: Time::new(active.times(tick).or_overflow("pulse")?),
                duty: Duty::new(duty),
                constant: constant(duty),
                pulse_clocks: (!clocks.is_whole()).then(|| [clocks.floor(), clocks.ceiling()]),
            });
        }
        let (steps, step, ends) = resolution(timer, mode, &plan, ruler)?;
        Ok(Self {
            mode_title: mode.title.clone(),
            alignment: mode.alignment,
            clock,
            fixed_divider: timer.block.fixed_divider,
            divider,
            divisions,
            top_register: timer.top_slot(mode)?.map(|slot| slot.name()),
            ticks,
            dither_bits,
            tick: Time::new(tick),
            frequency,
            period: Time::new(period),
            dead_time: super::dead_time::length_of(timer, clock, tick, plan.dead_time)?,
            jitter: Jitter::of(timer, mode, clock, clocks, &plan)?,
            steps,
            step: Time::new(undithered(step, dither_bits)?.times(tick).or_overflow("step")?),
            step_duty: Duty::new(step.over(ticks.into()).or_overflow("step")?),
            ends,
            outputs,
            plan,
        })
    }
}

fn constant(duty: Rational) -> Option<Constant> {
    if duty.is_zero() {
        Some(Constant::Inactive)
    } else {
        (duty == Rational::ONE).then_some(Constant::Active)
    }
}

/// What each divider divides by.
pub(crate) fn divisions(timer: &Timer, written: &[u64]) -> Result<Vec<Rational>> {
    let mut divisions = Vec::new();
    for (stage, written) in timer.block.dividers.iter().zip(written) {
        let meaning = stage.steps.meaning(*written).ok_or(Error::RegisterValue {
            name: timer.slot(&stage.slot)?.name(),
            value: *written,
            why: "gives no division".to_owned(),
            legal: stage.steps.legal_codes(),
        })?;
        divisions.push(meaning);
    }
    Ok(divisions)
}

/// The division and top as whole numbers.
pub(crate) fn ruler(divider: Rational, dither_bits: u32, top: u64, ticks: u64) -> Result<Ruler> {
    let scaled = u64::try_from(divider.numerator()).ok().or_overflow("divider")?;
    // Denominators are powers of two, since every divider's fraction is binary.
    Ok(Ruler {
        scaled,
        fraction_bits: divider.denominator().trailing_zeros() + dither_bits,
        dither_bits,
        top,
        ticks,
    })
}

/// Counter ticks that a channel is active, by the law where it holds and by what the silicon does beyond it.
pub(super) fn active_ticks(mode: &Mode, ruler: Ruler, compare: u64, limit: u64) -> Result<Rational> {
    let ticks = Rational::from(ruler.ticks);
    match &mode.compare {
        CompareLaw::Toggle => ticks.over(Rational::whole(2)).or_overflow("pulse"),
        CompareLaw::Linear(law) if is_past_top(law, ruler, compare, limit) => {
            Ok(if law.past_top == PastTop::Active { ticks } else { Rational::ZERO })
        }
        CompareLaw::Linear(law) => {
            Rational::new(law.sub_ticks(ruler.top, compare), law.per_tick.into()).or_overflow("pulse")
        }
    }
}

/// Whether a compare value is beyond those that the law covers.
pub(crate) fn is_past_top(law: &LinearLaw, ruler: Ruler, compare: u64, limit: u64) -> bool {
    let (low, high) = active::covered(law, limit.max(compare), ruler);
    !(low..=high).contains(&i128::from(compare))
}

/// Steps in the period, ticks in a step, and the ends that the compare register reaches.
fn resolution(
    timer: &Timer,
    mode: &Mode,
    plan: &RegisterPlan,
    ruler: Ruler,
) -> Result<(u64, Rational, Ends)> {
    let share = |sub_ticks: i128, of: u32| {
        Rational::new(sub_ticks, of.into())
            .and_then(|ticks| ticks.over(ruler.ticks.into()))
            .or_overflow("duty")
            .map(Duty::new)
    };
    match &mode.compare {
        CompareLaw::Toggle => {
            let half = share(i128::from(ruler.ticks), 2)?;
            let step = Rational::from(ruler.ticks).over(Rational::whole(2)).or_overflow("step")?;
            Ok((1, step, Ends { lowest: half, highest: half }))
        }
        CompareLaw::Linear(law) => {
            let mut limit = u64::MAX;
            for channel in timer.free_channels(mode) {
                if plan.channels.is_empty() || plan.channels.iter().any(|used| used.label == channel.label) {
                    limit = limit.min(timer.compare_limit(mode, channel)?);
                }
            }
            let (low, high) = active::legal(law, limit, ruler);
            let ends = [low, high].map(|compare| {
                let sub_ticks = i128::from(law.gain) * compare + law.sub_ticks(ruler.top, 0);
                share(sub_ticks, law.per_tick)
            });
            let [first, last] = ends;
            let (first, last) = (first?, last?);
            let step = Rational::new(i128::from(law.gain).abs(), law.per_tick.into()).or_overflow("step")?;
            let steps = active::most_steps(law, ruler, None).or_overflow("number of steps")?;
            Ok((steps, step, Ends { lowest: first.min(last), highest: first.max(last) }))
        }
    }
}
