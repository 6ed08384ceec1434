//! A setting: one complete choice of divider, top and compares, with everything it realises.

use serde::Serialize;

use super::active::{self, Ruler};
use super::timing::Jitter;
use super::write::{self, FieldWrite};
use crate::error::OrOverflow;
use crate::error::{Error, Result};
use crate::part::{Alignment, CompareLaw, LinearLaw, Mode, PastTop, Timer};
use crate::quantity::{Duty, Frequency, Rational, Time};
use crate::target::Level;

/// What registers hold, before anything is made of it. `decode` of what `derive` writes gives the same plan again.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
pub struct RegisterPlan {
    /// The mode's name.
    pub mode: String,
    /// What is written to each divider.
    pub dividers: Vec<u64>,
    /// The top.
    pub top: u64,
    /// The used channels.
    pub channels: Vec<PlannedChannel>,
    /// The dead time between complementary outputs, where there is one.
    pub dead_time: Option<PlannedDeadTime>,
}

/// What a dead time generator's fields hold.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
pub struct PlannedDeadTime {
    /// What is written to its divider; zero where it has none.
    pub divider: u64,
    /// Its code.
    pub code: u64,
}

/// One used channel of a [`RegisterPlan`].
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
pub struct PlannedChannel {
    /// Its label.
    pub label: String,
    /// Its compare value; none where its compare register is the top.
    pub compare: Option<u64>,
    /// The tick at which its pulse starts.
    pub start: u64,
    /// The pin's level while it is active.
    pub level: Level,
}

/// One complete choice, with what it realises from a perfect clock.
#[derive(Debug, Clone, PartialEq, Serialize)]
pub struct Setting {
    /// What the registers hold.
    pub plan: RegisterPlan,
    /// What the mode is, in a few words.
    pub mode_title: String,
    /// Where the pulse lies.
    pub alignment: Alignment,
    /// The source clock.
    pub clock: Frequency,
    /// A division that no register changes, 1 where there is none.
    pub fixed_divider: u32,
    /// What each divider divides by.
    pub divisions: Vec<Rational>,
    /// Everything between the source clock and a counter tick.
    pub divider: Rational,
    /// The register that holds the top; none for a fixed length.
    pub top_register: Option<String>,
    /// Counter ticks in a period; where the mode dithers, in steps of `1 / 2^dither_bits` of one.
    pub ticks: u64,
    /// Bits of top and compare that only count on average.
    pub dither_bits: u32,
    /// One counter tick.
    pub tick: Time,
    /// Periods a second.
    pub frequency: Frequency,
    /// One period.
    pub period: Time,
    /// How long both complementary outputs are off between one and the other.
    pub dead_time: Option<Time>,
    /// How much periods differ, where a divider is fractional.
    pub jitter: Option<Jitter>,
    /// Duty levels from 0 to 100 %, less one.
    pub steps: u64,
    /// How much a step of the compare value changes the pulse.
    pub step: Time,
    /// How much a step of the compare value changes the duty.
    pub step_duty: Duty,
    /// What duties the compare register can reach.
    pub ends: Ends,
    /// The used channels.
    pub outputs: Vec<Output>,
}

/// The duties that a compare register can reach at the setting's top.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
pub struct Ends {
    /// The lowest.
    pub lowest: Duty,
    /// The highest.
    pub highest: Duty,
}

/// What one channel does.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
pub struct Output {
    /// The channel's label.
    pub channel: String,
    /// Its compare value; none where its compare register is the top.
    pub compare: Option<u64>,
    /// The pin's level while it is active.
    pub level: Level,
    /// When its pulse starts, counted from the start of the period; none where the mode cannot move it.
    pub start: Option<Time>,
    /// Counter ticks that it is active in a period, on average where the mode dithers.
    pub ticks: Rational,
    /// How long it is active in a period.
    pub pulse: Time,
    /// The share of the period that it is active.
    pub duty: Duty,
    /// Whether it never moves.
    pub constant: Option<Constant>,
    /// The fewest and the most source clocks of a pulse, where that is no whole number of them: a fractional divider
    /// hands out whole clocks, so that each pulse has the one or the other.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub pulse_clocks: Option<[i128; 2]>,
}

/// An output that never moves.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
#[serde(rename_all = "snake_case")]
pub enum Constant {
    /// Always active.
    Active,
    /// Never active.
    Inactive,
}

impl Setting {
    /// Counter ticks in a period, on average where the mode dithers.
    ///
    /// # Errors
    /// [`QuantityError::Overflow`](crate::quantity::QuantityError::Overflow).
    pub fn mean_ticks(&self) -> Result<Rational> {
        undithered(Rational::from(self.ticks), self.dither_bits)
    }

    /// `log2(steps)`.
    pub fn bits(&self) -> f64 {
        (self.steps as f64).log2()
    }

    /// Every field to write on the timer that the setting is for, the numbers first.
    ///
    /// # Errors
    /// Those of a setting of another timer: names that this one does not have.
    pub fn writes(&self, timer: &Timer) -> Result<Vec<FieldWrite>> {
        write::writes(timer, timer.mode(&self.plan.mode)?, self)
    }

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

/// Steps of a mode that dithers as counter ticks.
fn undithered(steps: Rational, dither_bits: u32) -> Result<Rational> {
    steps.over(Rational::from(1_u64 << dither_bits.min(32))).or_overflow("number of ticks")
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
fn active_ticks(mode: &Mode, ruler: Ruler, compare: u64, limit: u64) -> Result<Rational> {
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
    let (low, high) = active::legal(law, limit.max(compare), ruler);
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
