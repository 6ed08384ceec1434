//! One clock behind several signals: what they are all off by.

use serde::Serialize;

use super::cause::{Cause, Shared};
use super::comparison::Comparison;
use super::shared_clock::mean;
use crate::error::{OrOverflow, Result};
use crate::quantity::{Deviation, Frequency, Rational, Tolerance, measured};

/// What several signals are off by together.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
pub struct CommonClock {
    /// The clock over the planned one, less one: the mean, weighted by how well each signal is known.
    #[serde(serialize_with = "measured::ratio")]
    pub error: f64,
    /// How far that may be off, the recorder's clock included.
    #[serde(serialize_with = "measured::ratio")]
    pub uncertainty: f64,
    /// How many signals tell of it.
    pub signals: usize,
    /// Whether they agree, as far as each is known.
    pub agree: bool,
}

/// The clock behind some signals; `None` where none of them tells of it. One that is off by its registers, or by nobody
/// knows what, does not; one that may be off by either does.
pub(super) fn common_clock(comparisons: &[Comparison]) -> Option<CommonClock> {
    let tells = |one: &&Comparison| matches!(one.cause, Cause::AsPlanned | Cause::Clock | Cause::Undecided);
    let told: Vec<(f64, f64)> = comparisons
        .iter()
        .filter(tells)
        .filter_map(|one| Some((1.0 + one.error, one.uncertainty.0.filter(|off| *off > 0.0)?)))
        .collect();
    let Shared { ratio, uncertainty } = mean(&told)?;
    // What the registers make is exact; what is left of a difference is each signal's own uncertainty.
    let agree = told.iter().all(|(one, off)| (one - ratio).abs() <= off + uncertainty);
    let by_recorder = comparisons.iter().map(|one| one.uncertainty.1).fold(0.0, f64::max);
    Some(CommonClock {
        error: ratio - 1.0,
        uncertainty: uncertainty + by_recorder,
        signals: told.len(),
        agree,
    })
}

impl CommonClock {
    /// What a clock of a nominal frequency really has.
    ///
    /// # Errors
    /// [`QuantityError::Overflow`](crate::quantity::QuantityError::Overflow).
    pub fn real(&self, nominal: Frequency) -> Result<Tolerance<Frequency>> {
        let factor = Rational::measured(1.0 + self.error).or_overflow("clock")?;
        let deviation = Rational::measured(self.uncertainty).or_overflow("clock")?;
        Ok(Tolerance { nominal: nominal.times(factor)?, deviation: Deviation::new(deviation) })
    }
}
