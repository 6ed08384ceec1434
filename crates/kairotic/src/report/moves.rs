//! What `move` shows of a stepper's move.

use kairotic_core::load::StepDrive;
use kairotic_core::motion::{
    Climb, Coding, EdgeDeviation, MicrostepTables, NaiveRamp, PortWords, RampWay, Shortcut, StepEdge,
    StepRamp, StepperMove, TableWord, Walk,
};
use kairotic_core::quantity::{Measured, Rational, StepRate, Time, show};
use kairotic_core::{Error, limits};
use serde::Serialize;

use super::setting;
use super::words::{brief, clock, counted};
use crate::chart::MovePlot;
use crate::fault::{Fault, Result};
use crate::format::{Cell, Line, Page, Report, Table, envelope};

/// A stepper's move.
#[derive(Debug, Serialize)]
pub struct StepperMoveReport {
    /// What moves, where a board names it.
    pub name: Option<String>,
    /// The move.
    #[serde(flatten)]
    pub made: StepperMove,
    /// What its steps do to the port of four wires, where one port has all of them.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub port: Option<PortWords>,
    /// The move as code, where it is wanted.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub code: Option<String>,
    /// The file that has every step.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub saved: Option<String>,
}

const FACTS: &[&str] = &["figure", "value", "note"];
const WAYS: &[&str] = &["firmware", "data", "off, ticks", "of a step", "ends", "verdict"];
const SHORTCUTS: &[&str] = &["shortcut", "ends", "first rate"];
const PHASES: &[&str] = &["step", "lines on", "set", "clear"];
const WINDINGS: &[&str] = &["step", "first", "second", "off, steps"];
/// The most rows of a table of windings in text: every so-manieth microstep of the first full step is shown.
const WINDING_ROWS: usize = 16;
const MOVES: &[&str] = &["what is left over", "off by"];
/// The most edges of a picture: as many as it has pixels along.
const DRAWN: u64 = 1200;

impl StepperMoveReport {
    /// The columns of a step.
    pub const COLUMNS: [&'static str; 5] = ["step", "tick", "interval_ticks", "time_s", "off_ticks"];

    /// A step in those columns.
    pub fn cells(&self, edge: StepEdge) -> [String; 5] {
        let tick = self.made.ramp.tick.value().approx();
        [
            edge.number.to_string(),
            edge.tick.to_string(),
            edge.interval.to_string(),
            show::significant(edge.tick as f64 * tick, 12),
            show::significant(edge.off, 4),
        ]
    }

    /// Rate, position and deviation over time.
    ///
    /// # Errors
    /// Numbers that do not fit.
    pub fn figure(&self) -> Result<MovePlot> {
        let StepperMove { ramp, travel, .. } = &self.made;
        let tick = ramp.tick.value().approx();
        let every = ramp.steps.div_ceil(DRAWN);
        let (mut rate, mut position, mut off) = (Vec::new(), vec![(0.0, 0.0)], Vec::new());
        for edge in ramp.edges() {
            let edge = edge?;
            if edge.number % every == 0 || edge.number == 1 || edge.number == ramp.steps {
                let time = edge.tick as f64 * tick;
                let middle = (edge.tick as f64 - edge.interval as f64 / 2.0) * tick;
                rate.push((middle, 1.0 / (edge.interval as f64 * tick)));
                position.push((time, edge.number as f64 * travel.steps.signum() as f64));
                off.push((time, edge.off));
            }
        }
        Ok(MovePlot { title: self.title(), rate, position, off, limit: ramp.most.approx() })
    }

    fn title(&self) -> String {
        let name = self.name.as_ref().map(|name| format!("{name}: ")).unwrap_or_default();
        let ramp = &self.made.ramp;
        let by_steps = self.made.travel.by.is_none();
        let steps = if by_steps { String::new() } else { format!(", {}", counted(ramp.steps, "step")) };
        format!("{name}{}{steps}, {}", self.way(), brief(self.made.time))
    }

    fn way(&self) -> String {
        let travel = &self.made.travel;
        match (travel.from, travel.to, travel.by) {
            (Some(from), Some(to), _) => format!("{from} to {to}"),
            (_, _, Some(by)) => format!("by {by}"),
            _ => format!("{} steps", travel.steps),
        }
    }
}

impl Report for StepperMoveReport {
    fn page(&self) -> Result<Page> {
        let StepperMove { ramp, counter, findings, .. } = &self.made;
        let mut heading = Vec::new();
        if let Some(counter) = counter {
            let channel = counter.setting.outputs.first().map(|output| format!("/{}", output.channel));
            heading.push(counter.timer.path() + &channel.unwrap_or_default());
        }
        heading.extend(self.name.clone());
        heading.push(self.way());
        heading.push(match counter {
            Some(counter) => clock(counter.clock, counter.default_clock),
            None => format!("in ticks of {}", brief(ramp.tick)),
        });
        let mut page = Page::headed(heading);
        if let Some(counter) = counter {
            page.push("write", setting::WRITE, setting::write_lines(&counter.registers));
        }
        page.push("gives", FACTS, self.facts()?);
        let ways = ramp.ways.iter().map(|way| way_line(way, ramp)).collect::<Result<Vec<_>>>()?;
        page.table("ramp", WAYS, ways);
        page.table("phases", PHASES, self.phases());
        if let Some(tables) = &self.made.microsteps {
            page.table("windings", WINDINGS, windings(tables));
        }
        page.table("naive", SHORTCUTS, ramp.naive.iter().map(shortcut).collect());
        page.table("again", MOVES, self.repeated());
        page.push("because", &[], self.because().map(Line::Prose).into_iter().collect());
        page.push("findings", &[], setting::findings(findings));
        Ok(page)
    }

    fn table(&self) -> Result<Table> {
        let ramp = &self.made.ramp;
        if limits::ROWS.is_below(ramp.steps) {
            return Err(Fault::Usage {
                message: limits::ROWS.refusal("the table of steps has", ramp.steps),
                hint: "--save steps.csv writes any number of them".to_owned(),
            });
        }
        let rows = ramp.edges().map(|edge| Ok(self.cells(edge?).to_vec())).collect::<Result<Vec<_>>>()?;
        Ok(Table::new(&Self::COLUMNS, rows))
    }

    fn json(&self) -> Result<String> {
        #[derive(Serialize)]
        struct WithIntervals<'r> {
            #[serde(flatten)]
            report: &'r StepperMoveReport,
            /// Ticks from each step to the next; none of a move that has too many.
            intervals: Vec<u64>,
        }
        let ramp = &self.made.ramp;
        let few = !limits::ROWS.is_below(ramp.steps);
        let edges = few.then(|| ramp.edges().map(|edge| Ok(edge?.interval))).into_iter().flatten();
        let intervals = edges.collect::<Result<_>>()?;
        envelope("move", WithIntervals { report: self, intervals }, &self.made.findings)
    }
}

impl StepperMoveReport {
    fn facts(&self) -> Result<Vec<Line>> {
        let StepperMove { stepper, travel, ramp, counter, time, .. } = &self.made;
        let mut rows = Vec::new();
        let mut add = |figure: &str, value: String, note: String| {
            rows.push(Line::Row(vec![Cell::left(figure), Cell::point(value), Cell::left(note)]));
        };
        let side = if travel.steps < 0 { "towards smaller angles" } else { "towards larger angles" };
        add("steps", ramp.steps.to_string(), side.to_owned());
        let in_turn = stepper.steps_in_turn()?;
        let turn = if in_turn.is_whole() { in_turn.to_string() } else { in_turn.mixed() };
        add("step", stepper.step_angle()?.rounded(6), format!("{turn} steps a turn"));
        if travel.by.is_some() {
            let rest = match travel.left_steps.is_zero() {
                true => "exact".to_owned(),
                false => format!("{} left over, {}", part_of_step(travel.left_steps), travel.left.rounded(3)),
            };
            add("turns by", travel.turned.rounded(9), rest);
        }
        let late = ramp.ideal_time.value() - time.value().approx();
        let late = if late.abs() < ramp.tick.value().approx() { "to the tick, as the ideal" } else { "" };
        add("time", brief(*time), late.to_owned());
        if let Some(clock) = counter.as_ref().map(|counter| counter.clock.deviation)
            && clock.value().is_positive()
        {
            let off = time.times(clock.value()).map_err(Error::from)?;
            add(
                "clock error",
                brief(clock),
                format!("moves the time by up to {}, either way", off.rounded(3)),
            );
        }
        let shape = match ramp.climb {
            0 => "one rate all the way".to_owned(),
            climb => format!("{}, {climb} steps up and as many down", ramp.shape.word()),
        };
        add("fastest rate", ramp.top_rate.rounded(6), shape);
        add("tick", ramp.tick.rounded(4), String::new());
        let interval = |ticks: u64| ramp.time_of(ticks).map(|time| time.rounded(6));
        add("slowest step", interval(ramp.slowest)?, format!("{} ticks", ramp.slowest));
        add("fastest step", interval(ramp.fastest)?, format!("{} ticks", ramp.fastest));
        add("edges", off(ramp.nearest), "each at the tick that is nearest to its ideal time".to_owned());
        if let StepDrive::StepDirection { setup, hold, .. } = stepper.drive
            && setup.plus(hold).map_err(Error::from)? > Time::ZERO
        {
            let first = ramp.time_of(ramp.slowest)?;
            let after =
                if hold > Time::ZERO { format!(", {} after the last", brief(hold)) } else { String::new() };
            let room = if first < setup {
                "and the first step comes sooner"
            } else {
                "which the first interval has"
            };
            add("direction", brief(setup), format!("before the first step, {room}{after}"));
        }
        if let Some(tables) = &self.made.microsteps {
            let [first, second] = tables.full;
            let (full, note) = match first == second {
                true => (first.to_string(), "compare value of both windings"),
                false => (format!("{first}, {second}"), "compare values of the windings"),
            };
            add("full current", full, note.to_owned());
            let angle = tables.largest_off() * stepper.step_angle()?.value().approx() * 360.0;
            let [least, most] = tables.step.map(|step| show::significant(step, 3));
            add(
                "angle error",
                format!("{} deg", show::significant(angle, 2)),
                format!("of the compare values' rounding; a step turns {least} to {most} of its angle"),
            );
            let [least, most] = tables.torque.map(|torque| show::significant(torque * 100.0, 4));
            add("torque", format!("{least} % to {most} %"), "of the full one, by rounding".to_owned());
        }
        if let Some(backlash) = stepper.backlash {
            let lost =
                stepper.steps_in_turn()?.times(backlash.value()).map(Rational::approx).unwrap_or_default();
            let steps = show::significant(lost, 4);
            add("backlash", backlash.rounded(4), format!("{steps} steps turn nothing when it turns round"));
        }
        if let Some(counter) = counter {
            if let Some(pulse) = counter.pulse() {
                add("step pulse", brief(pulse), "at the beginning of each period".to_owned());
            }
            let less = match counter.written_less {
                0 => "an interval is written as it is".to_owned(),
                less => format!("an interval is written less {less}"),
            };
            let top = counter.setting.top_register.clone().unwrap_or_default();
            add("top", top, format!("{less}, up to {} ticks", counter.longest));
        }
        Ok(rows)
    }

    /// The lines of four wires, step by step.
    fn phases(&self) -> Vec<Line> {
        let StepDrive::FourWire { mode } = self.made.stepper.drive else { return Vec::new() };
        let word = |words: Option<&Vec<u32>>, step: usize| {
            let word = words.and_then(|words| words.get(step));
            let port = self.port.as_ref().map(|port| port.port.as_str()).unwrap_or_default();
            word.map(|word| format!("{port} {word:#06x}")).unwrap_or_default()
        };
        let lines = mode.patterns().iter().enumerate().map(|(step, pattern)| {
            // The first line first.
            let on: String = (0..4).map(|line| if pattern >> line & 1 == 1 { '1' } else { '0' }).collect();
            Line::row([
                Cell::right(step.to_string()),
                Cell::left(on),
                Cell::left(word(self.port.as_ref().map(|port| &port.set), step)),
                Cell::left(word(self.port.as_ref().map(|port| &port.clear), step)),
            ])
        });
        lines.collect()
    }

    fn repeated(&self) -> Vec<Line> {
        let Some(repeated) = self.made.travel.repeated.filter(|_| !self.made.travel.left_steps.is_zero())
        else {
            return Vec::new();
        };
        let after = |angle: kairotic_core::quantity::Angle| {
            format!("{} after {} moves", angle.rounded(4), repeated.moves)
        };
        let row = |what: &str, off: String| Line::Row(vec![Cell::left(what), Cell::left(off)]);
        vec![
            row("dropped", after(repeated.dropped)),
            row("carried", format!("{}, and never more than half a step", after(repeated.carried))),
        ]
    }

    fn because(&self) -> Option<String> {
        let ramp = &self.made.ramp;
        let first = ramp.ways.first()?;
        let way = way_words(&first.walk);
        Some(match ramp.met {
            true => format!(
                "{way}: the least data among the ways whose every edge is within {}",
                ticks(ramp.most)
            ),
            false => format!(
                "{way}: of all ways the one that comes first, since none is within {}",
                ticks(ramp.most)
            ),
        })
    }
}

/// The compare values of two windings on the way to the first full step.
fn windings(tables: &MicrostepTables) -> Vec<Line> {
    let whole = tables.microsteps as usize;
    let every = whole.div_ceil(WINDING_ROWS);
    let values = tables.first.iter().zip(&tables.second).zip(&tables.off).enumerate();
    let shown = values.take(whole + 1).filter(|(step, _)| step % every == 0 || *step == whole);
    let rows = shown.map(|(step, ((first, second), off))| {
        Line::row([
            Cell::right(step.to_string()),
            Cell::right(first.to_string()),
            Cell::right(second.to_string()),
            Cell::right(show::significant((*off * 1e4).round() / 1e4, 3)),
        ])
    });
    rows.collect()
}

fn way_line(way: &RampWay, ramp: &StepRamp) -> Result<Line> {
    let met = if way.deviation.ticks <= ramp.most { "met" } else { "missed" };
    Ok(Line::Row(vec![
        Cell::left(way_words(&way.walk)),
        Cell::right(counted(way.bytes, "byte")),
        Cell::right(show::significant(way.deviation.ticks.approx(), 4)),
        Cell::right(format!("{} %", show::significant(way.deviation.steps * 100.0, 2))),
        Cell::right(ramp.time_of(way.ticks)?.rounded(8)),
        Cell::left(met),
    ]))
}

/// What firmware has of a move, in a few words.
fn way_words(walk: &Walk) -> String {
    match walk {
        Walk::Listed { word, .. } => format!("every interval, {}", word_name(*word)),
        Walk::Ramped { climb: None, .. } => "one interval".to_owned(),
        Walk::Ramped { climb: Some(climb), .. } => match climb {
            Climb::Table { coding: Coding::Plain(word), .. } => {
                format!("table of the ramp, {}", word_name(*word))
            }
            Climb::Table { coding: Coding::Differences(word), .. } => {
                format!("table of differences, {}", word_name(*word))
            }
            Climb::Plateaus { plateaus, .. } => format!("{} rates, each with a count", plateaus.len()),
            Climb::Root(_) => "a root for each step, 64 bits".to_owned(),
        },
    }
}

fn word_name(word: TableWord) -> String {
    format!("{}{} bits", if word.signed { "signed " } else { "" }, word.bits)
}

fn ticks(number: Rational) -> String {
    let noun = if number == Rational::ONE { "tick" } else { "ticks" };
    format!("{} {noun}", show::significant(number.approx(), 4))
}

fn part_of_step(steps: Rational) -> String {
    format!("{} steps", show::significant(steps.approx(), 4))
}

fn off(deviation: EdgeDeviation) -> String {
    ticks(deviation.ticks)
}

fn shortcut(naive: &NaiveRamp) -> Line {
    let what = match naive.shortcut {
        Shortcut::ConstantDelay => "one delay for all steps",
        Shortcut::WholeMicroseconds => "delays of whole microseconds",
        Shortcut::FloatRecurrence => "c -= 2 * c / (4 * n + 1) in floats",
    };
    let late = naive.late.value();
    let side = if late < Rational::ZERO { "early" } else { "late" };
    let ends = match late.is_zero() {
        true => "on time".to_owned(),
        false => format!("{} {side}", naive.late.magnitude().rounded(4)),
    };
    let rate: Measured<_> = naive.first_rate;
    let rate = Rational::measured(rate.value()).map(|rate| StepRate::new(rate).rounded(4));
    Line::Row(vec![Cell::left(what), Cell::right(ends), Cell::right(rate.unwrap_or_default())])
}
