//! The registers of a timer, in the order that its block asks for.

use super::TimerPlan;
use super::draft::{Draft, KnownRegister};
use super::recipe::{Purpose, trust};
use super::step::{Action, Phase, RegisterPlace};
use crate::error::Result;
use crate::part::{Access, Timer, Trust, WriteOrder};
use crate::setting::{FieldWrite, Written};

/// Adds what a timer needs before its registers can be written.
pub(super) fn gate(draft: &mut Draft<'_>, plan: &TimerPlan) -> Result<()> {
    let (part, name) = (draft.part, &plan.timer.name);
    let recipe = part.bring_up.as_ref().and_then(|bring_up| Some((bring_up, bring_up.timers.get(name)?)));
    match recipe {
        Some((bring_up, steps)) => {
            let purpose = Purpose { phase: Phase::Gate, of: name, trust: trust(&bring_up.facts) };
            draft.recipe(steps, purpose)
        }
        None => {
            let function = format!("enable_{}", name.replace('-', "_"));
            let why = format!("{name} may need a clock that is switched on and a reset that is released");
            draft.step(Phase::Gate, Action::Supply { function }, why, name, Trust::Unsure);
            Ok(())
        }
    }
}

/// Adds the fields of a timer that belong to a phase.
pub(super) fn fields(draft: &mut Draft<'_>, plan: &TimerPlan, phase: Phase) -> Result<()> {
    let (timer, part) = (&plan.timer, draft.part);
    let trust = part.memory.as_ref().map_or(Trust::Unsure, |memory| trust(&memory.facts));
    let writes = plan.setting.writes(timer)?;
    if phase == Phase::Values {
        buffer(draft, plan, &writes, trust);
    }
    for write in writes {
        let name = write.name();
        let field = timer.field(&name)?;
        let known = known(draft, timer, &field.register);
        if phase_of(&timer.block.order, &name) != phase || known.place.access == Access::Buffer {
            continue;
        }
        draft.field(&known, &field, write, &timer.name, trust)?;
    }
    Ok(())
}

/// Adds what has to be waited for after the writes of a phase.
pub(super) fn waits(draft: &mut Draft<'_>, plan: &TimerPlan, phase: Phase) -> Result<()> {
    let timer = &plan.timer;
    let trust = trust(&timer.block.facts);
    for wait in &timer.block.order.waits {
        if !draft.has_written(&wait.after, &timer.name, phase) {
            continue;
        }
        if let Some(until) = &wait.until {
            let field = timer.field(&until.field)?;
            let action = Action::Until {
                register: known(draft, timer, &field.register).place,
                mask: field.mask(),
                value: field.in_place(until.value),
            };
            draft.step(phase, action, &wait.means, &timer.name, trust);
        }
        if let Some(time) = wait.delay {
            draft.step(phase, Action::Delay { time }, &wait.means, &timer.name, trust);
        }
    }
    Ok(())
}

/// The phase of a field that is written by name.
pub(super) fn phase_of(order: &WriteOrder, name: &str) -> Phase {
    let groups = [
        (&order.first, Phase::Mode),
        (&order.load, Phase::Load),
        (&order.outputs, Phase::Outputs),
        (&order.start, Phase::Start),
    ];
    let has = |list: &[String]| list.iter().any(|entry| WriteOrder::means(entry, name));
    groups.into_iter().find(|(list, _)| has(list)).map_or(Phase::Values, |(_, phase)| phase)
}

/// A register of a timer as a program knows it.
pub(super) fn known(draft: &Draft<'_>, timer: &Timer, name: &str) -> KnownRegister {
    let part = draft.part;
    let register = timer.block.registers.get(name).cloned().unwrap_or_default();
    let address = part.address_of(timer, name);
    let place = RegisterPlace {
        name: format!("{}{name}", timer.prefix),
        address,
        bits: part.access_bits(&register),
        access: register.access,
    };
    KnownRegister { own: !is_shared(draft, timer, name, address), tracked: true, place, register }
}

/// Whether other timers of the part have something in a register too.
fn is_shared(draft: &Draft<'_>, timer: &Timer, name: &str, address: Option<u64>) -> bool {
    let others = draft.timers.iter().filter(|other| other.name != timer.name);
    let mut others = others.filter(|other| other.block.registers.contains_key(name));
    others.any(|other| match address {
        Some(address) => draft.part.address_of(other, name) == Some(address),
        None => other.prefix == timer.prefix,
    })
}

/// Adds the words in memory that the timer reads by itself.
fn buffer(draft: &mut Draft<'_>, plan: &TimerPlan, writes: &[FieldWrite], trust: Trust) {
    let registers = plan.timer.block.registers.iter();
    let words: Vec<_> = registers.filter(|(_, register)| register.access == Access::Buffer).collect();
    let Some((first, register)) = words.first() else { return };
    let word = |name: &str| {
        let here = writes.iter().filter(|write| write.register == name);
        here.fold(0_u64, |word, write| {
            let low = plan.timer.field(&write.name()).map_or(0, |field| field.low);
            match &write.written {
                Written::Number(number) => word | number.checked_shl(low).unwrap_or(0),
                Written::AddressOf(_) => word,
            }
        })
    };
    let action = Action::Buffer {
        name: format!("{}{first}", plan.timer.prefix),
        bits: register.bits,
        words: words.iter().map(|(name, _)| word(name)).collect(),
    };
    let why = "the compare values, which the timer reads from memory";
    draft.step(Phase::Values, action, why, &plan.timer.name, trust);
}
