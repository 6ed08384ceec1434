//! Loads whose levels are no straight line: a table of compare values, each held against the exact one.

use super::Map;
use super::form::Form;
use super::search::{MapRequest, Proof, ScaledMap};
use crate::error::{Error, OrOverflow, Result};
use crate::load::Kind;
use crate::quantity::{LoadLevel, Rational};
use crate::search::SpanFit;

/// The longest table.
const LONGEST: u64 = 4096;

/// The exact compare value of each input, where the inputs are spread evenly over a load's levels.
///
/// # Errors
/// [`Error::NoMap`] for more inputs than a table should have, and for compare values that turn back on the way; levels
/// that the load does not have.
pub fn curve(
    load: &Kind,
    (low, high): (LoadLevel, LoadLevel),
    inputs: (i64, i64),
    span: &SpanFit,
) -> Result<Vec<Rational>> {
    let run = inputs.1.abs_diff(inputs.0);
    let no_map = |why: String| Error::NoMap { why };
    let (measures, word) = (load.measures(), load.word().replace('-', " "));
    if inputs.0 >= inputs.1 {
        return Err(no_map(format!("the inputs {}..{} do not rise", inputs.0, inputs.1)));
    }
    if run >= LONGEST {
        return Err(no_map(format!(
            "the {measures} of a {word} is no straight line, and a table has at most {LONGEST} inputs, not {}",
            run.saturating_add(1)
        )));
    }
    let (start, end) = (span.span.low().value(), span.span.high().value());
    let [first, last] = span.exact;
    let width = last.minus(first).or_overflow("compare value")?;
    let step = high.less(low)?.value().over(run.into()).or_overflow("level")?;
    let exact = |x: u64| -> Result<Rational> {
        let along = step.times(x.into()).and_then(|along| low.value().plus(along)).or_overflow("level")?;
        let active = load.on_the_line(low.with(along))?;
        let share = active.minus(start).zip(end.minus(start)).and_then(|(part, whole)| part.over(whole));
        let steps = share.and_then(|share| share.times(width));
        steps.and_then(|steps| steps.plus(first)).or_overflow("compare value")
    };
    let values = (0..=run).map(exact).collect::<Result<Vec<Rational>>>()?;
    if !values.is_sorted() && !values.iter().rev().is_sorted() {
        return Err(no_map(format!(
            "from {} to {} the compare values of a {word} turn back: map each direction by itself",
            low.told(),
            high.told()
        )));
    }
    Ok(values)
}

/// The table of compare values nearest to exact ones, one for each input of a map.
///
/// # Errors
/// [`Error::NoMap`] where the values or the inputs do not fit the word, or where all are the same.
pub fn table(request: MapRequest, exact: Vec<Rational>) -> Result<ScaledMap> {
    let half = Rational::new(1, 2).or_overflow("compare value")?;
    let nearest = |value: &Rational| -> Result<u64> {
        let rounded = value.plus(half).or_overflow("compare value")?.floor().max(0);
        u64::try_from(rounded).ok().or_overflow("compare value")
    };
    let values = exact.iter().map(nearest).collect::<Result<Vec<u64>>>()?;
    let ends = values.first().copied().zip(values.last().copied());
    let (first, last) = ends.ok_or_else(|| Error::NoMap { why: "there are no inputs".to_owned() })?;
    let map = Map::between(request.map.from, request.map.to, (first, last)).checked()?;
    let widest = u128::from(first.max(last)).max(map.run().into());
    if widest > request.word.largest() {
        let why = format!("its numbers do not fit words of {} bits", request.word.bits());
        return Err(Error::NoMap { why });
    }
    let mut error = Rational::ZERO;
    for (value, exact) in values.iter().zip(&exact) {
        let off = Rational::from(*value).minus(*exact).or_overflow("error")?;
        error = error.max(off.magnitude());
    }
    Ok(ScaledMap {
        request: MapRequest { map, ..request },
        form: Form::Table(values),
        met: error <= request.most,
        error,
        proof: Proof::EveryInput(map.run() + 1),
        widest,
        curve: Some(exact),
    })
}
