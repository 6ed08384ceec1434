//! Requests for tests, from the texts that a user would type.

use kairotic_core::Result;
use kairotic_core::decode::{DecodeRequest, Reading, decode};
use kairotic_core::part::{Assignment, Part, Timer};
use kairotic_core::quantity::{Deviation, Frequency, Tolerance, parse};
use kairotic_core::search::{Derivation, DeriveRequest, derive};
use kairotic_core::setting::{FieldWrite, Setting};
use kairotic_core::signal::{Active, Aim, Ask, Level, Target};

use crate::catalogue::part;

/// A clock without tolerance.
pub(crate) fn clock(text: &str) -> Tolerance<Frequency> {
    Tolerance { nominal: text.parse().unwrap(), deviation: Deviation::ZERO }
}

/// A request for a frequency and signals: `35%`, `1.5ms`, or with a channel, `b=35%`.
pub(crate) fn request(timer: &str, clock_text: &str, frequency: &str, signals: &[&str]) -> DeriveRequest {
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
    DeriveRequest {
        timer: timer.to_owned(),
        base: None,
        channel: None,
        clock: Some(clock(clock_text)),
        target: Target {
            aim: Aim::Frequency(frequency.parse().unwrap()),
            asks: signals.iter().map(ask).collect(),
            span: None,
            within: "100ppm".parse().unwrap(),
            level: Level::High,
            dead_time: None,
            min_steps: 0,
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
pub(crate) fn readout(timer: &str, clock_text: &str, registers: &str) -> DecodeRequest {
    let assignments: Vec<Assignment> = registers.split(' ').map(|text| text.parse().unwrap()).collect();
    DecodeRequest {
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
    decode(part(steps[0]), &DecodeRequest { channel, ..readout(steps[1], clock, registers) }).unwrap()
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
    let request = DecodeRequest {
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
