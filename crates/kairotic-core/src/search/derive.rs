//! From a target to settings, ranked and explained.

use serde::Serialize;

use super::candidate::Candidate;
use super::candidates::window::PeriodWindow;
use super::candidates::{Frame, Search};
use super::channels::{ModeChannels, fitting_modes, no_mode, span_channel};
use super::fit::{RankedSetting, ranked};
use super::rank::Prefer;
use super::reasons::{advantages, because, worth_a_look};
use super::{exact_top, findings, reach};
use crate::error::{Error, NoModeReason, OrOverflow, Result};
use crate::finding::{Finding, SettingsLeftOut};
use crate::limits;
use crate::part::{Channel, CompareLaw, Mode, Timer, TimerUse};
use crate::quantity::{Frequency, Rational, Tolerance};
use crate::setting::active::Wanted;
use crate::setting::divider::Dividers;
use crate::setting::{ClockError, Setting};
use crate::target::{Aim, CounterSetting, Target};

/// How settings are searched.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq)]
pub struct SearchOptions {
    /// What leads instead of the score.
    pub prefer: Option<Prefer>,
    /// Whether only modes that dither are wanted; otherwise none of them is.
    pub dither: bool,
    /// Whether every setting within the tolerance is wanted, and not only those worth a look.
    pub all: bool,
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

/// Finds the settings of a timer for a target, the best of them ranked by score.
///
/// # Errors
/// Names that the part does not have; everything that [`Target::checked`] finds wrong; a clock that is too fast; a
/// mode, channel or inversion that the timer does not have; and [`Error::Unreachable`] for a frequency outside what
/// the timer can make.
pub fn derive(on: &TimerUse<'_>, target: &Target) -> Result<Derivation> {
    derive_with(on, target, SearchOptions::default())
}

/// The same, with something else in the lead, with dither, or with every setting.
///
/// # Errors
/// As [`derive()`].
pub fn derive_with(on: &TimerUse<'_>, target: &Target, options: SearchOptions) -> Result<Derivation> {
    let target = target.clone().checked()?;
    on.first_that_works(|timer| {
        let request = Request { on, target: &target, options };
        derive_on(timer, request)
    })
    .map_err(|error| reach::with_other_timers(on.part, &on.timer, error))
}

/// The leading setting alone, for whoever compares many timers.
///
/// # Errors
/// As [`derive()`], but without the timers that would reach a frequency out of reach.
pub(crate) fn leading(
    on: &TimerUse<'_>,
    target: &Target,
    options: SearchOptions,
) -> Result<(Timer, RankedSetting)> {
    let target = target.clone().checked()?;
    on.first_that_works(|timer| {
        let searched = Searched::of(&timer, Request { on, target: &target, options })?;
        let best = searched.choose(searched.leading()?)?;
        Ok((timer, best))
    })
}

/// The settings that a search keeps, the best first, as far as their counters go.
pub(super) fn counters(on: &TimerUse<'_>, target: &Target) -> Result<Vec<CounterSetting>> {
    let target = target.clone().checked()?;
    on.first_that_works(|timer| {
        let options = SearchOptions::default();
        let searched = Searched::of(&timer, Request { on, target: &target, options })?;
        searched.leading()?;
        let scale = 1_i128 << searched.search.dividers.fraction_bits;
        let counter = |candidate: &Candidate| {
            let mode = timer.block.modes.get(candidate.mode)?.name.clone();
            let divider = Rational::new(candidate.scaled.into(), scale)?;
            Some(CounterSetting { base: base_of(&timer), mode, divider, top: candidate.top })
        };
        Ok(searched.found.iter().filter_map(counter).collect())
    })
}

/// The name of the base counter of a view.
pub(super) fn base_of(timer: &Timer) -> Option<String> {
    timer.base.as_ref().map(|base| base.name.clone())
}

/// What is searched for on one view of a timer.
#[derive(Clone, Copy)]
struct Request<'r> {
    on: &'r TimerUse<'r>,
    target: &'r Target,
    options: SearchOptions,
}

/// A search that has been made.
struct Searched<'t> {
    timer: &'t Timer,
    request: Request<'t>,
    given: Tolerance<Frequency>,
    modes: Vec<ModeChannels<'t>>,
    search: Search,
    found: Vec<Candidate>,
}

impl<'t> Searched<'t> {
    fn of(timer: &'t Timer, request: Request<'t>) -> Result<Self> {
        let target = request.target;
        let given = request.on.clock_of(timer)?;
        let wanted = target.wanted_frequency()?;
        let modes = fitting_modes(timer, target, request.options.dither)?;

        let mut frames = Vec::new();
        for (index, mode, channels) in &modes {
            frames.push(frame(timer, target, given.nominal, *index, mode, channels)?);
        }
        let search = search(timer, request, given.nominal)?;
        let found = match &target.counter {
            Some(counter) => settled(timer, &search, &frames, counter),
            None => search.run(&frames),
        };
        let listed: Vec<&Mode> = modes.iter().map(|(_, mode, _)| *mode).collect();
        let reached = found.as_ref().is_ok_and(|found| found.first().is_some_and(|best| best.within));
        // A frequency so far away that the search cannot count with it is out of reach too, and that says more.
        if !reached
            && target.counter.is_none()
            && !matches!(target.aim, Aim::Window(_))
            && let Some(reason) = reach::unreachable(timer, &listed, given.nominal, wanted)?
        {
            return Err(Error::Unreachable(Box::new(reason)));
        }
        Ok(Self { timer, request, given, modes, search, found: found? })
    }

    fn leading(&self) -> Result<&Candidate> {
        self.found.first().ok_or_else(|| no_mode(self.timer, NoModeReason::NothingInWindow))
    }

    fn choose(&self, candidate: &Candidate) -> Result<RankedSetting> {
        let channels =
            self.modes.iter().find(|(index, ..)| *index == candidate.mode).map(|(_, _, channels)| channels);
        let channels = channels.map_or(&[][..], Vec::as_slice);
        ranked(self.timer, &self.search, self.given.nominal, self.request.target, candidate, channels)
    }

    /// The best setting within the tolerance that has a property: among the leading ones, else of each mode by itself,
    /// since those that lead crowd out modes with fewer steps.
    fn reaching(&self, property: fn(&Setting) -> bool) -> Result<Option<Setting>> {
        let first = |candidates: &[Candidate]| -> Result<Option<RankedSetting>> {
            for candidate in candidates.iter().filter(|candidate| candidate.within).take(64) {
                let choice = self.choose(candidate)?;
                if property(&choice.setting) {
                    return Ok(Some(choice));
                }
            }
            Ok(None)
        };
        let mut best = first(&self.found)?;
        if best.is_none() {
            for (index, mode, channels) in &self.modes {
                let target = self.request.target;
                let frame = frame(self.timer, target, self.given.nominal, *index, mode, channels)?;
                if self.request.target.counter.is_some() {
                    continue;
                }
                let found = first(&self.search.run(&[frame])?)?;
                let better =
                    |one: &RankedSetting| best.as_ref().is_none_or(|best| one.fit.score > best.fit.score);
                best = found.filter(better).or(best);
            }
        }
        Ok(best.map(|choice| choice.setting))
    }
}

/// The one candidate that a settled counter leaves; none where the timer does not count like that.
fn settled(
    timer: &Timer,
    search: &Search,
    frames: &[Frame<'_>],
    counter: &CounterSetting,
) -> Result<Vec<Candidate>> {
    let scale = Rational::new(1 << search.dividers.fraction_bits, 1).or_overflow("divider")?;
    let scaled = counter.divider.times(scale).or_overflow("divider")?;
    let scaled = u64::try_from(scaled.ceiling()).ok().or_overflow("divider")?;
    let fits = |frame: &&Frame<'_>| {
        let (least, most) = frame.tops;
        frame.mode.name == counter.mode && (least..=most).contains(&counter.top)
    };
    let frame = frames.iter().find(fits).filter(|_| base_of(timer) == counter.base);
    let here = frame.zip(search.dividers.exactly(scaled));
    let (frame, division) = here.ok_or_else(|| no_mode(timer, NoModeReason::CounterSettled))?;
    let judged = match search.window {
        Some(_) => search.inside(frame, division, counter.top)?,
        None => search.judge(frame, division, counter.top)?,
    };
    Ok(vec![judged])
}

fn derive_on(owned: Timer, request: Request<'_>) -> Result<Derivation> {
    let (target, options) = (request.target, request.options);
    let searched = Searched::of(&owned, request)?;
    let (given, found) = (searched.given, &searched.found);
    let leading = searched.leading()?;
    let best = searched.choose(leading)?;
    let others: Vec<&Candidate> = if options.all {
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
            searched.choose(candidate).map(|choice| RankedSetting { better, ..choice })
        })
        .collect::<Result<Vec<_>>>()?;
    let because = because(options.prefer, target, leading, found);
    let reaching = |end: fn(&Setting) -> bool| searched.reaching(end);
    let mut findings = findings::of_derivation(&owned, target, &best, reaching)?;
    findings.extend(
        (left_out > 0).then(|| SettingsLeftOut { shown: limits::SETTINGS.most, omitted: left_out }.into()),
    );
    Ok(Derivation {
        clock: given,
        default_clock: request.on.clock.is_none(),
        target: target.clone(),
        clock_error: ClockError::of(&best.setting, given.deviation)?,
        best,
        because,
        others,
        findings,
        timer: owned.clone(),
    })
}

fn frame<'t>(
    timer: &Timer,
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
            let channel = span_channel(timer, target.channel.as_deref(), mode, channels)?;
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

fn search(timer: &Timer, Request { target, options, .. }: Request<'_>, clock: Frequency) -> Result<Search> {
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
        prefer: options.prefer,
        all: options.all,
        min_steps: target.min_steps,
        window: match target.aim {
            Aim::Window(window) => {
                let clocks = |frequency: Frequency| {
                    clock
                        .over(frequency.value())
                        .map(fraction)
                        .or_overflow("number of source clocks in a period")
                };
                Some(PeriodWindow { shortest: clocks(window.high)?, longest: clocks(window.low)? })
            }
            _ => None,
        },
    })
}
