//! The command line of Kairotic.

// A binary has no callers: `pub` here says what the other modules may use.
#![allow(unreachable_pub)]

mod arguments;
mod atomic_file;
mod chart;
mod commands;
mod exit;
mod fault;
mod format;
mod glossary;
mod hints;
mod interrupted;
mod part_library;
mod picture_file;
mod report;
mod status;

use std::convert::Infallible;
use std::io::{self, Write};
use std::process;

use anstream::stream::{AsLockedWrite, RawStream};
use anstream::{AutoStream, ColorChoice};
use clap::Parser;

use crate::arguments::refused::refusal;
use crate::arguments::typed::Refusal;
use crate::arguments::{Cli, Color};
use crate::exit::Exit;
use crate::fault::Result;
use crate::part_library::PartLibrary;

fn main() {
    let cli = Cli::try_parse().unwrap_or_else(|answer| leave(&answer));
    let Err(fault) = run(&cli);
    refuse(&fault.to_string(), fault.hint().as_deref(), cli.common.color, fault.exit())
}

/// Says what is wrong and what to try, and leaves the process.
fn refuse(message: &str, hint: Option<&str>, color: Color, exit: Exit) -> ! {
    let coloured = is_coloured(color, &io::stderr());
    // Where the complaint itself cannot be written, the exit code still tells.
    let _ = put(io::stderr().lock(), &format::complaint(message, hint, coloured), coloured);
    process::exit(exit.code())
}

/// Leaves the process with what clap has to say: help, which has to arrive, or what is wrong with the words.
fn leave(answer: &clap::Error) -> ! {
    if let Some(Refusal { message, hint }) = refusal(answer) {
        refuse(&message, hint.as_deref(), Color::Auto, Exit::Refused)
    }
    let exit = match answer.print() {
        Err(error) if error.kind() != io::ErrorKind::BrokenPipe && !answer.use_stderr() => Exit::Device,
        _ if answer.use_stderr() => Exit::Refused,
        _ => Exit::Fine,
    };
    process::exit(exit.code())
}

/// Runs the command and leaves the process, unless something is wrong.
fn run(cli: &Cli) -> Result<Infallible> {
    let coloured = is_coloured(cli.common.color, &io::stdout());
    let catalogue = PartLibrary::with(&cli.common.own_parts)?;
    let outcome = commands::run(cli, &catalogue, coloured)?;
    match put(io::stdout().lock(), &outcome.output(cli.common.format, coloured)?, coloured) {
        // A reader that has seen enough is no fault.
        Err(error) if error.kind() == io::ErrorKind::BrokenPipe => {}
        written => written?,
    }
    // Left from here: to free what the system takes back anyway costs a tenth of the whole run.
    process::exit(outcome.exit.code())
}

/// Whether text for a stream has colours: as asked for, else by what the stream and the environment say.
fn is_coloured(asked: Color, stream: &impl RawStream) -> bool {
    match asked {
        Color::Always => true,
        Color::Never => false,
        Color::Auto => AutoStream::choice(stream) != ColorChoice::Never,
    }
}

fn put(stream: impl RawStream + AsLockedWrite, text: &str, coloured: bool) -> io::Result<()> {
    if coloured {
        // Consoles that know no escape sequences are looked after.
        let mut stream = AutoStream::new(stream, ColorChoice::Always);
        return stream.write_all(text.as_bytes()).and_then(|()| stream.flush());
    }
    let mut stream = stream;
    stream.write_all(text.as_bytes()).and_then(|()| stream.flush())
}
