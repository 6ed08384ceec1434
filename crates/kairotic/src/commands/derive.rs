//! `derive`: from a wanted signal to register values.

use kairotic_core::board::{self, enough_steps};
use kairotic_core::finding;
use kairotic_core::part::Part;
use kairotic_core::quantity::{Frequency, Tolerance};
use kairotic_core::setting::{self, DeriveRequest, Target};
use kairotic_core::survey::SurveyClock;

use super::exit;
use crate::arguments::board::BoardSignal;
use crate::arguments::derive::{Asked, DeriveArgs};
use crate::catalogue::Catalogue;
use crate::exit::Exit;
use crate::fault::Result;
use crate::render::Report;
use crate::show::derive::{DeriveReport, TimeBaseReport};

pub(super) fn run(arguments: &DeriveArgs, catalogue: &Catalogue) -> Result<(Box<dyn Report>, Exit)> {
    let (part, asked, around) = arguments.read(catalogue)?;
    let part = catalogue.part(&part)?;
    match asked {
        Asked::Carried(from, decode, request) => {
            let reading = setting::decode(catalogue.part(&from)?, &decode)?;
            let target = setting::carried_target(&reading, request.target.within);
            let derivation = setting::derive(part, &DeriveRequest { target, ..*request })?;
            let exit = exit(&derivation.findings);
            let working = if arguments.working { derivation.working()? } else { Vec::new() };
            let changes = setting::changes(&reading, &derivation)?;
            Ok((Box::new(DeriveReport { derivation, changes, around, working, outcome: None }), exit))
        }
        Asked::OfBoard(of_board, request) => {
            let BoardSignal { board, signal } = *of_board;
            let mut derivation = setting::derive(part, &request)?;
            let clock = derivation.clock;
            let elsewhere = |needed| enough_steps_anywhere(catalogue, part, &request.target, clock, needed);
            let mut outcome = board::outcome(&board, &signal, &derivation, &elsewhere)?;
            derivation.findings.append(&mut outcome.findings);
            finding::sort(&mut derivation.findings);
            let missed = outcome.verdicts.iter().any(|verdict| !verdict.met);
            let exit = if missed { Exit::Missed } else { exit(&derivation.findings) };
            let working = if arguments.working { derivation.working()? } else { Vec::new() };
            let outcome = Some(outcome);
            Ok((Box::new(DeriveReport { derivation, changes: Vec::new(), around, working, outcome }), exit))
        }
        Asked::Signal(request) => {
            let derivation = setting::derive(part, &request)?;
            let exit = exit(&derivation.findings);
            let working = if arguments.working { derivation.working()? } else { Vec::new() };
            let changes = Vec::new();
            Ok((Box::new(DeriveReport { derivation, changes, around, working, outcome: None }), exit))
        }
        Asked::TimeBase(request) => {
            let time_base = setting::derive_time_base(part, &request)?;
            let exit = exit(&time_base.findings);
            let working = if arguments.working { time_base.working()? } else { Vec::new() };
            Ok((Box::new(TimeBaseReport { time_base, around, working }), exit))
        }
    }
}

/// Where a target gets so many steps: on another timer of the part, on it at its highest clock, or on another part.
fn enough_steps_anywhere(
    catalogue: &Catalogue,
    part: &Part,
    target: &Target,
    clock: Tolerance<Frequency>,
    needed: u64,
) -> Option<String> {
    let on = |part: &Part, clock| enough_steps(part, target, clock, needed).ok().flatten();
    on(part, SurveyClock::Given(clock)).or_else(|| on(part, SurveyClock::Highest)).or_else(|| {
        let names = catalogue.names();
        names.iter().find_map(|name| on(catalogue.part(name).ok()?, SurveyClock::Highest))
    })
}
