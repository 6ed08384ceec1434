//! `measure`: what a recorder saw.

use kairotic_core::capture::{self, CaptureCheck, Captured, Metered, Meters, PairResult, SignalResult};
use kairotic_core::name::cleaned;
use kairotic_core::quantity::{Measured, Time};
use kairotic_core::signal::SignalSpec;
use kairotic_formats::capture::Header;

use super::captured::{self, place};
use super::followed;
use crate::arguments::measure::MeasureArgs;
use crate::chart::PlotError;
use crate::exit::Exit;
use crate::fault::{Fault, Result};
use crate::format::Report;
use crate::part_library::PartLibrary;
use crate::report::measure::{MeasureReport, MeasuredPair, MeasuredSignal};

pub(super) fn run(arguments: &MeasureArgs, catalogue: &PartLibrary) -> Result<(Box<dyn Report>, Exit)> {
    if let Some(played) = arguments.played.read(&arguments.spec, catalogue)? {
        return followed::run(arguments, &played, catalogue);
    }
    let (path, options) = (&arguments.file, &arguments.capture);
    let plot = arguments.plot.asked(Some(path))?;
    let plan = arguments.plan(catalogue)?;
    let reader = captured::open(path, &options.hints(), catalogue)?;
    let header = reader.header().clone();
    let chosen = captured::chosen(&header, &options.signals)?;
    let pairs = places(&header, "--between", &arguments.between)?;
    let glitch = options.glitch.map_or(Ok(0), |glitch| captured::ticks(glitch, &header))?;
    let mut meters = Meters::new(&chosen, &pairs, glitch);
    let mut trailer = captured::read(path, reader, &wanted(&chosen, &pairs), |changes| meters.take(changes))?;
    let Metered { signals, pairs } = meters.finish();
    let recorder = captured::recorder(options, &header, &trailer);

    let seen = Captured { names: &header.signals, measured: &signals, recorder: &recorder };
    let CaptureCheck { mut comparisons, absent, clock } = check(arguments, plan, &header, seen)?;
    trailer.notes.extend(absent.iter().map(|name| format!("{name}: planned, but not in the capture")));
    let failed = comparisons.iter().any(|(_, comparison)| comparison.is_failed());
    let name = |place: u32| header.signals.get(place as usize).cloned().unwrap_or_default();
    let signals = signals.into_iter().map(|(place, measurement)| {
        let found = comparisons.iter().position(|(known, _)| *known == place);
        MeasuredSignal {
            name: name(place),
            result: SignalResult::of(&measurement, &recorder),
            plan: found.map(|found| comparisons.swap_remove(found).1),
            measurement,
        }
    });
    let pairs = pairs.into_iter().map(|((first, second), found)| MeasuredPair {
        first: name(first),
        second: name(second),
        result: PairResult::of(&found, &recorder),
    });
    let report = MeasureReport {
        file: cleaned(&path.display().to_string()),
        kind: header.kind,
        tick: Time::new(header.tick),
        step: Measured::new(recorder.floor()),
        length: recorder.time(trailer.end as f64),
        signals: signals.collect(),
        pairs: pairs.collect(),
        clock,
        notes: trailer.notes,
        recorder,
    };
    if let Some(plot) = plot {
        plot.save(&report.figure().ok_or(PlotError::Empty("no signal has a period"))?)?;
    }
    Ok((Box::new(report), if failed { Exit::Missed } else { Exit::Fine }))
}

/// The capture against the plan, where there is one.
fn check(
    arguments: &MeasureArgs,
    plan: Vec<SignalSpec<'_>>,
    header: &Header,
    seen: Captured<'_>,
) -> Result<CaptureCheck> {
    let planned = !plan.is_empty();
    let map = arguments
        .map
        .iter()
        .map(|(captured, planned)| Ok((place(header, "--map", captured)?, planned.clone())));
    let map = map.collect::<Result<Vec<_>>>()?;
    let check = capture::check_capture(plan, &map, seen, arguments.fit_clock)?;
    if planned && check.comparisons.is_empty() {
        return Err(Fault::Usage {
            message: "no signal of the capture is one of the plan".to_owned(),
            hint: "say which is which with --map CAPTURED=PLANNED, or choose one with --signals".to_owned(),
        });
    }
    Ok(check)
}

/// The places of pairs of signals that an option names.
fn places(header: &Header, option: &str, pairs: &[(String, String)]) -> Result<Vec<(u32, u32)>> {
    let places = |(first, second): &(String, String)| {
        Ok((place(header, option, first)?, place(header, option, second)?))
    };
    pairs.iter().map(places).collect()
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
