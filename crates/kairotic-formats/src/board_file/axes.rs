//! From the keys of a stepper's signal to the stepper on the board.

use kairotic_core::board::StepAxis;
use kairotic_core::load::StepDrive;
use kairotic_core::part::check::Path;

use super::Problems;
use super::given::Given;
use super::loads::NamedStepper;
use super::place::{Known, place};
use super::raw::RawSignal;

/// The lines of a four-wire drive.
const WIRES: usize = 4;

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
    let given = raw.lines.len();
    let lines: Vec<String> =
        problems.every(&path.key("lines"), raw.lines).into_iter().map(|words| words.0).collect();
    match stepper.drive {
        StepDrive::StepDirection { .. } => {
            if given > 0 {
                problems.report(&path.key("lines"), "is for a stepper with `drive = \"four-wire\"`");
            }
        }
        StepDrive::FourWire { .. } => {
            if direction.is_some() {
                problems.report(&path.key("direction"), "is for a stepper with `drive = \"step-direction\"`");
            }
            if given != WIRES {
                problems.report(path, format!("expected four pins in `lines`, found {given}"));
            }
            if !on_given {
                problems.report(path, "`on` is missing: the timer that times the steps");
            }
        }
    }
    let before = known.before;
    Some(StepAxis {
        name: name?,
        load: load.clone(),
        stepper: stepper.clone(),
        place: place?,
        direction,
        lines,
        before,
    })
}
