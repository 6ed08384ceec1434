//! `wave`: the edges that pins should have.

use std::io::{BufWriter, Write};
use std::path::Path;

use kairotic_core::capture::{self, Change, Wave, WaveRequest};
use kairotic_core::quantity::{OrOverflow, Time};
use kairotic_core::setting;
use kairotic_formats::capture::{Writer, WriterKind};

use crate::arguments::wave::WaveArgs;
use crate::catalogue::Catalogue;
use crate::fault::{Fault, Result};
use crate::plot;
use crate::render::Report;
use crate::show::wave::{WaveReport, WaveSignal};

/// The most edges that are shown of each signal.
const SHOWN: usize = 8;
/// The most edges that are kept of each signal for a picture.
const DRAWN: usize = 600;

pub(super) fn run(arguments: &WaveArgs, catalogue: &Catalogue) -> Result<Box<dyn Report>> {
    plot::check(arguments.plot.as_ref())?;
    let kind = arguments.kind()?;
    if let Some(path) = arguments.save.as_ref().filter(|path| !arguments.force && path.exists()) {
        return Err(Fault::Usage {
            message: format!("--save: {} is there already", path.display()),
            hint: "another name, or --force to write over it".to_owned(),
        });
    }
    let (mut lines, mut signals) = (Vec::new(), Vec::new());
    for planned in arguments.plan.read(catalogue)? {
        let derivation = setting::derive(catalogue.part(&planned.part)?, &planned.derive)?;
        let setting = &derivation.best.setting;
        let own = capture::lines(&derivation.timer, setting, &planned.name)?;
        if own.is_empty() {
            return Err(Fault::Usage {
                message: format!("{}: there is no pulse to draw", planned.name),
                hint: "give --pulse or --duty, or in a board file `pulse`, `duty` or `at`".to_owned(),
            });
        }
        signals.extend(own.iter().map(|line| WaveSignal {
            name: line.name.clone(),
            timer: derivation.timer.path(),
            period: setting.period,
            count: 0,
            first: Vec::new(),
            drawn: Vec::new(),
            counter: None,
        }));
        lines.extend(own);
    }
    let first = signals.first().map_or(Time::ZERO, |signal| signal.period);
    let (length, drawn) = (arguments.length(first)?, arguments.drawn_length(first)?);
    let tick = arguments.tick()?;
    let request = WaveRequest { lines, length, tick, rehearsal: arguments.rehearsal()? };
    let mut wave = Wave::of(&request)?;
    let in_ticks = |time: Time| -> Result<u64> {
        let ticks = time.value().over(tick.value()).or_overflow("length")?.floor();
        Ok(u64::try_from(ticks).ok().or_overflow("length")?)
    };
    let end = in_ticks(length)?;
    // Without a picture nothing has to be kept for one.
    let drawn_end = if arguments.plot.is_some() { Some(in_ticks(drawn.min(length))?) } else { None };
    if let Some(end) = drawn_end {
        for (signal, line) in signals.iter_mut().zip(&request.lines) {
            signal.counter = Some(request.counter(line, end)?);
        }
    }
    let mut seen = |change: Change| {
        if let Some(signal) = signals.get_mut(change.signal as usize) {
            signal.count += 1;
            if signal.first.len() < SHOWN {
                signal.first.push((change.at, change.level));
            }
            if drawn_end.is_some_and(|end| change.at <= end) && signal.drawn.len() < DRAWN {
                signal.drawn.push((change.at, change.level));
            }
        }
    };
    if let (Some(path), Some(kind)) = (&arguments.save, kind) {
        let names: Vec<String> = request.lines.iter().map(|line| line.name.clone()).collect();
        save(path, kind, tick, &names, &mut wave.inspect(|change| seen(*change)), end)?;
    } else {
        wave.by_ref().for_each(&mut seen);
    }
    let report = WaveReport { signals, length, tick, saved: arguments.save.clone() };
    if let (Some(path), Some(end)) = (&arguments.plot, drawn_end) {
        plot::save(&report.figure(end), path)?;
    }
    Ok(Box::new(report))
}

/// Writes a capture, whole or not at all.
fn save(
    path: &Path,
    kind: WriterKind,
    tick: Time,
    names: &[String],
    changes: &mut dyn Iterator<Item = Change>,
    end: u64,
) -> Result<()> {
    let fault = |error| Fault::Save { path: path.to_owned(), error };
    let file = crate::whole::file(path)?;
    let output = BufWriter::with_capacity(1 << 18, file);
    let mut writer = Writer::new(output, kind, tick.value(), "kairotic", names).map_err(fault)?;
    for change in changes {
        writer.change(change).map_err(fault)?;
    }
    let mut output = writer.finish(end).map_err(fault)?;
    output.flush().map_err(fault)?;
    let file = output.into_inner().map_err(|error| fault(error.into_error()))?;
    crate::whole::keep(file, path)
}
