//! `tach`: speed feedback, set up or read.

use std::path::Path;

use kairotic_core::name::cleaned;
use kairotic_core::quantity::Measured;
use kairotic_core::tach;
use kairotic_core::tach::{SpeedMeasurement, SpeedMeter, SpeedResult};

use super::{captured, exit};
use crate::arguments::tach::TachArgs;
use crate::chart::PlotError;
use crate::exit::Exit;
use crate::fault::Result;
use crate::format::Report;
use crate::part_library::PartLibrary;
use crate::report::tach::{SetupReport, SpeedReport, SpeedSignal};

pub(super) fn run(arguments: &TachArgs, catalogue: &PartLibrary) -> Result<(Box<dyn Report>, Exit)> {
    if let Some(path) = &arguments.file {
        return Ok((Box::new(read(arguments, path, catalogue)?), Exit::Fine));
    }
    let plan = tach::plan(&arguments.setup(catalogue)?)?;
    let exit = exit(&plan.findings);
    Ok((Box::new(SetupReport { plan }), exit))
}

/// Reads the speed over time.
fn read(arguments: &TachArgs, path: &Path, catalogue: &PartLibrary) -> Result<SpeedReport> {
    let plot = arguments.plot.asked(Some(path))?;
    let options = &arguments.capture;
    let pulses_per_turn = arguments.pulses_per_turn(catalogue)?;
    let reader = captured::open(path, &options.hints(), catalogue)?;
    let header = reader.header().clone();
    let chosen = captured::chosen(&header, &options.signals)?;
    let in_ticks = |time| captured::ticks(time, &header);
    let stands = arguments.stands(pulses_per_turn)?.map(in_ticks).transpose()?;
    let glitch = options.glitch.map_or(Ok(0), in_ticks)?;
    let mut meters = SpeedMeasurement::new(&chosen, &SpeedMeter::new(pulses_per_turn, stands, glitch));
    let trailer = captured::read(path, reader, &chosen, |changes| meters.take(changes))?;
    let recorder = captured::recorder(options, &header, &trailer);
    let name = |place: u32| header.signals.get(place as usize).cloned().unwrap_or_default();
    let signals: Vec<SpeedSignal> = meters
        .finish(trailer.end)
        .into_iter()
        .map(|(place, turns)| SpeedSignal { name: name(place), result: SpeedResult::of(&turns, &recorder) })
        .collect();
    let mut notes = trailer.notes;
    if stands.is_none() && signals.iter().any(|signal| signal.result.speed.is_some()) {
        let text = "stopped when no pulse comes for four times the previous gap; --speed-range sets the slowest speed";
        notes.push(text.to_owned());
    }
    let report = SpeedReport {
        file: cleaned(&path.display().to_string()),
        kind: header.kind,
        step: Measured::new(recorder.floor()),
        length: recorder.time(trailer.end as f64),
        pulses_per_turn,
        signals,
        notes,
    };
    if let Some(plot) = plot {
        plot.save(&report.figure().ok_or(PlotError::Empty("nothing turns a whole revolution"))?)?;
    }
    Ok(report)
}
