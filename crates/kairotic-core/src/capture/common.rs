//! One clock behind several signals: what they are all off by.

use super::cause::Cause;
use super::plan::Comparison;
use crate::error::Result;
use crate::finding::{self, clock_off};
use crate::quantity::{Deviation, Frequency, OrOverflow, Rational, Tolerance};

/// What several signals are off by together.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct CommonClock {
    /// The clock over the planned one, less one: the mean, weighted by how well each signal is known.
    pub error: f64,
    /// How far that may be off, the recorder's clock included.
    pub uncertainty: f64,
    /// How many signals tell of it.
    pub signals: usize,
    /// Whether they agree, as far as each is known.
    pub agree: bool,
}

/// The clock behind some signals; `None` where none of them tells of it. One that is off by its registers, or by nobody
/// knows what, does not.
pub fn common_clock(comparisons: &[Comparison]) -> Option<CommonClock> {
    let tells = |one: &&Comparison| matches!(one.cause, Cause::AsPlanned | Cause::Clock);
    mean(comparisons.iter().filter(tells))
}

/// What some signals are off by together.
fn mean<'c>(comparisons: impl Iterator<Item = &'c Comparison>) -> Option<CommonClock> {
    let told: Vec<&Comparison> = comparisons.filter(|one| one.uncertainty.0 > 0.0).collect();
    let weight = |one: &Comparison| one.uncertainty.0.powi(-2);
    let weights: f64 = told.iter().map(|one| weight(one)).sum();
    if told.is_empty() {
        return None;
    }
    let error = told.iter().map(|one| one.error * weight(one)).sum::<f64>() / weights;
    let own = weights.powf(-0.5);
    // What the registers make is exact; what is left of a difference is each signal's own uncertainty.
    let agree = told.iter().all(|one| (one.error - error).abs() <= one.uncertainty.0 + own);
    let by_recorder = told.iter().map(|one| one.uncertainty.1).fold(0.0, f64::max);
    Some(CommonClock { error, uncertainty: own + by_recorder, signals: told.len(), agree })
}

impl CommonClock {
    /// What a clock of a nominal frequency really has.
    ///
    /// # Errors
    /// [`Error::Overflow`](crate::Error::Overflow).
    pub fn real(&self, nominal: Frequency) -> Result<Tolerance<Frequency>> {
        let factor = Rational::measured(1.0 + self.error).or_overflow("clock")?;
        let deviation = Rational::measured(self.uncertainty).or_overflow("clock")?;
        let real = nominal.value().times(factor).or_overflow("clock")?;
        Ok(Tolerance { nominal: Frequency::new(real), deviation: Deviation::new(deviation) })
    }
}

/// Several signals that are off by the same are off by their clock, whatever else would explain one of them.
///
/// # Errors
/// [`Error::Overflow`](crate::Error::Overflow).
pub fn settle(comparisons: &mut [Comparison]) -> Result<()> {
    let Some(common) = mean(comparisons.iter()) else { return Ok(()) };
    let is_off = common.error.abs() > common.uncertainty;
    if !common.agree || common.signals < 2 || !is_off {
        return Ok(());
    }
    for one in comparisons.iter_mut().filter(|one| one.cause == Cause::Registers) {
        // Another clock is one for all of them as well.
        let registers = ["top-off-by-one", "divider-off-by-one"];
        if one.findings.iter().any(|finding| registers.contains(&finding.name)) {
            one.cause = Cause::Clock;
            one.findings.retain(|finding| !registers.contains(&finding.name));
            let stated = one.stated.value().approx();
            if stated > 0.0 && one.error.abs() > stated + one.uncertainty.0 + one.uncertainty.1 {
                let off = Deviation::new(Rational::measured(one.error).or_overflow("error")?);
                one.findings.push(clock_off::new(&one.name, off, one.stated));
                finding::sort(&mut one.findings);
            }
        }
    }
    Ok(())
}
