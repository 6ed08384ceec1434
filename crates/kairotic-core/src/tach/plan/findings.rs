//! What can be wrong with a timer that is to measure a speed.

use super::super::interval::gap;
use super::{Recommendation, TachPlan};
use crate::error::{OrOverflow, Result};
use crate::finding::{
    self, CatalogueUnsure, CounterOverflows, Finding, Overflow, SpeedStepTooCoarse, WindowTooShort,
};
use crate::part::{Part, Trust};
use crate::quantity::Time;
use crate::setting::findings::unsure;

/// Everything that is or may be wrong with a plan, worst first.
pub(super) fn of(part: &Part, plan: &TachPlan) -> Result<Vec<Finding>> {
    let mut found = Vec::new();
    let slowest = plan.speeds.low;
    if let Some(interval) = plan.interval.as_ref().filter(|interval| interval.slowest > slowest) {
        let wider = wider(part, plan, interval.counter_bits);
        let overflow = Overflow::BetweenPulses { speed: slowest, reach: interval.slowest, wider };
        found.push(CounterOverflows { bits: interval.counter_bits, overflow }.into());
    }
    let bits = plan.timer.block.counter_bits;
    if plan.counts_pulses && plan.window.needed_bits > bits {
        let overflow = Overflow::InWindow { window: plan.window.length, pulses: plan.window.counts.1 };
        found.push(CounterOverflows { bits, overflow }.into());
    }
    if plan.window.slowest > slowest {
        let needed = gap(slowest, plan.pulses_per_turn)?;
        let alone = plan.interval.is_none();
        found.push(WindowTooShort { window: plan.window.length, speed: slowest, needed, alone }.into());
    }
    coarse(plan, &mut found)?;
    match &plan.timer.block.inputs {
        None => {
            let timer = plan.timer.path();
            let fact = format!("the catalogue does not say whether {timer} can time pulses, or count them");
            found.push(CatalogueUnsure { fact, document: None }.into());
        }
        Some(inputs) => {
            for fact in inputs.facts.iter().filter(|fact| fact.trust == Trust::Unsure) {
                found.push(unsure(&plan.timer, fact));
            }
        }
    }
    finding::sort(&mut found);
    Ok(found)
}

/// Another timer of the part with a wider counter that can capture.
fn wider(part: &Part, plan: &TachPlan, bits: u32) -> Option<(String, u32)> {
    part.timers.iter().map(|timer| &timer.name).filter(|name| **name != plan.timer.name).find_map(|name| {
        let timer = part.timer(name, None).ok()?;
        let inputs = timer.block.inputs.as_ref()?;
        let width = inputs.counter_bits.unwrap_or(timer.block.counter_bits);
        (inputs.capture && width > bits).then(|| (name.clone(), width))
    })
}

/// The wanted step, where the leading method of some speed is coarser.
fn coarse(plan: &TachPlan, found: &mut Vec<Finding>) -> Result<()> {
    let Some(resolve) = plan.resolve else { return Ok(()) };
    // Steps of intervals grow with the speed and those of the window stay: what is too coarse is so at the fastest speed
    // that a method is used for.
    let fastest = plan.at(plan.speeds.high)?;
    let by_interval = fastest.interval.as_ref().filter(|_| plan.recommendation == Recommendation::Period);
    let reading = by_interval.unwrap_or(&fastest.window);
    if reading.step <= resolve {
        return Ok(());
    }
    let times = reading.step.ratio_to(resolve)?.ceiling();
    let window = Time::new(
        plan.window
            .step
            .value()
            .over(resolve.value())
            .and_then(|times| times.times(plan.window.length.value()))
            .or_overflow("window")?,
    );
    let together =
        by_interval.map(|_| u64::try_from(times).ok().or_overflow("step of the speed")).transpose()?;
    let (speed, step) = (plan.speeds.high, reading.step);
    found.push(SpeedStepTooCoarse { speed, step, wanted: resolve, together, window }.into());
    Ok(())
}
