//! From register values back to a signal.

use super::derive::check_clock;
use super::findings;
use super::read::{Assignment, Registers};
use super::realise::{Plan, PlannedChannel, Setting};
use super::target::Level;
use super::timing::ClockError;
use super::view::views;
use super::working::{self, Line};
use super::write::{legal_codes, sets_polarity};
use crate::error::{Error, Result};
use crate::finding::Finding;
use crate::part::{Channel, CompareLaw, Field, Mode, Part, Polarity, Slot, Timer, TopSource};
use crate::quantity::{Deviation, Frequency, OrOverflow, Rational, Tolerance};

/// What to decode.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct DecodeRequest {
    /// The timer's name.
    pub timer: String,
    /// The base counter's name, where it is not to be found from the registers.
    pub base: Option<String>,
    /// The channel to look at; every channel with a compare value where none is given.
    pub channel: Option<String>,
    /// The source clock; the part's default where none is given.
    pub clock: Option<Tolerance<Frequency>>,
    /// The register values.
    pub assignments: Vec<Assignment>,
    /// The frequency that was meant.
    pub expect: Option<Frequency>,
    /// How far the frequency may be off what was meant.
    pub within: Deviation,
    /// Whether a clock above the timer's maximum is accepted.
    pub allow_overclock: bool,
}

/// What register values make.
#[derive(Debug, Clone, PartialEq)]
pub struct Reading {
    /// The timer.
    pub timer: Timer,
    /// The source clock.
    pub clock: Tolerance<Frequency>,
    /// The setting that the values are.
    pub setting: Setting,
    /// How it compares with what was meant.
    pub expectation: Option<Expectation>,
    /// What was taken for granted because no register said it.
    pub assumed: Vec<String>,
    /// What the clock's tolerance adds, where it has one.
    pub clock_error: Option<ClockError>,
    /// The arithmetic, line by line.
    pub working: Vec<Line>,
    /// What is or may be wrong.
    pub findings: Vec<Finding>,
}

/// How a decoded frequency compares with what was meant.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Expectation {
    /// What was meant.
    pub frequency: Frequency,
    /// Realised over meant, less one.
    pub error: Deviation,
}

/// Decodes register values of a timer of `part`.
///
/// # Errors
/// Names and values that do not fit the timer; registers that are missing; a clock that is too fast.
pub fn decode(part: &Part, request: &DecodeRequest) -> Result<Reading> {
    let (timer, registers) = timer_and_registers(part, request)?;
    let clock = request.clock.unwrap_or_else(|| timer.default_clock());
    let source = clock.nominal.positive()?;
    check_clock(&timer, source, request.allow_overclock)?;
    if let Some(label) = &request.channel {
        timer.channel(label)?;
    }
    let mode = mode_of(&timer, &registers, request.channel.as_deref())?;
    let plan = plan(&timer, mode, &registers, request.channel.as_deref())?;
    let assumed = assumed(&timer, mode, &plan, &registers)?;
    let setting = Setting::realise(&timer, source, plan)?;
    let expectation = match request.expect {
        None => None,
        Some(frequency) => {
            let wanted = frequency.positive()?.value();
            let ratio = setting.frequency.value().over(wanted).or_overflow("frequency")?;
            let error = Deviation::new(ratio.minus(Rational::ONE).or_overflow("frequency error")?);
            Some(Expectation { frequency, error })
        }
    };
    let findings = findings::of_reading(&timer, mode, &setting, expectation.as_ref(), request.within)?;
    let working = working::reading(&timer, &setting)?;
    let clock_error = ClockError::of(&setting, clock.deviation)?;
    Ok(Reading { timer, clock, clock_error, setting, expectation, assumed, working, findings })
}

/// The timer with the base counter that the registers point to, and the registers by its names.
fn timer_and_registers(part: &Part, request: &DecodeRequest) -> Result<(Timer, Registers)> {
    let views = views(part, &request.timer, request.base.as_deref())?;
    let mut complaint = None;
    for timer in views {
        match Registers::of(&timer, &request.assignments) {
            Err(error) => complaint = complaint.or(Some(error)),
            Ok(registers) => {
                let chosen = timer.base.as_ref().map(|base| Ok((base.code, timer.field(&base.field)?)));
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
        None => Err(no_base(part, request)?),
    }
}

fn no_base(part: &Part, request: &DecodeRequest) -> Result<Error> {
    let views = views(part, &request.timer, None)?;
    let choices = views.iter().filter_map(|timer| timer.base.as_ref());
    let legal: Vec<String> = choices.map(|base| format!("{} ({})", base.code, base.name)).collect();
    let field = views.iter().find_map(|timer| timer.base.as_ref()).map(|base| base.field.clone());
    Ok(Error::RegisterClash {
        name: field.unwrap_or_default(),
        why: "chooses no counter that the other registers belong to".to_owned(),
        legal: legal.join(", "),
    })
}

/// The mode that fits what is known; where several do, the one that leaves least unsaid and unused, then a usual one.
fn mode_of<'t>(timer: &'t Timer, registers: &Registers, channel: Option<&str>) -> Result<&'t Mode> {
    let mut fitting: Vec<(usize, usize, bool, &Mode)> = Vec::new();
    for mode in &timer.block.modes {
        if !contradicts(timer, mode, registers, channel)? {
            let top = timer.top_slot(mode)?;
            let missing = top.as_ref().filter(|slot| registers.number(slot).is_none()).map_or(0, |_| 1);
            let unused = unused_tops(timer, registers, top.as_ref())?;
            fitting.push((missing, unused, !mode.usual, mode));
        }
    }
    // The sort is stable: equals keep the family file's order.
    fitting.sort_by_key(|(missing, unused, unusual, _)| (*missing, *unused, *unusual));
    fitting.first().map(|(.., mode)| *mode).ok_or_else(|| {
        let mut known: Vec<String> = Vec::new();
        for mode in &timer.block.modes {
            let bits: Vec<String> =
                mode.setup.iter().map(|write| format!("{}={}", write.slot.join(":"), write.value)).collect();
            known.push(format!("{} ({})", mode.name, bits.join(" ")));
        }
        Error::NoMode {
            timer: timer.path(),
            why: "the mode bits given belong to none that makes pulses".to_owned(),
            hint: format!("modes: {}", known.join(", ")),
        }
    })
}

/// The first of the values that has a mode's effect and does not contradict the registers.
fn fitting_value(registers: &Registers, slot: &Slot, value: u64, also: &[u64]) -> Option<u64> {
    std::iter::once(&value).chain(also).copied().find(|value| !registers.contradicts(slot, *value))
}

/// The polarity, unless the mode needs its field for a value of its own.
fn free_polarity<'t>(timer: &'t Timer, mode: &Mode) -> Option<&'t Polarity> {
    timer.block.polarity.as_ref().filter(|polarity| !sets_polarity(mode, polarity))
}

fn contradicts(timer: &Timer, mode: &Mode, registers: &Registers, channel: Option<&str>) -> Result<bool> {
    for write in &mode.setup {
        let slot = timer.slot(&write.slot)?;
        if fitting_value(registers, &slot, write.value, &write.also).is_none() {
            return Ok(true);
        }
    }
    for used in used_channels(timer, mode, registers, channel)? {
        for write in &mode.channel_setup {
            if let Some(field) = timer.role(used, &write.role)?
                && fitting_value(registers, &Slot(vec![field]), write.value, &write.also).is_none()
            {
                return Ok(true);
            }
        }
        if let Some(polarity) = free_polarity(timer, mode)
            && let Some(field) = timer.role(used, &polarity.role)?
            && registers
                .value(&field)
                .is_some_and(|given| !polarity.high.contains(&given) && !polarity.low.contains(&given))
        {
            return Ok(true);
        }
    }
    Ok(false)
}

/// How many registers were given that are the top of another mode but not of this one.
fn unused_tops(timer: &Timer, registers: &Registers, top: Option<&Slot>) -> Result<usize> {
    let mut others: Vec<Slot> = Vec::new();
    for mode in &timer.block.modes {
        if let (TopSource::Register { .. }, Some(slot)) = (&mode.top, timer.top_slot(mode)?)
            && Some(&slot) != top
            && registers.touches(&slot)
            && !others.contains(&slot)
        {
            others.push(slot);
        }
    }
    Ok(others.len())
}

/// The channels to decode: those with a compare value given, and a toggling top channel whose bits are given.
fn used_channels<'t>(
    timer: &'t Timer,
    mode: &'t Mode,
    registers: &Registers,
    only: Option<&str>,
) -> Result<Vec<&'t Channel>> {
    let mut used = Vec::new();
    for channel in timer.free_channels(mode) {
        let given = if is_top(mode, channel) {
            let mut given = false;
            for write in &mode.channel_setup {
                given |=
                    timer.role(channel, &write.role)?.is_some_and(|field| registers.value(&field).is_some());
            }
            given
        } else {
            registers.touches(&timer.slot(&channel.compare)?)
        };
        if given && only.is_none_or(|label| channel.label == label) {
            used.push(channel);
        }
    }
    Ok(used)
}

fn is_top(mode: &Mode, channel: &Channel) -> bool {
    matches!(&mode.top, TopSource::Compare { channel: top, .. } if *top == channel.label)
}

fn plan(timer: &Timer, mode: &Mode, registers: &Registers, only: Option<&str>) -> Result<Plan> {
    let mut dividers = Vec::new();
    for stage in &timer.block.dividers {
        let slot = timer.slot(&stage.slot)?;
        let written = needed(registers, &slot, "it divides the clock")?;
        if stage.steps.meaning(written).is_none() {
            return Err(Error::RegisterValue {
                name: slot.name(),
                value: written,
                why: "stops the counter or chooses another clock: no division of this one".to_owned(),
                legal: legal_codes(&stage.steps),
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
    for channel in used_channels(timer, mode, registers, only)? {
        let compare = if is_top(mode, channel) {
            None
        } else {
            Some(needed(registers, &timer.slot(&channel.compare)?, "it is part of the compare value")?)
        };
        let level = level(timer, mode, channel, registers)?;
        channels.push(PlannedChannel { label: channel.label.clone(), compare, level });
    }
    Ok(Plan { mode: mode.name.clone(), dividers, top, channels })
}

fn needed(registers: &Registers, slot: &Slot, why: &str) -> Result<u64> {
    registers.number(slot).ok_or_else(|| {
        let missing: Vec<String> =
            slot.0.iter().filter(|field| registers.value(field).is_none()).map(Field::name).collect();
        Error::RegisterMissing { needed: missing.join(" and "), why: why.to_owned() }
    })
}

fn level(timer: &Timer, mode: &Mode, channel: &Channel, registers: &Registers) -> Result<Level> {
    let Some(polarity) = free_polarity(timer, mode) else { return Ok(Level::High) };
    let given = timer.role(channel, &polarity.role)?.and_then(|field| registers.value(&field));
    let low = given.is_some_and(|given| polarity.low.contains(&given));
    Ok(if low { Level::Low } else { Level::High })
}

/// What no register said although it decides between modes or levels.
fn assumed(timer: &Timer, mode: &Mode, plan: &Plan, registers: &Registers) -> Result<Vec<String>> {
    let mut assumed = Vec::new();
    let mut assume = |slot: &Slot, value: u64, means: &str| {
        if registers.number(slot).is_none() {
            assumed.push(format!("{}={value} ({means})", slot.name()));
        }
    };
    for write in &mode.setup {
        assume(&timer.slot(&write.slot)?, write.value, &write.means);
    }
    for planned in &plan.channels {
        let channel = timer.channel(&planned.label)?;
        for write in &mode.channel_setup {
            if let Some(field) = timer.role(channel, &write.role)? {
                assume(&Slot(vec![field]), write.value, &write.means);
            }
        }
        if let Some(polarity) = free_polarity(timer, mode)
            && let Some(field) = timer.role(channel, &polarity.role)?
            && let Some(high) = polarity.high.first()
        {
            assume(&Slot(vec![field]), *high, "active high");
        }
    }
    if mode.compare == CompareLaw::Toggle && plan.channels.is_empty() {
        assumed.push("an output that toggles".to_owned());
    }
    Ok(assumed)
}
