//! A new compare value while the timer runs: which registers take which part of it, and what takes it over.

use serde::Serialize;

use super::TimerPlan;
use super::draft::Draft;
use super::step::{Phase, RegisterPlace};
use super::timer::{known, phase_of};
use super::transfer::{CompareTransfer, compare_transfer};
use crate::error::Result;
use crate::part::{Access, Channel, CompareLaw, FieldIs, Hold, Part, ReachedBy, UpdatePoint, WriteOrder};

/// How a new compare value is written.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
pub struct CompareUpdate {
    /// The registers that take it, in their order.
    pub parts: Vec<ComparePart>,
    /// The transfer that brings it instead, for a part at the end of a bus.
    pub transfer: Option<CompareTransfer>,
    /// What takes it over, after that.
    pub then: Vec<TakeOver>,
    /// When it takes effect.
    pub update: UpdatePoint,
    /// The largest compare value that its registers hold.
    pub largest: u64,
}

/// A register that takes a part of a compare value.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
pub struct ComparePart {
    /// The register.
    pub register: RegisterPlace,
    /// By how many bits the compare value is shifted down for it.
    pub down: u32,
    /// By how many bits what is left is shifted up into its place.
    pub up: u32,
    /// The bits of the register that take it.
    pub mask: u64,
    /// The bits of the register that there are.
    pub bits: u32,
    /// Which word of a buffer in memory it is, where it is one.
    pub word: Option<usize>,
}

/// A field that is written before or after new compare values.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
pub struct TakeOver {
    /// The register.
    pub register: RegisterPlace,
    /// The field's bits.
    pub mask: u64,
    /// Their value, in place.
    pub value: u64,
    /// What it is for.
    pub means: String,
}

/// How a new compare value of a channel is written; `None` where more than its compare registers would have to change: in
/// modes whose ends other fields make, and whose pulses end where the register says. Behind a bus one transfer brings all of
/// that.
///
/// # Errors
/// A channel that the timer does not have.
pub fn compare_update(part: &Part, plan: &TimerPlan, label: &str) -> Result<Option<CompareUpdate>> {
    let timer = &plan.timer;
    let (mode, channel) = (timer.mode(&plan.setting.plan.mode)?, timer.channel(label)?);
    let by = part.memory.as_ref().map(|memory| memory.reach).unwrap_or_default();
    if let Some(transfer) = compare_transfer(part, plan, label)? {
        let (parts, then, largest) = (Vec::new(), Vec::new(), transfer.full_from);
        return Ok(Some(CompareUpdate {
            parts,
            transfer: Some(transfer),
            then,
            update: mode.updates.compare,
            largest,
        }));
    }
    let moved = mode.start.as_ref().is_some_and(|start| start.holds_end);
    let fixed = !matches!(mode.compare, CompareLaw::Linear(_)) || mode.has_top_in(channel);
    if fixed || mode.ends.is_some() || moved || by != ReachedBy::Memory {
        return Ok(None);
    }
    let draft = Draft::of(part);
    let slot = timer.slot(channel.renewed())?;
    let buffer: Vec<&String> = timer
        .block
        .registers
        .iter()
        .filter(|(_, register)| register.access == Access::Buffer)
        .map(|(name, _)| name)
        .collect();
    let mut parts = Vec::new();
    let mut below = slot.width();
    for field in &slot.0 {
        below -= field.width;
        let known = known(&draft, timer, &field.register);
        let word = buffer.iter().position(|name| **name == field.register);
        let (bits, mask) = (known.register.bits, field.mask());
        parts.push(ComparePart { register: known.place, down: below, up: field.low, mask, bits, word });
    }
    let then = take_over(&draft, plan, channel)?;
    let (update, largest) = (mode.updates.compare, slot.largest());
    Ok(Some(CompareUpdate { parts, transfer: None, then, update, largest }))
}

/// What keeps new compare values of a timer's channels from being taken over, and what lets them go.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
pub struct HeldUpdate {
    /// What holds them.
    pub begin: TakeOver,
    /// What lets them go: they take effect together at the next update.
    pub end: TakeOver,
}

/// How several channels of a timer get their new compare values together; `None` where nothing holds them, or where a new
/// value takes effect at once.
///
/// # Errors
/// A mode or a field that the timer does not have.
pub fn held_update(part: &Part, plan: &TimerPlan) -> Result<Option<HeldUpdate>> {
    let timer = &plan.timer;
    let buffered = timer.mode(&plan.setting.plan.mode)?.updates.compare != UpdatePoint::Immediate;
    let Some(Hold { begin, end, means }) = timer.block.order.hold.as_ref().filter(|_| buffered) else {
        return Ok(None);
    };
    let draft = Draft::of(part);
    let write = |wanted: &FieldIs, means: &str| -> Result<TakeOver> {
        let field = timer.field(&wanted.field)?;
        let register = known(&draft, timer, &field.register).place;
        let (mask, value) = (field.mask(), field.in_place(wanted.value));
        Ok(TakeOver { register, mask, value, means: means.to_owned() })
    };
    let end = write(end, "what waits is taken over at the next update")?;
    Ok(Some(HeldUpdate { begin: write(begin, means)?, end }))
}

/// The fields that take a compare value of a channel over.
fn take_over(draft: &Draft<'_>, plan: &TimerPlan, channel: &Channel) -> Result<Vec<TakeOver>> {
    let timer = &plan.timer;
    let others = |name: &String| {
        let others = timer.block.channels.iter().filter(|other| other.label != channel.label);
        others.flat_map(|other| other.roles.values()).any(|role| role == name)
    };
    let mut all = Vec::new();
    for write in plan.setting.writes(timer)? {
        let name = write.name();
        let order = &timer.block.order;
        let anew = order.update.iter().any(|entry| WriteOrder::means(entry, &name));
        let started = phase_of(order, &name) == Phase::Start && !timer.block.pointers.is_empty();
        let Some(value) = write.written.number().filter(|_| (anew || started) && !others(&name)) else {
            continue;
        };
        let field = timer.field(&name)?;
        all.push(TakeOver {
            register: known(draft, timer, &field.register).place,
            mask: field.mask(),
            value: field.in_place(value),
            means: write.note,
        });
    }
    Ok(all)
}
