//! What registers make of the clocks.

use kairotic_core::clock::{ClockState, NodeState, TimerClock};

use super::super::words::brief;
use super::THROUGH;
use crate::fault::Result;
use crate::format::{Cell, Line, Page, Report, Table, decimal_or_none, envelope};

/// What registers make of the clocks.
#[derive(Debug)]
pub struct StateReport {
    /// The nodes.
    pub state: ClockState,
}

impl Report for StateReport {
    fn page(&self) -> Result<Page> {
        let ClockState { part, nodes, timers, assumed } = &self.state;
        let mut page = Page::headed([part.clone(), "the clocks as the registers set them".to_owned()]);
        let row = |node: &NodeState| {
            Line::Row(vec![
                Cell::left(node.title.clone()),
                Cell::point(node.frequency.map_or("?".to_owned(), brief)),
                Cell::left(node.how.clone()),
            ])
        };
        page.push("through", THROUGH, nodes.iter().map(row).collect());
        let reaches = timers.iter().map(|TimerClock { timer, frequency, .. }| {
            let frequency = frequency.map_or("?".to_owned(), brief);
            Line::Row(vec![Cell::left(timer.clone()), Cell::point(frequency)])
        });
        page.table("reaches", &["timer", "clock"], reaches.collect());
        let illegal = nodes.iter().filter_map(|node| node.illegal.as_ref());
        let mut watch: Vec<Line> = illegal.map(|why| Line::Prose(format!("illegal: {why}"))).collect();
        if nodes.iter().any(|node| node.frequency.is_none()) {
            watch.push(Line::Prose(
                "what is not known hangs on a clock from outside: say which with --source".to_owned(),
            ));
        }
        page.push("findings", &[], watch);
        if !assumed.is_empty() {
            let text = format!("assumed as after reset: {}", assumed.join(", "));
            page.push("because", &[], vec![Line::Prose(text)]);
        }
        Ok(page)
    }

    fn table(&self) -> Result<Table> {
        let rows = self.state.nodes.iter().map(|node| {
            vec![
                self.state.part.clone(),
                node.node.clone(),
                decimal_or_none(node.frequency.map(|frequency| frequency.value())),
                node.illegal.clone().unwrap_or_default(),
            ]
        });
        Ok(Table::new(&["part", "node", "frequency_hz", "illegal"], rows))
    }

    fn json(&self) -> Result<String> {
        envelope("clock", &self.state, &[])
    }
}
