//! How far a signal's clock may be off, and who says so.

use serde::Serialize;

use crate::error::{OrOverflow, Result};
use crate::quantity::{Deviation, Frequency, Range, Rational, Tolerance};
use crate::signal::SignalSpec;

/// One statement of how far a clock may be off.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
pub struct Statement {
    /// From the lowest to the highest deviation.
    pub within: Range<Deviation>,
    /// Who says so, and under which conditions.
    pub says: String,
}

/// How far a clock may be off, by what makes it so.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub(super) struct ClockErrors {
    pub(super) initial: Option<Statement>,
    pub(super) temperature: Option<Statement>,
    pub(super) ageing: Option<Statement>,
}

impl ClockErrors {
    /// What is known of a signal's clock: by the catalogue's oscillator where it is named, else by its own tolerance, else
    /// by the oscillator of the clock after reset where it is that.
    pub(super) fn of(
        SignalSpec { on, conditions, .. }: &SignalSpec<'_>,
        clock: Tolerance<Frequency>,
        after_reset: bool,
    ) -> Result<Self> {
        let part = on.part;
        let mut errors = Self::default();
        let named = conditions.oscillator.as_ref().and_then(|name| part.oscillator(name));
        if named.is_none() && clock.deviation > Deviation::ZERO {
            errors.initial = Some(Statement { within: both(clock.deviation)?, says: "as given".to_owned() });
        } else if named.is_some() || after_reset {
            let input = part.clocks.get(&part.instance(&on.timer)?.clock);
            let oscillator = named.or_else(|| input.and_then(|input| part.oscillator_after_reset(input)));
            if let Some((oscillator, (first, widest))) =
                oscillator.and_then(|known| Some((known, known.accuracy.first().zip(known.accuracy.last())?)))
            {
                let says = |over: &str| format!("{} at {over}", oscillator.name);
                errors.initial = Some(Statement { within: first.within, says: says(&first.over) });
                if first != widest {
                    let rest =
                        |wide: Deviation, narrow: Deviation| -> Result<Deviation> { Ok(wide.less(narrow)?) };
                    let within = Range {
                        low: rest(widest.within.low, first.within.low)?.min(Deviation::ZERO),
                        high: rest(widest.within.high, first.within.high)?.max(Deviation::ZERO),
                    };
                    errors.temperature = Some(Statement { within, says: says(&widest.over) });
                }
            }
        }
        if let Some(step) = conditions.trim {
            let half = step.value().over(Rational::whole(2)).or_overflow("trim")?;
            let says = format!("half of its trim's step of {}", step.told());
            errors.initial = Some(Statement { within: both(Deviation::new(half))?, says });
        }
        if let Some(within) = conditions.temperature {
            errors.temperature = Some(Statement { within, says: "as given".to_owned() });
        }
        if let Some(ageing) = conditions.ageing {
            errors.ageing = Some(Statement { within: both(ageing)?, says: "as given".to_owned() });
        }
        Ok(errors)
    }
}

/// As far either way.
fn both(deviation: Deviation) -> Result<Range<Deviation>> {
    let low = Rational::ZERO.minus(deviation.value()).or_overflow("deviation")?;
    Ok(Range { low: Deviation::new(low), high: deviation })
}
