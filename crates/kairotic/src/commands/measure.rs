//! `measure`: what a recorder saw.

use kairotic_core::capture::{self, Comparison, Measurement, Metered, Meters, Planned};
use kairotic_core::load::Load;
use kairotic_core::name::cleaned;
use kairotic_core::requirement::Needs;
use kairotic_core::search::{self, Derivation, DeriveRequest};
use kairotic_formats::capture::Header;

use super::captured::{self, place};
use crate::arguments::measure::MeasureArgs;
use crate::chart::{Asked, PlotError};
use crate::exit::Exit;
use crate::fault::{Fault, Result};
use crate::format::Report;
use crate::part_library::PartLibrary;
use crate::report::measure::{FittedClock, MeasureReport, MeasuredPair, MeasuredSignal};

pub(super) fn run(arguments: &MeasureArgs, catalogue: &PartLibrary) -> Result<(Box<dyn Report>, Exit)> {
    let (path, options) = (&arguments.file, &arguments.capture);
    let plot = Asked::of(arguments.plot.as_ref(), arguments.force, &[path])?;
    let reader = captured::open(path, &options.hints()?, catalogue)?;
    let header = reader.header().clone();
    let chosen = captured::chosen(&header, &options.signals)?;
    let pairs = pairs(&header, &arguments.between)?;
    let glitch = options.glitch()?.map_or(Ok(0), |glitch| captured::ticks(glitch, &header))?;
    let mut meters = Meters::new(&chosen, &pairs, glitch);
    let mut trailer = captured::read(path, reader, &wanted(&chosen, &pairs), |changes| meters.take(changes))?;
    let Metered { signals, pairs } = meters.finish();
    let recorder = captured::recorder(options, &header, &trailer)?;

    let mut plans = plans(arguments, catalogue, &header, &signals, &mut trailer.notes)?;
    let planned: Vec<(Planned<'_>, &Measurement)> =
        plans.iter().map(|plan| (plan.planned(), plan.measurement)).collect();
    let comparisons = capture::compare(&planned, &recorder)?;
    let clock = if arguments.fit_clock { fitted(&plans, &comparisons, catalogue)? } else { None };
    let failed = comparisons.iter().any(Comparison::is_failed);
    let mut compared: Vec<(u32, Comparison)> =
        plans.drain(..).map(|plan| plan.place).zip(comparisons).collect();
    let name = |place: u32| header.signals.get(place as usize).cloned().unwrap_or_default();
    let signals: Vec<MeasuredSignal> = signals
        .into_iter()
        .map(|(place, measurement)| {
            let found = compared.iter().position(|(known, _)| *known == place);
            let comparison = found.map(|found| compared.swap_remove(found).1);
            MeasuredSignal { name: name(place), measurement, comparison }
        })
        .collect();
    let pairs = pairs.into_iter().map(|((first, second), measurement)| MeasuredPair {
        first: name(first),
        second: name(second),
        measurement,
    });
    let report = MeasureReport {
        file: cleaned(&path.display().to_string()),
        header: header.clone(),
        trailer,
        recorder,
        stated: options.accuracy()?.is_some(),
        signals,
        pairs: pairs.collect(),
        clock,
    };
    if let Some(plot) = plot {
        plot.save(&report.figure().ok_or(PlotError::Empty("no signal has a period"))?)?;
    }
    Ok((Box::new(report), if failed { Exit::Missed } else { Exit::Fine }))
}

/// A planned signal with what was measured of it.
struct Plan<'m> {
    place: u32,
    measurement: &'m Measurement,
    name: String,
    part: String,
    request: DeriveRequest,
    derivation: Derivation,
    needs: Needs,
    load: Option<Load>,
}

impl Plan<'_> {
    fn planned(&self) -> Planned<'_> {
        Planned {
            name: &self.name,
            derivation: &self.derivation,
            needs: &self.needs,
            load: self.load.as_ref(),
        }
    }
}

fn pairs(header: &Header, between: &[String]) -> Result<Vec<(u32, u32)>> {
    let pair = |text: &String| {
        let (first, second) = text.split_once(',').ok_or_else(|| Fault::Usage {
            message: format!("--between: expected two signals with a comma between, found `{text}`"),
            hint: "for example --between D0,D1".to_owned(),
        })?;
        Ok((place(header, "--between", first.trim())?, place(header, "--between", second.trim())?))
    };
    between.iter().map(pair).collect()
}

/// The signals that have to be read.
fn wanted(chosen: &[bool], pairs: &[(u32, u32)]) -> Vec<bool> {
    let mut wanted = chosen.to_vec();
    for place in pairs.iter().flat_map(|(first, second)| [*first, *second]) {
        if let Some(wanted) = wanted.get_mut(place as usize) {
            *wanted = true;
        }
    }
    wanted
}

/// The planned signals that the capture has.
fn plans<'m>(
    arguments: &MeasureArgs,
    catalogue: &PartLibrary,
    header: &Header,
    signals: &'m [(u32, Measurement)],
    notes: &mut Vec<String>,
) -> Result<Vec<Plan<'m>>> {
    if !arguments.plan.is_given() {
        if arguments.fit_clock || !arguments.map.is_empty() {
            return Err(Fault::Usage {
                message: "--map and --fit-clock mean nothing without a plan".to_owned(),
                hint: "give --board FILE, or a target with --on".to_owned(),
            });
        }
        return Ok(Vec::new());
    }
    let mut map = Vec::new();
    for text in &arguments.map {
        let (captured, planned) = text.split_once('=').ok_or_else(|| Fault::Usage {
            message: format!("--map: expected CAPTURED=PLANNED, found `{text}`"),
            hint: "for example --map D0=shutter".to_owned(),
        })?;
        map.push((place(header, "--map", captured.trim())?, planned.trim().to_owned()));
    }
    let mut plans = Vec::new();
    let all = arguments.plan.read(catalogue)?;
    let measured: Vec<u32> = signals.iter().map(|(place, _)| *place).collect();
    let names: Vec<&str> = all.iter().map(|planned| planned.name.as_str()).collect();
    let places = capture::places(&header.signals, &measured, &names, &map);
    for (planned, place) in all.into_iter().zip(places) {
        let Some(place) = place else {
            notes.push(format!("{}: planned, but not in the capture", planned.name));
            continue;
        };
        let Some((_, measurement)) = signals.iter().find(|(known, _)| *known == place) else { continue };
        let derivation = search::derive(catalogue.part(&planned.part)?, &planned.derive)?;
        let needs = arguments.needs(planned.needs, planned.load.as_ref())?;
        plans.push(Plan {
            place,
            measurement,
            name: planned.name,
            part: planned.part,
            request: planned.derive,
            derivation,
            needs,
            load: planned.load,
        });
    }
    if plans.is_empty() {
        return Err(Fault::Usage {
            message: "no signal of the capture is one of the plan".to_owned(),
            hint: "say which is which with --map CAPTURED=PLANNED, or choose one with --signals".to_owned(),
        });
    }
    Ok(plans)
}

/// The clock behind the planned signals, and each of them derived for it.
fn fitted(
    plans: &[Plan<'_>],
    comparisons: &[Comparison],
    catalogue: &PartLibrary,
) -> Result<Option<FittedClock>> {
    let Some(common) = capture::common_clock(comparisons) else { return Ok(None) };
    let derive = |plan: &Plan<'_>| {
        let request = plan.request.with_real_clock(common.real(plan.derivation.clock.nominal)?);
        Ok((plan.name.clone(), search::derive(catalogue.part(&plan.part)?, &request)?))
    };
    let derived = plans.iter().map(derive).collect::<Result<_>>()?;
    Ok(Some(FittedClock { common, derived }))
}
