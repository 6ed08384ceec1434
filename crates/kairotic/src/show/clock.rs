//! What `clock` shows: ways through the clock tree.

use kairotic_core::clock::{
    Arrangement, BusTable, ClockState, Joint, JointSetting, NodeState, Passage, Reached, ReachedClock,
};
use kairotic_core::part::Timer;
use kairotic_core::quantity::{Deviation, Frequency};
use kairotic_core::setting::FieldWrite;
use serde::Serialize;

use super::json::{FieldView, SettingView};
use super::setting::{GIVES, WRITE, gives, write_lines};
use super::words::{brief, counted, frequency_error};
use crate::fault::Result;
use crate::render::{Cell, Head, Line, Page, Report, Table, exact, exact_or_null};

/// So many other settings are shown unless all are asked for.
const OTHERS: usize = 5;

/// The columns of the block `through`.
pub const THROUGH: &[&str] = &["node", "frequency", "how"];

/// The nodes that a clock passes.
pub fn through(passages: &[Passage]) -> Vec<Line> {
    let row = |passage: &Passage| {
        Line::Row(vec![
            Cell::left(passage.title.clone()),
            Cell::point(brief(passage.frequency)),
            Cell::left(passage.how.clone()),
        ])
    };
    passages.iter().map(row).collect()
}

/// The nodes on a way that the clock tree told, if it was asked.
pub fn way_lines(way: Option<&Arrangement>) -> Vec<Line> {
    way.map(|way| through(&way.passages)).unwrap_or_default()
}

/// The divisions and factors of a way in one line: `divide by 6, multiply by 96`.
fn short(arrangement: &Arrangement) -> String {
    let written = arrangement.writes.iter().filter(|write| !write.note.is_empty());
    let words =
        written.map(|write| format!("{} {}", write.field.as_ref().unwrap_or(&write.register), write.written));
    words.collect::<Vec<_>>().join(" ")
}

fn error_words(error: Deviation) -> String {
    frequency_error(error, true)
}

/// The source of a way, with its frequency.
fn source(arrangement: &Arrangement) -> String {
    arrangement
        .passages
        .first()
        .map(|first| format!("from {}, {}", first.title, first.frequency))
        .unwrap_or_default()
}

/// The ways for a frequency to reach a timer.
#[derive(Debug)]
pub struct ReachReport {
    /// The ways.
    pub reached: Reached,
    /// Whether all of them are shown.
    pub all: bool,
}

impl Report for ReachReport {
    fn page(&self) -> Result<Page> {
        let Reached { timer, reach, ways } = &self.reached;
        let mut heading = vec![timer.path(), format!("{reach} at the timer")];
        let Some((best, others)) = ways.split_first() else { return Ok(Page::headed(heading)) };
        heading.push(source(&best.arrangement));
        let mut page = Page::headed(heading);
        page.push("write", WRITE, write_lines(&best.arrangement.writes));
        page.push("through", THROUGH, through(&best.arrangement.passages));
        let clock = Line::Row(vec![
            Cell::left("clock"),
            Cell::point(brief(best.arrangement.frequency)),
            Cell::left(error_words(best.error)),
        ]);
        page.push("gives", GIVES, vec![clock]);
        page.push("because", &[], vec![Line::Prose(because(best, ways.len()))]);
        let shown = if self.all { others.len() } else { OTHERS };
        let mut lines: Vec<Line> = others.iter().take(shown).map(other).collect();
        if others.len() > shown {
            lines.push(Line::Prose(format!(
                "and {}; --all shows them",
                counted((others.len() - shown) as u64, "more way")
            )));
        }
        page.push("or", &["clock", "error", "VCO", "settings"], lines);
        Ok(page)
    }

    fn table(&self) -> Result<Table> {
        let rows = self.reached.ways.iter().enumerate().map(|(index, way)| {
            let registers: Vec<String> = way.arrangement.writes.iter().map(assignment).collect();
            let vco = way.arrangement.vco.map(|vco| vco.value());
            vec![
                self.reached.timer.part.clone(),
                self.reached.timer.name.clone(),
                (index + 1).to_string(),
                way.arrangement.passages.first().map(|first| first.node.clone()).unwrap_or_default(),
                exact(way.arrangement.frequency.value()),
                exact(way.error.value()),
                exact_or_null(vco).unwrap_or_default(),
                registers.join(" "),
            ]
        });
        let header = ["part", "timer", "rank", "source", "clock_hz", "clock_error", "vco_hz", "registers"];
        Ok(Table { header: header.to_vec(), rows: rows.collect() })
    }

    fn json(&self) -> Result<String> {
        let Reached { timer, reach, ways } = &self.reached;
        let ways = ways.iter().map(|way| WayView {
            arrangement: ArrangementView::of(&way.arrangement),
            clock_error: exact(way.error.value()),
            clock_error_ppm_approx: way.error.value().approx() * 1e6,
        });
        let body = ReachView { reach_hz: exact(reach.value()), ways: ways.collect() };
        answer(timer, body)
    }
}

fn because(best: &ReachedClock, ways: usize) -> String {
    let Arrangement { vco, fractional, .. } = &best.arrangement;
    let exactness = if best.error == Deviation::ZERO { "exact" } else { "the nearest that is legal" };
    let fraction = if *fractional { "" } else { ", without a fractional part" };
    let vco = vco.map(|vco| format!(", with the slowest oscillator, {}", brief(vco))).unwrap_or_default();
    format!("{exactness}{fraction}{vco}; {} in all", counted(ways as u64, "way"))
}

fn other(way: &ReachedClock) -> Line {
    let vco = way.arrangement.vco.map(|vco| format!("VCO {}", brief(vco))).unwrap_or_default();
    Line::Row(vec![
        Cell::point(brief(way.arrangement.frequency)),
        Cell::left(error_words(way.error)),
        Cell::left(vco),
        Cell::left(short(&way.arrangement)),
    ])
}

fn assignment(write: &FieldWrite) -> String {
    format!("{}={}", write.name(), write.written)
}

/// What the bus dividers make of a system clock.
#[derive(Debug)]
pub struct BusReport {
    /// Every legal setting.
    pub table: BusTable,
    /// Whether all of them are shown.
    pub all: bool,
}

impl Report for BusReport {
    fn page(&self) -> Result<Page> {
        let BusTable { timer, system, legal, illegal, why, .. } = &self.table;
        let mut page = Page::headed([timer.path(), format!("system clock {system}")]);
        let row = |arrangement: &Arrangement| {
            let rule = arrangement.passages.last().map(|last| last.how.clone()).unwrap_or_default();
            Line::Row(vec![
                Cell::point(brief(arrangement.frequency)),
                Cell::left(settled(arrangement)),
                Cell::left(rule),
            ])
        };
        let shown: Vec<&Arrangement> =
            if self.all { legal.iter().collect() } else { self.table.leading().collect() };
        let mut lines: Vec<Line> = shown.iter().map(|arrangement| row(arrangement)).collect();
        if legal.len() > shown.len() {
            let more = counted((legal.len() - shown.len()) as u64, "more setting");
            lines.push(Line::Prose(format!("and {more} with other divisions further up; --all shows them")));
        }
        page.push("reaches", &["clock", "settings", "rule"], lines);
        if let (Some(why), true) = (why, *illegal > 0) {
            let others = counted(*illegal as u64, "other setting");
            let verb = if *illegal == 1 { "breaks" } else { "break" };
            page.push("watch", &[], vec![Line::Prose(format!("{others} {verb} a limit: {why}"))]);
        }
        Ok(page)
    }

    fn table(&self) -> Result<Table> {
        let BusTable { timer, system, legal, .. } = &self.table;
        let rows = legal.iter().map(|arrangement| {
            let registers: Vec<String> = arrangement.writes.iter().map(assignment).collect();
            vec![
                timer.part.clone(),
                timer.name.clone(),
                exact(system.value()),
                exact(arrangement.frequency.value()),
                registers.join(" "),
            ]
        });
        Ok(Table {
            header: vec!["part", "timer", "system_hz", "clock_hz", "registers"],
            rows: rows.collect(),
        })
    }

    fn json(&self) -> Result<String> {
        let BusTable { timer, system, legal, illegal, .. } = &self.table;
        let body = BusView {
            system_hz: exact(system.value()),
            settings: legal.iter().map(ArrangementView::of).collect(),
            illegal: *illegal,
        };
        answer(timer, body)
    }
}

/// What is set on the way, as `--bus` takes it.
fn settled(arrangement: &Arrangement) -> String {
    let words = arrangement.settled.iter().map(|(name, value)| format!("{name}={value}"));
    words.collect::<Vec<_>>().join(" ")
}

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
        let mut writes = write_lines(&best.arrangement.writes);
        writes.extend(super::setting::writes(timer, &best.setting)?);
        page.push("write", WRITE, writes);
        page.push("through", THROUGH, through(&best.arrangement.passages));
        let mut figures = gives(&best.setting, None, None);
        // The error stands beside the frequency, which comes first.
        if let Some(Line::Row(cells)) = figures.first_mut()
            && let Some(note) = cells.last_mut()
        {
            note.text = error_words(best.error);
        }
        page.push("gives", GIVES, figures);
        let first = if best.error == Deviation::ZERO { "exact" } else { "the smallest error there is" };
        let mut reasons = vec![Line::Prose(format!(
            "{first}, and of those the most steps, among all divisions and tops on every clock that can reach the timer"
        ))];
        if *whole_only {
            reasons.push(Line::Prose("fractional parts of the clock tree were left at nought".to_owned()));
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
                exact(found.arrangement.frequency.value()),
                exact(found.setting.frequency.value()),
                exact(found.error.value()),
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
        Ok(Table { header: header.to_vec(), rows })
    }

    fn json(&self) -> Result<String> {
        let Joint { timer, frequency, whole_only, settings } = &self.joint;
        let mut views = Vec::new();
        for found in settings {
            views.push(JointSettingView {
                clock: ArrangementView::of(&found.arrangement),
                setting: SettingView::of(timer, &found.setting)?,
                frequency_error: exact(found.error.value()),
                frequency_error_ppm_approx: found.error.value().approx() * 1e6,
            });
        }
        let body =
            JointView { frequency_hz: exact(frequency.value()), whole_only: *whole_only, settings: views };
        answer(timer, body)
    }
}

fn alternative(found: &JointSetting) -> Line {
    let JointSetting { arrangement, setting, error } = found;
    let top = setting.top_register.as_deref().unwrap_or("top");
    Line::Row(vec![
        Cell::point(brief(arrangement.frequency)),
        Cell::right(counted(setting.steps, "step")),
        Cell::left(error_words(*error)),
        Cell::left(format!(
            "divide by {}, {top} {}",
            super::words::division(setting.divider),
            setting.plan.top
        )),
        Cell::left(short(arrangement)),
    ])
}

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
        let reaches = timers.iter().map(|(timer, node)| {
            let frequency = self.frequency(node).map_or("?".to_owned(), brief);
            Line::Row(vec![Cell::left(timer.clone()), Cell::point(frequency)])
        });
        page.push("reaches", &["timer", "clock"], reaches.collect());
        let illegal = nodes.iter().filter_map(|node| node.illegal.as_ref());
        let mut watch: Vec<Line> = illegal.map(|why| Line::Prose(format!("illegal: {why}"))).collect();
        if nodes.iter().any(|node| node.frequency.is_none()) {
            watch.push(Line::Prose(
                "what is not known hangs on a clock from outside: say which with --source".to_owned(),
            ));
        }
        page.push("watch", &[], watch);
        if !assumed.is_empty() {
            let text = format!("taken as after reset: {}", assumed.join(", "));
            page.push("because", &[], vec![Line::Prose(text)]);
        }
        Ok(page)
    }

    fn table(&self) -> Result<Table> {
        let rows = self.state.nodes.iter().map(|node| {
            vec![
                self.state.part.clone(),
                node.node.clone(),
                exact_or_null(node.frequency.map(|frequency| frequency.value())).unwrap_or_default(),
                node.illegal.clone().unwrap_or_default(),
            ]
        });
        Ok(Table { header: vec!["part", "node", "frequency_hz", "illegal"], rows: rows.collect() })
    }

    fn json(&self) -> Result<String> {
        let ClockState { part, nodes, timers, assumed } = &self.state;
        let nodes = nodes.iter().map(|node| NodeView {
            node: &node.node,
            frequency_hz: exact_or_null(node.frequency.map(|frequency| frequency.value())),
            how: &node.how,
            illegal: node.illegal.as_deref(),
        });
        let timers = timers.iter().map(|(timer, node)| TimerClockView {
            timer,
            clock: node,
            frequency_hz: exact_or_null(self.frequency(node).map(|frequency| frequency.value())),
        });
        Ok(serde_json::to_string_pretty(&StateView {
            head: Head::of("clock"),
            part,
            nodes: nodes.collect(),
            timers: timers.collect(),
            assumed,
        })?)
    }
}

impl StateReport {
    fn frequency(&self, name: &str) -> Option<Frequency> {
        self.state.nodes.iter().find(|node| node.node == name)?.frequency
    }
}

fn answer(timer: &Timer, body: impl Serialize) -> Result<String> {
    let head = Head::of("clock");
    Ok(serde_json::to_string_pretty(&View { head, part: &timer.part, timer: &timer.name, body })?)
}

#[derive(Serialize)]
struct View<'r, B> {
    #[serde(flatten)]
    head: Head,
    part: &'r str,
    timer: &'r str,
    #[serde(flatten)]
    body: B,
}

#[derive(Serialize)]
struct ReachView {
    reach_hz: String,
    ways: Vec<WayView>,
}

#[derive(Serialize)]
struct WayView {
    #[serde(flatten)]
    arrangement: ArrangementView,
    clock_error: String,
    clock_error_ppm_approx: f64,
}

#[derive(Serialize)]
struct BusView {
    system_hz: String,
    settings: Vec<ArrangementView>,
    illegal: usize,
}

#[derive(Serialize)]
struct JointView {
    frequency_hz: String,
    whole_only: bool,
    settings: Vec<JointSettingView>,
}

#[derive(Serialize)]
struct JointSettingView {
    clock: ArrangementView,
    setting: SettingView,
    frequency_error: String,
    frequency_error_ppm_approx: f64,
}

/// One way through the clock tree.
#[derive(Debug, Serialize)]
pub struct ArrangementView {
    clock_hz: String,
    clock_hz_approx: f64,
    vco_hz: Option<String>,
    through: Vec<PassageView>,
    clock_registers: Vec<FieldView>,
}

impl ArrangementView {
    /// Everything about it.
    pub fn of(arrangement: &Arrangement) -> Self {
        let clock = arrangement.frequency.value();
        Self {
            clock_hz: exact(clock),
            clock_hz_approx: clock.approx(),
            vco_hz: exact_or_null(arrangement.vco.map(|vco| vco.value())),
            through: arrangement
                .passages
                .iter()
                .map(|passage| PassageView {
                    node: passage.node.clone(),
                    frequency_hz: exact(passage.frequency.value()),
                    how: passage.how.clone(),
                })
                .collect(),
            clock_registers: arrangement.writes.iter().cloned().map(FieldView::of).collect(),
        }
    }
}

#[derive(Debug, Serialize)]
struct PassageView {
    node: String,
    frequency_hz: String,
    how: String,
}

#[derive(Serialize)]
struct StateView<'r> {
    #[serde(flatten)]
    head: Head,
    part: &'r str,
    nodes: Vec<NodeView<'r>>,
    timers: Vec<TimerClockView<'r>>,
    assumed: &'r [String],
}

#[derive(Serialize)]
struct NodeView<'r> {
    node: &'r str,
    frequency_hz: Option<String>,
    how: &'r str,
    illegal: Option<&'r str>,
}

#[derive(Serialize)]
struct TimerClockView<'r> {
    timer: &'r str,
    clock: &'r str,
    frequency_hz: Option<String>,
}
