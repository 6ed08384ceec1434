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

use std::io::{self, Write};
use std::process::ExitCode;

use anstream::{AutoStream, ColorChoice};
use clap::Parser;

use crate::arguments::{Cli, Color};
use crate::commands::Outcome;

fn main() -> ExitCode {
    let cli = Cli::parse();
    let choice = match cli.common.color {
        Color::Auto => ColorChoice::Auto,
        Color::Always => ColorChoice::Always,
        Color::Never => ColorChoice::Never,
    };
    let ended = commands::run(&cli).and_then(|Outcome { output, exit }| {
        let mut stdout = AutoStream::new(io::stdout().lock(), choice);
        match stdout.write_all(output.as_bytes()).and_then(|()| stdout.flush()) {
            // A reader that has seen enough is no fault.
            Err(error) if error.kind() == io::ErrorKind::BrokenPipe => Ok(exit),
            written => written.map(|()| exit).map_err(Into::into),
        }
    });
    let exit = ended.unwrap_or_else(|fault| {
        let complaint = render::complaint(&fault.to_string(), fault.hint().as_deref());
        // Where the complaint itself cannot be written, the exit code still tells.
        let _ = AutoStream::new(io::stderr().lock(), choice).write_all(complaint.as_bytes());
        fault.exit()
    });
    ExitCode::from(exit)
}
