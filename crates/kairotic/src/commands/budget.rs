//! `budget`: how far a signal may be off, all in all.

use std::thread;

use kairotic_core::accuracy::{self, Budget};
use kairotic_core::requirement::Verdict;

use super::exit;
use crate::arguments::budget::BudgetArgs;
use crate::exit::Exit;
use crate::fault::Result;
use crate::format::Report;
use crate::part_library::PartLibrary;
use crate::report::budget::BudgetReport;
use crate::report::measured::MeasuredReport;
use crate::report::population::PopulationReport;

pub(super) fn run(arguments: &BudgetArgs, catalogue: &PartLibrary) -> Result<(Box<dyn Report>, Exit)> {
    let plot = arguments.plot.asked(None)?;
    let planned = arguments.read(catalogue)?;
    let (spec, signal) = (&planned.spec, planned.board_name());
    if let Some(measurement) = arguments.measured {
        let clock = accuracy::measured(spec, &measurement)?;
        let exit = exit(&clock.after.findings);
        return Ok((Box::new(MeasuredReport { clock, measurement, signal }), exit));
    }
    let budget = accuracy::budget(spec)?;
    let ends = ends(&budget);
    if let Some(boards) = arguments.population {
        let threads = thread::available_parallelism().map_or(1, usize::from);
        let population = accuracy::population(&budget, &spec.needs, boards, arguments.seed, threads)?;
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
