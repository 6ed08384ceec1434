//! `measure`: what a recorder saw.

use std::fs::File;
use std::io;
use std::sync::mpsc::sync_channel;
use std::thread;

use kairotic_core::board::Needs;
use kairotic_core::capture::{
    self, Answer, Change, CommonClock, Comparison, Measurement, Metered, Meters, Planned, Recorder,
};
use kairotic_core::load::Load;
use kairotic_core::quantity::{Frequency, OrOverflow, Rational, Tolerance};
use kairotic_core::setting::{self, Derivation, DeriveRequest};
use kairotic_formats::capture::{CaptureError, Header, Reader, Trailer};

use crate::arguments::measure::MeasureArgs;
use crate::catalogue::Catalogue;
use crate::exit::Exit;
use crate::fault::{Fault, Result};
use crate::plot::{self, PlotError};
use crate::render::Report;
use crate::show::measure::{FittedClock, MeasureReport, MeasuredPair, MeasuredSignal};
use crate::status::Status;

/// Batches that may wait between the reader and the meters.
const WAITING: usize = 8;

pub(super) fn run(arguments: &MeasureArgs, catalogue: &Catalogue) -> Result<(Box<dyn Report>, Exit)> {
    let path = &arguments.file;
    let fault = |error| Fault::Capture { path: path.clone(), error };
    let hints = arguments.hints()?;
    let reader = if let Some(bytes) = catalogue.brought(path) {
        Reader::pipe(Box::new(bytes), &hints).map_err(fault)?
    } else if path.as_os_str() == "-" {
        Reader::pipe(Box::new(io::stdin()), &hints).map_err(fault)?
    } else {
        let file = File::open(path).map_err(|error| fault(CaptureError::Io(error)))?;
        Reader::file(file, &hints).map_err(fault)?
    };
    let header = reader.header().clone();
    let chosen = chosen(&header, &arguments.select)?;
    let pairs = pairs(&header, &arguments.between)?;
    let wanted = wanted(&chosen, &pairs);
    let tick = header.tick;
    let glitch = match arguments.glitch()? {
        Some(glitch) => {
            let ticks = glitch.value().over(tick).or_overflow("glitch")?;
            u64::try_from(ticks.floor()).ok().or_overflow("glitch")?
        }
        None => 0,
    };
    let meters = Meters::new(&chosen, &pairs, glitch);
    let (mut trailer, Metered { signals, pairs }) = measured(reader, &wanted, meters).map_err(fault)?;
    let recorder = recorder(arguments, &header, &trailer)?;

    let mut plans = plans(arguments, catalogue, &header, &signals, &mut trailer.notes)?;
    let mut comparisons = Vec::new();
    for plan in &plans {
        comparisons.push(capture::compare(&plan.planned(), plan.measurement, &recorder)?);
    }
    capture::settle(&mut comparisons);
    let clock = if arguments.fit_clock { fitted(&plans, &comparisons, catalogue)? } else { None };
    let failed = comparisons.iter().any(failed);
    let mut compared: Vec<(u32, Comparison)> =
        plans.drain(..).map(|plan| plan.place).zip(comparisons).collect();
    let name = |place: u32| header.signals.get(place as usize).cloned().unwrap_or_default();
    let signals: Vec<MeasuredSignal> = signals
        .into_iter()
        .map(|(place, measurement)| {
            let found = compared.iter().position(|(known, _)| *known == place);
            let comparison = found.map(|found| compared.swap_remove(found).1);
            MeasuredSignal { name: name(place), measurement, comparison }
        })
        .collect();
    let pairs = pairs.into_iter().map(|((first, second), measurement)| MeasuredPair {
        first: name(first),
        second: name(second),
        measurement,
    });
    let report = MeasureReport {
        file: path.display().to_string(),
        header: header.clone(),
        trailer,
        recorder,
        stated: arguments.accuracy()?.is_some(),
        signals,
        pairs: pairs.collect(),
        clock,
    };
    if let Some(path) = &arguments.plot {
        let figure = report.figure().ok_or(PlotError::Empty("no signal has a period"))?;
        plot::save(&figure, path)?;
    }
    Ok((Box::new(report), if failed { Exit::Missed } else { Exit::Fine }))
}

/// A planned signal with what was measured of it.
struct Plan<'m> {
    place: u32,
    measurement: &'m Measurement,
    name: String,
    part: String,
    request: DeriveRequest,
    derivation: Derivation,
    needs: Needs,
    load: Option<Load>,
}

impl Plan<'_> {
    fn planned(&self) -> Planned<'_> {
        Planned {
            name: &self.name,
            derivation: &self.derivation,
            needs: &self.needs,
            load: self.load.as_ref(),
        }
    }
}

/// Reads on one core and measures on another.
fn measured(reader: Reader, wanted: &[bool], mut meters: Meters) -> Result<(Trailer, Metered), CaptureError> {
    thread::scope(|scope| {
        let (sender, receiver) = sync_channel::<Vec<Change>>(WAITING);
        let reading = scope.spawn(move || reader.read(wanted, &mut |changes| sender.send(changes).is_ok()));
        let (mut status, mut edges) = (Status::new(), 0);
        for changes in receiver {
            meters.take(&changes);
            edges += changes.len();
            status.says(|| format!("{:.1} million edges", edges as f64 / 1e6));
        }
        let trailer = reading.join().map_err(|_| io::Error::other("the reader has ended early"))??;
        Ok((trailer, meters.finish()))
    })
}

/// The signals that names and patterns mean; all where there are none.
fn chosen(header: &Header, select: &[String]) -> Result<Vec<bool>> {
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
            return Err(unknown(header, "--select", text));
        }
    }
    Ok(chosen)
}

/// Whether a signal is meant: by its name, or by the last step of it.
fn is_called(name: &str, wanted: &str) -> bool {
    let last = name.rsplit('.').next().unwrap_or(name);
    name.eq_ignore_ascii_case(wanted) || last.eq_ignore_ascii_case(wanted)
}

fn place(header: &Header, option: &str, wanted: &str) -> Result<u32> {
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

fn pairs(header: &Header, between: &[String]) -> Result<Vec<(u32, u32)>> {
    let pair = |text: &String| {
        let (first, second) = text.split_once(',').ok_or_else(|| Fault::Usage {
            message: format!("--between: expected two signals with a comma between, found `{text}`"),
            hint: "for example --between D0,D1".to_owned(),
        })?;
        Ok((place(header, "--between", first.trim())?, place(header, "--between", second.trim())?))
    };
    between.iter().map(pair).collect()
}

/// The signals that have to be read.
fn wanted(chosen: &[bool], pairs: &[(u32, u32)]) -> Vec<bool> {
    let mut wanted = chosen.to_vec();
    for place in pairs.iter().flat_map(|(first, second)| [*first, *second]) {
        if let Some(wanted) = wanted.get_mut(place as usize) {
            *wanted = true;
        }
    }
    wanted
}

/// What the file says of the recorder, and what the options do.
fn recorder(arguments: &MeasureArgs, header: &Header, trailer: &Trailer) -> Result<Recorder> {
    let seen = header.interval.or(trailer.interval).unwrap_or(1);
    let told = arguments.recorder()?;
    let told = told.and_then(|told| Rational::ONE.over(told.nominal.value())?.over(header.tick));
    // Half a tick is no sample of its own.
    let interval = told.map_or(seen, |ticks| ticks.approx().round().max(1.0) as u64);
    Ok(Recorder {
        tick: header.tick.approx(),
        length: trailer.end,
        interval,
        accuracy: arguments.accuracy()?,
    })
}

/// The planned signals that the capture has.
fn plans<'m>(
    arguments: &MeasureArgs,
    catalogue: &Catalogue,
    header: &Header,
    signals: &'m [(u32, Measurement)],
    notes: &mut Vec<String>,
) -> Result<Vec<Plan<'m>>> {
    if !arguments.plan.is_given() {
        if arguments.fit_clock || !arguments.map.is_empty() {
            return Err(Fault::Usage {
                message: "--map and --fit-clock mean nothing without a plan".to_owned(),
                hint: "give --board FILE, or a target with --on".to_owned(),
            });
        }
        return Ok(Vec::new());
    }
    let mut map = Vec::new();
    for text in &arguments.map {
        let (captured, planned) = text.split_once('=').ok_or_else(|| Fault::Usage {
            message: format!("--map: expected CAPTURED=PLANNED, found `{text}`"),
            hint: "for example --map D0=shutter".to_owned(),
        })?;
        map.push((place(header, "--map", captured.trim())?, planned.trim().to_owned()));
    }
    let mut plans = Vec::new();
    let all = arguments.plan.read(catalogue)?;
    let lone = all.len() == 1 && signals.len() == 1;
    for planned in all {
        let mapped = map.iter().find(|(_, name)| *name == planned.name).map(|(place, _)| *place);
        let named = (0..).zip(&header.signals).find(|(_, name)| is_called(name, &planned.name));
        let only = signals.first().map(|(place, _)| *place).filter(|_| lone);
        let Some(place) = mapped.or(named.map(|(place, _)| place)).or(only) else {
            notes.push(format!("{} is planned, and no signal of the capture", planned.name));
            continue;
        };
        let Some((_, measurement)) = signals.iter().find(|(known, _)| *known == place) else { continue };
        let derivation = setting::derive(catalogue.part(&planned.part)?, &planned.derive)?;
        let needs = arguments.needs(planned.needs, planned.load.as_ref())?;
        plans.push(Plan {
            place,
            measurement,
            name: planned.name,
            part: planned.part,
            request: planned.derive,
            derivation,
            needs,
            load: planned.load,
        });
    }
    if plans.is_empty() {
        return Err(Fault::Usage {
            message: "no signal of the capture is one of the plan".to_owned(),
            hint: "say which is which with --map CAPTURED=PLANNED, or choose one with --select".to_owned(),
        });
    }
    Ok(plans)
}

/// Whether anything that was planned is not so.
fn failed(comparison: &Comparison) -> bool {
    let errors = kairotic_core::finding::Severity::Error;
    comparison.held.iter().any(|held| held.answer == Answer::Fail)
        || comparison.findings.iter().any(|finding| finding.severity == errors)
}

/// The clock behind the planned signals, and each of them derived for it.
fn fitted(
    plans: &[Plan<'_>],
    comparisons: &[Comparison],
    catalogue: &Catalogue,
) -> Result<Option<FittedClock>> {
    let Some(common) = capture::common_clock(comparisons) else { return Ok(None) };
    let CommonClock { error, uncertainty, .. } = common;
    let factor = Rational::measured(1.0 + error).or_overflow("clock")?;
    let deviation = Rational::measured(uncertainty).or_overflow("clock")?;
    let mut derived = Vec::new();
    for plan in plans {
        let nominal = plan.derivation.clock.nominal.value().times(factor).or_overflow("clock")?;
        let deviation = kairotic_core::quantity::Deviation::new(deviation);
        let clock = Some(Tolerance { nominal: Frequency::new(nominal), deviation });
        // What a clock really has is not asked whether it may have that.
        let request = DeriveRequest { clock, allow_overclock: true, ..plan.request.clone() };
        derived.push((plan.name.clone(), setting::derive(catalogue.part(&plan.part)?, &request)?));
    }
    Ok(Some(FittedClock { common, derived }))
}
