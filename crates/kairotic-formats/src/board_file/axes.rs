//! From the keys of a stepper's signal to the stepper on the board.

use kairotic_core::board::StepAxis;
use kairotic_core::load::StepDrive;
use kairotic_core::part::check::Path;

use super::Problems;
use super::given::{Given, Words};
use super::loads::NamedStepper;
use super::place::{Known, place};
use super::raw::RawSignal;

/// The lines of a four-wire drive.
const WIRES: usize = 4;

/// The windings of a stepper.
const WINDINGS: usize = 2;

/// The stepper, or `None` where something that it needs is missing or wrong.
pub(super) fn axis(
    problems: &mut Problems,
    path: &Path,
    known: Known<'_>,
    NamedStepper { name: load, stepper }: &NamedStepper,
    raw: RawSignal,
) -> Option<StepAxis> {
    let name = problems.need(path, "name", raw.name).map(|words| words.0);
    let foreign = [
        ("freq", raw.freq.is_some()),
        ("period", raw.period.is_some()),
        ("duty", raw.duty.is_some()),
        ("pulse", raw.pulse.is_some()),
        ("at", raw.at.is_some()),
        ("span", raw.span.is_some()),
        ("active", raw.active.is_some()),
        ("dead-time", raw.dead_time.is_some()),
        ("latency", raw.latency.is_some()),
        ("edges", raw.edges.is_some()),
        ("second-line", raw.second_line.is_some()),
        ("consumer", raw.consumer.is_some()),
        ("regulates", raw.regulates.is_some()),
        ("needs", raw.needs.is_some()),
    ];
    for (key, _) in foreign.iter().filter(|(_, given)| *given) {
        problems.report(&path.key(*key), "a stepper has steps, and no such key: `move` plans them");
    }
    let on_given = raw.on.is_some();
    let texts = [raw.on, raw.pin].map(|given| given.map(|Given(text)| text.map(|words| words.0)));
    let place = place(problems, path, known.part, texts);
    let direction = problems.take(path, "direction", raw.direction).map(|words| words.0);
    let (wires, wound) = (raw.lines.len(), raw.windings.len());
    let mut names = |key: &str, given: Vec<Given<Words>>| -> Vec<String> {
        problems.every(&path.key(key), given).into_iter().map(|words| words.0).collect()
    };
    let (lines, windings) = (names("lines", raw.lines), names("windings", raw.windings));
    let drive = stepper.drive;
    let has = |key: &str| match drive {
        StepDrive::StepDirection { .. } => key == "direction",
        StepDrive::FourWire { .. } => key == "lines",
        StepDrive::TwoWindings { .. } => key == "windings",
    };
    let keys = [
        ("direction", direction.is_some(), "step-direction"),
        ("lines", wires > 0, "four-wire"),
        ("windings", wound > 0, "two-windings"),
    ];
    for (key, _, other) in keys.iter().filter(|(key, given, _)| *given && !has(key)) {
        problems.report(&path.key(*key), format!("is for a stepper with `drive = \"{other}\"`"));
    }
    if has("lines") && wires != WIRES {
        problems.report(path, format!("expected four pins in `lines`, found {wires}"));
    }
    if has("windings") && wound != WINDINGS {
        problems.report(path, format!("expected two signals in `windings`, found {wound}"));
    }
    if !has("direction") && !on_given {
        problems.report(path, "`on` is missing: the timer that times the steps");
    }
    let before = known.before;
    Some(StepAxis {
        name: name?,
        load: load.clone(),
        stepper: stepper.clone(),
        place: place?,
        direction,
        lines,
        windings: windings.try_into().ok(),
        before,
    })
}
