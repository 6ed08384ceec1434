//! A capture as the commands that measure one read it: opened, its signals chosen, its edges handed on.

use std::fs::File;
use std::path::Path;
use std::sync::mpsc::sync_channel;
use std::{io, thread};

use kairotic_core::capture::{Recorder, is_called};
use kairotic_core::error::OrOverflow;
use kairotic_core::limits;
use kairotic_core::quantity::{Rational, Time};
use kairotic_core::simulation::Change;
use kairotic_formats::capture::{CaptureError, Header, Reader, TableHints, Trailer};

use crate::arguments::capture::CaptureOptions;
use crate::fault::{Fault, Result};
use crate::part_library::PartLibrary;
use crate::status::Status;

/// Batches that may wait between the reader and the meters.
const WAITING: usize = 8;

/// Opens a capture: a file, one that the program brought, or a pipe.
pub(super) fn open(path: &Path, hints: &TableHints, catalogue: &PartLibrary) -> Result<Reader> {
    let reader = if let Some(bytes) = catalogue.brought(path) {
        Reader::pipe(Box::new(bytes), hints)
    } else if path.as_os_str() == "-" {
        Reader::pipe(Box::new(io::stdin()), hints)
    } else {
        File::open(path).map_err(CaptureError::Io).and_then(|file| Reader::file(file, hints))
    };
    reader.map_err(|error| Fault::Capture { path: path.to_owned(), error })
}

/// Reads on one core, and hands the changes of the wanted signals on another to `take`.
pub(super) fn read(
    path: &Path,
    reader: Reader,
    wanted: &[bool],
    mut take: impl FnMut(&[Change]),
) -> Result<Trailer> {
    let read = thread::scope(|scope| {
        let (sender, receiver) = sync_channel::<Vec<Change>>(WAITING);
        let reading = scope.spawn(move || reader.read(wanted, &mut |changes| sender.send(changes).is_ok()));
        let (mut status, mut edges) = (Status::new(), 0);
        for changes in receiver {
            take(&changes);
            edges += changes.len();
            status.says(|| format!("{:.1} million edges", edges as f64 / 1e6));
        }
        reading.join().map_err(|_| io::Error::other("the reader has ended early"))?
    });
    read.map_err(|error| Fault::Capture { path: path.to_owned(), error })
}

/// A time in whole ticks of a capture.
pub(super) fn ticks(time: Time, header: &Header) -> Result<u64> {
    let ticks = time.value().over(header.tick).or_overflow("time")?;
    Ok(u64::try_from(ticks.floor()).ok().or_overflow("time")?)
}

/// The signals that names and patterns mean; all where there are none.
pub(super) fn chosen(header: &Header, select: &[String]) -> Result<Vec<bool>> {
    let chosen = named(header, select)?;
    let count = chosen.iter().filter(|chosen| **chosen).count() as u64;
    if limits::MEASURED.is_below(count) {
        return Err(Fault::Usage {
            message: limits::MEASURED.refusal("to be measured are", count),
            hint: "name fewer of them with --signals, which takes patterns such as pwm*".to_owned(),
        });
    }
    Ok(chosen)
}

fn named(header: &Header, select: &[String]) -> Result<Vec<bool>> {
    if select.is_empty() {
        return Ok(vec![true; header.signals.len()]);
    }
    let mut chosen = vec![false; header.signals.len()];
    for text in select {
        let pattern = glob::Pattern::new(text).ok();
        let mut any = false;
        for (name, chosen) in header.signals.iter().zip(&mut chosen) {
            if is_called(name, text) || pattern.as_ref().is_some_and(|pattern| pattern.matches(name)) {
                (*chosen, any) = (true, true);
            }
        }
        if !any {
            return Err(unknown(header, "--signals", text));
        }
    }
    Ok(chosen)
}

/// The place of the signal that an option names.
pub(super) fn place(header: &Header, option: &str, wanted: &str) -> Result<u32> {
    let found = (0..).zip(&header.signals).find(|(_, name)| is_called(name, wanted));
    found.map(|(place, _)| place).ok_or_else(|| unknown(header, option, wanted))
}

fn unknown(header: &Header, option: &str, wanted: &str) -> Fault {
    let known: Vec<&str> = header.signals.iter().take(40).map(String::as_str).collect();
    Fault::Usage {
        message: format!("{option}: the capture has no signal `{wanted}`"),
        hint: format!("it has {}", known.join(", ")),
    }
}

/// What the file says of the recorder, and what the options do.
pub(super) fn recorder(options: &CaptureOptions, header: &Header, trailer: &Trailer) -> Recorder {
    let seen = header.interval.or(trailer.interval).unwrap_or(1);
    let told = options.recorder.and_then(|told| Rational::ONE.over(told.nominal.value())?.over(header.tick));
    // Half a tick is no sample of its own.
    let interval = told.map_or(seen, |ticks| ticks.approx().round().max(1.0) as u64);
    Recorder { tick: header.tick.approx(), length: trailer.end, interval, accuracy: options.accuracy() }
}
