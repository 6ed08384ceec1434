//! `scale`: from inputs to compare values.

use kairotic_core::Error;
use kairotic_core::load::{self, Kind, LoadKind, Observation, Realised};
use kairotic_core::scale::{self, LevelCompares, Map, MapRequest, Word};
use kairotic_core::search::{self, Derivation, SpanFit};
use kairotic_core::target::Active;
use kairotic_formats::map_code;
use kairotic_formats::observations::LoadInput;

use super::{Answer, Shown, exit};
use crate::arguments::scale::{CompareEnds, InputRange, Observed, ScaleArgs, ScaleAsk};
use crate::arguments::{Common, Format};
use crate::exit::Exit;
use crate::fault::{Fault, Result};
use crate::part_library::PartLibrary;
use crate::report::calibration::CalibrationReport;
use crate::report::scale::{ScaleReport, figure};

pub(super) fn run(arguments: &ScaleArgs, common: &Common, catalogue: &PartLibrary) -> Result<Answer> {
    if let Some(text) = &arguments.observed {
        return calibrate(arguments.observations(text, catalogue)?);
    }
    let plot = arguments.plot.asked(None)?;
    let ScaleAsk { inputs, ends, word, most } = arguments.read(catalogue)?;
    let (derivation, load, compares) = match ends {
        CompareEnds::Given(low, high) => {
            (None, None, LevelCompares { ends: [low.into(), high.into()], curve: None })
        }
        CompareEnds::Signal(spec) => {
            let derivation = search::derive(&spec.on, &spec.target)?;
            let load = spec.load.map(|load| load.kind);
            let span = span_of(&derivation)?;
            let compares = match load.as_ref() {
                Some(load) => compares_of(load, inputs, span)?,
                None => LevelCompares { ends: span.exact, curve: None },
            };
            (Some(derivation), load, compares)
        }
    };
    let LevelCompares { ends: [first, last], curve } = compares;
    let map = Map { from: inputs.low, to: inputs.high, first, last };
    let request = MapRequest { map, word, most };
    let scaled = match curve {
        Some(exact) => scale::table(request, exact)?,
        None => scale::scale(request)?,
    };
    let wider = MapRequest { word: Word::BITS_32, ..request };
    let wider_meets =
        !scaled.met && scaled.curve.is_none() && scale::scale(wider).is_ok_and(|wider| wider.met);
    let kind: Option<&Kind> = load.as_ref();
    let points = scale::points(&scaled, &arguments.shown(inputs)?, derivation.as_ref(), kind)?;
    let back = scale::read_back(&scaled, &arguments.read_back, derivation.as_ref(), kind)?;
    let findings = scale::findings(&scaled);
    let step = derivation.as_ref().map(|derivation| {
        // On a curve a step is worth another change of the level at each place.
        scale::output_step(&scaled.request.map, derivation, kind.filter(|_| scaled.curve.is_none()))
    });
    let step = step.transpose()?;
    let code = arguments.code.map(|language| map_code::function(language.into(), &arguments.name, &scaled));
    let naive = scale::naive(&scaled);
    let exit = if scaled.met { exit(&findings) } else { Exit::Missed };
    let note = load.as_ref().and_then(LoadKind::at_rest);
    if let Some(plot) = plot {
        let all = scale::points(&scaled, &spread(inputs), None, None)?;
        plot.save(&figure(&scaled, inputs.unit, &all))?;
    }
    if let (Some(code), Format::Text) = (&code, common.format) {
        return Ok(Answer { shown: Shown::Text(code.clone()), exit });
    }
    let report = ScaleReport {
        scaled,
        wider_meets,
        step,
        unit: inputs.unit,
        points,
        back,
        naive,
        findings,
        note,
        code,
        derivation,
    };
    Ok(Answer { shown: Shown::Report(Box::new(report)), exit })
}

/// The numbers of the load that is really there.
fn calibrate(observed: Observed<'_>) -> Result<Answer> {
    let Observed { spec, load, pairs } = observed;
    let derivation = search::derive(&spec.on, &spec.target)?;
    let period = derivation.best.setting.period;
    let observation = |(given, reading)| -> Result<Observation> {
        let given = match given {
            LoadInput::Compare(compare) => scale::realised_of(&derivation, compare)?,
            LoadInput::Active(Active::Pulse(pulse)) => {
                Realised { duty: pulse.share_of(period).map_err(Error::from)?, pulse }
            }
            LoadInput::Active(Active::Duty(duty)) => {
                Realised { duty, pulse: duty.of(period).map_err(Error::from)? }
            }
        };
        Ok(Observation { given, reading })
    };
    let observations = pairs.into_iter().map(observation).collect::<Result<Vec<_>>>()?;
    let calibration = load::calibrate(&load.kind, &observations)?;
    let exit = exit(&calibration.findings);
    Ok(Answer { shown: Shown::Report(Box::new(CalibrationReport { name: load.name, calibration })), exit })
}

/// The compare values for inputs. Inputs in the load's unit are its levels; others stand for all of them.
fn compares_of(load: &Kind, inputs: InputRange, span: &SpanFit) -> Result<LevelCompares> {
    let InputRange { low, high, unit } = inputs;
    let level = |input: i64| load.read_level(&format!("{input}{unit}"));
    let levels = if unit.is_empty() { None } else { Some((level(low)?, level(high)?)) };
    Ok(scale::compares_of_levels(load, (low, high), levels, span)?)
}

/// Inputs that a picture shows: all of them, or as many as it has room for.
fn spread(InputRange { low, high, .. }: InputRange) -> Vec<i64> {
    const MOST: i128 = 1024;
    let run = i128::from(high) - i128::from(low);
    let count = run.clamp(1, MOST);
    let mut inputs: Vec<i64> =
        (0..=count).filter_map(|place| i64::try_from(i128::from(low) + run * place / count).ok()).collect();
    inputs.dedup();
    inputs
}

/// How the span lies among the compare values.
fn span_of(derivation: &Derivation) -> Result<&SpanFit> {
    derivation.best.fit.span.as_ref().ok_or_else(|| Fault::Usage {
        message: "scale: the inputs' ends become those of a span, and there is none".to_owned(),
        hint: "give --span, or a signal with a load".to_owned(),
    })
}
