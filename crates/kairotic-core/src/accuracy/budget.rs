//! The budget of a signal: a setting derived for it, and everything that takes it away from what is wanted.

mod remedy;

use serde::Serialize;

pub use self::remedy::{Improvement, SpecChange};
use super::clock_errors::{ClockErrors, Statement};
use super::contribution::{Contribution, ErrorSource, Nature, Reach};
use super::judge::judge;
use super::totals::{Likely, Totals, reaches, sums};
use super::update::{Update, update};
use crate::error::{Error, OrOverflow, Result};
use crate::finding::{self, ClockErrorAboveNeed, Finding, FractionalJitter, UpdateNotBuffered};
use crate::load::{Load, LoadKind, Realised};
use crate::quantity::{Deviation, Duty, Figure, Frequency, LoadLevel, Range, Rational, Time};
use crate::requirement::{RequirementCheck, Verdict};
use crate::search::{Derivation, SearchOptions, derive_with};
use crate::setting::Output;
use crate::signal::{Conditions, Need, Needs, SignalSpec};
use crate::target::{Active, Aim, Span};

/// The budget of a signal.
#[derive(Debug, Clone, PartialEq, Serialize)]
pub struct Budget {
    /// The setting, and how it was found.
    pub derivation: Derivation,
    /// The pulse that is wanted.
    pub wanted_pulse: Time,
    /// Its period.
    pub wanted_period: Time,
    /// What load it is for.
    pub load: Option<Load>,
    /// What the registers make, from a perfect clock.
    pub realised: Realised,
    /// The level of that.
    pub level: Option<LoadLevel>,
    /// The contributions that there are.
    pub contributions: Vec<Contribution>,
    /// What they make together.
    pub totals: Totals,
    /// Whether anything is known of the clock.
    pub clock_known: bool,
    /// What writing a new compare value does.
    pub update: Update,
    /// What is required, and whether it is met.
    pub checks: Vec<RequirementCheck>,
    /// The largest contribution's place in the list.
    pub largest: Option<usize>,
    /// What would make the largest contribution smaller, the cheapest that was found.
    pub remedy: Option<Improvement>,
    /// What is or may be wrong.
    #[serde(skip)]
    pub findings: Vec<Finding>,
}

/// A wanted pulse as a load takes it.
pub(super) fn active((pulse, period): (Time, Time)) -> Result<Realised> {
    Ok(Realised { duty: pulse.share_of(period)?, pulse })
}

/// Makes the budget of a signal. It has one duty or pulse; more are not looked at.
///
/// # Errors
/// As [`derive`](crate::search::derive()); [`Error::NoSignal`] for a target without duty or pulse.
pub fn budget(spec: &SignalSpec<'_>) -> Result<Budget> {
    let mut budget = drawn_up(spec, SearchOptions::default())?;
    budget.remedy = remedy::remedy(spec, &budget)?;
    if let Some(glitch) = budget.update.glitch {
        let buffered = remedy::buffered(spec)?;
        let safe = budget.update.safe_until.unwrap_or(Time::ZERO);
        budget.findings.push(UpdateNotBuffered { glitch, safe, buffered }.into());
    }
    finding::sort(&mut budget.findings);
    Ok(budget)
}

/// The budget without a look for anything better.
pub(crate) fn drawn_up(spec: &SignalSpec<'_>, options: SearchOptions) -> Result<Budget> {
    drawn_up_of(spec, derive_with(&spec.on, &spec.target, options)?)
}

/// The same of a setting that is derived already.
pub(crate) fn drawn_up_of(spec: &SignalSpec<'_>, derivation: Derivation) -> Result<Budget> {
    let load = spec.load.as_ref();
    let setting = &derivation.best.setting;
    let no_signal = || Error::NoSignal { timer: derivation.timer.path() };
    let output = setting.outputs.first().ok_or_else(no_signal)?;
    let asked = derivation.best.fit.signals.first().ok_or_else(no_signal)?.wanted;
    let realised = Realised { duty: output.duty, pulse: output.pulse };
    let wanted_period = match derivation.target.aim {
        // Any frequency of a window is the wanted one.
        Aim::Window(_) => setting.period,
        _ => derivation.target.wanted_frequency()?.period()?,
    };
    let wanted_pulse = match asked {
        Active::Pulse(pulse) => pulse,
        Active::Duty(duty) => duty.of(wanted_period)?,
    };
    let wanted = (wanted_pulse, wanted_period);
    let clock = ClockErrors::of(spec, derivation.clock, derivation.default_clock)?;
    let clock_known = clock != ClockErrors::default();

    let mut all = rounding(&derivation, asked, output, wanted)?;
    all.extend(of_clock(clock, realised)?);
    all.extend(pattern(&derivation, output)?);
    all.extend(of_surroundings(&spec.conditions, setting.period)?);
    all.retain(|one| !one.reach.is_none());
    // Levels are counted from the wanted one: what rounding takes away is among the contributions.
    let aim = active(wanted)?;
    if let Some(load) = load {
        for one in &mut all {
            one.level = Some(one.reach.levels(&load.kind, aim)?);
        }
        all.extend(of_load(load)?);
    }
    let level = load.map(|load| load.kind.level(realised)).transpose()?;
    let totals = totals(&all, load, aim)?;
    let checks = judge(spec, &derivation, &totals, &all)?;
    let shortest = shortest_pulse(&derivation, output.pulse, setting.period)?;
    let update = update(&derivation.timer, setting, shortest, spec.conditions.latency)?;
    let mut findings = derivation.findings.clone();
    findings.extend(jitter_finding(&derivation, &spec.needs));
    findings.extend(clock_finding(&spec.needs, &all, &checks)?);
    let largest = largest(&all);
    Ok(Budget {
        wanted_pulse,
        wanted_period,
        load: spec.load.clone(),
        realised,
        level,
        totals,
        clock_known,
        update,
        checks,
        largest,
        remedy: None,
        findings,
        contributions: all,
        derivation,
    })
}

/// The place of the contribution that takes the signal furthest: in the load's unit where that says something, else by
/// the pulse.
fn largest(all: &[Contribution]) -> Option<usize> {
    let size = |one: &Contribution| {
        let level = one.level.map_or(Rational::ZERO, |level| LoadLevel::further(level).value());
        (level, one.reach.worst_pulse())
    };
    let sizes = all.iter().map(size).enumerate().filter(|(_, size)| *size > (Rational::ZERO, Time::ZERO));
    sizes.max_by_key(|(place, size)| (*size, std::cmp::Reverse(*place))).map(|(place, _)| place)
}

/// What whole ticks and whole compare steps do: the pulse that was wanted at the wanted period, then at the realised one,
/// then in whole steps.
fn rounding(
    derivation: &Derivation,
    asked: Active,
    output: &Output,
    (wanted, period): (Time, Time),
) -> Result<Vec<Contribution>> {
    let (setting, fit) = (&derivation.best.setting, &derivation.best.fit);
    let minus = |left: Rational, right: Rational| left.minus(right).or_overflow("error");
    let over = |left: Rational, right: Rational| left.over(right).or_overflow("duty");
    // A pulse stays what it is when the period changes; a duty takes its pulse with it.
    let kept = match asked {
        Active::Pulse(pulse) => pulse.value(),
        Active::Duty(duty) => duty.of(setting.period)?.value(),
    };
    let by_period = minus(kept, wanted.value())?;
    let duty = minus(over(kept, setting.period.value())?, over(wanted.value(), period.value())?)?;
    let frequency = match fit.window {
        Some(_) => Deviation::ZERO,
        None => fit.frequency_error,
    };
    let fixed = |pulse: Rational, duty: Rational, frequency: Deviation| Reach {
        pulse: Range { low: Time::new(pulse), high: Time::new(pulse) },
        duty: Range { low: Duty::new(duty), high: Duty::new(duty) },
        frequency: Range { low: frequency, high: frequency },
    };
    let of_period = Contribution::new(
        ErrorSource::Period,
        Nature::Systematic,
        fixed(by_period, duty, frequency),
        format!("in whole ticks of {}", setting.tick.rounded(4)),
    );
    let by_compare = minus(output.pulse.value(), kept)?;
    let of_compare = Contribution::new(
        ErrorSource::Compare,
        Nature::Systematic,
        fixed(by_compare, over(by_compare, setting.period.value())?, Deviation::ZERO),
        format!("in whole steps of {}", setting.step.rounded(4)),
    );
    Ok(vec![of_period, of_compare])
}

/// What the oscillator does: it takes pulse and period along, and leaves the duty alone.
fn of_clock(clock: ClockErrors, realised: Realised) -> Result<Vec<Contribution>> {
    let pulse = realised.pulse.value();
    let at = |deviation: Deviation| -> Result<Time> {
        let factor = Rational::ONE.plus(deviation.value()).or_overflow("deviation")?;
        let stretched = pulse.over(factor).or_overflow("pulse")?;
        stretched.minus(pulse).or_overflow("pulse").map(Time::new)
    };
    let contribution = |cause: ErrorSource, Statement { within, says }: Statement| -> Result<Contribution> {
        let pulse = Range { low: at(within.high)?, high: at(within.low)? };
        let reach = Reach { pulse, frequency: within, ..Reach::NONE };
        Ok(Contribution::new(cause, Nature::Bounded, reach, says))
    };
    let given = [
        (ErrorSource::Tolerance, clock.initial),
        (ErrorSource::Temperature, clock.temperature),
        (ErrorSource::Ageing, clock.ageing),
    ];
    given.into_iter().filter_map(|(cause, says)| Some(contribution(cause, says?))).collect()
}

/// What a fractional divider or a dithering mode does from pulse to pulse.
fn pattern(derivation: &Derivation, output: &Output) -> Result<Option<Contribution>> {
    let setting = &derivation.best.setting;
    let Some(jitter) = setting.jitter else { return Ok(None) };
    let (unit, counted) = if jitter.dithers {
        (setting.tick.value(), output.ticks)
    } else {
        (setting.clock.period()?.value(), output.pulse.in_ticks(setting.clock)?)
    };
    let whole = Rational::new(counted.floor(), 1).or_overflow("pulse")?;
    let part = counted.minus(whole).or_overflow("pulse")?;
    if part.is_zero() {
        return Ok(None);
    }
    let rest = Rational::ONE.minus(part).or_overflow("pulse")?;
    let times = |share: Rational| share.times(unit).or_overflow("pulse");
    let low = Rational::ZERO.minus(times(part)?).or_overflow("pulse")?;
    let reach = Reach::of_pulse(low, times(rest)?, setting.period)?;
    let (cause, what) = if jitter.dithers {
        (ErrorSource::Dither, "counter tick")
    } else {
        (ErrorSource::Fraction, "source clock")
    };
    let says = format!("each pulse is a whole number of {what}s, and one more or less the next time");
    let part = part.approx();
    Ok(Some(Contribution {
        mean: part,
        rms: (part * (1.0 - part)).sqrt(),
        repeats: Some(jitter.repeats),
        ..Contribution::new(cause, Nature::Bounded, reach, says)
    }))
}

/// What lies around the timer.
fn of_surroundings(conditions: &Conditions, period: Time) -> Result<Vec<Contribution>> {
    let mut all = Vec::new();
    if let Some(rms) = conditions.pll {
        let reach = rms.times(Rational::whole(3))?.value();
        let low = Rational::ZERO.minus(reach).or_overflow("jitter")?;
        let says = format!("three times its RMS of {}", rms.told());
        all.push(Contribution::new(
            ErrorSource::Pll,
            Nature::Random,
            Reach::of_pulse(low, reach, period)?,
            says,
        ));
    }
    if let Some(edges) = conditions.edges {
        let reach = Reach::of_pulse(edges.value(), edges.value(), period)?;
        all.push(Contribution::new(ErrorSource::Edges, Nature::Systematic, reach, "as given".to_owned()));
    }
    Ok(all)
}

/// What the load's own tolerance does to its level.
fn of_load(load: &Load) -> Result<Option<Contribution>> {
    let Some(tolerance) = load.tolerance.filter(|tolerance| *tolerance > Deviation::ZERO) else {
        return Ok(None);
    };
    let [low, high] = load.kind.levels()?;
    let width = high.less(low)?.magnitude();
    let reach = width.value().times(tolerance.value()).or_overflow("level")?;
    let below = Rational::ZERO.minus(reach).or_overflow("level")?;
    let says = format!("{} of its range", Duty::new(tolerance.value()).told());
    let level = Some(Range { low: width.with(below), high: width.with(reach) });
    Ok(Some(Contribution {
        level,
        ..Contribution::new(ErrorSource::Load, Nature::Bounded, Reach::NONE, says)
    }))
}

fn totals(all: &[Contribution], load: Option<&Load>, aim: Realised) -> Result<Totals> {
    let [worst, likely] = reaches(all)?;
    let Some(load) = load else {
        return Ok(Totals { worst, worst_level: None, likely: Likely { reach: likely, level: None } });
    };
    // The levels of the sums, for a load need be no straight line; its own tolerance comes on top.
    let own = |one: &Contribution| {
        one.level
            .filter(|_| one.cause == ErrorSource::Load)
            .map(|level| (level.low.value(), level.high.value()))
    };
    let [own_worst, own_likely] = sums(all, own)?;
    let with = |reach: Reach, (low, high): (Rational, Rational)| -> Result<Range<LoadLevel>> {
        let levels = reach.levels(&load.kind, aim)?;
        let sum = |level: LoadLevel, more: Rational| -> Result<LoadLevel> {
            Ok(level.with(level.value().plus(more).or_overflow("level")?))
        };
        Ok(Range { low: sum(levels.low, low)?, high: sum(levels.high, high)? })
    };
    let worst_level = Some(with(worst, own_worst)?);
    let level = Some(likely_level(with(likely, (Rational::ZERO, Rational::ZERO))?, own_likely)?);
    Ok(Totals { worst, worst_level, likely: Likely { reach: likely, level } })
}

/// Two likely sums that have nothing to do with one another: their squares add up.
fn likely_level(signal: Range<LoadLevel>, own: (Rational, Rational)) -> Result<Range<LoadLevel>> {
    let middle = f64::midpoint(signal.low.value().approx(), signal.high.value().approx());
    let half = |low: f64, high: f64| (high - low) / 2.0;
    let of_signal = half(signal.low.value().approx(), signal.high.value().approx());
    let reach = of_signal.hypot(half(own.0.approx(), own.1.approx()));
    if own.0 == own.1 {
        return Ok(signal);
    }
    let end = |value: f64| super::totals::statistic(value).map(|value| signal.low.with(value));
    Ok(Range { low: end(middle - reach)?, high: end(middle + reach)? })
}

/// The shortest pulse that the signal may have: its own, or the low end of its span.
fn shortest_pulse(derivation: &Derivation, pulse: Time, period: Time) -> Result<Time> {
    Ok(match derivation.target.span {
        Some(Span::Pulse(span)) => span.low.min(pulse),
        Some(Span::Duty(span)) => span.low.of(period)?.min(pulse),
        None => pulse,
    })
}

/// What a fractional divider or dither does to the periods, where it does anything.
fn jitter_finding(derivation: &Derivation, needs: &Needs) -> Option<Finding> {
    let jitter = derivation.best.setting.jitter?;
    let most = jitter.peak_to_peak.max(jitter.pulses);
    if most <= Time::ZERO {
        return None;
    }
    let missed = needs.jitter.is_some_and(|need| most > need);
    // The pattern's own frequency is heard or seen where it is slow.
    let rate = derivation.best.setting.frequency.value().over(jitter.repeats.into())?;
    let (rms_s, periods, rate) = (jitter.rms, jitter.repeats, Frequency::new(rate));
    Some(FractionalJitter { peak_to_peak: most, rms_s, periods, rate, missed }.into())
}

/// Whether the clock alone takes more than is allowed.
fn clock_finding(
    needs: &Needs,
    all: &[Contribution],
    checks: &[RequirementCheck],
) -> Result<Option<Finding>> {
    let clock: Vec<Contribution> = all.iter().filter(|one| one.cause.is_clock()).cloned().collect();
    let [worst, _] = reaches(&clock)?;
    let [levels, _] = sums(&clock, |one| one.level.map(|level| (level.low.value(), level.high.value())))?;
    let level = levels.0.magnitude().max(levels.1.magnitude());
    let frequency = needs.frequency.map(|need| (Need::Frequency, need));
    let above = [
        needs
            .pulse
            .filter(|need| worst.worst_pulse() > *need)
            .map(|need| (Need::Pulse, Figure::Time(worst.worst_pulse()), Figure::Time(need))),
        needs
            .level
            .filter(|need| level > need.value())
            .map(|need| (Need::Level, Figure::Level(need.with(level)), Figure::Level(need))),
        frequency
            .or(needs.clock.map(|need| (Need::Clock, need)))
            .filter(|(_, need)| worst.worst_frequency() > *need)
            .map(|(what, need)| (what, Figure::Deviation(worst.worst_frequency()), Figure::Deviation(need))),
    ];
    Ok(above.into_iter().flatten().next().map(|(what, found, limit)| {
        let missed = checks.iter().any(|check| check.requirement == what && check.outcome == Verdict::Missed);
        ClockErrorAboveNeed { found, limit, missed }.into()
    }))
}
