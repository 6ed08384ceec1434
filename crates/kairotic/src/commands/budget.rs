//! `budget`: how far a signal may be off, all in all.

use std::thread;

use kairotic_core::accuracy::{self, Budget};
use kairotic_core::requirement::Verdict;

use super::exit;
use crate::arguments::budget::{BudgetArgs, BudgetAsk};
use crate::chart::Asked;
use crate::exit::Exit;
use crate::fault::Result;
use crate::format::Report;
use crate::part_library::PartLibrary;
use crate::report::budget::BudgetReport;
use crate::report::measured::MeasuredReport;
use crate::report::population::PopulationReport;

pub(super) fn run(arguments: &BudgetArgs, catalogue: &PartLibrary) -> Result<(Box<dyn Report>, Exit)> {
    let plot = Asked::of(arguments.plot.as_ref(), arguments.force, &[])?;
    let BudgetAsk { part, request, signal, measurement } = arguments.read(catalogue)?;
    // What the clock does after reset is told by the whole part.
    let part = catalogue.whole_part(&part)?;
    if let Some(measurement) = measurement {
        let clock = accuracy::measured(&part, &request, &measurement)?;
        let exit = exit(&clock.after.findings);
        return Ok((Box::new(MeasuredReport { clock, measurement, signal }), exit));
    }
    let budget = accuracy::budget(&part, &request)?;
    let ends = ends(&budget);
    if let Some(boards) = arguments.population {
        let threads = thread::available_parallelism().map_or(1, usize::from);
        let population = accuracy::population(&budget, &request.needs, boards, arguments.seed, threads)?;
        let report = PopulationReport { budget, population, signal };
        if let Some(plot) = plot {
            plot.save(&report.figure())?;
        }
        return Ok((Box::new(report), ends));
    }
    let report = BudgetReport { budget, signal };
    if let Some(plot) = plot {
        plot.save(&report.figure())?;
    }
    Ok((Box::new(report), ends))
}

/// How the process ends: a requirement that may be missed is one that is not met.
fn ends(budget: &Budget) -> Exit {
    let met = budget.checks.iter().all(|check| check.outcome == Verdict::Met);
    if met { exit(&budget.findings) } else { Exit::Missed }
}
