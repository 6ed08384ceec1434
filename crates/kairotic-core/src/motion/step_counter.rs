//! A timer whose period is the interval to the next step: each period begins with a pulse, and its top is written anew for
//! each.

use serde::Serialize;

use super::ideal::Ideal;
use crate::error::{Error, NoModeReason, OrOverflow, Result};
use crate::load::StepRates;
use crate::part::{Alignment, Channel, CompareLaw, Counting, LinearLaw, Mode, Timer, TimerUse, UpdatePoint};
use crate::quantity::{Frequency, Rational, Time, Tolerance};
use crate::setting::divider::Dividers;
use crate::setting::{FieldWrite, PlannedChannel, RegisterPlan, Setting};
use crate::target::Level;

/// A timer that times steps.
#[derive(Debug, Clone, PartialEq, Serialize)]
pub struct StepCounter {
    /// The timer.
    pub timer: Timer,
    /// Its clock.
    pub clock: Tolerance<Frequency>,
    /// Whether that is the part's default, for want of another.
    pub default_clock: bool,
    /// The setting with the longest interval as its period.
    pub setting: Setting,
    /// What is written for it.
    pub registers: Vec<FieldWrite>,
    /// Ticks in a period besides what its top says: what is written is so much less than an interval.
    pub written_less: u32,
    /// The longest period, in ticks.
    pub longest: u64,
    /// The shortest period, in ticks.
    pub shortest: u64,
    /// Whether a new top waits for the end of a period.
    pub buffered: bool,
}

/// Where steps come from.
#[derive(Debug, Clone, PartialEq)]
pub struct StepTimer<'p> {
    /// The timer.
    pub on: TimerUse<'p>,
    /// The channel that makes the step pulse, where one does.
    pub channel: Option<String>,
}

/// A mode with the channel that makes the pulse.
type Carrier<'t> = (&'t Mode, &'t LinearLaw, Option<&'t Channel>);

impl StepCounter {
    /// The finest tick with which the slowest step of a move is no longer than a period.
    ///
    /// # Errors
    /// Names that the part does not have; a clock that is too fast; [`Error::NoMode`] for a timer whose period cannot be
    /// written; [`Error::StepTooLong`]; numbers that do not fit.
    pub(super) fn of(at: &StepTimer<'_>, steps: u64, rates: &StepRates, pulse: Option<Time>) -> Result<Self> {
        at.on.first_that_works(|timer| Self::on(timer, at, steps, rates, pulse))
    }

    fn on(
        owned: Timer,
        at: &StepTimer<'_>,
        steps: u64,
        rates: &StepRates,
        pulse: Option<Time>,
    ) -> Result<Self> {
        let timer = &owned;
        let given = at.on.clock_of(timer)?;
        let clock = given.nominal;
        let (mode, law, channel) = carrier(timer, at.channel.as_deref())?;
        let (smallest, largest) = timer.top_limits(mode)?;
        let shortest = mode.period.ticks(smallest).or_overflow("number of ticks in a period")?;
        let longest = mode.period.ticks(largest).or_overflow("number of ticks in a period")?;
        // An edge is rounded, so that an interval may be a tick longer than the ideal's.
        let room = longest.saturating_sub(1).max(1);
        let (slowest, fineness) = slowest(steps, rates, clock.period()?)?;
        let dividers = Dividers::of(timer)?;
        let scale = 1_u64 << dividers.fraction_bits;
        let wanted = u128::from(slowest) * u128::from(scale);
        let mut index = dividers.at_least(wanted.div_ceil(u128::from(room) * u128::from(fineness)));
        // A division with a fraction would make every interval jitter.
        while index < dividers.len() && dividers.scaled(index) % scale != 0 {
            index += 1;
        }
        if index >= dividers.len() {
            let most = dividers.ends().map(|(_, most)| most).or_overflow("divider")?;
            let longest = most.times(longest.into()).and_then(|clocks| clocks.over(clock.value()));
            let slowest = Rational::from(slowest)
                .over(Rational::from(fineness))
                .and_then(|clocks| clocks.over(clock.value()));
            return Err(Error::StepTooLong {
                timer: timer.path(),
                step: Time::new(slowest.or_overflow("slowest step")?),
                longest: Time::new(longest.or_overflow("period")?),
            });
        }
        let divider = Rational::from(dividers.scaled(index) / scale);
        let tick = Time::new(divider.over(clock.value()).or_overflow("tick")?);
        // The longest interval, which the counter begins with.
        let ideal = Ideal::of(steps, rates, tick)?;
        let first = ideal.nearest(ideal.floor(1)?).clamp(u64::from(mode.period.plus) + 1, longest);
        let compare = |pulse: Time| -> Result<u64> {
            let ticks = pulse.ratio_to(tick)?.ceiling().max(1);
            let parts =
                ticks.checked_mul(law.per_tick.into()).and_then(|ticks| ticks.checked_sub(law.plus.into()));
            let gain = i128::from(law.gain);
            parts.and_then(|parts| u64::try_from((parts + gain - 1) / gain).ok()).or_overflow("pulse")
        };
        let channels = match channel {
            Some(channel) => vec![PlannedChannel {
                label: channel.label.clone(),
                compare: Some(compare(pulse.unwrap_or(tick))?),
                start: 0,
                level: Level::High,
            }],
            None => Vec::new(),
        };
        let plan = RegisterPlan {
            mode: mode.name.clone(),
            dividers: dividers.written(index),
            top: first - u64::from(mode.period.plus),
            channels,
            dead_time: None,
        };
        let (written_less, buffered) = (mode.period.plus, waits(mode));
        let setting = Setting::evaluate(timer, clock, plan)?;
        Ok(Self {
            registers: setting.writes(timer)?,
            setting,
            clock: given,
            default_clock: at.on.clock.is_none(),
            written_less,
            longest,
            shortest,
            buffered,
            timer: owned,
        })
    }

    /// The pulse that the channel makes, where one does.
    pub fn pulse(&self) -> Option<Time> {
        self.setting.outputs.first().map(|output| output.pulse)
    }
}

/// The first mode whose period is written, and in which the pulse stays as long as it is when the period changes; one that
/// takes a new period at its end is better than one that takes it at once.
fn carrier<'t>(timer: &'t Timer, channel: Option<&str>) -> Result<Carrier<'t>> {
    if let Some(label) = channel {
        timer.channel(label)?;
    }
    let mut found: Option<Carrier<'t>> = None;
    let mut reason = NoModeReason::PeriodFixed;
    for mode in &timer.block.modes {
        let CompareLaw::Linear(law) = &mode.compare else { continue };
        let fits = mode.alignment == Alignment::Edge
            && mode.dither.is_none()
            && mode.start.is_none()
            && mode.period.per_top == 1
            && law.gain > 0
            && law.per_top == 0
            && timer.top_slot(mode)?.is_some();
        if !fits {
            continue;
        }
        let free = channel.map(|label| timer.free_channels(mode).find(|free| free.label == label));
        let Some(pulse) = free.map_or(Some(None), |free| free.map(Some)) else {
            reason = NoModeReason::ChannelsTaken;
            continue;
        };
        if found.as_ref().is_none_or(|(other, ..)| !waits(other) && waits(mode)) {
            found = Some((mode, law, pulse));
        }
    }
    found.ok_or_else(|| Error::NoMode { timer: timer.path(), reason: Box::new(reason) })
}

/// Whether a new top waits for the end of a period: in a buffer, or since a counter that counts down looks at it only there.
fn waits(mode: &Mode) -> bool {
    mode.updates.top != UpdatePoint::Immediate || mode.counting == Counting::Down
}

/// The longest interval of a move, in units of which so many are a clock: the first one, and as long the last.
fn slowest(steps: u64, rates: &StepRates, clock: Time) -> Result<(u64, u32)> {
    let ideal = Ideal::of(steps, rates, clock)?;
    let last = ideal.floor(steps)? - ideal.floor(steps - 1)?;
    Ok((ideal.floor(1)?.max(last) + 1, ideal.fineness))
}
