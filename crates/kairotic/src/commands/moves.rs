//! `move`: from here to there.

use std::io::{BufWriter, Write};

use kairotic_core::motion::{StepperMove, TimedMove};
use kairotic_formats::step_code;

use super::{Answer, Shown, exit};
use crate::arguments::moves::MoveArgs;
use crate::arguments::{Common, Format};
use crate::atomic_file::Destination;
use crate::fault::Result;
use crate::part_library::PartLibrary;
use crate::picture_file::PictureFile;
use crate::report::moves::StepperMoveReport;
use crate::report::timed_move::TimedMoveReport;

pub(super) fn run(arguments: &MoveArgs, common: &Common, catalogue: &PartLibrary) -> Result<Answer> {
    if let Some(request) = arguments.timed() {
        let made = TimedMove::of(&request)?;
        let exit = exit(&made.findings);
        return Ok(Answer { shown: Shown::Report(Box::new(TimedMoveReport { made })), exit });
    }
    let force = arguments.force;
    let plot = arguments.plot.as_deref().map(|path| PictureFile::of(path, force, None)).transpose()?;
    let save =
        arguments.save.as_deref().map(|path| Destination::of("save", path, force, None)).transpose()?;
    let made = StepperMove::of(&arguments.read(catalogue)?)?;
    let exit = exit(&made.findings);
    let saved = arguments.save.as_ref().map(|path| path.display().to_string());
    let code = arguments.code.zip(made.ramp.ways.first());
    let code =
        code.map(|(code, way)| step_code::module(code.into(), &arguments.code_name(), &made.ramp, way));
    let report = StepperMoveReport { name: arguments.signal().map(str::to_owned), made, code, saved };
    if let Some(save) = save {
        write(save, &report)?;
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

/// Writes every step, one a line, whole or not at all. However many there are, one at a time is held.
fn write(destination: Destination, report: &StepperMoveReport) -> Result<()> {
    let place = destination.clone();
    let fault = |error| place.fault(error);
    let mut output = BufWriter::with_capacity(1 << 18, destination.begin()?);
    writeln!(output, "{}", StepperMoveReport::COLUMNS.join(",")).map_err(fault)?;
    for edge in report.made.ramp.edges() {
        let cells = report.cells(edge?);
        writeln!(output, "{}", cells.join(",")).map_err(fault)?;
    }
    output.into_inner().map_err(|error| fault(error.into_error()))?.finish()
}
