//! From a signal's keys to the signal.

use kairotic_core::board::{Asked, Consumer, Signal, StepAxis};
use kairotic_core::load::{Load, LoadKind};
use kairotic_core::part::check::Path;
use kairotic_core::quantity::{Range, Voltage};
use kairotic_core::signal::Needs;
use kairotic_core::target::{Active, Aim, Level};

use super::given::{Given, Words, complaint};
use super::place::{Known, place};
use super::raw::{RawNeeds, RawSignal};
use super::words::ConsumerWord;
use super::{Problems, axes};

/// Every key of a signal.
pub(super) const KEYS: [&str; 21] = [
    "name",
    "on",
    "pin",
    "freq",
    "period",
    "duty",
    "pulse",
    "at",
    "span",
    "load",
    "active",
    "dead-time",
    "second-line",
    "direction",
    "lines",
    "windings",
    "consumer",
    "regulates",
    "latency",
    "edges",
    "needs",
];

/// Every key of what is required.
pub(super) const NEEDS: [&str; 7] = ["frequency", "pulse", "level", "steps", "step", "jitter", "clock"];

/// What a signal's table says.
pub(super) enum MadeSignal {
    /// A signal that holds a level.
    Signal(Box<Signal>),
    /// A stepper.
    StepAxis(Box<StepAxis>),
}

/// The signal, or `None` where something that it needs is missing or wrong.
pub(super) fn signal(
    problems: &mut Problems,
    path: &Path,
    known: Known<'_>,
    raw: RawSignal,
) -> Option<MadeSignal> {
    problems.unknown(path, &raw.rest, &KEYS);
    if let Some(Given(Ok(Words(name)))) = &raw.load
        && let Some(stepper) = known.steppers.iter().find(|stepper| stepper.name == *name)
    {
        return axes::axis(problems, path, known, stepper, raw)
            .map(|axis| MadeSignal::StepAxis(Box::new(axis)));
    }
    // A load that is wrong may be a stepper.
    let hangs = matches!(&raw.load, Some(Given(Ok(Words(name)))) if known.wrong.contains(name));
    for (key, given) in [
        ("direction", raw.direction.is_some()),
        ("lines", !raw.lines.is_empty()),
        ("windings", !raw.windings.is_empty()),
    ] {
        if given && !hangs {
            problems.report(&path.key(key), "is for the signal of a stepper");
        }
    }
    level(problems, path, known, raw).map(|signal| MadeSignal::Signal(Box::new(signal)))
}

/// A signal that holds a level.
fn level(problems: &mut Problems, path: &Path, known: Known<'_>, raw: RawSignal) -> Option<Signal> {
    let name = problems.need(path, "name", raw.name).map(|words| words.0);
    let place = place(
        problems,
        path,
        known.part,
        [raw.on, raw.pin].map(|given| given.map(|given| given.0.map(|words| words.0))),
    );
    let load_name = problems.take(path, "load", raw.load).map(|words| words.0);
    let load = known.loads.iter().find(|load| Some(&load.name) == load_name.as_ref());
    let hangs = load_name.as_ref().is_some_and(|name| known.wrong.contains(name));
    let freq = problems.take(path, "freq", raw.freq);
    let period = problems.take(path, "period", raw.period);
    let period = period.and_then(|period| problems.read(&path.key("period"), period.positive()));
    let aim = match (freq, period) {
        (Some(_), Some(_)) => {
            problems.report(&path.key("period"), "give `freq` or `period`, not both");
            None
        }
        (Some(aim), None) => Some(aim),
        (None, Some(period)) => Some(Aim::Period(period)),
        (None, None) => {
            if !hangs && !problems.is_wrong(path, &["freq", "period"]) {
                problems.report(path, "missing `freq` or `period`");
            }
            None
        }
    };
    let duty = problems.share(path, "duty", raw.duty).map(|duty| Asked::Active(Active::Duty(duty)));
    let pulse = problems.take(path, "pulse", raw.pulse).map(|pulse| Asked::Active(Active::Pulse(pulse)));
    let at = problems.take(path, "at", raw.at).and_then(|words| match load {
        Some(load) => problems.read(&path.key("at"), load.kind.read_level(&words.0)).map(Asked::Level),
        None => {
            if load_name.is_none() {
                problems.report(&path.key("at"), "a level in load units needs a load: name one with `load`");
            }
            None
        }
    });
    let asked: Vec<Asked> = [duty, pulse, at].into_iter().flatten().collect();
    if asked.len() > 1 {
        problems.report(path, "give one of `duty`, `pulse` and `at`");
    }
    let span = problems.take(path, "span", raw.span);
    let level = problems.take(path, "active", raw.active).unwrap_or(Level::High);
    let dead_time = problems.take(path, "dead-time", raw.dead_time);
    let latency = problems.take(path, "latency", raw.latency);
    let latency = problems.rising(path, "latency", latency);
    let edges = problems.take(path, "edges", raw.edges);
    let second_line = problems.take(path, "second-line", raw.second_line).map(|words| words.0);
    let consumer = problems.take(path, "consumer", raw.consumer);
    let consumer = consumer_of(problems, path, consumer, raw.regulates);
    let needs = raw.needs.map_or_else(Needs::default, |raw| needs(problems, &path.key("needs"), load, raw));
    Some(Signal {
        name: name?,
        place: place?,
        aim: aim?,
        asked: asked.first().copied(),
        span,
        load: load_name.filter(|_| !hangs),
        level,
        dead_time,
        latency,
        edges,
        second_line,
        consumer,
        // What is required in the load's terms cannot be judged without it.
        needs: if hangs { Needs { step: None, level: None, pulse: None, ..needs } } else { needs },
    })
}

/// What takes it: a regulator's output is said in a key of its own.
fn consumer_of(
    problems: &mut Problems,
    path: &Path,
    word: Option<ConsumerWord>,
    regulates: Option<Given<Range<Voltage>>>,
) -> Option<Consumer> {
    let stated = regulates.is_some();
    let output = problems.take(path, "regulates", regulates);
    let output = problems.rising(path, "regulates", output);
    match word {
        Some(ConsumerWord::Regulator) => {
            if !stated {
                problems.report(path, "`regulates` is missing: what the regulator makes, such as 0.8V..1.2V");
            }
            output.map(|output| Consumer::Regulator { output })
        }
        other => {
            if stated {
                problems.report(&path.key("regulates"), "is for a signal with `consumer = \"regulator\"`");
            }
            match other {
                Some(ConsumerWord::Other(consumer)) => Some(consumer),
                _ => None,
            }
        }
    }
}

fn needs(problems: &mut Problems, path: &Path, load: Option<&Load>, raw: RawNeeds) -> Needs {
    problems.unknown(path, &raw.rest, &NEEDS);
    let mut in_load_units = |key: &str, given: Option<Given<Words>>| {
        problems.take(path, key, given).and_then(|words| {
            let level = load?.kind.read_level(&words.0);
            level.map_err(|error| problems.report(&path.key(key), complaint(error))).ok()
        })
    };
    let step = in_load_units("step", raw.step);
    let level = in_load_units("level", raw.level);
    Needs {
        frequency: problems.positive_or_zero(path, "frequency", raw.frequency),
        pulse: problems.positive_or_zero(path, "pulse", raw.pulse),
        steps: problems.take(path, "steps", raw.steps).map(|count| count.0),
        step,
        level,
        jitter: problems.positive_or_zero(path, "jitter", raw.jitter),
        clock: problems.positive_or_zero(path, "clock", raw.clock),
    }
}
