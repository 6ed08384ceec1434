//! What a setting shows to be wrong, seen from a derivation or from a reading.

use super::decode::Expectation;
use super::fit::Choice;
use super::off_by_one::off_by_one;
use super::realise::{Constant, Output, Setting, find_mode, is_past_top, ruler};
use super::single_change::{SingleChange, single_changes};
use super::target::{Active, Level, Target};
use crate::error::Result;
use crate::finding::{
    self, Finding, Severity, bus_clock_suspected, catalogue_unsure, clock_above_maximum, compare_past_top,
    full_on_unreachable, outside_tolerance, pulse_under_half_step, spike_at_zero, too_few_steps,
};
use crate::part::{CompareLaw, Concern, Mode, Timer, Trust};
use crate::quantity::{Deviation, Duty, Frequency, OrOverflow, Rational, Time};

/// Why the clock's own limit is uncertain, if it is.
pub(super) fn clock_doubt(timer: &Timer) -> Option<&str> {
    timer.clock.facts.iter().find(|fact| fact.trust == Trust::Unsure).map(|fact| fact.says.as_str())
}

/// What is or may be wrong with the leading setting of a derivation. `reaching` finds the best setting with a property.
pub(super) fn of_derivation(
    timer: &Timer,
    target: &Target,
    best: &Choice,
    reaching: impl Fn(fn(&Setting) -> bool) -> Result<Option<Setting>>,
) -> Result<Vec<Finding>> {
    let setting = &best.setting;
    let mode = find_mode(timer, &setting.plan.mode)?;
    let mut found = Vec::new();
    if best.steps() < target.at_least_steps {
        found.push(too_few_steps::new(best.steps(), target.at_least_steps));
    } else if !best.fit.within {
        let (wanted, error) = (target.frequency()?, best.fit.frequency_error);
        found.push(outside_tolerance::frequency(setting.frequency, wanted, error, target.within));
    }
    for (ask, output) in target.asks.iter().zip(&setting.outputs) {
        let nothing = is_active(ask.active, Duty::ZERO, Time::ZERO);
        let all = is_active(ask.active, Duty::new(Rational::ONE), target.period()?);
        if nothing && output.constant != Some(Constant::Inactive) {
            let remedy = zero_remedy(reaching(reaches_zero)?);
            found.push(spike(Severity::Error, &output.channel, setting, remedy));
        } else if all && output.constant != Some(Constant::Active) {
            let remedy = full_remedy(setting, reaching(reaches_full)?);
            found.push(gap(Severity::Error, &output.channel, setting, remedy)?);
        } else if let Some(short) = under_half_step(ask.active, output, setting)? {
            found.push(short);
        }
    }
    if let Some(span) = target.span {
        let channel = setting.outputs.first().map_or("of the span", |output| output.channel.as_str());
        if is_active(span.low(), Duty::ZERO, Time::ZERO) && !reaches_zero(setting) {
            found.push(spike(Severity::Warning, channel, setting, zero_remedy(reaching(reaches_zero)?)));
        }
        if is_active(span.high(), Duty::new(Rational::ONE), target.period()?) && !reaches_full(setting) {
            let remedy = full_remedy(setting, reaching(reaches_full)?);
            found.push(gap(Severity::Warning, channel, setting, remedy)?);
        }
    }
    of_silicon(timer, mode, setting, &[], &mut found);
    Ok(found)
}

/// What is or may be wrong with decoded registers.
pub(super) fn of_reading(
    timer: &Timer,
    mode: &Mode,
    setting: &Setting,
    expectation: Option<&Expectation>,
    within: Deviation,
) -> Result<Vec<Finding>> {
    let mut found = off_by_one(timer, mode, setting, expectation, within)?;
    if let Some(expectation) =
        expectation.filter(|expected| expected.error.value().magnitude() > within.value())
    {
        found.extend(suspected_clock(timer, setting, expectation, within)?);
        if found.is_empty() {
            let Expectation { frequency, error } = *expectation;
            let changes = single_changes(timer, mode, setting, frequency, within)?;
            let changes: Vec<String> = changes.iter().map(SingleChange::words).collect();
            found.push(outside_tolerance::decoded(setting.frequency, frequency, error, within, &changes));
        }
    }
    let mut past: Vec<&str> = Vec::new();
    if let CompareLaw::Linear(law) = &mode.compare {
        let ruler = ruler(setting.divider, setting.dither_bits, setting.plan.top, setting.ticks)?;
        for output in &setting.outputs {
            let limit = timer.compare_limit(mode, timer.channel(&output.channel)?)?;
            if let Some(compare) = output.compare.filter(|compare| is_past_top(law, ruler, *compare, limit)) {
                past.push(&output.channel);
                let (_, last) = super::active::legal(law, limit, ruler);
                let last = u64::try_from(last).unwrap_or(0);
                let constant = constant_level(output);
                found.push(compare_past_top::new(&output.channel, compare, last, setting.plan.top, constant));
            }
        }
        for output in &setting.outputs {
            let severity = |at_end: bool| if at_end { Severity::Warning } else { Severity::Note };
            if !reaches_zero(setting) {
                let remedy = zero_remedy(None);
                let severity = severity(output.duty == setting.ends.lowest);
                found.push(spike(severity, &output.channel, setting, remedy));
            }
            if !reaches_full(setting) {
                let severity = severity(output.duty == setting.ends.highest);
                found.push(gap(severity, &output.channel, setting, full_remedy(setting, None))?);
            }
        }
    }
    of_silicon(timer, mode, setting, &past, &mut found);
    Ok(found)
}

/// What is or may be wrong with the leading setting for a tick.
pub(super) fn of_time_base(
    timer: &Timer,
    mode: &Mode,
    setting: &Setting,
    wanted: Time,
    error: Deviation,
    within: Deviation,
) -> Vec<Finding> {
    let mut found = Vec::new();
    if error.value().magnitude() > within.value() {
        found.push(outside_tolerance::tick(setting.tick, wanted, error, within));
    }
    of_silicon(timer, mode, setting, &[], &mut found);
    found
}

fn reaches_zero(setting: &Setting) -> bool {
    setting.ends.lowest == Duty::ZERO
}

fn reaches_full(setting: &Setting) -> bool {
    setting.ends.highest.value() == Rational::ONE
}

fn is_active(active: Active, duty: Duty, pulse: Time) -> bool {
    match active {
        Active::Duty(wanted) => wanted == duty,
        Active::Pulse(wanted) => wanted == pulse,
    }
}

fn spike(severity: Severity, channel: &str, setting: &Setting, remedy: String) -> Finding {
    let lowest = setting.ends.lowest;
    let pulse = lowest.value().times(setting.period.value()).map_or(setting.step, Time::new);
    spike_at_zero::new(severity, channel, lowest, pulse, remedy)
}

fn gap(severity: Severity, channel: &str, setting: &Setting, remedy: String) -> Result<Finding> {
    let highest = setting.ends.highest;
    let missing = Rational::ONE.minus(highest.value()).or_overflow("duty")?;
    let gap = Time::new(missing.times(setting.period.value()).or_overflow("pulse")?);
    Ok(full_on_unreachable::new(severity, channel, highest, gap, remedy))
}

fn zero_remedy(other: Option<Setting>) -> String {
    let off = "disconnect the output from the timer and hold the pin at its level";
    match other {
        Some(setting) => format!("--mode {} reaches 0 %; or {off}", setting.plan.mode),
        None => format!("for 0 % {off}"),
    }
}

fn full_remedy(setting: &Setting, other: Option<Setting>) -> String {
    let on = "disconnect the output from the timer and hold the pin at its level";
    match other {
        Some(other) if other.plan.mode != setting.plan.mode => {
            format!("--mode {} reaches 100 %; or {on}", other.plan.mode)
        }
        Some(other) => format!(
            "a top of {} with a division by {} leaves room for it; or {on}",
            other.plan.top,
            super::write::mixed(other.divider)
        ),
        None => format!("a smaller top may leave room for it; or {on}"),
    }
}

/// A wanted pulse of less than half a step that is not nought.
fn under_half_step(wanted: Active, output: &Output, setting: &Setting) -> Result<Option<Finding>> {
    let pulse = match wanted {
        Active::Pulse(pulse) => pulse,
        Active::Duty(duty) => Time::new(duty.value().times(setting.period.value()).or_overflow("pulse")?),
    };
    let twice = pulse.value().plus(pulse.value()).or_overflow("pulse")?;
    let short = pulse > Time::ZERO && twice < setting.step.value();
    Ok(short.then(|| pulse_under_half_step::new(&output.channel, pulse, output.pulse, setting.step)))
}

fn constant_level(output: &Output) -> &'static str {
    match (output.constant, output.level) {
        (Some(Constant::Active), Level::High) | (Some(Constant::Inactive), Level::Low) => "high",
        _ => "low",
    }
}

/// What the catalogue says against a setting: its clock's limit, and the unsure facts that bear on it; the compare values of
/// some channels are `past` the top. Then all findings are sorted.
fn of_silicon(timer: &Timer, mode: &Mode, setting: &Setting, past: &[&str], found: &mut Vec<Finding>) {
    if setting.clock > timer.clock.maximum {
        found.push(clock_above_maximum::new(setting.clock, &timer.clock));
    }
    // What is constant past the top says nothing of the end that should make it so.
    let ends = || setting.outputs.iter().filter(|output| !past.contains(&output.channel.as_str()));
    let is_at = |end: Constant| ends().any(|output| output.constant == Some(end));
    let inverted = setting.outputs.iter().any(|output| output.level == Level::Low);
    let concerns = [
        Some(None),
        is_at(Constant::Inactive).then_some(Some(Concern::Zero)),
        is_at(Constant::Active).then_some(Some(Concern::Full)),
        (!past.is_empty()).then_some(Some(Concern::PastTop)),
        inverted.then_some(Some(Concern::Inverted)),
    ];
    for concern in concerns.into_iter().flatten() {
        for fact in timer.doubts(mode, concern) {
            let document = timer.documents.get(&fact.document).map_or("its document", String::as_str);
            found.push(catalogue_unsure::new(fact, document));
        }
    }
    finding::sort(found);
}

/// The clocks that a timer may count instead of a given one, each with what it is: a half, a quarter, twice or four times
/// of it, and those that the part is known to have.
///
/// # Errors
/// [`Error::Overflow`](crate::Error::Overflow).
pub(crate) fn clock_suspects(timer: &Timer, clock: Frequency) -> Result<Vec<(String, Frequency)>> {
    let factors = [
        (Rational::new(1, 2), "half of that"),
        (Rational::new(2, 1), "twice that"),
        (Rational::new(1, 4), "a quarter of that"),
        (Rational::new(4, 1), "four times that"),
    ];
    let scaled = factors.into_iter().map(|(factor, words)| {
        let suspect = factor.and_then(|factor| clock.value().times(factor)).or_overflow("clock")?;
        Ok((words.to_owned(), Frequency::new(suspect)))
    });
    let known = timer.known_clocks.iter().cloned().map(Ok);
    scaled.chain(known).collect()
}

/// A clock other than the one given from which the registers make what was meant: a factor of 2 or 4, or a clock of the
/// part.
fn suspected_clock(
    timer: &Timer,
    setting: &Setting,
    expectation: &Expectation,
    within: Deviation,
) -> Result<Option<Finding>> {
    let clock = setting.clock.value();
    for (origin, suspect) in clock_suspects(timer, setting.clock)? {
        let ratio = suspect.value().over(clock).or_overflow("clock")?;
        let frequency = setting.frequency.value().times(ratio).or_overflow("frequency")?;
        let error = frequency.over(expectation.frequency.value()).or_overflow("frequency")?;
        let error = error.minus(Rational::ONE).or_overflow("frequency error")?;
        if error.magnitude() <= within.value() {
            let (realised, expected) = (setting.frequency, expectation.frequency);
            return Ok(Some(bus_clock_suspected::new(realised, expected, setting.clock, suspect, &origin)));
        }
    }
    Ok(None)
}
