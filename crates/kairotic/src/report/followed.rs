//! What `measure` shows of a capture against a sequence or a move.

use kairotic_core::capture::{FollowedPin, PulseMeaning};
use kairotic_core::quantity::{Measured, Time, TimeDimension};
use kairotic_core::requirement::Verdict;
use serde::Serialize;

use super::words::{brief, counted};
use crate::fault::Result;
use crate::format::{Cell, Line, Page, Report, Table, envelope};

/// A capture against a sequence or a move.
#[derive(Debug, Serialize)]
pub struct FollowedReport {
    /// The capture.
    pub file: String,
    /// What was to be done.
    pub name: String,
    /// How long that takes.
    pub planned_length: Time,
    /// How long the capture is.
    pub length: Measured<TimeDimension>,
    /// From one sample to the next.
    pub step: Measured<TimeDimension>,
    /// The pins.
    pub pins: Vec<FollowedPin>,
    /// Pins that are planned and not in the capture.
    pub absent: Vec<String>,
    /// What the reader has to say.
    pub notes: Vec<String>,
}

const PINS: &[&str] =
    &["pin", "planned", "seen", "missing", "extra", "wrong", "off, most", "clock", "verdict"];

impl Report for FollowedReport {
    fn page(&self) -> Result<Page> {
        let mut page = Page::headed([
            self.file.clone(),
            format!("{}, {}", self.name, brief(self.planned_length)),
            format!("{} recorded", self.length.rounded(6)),
        ]);
        page.table("pins", PINS, self.pins.iter().map(pin_line).collect());
        let because = self.pins.iter().flat_map(|pin| because(pin, self.step));
        page.push("because", &[], because.map(Line::Prose).collect());
        let absent = self.absent.iter().map(|name| format!("{name}: planned, but not in the capture"));
        page.push("notes", &[], self.notes.iter().cloned().chain(absent).map(Line::Prose).collect());
        Ok(page)
    }

    fn table(&self) -> Result<Table> {
        let columns = [
            "pin",
            "pulses",
            "planned",
            "seen",
            "missing",
            "extra",
            "wrong",
            "misdirected",
            "position",
            "furthest_s",
            "allowed_s",
            "clock_error",
            "verdict",
        ];
        let rows = self.pins.iter().map(|pin| {
            let number = |value: Option<u64>| value.map(|value| value.to_string()).unwrap_or_default();
            vec![
                pin.name.clone(),
                meaning(pin.pulses).to_owned(),
                pin.planned.to_string(),
                pin.seen.to_string(),
                pin.missing.to_string(),
                pin.extra.to_string(),
                pin.wrong.to_string(),
                number(pin.misdirected),
                pin.position.map(|position| position.to_string()).unwrap_or_default(),
                pin.furthest.value().to_string(),
                pin.allowed.value().to_string(),
                pin.clock.map(|clock| clock.value().to_string()).unwrap_or_default(),
                pin.verdict.words().to_owned(),
            ]
        });
        Ok(Table::new(&columns, rows))
    }

    fn json(&self) -> Result<String> {
        envelope("measure", self, &[])
    }
}

const fn meaning(pulses: PulseMeaning) -> &'static str {
    match pulses {
        PulseMeaning::Level => "level",
        PulseMeaning::Step => "step",
        PulseMeaning::Wire => "wire",
    }
}

fn pin_line(pin: &FollowedPin) -> Line {
    let off = match pin.pulses {
        PulseMeaning::Level => String::new(),
        PulseMeaning::Step | PulseMeaning::Wire => pin.furthest.rounded(4),
    };
    Line::row([
        Cell::left(pin.name.clone()),
        Cell::right(pin.planned.to_string()),
        Cell::right(pin.seen.to_string()),
        Cell::right(pin.missing.to_string()),
        Cell::right(pin.extra.to_string()),
        Cell::right(pin.wrong.to_string()),
        Cell::point(off),
        Cell::point(pin.clock.map(|clock| clock.rounded(3)).unwrap_or_default()),
        Cell::left(pin.verdict.words()),
    ])
}

/// What made the verdict.
fn because(pin: &FollowedPin, step: Measured<TimeDimension>) -> Vec<String> {
    let name = &pin.name;
    let mut told = Vec::new();
    if let Some(position) = pin.position {
        let steps = counted(position.unsigned_abs(), "step");
        let side = if position < 0 { "towards smaller angles" } else { "towards larger angles" };
        told.push(format!("{name} ends {steps} {side} from where it began"));
    }
    if let Some(wrong) = pin.misdirected.filter(|wrong| *wrong > 0) {
        let steps = counted(wrong, "step");
        told.push(format!("{steps} of {name} came with a direction that was wrong, new or about to change"));
    }
    if let Some(fault) = pin.first_fault {
        told.push(format!("{name} is not as planned for the first time at {}", fault.rounded(6)));
    }
    if pin.pulses != PulseMeaning::Level && pin.furthest.value() > pin.allowed.value() {
        let (furthest, allowed) = (pin.furthest.rounded(4), pin.allowed.rounded(4));
        told.push(format!("{name} has an edge that is off by {furthest}, and {allowed} is allowed"));
    }
    if pin.verdict == Verdict::CannotTell {
        let step = step.rounded(3);
        told.push(format!("{name}: the capture is too short, or {step} from sample to sample is too coarse"));
    }
    told
}
