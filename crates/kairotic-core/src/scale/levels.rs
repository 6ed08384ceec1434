//! The compare values of a load's levels, whether those are a straight line or not.

use super::{curve, ends_of_levels};
use crate::error::{Error, Result};
use crate::load::{Kind, LoadKind};
use crate::quantity::{LoadLevel, Rational};
use crate::search::SpanFit;

/// The exact compare values for levels of a load.
#[derive(Debug, Clone, PartialEq)]
pub struct LevelCompares {
    /// For the lowest and the highest input.
    pub ends: [Rational; 2],
    /// For each input, where they are no straight line.
    pub curve: Option<Vec<Rational>>,
}

/// The compare values of whole inputs from a load's levels: of the levels between two, or of all that the load has where
/// the inputs have no unit.
///
/// # Errors
/// Levels that the load does not have; [`Error::NoMap`] as [`curve()`].
pub fn compares_of_levels(
    load: &Kind,
    inputs: (i64, i64),
    levels: Option<(LoadLevel, LoadLevel)>,
    span: &SpanFit,
) -> Result<LevelCompares> {
    let [lowest, highest] = load.levels()?;
    // A motor's direction is no part of its pulse.
    let lowest = if load.is_undirected() { highest.with(Rational::ZERO) } else { lowest };
    let (low, high) = levels.unwrap_or((lowest, highest));
    match ends_of_levels(load, low, high, span) {
        Ok(_) if levels.is_none() => Ok(LevelCompares { ends: span.exact, curve: None }),
        Ok(ends) => Ok(LevelCompares { ends, curve: None }),
        Err(Error::NoMap { .. }) => {
            let curve = curve(load, (low, high), inputs, span)?;
            Ok(LevelCompares { ends: span.exact, curve: Some(curve) })
        }
        Err(error) => Err(error),
    }
}
