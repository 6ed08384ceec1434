//! What would make the largest contribution smaller: tried, not guessed.

use std::fmt;

use serde::Serialize;

use super::super::contribution::ErrorSource;
use super::super::totals::reaches;
use super::{Budget, drawn_up};
use crate::error::Result;
use crate::finding::Remedy;
use crate::part::UpdatePoint;
use crate::quantity::{Deviation, Frequency, Rational, Time, Tolerance, units};
use crate::search::{Prefer, SearchOptions};
use crate::signal::{Conditions, SignalSpec};
use crate::survey;
use crate::target::Target;

/// What an ordinary crystal is off by at most, over temperature and age, in parts per million.
const CRYSTAL_PPM: u32 = 100;

/// A change that makes the budget smaller.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
pub struct Improvement {
    /// What to change.
    pub change: SpecChange,
    /// The registers that go with it, where they are others: the division, and the top's register and value.
    pub registers: Option<(Rational, Option<(String, u64)>)>,
    /// What the pulse is off by at worst then.
    pub worst: Time,
}

/// What to change.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
#[serde(rename_all = "snake_case")]
pub enum SpecChange {
    /// The oscillator: a crystal within this, over temperature and age.
    Crystal(Deviation),
    /// The setting: the one of the same timer with the smallest error.
    ExactSetting,
    /// The timer: another one of the part.
    Timer(String),
    /// The clock: its highest.
    Clock(Frequency),
}

impl fmt::Display for SpecChange {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self {
            Self::Crystal(deviation) => write!(f, "a crystal within {deviation} over temperature and age"),
            Self::ExactSetting => f.write_str("the setting of the same timer with the smallest error"),
            Self::Timer(timer) => write!(f, "timer {timer}"),
            Self::Clock(clock) => write!(f, "a clock of {clock}"),
        }
    }
}

/// A change with the signal and the search that it makes.
type Trial<'p> = (SpecChange, SignalSpec<'p>, SearchOptions);

/// The cheapest change that makes the worst case of the pulse smaller, where one of those that are tried does: another
/// setting of the same timer, then a crystal for a clock, then another timer of the part, then its highest clock.
pub(super) fn remedy(spec: &SignalSpec<'_>, now: &Budget) -> Result<Option<Improvement>> {
    let Some(largest) = now.largest.and_then(|place| now.contributions.get(place)) else { return Ok(None) };
    let before = now.totals.worst.worst_pulse();
    let tried = match largest.cause {
        cause if cause.is_clock() => crystal(spec, now),
        cause => settings(spec, now, cause)?,
    };
    for (change, spec, options) in tried {
        let Ok(then) = drawn_up(&spec, options) else { continue };
        let worst = then.totals.worst.worst_pulse();
        if worst < before && then.derivation.best.fit.within {
            let same = then.derivation.best.setting.plan == now.derivation.best.setting.plan;
            let registers = (!same).then(|| registers(&then));
            return Ok(Some(Improvement { change, registers, worst }));
        }
    }
    Ok(None)
}

/// A crystal in place of the oscillator.
fn crystal<'p>(spec: &SignalSpec<'p>, now: &Budget) -> Vec<Trial<'p>> {
    let deviation = units::ppm(CRYSTAL_PPM);
    let mut trial = spec.clone();
    trial.conditions =
        Conditions { oscillator: None, temperature: None, ageing: None, trim: None, ..trial.conditions };
    trial.on.clock = Some(Tolerance { nominal: now.derivation.clock.nominal, deviation });
    vec![(SpecChange::Crystal(deviation), trial, SearchOptions::default())]
}

/// Other settings: the exact one of the timer, other timers at the same clock, the timer at its highest clock.
fn settings<'p>(spec: &SignalSpec<'p>, now: &Budget, cause: ErrorSource) -> Result<Vec<Trial<'p>>> {
    if matches!(cause, ErrorSource::Pll | ErrorSource::Edges | ErrorSource::Load) {
        return Ok(Vec::new());
    }
    let plain = SearchOptions::default();
    let exact = SearchOptions { prefer: Some(Prefer::Exact), ..plain };
    let mut tried = vec![(SpecChange::ExactSetting, spec.clone(), exact)];
    // Timers of one kind all make the same.
    for (_, alike) in survey::kinds(spec.on.part) {
        let Some(timer) = alike.into_iter().find(|name| *name != spec.on.timer) else { continue };
        let trial = moved(spec, &timer);
        for options in [plain, exact] {
            tried.push((SpecChange::Timer(timer.clone()), trial.clone(), options));
        }
    }
    let nominal = now.derivation.timer.clock.maximum;
    if nominal > now.derivation.clock.nominal {
        let clock = Tolerance { nominal, ..now.derivation.clock };
        // From the same oscillator, by way of a PLL: it is off as far as now.
        let off = now.contributions.iter().filter(|one| one.cause.is_clock()).cloned().collect::<Vec<_>>();
        let [worst, _] = reaches(&off)?;
        let given = now.derivation.clock.deviation > Deviation::ZERO;
        let temperature = if given { spec.conditions.temperature } else { Some(worst.frequency) };
        let trial = SignalSpec {
            on: spec.on.clone().clocked(clock),
            target: Target { mode: None, ..spec.target.clone() },
            conditions: Conditions { temperature, ..spec.conditions.clone() },
            ..spec.clone()
        };
        tried.push((SpecChange::Clock(nominal), trial, plain));
    }
    Ok(tried)
}

/// The signal on another timer of the part.
fn moved<'p>(spec: &SignalSpec<'p>, timer: &str) -> SignalSpec<'p> {
    // Its channels and modes have other names.
    let target = Target { channel: None, mode: None, counter: None, ..spec.target.clone() };
    SignalSpec { on: spec.on.moved_to(timer), target, ..spec.clone() }
}

/// Division and top of a budget's setting, as they are written.
fn registers(budget: &Budget) -> (Rational, Option<(String, u64)>) {
    let setting = &budget.derivation.best.setting;
    (setting.divider, setting.top_register.as_ref().map(|name| (name.clone(), setting.plan.top)))
}

/// Where a compare value is buffered: another mode of the timer, or another timer of the part.
pub(super) fn buffered(spec: &SignalSpec<'_>) -> Result<Option<Remedy>> {
    let works = |trial: &SignalSpec<'_>| {
        drawn_up(trial, SearchOptions::default())
            .is_ok_and(|then| then.derivation.best.fit.within && then.update.point != UpdatePoint::Immediate)
    };
    let own = spec.on.timer()?;
    let modes = own.block.modes.iter().filter(|mode| mode.updates.compare != UpdatePoint::Immediate);
    for mode in modes {
        let target = Target { mode: Some(mode.name.clone()), ..spec.target.clone() };
        if works(&SignalSpec { target, ..spec.clone() }) {
            return Ok(Some(Remedy::UseBufferedMode(mode.name.clone())));
        }
    }
    let others = spec.on.part.timers.iter().filter(|instance| instance.name != spec.on.timer);
    let mut others = others.filter(|instance| works(&moved(spec, &instance.name)));
    Ok(others.next().map(|instance| Remedy::UseBufferedTimer(instance.name.clone())))
}
