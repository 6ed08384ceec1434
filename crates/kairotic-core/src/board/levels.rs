//! A load's levels as whole numbers, and the arithmetic from them to compare values.

use serde::Serialize;

use crate::error::{Error, OrOverflow, Result};
use crate::load::{Kind, LoadKind};
use crate::quantity::{LoadLevel, Rational};
use crate::scale::{Form, LevelCompares, Map, MapRequest, ScaledMap, Word, compares_of_levels, scale, table};
use crate::search::SpanFit;

/// A load's levels as whole numbers, and the arithmetic from them to compare values.
#[derive(Debug, Clone, PartialEq, Serialize)]
pub struct PlannedLevels {
    /// The unit of a level: `deg`, `%` or `W`.
    pub unit: &'static str,
    /// How many of the numbers make one unit.
    pub per_unit: u32,
    /// The lowest number.
    pub lowest: i64,
    /// The highest number.
    pub highest: i64,
    /// Whether level zero is no point of the line, and the output is at rest there.
    pub rests_at_zero: bool,
    /// The arithmetic, proved for every number.
    pub scaled: ScaledMap,
}

/// The largest number that a signed word of 16 bits holds.
const LARGEST: i128 = i16::MAX as i128;
/// Numbers are no finer than a thousandth of a unit.
const FINEST: u32 = 1000;
/// So many entries a table has at least, where whole units would be fewer, and at most.
const ENTRIES: (i128, i128) = (100, 1001);

/// The levels of a load inside a span. The numbers are as fine as one compare step where 16 bits have room for that, those
/// of a table as few as make a hundred. `None` for levels that no numbers of 16 bits stand for, and for those whose
/// compare values turn back on the way.
///
/// # Errors
/// Numbers that do not fit.
pub fn levels(load: &Kind, span: &SpanFit) -> Result<Option<PlannedLevels>> {
    let [one, other] = load.levels()?;
    let one = if load.is_undirected() { other.with(Rational::ZERO) } else { one };
    let (low, high) = if one.value() <= other.value() { (one, other) } else { (other, one) };
    let (unit, factor) = unit_of(low);
    let in_units = |level: LoadLevel| level.value().times(factor).or_overflow("level");
    let (from, to) = (in_units(low)?, in_units(high)?);
    let run = to.minus(from).or_overflow("level")?;
    let compares = |inputs| match compares_of_levels(load, inputs, Some((low, high)), span) {
        Err(Error::NoMap { .. }) => Ok(None),
        found => found.map(Some),
    };
    // What is a curve is one for any inputs; ten make no long table.
    let Some(LevelCompares { curve, .. }) = compares((0, 9))? else { return Ok(None) };
    let is_line = curve.is_none();
    let mut chosen = None;
    let mut per_unit = 1_u32;
    while per_unit <= FINEST {
        let scaled = |value: Rational| value.times(per_unit.into()).or_overflow("level");
        let (lowest, highest) = (scaled(from)?, scaled(to)?);
        let room = lowest.magnitude().max(highest.magnitude()).ceiling() <= LARGEST;
        let count = scaled(run)?.ceiling();
        if !room || (!is_line && count >= ENTRIES.1 && chosen.is_some()) {
            break;
        }
        if lowest.is_whole() && highest.is_whole() {
            chosen = Some((per_unit, lowest.floor(), highest.floor()));
            let enough = if is_line { count >= i128::from(span.steps) } else { count >= ENTRIES.0 };
            if enough {
                break;
            }
        }
        per_unit *= 10;
    }
    let Some((per_unit, lowest, highest)) = chosen else { return Ok(None) };
    let number = |value: i128| i64::try_from(value).ok().or_overflow("level");
    let (lowest, highest) = (number(lowest)?, number(highest)?);
    let Some(compares) = compares((lowest, highest))? else { return Ok(None) };
    let rests_at_zero = load.at_rest().is_some() && lowest <= 0;
    let scaled = proved(lowest, highest, compares)?;
    Ok(scaled.map(|scaled| PlannedLevels { unit, per_unit, lowest, highest, rests_at_zero, scaled }))
}

/// The arithmetic in words of 16 bits, where it keeps within a step with them, else of 32.
fn proved(
    from: i64,
    to: i64,
    LevelCompares { ends: [first, last], curve }: LevelCompares,
) -> Result<Option<ScaledMap>> {
    let request = |word| MapRequest { map: Map { from, to, first, last }, word, most: Rational::ONE };
    let made = |word| match &curve {
        Some(exact) => table(request(word), exact.clone()),
        None => scale(request(word)),
    };
    match made(Word::BITS_16) {
        Ok(narrow) if narrow.met || matches!(narrow.form, Form::Table(_)) => return Ok(Some(narrow)),
        _ => {}
    }
    match made(Word::BITS_32) {
        Ok(wide) => Ok(Some(wide)),
        Err(Error::NoMap { .. }) => Ok(None),
        Err(error) => Err(error),
    }
}

/// The unit that a level is told in, and how many of it a base unit is.
fn unit_of(level: LoadLevel) -> (&'static str, Rational) {
    match level {
        LoadLevel::Angle(_) => ("deg", Rational::whole(360)),
        LoadLevel::Share(_) => ("%", Rational::whole(100)),
        LoadLevel::Power(_) => ("W", Rational::ONE),
    }
}
