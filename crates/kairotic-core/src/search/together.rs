//! One counter for several signals: they differ in their compare values, and have one period and one division.

use super::derive::{base_of, counters, leading};
use super::{RankedSetting, SearchOptions};
use crate::error::{Error, Result};
use crate::part::{Timer, TimerUse};
use crate::target::{CounterSetting, Level, Target};

/// How one counter counts for several signals of one period, each on its timer, where each alone would choose another way:
/// the first way that keeps every signal within its tolerance that is within it alone, in the ranking of all signals
/// together, which are those of each timer and then those of each signal alone.
///
/// # Errors
/// What a signal cannot alone; [`Error::TimeBasesDiffer`] where no way keeps all of them.
pub(crate) fn counter_for(signals: &[(TimerUse<'_>, Target)]) -> Result<Option<CounterSetting>> {
    let mut alone = Vec::new();
    for (on, target) in signals {
        let (timer, choice) = leading(on, target, SearchOptions::default())?;
        alone.push((counter_of(&timer, &choice), choice.fit.within));
    }
    let Some(((first, _), others)) = alone.split_first() else { return Ok(None) };
    if others.iter().all(|(other, _)| other == first) {
        return Ok(None);
    }
    let mut tried: Vec<CounterSetting> = Vec::new();
    for (on, target) in together(signals).iter().chain(signals) {
        let Ok(found) = counters(on, target) else { continue };
        for counter in found {
            if tried.contains(&counter) {
                continue;
            }
            let mut each = signals.iter().zip(&alone);
            if each.all(|((on, target), (_, within))| is_kept(on, target, &counter, *within)) {
                return Ok(Some(counter));
            }
            tried.push(counter);
        }
    }
    Err(differ(signals))
}

/// How counters count that have one division together, and each a top of its own: `None` where each signal alone divides
/// alike.
///
/// # Errors
/// [`Error::TimeBasesDiffer`] where no division keeps each signal within its tolerance that is within it alone.
pub(crate) fn counters_of_one_divider(
    signals: &[(TimerUse<'_>, Target)],
) -> Result<Option<Vec<CounterSetting>>> {
    let (mut alone, mut choices) = (Vec::new(), Vec::new());
    for (on, target) in signals {
        // What cannot be made alone is told of its signal.
        let Ok((timer, choice)) = leading(on, target, SearchOptions::default()) else { return Ok(None) };
        alone.push((counter_of(&timer, &choice), choice.fit.within));
        choices.push(counters(on, target)?);
    }
    let Some(((first, _), others)) = alone.split_first() else { return Ok(None) };
    if others.iter().all(|(other, _)| other.divider == first.divider) {
        return Ok(None);
    }
    for divider in choices.iter().flatten().map(|counter| counter.divider) {
        let kept = signals.iter().zip(&alone).zip(&choices).map(|(((on, target), (_, within)), own)| {
            let free = Target { counter: None, ..target.clone() };
            let same = own.iter().filter(|counter| counter.divider == divider);
            same.into_iter().find(|counter| is_kept(on, &free, counter, *within)).cloned()
        });
        if let Some(kept) = kept.collect::<Option<Vec<_>>>() {
            return Ok(Some(kept));
        }
    }
    Err(differ(signals))
}

fn differ(signals: &[(TimerUse<'_>, Target)]) -> Error {
    let names: Vec<String> = signals.iter().map(|(on, target)| output(on, target)).collect();
    let timer = signals.first().map(|(on, _)| on.path()).unwrap_or_default();
    Error::TimeBasesDiffer { timer, signals: names.join(", ") }
}

/// The same with a counter that is settled.
fn settled(target: &Target, counter: &CounterSetting) -> Target {
    Target { counter: Some(counter.clone()), ..target.clone() }
}

fn output(on: &TimerUse<'_>, target: &Target) -> String {
    target.channel.as_ref().map_or_else(|| on.timer.clone(), |channel| format!("{}/{channel}", on.timer))
}

fn counter_of(timer: &Timer, choice: &RankedSetting) -> CounterSetting {
    let setting = &choice.setting;
    let (mode, divider, top) = (setting.plan.mode.clone(), setting.divider, setting.plan.top);
    CounterSetting { base: base_of(timer), mode, divider, top }
}

/// Whether a counter makes a signal, and within its tolerance where it is `within` it alone.
fn is_kept(on: &TimerUse<'_>, target: &Target, counter: &CounterSetting, within: bool) -> bool {
    let made = leading(on, &settled(target, counter), SearchOptions::default());
    made.is_ok_and(|(_, choice)| choice.fit.within || !within)
}

/// The signals of each timer as one target of several.
fn together<'p>(signals: &[(TimerUse<'p>, Target)]) -> Vec<(TimerUse<'p>, Target)> {
    let mut joint: Vec<(TimerUse<'p>, Target)> = Vec::new();
    for (on, target) in signals {
        let named = target.asks.iter().cloned().map(|mut ask| {
            ask.channel = ask.channel.or_else(|| target.channel.clone());
            ask
        });
        match joint.iter_mut().find(|(known, _)| known.timer == on.timer) {
            None => joint.push((on.clone(), Target { asks: named.collect(), ..target.clone() })),
            Some((_, all)) => {
                all.asks.extend(named);
                all.within = all.within.min(target.within);
                // What cannot be inverted is in no mode of both.
                if target.level == Level::Low {
                    all.level = Level::Low;
                }
                if all.span.is_none() {
                    (all.span, all.channel, all.min_steps) =
                        (target.span, target.channel.clone(), target.min_steps);
                }
                all.dead_time = all.dead_time.or(target.dead_time);
            }
        }
    }
    joint.retain(|(_, target)| target.asks.iter().all(|ask| ask.channel.is_some()));
    joint
}
