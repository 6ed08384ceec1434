//! A new compare value of a part at the end of a bus: the one transfer that brings it.

use serde::Serialize;

use super::TimerPlan;
use super::draft::Draft;
use super::timer::known;
use crate::error::Result;
use crate::part::{CompareLaw, Part, ReachedBy, Register};
use crate::setting::{RegisterPlan, Setting};

/// How a new compare value goes over a bus: in one transfer, whatever it is.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
pub struct CompareTransfer {
    /// The device's address, seven bits.
    pub device: u8,
    /// The registers, the first of which the transfer begins with.
    pub registers: Vec<String>,
    /// The bytes for an output that is constantly inactive: the register's address, and what goes there and behind it.
    pub zero: Vec<u8>,
    /// The same for one that is constantly active.
    pub full: Vec<u8>,
    /// The compare value, or a larger one, that makes it so.
    pub full_from: u64,
    /// The bytes for all others, to which the count is added.
    pub between: Vec<u8>,
    /// Where the count's lowest byte stands in them.
    pub at: usize,
    /// The bits of the count.
    pub bits: u32,
    /// What is added to the compare value for it: the pulse's start.
    pub start: u64,
    /// Ticks in a period, at which the count begins anew.
    pub period: u64,
}

/// The transfer that brings a channel a new compare value; `None` for what is not at the end of a bus, and where one
/// transfer does not do it.
///
/// # Errors
/// A channel that the timer does not have.
pub(super) fn compare_transfer(
    part: &Part,
    plan: &TimerPlan,
    label: &str,
) -> Result<Option<CompareTransfer>> {
    let timer = &plan.timer;
    let (mode, channel) = (timer.mode(&plan.setting.plan.mode)?, timer.channel(label)?);
    let reach = part.memory.as_ref().map(|memory| memory.reach).unwrap_or_default();
    let (ReachedBy::I2c { address: device }, CompareLaw::Linear(law)) = (reach, &mode.compare) else {
        return Ok(None);
    };
    let mut names = Vec::new();
    let ends = mode.ends.iter().flat_map(|ends| [&ends.zero.role, &ends.full.role]);
    for role in ends.chain(mode.start.iter().map(|start| &start.role)) {
        names.extend(timer.role(channel, role)?.map(|field| field.register));
    }
    let slot = timer.compare_slot(mode, channel)?;
    let [count] = slot.0.as_slice() else { return Ok(None) };
    names.push(count.register.clone());
    let Some(block) = RegisterRun::of(part, plan, names) else { return Ok(None) };
    let ends = (law.zero.value(plan.setting.plan.top), law.full.value(plan.setting.plan.top));
    let (Some(zero), Some(full_from)) = ends else { return Ok(None) };
    // What is between the ends is one bit pattern with the count in it.
    let (Some(at), true) = (block.offset(&count.register), zero == 0 && count.low == 0 && full_from > 1)
    else {
        return Ok(None);
    };
    let start = plan.setting.plan.channels.iter().find(|planned| planned.label == label);
    let mut transfer = CompareTransfer {
        device,
        registers: block.names(),
        zero: block.bytes(plan, label, 0)?,
        full: block.bytes(plan, label, full_from)?,
        full_from,
        between: block.bytes(plan, label, 1)?,
        at: at + 1,
        bits: count.width,
        start: start.map_or(0, |planned| planned.start),
        period: plan.setting.ticks,
    };
    for (byte, number) in transfer.between.iter_mut().skip(transfer.at).zip(0_u32..) {
        let mask = u8::try_from((count.mask() >> (8 * number)) & 0xFF).unwrap_or(0);
        *byte &= !mask;
    }
    Ok(Some(transfer))
}

/// Registers that follow one another, in the order of their addresses.
struct RegisterRun(Vec<(String, u64, Register)>);

impl RegisterRun {
    /// `None` where there is a gap, or where an address does not fit a byte.
    fn of(part: &Part, plan: &TimerPlan, names: Vec<String>) -> Option<Self> {
        let draft = Draft::of(part);
        let mut all = Vec::new();
        for name in names {
            let found = known(&draft, &plan.timer, &name);
            all.push((name, found.place.address?, found.register));
        }
        all.sort_by_key(|(_, address, _)| *address);
        all.dedup_by(|(left, ..), (right, ..)| left == right);
        let follow = |pair: &[(String, u64, Register)]| match pair {
            [(_, address, register), (_, next, _)] => address + u64::from(bytes_of(register)) == *next,
            _ => true,
        };
        let fits = all.first().is_some_and(|(_, address, _)| u8::try_from(*address).is_ok());
        (fits && all.windows(2).all(follow)).then_some(Self(all))
    }

    fn names(&self) -> Vec<String> {
        self.0.iter().map(|(name, ..)| name.clone()).collect()
    }

    /// Where a register's first byte stands.
    fn offset(&self, name: &str) -> Option<usize> {
        let place = self.0.iter().position(|(known, ..)| known == name)?;
        let before = self.0.iter().take(place).map(|(_, _, register)| bytes_of(register)).sum::<u32>();
        usize::try_from(before).ok()
    }

    /// The transfer that makes a compare value: the first address, and what the registers hold.
    fn bytes(&self, plan: &TimerPlan, label: &str, compare: u64) -> Result<Vec<u8>> {
        let mut registers: RegisterPlan = plan.setting.plan.clone();
        for planned in registers.channels.iter_mut().filter(|planned| planned.label == label) {
            planned.compare = Some(compare);
        }
        let setting = Setting::evaluate(&plan.timer, plan.setting.clock, registers)?;
        let writes = setting.writes(&plan.timer)?;
        let mut bytes: Vec<u8> =
            self.0.first().and_then(|(_, address, _)| u8::try_from(*address).ok()).into_iter().collect();
        for (name, _, register) in &self.0 {
            let mut holds = register.reset;
            for write in writes.iter().filter(|write| write.register == *name) {
                let field = plan.timer.field(&write.name())?;
                holds = (holds & !field.mask()) | field.in_place(write.written.number().unwrap_or(0));
            }
            let every = 0..bytes_of(register);
            bytes.extend(every.map(|byte| u8::try_from((holds >> (8 * byte)) & 0xFF).unwrap_or(0)));
        }
        Ok(bytes)
    }
}

const fn bytes_of(register: &Register) -> u32 {
    register.bits.div_ceil(8)
}
