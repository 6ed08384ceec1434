//! `measure --sequence` and `--move`: a capture against what was to be done over time.

use kairotic_core::capture::{self, FollowedPin, PinSeen, PulseTrain, is_called};
use kairotic_core::name::cleaned;
use kairotic_core::quantity::Measured;
use kairotic_core::requirement::Verdict;
use kairotic_core::simulation::{PinRole, PlayedPin};
use kairotic_formats::capture::Header;

use super::captured::{self, place};
use crate::arguments::measure::MeasureArgs;
use crate::arguments::played::Played;
use crate::exit::Exit;
use crate::fault::{Fault, Result};
use crate::format::Report;
use crate::part_library::PartLibrary;
use crate::report::followed::FollowedReport;

pub(super) fn run(
    arguments: &MeasureArgs,
    played: &Played,
    catalogue: &PartLibrary,
) -> Result<(Box<dyn Report>, Exit)> {
    if arguments.plot.is_given() || arguments.fit_clock || !arguments.between.is_empty() {
        return Err(Fault::Usage {
            message: "--plot, --fit-clock and --between are for signals that hold a level".to_owned(),
            hint: "leave them out, or --sequence and --move".to_owned(),
        });
    }
    let (path, options) = (&arguments.file, &arguments.capture);
    let reader = captured::open(path, &options.hints(), catalogue)?;
    let header = reader.header().clone();
    let places = played.pins.iter().map(|pin| place_of(arguments, &header, &pin.line.name));
    let places = places.collect::<Result<Vec<Option<u32>>>>()?;
    let mut wanted = vec![false; header.signals.len()];
    for place in places.iter().flatten() {
        wanted.iter_mut().skip(*place as usize).take(1).for_each(|wanted| *wanted = true);
    }
    let mut trains: Vec<PulseTrain> = vec![PulseTrain::default(); header.signals.len()];
    let trailer = captured::read(path, reader, &wanted, |changes| {
        for change in changes {
            if let Some(train) = trains.get_mut(change.signal as usize) {
                train.change(change.at, change.level);
            }
        }
    })?;
    let recorder = captured::recorder(options, &header, &trailer);
    let line = |pin: &PlayedPin| {
        let index = played.pins.iter().position(|one| one.line.name == pin.line.name)?;
        trains.get(places.get(index).copied().flatten()? as usize)
    };
    let (mut pins, mut absent) = (Vec::new(), Vec::new());
    for pin in &played.pins {
        let Some(train) = line(pin) else {
            absent.push(pin.line.name.clone());
            continue;
        };
        let direction = match &pin.role {
            PinRole::Step { direction, .. } => played.pins.iter().find(|one| one.line.name == *direction),
            _ => None,
        };
        let direction = direction.and_then(|direction| Some((direction, line(direction)?)));
        pins.extend(capture::followed(PinSeen { pin, train, direction }, played.length, &recorder)?);
    }
    if pins.is_empty() {
        return Err(Fault::Usage {
            message: format!("no signal of the capture is one of `{}`", played.name),
            hint: "say which is which with --map CAPTURED=PLANNED".to_owned(),
        });
    }
    let is_wrong = |pin: &FollowedPin| pin.verdict == Verdict::Missed;
    let exit = if pins.iter().any(is_wrong) { Exit::Missed } else { Exit::Fine };
    let report = FollowedReport {
        file: cleaned(&path.display().to_string()),
        name: played.name.clone(),
        planned_length: played.length,
        length: recorder.time(trailer.end as f64),
        step: Measured::new(recorder.floor()),
        pins,
        absent,
        notes: trailer.notes,
    };
    Ok((Box::new(report), exit))
}

/// The place of a planned pin in the capture: as --map says, or by its name.
fn place_of(arguments: &MeasureArgs, header: &Header, planned: &str) -> Result<Option<u32>> {
    match arguments.map.iter().find(|(_, mapped)| mapped == planned) {
        Some((captured, _)) => place(header, "--map", captured).map(Some),
        None => {
            let found = (0..).zip(&header.signals).find(|(_, name)| is_called(name, planned));
            Ok(found.map(|(place, _)| place))
        }
    }
}
