//! From a target to settings, ranked and explained.

use std::cmp::Reverse;

use super::active::{self, Wanted};
use super::divider::Dividers;
use super::evidence::is_top;
use super::findings;
use super::rank::Prefer;
use super::reach;
use super::realise::{Plan, PlannedChannel, Setting, find_mode, ruler};
use super::search::{Candidate, Frame, Search};
use super::target::{Active, Ask, Level, Span, Target};
use super::timing::ClockError;
use super::view::first_that_works;
use super::working::{self, Line};
use super::write::can_invert;
use crate::error::{Error, Result};
use crate::finding::Finding;
use crate::part::{Channel, CompareLaw, Mode, Part, Timer};
use crate::quantity::{Deviation, Duty, Frequency, OrOverflow, Rational, Time, Tolerance};

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
    /// Whether every setting within the tolerance is wanted.
    pub all: bool,
    /// Whether a clock above the timer's maximum is accepted.
    pub allow_overclock: bool,
}

/// The settings for a target.
#[derive(Debug, Clone, PartialEq)]
pub struct Derivation {
    /// The timer.
    pub timer: Timer,
    /// The source clock.
    pub clock: Tolerance<Frequency>,
    /// What was wanted.
    pub target: Target,
    /// The leading setting.
    pub best: Choice,
    /// Why it leads.
    pub because: String,
    /// What the clock's tolerance adds, where it has one.
    pub clock_error: Option<ClockError>,
    /// Other settings: those worth a look, or all.
    pub others: Vec<Choice>,
    /// What is or may be wrong.
    pub findings: Vec<Finding>,
}

/// A setting and how it fits the target.
#[derive(Debug, Clone, PartialEq)]
pub struct Choice {
    /// The setting.
    pub setting: Setting,
    /// How it fits.
    pub fit: Fit,
    /// What it is better at than the leading setting.
    pub better: Vec<&'static str>,
}

/// How a setting fits a target.
#[derive(Debug, Clone, PartialEq)]
pub struct Fit {
    /// Realised over wanted frequency, less one.
    pub frequency_error: Deviation,
    /// Whether the frequency is met, in a whole number of source clocks.
    pub frequency_exact: bool,
    /// Whether the frequency is within the tolerance.
    pub within: bool,
    /// The signals, in the order of the setting's outputs.
    pub signals: Vec<FitOf>,
    /// The used span.
    pub span: Option<SpanFit>,
    /// The score by which it was ranked.
    pub score: f64,
    /// Digits of the tick in nanoseconds, trailing noughts not counted, where it is whole.
    pub tick_digits: Option<u32>,
}

/// How one signal fits.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct FitOf {
    /// What was wanted.
    pub wanted: Active,
    /// Realised less wanted, in the same terms.
    pub error: Active,
    /// Whether it is met, in a whole number of source clocks.
    pub exact: bool,
}

/// How the used span fits.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct SpanFit {
    /// The span.
    pub span: Span,
    /// The compare value nearest to its lower end.
    pub low: u64,
    /// The compare value nearest to its higher end.
    pub high: u64,
    /// Compare values inside it, less one.
    pub steps: u64,
}

impl Derivation {
    /// The arithmetic of the leading setting, line by line.
    ///
    /// # Errors
    /// [`Error::Overflow`].
    pub fn working(&self) -> Result<Vec<Line>> {
        working::derivation(&self.timer, &self.target, self.clock.nominal, &self.best)
    }
}

impl Choice {
    /// Steps that count: in the span if there is one, else in the whole period.
    pub fn steps(&self) -> u64 {
        self.fit.span.as_ref().map_or(self.setting.steps, |span| span.steps)
    }

    /// Whether every wanted signal is met.
    pub fn signals_exact(&self) -> bool {
        self.fit.signals.iter().all(|signal| signal.exact)
    }
}

/// Finds the settings of a timer of `part` for a target.
///
/// # Errors
/// Names that the part does not have; everything that [`Target::checked`] finds wrong; a clock that is too fast; a mode, channel or inversion that the timer
/// does not have; and [`Error::Unreachable`] for a frequency outside what the timer can make.
pub fn derive(part: &Part, request: &DeriveRequest) -> Result<Derivation> {
    let target = request.target.clone().checked()?;
    first_that_works(part, &request.timer, request.base.as_deref(), |timer| {
        derive_on(part, timer, request, target.clone())
    })
}

fn derive_on(part: &Part, owned: Timer, request: &DeriveRequest, target: Target) -> Result<Derivation> {
    let timer = &owned;
    let given = request.clock.unwrap_or_else(|| timer.default_clock());
    let clock = given.nominal.positive()?;
    check_clock(timer, clock, request.allow_overclock)?;
    let wanted = target.frequency()?;
    let modes = fitting_modes(timer, request, &target)?;

    let mut frames = Vec::new();
    for (index, mode, channels) in &modes {
        frames.push(frame(timer, request, &target, clock, *index, mode, channels)?);
    }
    let search = search(timer, request, &target, clock)?;
    let found = search.run(&frames);
    let listed: Vec<&Mode> = modes.iter().map(|(_, mode, _)| *mode).collect();
    let reached = found.as_ref().is_ok_and(|found| found.first().is_some_and(|best| best.within));
    // A frequency so far away that the search cannot count with it is out of reach too, and that says more.
    if !reached && let Some(reason) = reach::unreachable(part, timer, &listed, clock, wanted)? {
        return Err(Error::Unreachable(Box::new(reason)));
    }
    let found = found?;

    let choose = |candidate: &Candidate| -> Result<Choice> {
        let channels =
            modes.iter().find(|(index, ..)| *index == candidate.mode).map(|(_, _, channels)| channels);
        choice(timer, &search, clock, &target, candidate, channels.map_or(&[][..], Vec::as_slice))
    };
    let leading = found.first().ok_or_else(|| no_mode(timer, "there is none at all", ""))?;
    let best = choose(leading)?;
    let others = if request.all {
        found.iter().skip(1).filter(|candidate| candidate.within || !leading.within).collect()
    } else {
        worth_a_look(&found)
    };
    let others = others
        .into_iter()
        .map(|candidate| {
            let better = advantages(candidate, leading);
            choose(candidate).map(|choice| Choice { better, ..choice })
        })
        .collect::<Result<Vec<_>>>()?;
    let because = because(request, &target, leading, &found);
    let reaching = |end: fn(&Setting) -> bool| -> Result<Option<Setting>> {
        // The remedy for an end out of reach: the best setting that has it, looked for among the leading ones.
        for candidate in found.iter().filter(|candidate| candidate.within).take(64) {
            let setting = choose(candidate)?.setting;
            if end(&setting) {
                return Ok(Some(setting));
            }
        }
        Ok(None)
    };
    let findings = findings::of_derivation(timer, &target, &best, reaching)?;
    Ok(Derivation {
        clock: given,
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
pub(super) fn check_clock(timer: &Timer, clock: Frequency, allowed: bool) -> Result<()> {
    if allowed || clock <= timer.clock.maximum {
        return Ok(());
    }
    Err(Error::ClockTooFast {
        clock: clock.exact(),
        maximum: timer.clock.maximum.exact(),
        title: timer.clock.title.clone(),
        doubt: findings::clock_doubt(timer).map(|doubt| format!(" (unsure: {doubt})")).unwrap_or_default(),
    })
}

type ModeChannels<'t> = (usize, &'t Mode, Vec<&'t Channel>);

/// The modes that can carry the wanted signals at all, each with the channels they go to.
fn fitting_modes<'t>(
    timer: &'t Timer,
    request: &DeriveRequest,
    target: &Target,
) -> Result<Vec<ModeChannels<'t>>> {
    let named = target.asks.iter().filter_map(|ask| ask.channel.as_ref());
    for label in named.clone().chain(&request.channel) {
        timer.channel(label)?;
    }
    if let Some(twice) = named.clone().find(|label| named.clone().filter(|other| other == label).count() > 1)
    {
        return Err(Error::ChannelTwice { label: twice.clone() });
    }
    let asked: Vec<(usize, &Mode)> = timer
        .block
        .modes
        .iter()
        .enumerate()
        .filter(|(_, mode)| {
            request.mode.as_ref().is_none_or(|name| *name == mode.name || *name == mode.alignment.word())
        })
        .collect();
    if let (Some(name), true) = (&request.mode, asked.is_empty()) {
        find_mode(timer, name)?;
    }
    let square = target.is_square()?;
    let waves: Vec<_> =
        asked.into_iter().filter(|(_, mode)| square || mode.compare != CompareLaw::Toggle).collect();
    if waves.is_empty() {
        return Err(no_mode(timer, "it makes square waves only", "ask for a duty of 50 %, or another mode"));
    }
    let level_fits: Vec<_> = waves
        .iter()
        .filter(|(_, mode)| target.level == Level::High || can_invert(timer, mode))
        .copied()
        .collect();
    if let (true, Some((_, mode))) = (level_fits.is_empty(), waves.first()) {
        return Err(Error::NoInversion { timer: timer.path(), mode: mode.name.clone() });
    }
    let mut fitting: Vec<ModeChannels<'t>> = Vec::new();
    let mut most_free = 0;
    for (index, mode) in level_fits {
        // Without a signal, modes that differ only in what the outputs do write the same registers.
        let same = |(_, other, _): &ModeChannels<'_>| {
            (&other.period, &other.top, &other.setup) == (&mode.period, &mode.top, &mode.setup)
        };
        if target.asks.is_empty() && fitting.iter().any(same) {
            continue;
        }
        let free: Vec<&Channel> = timer.free_channels(mode).collect();
        most_free = most_free.max(free.len());
        if let Some(channels) = assign(&free, &target.asks, request.channel.as_deref()) {
            fitting.push((index, mode, channels));
        }
    }
    if fitting.is_empty() {
        if target.asks.len() > most_free {
            let asked = target.asks.len();
            return Err(Error::TooFewChannels { timer: timer.path(), asked, free: most_free });
        }
        let hint = "name other channels, or let Kairotic choose the mode";
        return Err(no_mode(timer, "the channels asked for are taken by its top, or too few", hint));
    }
    Ok(fitting)
}

fn no_mode(timer: &Timer, why: &str, hint: &str) -> Error {
    Error::NoMode { timer: timer.path(), why: why.to_owned(), hint: hint.to_owned() }
}

/// The channel of each signal: named ones as named, the others in order; `None` where they do not fit.
fn assign<'t>(free: &[&'t Channel], asks: &[Ask], first: Option<&str>) -> Option<Vec<&'t Channel>> {
    let is_named = |channel: &Channel| asks.iter().any(|ask| ask.channel.as_ref() == Some(&channel.label));
    let mut unnamed = free
        .iter()
        .copied()
        .filter(|channel| !is_named(channel) && first.is_none_or(|label| channel.label == label));
    if asks.is_empty() {
        return match first {
            Some(_) => unnamed.next().map(|_| Vec::new()),
            None => Some(Vec::new()),
        };
    }
    asks.iter()
        .map(|ask| match &ask.channel {
            Some(label) => free.iter().copied().find(|channel| channel.label == *label),
            None => unnamed.next(),
        })
        .collect()
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
    Ok(Frame { index, mode, tops: timer.top_limits(mode)?, signals, span })
}

/// The channel whose compare register a span is counted in.
fn span_channel<'t>(
    timer: &'t Timer,
    asked: Option<&str>,
    mode: &'t Mode,
    channels: &[&'t Channel],
) -> Result<&'t Channel> {
    if let Some(label) = asked {
        return timer.channel(label);
    }
    channels
        .first()
        .copied()
        .or_else(|| timer.free_channels(mode).next())
        .ok_or_else(|| no_mode(timer, "no channel is free for the span", "choose another mode"))
}

fn search(timer: &Timer, request: &DeriveRequest, target: &Target, clock: Frequency) -> Result<Search> {
    let clock = clock.value();
    let clocks =
        clock.over(target.frequency()?.value()).or_overflow("number of source clocks in a period")?;
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
    })
}

fn choice(
    timer: &Timer,
    search: &Search,
    clock: Frequency,
    target: &Target,
    candidate: &Candidate,
    channels: &[&Channel],
) -> Result<Choice> {
    let mode = timer.block.modes.get(candidate.mode).ok_or_else(|| no_mode(timer, "it is gone", ""))?;
    let scale = 1_i128 << search.dividers.fraction_bits;
    let divider = Rational::new(candidate.scaled.into(), scale).or_overflow("divider")?;
    let ticks = mode.period.ticks(candidate.top).or_overflow("number of ticks in a period")?;
    let ruler = ruler(divider, candidate.top, ticks)?;
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
        let compare = (!is_top(mode, channel)).then_some(compare);
        planned.push(PlannedChannel { label: channel.label.clone(), compare, level: target.level });
    }
    let plan = Plan {
        mode: mode.name.clone(),
        dividers: search.dividers.written(candidate.division),
        top: candidate.top,
        channels: planned,
    };
    let setting = Setting::realise(timer, clock, plan)?;
    let ratio = setting.frequency.value().over(target.frequency()?.value()).or_overflow("frequency")?;
    let mut signals = Vec::new();
    for ((ask, output), exact) in target.asks.iter().zip(&setting.outputs).zip(exact) {
        let error = match ask.active {
            Active::Duty(duty) => {
                Active::Duty(Duty::new(output.duty.value().minus(duty.value()).or_overflow("duty")?))
            }
            Active::Pulse(pulse) => {
                Active::Pulse(Time::new(output.pulse.value().minus(pulse.value()).or_overflow("pulse")?))
            }
        };
        signals.push(FitOf { wanted: ask.active, error, exact });
    }
    let span = match target.span {
        None => None,
        Some(span) => {
            let asked = channels.first().map(|channel| channel.label.as_str());
            let channel = span_channel(timer, asked, mode, channels)?;
            let end = |active| -> Result<u64> {
                Ok(nearest(active, channel)?.map_or(0, |nearest| nearest.compare))
            };
            Some(SpanFit { span, low: end(span.low())?, high: end(span.high())?, steps: candidate.steps })
        }
    };
    let steps = (candidate.steps as f64).log2();
    let bonus = [candidate.frequency_exact, candidate.signals_exact, candidate.usual];
    Ok(Choice {
        fit: Fit {
            frequency_error: Deviation::new(ratio.minus(Rational::ONE).or_overflow("frequency error")?),
            frequency_exact: candidate.frequency_exact,
            within: candidate.within,
            signals,
            span,
            score: steps - 1.0 + bonus.iter().filter(|held| **held).count() as f64,
            tick_digits: (candidate.tick_digits != u32::MAX).then_some(candidate.tick_digits),
        },
        setting,
        better: Vec::new(),
    })
}

/// What a candidate is better at than the leading one.
fn advantages(candidate: &Candidate, leading: &Candidate) -> Vec<&'static str> {
    let nearer = super::rank::compare_deviation(candidate, leading).is_lt();
    [
        (candidate.steps > leading.steps, "more steps"),
        (nearer || (candidate.frequency_exact && !leading.frequency_exact), "nearer frequency"),
        (candidate.signals_exact && !leading.signals_exact, "exact signals"),
        (candidate.tick_digits < leading.tick_digits, "rounder tick"),
        (candidate.usual && !leading.usual, "usual mode"),
    ]
    .into_iter()
    .filter_map(|(better, word)| better.then_some(word))
    .collect()
}

/// The settings that a reader may want instead: the one with the most steps of each kind of exactness, the one with the
/// roundest tick, and the next in rank. All were examined, so they are within two bits of the leading one.
fn worth_a_look(found: &[Candidate]) -> Vec<&Candidate> {
    let Some((leading, rest)) = found.split_first() else { return Vec::new() };
    if !leading.within {
        return rest.iter().take(2).collect();
    }
    let inside = || rest.iter().filter(|candidate| candidate.within && candidate.usual);
    let finest = |exact: fn(&Candidate) -> bool| {
        inside().filter(move |candidate| exact(candidate)).min_by_key(|candidate| Reverse(candidate.steps))
    };
    let roundest = inside()
        .filter(|candidate| candidate.frequency_exact && candidate.signals_exact)
        .min_by_key(|candidate| candidate.tick_digits)
        .filter(|candidate| candidate.tick_digits < leading.tick_digits);
    let finer = [
        finest(|_| true),
        finest(|candidate| candidate.signals_exact),
        finest(|candidate| candidate.frequency_exact),
    ];
    let mut picked: Vec<&Candidate> = Vec::new();
    let better = finer.into_iter().filter(|pick| pick.is_some_and(|pick| pick.steps > leading.steps));
    for pick in better.chain([roundest, rest.iter().find(|candidate| candidate.within)]).flatten() {
        if !picked.iter().any(|known| std::ptr::eq(*known, pick)) {
            picked.push(pick);
        }
    }
    picked
}

/// Why the leading setting leads.
fn because(request: &DeriveRequest, target: &Target, leading: &Candidate, found: &[Candidate]) -> String {
    if !leading.within {
        return format!(
            "no setting is within {}; this one has the smallest frequency error",
            target.within.exact()
        );
    }
    match request.prefer {
        Some(Prefer::Exact) => return "the smallest error, as preferred".to_owned(),
        Some(Prefer::Fine) => return "the most steps within the tolerance, as preferred".to_owned(),
        Some(Prefer::RoundTick) => {
            return match leading.tick_digits {
                u32::MAX => {
                    "no tick is a whole number of nanoseconds; this one has the smallest error".to_owned()
                }
                _ => "the roundest tick within the tolerance, as preferred".to_owned(),
            };
        }
        None => {}
    }
    let word = match target.asks.as_slice() {
        [] => None,
        [ask] => Some(ask.active.word()),
        _ => Some("signals"),
    };
    let wave = match (leading.frequency_exact, word, leading.signals_exact) {
        (true, None, _) => "exact frequency".to_owned(),
        (true, Some(word), true) => format!("exact frequency and exact {word}"),
        (true, Some(word), false) => format!("exact frequency, {word} to the nearest step"),
        (false, Some(word), true) => format!("frequency within {}, exact {word}", target.within.exact()),
        (false, ..) => format!("frequency within {}", target.within.exact()),
    };
    let place = if target.span.is_some() { "in the span" } else { "a period" };
    match found
        .iter()
        .filter(|other| other.within && other.steps > leading.steps)
        .map(|other| other.steps)
        .max()
    {
        None => format!("{wave} with the most steps that this clock allows"),
        Some(more) => format!(
            "{wave} with {} steps {place}; others have up to {more}, but give up exactness or a plain mode, \
             each of which counts as much as doubling the steps",
            leading.steps
        ),
    }
}
