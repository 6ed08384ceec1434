//! From a target to settings, ranked and explained.

use serde::Serialize;

use super::candidates::{Candidate, Frame, Search};
use super::channels::{ModeChannels, fitting_modes, no_mode, span_channel};
use super::exact_top;
use super::findings;
use super::fit::{RankedSetting, ranked};
use super::rank::Prefer;
use super::reach;
use super::reasons::{advantages, because, worth_a_look};
use super::window::Window;
use crate::error::OrOverflow;
use crate::error::{ClockTooFast, Error, NoModeReason, Result};
use crate::finding::{Finding, SettingsLeftOut};
use crate::limits;
use crate::part::first_that_works;
use crate::part::{Channel, CompareLaw, Mode, Part, Timer};
use crate::quantity::{Frequency, Rational, Tolerance};
use crate::setting::ClockError;
use crate::setting::Setting;
use crate::setting::active::Wanted;
use crate::setting::divider::Dividers;
use crate::signal::{Aim, Target};

/// What to derive, and how.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct DeriveRequest {
    /// The timer's name.
    pub timer: String,
    /// The base counter's name; where none is given, the first that can make the target.
    pub base: Option<String>,
    /// The channel that the first unnamed signal goes to.
    pub channel: Option<String>,
    /// The source clock; the part's default where none is given.
    pub clock: Option<Tolerance<Frequency>>,
    /// The signal.
    pub target: Target,
    /// A mode's name, or an alignment, to insist on.
    pub mode: Option<String>,
    /// What leads instead of the score.
    pub prefer: Option<Prefer>,
    /// Whether only modes that dither are wanted; otherwise none of them is.
    pub dither: bool,
    /// Whether every setting within the tolerance is wanted.
    pub all: bool,
    /// Whether a clock above the timer's maximum is accepted.
    pub allow_overclock: bool,
}

impl DeriveRequest {
    /// The same from the frequency that the clock really has, which is not asked whether it may have that.
    pub fn with_real_clock(&self, clock: Tolerance<Frequency>) -> Self {
        Self { clock: Some(clock), allow_overclock: true, ..self.clone() }
    }

    /// A target on a timer, with nothing insisted on.
    pub const fn plain(
        timer: String,
        channel: Option<String>,
        clock: Option<Tolerance<Frequency>>,
        target: Target,
    ) -> Self {
        Self {
            timer,
            base: None,
            channel,
            clock,
            target,
            mode: None,
            prefer: None,
            dither: false,
            all: false,
            allow_overclock: false,
        }
    }
}

/// The settings for a target.
#[derive(Debug, Clone, PartialEq, Serialize)]
pub struct Derivation {
    /// The timer.
    pub timer: Timer,
    /// The source clock.
    pub clock: Tolerance<Frequency>,
    /// Whether that is the part's default, for want of another.
    pub default_clock: bool,
    /// What was wanted.
    pub target: Target,
    /// The leading setting.
    pub best: RankedSetting,
    /// Why it leads.
    pub because: String,
    /// What the clock's tolerance adds, where it has one.
    pub clock_error: Option<ClockError>,
    /// Other settings: those worth a look, or all.
    pub others: Vec<RankedSetting>,
    /// What is or may be wrong.
    #[serde(skip)]
    pub findings: Vec<Finding>,
}

/// Finds the settings of a timer of `part` for a target.
///
/// # Errors
/// Names that the part does not have; everything that [`Target::checked`] finds wrong; a clock that is too fast; a
/// mode, channel or inversion that the timer does not have; and [`Error::Unreachable`] for a frequency outside what
/// the timer can make.
pub fn derive(part: &Part, request: &DeriveRequest) -> Result<Derivation> {
    let target = request.target.clone().checked()?;
    first_that_works(part, &request.timer, request.base.as_deref(), |timer| {
        derive_on(timer, request, target.clone())
    })
    .map_err(|error| reach::with_other_timers(part, &request.timer, error))
}

/// The leading setting alone, for whoever compares many timers.
///
/// # Errors
/// As [`derive()`], but without the timers that would reach a frequency out of reach.
pub(crate) fn leading(part: &Part, request: &DeriveRequest) -> Result<(Timer, RankedSetting)> {
    let target = request.target.clone().checked()?;
    first_that_works(part, &request.timer, request.base.as_deref(), |timer| {
        let searched = Searched::of(&timer, request, &target)?;
        let best = searched.choose(&timer, request, &target, searched.leading(&timer)?)?;
        Ok((timer, best))
    })
}

/// A search that has been made.
struct Searched<'t> {
    given: Tolerance<Frequency>,
    modes: Vec<ModeChannels<'t>>,
    search: Search,
    found: Vec<Candidate>,
}

impl<'t> Searched<'t> {
    fn of(timer: &'t Timer, request: &DeriveRequest, target: &Target) -> Result<Self> {
        let given = request.clock.map_or_else(|| timer.default_clock(), Ok)?;
        let clock = given.nominal.positive()?;
        check_clock(timer, clock, request.allow_overclock)?;
        let wanted = target.wanted_frequency()?;
        let modes = fitting_modes(timer, request, target)?;

        let mut frames = Vec::new();
        for (index, mode, channels) in &modes {
            frames.push(frame(timer, request, target, clock, *index, mode, channels)?);
        }
        let search = search(timer, request, target, clock)?;
        let found = search.run(&frames);
        let listed: Vec<&Mode> = modes.iter().map(|(_, mode, _)| *mode).collect();
        let reached = found.as_ref().is_ok_and(|found| found.first().is_some_and(|best| best.within));
        // A frequency so far away that the search cannot count with it is out of reach too, and that says more.
        if !reached
            && !matches!(target.aim, Aim::Window(_))
            && let Some(reason) = reach::unreachable(timer, &listed, clock, wanted)?
        {
            return Err(Error::Unreachable(Box::new(reason)));
        }
        Ok(Self { given, modes, search, found: found? })
    }

    fn leading(&self, timer: &Timer) -> Result<&Candidate> {
        self.found.first().ok_or_else(|| no_mode(timer, NoModeReason::NothingInWindow))
    }

    fn choose(
        &self,
        timer: &Timer,
        request: &DeriveRequest,
        target: &Target,
        candidate: &Candidate,
    ) -> Result<RankedSetting> {
        let channels =
            self.modes.iter().find(|(index, ..)| *index == candidate.mode).map(|(_, _, channels)| channels);
        let channels = channels.map_or(&[][..], Vec::as_slice);
        let clock = self.given.nominal;
        ranked(timer, &self.search, clock, target, candidate, channels, request.channel.as_deref())
    }

    /// The best setting within the tolerance that has a property: among the leading ones, else of each mode by itself,
    /// since those that lead crowd out modes with fewer steps.
    fn reaching(
        &self,
        timer: &Timer,
        request: &DeriveRequest,
        target: &Target,
        property: fn(&Setting) -> bool,
    ) -> Result<Option<Setting>> {
        let first = |candidates: &[Candidate]| -> Result<Option<RankedSetting>> {
            for candidate in candidates.iter().filter(|candidate| candidate.within).take(64) {
                let choice = self.choose(timer, request, target, candidate)?;
                if property(&choice.setting) {
                    return Ok(Some(choice));
                }
            }
            Ok(None)
        };
        let mut best = first(&self.found)?;
        if best.is_none() {
            for (index, mode, channels) in &self.modes {
                let frame = frame(timer, request, target, self.given.nominal, *index, mode, channels)?;
                let found = first(&self.search.run(&[frame])?)?;
                let better =
                    |one: &RankedSetting| best.as_ref().is_none_or(|best| one.fit.score > best.fit.score);
                best = found.filter(better).or(best);
            }
        }
        Ok(best.map(|choice| choice.setting))
    }
}

fn derive_on(owned: Timer, request: &DeriveRequest, target: Target) -> Result<Derivation> {
    let timer = &owned;
    let searched = Searched::of(timer, request, &target)?;
    let (given, found) = (searched.given, &searched.found);
    let choose = |candidate: &Candidate| searched.choose(timer, request, &target, candidate);
    let leading = searched.leading(timer)?;
    let best = choose(leading)?;
    let others: Vec<&Candidate> = if request.all {
        found.iter().skip(1).filter(|candidate| candidate.within || !leading.within).collect()
    } else {
        worth_a_look(found)
    };
    // The leading one is a row as well.
    let shown = (limits::SETTINGS.most - 1) as usize;
    let left_out = others.len().saturating_sub(shown) as u64;
    let others = others
        .into_iter()
        .take(shown)
        .map(|candidate| {
            let better = advantages(candidate, leading);
            choose(candidate).map(|choice| RankedSetting { better, ..choice })
        })
        .collect::<Result<Vec<_>>>()?;
    let because = because(request, &target, leading, found);
    let reaching = |end: fn(&Setting) -> bool| searched.reaching(timer, request, &target, end);
    let mut findings = findings::of_derivation(timer, &target, &best, reaching)?;
    findings.extend(
        (left_out > 0).then(|| SettingsLeftOut { shown: limits::SETTINGS.most, omitted: left_out }.into()),
    );
    Ok(Derivation {
        clock: given,
        default_clock: request.clock.is_none(),
        target,
        clock_error: ClockError::of(&best.setting, given.deviation)?,
        best,
        because,
        others,
        findings,
        timer: owned,
    })
}

/// Refuses a clock above the timer's maximum.
pub(crate) fn check_clock(timer: &Timer, clock: Frequency, allowed: bool) -> Result<()> {
    if allowed || clock <= timer.clock.maximum {
        return Ok(());
    }
    Err(Error::ClockTooFast(Box::new(ClockTooFast {
        clock,
        maximum: timer.clock.maximum,
        title: timer.clock.title.clone(),
        doubt: crate::setting::findings::clock_doubt(timer).map(ToOwned::to_owned),
    })))
}

fn frame<'t>(
    timer: &Timer,
    request: &DeriveRequest,
    target: &Target,
    clock: Frequency,
    index: usize,
    mode: &'t Mode,
    channels: &[&Channel],
) -> Result<Frame<'t>> {
    let clock = clock.value();
    let mut signals = Vec::new();
    for (ask, channel) in target.asks.iter().zip(channels) {
        signals.push((Wanted::of(ask.active, clock)?, timer.compare_limit(mode, channel)?));
    }
    let span = match target.span {
        None => None,
        Some(span) => {
            let channel = span_channel(timer, request.channel.as_deref(), mode, channels)?;
            let limit = timer.compare_limit(mode, channel)?;
            Some((Wanted::of(span.low(), clock)?, Wanted::of(span.high(), clock)?, limit))
        }
    };
    let fraction_bits = Dividers::fraction_bits_of(timer) + mode.dither_bits();
    let multiple = match &mode.compare {
        CompareLaw::Linear(law) => exact_top::least_multiple(law, signals.iter().map(|(wanted, _)| wanted)),
        CompareLaw::Toggle => None,
    };
    Ok(Frame { index, mode, fraction_bits, tops: timer.top_limits(mode)?, signals, span, multiple })
}

fn search(timer: &Timer, request: &DeriveRequest, target: &Target, clock: Frequency) -> Result<Search> {
    let clock = clock.value();
    let clocks =
        clock.over(target.wanted_frequency()?.value()).or_overflow("number of source clocks in a period")?;
    let clock_ns = Rational::from(1_000_000_000_u32).over(clock).or_overflow("source clock's period")?;
    let fraction = |value: Rational| (value.numerator().unsigned_abs(), value.denominator().unsigned_abs());
    let (clocks, clocks_scale) = fraction(clocks);
    Ok(Search {
        dividers: Dividers::of(timer)?,
        clocks,
        clocks_scale,
        within: fraction(target.within.value()),
        clock_ns: fraction(clock_ns),
        prefer: request.prefer,
        all: request.all,
        min_steps: target.min_steps,
        window: match target.aim {
            Aim::Window(window) => {
                let clocks = |frequency: Frequency| {
                    clock
                        .over(frequency.value())
                        .map(fraction)
                        .or_overflow("number of source clocks in a period")
                };
                Some(Window { shortest: clocks(window.high)?, longest: clocks(window.low)? })
            }
            _ => None,
        },
    })
}
