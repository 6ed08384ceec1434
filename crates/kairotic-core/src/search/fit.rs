//! How a setting fits a target.

use serde::Serialize;

use super::candidate::Candidate;
use super::candidates::Search;
use super::channels::{no_mode, span_channel};
use crate::error::{NoModeReason, OrOverflow, Result};
use crate::part::{Channel, CompareLaw, Mode, StartLaw, Timer};
use crate::quantity::{Deviation, Frequency, Range, Rational, Time};
use crate::setting::active::{self, Ruler, Wanted};
use crate::setting::{FieldWrite, PlannedChannel, RegisterPlan, Setting, ruler};
use crate::target::{Active, Aim, Span, Target};

/// A setting and how it fits the target.
#[derive(Debug, Clone, PartialEq, Serialize)]
pub struct RankedSetting {
    /// The setting.
    #[serde(flatten)]
    pub setting: Setting,
    /// What is written for it.
    pub registers: Vec<FieldWrite>,
    /// How it fits.
    #[serde(flatten)]
    pub fit: Fit,
    /// What it is better at than the leading setting.
    pub better: Vec<&'static str>,
}

/// How a setting fits a target.
#[derive(Debug, Clone, PartialEq, Serialize)]
pub struct Fit {
    /// Realised over wanted frequency, less one.
    pub frequency_error: Deviation,
    /// Whether the frequency is met, in a whole number of source clocks.
    pub frequency_exact: bool,
    /// Whether the frequency is within the tolerance.
    pub within: bool,
    /// The window, where any frequency in it will do.
    pub window: Option<Range<Frequency>>,
    /// How much longer the dead time is than wanted, where one was.
    pub dead_time_error: Option<Time>,
    /// The signals, in the order of the setting's outputs.
    pub signals: Vec<FitOf>,
    /// The used span.
    pub span: Option<SpanFit>,
    /// The score by which it was ranked.
    pub score: f64,
    /// Digits of the tick in nanoseconds, trailing zeros not counted, where it is whole.
    pub tick_digits: Option<u32>,
}

/// How one signal fits.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
pub struct FitOf {
    /// What was wanted.
    pub wanted: Active,
    /// Realised less wanted, in the same terms.
    pub error: Active,
    /// Whether it is met, in a whole number of source clocks.
    pub exact: bool,
    /// Realised less wanted start, where one was wanted.
    pub start_error: Option<Time>,
}

/// How the used span fits.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
pub struct SpanFit {
    /// The span.
    pub span: Span,
    /// The compare value nearest to its lower end.
    pub low: u64,
    /// The compare value nearest to its higher end.
    pub high: u64,
    /// The exact compare values of its ends, which need not be whole.
    pub exact: [Rational; 2],
    /// Compare values inside it, less one.
    pub steps: u64,
}

impl RankedSetting {
    /// Steps that count: in the span if there is one, else in the whole period.
    pub fn steps(&self) -> u64 {
        self.fit.span.as_ref().map_or(self.setting.steps, |span| span.steps)
    }

    /// Whether every wanted signal is met.
    pub fn signals_exact(&self) -> bool {
        self.fit.signals.iter().all(|signal| signal.exact)
    }
}

/// A candidate of the search, realised and held against the target. `asked` is the channel that was named with the
/// timer.
pub(crate) fn ranked(
    timer: &Timer,
    search: &Search,
    clock: Frequency,
    target: &Target,
    candidate: &Candidate,
    channels: &[&Channel],
) -> Result<RankedSetting> {
    let mode = timer.block.modes.get(candidate.mode).ok_or_else(|| no_mode(timer, NoModeReason::Gone))?;
    let scale = 1_i128 << search.dividers.fraction_bits;
    let divider = Rational::new(candidate.scaled.into(), scale).or_overflow("divider")?;
    let ticks = mode.period.ticks(candidate.top).or_overflow("number of ticks in a period")?;
    let ruler = ruler(divider, mode.dither_bits(), candidate.top, ticks)?;
    let nearest = |active: Active, channel: &Channel| -> Result<Option<active::Nearest>> {
        let CompareLaw::Linear(law) = &mode.compare else { return Ok(None) };
        let limit = timer.compare_limit(mode, channel)?;
        active::nearest(law, limit, ruler, Wanted::of(active, clock.value())?)
            .or_overflow("compare value")
            .map(Some)
    };
    let mut planned = Vec::new();
    let mut exact = Vec::new();
    for (ask, channel) in target.asks.iter().zip(channels) {
        let found = nearest(ask.active, channel)?;
        exact.push(found.map_or(candidate.signals_exact, |found| found.exact));
        // A toggling output does not care where its compare value is, as long as it is met.
        let compare = found.map_or(0, |found| found.compare);
        let compare = (!mode.has_top_in(channel)).then_some(compare);
        let start = match (ask.start, &mode.start) {
            (Some(start), Some(law)) => start_tick(start, law, ruler, clock, compare.unwrap_or(0))?,
            _ => 0,
        };
        planned.push(PlannedChannel { label: channel.label.clone(), compare, start, level: target.level });
    }
    let plan = RegisterPlan {
        mode: mode.name.clone(),
        dividers: search.dividers.written(candidate.division),
        top: candidate.top,
        channels: planned,
        dead_time: None,
    };
    let plan = match target.dead_time {
        None => plan,
        Some(wanted) => {
            let tick = Time::new(divider.over(clock.value()).or_overflow("tick")?);
            let dead_time = crate::setting::dead_time::plan(timer, &plan.channels, clock, tick, wanted)?;
            RegisterPlan { dead_time: Some(dead_time), ..plan }
        }
    };
    let setting = Setting::evaluate(timer, clock, plan)?;
    let window = match target.aim {
        Aim::Window(window) => Some(window),
        _ => None,
    };
    // In a window every frequency is as good as another.
    let wanted = if window.is_some() { setting.frequency } else { target.wanted_frequency()? };
    let frequency_error = setting.frequency.relative_to(wanted)?;
    let dead_time_error = match (target.dead_time, setting.dead_time) {
        (Some(wanted), Some(realised)) => Some(realised.less(wanted)?),
        _ => None,
    };
    let mut signals = Vec::new();
    for ((ask, output), exact) in target.asks.iter().zip(&setting.outputs).zip(exact) {
        let error = match ask.active {
            Active::Duty(duty) => Active::Duty(output.duty.less(duty)?),
            Active::Pulse(pulse) => Active::Pulse(output.pulse.less(pulse)?),
        };
        let start_error = match (ask.start, output.start) {
            (Some(wanted), Some(realised)) => {
                let wanted = match wanted {
                    Active::Pulse(time) => time,
                    Active::Duty(share) => share.of(setting.period)?,
                };
                Some(realised.less(wanted)?)
            }
            _ => None,
        };
        signals.push(FitOf { wanted: ask.active, error, exact, start_error });
    }
    let span = match target.span {
        None => None,
        Some(span) => {
            let channel = span_channel(timer, target.channel.as_deref(), mode, channels)?;
            let end = |active| -> Result<(u64, Rational)> {
                let Some(compare) = nearest(active, channel)?.map(|nearest| nearest.compare) else {
                    return Ok((0, Rational::ZERO));
                };
                Ok((compare, exact_end(mode, ruler, Wanted::of(active, clock.value())?, compare)?))
            };
            let ((low, exact_low), (high, exact_high)) = (end(span.low())?, end(span.high())?);
            Some(SpanFit { span, low, high, exact: [exact_low, exact_high], steps: candidate.steps })
        }
    };
    let steps = (candidate.steps as f64).log2();
    let bonus = [candidate.frequency_exact, candidate.signals_exact, candidate.usual];
    Ok(RankedSetting {
        fit: Fit {
            frequency_error,
            frequency_exact: candidate.frequency_exact,
            within: candidate.within,
            window,
            dead_time_error,
            signals,
            span,
            score: steps - 1.0 + bonus.iter().filter(|held| **held).count() as f64,
            tick_digits: (candidate.tick_digits != u32::MAX).then_some(candidate.tick_digits),
        },
        registers: setting.writes(timer)?,
        setting,
        better: Vec::new(),
    })
}

/// The exact compare value of an end of the span, whose nearest one is `compare`; that one where the end is out of reach.
fn exact_end(mode: &Mode, ruler: Ruler, wanted: Wanted, compare: u64) -> Result<Rational> {
    let reached = Rational::from(compare);
    let CompareLaw::Linear(law) = &mode.compare else { return Ok(reached) };
    let exact = active::exact(law, ruler, wanted).or_overflow("compare value")?;
    let off = exact.minus(reached).or_overflow("compare value")?.magnitude();
    let near = Rational::new(1, 2).is_some_and(|half| off <= half);
    Ok(if near && exact >= Rational::ZERO { exact } else { reached })
}

/// The tick nearest to a wanted start; halves go to the earlier one. A pulse that may not run on into the next period
/// starts early enough to end in this one.
fn start_tick(start: Active, law: &StartLaw, ruler: Ruler, clock: Frequency, compare: u64) -> Result<u64> {
    let scale = Rational::new(1_i128 << ruler.fraction_bits, 1).or_overflow("start")?;
    let ticks = match start {
        Active::Duty(share) => share.value().times(ruler.ticks.into()),
        Active::Pulse(time) => time
            .value()
            .times(clock.value())
            .and_then(|clocks| clocks.times(scale))
            .and_then(|clocks| clocks.over(ruler.scaled.into())),
    };
    let half = Rational::new(1, 2).or_overflow("start")?;
    let rounded = Rational::ZERO.minus(ticks.and_then(|ticks| half.minus(ticks)).or_overflow("start")?);
    let rounded = rounded.or_overflow("start")?;
    // ceil(ticks - 1/2)
    let tick = rounded.ceiling();
    let tick = u64::try_from(tick.max(0)).ok().or_overflow("start")?;
    Ok(if law.wraps { tick % ruler.ticks.max(1) } else { tick.min(ruler.ticks.saturating_sub(compare)) })
}
