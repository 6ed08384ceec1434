//! Requests for tests, from the texts that a user would type.

use kairotic_core::Result;
use kairotic_core::accuracy::{self, BenchMeasurement, Budget, MeasuredClock};
use kairotic_core::decode::{self, Reading};
use kairotic_core::load::Load;
use kairotic_core::part::{Assignment, Part, Timer, TimerUse};
use kairotic_core::quantity::{Deviation, Frequency, Tolerance, parse};
use kairotic_core::search::{Derivation, Prefer, SearchOptions, derive_with};
use kairotic_core::setting::{FieldWrite, Setting};
use kairotic_core::signal::{Conditions, Needs, SignalSpec};
use kairotic_core::target::{Active, Ask, Target};

use crate::catalogue::part;

/// What is typed to derive a signal, on a part that is named apart.
#[derive(Debug, Clone)]
pub(crate) struct Request {
    pub(crate) timer: String,
    pub(crate) base: Option<String>,
    pub(crate) channel: Option<String>,
    pub(crate) clock: Option<Tolerance<Frequency>>,
    pub(crate) target: Target,
    pub(crate) mode: Option<String>,
    pub(crate) prefer: Option<Prefer>,
    pub(crate) dither: bool,
    pub(crate) all: bool,
    pub(crate) allow_overclock: bool,
}

impl Request {
    pub(crate) fn spec<'p>(&self, part: &'p Part) -> SignalSpec<'p> {
        let Self { base, clock, channel, mode, allow_overclock, .. } = self.clone();
        let on = TimerUse { base, clock, allow_overclock, ..TimerUse::of(part, &self.timer) };
        SignalSpec::of(on, Target { channel, mode, ..self.target.clone() })
    }
}

/// What is derived on a part.
pub(crate) fn derive(part: &Part, request: &Request) -> Result<Derivation> {
    let SignalSpec { on, target, .. } = request.spec(part);
    let Request { prefer, dither, all, .. } = *request;
    derive_with(&on, &target, SearchOptions { prefer, dither, all })
}

/// What is typed to draw up a budget.
#[derive(Debug, Clone)]
pub(crate) struct Planned {
    pub(crate) derive: Request,
    pub(crate) conditions: Conditions,
    pub(crate) needs: Needs,
    pub(crate) load: Option<Load>,
}

impl Planned {
    fn spec<'p>(&self, part: &'p Part) -> SignalSpec<'p> {
        let Self { derive, conditions, needs, load } = self.clone();
        SignalSpec { conditions, needs, load, ..derive.spec(part) }
    }
}

/// The budget of what is planned on a part.
pub(crate) fn budget(part: &Part, planned: &Planned) -> Result<Budget> {
    accuracy::budget(&planned.spec(part))
}

/// The clock that a measurement of what is planned tells of.
pub(crate) fn measured(
    part: &Part,
    planned: &Planned,
    measurement: &BenchMeasurement,
) -> Result<MeasuredClock> {
    accuracy::measured(&planned.spec(part), measurement)
}

/// What is typed to decode registers.
#[derive(Debug, Clone)]
pub(crate) struct Readout {
    pub(crate) timer: String,
    pub(crate) base: Option<String>,
    pub(crate) channel: Option<String>,
    pub(crate) clock: Option<Tolerance<Frequency>>,
    pub(crate) assignments: Vec<Assignment>,
    pub(crate) expect: Option<Frequency>,
    pub(crate) within: Deviation,
    pub(crate) allow_overclock: bool,
}

impl Readout {
    pub(crate) fn on<'p>(&self, part: &'p Part) -> decode::DecodeRequest<'p> {
        let Self { timer, base, channel, clock, assignments, expect, within, allow_overclock } = self.clone();
        let on = TimerUse { part, timer, base, clock, allow_overclock };
        decode::DecodeRequest { on, channel, assignments, expect, within }
    }
}

/// What registers of a part's timer make.
pub(crate) fn decode(part: &Part, readout: &Readout) -> Result<Reading> {
    decode::decode(&readout.on(part))
}

/// A clock without tolerance.
pub(crate) fn clock(text: &str) -> Tolerance<Frequency> {
    Tolerance { nominal: text.parse().unwrap(), deviation: Deviation::ZERO }
}

/// A request for a frequency and signals: `35%`, `1.5ms`, or with a channel, `b=35%`.
pub(crate) fn request(timer: &str, clock_text: &str, frequency: &str, signals: &[&str]) -> Request {
    let ask = |text: &&str| {
        let (channel, value) = match text.split_once('=') {
            Some((channel, value)) => (Some(channel.to_owned()), value),
            None => (None, *text),
        };
        let active = match value.contains('%') {
            true => Active::Duty(parse::quantity(value).unwrap()),
            false => Active::Pulse(parse::quantity(value).unwrap()),
        };
        Ask { channel, active, start: None }
    };
    Request {
        timer: timer.to_owned(),
        base: None,
        channel: None,
        clock: Some(clock(clock_text)),
        target: Target {
            asks: signals.iter().map(ask).collect(),
            ..Target::frequency(frequency.parse().unwrap())
        },
        mode: None,
        prefer: None,
        dither: false,
        all: false,
        allow_overclock: false,
    }
}

/// What is derived for `part/timer`.
pub(crate) fn derived(place: &str, clock: &str, frequency: &str, signals: &[&str]) -> Derivation {
    let (name, timer) = place.split_once('/').unwrap();
    derive(part(name), &request(timer, clock, frequency, signals)).unwrap()
}

/// A request to decode registers, written as on the command line.
pub(crate) fn readout(timer: &str, clock_text: &str, registers: &str) -> Readout {
    let assignments: Vec<Assignment> = registers.split(' ').map(|text| text.parse().unwrap()).collect();
    Readout {
        timer: timer.to_owned(),
        base: None,
        channel: None,
        clock: Some(clock(clock_text)),
        assignments,
        expect: None,
        within: "100ppm".parse().unwrap(),
        allow_overclock: false,
    }
}

/// What registers of `part/timer` or `part/timer/channel` make.
pub(crate) fn decoded(place: &str, clock: &str, registers: &str) -> Reading {
    let steps: Vec<&str> = place.split('/').collect();
    let channel = steps.get(2).map(|channel| (*channel).to_owned());
    decode(part(steps[0]), &Readout { channel, ..readout(steps[1], clock, registers) }).unwrap()
}

/// Every register field that a setting writes, by the name that is printed.
pub(crate) fn assigned(timer: &Timer, setting: &Setting) -> Vec<Assignment> {
    let writes = setting.writes(timer).unwrap();
    // Where something lies in memory is no part of the signal.
    let number = |write: &FieldWrite| Some(Assignment { name: write.name(), value: write.written.number()? });
    writes.iter().filter_map(number).collect()
}

/// What the registers that a setting writes make.
pub(crate) fn read_back(part: &Part, timer: &Timer, setting: &Setting) -> Result<Reading> {
    let request = Readout {
        timer: timer.name.clone(),
        base: None,
        channel: None,
        clock: Some(Tolerance { nominal: setting.clock, deviation: Deviation::ZERO }),
        assignments: assigned(timer, setting),
        expect: None,
        within: Deviation::ZERO,
        allow_overclock: false,
    };
    decode(part, &request)
}
