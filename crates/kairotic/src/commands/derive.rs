//! `derive`: from a wanted signal to register values.

use kairotic_core::board;
use kairotic_core::decode::{self, PropertyChange};
use kairotic_core::part::Part;
use kairotic_core::search::{self, Derivation, DeriveRequest};
use kairotic_core::survey::{self, Led};

use super::exit;
use crate::arguments::board::BoardSignal;
use crate::arguments::derive::{Asked, DeriveArgs};
use crate::arguments::routing::{Compared, Routing};
use crate::exit::Exit;
use crate::fault::Result;
use crate::format::Report;
use crate::part_library::PartLibrary;
use crate::report::derive::{DeriveReport, TimeBaseReport};

pub(super) fn run(arguments: &DeriveArgs, catalogue: &PartLibrary) -> Result<(Box<dyn Report>, Exit)> {
    let (part, asked, around) = arguments.read(catalogue)?;
    let part = catalogue.part(&part)?;
    match asked {
        Asked::Ported(from, decode, request) => {
            let reading = decode::decode(catalogue.part(&from)?, &decode)?;
            let target = decode::ported_target(&reading, request.target.within);
            let derivation = search::derive(part, &DeriveRequest { target, ..*request })?;
            let changes = decode::changes(&reading, &derivation)?;
            shown(derivation, changes, around, arguments.explain)
        }
        Asked::OfBoard(of_board, request) => {
            let BoardSignal { board, signal } = *of_board;
            let names = catalogue.names();
            let others = names.iter().filter_map(|name| catalogue.part(name).ok());
            let (derivation, outcome) = board::outcome(&board, &signal, part, &request, others)?;
            let exit = if outcome.is_met() { exit(&derivation.findings) } else { Exit::Missed };
            let explanation = if arguments.explain { derivation.explain()? } else { Vec::new() };
            let outcome = Some(outcome);
            Ok((
                Box::new(DeriveReport { derivation, changes: Vec::new(), around, explanation, outcome }),
                exit,
            ))
        }
        Asked::Signal(request) => {
            shown(search::derive(part, &request)?, Vec::new(), around, arguments.explain)
        }
        Asked::Led(places) => {
            let (derivation, around) = led(part, places)?;
            shown(derivation, Vec::new(), around, arguments.explain)
        }
        Asked::TimeBase(request) => {
            let time_base = search::derive_time_base(part, &request)?;
            let exit = exit(&time_base.findings);
            let explanation = if arguments.explain { time_base.explain()? } else { Vec::new() };
            Ok((Box::new(TimeBaseReport { time_base, around, explanation }), exit))
        }
    }
}

/// A derivation as it is shown.
fn shown(
    derivation: Derivation,
    changes: Vec<PropertyChange>,
    around: Routing,
    explain: bool,
) -> Result<(Box<dyn Report>, Exit)> {
    let exit = exit(&derivation.findings);
    let explanation = if explain { derivation.explain()? } else { Vec::new() };
    Ok((Box::new(DeriveReport { derivation, changes, around, explanation, outcome: None }), exit))
}

/// The best of several places, with what lies around it and the others that were compared.
fn led(part: &Part, places: Vec<(DeriveRequest, Routing)>) -> Result<(Derivation, Routing)> {
    let (requests, mut around): (Vec<DeriveRequest>, Vec<Routing>) = places.into_iter().unzip();
    let Led { place, derivation, others } = survey::lead(part, &requests)?;
    let compared = |(place, score): (usize, f64)| {
        let DeriveRequest { timer, channel, .. } = requests.get(place)?;
        let channel = channel.as_ref().map(|channel| format!("/{channel}")).unwrap_or_default();
        Some(Compared { place: format!("{timer}{channel}"), score })
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
