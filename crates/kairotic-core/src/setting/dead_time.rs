//! From a wanted dead time to a code, and back.

use super::{PlannedChannel, PlannedDeadTime};
use crate::error::{Error, OrOverflow, Result};
use crate::part::{DeadTime, DeadUnit, Timer};
use crate::quantity::{Frequency, Rational, Time};
use crate::target::Level;

/// The code for the shortest dead time that is not shorter than wanted, with the smallest division that reaches it.
///
/// # Errors
/// [`Error::NoDeadTime`] where the timer has none, or none as long.
pub(crate) fn plan(
    timer: &Timer,
    channels: &[PlannedChannel],
    clock: Frequency,
    tick: Time,
    wanted: Time,
) -> Result<PlannedDeadTime> {
    let refused = |why: String| Error::NoDeadTime { timer: timer.path(), why };
    let generator = timer.dead_time.as_ref();
    let dead_time = generator.ok_or_else(|| refused("it has no dead time generator here".to_owned()))?;
    if channels.is_empty() {
        return Err(refused(
            "it is one between a signal and its complement; ask for a signal as well".to_owned(),
        ));
    }
    if let Some(lone) = channels.iter().find(|channel| !dead_time.outputs.contains_key(&channel.label)) {
        return Err(refused(format!("channel {} has no complementary output", lone.label)));
    }
    for channel in channels.iter().filter(|channel| channel.level == Level::Low) {
        if fixes_polarity(timer, dead_time, &channel.label)? {
            return Err(refused(format!("with its complement on, channel {} is active high", channel.label)));
        }
    }
    let mut longest = Rational::ZERO;
    for tap in dead_time.divisions() {
        let unit = unit(dead_time, clock, tick.value(), tap.by)?;
        let counts = wanted.value().over(unit).or_overflow("dead time")?;
        let whole = counts.ceiling();
        let code = u64::try_from(whole.max(0)).ok().and_then(|counts| dead_time.code_of(counts));
        if let Some(code) = code {
            return Ok(PlannedDeadTime { divider: tap.code, code });
        }
        longest = longest.max(unit.times(dead_time.most().into()).or_overflow("dead time")?);
    }
    Err(refused(format!("its longest is {}", Time::new(longest).rounded(5))))
}

/// Whether the field that switches a channel's complement on is the one that inverts the channel.
fn fixes_polarity(timer: &Timer, dead_time: &DeadTime, label: &str) -> Result<bool> {
    let Some(polarity) = &timer.block.polarity else { return Ok(false) };
    let Some(field) = timer.role(timer.channel(label)?, &polarity.role)? else { return Ok(false) };
    let mut fields = dead_time.outputs.get(label).into_iter().flatten();
    fields.try_fold(false, |found, wanted| Ok(found || timer.field(&wanted.field)? == field))
}

/// How long a planned dead time is.
pub(crate) fn length_of(
    timer: &Timer,
    clock: Frequency,
    tick: Rational,
    plan: Option<PlannedDeadTime>,
) -> Result<Option<Time>> {
    let (Some(plan), Some(dead_time)) = (plan, &timer.dead_time) else { return Ok(None) };
    let tap = dead_time.divisions().into_iter().find(|tap| tap.code == plan.divider);
    let counts = tap.zip(dead_time.counts_of(plan.code));
    let Some((tap, counts)) = counts else {
        let name = timer.slot(dead_time.slots.first().map_or(&[][..], Vec::as_slice))?.name();
        let why = "is no dead time".to_owned();
        return Err(Error::RegisterValue {
            name,
            value: plan.code,
            why,
            legal: "see the reference manual".to_owned(),
        });
    };
    let unit = unit(dead_time, clock, tick, tap.by)?;
    unit.times(counts.into()).or_overflow("dead time").map(|time| Some(Time::new(time)))
}

/// One count of a dead time generator.
fn unit(dead_time: &DeadTime, clock: Frequency, tick: Rational, by: u32) -> Result<Rational> {
    let one = match dead_time.counts {
        DeadUnit::Clocks => Rational::ONE.over(clock.value()),
        DeadUnit::Ticks => Some(tick),
    };
    one.and_then(|one| one.times(by.into())).or_overflow("dead time")
}
