//! `move`: from here to there.

use kairotic_core::load::StepDrive;
use kairotic_core::motion::{PortWords, StepperMove, TimedMove};
use kairotic_core::sequence::LevelMove;
use kairotic_formats::{sequence_code, step_code};

use super::{Answer, Shown, exit, save_rows};
use crate::arguments::moves::{AskedMove, MoveArgs};
use crate::arguments::{Common, Format};
use crate::atomic_file::Destination;
use crate::fault::Result;
use crate::part_library::PartLibrary;
use crate::picture_file::PictureFile;
use crate::report::level_move::LevelMoveReport;
use crate::report::moves::StepperMoveReport;
use crate::report::sequence::SequenceReport;
use crate::report::timed_move::TimedMoveReport;

pub(super) fn run(arguments: &MoveArgs, common: &Common, catalogue: &PartLibrary) -> Result<Answer> {
    if let Some(request) = arguments.timed(catalogue)? {
        let made = TimedMove::of(&request)?;
        let exit = exit(&made.findings);
        return Ok(Answer { shown: Shown::Report(Box::new(TimedMoveReport { made })), exit });
    }
    let (save, plot) = arguments.files.asked()?;
    let (request, lines) = match arguments.read(catalogue)? {
        AskedMove::Steps { request, lines } => (request, lines),
        AskedMove::Level { signal, ends, pace } => {
            let made = LevelMove::of(*signal, ends, pace)?;
            return level(arguments, common, made, (save, plot));
        }
    };
    let made = StepperMove::of(&request)?;
    let exit = exit(&made.findings);
    let saved = arguments.files.saved();
    let code = arguments.code.zip(made.ramp.ways.first());
    let code =
        code.map(|(code, way)| step_code::module(code.into(), &arguments.code_name(), &made.ramp, way));
    let mode = match made.stepper.drive {
        StepDrive::FourWire { mode } => Some(mode),
        StepDrive::StepDirection { .. } | StepDrive::TwoWindings { .. } => None,
    };
    let phases = arguments.code.zip(mode);
    let phases = phases.map(|(code, mode)| step_code::phases(code.into(), &arguments.code_name(), mode));
    let windings = arguments.code.zip(made.microsteps.as_ref());
    let windings =
        windings.map(|(code, tables)| step_code::windings(code.into(), &arguments.code_name(), tables));
    let code = code.map(|code| code + &phases.or(windings).unwrap_or_default());
    let port = mode.and_then(|mode| PortWords::of(mode, &lines));
    let name = arguments.signal().map(str::to_owned);
    let report = StepperMoveReport { name, made, port, code, saved };
    if let Some(save) = save {
        let rows = report.made.ramp.edges().map(|edge| Ok(report.cells(edge?)));
        save_rows(save, StepperMoveReport::COLUMNS, rows)?;
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

/// A move of a servo: what it shows is its own, and its files are those of a sequence.
fn level(
    arguments: &MoveArgs,
    common: &Common,
    made: LevelMove,
    (save, plot): (Option<Destination>, Option<PictureFile>),
) -> Result<Answer> {
    let exit = exit(&made.plan.findings);
    let name = arguments.code_name();
    let code = arguments.code.map(|code| sequence_code::module(code.into(), &name, &made.plan));
    let saved = arguments.files.saved();
    let sequence = SequenceReport { plan: made.plan.clone(), code: code.clone(), saved };
    if let Some(save) = save {
        save_rows(save, SequenceReport::COLUMNS, sequence.rows())?;
    }
    if let Some(plot) = plot {
        plot.save(&sequence.figure()?)?;
    }
    let shown = match (code, common.format) {
        (Some(code), Format::Text) => Shown::Text(code),
        _ => Shown::Report(Box::new(LevelMoveReport { made, sequence })),
    };
    Ok(Answer { shown, exit })
}
