//! The command line of Kairotic.

// A binary has no callers: `pub` here says what the other modules may use.
#![allow(unreachable_pub)]

mod arguments;
mod catalogue;
mod commands;
mod exit;
mod fault;
mod render;
mod show;

use std::convert::Infallible;
use std::io::{self, Write};
use std::process;

use anstream::{AutoStream, ColorChoice};
use clap::Parser;

use crate::arguments::{Cli, Color};
use crate::catalogue::Catalogue;
use crate::fault::Result;

fn main() {
    let cli = Cli::parse();
    let choice = match cli.common.color {
        Color::Auto => ColorChoice::Auto,
        Color::Always => ColorChoice::Always,
        Color::Never => ColorChoice::Never,
    };
    let Err(fault) = run(&cli, choice);
    let complaint = render::complaint(&fault.to_string(), fault.hint().as_deref());
    // Where the complaint itself cannot be written, the exit code still tells.
    let _ = AutoStream::new(io::stderr().lock(), choice).write_all(complaint.as_bytes());
    process::exit(fault.exit().code())
}

/// Runs the command and leaves the process, unless something is wrong.
fn run(cli: &Cli, choice: ColorChoice) -> Result<Infallible> {
    let catalogue = Catalogue::with(&cli.common.own_parts)?;
    let outcome = commands::run(cli, &catalogue)?;
    write(&outcome.output(cli.common.format)?, choice)?;
    // Left from here: to free what the system takes back anyway costs a tenth of the whole run.
    process::exit(outcome.exit.code())
}

fn write(output: &str, choice: ColorChoice) -> Result<()> {
    let mut stdout = AutoStream::new(io::stdout().lock(), choice);
    match stdout.write_all(output.as_bytes()).and_then(|()| stdout.flush()) {
        // A reader that has seen enough is no fault.
        Err(error) if error.kind() == io::ErrorKind::BrokenPipe => Ok(()),
        written => Ok(written?),
    }
}
