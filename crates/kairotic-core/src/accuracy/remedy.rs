//! What would make the largest contribution smaller: tried, not guessed.

use super::budget::{Budget, BudgetRequest, drawn_up};
use super::conditions::Conditions;
use super::contribution::Cause;
use crate::error::Result;
use crate::part::{Part, UpdatePoint};
use crate::quantity::{Deviation, Rational, Time, Tolerance};
use crate::search::{DeriveRequest, Prefer};
use crate::survey;

/// What an ordinary crystal is off by at most, over temperature and age, in parts per million.
const CRYSTAL_PPM: i128 = 100;

/// A change that makes the budget smaller.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Remedy {
    /// What to change.
    pub says: String,
    /// What the pulse is off by at worst then.
    pub worst: Time,
}

/// The cheapest change that makes the worst case of the pulse smaller, where one of those that are tried does: another
/// setting of the same timer, then a crystal for a clock, then another timer of the part, then its highest clock.
pub(super) fn remedy(part: &Part, request: &BudgetRequest, now: &Budget) -> Result<Option<Remedy>> {
    let Some(largest) = now.largest.and_then(|place| now.contributions.get(place)) else { return Ok(None) };
    let before = now.totals.worst.worst_pulse();
    let tried: Vec<(String, BudgetRequest)> = if largest.cause.is_clock() {
        crystal(request, now)
    } else {
        settings(part, request, now, largest.cause)?
    };
    for (says, request) in tried {
        let Ok(then) = drawn_up(part, &request) else { continue };
        let worst = then.totals.worst.worst_pulse();
        if worst < before && then.derivation.best.fit.within {
            let same = then.derivation.best.setting.plan == now.derivation.best.setting.plan;
            let registers = if same { String::new() } else { registers(&then) };
            return Ok(Some(Remedy { says: format!("{says}{registers}"), worst }));
        }
    }
    Ok(None)
}

/// A crystal in place of the oscillator.
fn crystal(request: &BudgetRequest, now: &Budget) -> Vec<(String, BudgetRequest)> {
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
    let says = format!("a crystal within {} over temperature and age", deviation.told());
    vec![(says, BudgetRequest { derive, conditions, ..request.clone() })]
}

/// Other settings: the exact one of the timer, other timers at the same clock, the timer at its highest clock.
fn settings(
    part: &Part,
    request: &BudgetRequest,
    now: &Budget,
    cause: Cause,
) -> Result<Vec<(String, BudgetRequest)>> {
    if matches!(cause, Cause::Pll | Cause::Edges | Cause::Load) {
        return Ok(Vec::new());
    }
    let with = |derive: DeriveRequest| BudgetRequest { derive, ..request.clone() };
    let plain = DeriveRequest { mode: None, prefer: None, dither: false, ..request.derive.clone() };
    let mut tried = vec![(
        "the same timer with derive --prefer exact".to_owned(),
        with(DeriveRequest { prefer: Some(Prefer::Exact), ..request.derive.clone() }),
    )];
    let clock = request.derive.clock;
    // Timers of one kind all make the same.
    for (_, alike) in survey::kinds(part) {
        let Some(timer) = alike.into_iter().find(|name| *name != request.derive.timer) else { continue };
        let says = format!("timer {timer}");
        let derive = DeriveRequest { timer, channel: None, base: None, clock, ..plain.clone() };
        for prefer in [None, Some(Prefer::Exact)] {
            tried.push((says.clone(), with(DeriveRequest { prefer, ..derive.clone() })));
        }
    }
    let nominal = now.derivation.timer.clock.maximum;
    if nominal > now.derivation.clock.nominal {
        let clock = Some(Tolerance { nominal, ..now.derivation.clock });
        let says = format!("a clock of {}", nominal.told());
        // From the same oscillator, by way of a PLL: it is off as far as now.
        let off = now.contributions.iter().filter(|one| one.cause.is_clock()).cloned().collect::<Vec<_>>();
        let [worst, _] = super::totals::reaches(&off)?;
        let given = now.derivation.clock.deviation > Deviation::ZERO;
        let temperature = if given { request.conditions.temperature } else { Some(worst.frequency) };
        let conditions = Conditions { temperature, ..request.conditions.clone() };
        let derive = DeriveRequest { clock, ..plain };
        tried.push((says, BudgetRequest { derive, conditions, ..request.clone() }));
    }
    Ok(tried)
}

/// Division and top of a budget's setting, as they are written.
fn registers(budget: &Budget) -> String {
    let setting = &budget.derivation.best.setting;
    let top = setting.top_register.as_ref().map(|name| format!(", {name} {}", setting.plan.top));
    format!(": divide by {}{}", crate::setting::mixed(setting.divider), top.unwrap_or_default())
}

/// Where a compare value is buffered, in words: another mode of the timer, or another timer of the part.
pub(super) fn buffered(part: &Part, request: &BudgetRequest) -> Result<Option<String>> {
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
            return Ok(Some(format!("--mode {} of the same timer buffers it", mode.name)));
        }
    }
    for instance in part.timers.iter().filter(|instance| instance.name != request.derive.timer) {
        let timer = instance.name.clone();
        let derive = DeriveRequest { timer, channel: None, base: None, mode: None, ..request.derive.clone() };
        if works(derive).is_some() {
            return Ok(Some(format!("timer {} buffers it", instance.name)));
        }
    }
    Ok(None)
}
