//! `sequence`: levels over time.

use kairotic_core::sequence::SequencePlan;
use kairotic_formats::sequence_code;

use super::{Answer, Shown, exit, save_rows};
use crate::arguments::sequence::SequenceArgs;
use crate::arguments::{Common, Format};
use crate::fault::Result;
use crate::part_library::PartLibrary;
use crate::report::sequence::SequenceReport;

pub(super) fn run(arguments: &SequenceArgs, common: &Common, catalogue: &PartLibrary) -> Result<Answer> {
    let (save, plot) = arguments.files.asked()?;
    let (sequence, members) = arguments.read(catalogue)?;
    let plan = SequencePlan::of(&members, &sequence)?;
    let exit = exit(&plan.findings);
    let code = arguments
        .code
        .map(|code| sequence_code::module(code.into(), &arguments.code_name(&sequence.name), &plan));
    let saved = arguments.files.saved();
    let report = SequenceReport { plan, code, saved };
    if let Some(save) = save {
        save_rows(save, SequenceReport::COLUMNS, report.rows())?;
    }
    if let Some(plot) = plot {
        plot.save(&report.figure()?)?;
    }
    let shown = match (&report.code, common.format) {
        (Some(code), Format::Text) => Shown::Text(code.clone()),
        _ => Shown::Report(Box::new(report)),
    };
    Ok(Answer { shown, exit })
}
