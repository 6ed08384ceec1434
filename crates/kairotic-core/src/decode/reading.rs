//! From register values back to a signal.

use serde::Serialize;

use super::expectation::Expectation;
use super::findings;
use super::mode_inference::ModeInference;
use crate::error::{Error, Result};
use crate::finding::Finding;
use crate::part::{Assignment, CompareLaw, Field, FieldIs, Mode, Registers, Slot, Timer, TimerUse};
use crate::quantity::{Deviation, Frequency, Tolerance, units};
use crate::setting::{ClockError, FieldWrite, PlannedChannel, PlannedDeadTime, RegisterPlan, Setting};

/// What to decode.
#[derive(Debug, Clone, PartialEq)]
pub struct DecodeRequest<'p> {
    /// The timer and its clock; the registers say which base counter, where none is named.
    pub on: TimerUse<'p>,
    /// The channel to look at; every channel with a compare value where none is given.
    pub channel: Option<String>,
    /// The register values.
    pub assignments: Vec<Assignment>,
    /// The frequency that was meant.
    pub expect: Option<Frequency>,
    /// How far the frequency may be off what was meant.
    pub within: Deviation,
}

impl<'p> DecodeRequest<'p> {
    /// Register values of a timer, with nothing said of what was meant.
    pub fn plain(on: TimerUse<'p>, assignments: Vec<Assignment>) -> Self {
        Self { on, channel: None, assignments, expect: None, within: units::ppm(100) }
    }
}

/// What register values make.
#[derive(Debug, Clone, PartialEq, Serialize)]
pub struct Reading {
    /// The timer.
    pub timer: Timer,
    /// The source clock.
    pub clock: Tolerance<Frequency>,
    /// Whether that is the part's default, for want of another.
    pub default_clock: bool,
    /// The setting that the values are.
    pub setting: Setting,
    /// What is written for it.
    pub registers: Vec<FieldWrite>,
    /// How it compares with what was meant.
    pub expectation: Option<Expectation>,
    /// What was taken for granted because no register said it.
    pub assumed: Vec<String>,
    /// What the clock's tolerance adds, where it has one.
    pub clock_error: Option<ClockError>,
    /// What is or may be wrong.
    #[serde(skip)]
    pub findings: Vec<Finding>,
}

/// Decodes register values of a timer.
///
/// # Errors
/// Names and values that do not fit the timer; registers that are missing; a clock that is too fast.
pub fn decode(request: &DecodeRequest<'_>) -> Result<Reading> {
    let (timer, registers) = timer_and_registers(request)?;
    let clock = request.on.clock_of(&timer)?;
    if let Some(label) = &request.channel {
        timer.channel(label)?;
    }
    let inference = ModeInference { timer: &timer, registers: &registers, only: request.channel.as_deref() };
    let mode = inference.mode()?;
    let plan = plan(&timer, mode, &registers, &inference)?;
    let assumed = inference.assumed(mode, &plan)?;
    let setting = Setting::evaluate(&timer, clock.nominal, plan)?;
    let expectation = match request.expect {
        None => None,
        Some(frequency) => {
            let error = setting.frequency.relative_to(frequency.positive()?)?;
            Some(Expectation { frequency, error })
        }
    };
    let findings = findings::of_reading(&timer, mode, &setting, expectation.as_ref(), request.within)?;
    let clock_error = ClockError::of(&setting, clock.deviation)?;
    let default_clock = request.on.clock.is_none();
    let written = setting.writes(&timer)?;
    Ok(Reading {
        timer,
        clock,
        default_clock,
        clock_error,
        setting,
        registers: written,
        expectation,
        assumed,
        findings,
    })
}

/// The timer with the base counter that the registers point to, and the registers by its names.
fn timer_and_registers(request: &DecodeRequest<'_>) -> Result<(Timer, Registers)> {
    let views = request.on.views()?;
    let mut complaint = None;
    for timer in views {
        match Registers::of(timer.names(&timer.path()), &request.assignments) {
            Err(error) => complaint = complaint.or(Some(error)),
            Ok(registers) => {
                let chosen =
                    timer.base.as_ref().map(|base| timer.field(&base.field).map(|field| (base.code, field)));
                match chosen.transpose()? {
                    Some((code, field)) if registers.value(&field).is_some_and(|given| given != code) => {}
                    _ => return Ok((timer, registers)),
                }
            }
        }
    }
    // No counter understands all names (the default's complaint is as good as any), or the code chooses none.
    match complaint {
        Some(error) => Err(error),
        None => Err(no_base(request)?),
    }
}

fn no_base(request: &DecodeRequest<'_>) -> Result<Error> {
    let views = TimerUse { base: None, ..request.on.clone() }.views()?;
    let choices = views.iter().filter_map(|timer| timer.base.as_ref());
    let legal: Vec<String> = choices.map(|base| format!("{} ({})", base.code, base.name)).collect();
    let field = views.iter().find_map(|timer| timer.base.as_ref()).map(|base| base.field.clone());
    Ok(Error::RegisterClash {
        name: field.unwrap_or_default(),
        why: "chooses no counter that the other registers belong to".to_owned(),
        legal: legal.join(", "),
    })
}

fn plan(
    timer: &Timer,
    mode: &Mode,
    registers: &Registers,
    inference: &ModeInference<'_>,
) -> Result<RegisterPlan> {
    let mut dividers = Vec::new();
    for stage in &timer.block.dividers {
        let slot = timer.slot(&stage.slot)?;
        let written = needed(registers, &slot, "it divides the clock")?;
        if stage.steps.meaning(written).is_none() {
            return Err(Error::RegisterValue {
                name: slot.name(),
                value: written,
                why: "stops the counter or chooses another clock: no division of this one".to_owned(),
                legal: stage.steps.legal_codes(),
            });
        }
        dividers.push(written);
    }
    let (least, most) = timer.top_limits(mode)?;
    let top = match timer.top_slot(mode)? {
        None => most,
        Some(slot) => {
            let top = needed(registers, &slot, &format!("it ends the period in mode {}", mode.name))?;
            if !(least..=most).contains(&top) {
                return Err(Error::RegisterValue {
                    name: slot.name(),
                    value: top,
                    why: format!("is no top of mode {}", mode.name),
                    legal: format!("{least}..{most}"),
                });
            }
            top
        }
    };
    let mut channels = Vec::new();
    for channel in inference.channels(mode)? {
        let role = |role: &str| -> Result<Option<u64>> {
            Ok(timer.role(channel, role)?.and_then(|field| registers.value(&field)))
        };
        let start = mode.start.as_ref().map(|law| role(&law.role)).transpose()?.flatten().unwrap_or(0);
        let compare = if mode.has_top_in(channel) {
            None
        } else if let Some(forced) = forced(mode, top, role)? {
            Some(forced)
        } else {
            let slot = timer.compare_slot(mode, channel)?;
            let written = needed(registers, &slot, "it is part of the compare value")?;
            if let CompareLaw::Linear(law) = &mode.compare
                && written < law.min
            {
                return Err(Error::RegisterValue {
                    name: slot.name(),
                    value: written,
                    why: format!("is no compare value of mode {}", mode.name),
                    legal: format!("{}..{}", law.min, timer.compare_limit(mode, channel)?),
                });
            }
            Some(length(mode, top, start, written))
        };
        let level = inference.level(mode, channel)?;
        channels.push(PlannedChannel { label: channel.label.clone(), compare, start, level });
    }
    let dead_time = dead_time(timer, registers)?;
    Ok(RegisterPlan { mode: mode.name.clone(), dividers, top, channels, dead_time })
}

/// What the registers say of the dead time, where they do.
fn dead_time(timer: &Timer, registers: &Registers) -> Result<Option<PlannedDeadTime>> {
    let Some(known) = &timer.dead_time else { return Ok(None) };
    let Some(slot) = known.slots.first() else { return Ok(None) };
    let Some(code) = registers.number(&timer.slot(slot)?) else { return Ok(None) };
    // Without a complementary output there is nothing for it to do.
    let mut on = false;
    for fields in known.outputs.values() {
        let set = |wanted: &FieldIs| Ok(registers.value(&timer.field(&wanted.field)?) == Some(wanted.value));
        on |= fields.iter().map(set).collect::<Result<Vec<bool>>>()?.iter().all(|set| *set);
    }
    let divider = match &known.divider {
        Some(divider) => registers.number(&timer.slot(&divider.slot)?).unwrap_or(0),
        None => 0,
    };
    Ok(on.then_some(PlannedDeadTime { divider, code }))
}

/// The compare value of a constant output that other fields make.
fn forced(mode: &Mode, top: u64, role: impl Fn(&str) -> Result<Option<u64>>) -> Result<Option<u64>> {
    let (Some(ends), CompareLaw::Linear(law)) = (&mode.ends, &mode.compare) else { return Ok(None) };
    // Off wins where both are set.
    for (end, point) in [(&ends.zero, law.zero), (&ends.full, law.full)] {
        if role(&end.role)? == Some(end.value) {
            return Ok(point.value(top));
        }
    }
    Ok(None)
}

/// The length of a pulse whose register may hold its end.
fn length(mode: &Mode, top: u64, start: u64, written: u64) -> u64 {
    match &mode.start {
        Some(law) if law.holds_end && written < start => {
            let ticks = mode.period.ticks(top).unwrap_or(written);
            if law.wraps { (written + ticks).saturating_sub(start) } else { 0 }
        }
        Some(law) if law.holds_end => written - start,
        _ => written,
    }
}

fn needed(registers: &Registers, slot: &Slot, why: &str) -> Result<u64> {
    registers.number(slot).ok_or_else(|| {
        let missing: Vec<String> =
            slot.0.iter().filter(|field| registers.value(field).is_none()).map(Field::name).collect();
        Error::RegisterMissing { needed: missing.join(" and "), why: why.to_owned() }
    })
}
