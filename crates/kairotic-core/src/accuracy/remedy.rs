//! What would make the largest contribution smaller: tried, not guessed.

use std::fmt;

use serde::Serialize;

use super::budget::{Budget, BudgetRequest, drawn_up};
use super::conditions::Conditions;
use super::contribution::Cause;
use crate::error::Result;
use crate::finding::Remedy;
use crate::part::{Part, UpdatePoint};
use crate::quantity::{Deviation, Frequency, Rational, Time, Tolerance};
use crate::search::{DeriveRequest, Prefer};
use crate::survey;

/// What an ordinary crystal is off by at most, over temperature and age, in parts per million.
const CRYSTAL_PPM: i128 = 100;

/// A change that makes the budget smaller.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
pub struct Improvement {
    /// What to change.
    pub change: Change,
    /// The registers that go with it, where they are others: the division, and the top's register and value.
    pub registers: Option<(Rational, Option<(String, u64)>)>,
    /// What the pulse is off by at worst then.
    pub worst: Time,
}

/// What to change.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
#[serde(rename_all = "snake_case")]
pub enum Change {
    /// The oscillator: a crystal within this, over temperature and age.
    Crystal(Deviation),
    /// The setting: the one of the same timer with the smallest error.
    ExactSetting,
    /// The timer: another one of the part.
    Timer(String),
    /// The clock: its highest.
    Clock(Frequency),
}

impl fmt::Display for Change {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self {
            Self::Crystal(deviation) => write!(f, "a crystal within {deviation} over temperature and age"),
            Self::ExactSetting => f.write_str("the setting of the same timer with the smallest error"),
            Self::Timer(timer) => write!(f, "timer {timer}"),
            Self::Clock(clock) => write!(f, "a clock of {clock}"),
        }
    }
}

/// The cheapest change that makes the worst case of the pulse smaller, where one of those that are tried does: another
/// setting of the same timer, then a crystal for a clock, then another timer of the part, then its highest clock.
pub(super) fn remedy(part: &Part, request: &BudgetRequest, now: &Budget) -> Result<Option<Improvement>> {
    let Some(largest) = now.largest.and_then(|place| now.contributions.get(place)) else { return Ok(None) };
    let before = now.totals.worst.worst_pulse();
    let tried: Vec<(Change, BudgetRequest)> = if largest.cause.is_clock() {
        crystal(request, now)
    } else {
        settings(part, request, now, largest.cause)?
    };
    for (change, request) in tried {
        let Ok(then) = drawn_up(part, &request) else { continue };
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
fn crystal(request: &BudgetRequest, now: &Budget) -> Vec<(Change, BudgetRequest)> {
    let Some(deviation) = Rational::new(CRYSTAL_PPM, 1_000_000).map(Deviation::new) else {
        return Vec::new();
    };
    let nominal = now.derivation.clock.nominal;
    let conditions = Conditions {
        oscillator: None,
        temperature: None,
        ageing: None,
        trim: None,
        ..request.conditions.clone()
    };
    let derive = DeriveRequest { clock: Some(Tolerance { nominal, deviation }), ..request.derive.clone() };
    vec![(Change::Crystal(deviation), BudgetRequest { derive, conditions, ..request.clone() })]
}

/// Other settings: the exact one of the timer, other timers at the same clock, the timer at its highest clock.
fn settings(
    part: &Part,
    request: &BudgetRequest,
    now: &Budget,
    cause: Cause,
) -> Result<Vec<(Change, BudgetRequest)>> {
    if matches!(cause, Cause::Pll | Cause::Edges | Cause::Load) {
        return Ok(Vec::new());
    }
    let with = |derive: DeriveRequest| BudgetRequest { derive, ..request.clone() };
    let plain = DeriveRequest { mode: None, prefer: None, dither: false, ..request.derive.clone() };
    let mut tried = vec![(
        Change::ExactSetting,
        with(DeriveRequest { prefer: Some(Prefer::Exact), ..request.derive.clone() }),
    )];
    let clock = request.derive.clock;
    // Timers of one kind all make the same.
    for (_, alike) in survey::kinds(part) {
        let Some(timer) = alike.into_iter().find(|name| *name != request.derive.timer) else { continue };
        let change = Change::Timer(timer.clone());
        let derive = DeriveRequest { timer, channel: None, base: None, clock, ..plain.clone() };
        for prefer in [None, Some(Prefer::Exact)] {
            tried.push((change.clone(), with(DeriveRequest { prefer, ..derive.clone() })));
        }
    }
    let nominal = now.derivation.timer.clock.maximum;
    if nominal > now.derivation.clock.nominal {
        let clock = Some(Tolerance { nominal, ..now.derivation.clock });
        // From the same oscillator, by way of a PLL: it is off as far as now.
        let off = now.contributions.iter().filter(|one| one.cause.is_clock()).cloned().collect::<Vec<_>>();
        let [worst, _] = super::totals::reaches(&off)?;
        let given = now.derivation.clock.deviation > Deviation::ZERO;
        let temperature = if given { request.conditions.temperature } else { Some(worst.frequency) };
        let conditions = Conditions { temperature, ..request.conditions.clone() };
        let derive = DeriveRequest { clock, ..plain };
        tried.push((Change::Clock(nominal), BudgetRequest { derive, conditions, ..request.clone() }));
    }
    Ok(tried)
}

/// Division and top of a budget's setting, as they are written.
fn registers(budget: &Budget) -> (Rational, Option<(String, u64)>) {
    let setting = &budget.derivation.best.setting;
    (setting.divider, setting.top_register.as_ref().map(|name| (name.clone(), setting.plan.top)))
}

/// Where a compare value is buffered: another mode of the timer, or another timer of the part.
pub(super) fn buffered(part: &Part, request: &BudgetRequest) -> Result<Option<Remedy>> {
    let works = |derive: DeriveRequest| {
        let then = drawn_up(part, &BudgetRequest { derive, ..request.clone() }).ok()?;
        let fine = then.derivation.best.fit.within && then.update.point != UpdatePoint::Immediate;
        fine.then_some(then)
    };
    let own = part.timer(&request.derive.timer, request.derive.base.as_deref())?;
    let modes = own.block.modes.iter().filter(|mode| mode.updates.compare != UpdatePoint::Immediate);
    for mode in modes {
        let derive = DeriveRequest { mode: Some(mode.name.clone()), ..request.derive.clone() };
        if works(derive).is_some() {
            return Ok(Some(Remedy::UseBufferedMode(mode.name.clone())));
        }
    }
    for instance in part.timers.iter().filter(|instance| instance.name != request.derive.timer) {
        let timer = instance.name.clone();
        let derive = DeriveRequest { timer, channel: None, base: None, mode: None, ..request.derive.clone() };
        if works(derive).is_some() {
            return Ok(Some(Remedy::UseBufferedTimer(instance.name.clone())));
        }
    }
    Ok(None)
}
