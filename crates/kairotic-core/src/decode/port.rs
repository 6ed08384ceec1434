//! A design carried over: the signal that registers of one timer make, wanted of another, and what changes by it.

use std::cmp::Ordering;

use serde::Serialize;

use super::reading::{DecodeRequest, Reading, decode};
use crate::error::Result;
use crate::part::{Timer, TimerUse, UpdatePoint};
use crate::quantity::{Deviation, Time};
use crate::search::{Derivation, SearchOptions, derive_with};
use crate::setting::Setting;
use crate::target::{Active, Aim, Ask, Level, Target};

/// One property of a signal, on the old timer and on the new one.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
pub struct PropertyChange {
    /// The property.
    pub what: String,
    /// How it was.
    pub before: String,
    /// How it is.
    pub after: String,
    /// What that means.
    pub verdict: ChangeVerdict,
}

/// What a change means.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
#[serde(rename_all = "snake_case")]
pub enum ChangeVerdict {
    /// Nothing changes.
    Same,
    /// The new timer does better.
    Better,
    /// The new timer does worse.
    Worse,
}

impl ChangeVerdict {
    /// The word for it.
    pub const fn word(self) -> &'static str {
        match self {
            Self::Same => "the same",
            Self::Better => "better",
            Self::Worse => "worse",
        }
    }

    fn of(order: Ordering) -> Self {
        match order {
            Ordering::Less => Self::Worse,
            Ordering::Equal => Self::Same,
            Ordering::Greater => Self::Better,
        }
    }
}

/// Derives on another timer the signal that registers make. Duties are kept, and with the period the pulses; tolerance,
/// channel and mode are those of `wanted`.
///
/// # Errors
/// As [`decode()`] and [`derive_with()`].
pub fn port(
    from: &DecodeRequest<'_>,
    on: &TimerUse<'_>,
    wanted: &Target,
    options: SearchOptions,
) -> Result<(Derivation, Vec<PropertyChange>)> {
    let reading = decode(from)?;
    let derivation = derive_with(on, &target(&reading, wanted), options)?;
    let changes = changes(&reading, &derivation)?;
    Ok((derivation, changes))
}

fn target(reading: &Reading, wanted: &Target) -> Target {
    let outputs = &reading.setting.outputs;
    let asks = outputs.iter().map(|output| Ask {
        channel: None,
        active: Active::Duty(output.duty),
        start: output.start.filter(|start| !start.value().is_zero()).map(Active::Pulse),
    });
    Target {
        aim: Aim::Frequency(reading.setting.frequency),
        asks: asks.collect(),
        level: outputs.first().map_or(Level::High, |output| output.level),
        dead_time: reading.setting.dead_time,
        ..wanted.clone()
    }
}

/// What got better or worse, property by property.
///
/// # Errors
/// Those of a setting of another timer.
fn changes(reading: &Reading, derivation: &Derivation) -> Result<Vec<PropertyChange>> {
    let (old, new) = (&reading.setting, &derivation.best.setting);
    let mut changes = Vec::new();
    let mut add = |what: &str, before: String, after: String, verdict: ChangeVerdict| {
        changes.push(PropertyChange { what: what.to_owned(), before, after, verdict });
    };
    let met = |met: bool| if met { ChangeVerdict::Same } else { ChangeVerdict::Worse };
    add("frequency", old.frequency.rounded(6), new.frequency.rounded(6), met(old.frequency == new.frequency));
    for (was, is) in old.outputs.iter().zip(&new.outputs) {
        let name = format!("pulse {} → {}", was.channel, is.channel);
        add(&name, was.pulse.rounded(6), is.pulse.rounded(6), met(was.pulse == is.pulse));
        let name = format!("duty {} → {}", was.channel, is.channel);
        add(&name, was.duty.rounded(6), is.duty.rounded(6), met(was.duty == is.duty));
    }
    let steps = |setting: &Setting| format!("{} steps", setting.steps);
    add("resolution", steps(old), steps(new), ChangeVerdict::of(new.steps.cmp(&old.steps)));
    add("step", old.step.rounded(4), new.step.rounded(4), ChangeVerdict::of(old.step.cmp(&new.step)));
    let lowest = |setting: &Setting| setting.ends.lowest.rounded(4);
    add("lowest duty", lowest(old), lowest(new), ChangeVerdict::of(old.ends.lowest.cmp(&new.ends.lowest)));
    let highest = |setting: &Setting| setting.ends.highest.rounded(6);
    add(
        "highest duty",
        highest(old),
        highest(new),
        ChangeVerdict::of(new.ends.highest.cmp(&old.ends.highest)),
    );
    let jitter = |setting: &Setting| setting.jitter.map_or(Time::ZERO, |jitter| jitter.peak_to_peak);
    let words = |time: Time| if time.value().is_zero() { "none".to_owned() } else { time.rounded(4) };
    let (was, is) = (jitter(old), jitter(new));
    add("jitter", words(was), words(is), ChangeVerdict::of(was.cmp(&is)));
    let (was, is) = (updates(&reading.timer, old)?, updates(&derivation.timer, new)?);
    for (what, was, is) in [("a new period", was.0, is.0), ("a new pulse", was.1, is.1)] {
        let buffered = |point: UpdatePoint| point != UpdatePoint::Immediate;
        let verdict = ChangeVerdict::of(buffered(is).cmp(&buffered(was)));
        add(what, format!("takes effect {}", was.words()), format!("takes effect {}", is.words()), verdict);
    }
    let (was, is) = (reading.clock.deviation, derivation.clock.deviation);
    // A tolerance that was not given says nothing.
    if was != Deviation::ZERO && is != Deviation::ZERO {
        let words = |deviation: Deviation| format!("± {}", deviation.told());
        add("clock", words(was), words(is), ChangeVerdict::of(was.cmp(&is)));
    }
    Ok(changes)
}

/// When a new top and a new compare value take effect.
fn updates(timer: &Timer, setting: &Setting) -> Result<(UpdatePoint, UpdatePoint)> {
    let mode = timer.mode(&setting.plan.mode)?;
    Ok((mode.updates.top, mode.updates.compare))
}
