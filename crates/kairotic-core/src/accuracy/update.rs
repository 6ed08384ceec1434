//! What happens when the firmware writes a new compare value.

use serde::Serialize;

use crate::error::Result;
use crate::part::{Timer, UpdatePoint};
use crate::quantity::{Range, Time};
use crate::setting::Setting;

/// What happens when the firmware writes a new compare value.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
pub struct Update {
    /// When the value takes effect.
    pub point: UpdatePoint,
    /// The longest that the signal goes on with the old value.
    pub wait: Time,
    /// How much longer one pulse can come out, where the value can take effect in the middle of it.
    pub glitch: Option<Time>,
    /// The latest time after a period's start at which the value may be written without that; where it takes effect at
    /// once.
    pub safe_until: Option<Time>,
}

/// What an update does to a setting whose shortest pulse is known. A value that takes effect at once and is below the
/// counter already is not met any more in this period: the output stays active to its end.
pub(super) fn update(
    timer: &Timer,
    setting: &Setting,
    shortest: Time,
    latency: Option<Range<Time>>,
) -> Result<Update> {
    let point = timer.mode(&setting.plan.mode)?.updates.compare;
    if point != UpdatePoint::Immediate {
        return Ok(Update { point, wait: setting.period, glitch: None, safe_until: None });
    }
    let safe = latency.is_some_and(|latency| latency.high < shortest);
    let rest = setting.period.less(shortest)?.value();
    Ok(Update {
        point,
        wait: latency.map_or(setting.period, |latency| latency.high),
        glitch: (!safe).then_some(Time::new(rest)),
        safe_until: Some(shortest),
    })
}
