//! One file a command. Each reads its arguments into core types, calls the core once, and hands back what to show and
//! how the process ends.

mod budget;
mod captured;
mod check;
mod clock;
mod decode;
mod demo;
mod derive;
mod emit;
mod followed;
mod generate;
mod measure;
mod moves;
mod parts;
mod scale;
mod sequence;
mod survey;
mod tach;
mod wave;
mod why;

use std::borrow::Cow;
use std::io::{BufWriter, Write};

use kairotic_core::finding::{Finding, Severity};

use crate::arguments::{Cli, Command, Format};
use crate::atomic_file::Destination;
use crate::exit::Exit;
use crate::fault::Result;
use crate::format::{self, Report};
use crate::part_library::PartLibrary;

/// What a command leaves: what it shows, and how the process ends.
pub struct Answer {
    /// What goes to standard output.
    pub shown: Shown,
    /// How the process ends.
    pub exit: Exit,
}

/// What goes to standard output.
pub enum Shown {
    /// A result, in whatever format is asked for.
    Report(Box<dyn Report>),
    /// Text that is what it is.
    Text(String),
}

impl Answer {
    fn text(text: String) -> Self {
        Self { shown: Shown::Text(text), exit: Exit::Fine }
    }

    /// The output in a format.
    ///
    /// # Errors
    /// As [`format::render`].
    pub fn output(&self, format: Format, coloured: bool) -> Result<Cow<'_, str>> {
        match &self.shown {
            Shown::Report(report) => format::render(report.as_ref(), format, coloured).map(Cow::Owned),
            Shown::Text(text) => Ok(Cow::Borrowed(text)),
        }
    }
}

/// Runs a command. What it shows later may be coloured; the tour is shown already, and has to know.
///
/// # Errors
/// [`Fault`](crate::fault::Fault).
pub fn run(cli: &Cli, catalogue: &PartLibrary, coloured: bool) -> Result<Answer> {
    let (report, exit) = match &cli.command {
        Command::Parts(arguments) => (parts::run(arguments, catalogue)?, Exit::Fine),
        Command::Clock(arguments) => clock::run(arguments, catalogue)?,
        Command::Derive(arguments) => derive::run(arguments, catalogue)?,
        Command::Decode(arguments) => decode::run(arguments, catalogue)?,
        Command::Survey(arguments) => survey::run(arguments, catalogue)?,
        Command::Scale(arguments) => return scale::run(arguments, &cli.common, catalogue),
        Command::Move(arguments) => return moves::run(arguments, &cli.common, catalogue),
        Command::Sequence(arguments) => return sequence::run(arguments, &cli.common, catalogue),
        Command::Budget(arguments) => budget::run(arguments, catalogue)?,
        Command::Tach(arguments) => tach::run(arguments, catalogue)?,
        Command::Wave(arguments) => (wave::run(arguments, catalogue)?, Exit::Fine),
        Command::Measure(arguments) => measure::run(arguments, catalogue)?,
        Command::Check(arguments) => return check::run(arguments, catalogue),
        Command::Emit(arguments) => (emit::run(arguments, catalogue)?, Exit::Fine),
        Command::Why(arguments) => (why::run(arguments)?, Exit::Fine),
        Command::Demo(arguments) => {
            return demo::run(arguments, &cli.common, catalogue, coloured).map(Answer::text);
        }
        Command::Completions(arguments) => {
            return Ok(Answer::text(generate::completions(arguments.shell)));
        }
        Command::Manual(arguments) => {
            return generate::manual(arguments.command.as_deref()).map(Answer::text);
        }
    };
    Ok(Answer { shown: Shown::Report(report), exit })
}

/// How the process ends with these findings.
fn exit(findings: &[Finding]) -> Exit {
    if findings.iter().any(|finding| finding.severity() == Severity::Error) {
        Exit::Missed
    } else {
        Exit::Fine
    }
}

/// Writes a table, a row a line, whole or not at all. However many there are, one at a time is held.
fn save_rows<const N: usize>(
    destination: Destination,
    header: [&str; N],
    rows: impl Iterator<Item = Result<[String; N]>>,
) -> Result<()> {
    let place = destination.clone();
    let fault = |error| place.fault(error);
    let mut output = BufWriter::with_capacity(1 << 18, destination.begin()?);
    writeln!(output, "{}", header.join(",")).map_err(fault)?;
    for row in rows {
        writeln!(output, "{}", row?.join(",")).map_err(fault)?;
    }
    output.into_inner().map_err(|error| fault(error.into_error()))?.finish()
}
