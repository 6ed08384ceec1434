//! What is shown of a board's signal: what its load makes of the setting, and whether it meets what is required.

use kairotic_core::board::Outcome;
use kairotic_core::load::DeadBand;
use kairotic_core::quantity::LoadLevel;

use super::words::counted;
use crate::format::{Cell, Line};

/// What the load makes of the setting, for the block `gives`.
pub fn gives(outcome: &Outcome) -> Vec<Line> {
    let Some(driven) = &outcome.driven else { return Vec::new() };
    let row = |figure: &str, value: String, note: String| {
        Line::Row(vec![Cell::left(figure), Cell::point(value), Cell::left(note)])
    };
    let load = format!("of {}, the {}", driven.load, driven.kind.replace('-', " "));
    let mut rows: Vec<Line> =
        driven.outputs.iter().map(|level| row(driven.measures, brief(*level), load.clone())).collect();
    let span = format!("at most, of {} in its span", counted(driven.steps, "step"));
    rows.push(row(&format!("{} step", driven.measures), driven.step.rounded(4), span));
    rows.extend(driven.average.map(|volts| row("average", volts.rounded(4), "at the motor".to_owned())));
    rows.extend(driven.dead_band.map(|DeadBand { pulse, level }| {
        row("dead band", level.rounded(4), format!("{}: smaller changes are not followed", pulse.told()))
    }));
    rows.extend(driven.arming.map(|arming| {
        row(
            "arming",
            arming.pulse.told(),
            format!("for {} before it lets the motor turn", arming.hold.told()),
        )
    }));
    rows.extend(driven.lines.map(|lines| row("wiring", String::new(), lines.to_owned())));
    rows
}

/// A level exactly where that is short.
fn brief(level: LoadLevel) -> String {
    let exact = level.told();
    if exact.len() > 12 { level.rounded(6) } else { exact }
}
