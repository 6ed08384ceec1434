//! `derive`: from a wanted signal to register values.

use kairotic_core::board::{self, Outcome};
use kairotic_core::decode;
use kairotic_core::part::TimerUse;
use kairotic_core::program::{Program, ProgramRequest, TimerPlan, program};
use kairotic_core::search::{self, Derivation, SearchOptions};
use kairotic_core::survey::{self, Led};
use kairotic_core::target::Target;

use super::exit;
use crate::arguments::derive::{DeriveArgs, DeriveTask};
use crate::arguments::routing::{Compared, Routing};
use crate::exit::Exit;
use crate::fault::Result;
use crate::format::Report;
use crate::part_library::PartLibrary;
use crate::report::derive::{DeriveReport, TimeBaseReport};

pub(super) fn run(arguments: &DeriveArgs, catalogue: &PartLibrary) -> Result<(Box<dyn Report>, Exit)> {
    let options = arguments.options();
    let (derivation, around, changes, outcome) = match arguments.read(catalogue)? {
        DeriveTask::TimeBase(request, around) => {
            let time_base = search::derive_time_base(&request)?;
            let exit = exit(&time_base.findings);
            let explanation = if arguments.explain { time_base.explain()? } else { Vec::new() };
            return Ok((Box::new(TimeBaseReport { time_base, around, explanation }), exit));
        }
        DeriveTask::Signal(signal) if signal.by_board => {
            let names = catalogue.names();
            let others = names.iter().filter_map(|name| catalogue.part(name).ok());
            let (derivation, outcome) = board::outcome(&signal.spec, options, others)?;
            (derivation, signal.around, Vec::new(), Some(outcome))
        }
        DeriveTask::Signal(signal) => {
            let derivation = search::derive_with(&signal.spec.on, &signal.spec.target, options)?;
            (derivation, signal.around, Vec::new(), None)
        }
        DeriveTask::Led(places) => {
            let (derivation, around) = led(places, options)?;
            (derivation, around, Vec::new(), None)
        }
        DeriveTask::Ported(request, on, target, around) => {
            let (derivation, changes) = decode::port(&request, &on, &target, options)?;
            (derivation, around, changes, None)
        }
    };
    let missed = outcome.as_ref().is_some_and(|outcome: &Outcome| !outcome.is_met());
    let exit = if missed { Exit::Missed } else { exit(&derivation.findings) };
    let explanation = if arguments.explain { derivation.explain()? } else { Vec::new() };
    let program = arguments.from_reset.then(|| from_reset(&derivation, &around, catalogue)).transpose()?;
    Ok((Box::new(DeriveReport { derivation, changes, around, explanation, outcome, program }), exit))
}

/// Every step between reset and the moving pin.
fn from_reset(derivation: &Derivation, around: &Routing, catalogue: &PartLibrary) -> Result<Program> {
    let part = catalogue.whole_part(&derivation.timer.part)?;
    let mut plan = TimerPlan::of(part, &derivation.timer, derivation.best.setting.clone())?;
    let pin = around.pin.iter().map(|pin| (pin.output.channel.clone(), pin.output.pin.clone()));
    plan.pins.extend(pin);
    Ok(program(&ProgramRequest { part, clock: around.said.clone(), timers: vec![plan] })?)
}

/// The best of several places, with what lies around it and the others that were compared.
fn led(
    places: Vec<(TimerUse<'_>, Target, Routing)>,
    options: SearchOptions,
) -> Result<(Derivation, Routing)> {
    let (places, mut around): (Vec<_>, Vec<_>) =
        places.into_iter().map(|(on, target, around)| ((on, target), around)).unzip();
    let Led { place, derivation, others } = survey::lead(&places, options)?;
    let compared = |(place, score): (usize, f64)| {
        let (on, Target { channel, .. }) = places.get(place)?;
        let channel = channel.as_ref().map(|channel| format!("/{channel}")).unwrap_or_default();
        Some(Compared { place: format!("{}{channel}", on.timer), score })
    };
    let leads = (place, derivation.best.fit.score);
    let compared = std::iter::once(leads).chain(others).filter_map(compared).collect();
    let mut around = Routing { compared, ..around.swap_remove(place) };
    // Where any pin will do, the channel is the one that was taken.
    if let (Some(pin), Some(output)) = (&mut around.pin, derivation.best.setting.outputs.first()) {
        output.channel.clone_into(&mut pin.output.channel);
    }
    Ok((derivation, around))
}
