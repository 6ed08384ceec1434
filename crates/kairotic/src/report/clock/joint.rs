//! Clock tree and timer searched together.

use kairotic_core::clock::{Joint, JointSetting};
use kairotic_core::quantity::Deviation;

use super::super::setting::{GIVES, WRITE, gives, write_lines};
use super::super::words::{brief, counted, division};
use super::{THROUGH, assignment, error_words, short, source, source_error, through};
use crate::fault::Result;
use crate::format::{Cell, Line, Page, Report, Table, decimal, envelope};

/// Clock tree and timer searched together.
#[derive(Debug)]
pub struct JointReport {
    /// What was found.
    pub joint: Joint,
}

impl Report for JointReport {
    fn page(&self) -> Result<Page> {
        let Joint { timer, frequency, whole_only, settings } = &self.joint;
        let mut heading = vec![timer.path(), format!("{frequency}, the clock left open")];
        let Some((best, others)) = settings.split_first() else { return Ok(Page::headed(heading)) };
        heading.push(source(&best.arrangement));
        let mut page = Page::headed(heading);
        let mut lines = write_lines(&best.arrangement.writes);
        lines.extend(write_lines(&best.registers));
        page.push("write", WRITE, lines);
        page.push("through", THROUGH, through(&best.arrangement.passages));
        let mut figures = gives(&best.setting, None, None);
        // The error stands beside the frequency, which comes first.
        if let Some(Line::Row(cells)) = figures.first_mut()
            && let Some(note) = cells.last_mut()
        {
            note.text = error_words(best.error);
        }
        figures.extend(source_error(&best.arrangement));
        page.push("gives", GIVES, figures);
        let first = if best.error == Deviation::ZERO { "exact" } else { "the smallest error there is" };
        let mut reasons = vec![Line::Prose(format!(
            "{first}, and of those the most steps, among all divisions and tops on every clock that can reach the timer"
        ))];
        if *whole_only {
            reasons.push(Line::Prose("fractional parts of the clock tree were left at zero".to_owned()));
        }
        page.push("because", &[], reasons);
        page.push(
            "or",
            &["clock", "steps", "error", "timer", "settings"],
            others.iter().map(alternative).collect(),
        );
        Ok(page)
    }

    fn table(&self) -> Result<Table> {
        let Joint { timer, settings, .. } = &self.joint;
        let mut rows = Vec::new();
        for (index, found) in settings.iter().enumerate() {
            let tree = found.arrangement.writes.iter().map(assignment);
            let own = found.setting.writes(timer)?;
            let registers: Vec<String> = tree.chain(own.iter().map(assignment)).collect();
            rows.push(vec![
                timer.part.clone(),
                timer.name.clone(),
                (index + 1).to_string(),
                found.arrangement.passages.first().map(|first| first.node.clone()).unwrap_or_default(),
                decimal(found.arrangement.frequency.value()),
                decimal(found.setting.frequency.value()),
                decimal(found.error.value()),
                found.setting.steps.to_string(),
                registers.join(" "),
            ]);
        }
        let header = [
            "part",
            "timer",
            "rank",
            "source",
            "clock_hz",
            "frequency_hz",
            "frequency_error",
            "steps",
            "registers",
        ];
        Ok(Table::new(&header, rows))
    }

    fn json(&self) -> Result<String> {
        envelope("clock", &self.joint, &[])
    }
}

fn alternative(found: &JointSetting) -> Line {
    let JointSetting { arrangement, setting, error, .. } = found;
    let top = setting.top_register.as_deref().unwrap_or("top");
    Line::Row(vec![
        Cell::point(brief(arrangement.frequency)),
        Cell::right(counted(setting.steps, "step")),
        Cell::left(error_words(*error)),
        Cell::left(format!("divide by {}, {top} {}", division(setting.divider), setting.plan.top)),
        Cell::left(short(&arrangement.writes)),
    ])
}
