//! What a map makes of chosen inputs, as compare values, as pulses, and in the load's unit; and the way back.

use crate::load::LoadKind;
use serde::Serialize;

use super::Map;
use super::search::ScaledMap;
use crate::error::{Error, OrOverflow, Result};
use crate::load::{Kind, Realised};
use crate::quantity::{Duty, LoadLevel, Rational, Time};
use crate::search::{Derivation, SpanFit};
use crate::setting::{Output, PlannedChannel, RegisterPlan, Setting};

/// What a map makes of one input.
#[derive(Debug, Clone, PartialEq, Serialize)]
pub struct MapPoint {
    /// The input; of a compare value that was read back it need not be whole.
    pub input: Rational,
    /// The compare value.
    pub compare: u64,
    /// The compare value less the exact one, in compare steps.
    pub error: Rational,
    /// What the pin does, where a timer is known.
    pub output: Option<Output>,
    /// What the load makes of that, where one is known.
    pub level: Option<LoadLevel>,
}

/// The exact compare values of two levels of a load.
///
/// # Errors
/// [`Error::NoMap`] where the load's levels are no straight line between them; levels that it does not have.
pub fn ends_of_levels(load: &Kind, low: LoadLevel, high: LoadLevel, span: &SpanFit) -> Result<[Rational; 2]> {
    let (first, last) = (load.on_the_line(low)?, load.on_the_line(high)?);
    for part in 1..4 {
        let share = Rational::new(part, 4).or_overflow("level")?;
        let between = |one: Rational, other: Rational| {
            other
                .minus(one)
                .and_then(|run| run.times(share))
                .and_then(|run| one.plus(run))
                .or_overflow("level")
        };
        let level = low.with(between(low.value(), high.value())?);
        if load.on_the_line(level)? != between(first, last)? || first == last {
            let why = format!(
                "from {} to {} the {} of a {} is no straight line",
                low.told(),
                high.told(),
                load.measures(),
                load.word().replace('-', " ")
            );
            return Err(Error::NoMap { why });
        }
    }
    let (start, end) = (span.span.low().value(), span.span.high().value());
    let [low, high] = span.exact;
    let compare = |active: Rational| -> Result<Rational> {
        let share = active.minus(start).zip(end.minus(start)).and_then(|(part, whole)| part.over(whole));
        let steps = high.minus(low).zip(share).and_then(|(steps, share)| steps.times(share));
        steps.and_then(|steps| steps.plus(low)).or_overflow("compare value")
    };
    Ok([compare(first)?, compare(last)?])
}

/// What a map makes of inputs. With a derivation the pin's pulse, with a load the level.
///
/// # Errors
/// [`Error::NoMap`] for an input outside the map; numbers that do not fit.
pub fn points(
    scaled: &ScaledMap,
    inputs: &[i64],
    derivation: Option<&Derivation>,
    load: Option<&Kind>,
) -> Result<Vec<MapPoint>> {
    let map = scaled.request.map;
    let point = |input: &i64| -> Result<MapPoint> {
        if !(map.from..=map.to).contains(input) {
            let why = format!("the input {input} is outside {}..{}", map.from, map.to);
            return Err(Error::NoMap { why });
        }
        let compare = scaled.form.value(&map, input.abs_diff(map.from));
        let exact = scaled.exact(*input)?;
        let error = Rational::from(compare).minus(exact).or_overflow("error")?;
        let (output, level) = made_of(compare, derivation, load)?;
        let input = Rational::new((*input).into(), 1).or_overflow("input")?;
        Ok(MapPoint { input, compare, error, output, level })
    };
    inputs.iter().map(point).collect()
}

/// The inputs of compare values: exactly on a line, and of a table the input whose exact value is nearest.
///
/// # Errors
/// Numbers that do not fit.
pub fn read_back(
    scaled: &ScaledMap,
    compares: &[u64],
    derivation: Option<&Derivation>,
    load: Option<&Kind>,
) -> Result<Vec<MapPoint>> {
    let map = &scaled.request.map;
    let point = |compare: &u64| -> Result<MapPoint> {
        if let Some(curve) = &scaled.curve {
            let wanted = Rational::from(*compare);
            let off = |exact: &Rational| wanted.minus(*exact).map(Rational::magnitude);
            let place = (0..curve.len()).min_by_key(|place| curve.get(*place).and_then(off)).unwrap_or(0);
            let input = i128::from(map.from) + place as i128;
            let exact = curve.get(place).copied().unwrap_or(wanted);
            let (output, level) = made_of(*compare, derivation, load)?;
            let error = wanted.minus(exact).or_overflow("error")?;
            let input = Rational::new(input, 1).or_overflow("input")?;
            return Ok(MapPoint { input, compare: *compare, error, output, level });
        }
        let along = Rational::from(*compare).minus(map.first);
        let slope = map.last.minus(map.first);
        let share = along.zip(slope).and_then(|(along, slope)| along.over(slope)).or_overflow("input")?;
        let run = share.times(map.run().into()).or_overflow("input")?;
        let input = Rational::new(map.from.into(), 1).and_then(|from| from.plus(run)).or_overflow("input")?;
        let (output, level) = made_of(*compare, derivation, load)?;
        Ok(MapPoint { input, compare: *compare, error: Rational::ZERO, output, level })
    };
    compares.iter().map(point).collect()
}

/// The active time that a compare value makes at the setting of a derivation.
///
/// # Errors
/// Numbers that do not fit.
pub fn realised_of(derivation: &Derivation, compare: u64) -> Result<Realised> {
    let (output, _) = made_of(compare, Some(derivation), None)?;
    output.map(|output| Realised { duty: output.duty, pulse: output.pulse }).or_overflow("pulse")
}

/// What one compare step is, on the pin and in the load's unit.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
pub struct OutputStep {
    /// The active time.
    pub realised: Realised,
    /// The largest change of the load's level inside its span, where a load is known.
    pub level: Option<LoadLevel>,
}

/// What one compare step of a map is at the setting of a derivation.
///
/// # Errors
/// Numbers that do not fit.
pub fn output_step(map: &Map, derivation: &Derivation, load: Option<&Kind>) -> Result<OutputStep> {
    let [first, last] = map.ends().map(|compare| realised_of(derivation, compare));
    let (first, last) = (first?, last?);
    let steps = Rational::from(map.ends()[1]).minus(map.ends()[0].into());
    let each = |first: Rational, last: Rational| {
        let rise = last.minus(first).zip(steps);
        rise.and_then(|(rise, steps)| rise.over(steps)).map(Rational::magnitude).or_overflow("step")
    };
    let realised = Realised {
        duty: Duty::new(each(first.duty.value(), last.duty.value())?),
        pulse: Time::new(each(first.pulse.value(), last.pulse.value())?),
    };
    Ok(OutputStep { realised, level: load.map(|load| load.level_of_step(realised)).transpose()? })
}

/// What a compare value makes at the setting of a derivation.
fn made_of(
    compare: u64,
    derivation: Option<&Derivation>,
    load: Option<&Kind>,
) -> Result<(Option<Output>, Option<LoadLevel>)> {
    let Some(derivation) = derivation else { return Ok((None, None)) };
    let plan = &derivation.best.setting.plan;
    let mut channels = plan.channels.clone();
    channels.truncate(1);
    if channels.is_empty() {
        let mode = derivation.timer.mode(&plan.mode)?;
        let free = derivation.timer.free_channels(mode).next();
        let label = free.map(|channel| channel.label.clone()).unwrap_or_default();
        let level = derivation.target.level;
        channels.push(PlannedChannel { label, compare: None, start: 0, level });
    }
    channels.iter_mut().for_each(|channel| channel.compare = Some(compare));
    let plan = RegisterPlan { channels, dead_time: None, ..plan.clone() };
    let setting = Setting::evaluate(&derivation.timer, derivation.best.setting.clock, plan)?;
    let output = setting.outputs.into_iter().next();
    let realised = output.as_ref().map(|output| Realised { duty: output.duty, pulse: output.pulse });
    let level = realised.zip(load).map(|(realised, load)| load.level(realised)).transpose()?;
    Ok((output, level))
}
