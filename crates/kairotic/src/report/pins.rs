//! What is shown of pins: one that a signal comes out of, and all of a part.

use kairotic_core::part::{Part, PinOutput, Pinout};
use serde::Serialize;

use crate::arguments::location::PinChoice;
use crate::fault::Result;
use crate::format::{Cell, Line, Page, Report, Table, envelope};

/// The columns of the block `pin`.
pub const PIN: &[&str] = &["pin", "output", "chosen by"];

/// The pin that was named.
pub fn pin_lines(choice: Option<&PinChoice>) -> Vec<Line> {
    let Some(PinChoice { output, sharing, select }) = choice else { return Vec::new() };
    let mut lines = vec![row(output)];
    lines.push(Line::Prose(format!("chosen by {select}")));
    if !sharing.is_empty() {
        lines.push(Line::Prose(format!("one period with {}", sharing.join(" "))));
    }
    lines
}

fn row(output: &PinOutput) -> Line {
    Line::Row(vec![
        Cell::left(output.pin.clone()),
        Cell::left(output.output()),
        Cell::left(output.by.clone()),
    ])
}

/// The pins of a part.
#[derive(Debug)]
pub struct PinPage {
    /// The part.
    pub part: Part,
    /// Its pinout.
    pub pinout: Pinout,
}

impl Report for PinPage {
    fn page(&self) -> Result<Page> {
        let Pinout { package, select, .. } = &self.pinout;
        let mut page = Page::headed([self.part.name.clone(), package.clone(), format!("chosen by {select}")]);
        let mut outputs: Vec<PinOutput> = Vec::new();
        for output in self.pinout.outputs() {
            match outputs.last_mut().filter(|last| last.pin == output.pin && last.output() == output.output())
            {
                // `FIELD = 0` and `FIELD = 2` in one line.
                Some(last) => {
                    let code = output.by.rsplit(" = ").next().unwrap_or(&output.by).to_owned();
                    last.by = format!("{} or {code}", last.by);
                }
                None => outputs.push(output),
            }
        }
        page.push("pins", PIN, outputs.iter().map(row).collect());
        let shared = self.part.timers.iter().filter_map(|timer| {
            let pins = self.pinout.sharing(&timer.name);
            (pins.len() > 1)
                .then(|| Line::Row(vec![Cell::left(timer.name.clone()), Cell::left(pins.join(" "))]))
        });
        page.push("shared", &["timer", "pins with one period"], shared.collect());
        let moved = self.pinout.remaps.iter().map(|remap| {
            let what = format!("moves all channels of {} at once", remap.timer);
            Line::Row(vec![Cell::left(remap.field.clone()), Cell::left(what)])
        });
        page.push("findings", &["field", "what it does"], moved.collect());
        Ok(page)
    }

    fn table(&self) -> Result<Table> {
        let rows =
            self.pinout.outputs().into_iter().map(|output| {
                vec![self.part.name.clone(), output.pin, output.timer, output.channel, output.by]
            });
        Ok(Table::new(&["part", "pin", "timer", "channel", "by"], rows))
    }

    fn json(&self) -> Result<String> {
        #[derive(Serialize)]
        struct PinsView<'r> {
            part: &'r str,
            package: &'r str,
            select: &'r str,
            pins: Vec<PinOutput>,
        }
        let Pinout { package, select, .. } = &self.pinout;
        envelope(
            "parts",
            PinsView { part: &self.part.name, package, select, pins: self.pinout.outputs() },
            &[],
        )
    }
}
