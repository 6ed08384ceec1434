//! The one register that would make a frequency that the registers do not: with all others as they are.

use crate::error::{OrOverflow, Result};
use crate::finding::Remedy;
use crate::part::{Mode, Timer, TopSource};
use crate::quantity::{Deviation, Frequency, Rational};
use crate::setting::{RegisterPlan, Setting};

/// The changes of one register that bring a setting within a tolerance of a frequency: of the top, and of each divider.
pub(crate) fn single_changes(
    timer: &Timer,
    mode: &Mode,
    setting: &Setting,
    wanted: Frequency,
    within: Deviation,
) -> Result<Vec<Remedy>> {
    let plan = RegisterPlan { channels: Vec::new(), ..setting.plan.clone() };
    let ratio = setting.frequency.ratio_to(wanted)?;
    let meets = |plan: RegisterPlan| -> Result<bool> {
        // A value that gives nothing is no remedy.
        let Ok(made) = Setting::evaluate(timer, setting.clock, plan) else { return Ok(false) };
        Ok(made.frequency.relative_to(wanted)?.magnitude() <= within)
    };
    let top_name = setting.top_register.clone().unwrap_or_default();
    let names = timer.block.dividers.iter().map(|stage| Ok(timer.slot(&stage.slot)?.name()));
    let names = names.collect::<Result<Vec<String>>>()?;
    let mut found = Vec::new();
    if let (false, Some(top)) =
        (matches!(mode.top, TopSource::Fixed(_)), nearest_top(timer, mode, setting, ratio)?)
        && meets(RegisterPlan { top, ..plan.clone() })?
    {
        found.push(Remedy::WriteRegister { field: top_name.clone(), value: top, keep: names.clone() });
    }
    for (place, (stage, name)) in timer.block.dividers.iter().zip(&names).enumerate() {
        let Some(division) = setting.divisions.get(place).and_then(|division| division.times(ratio)) else {
            continue;
        };
        let codes = stage.steps.every().into_iter().map(|(_, code)| code);
        let off = |code: &u64| Some(stage.steps.meaning(*code)?.minus(division)?.magnitude());
        let Some(value) = codes.filter(|code| off(code).is_some()).min_by_key(|code| off(code)) else {
            continue;
        };
        let mut changed = plan.clone();
        if let Some(slot) = changed.dividers.get_mut(place) {
            *slot = value;
        }
        if meets(changed)? {
            let others = names.iter().filter(|other| *other != name).chain(Some(&top_name));
            let keep = others.filter(|name| !name.is_empty()).cloned().collect();
            found.push(Remedy::WriteRegister { field: name.clone(), value, keep });
        }
    }
    Ok(found)
}

/// The legal top whose period is so many times as long, as nearly as there is one.
fn nearest_top(timer: &Timer, mode: &Mode, setting: &Setting, ratio: Rational) -> Result<Option<u64>> {
    let ticks = Rational::from(setting.ticks).times(ratio).or_overflow("period")?;
    let (per_top, plus) = (Rational::from(mode.period.per_top), Rational::from(mode.period.plus));
    let top = ticks.minus(plus).and_then(|ticks| ticks.over(per_top)).or_overflow("period")?;
    let half = Rational::new(1, 2).or_overflow("period")?;
    let nearest = u64::try_from(top.plus(half).or_overflow("period")?.floor()).ok();
    let (least, most) = timer.top_limits(mode)?;
    Ok(nearest.filter(|top| (least..=most).contains(top)))
}
