//! `wave`: the edges that pins should have.

use std::io::{BufWriter, Write};

use kairotic_core::error::OrOverflow;
use kairotic_core::limits::{self, Limit};
use kairotic_core::quantity::{Rational, Time};
use kairotic_core::search::DerivedSignal;
use kairotic_core::simulation::{self, Change, Wave, WaveLine, WaveRequest};
use kairotic_formats::capture::{Writer, WriterKind};

use crate::arguments::wave::WaveArgs;
use crate::atomic_file::Destination;
use crate::fault::{Fault, Result};
use crate::format::Report;
use crate::part_library::PartLibrary;
use crate::report::wave::{LevelAt, WaveReport, WaveSignal};

/// The most edges that are shown of each signal.
const SHOWN: usize = 8;
/// The most edges that are kept of each signal for a picture.
const DRAWN: usize = 600;

pub(super) fn run(arguments: &WaveArgs, catalogue: &PartLibrary) -> Result<Box<dyn Report>> {
    let (save, plot) = arguments.files.asked()?;
    let kind = arguments.kind();
    let played = arguments.played.read(&arguments.spec, catalogue)?;
    if played.is_some() && plot.is_some() {
        return Err(Fault::Usage {
            message: "--plot: a picture of pins shows a few periods, and this is played over time".to_owned(),
            hint: "`sequence --plot` and `move --plot` draw it".to_owned(),
        });
    }
    let planned = match &played {
        Some(played) => played.pins.iter().map(|pin| (WaveSignal::of(pin), pin.line.clone())).collect(),
        None => levelled(arguments, catalogue)?,
    };
    let (mut signals, lines): (Vec<WaveSignal>, Vec<WaveLine>) = planned.into_iter().unzip();
    let first = signals.first().map_or(Time::ZERO, |signal| signal.period);
    let (length, drawn) = match &played {
        Some(played) => (arguments.played_length(played)?, Time::ZERO),
        None => (arguments.length(first)?, arguments.drawn_length(first)?),
    };
    let tick = arguments.time_resolution;
    bounded(&signals, length, plot.is_some().then_some(drawn))?;
    let request = WaveRequest { lines, length, tick, rehearsal: arguments.faults() };
    let mut wave = Wave::of(&request)?;
    let in_ticks = |time: Time| -> Result<u64> {
        let ticks = time.value().over(tick.value()).or_overflow("length")?.floor();
        Ok(u64::try_from(ticks).ok().or_overflow("length")?)
    };
    let end = in_ticks(length)?;
    // Without a picture nothing has to be kept for one.
    let drawn_end = if plot.is_some() { Some(in_ticks(drawn.min(length))?) } else { None };
    if let Some(end) = drawn_end {
        for (signal, line) in signals.iter_mut().zip(&request.lines) {
            signal.counter = request.counter(line, end)?;
        }
    }
    let at = |ticks: u64| Rational::from(ticks).times(tick.value()).map(Time::new);
    let mut seen = |change: Change| {
        if let Some(signal) = signals.get_mut(change.signal as usize) {
            // The level at the start is no edge.
            signal.edges += u64::from(!signal.first.is_empty());
            if let (true, Some(time)) = (signal.first.len() < SHOWN, at(change.at)) {
                signal.first.push(LevelAt { time, level: change.level });
            }
            if drawn_end.is_some_and(|end| change.at <= end) && signal.drawn.len() < DRAWN {
                signal.drawn.push((change.at, change.level));
            }
        }
    };
    if let (Some(destination), Some(kind)) = (save, kind) {
        let names: Vec<String> = request.lines.iter().map(|line| line.name.clone()).collect();
        write(destination, kind, tick, &names, &mut wave.inspect(|change| seen(*change)), end)?;
    } else {
        wave.by_ref().for_each(&mut seen);
    }
    let saved = arguments.files.saved();
    let report = WaveReport { signals, length, tick, saved };
    if let (Some(plot), Some(end)) = (plot, drawn_end) {
        plot.save(&report.figure(end))?;
    }
    Ok(Box::new(report))
}

/// The pins of signals that hold their levels.
fn levelled(arguments: &WaveArgs, catalogue: &PartLibrary) -> Result<Vec<(WaveSignal, WaveLine)>> {
    let mut found = Vec::new();
    for planned in arguments.spec.all(catalogue)? {
        let DerivedSignal { spec, derivation } = DerivedSignal::of(planned.spec)?;
        let setting = &derivation.best.setting;
        let own = simulation::lines(&derivation.timer, setting, &spec.name)?;
        if own.is_empty() {
            return Err(Fault::Usage {
                message: format!("{}: there is no pulse to draw", spec.name),
                hint: "give --pulse or --duty, or in a board file `pulse`, `duty` or `at`".to_owned(),
            });
        }
        found.extend(own.into_iter().map(|line| {
            let signal = WaveSignal::named(&line.name, derivation.timer.path(), setting.period);
            (signal, line)
        }));
    }
    if found.is_empty() {
        return Err(Fault::Usage {
            message: "the board has steppers only, and no signal whose edges could be shown".to_owned(),
            hint: "--move FROM..TO plays a move of the one that --signal names".to_owned(),
        });
    }
    Ok(found)
}

/// Refuses more edges than a wave has, and more periods than a picture.
fn bounded(signals: &[WaveSignal], length: Time, drawn: Option<Time>) -> Result<()> {
    let periods = |length: Time| -> Result<f64> {
        let of = |signal: &WaveSignal| length.value().over(signal.period.value()).map(Rational::approx);
        Ok(signals.iter().map(of).sum::<Option<f64>>().or_overflow("length")?)
    };
    let refused = |limit: Limit, what: &str, number: f64, hint: &str| Fault::Usage {
        message: limit.refusal(what, number as u64),
        hint: hint.to_owned(),
    };
    let edges = 2.0 * periods(length)?;
    if limits::WAVE_EDGES.is_below(edges as u64) {
        return Err(refused(
            limits::WAVE_EDGES,
            "the wave would have",
            edges,
            "a shorter --for, or fewer --periods",
        ));
    }
    let drawn = drawn.map_or(Ok(0.0), periods)?;
    if limits::DRAWN_PERIODS.is_below(drawn as u64) {
        let hint = "a shorter --for, or fewer --periods: a picture shows a few";
        return Err(refused(limits::DRAWN_PERIODS, "the picture would have", drawn, hint));
    }
    Ok(())
}

/// Writes a capture, whole or not at all.
fn write(
    destination: Destination,
    kind: WriterKind,
    tick: Time,
    names: &[String],
    changes: &mut dyn Iterator<Item = Change>,
    end: u64,
) -> Result<()> {
    let place = destination.clone();
    let fault = |error| place.fault(error);
    let output = BufWriter::with_capacity(1 << 18, destination.begin()?);
    let mut writer = Writer::new(output, kind, tick.value(), "kairotic", names).map_err(fault)?;
    for change in changes {
        writer.change(change).map_err(fault)?;
    }
    let mut output = writer.finish(end).map_err(fault)?;
    output.flush().map_err(fault)?;
    output.into_inner().map_err(|error| fault(error.into_error()))?.finish()
}
