//! One file a command. Each reads its arguments into core types, calls the core once, and hands back what to show and how
//! the process ends.

mod decode;
mod demo;
mod derive;
mod generate;
mod parts;

use kairotic_core::finding::{Finding, Severity};

use crate::arguments::{Cli, Command};
use crate::catalogue::Catalogue;
use crate::exit::Exit;
use crate::fault::Result;
use crate::render;

/// What a command leaves: its output, and how the process ends.
#[derive(Debug)]
pub struct Outcome {
    /// What goes to standard output.
    pub output: String,
    /// How the process ends.
    pub exit: Exit,
}

/// Runs a command.
///
/// # Errors
/// [`Fault`](crate::fault::Fault).
pub fn run(cli: &Cli) -> Result<Outcome> {
    let catalogue = Catalogue::with(&cli.common.own_parts)?;
    let format = cli.common.format;
    let (report, exit) = match &cli.command {
        Command::Parts(arguments) => (parts::run(arguments, &catalogue)?, Exit::Fine),
        Command::Derive(arguments) => derive::run(arguments, &catalogue)?,
        Command::Decode(arguments) => decode::run(arguments, &catalogue)?,
        Command::Demo => return demo::run(&cli.common),
        Command::Completions { shell } => return Ok(generate::completions(*shell)),
        Command::Manual { command } => return generate::manual(command.as_deref()),
    };
    Ok(Outcome { output: render::render(report.as_ref(), format)?, exit })
}

/// How the process ends with these findings.
fn exit(findings: &[Finding]) -> Exit {
    if findings.iter().any(|finding| finding.severity == Severity::Error) { Exit::Missed } else { Exit::Fine }
}
