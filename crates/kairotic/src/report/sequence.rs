//! What `sequence` shows.

use kairotic_core::limits;
use kairotic_core::quantity::{Rational, Time, show};
use kairotic_core::sequence::{
    LevelHold, LevelShape, LevelTrack, SequencePlan, SequencedMove, Setpoint, TrackWay,
};
use serde::Serialize;

use super::setting;
use super::words::{brief, counted};
use crate::chart::{LevelLine, LevelPlot};
use crate::fault::{Fault, Result};
use crate::format::{Cell, Line, Page, Report, Table, decimal, envelope};

/// A sequence as it is made.
#[derive(Debug, Serialize)]
pub struct SequenceReport {
    /// The plan.
    #[serde(flatten)]
    pub plan: SequencePlan,
    /// The sequence as code, where it is wanted.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub code: Option<String>,
    /// The file that has every compare value.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub saved: Option<String>,
}

const WAYS: &[&str] = &["at", "step", "signal", "goes", "takes", "stays", "values", "longest"];
const SIGNALS: &[&str] = &["signal", "on", "period", "values", "apart, least", "data", "off, steps"];
/// Points of a smooth way in a picture.
const SMOOTH: i128 = 32;

impl SequenceReport {
    /// The columns of a compare value.
    pub const COLUMNS: [&'static str; 8] =
        ["signal", "step", "time_s", "period", "periods", "compare", "level", "unit"];

    /// Every compare value in those columns, and the beginning of every move.
    pub fn rows(&self) -> impl Iterator<Item = Result<[String; 8]>> + '_ {
        let levels = self.plan.tracks.iter().flat_map(|track| {
            track.holds.iter().map(move |hold| {
                let step = track.ways.get(hold.way).map_or(0, |way| way.step);
                let (level, unit) = hold.level.reported();
                Ok([
                    track.signal.clone(),
                    step.to_string(),
                    decimal(track.begins(hold)?.value()),
                    hold.begins.to_string(),
                    hold.periods.to_string(),
                    hold.compare.to_string(),
                    decimal(level),
                    unit.unwrap_or_default().to_lowercase(),
                ])
            })
        });
        let moves = self.plan.moves.iter().map(|made| {
            let (level, unit) = made.to.reported();
            let [period, periods, compare] = [(); 3].map(|()| String::new());
            Ok([
                made.signal.clone(),
                made.step.to_string(),
                decimal(made.begins.value()),
                period,
                periods,
                compare,
                decimal(level),
                unit.unwrap_or_default().to_lowercase(),
            ])
        });
        levels.chain(moves)
    }

    /// The level of every signal over time.
    ///
    /// # Errors
    /// Numbers that do not fit.
    pub fn figure(&self) -> Result<LevelPlot> {
        let length = self.plan.length.value().approx();
        let mut lines = Vec::new();
        for track in &self.plan.tracks {
            lines.push(level_line(track, length)?);
        }
        let mut names: Vec<&str> = self.plan.moves.iter().map(|made| made.signal.as_str()).collect();
        names.dedup();
        for name in names {
            lines.push(self.move_line(name, length));
        }
        Ok(LevelPlot { title: format!("{}, {}", self.plan.name, self.told_length()), length, lines })
    }

    /// A stepper's angle: straight from end to end of each move, which is as near as a picture of the whole shows.
    fn move_line(&self, name: &str, length: f64) -> LevelLine {
        let mut wanted: Vec<(f64, f64)> = Vec::new();
        for made in self.plan.moves.iter().filter(|made| made.signal == name) {
            let (from, to) = (made.from.reported().0.approx(), made.to.reported().0.approx());
            let begins = made.begins.value().approx();
            if wanted.is_empty() {
                wanted.push((0.0, from));
            }
            wanted.extend([(begins, from), (begins + made.made.time.value().approx(), to)]);
        }
        wanted.extend(wanted.last().map(|(_, level)| (length, *level)));
        LevelLine { words: format!("{name}, deg"), made: wanted.clone(), wanted }
    }

    fn told_length(&self) -> String {
        let times =
            if self.plan.passes > 1 { format!("{} times, ", self.plan.passes) } else { String::new() };
        times + &brief(self.plan.length)
    }

    /// The steps, as they follow one another in time.
    fn steps(&self) -> Result<Vec<Line>> {
        let mut rows: Vec<(Time, usize, Line)> = Vec::new();
        for track in &self.plan.tracks {
            for way in track.ways.iter().filter(|way| way.pass == 1) {
                rows.push((way.at, way.step, way_line(track, way)));
            }
        }
        for made in self.plan.moves.iter().filter(|made| made.pass == 1) {
            rows.push((made.begins, made.step, move_line(made)));
        }
        rows.sort_by_key(|(at, step, _)| (*at, *step));
        Ok(rows.into_iter().map(|(_, _, line)| line).collect())
    }

    /// Where several begin at once.
    fn together(&self) -> Vec<Line> {
        let levels = self.plan.tracks.iter().flat_map(|track| {
            track
                .ways
                .iter()
                .filter(|way| way.pass == 1)
                .map(move |way| (way.at, &track.signal, Some(track.period)))
        });
        let moves = self.plan.moves.iter().filter(|made| made.pass == 1);
        let mut begun: Vec<(Time, &String, Option<Time>)> =
            levels.chain(moves.map(|made| (made.begins, &made.signal, None))).collect();
        begun.sort_by_key(|(at, ..)| *at);
        let mut lines = Vec::new();
        for together in begun.chunk_by(|one, other| one.0 == other.0) {
            let mut names: Vec<&str> = together.iter().map(|(_, name, _)| name.as_str()).collect();
            names.dedup();
            let longest = together.iter().filter_map(|(.., period)| *period).max();
            if let ([_, _, ..], Some((at, ..)), Some(longest)) = (names.as_slice(), together.first(), longest)
            {
                lines.push(Line::Prose(format!(
                    "at {}: {}, each with its own next period, up to {} apart",
                    brief(*at),
                    names.join(" and "),
                    brief(longest)
                )));
            }
        }
        lines
    }
}

impl Report for SequenceReport {
    fn page(&self) -> Result<Page> {
        let SequencePlan { name, tracks, findings, .. } = &self.plan;
        let mut page = Page::headed([name.clone(), self.told_length()]);
        page.table("line", WAYS, self.steps()?);
        page.push("together", &[], self.together());
        let signals = tracks.iter().map(signal_line).collect();
        page.table("writes", SIGNALS, signals);
        page.push("findings", &[], setting::findings(findings));
        Ok(page)
    }

    fn table(&self) -> Result<Table> {
        let rows = self.plan.tracks.iter().map(|track| track.holds.len() as u64).sum::<u64>();
        if limits::ROWS.is_below(rows) {
            return Err(Fault::Usage {
                message: limits::ROWS.refusal("the table of compare values has", rows),
                hint: "--save levels.csv writes any number of them".to_owned(),
            });
        }
        Ok(Table::new(&Self::COLUMNS, self.rows().map(|row| Ok(row?.to_vec())).collect::<Result<Vec<_>>>()?))
    }

    fn json(&self) -> Result<String> {
        envelope("sequence", self, &self.plan.findings)
    }
}

fn way_line(track: &LevelTrack, way: &TrackWay) -> Line {
    let TrackWay { from, to, over, hold, .. } = way;
    let goes = match (way.cause.words(), over.value().is_zero()) {
        (Some(words), _) => format!("{}: {words}", to.rounded(5)),
        (None, true) if from == to => format!("stays at {}", to.rounded(5)),
        (None, true) => format!("to {}", to.rounded(5)),
        (None, false) => {
            let shape = if way.shape == LevelShape::Smooth { ", smooth" } else { "" };
            format!("{} to {}{shape}", from.rounded(5), to.rounded(5))
        }
    };
    let nothing = |time: &Time| if time.value().is_zero() { String::new() } else { time.rounded(6) };
    let (levels, longest) = match over.value().is_zero() {
        true => (String::new(), String::new()),
        false => (way.levels.to_string(), way.longest.rounded(4)),
    };
    Line::row([
        Cell::point(brief(way.begins)),
        Cell::right(way.step.to_string()),
        Cell::left(track.signal.clone()),
        Cell::left(goes),
        Cell::point(nothing(over)),
        Cell::point(nothing(hold)),
        Cell::right(levels),
        Cell::point(longest),
    ])
}

fn move_line(made: &SequencedMove) -> Line {
    let hold = if made.hold.value().is_zero() { String::new() } else { made.hold.rounded(6) };
    Line::row([
        Cell::point(brief(made.begins)),
        Cell::right(made.step.to_string()),
        Cell::left(made.signal.clone()),
        Cell::left(format!("{} to {}", made.from, made.to)),
        Cell::point(made.made.time.rounded(6)),
        Cell::point(hold),
        Cell::right(made.made.ramp.steps.to_string()),
        Cell::point(""),
    ])
}

fn signal_line(track: &LevelTrack) -> Line {
    let shortest = if track.holds.len() > 1 { track.shortest.rounded(4) } else { String::new() };
    Line::row([
        Cell::left(track.signal.clone()),
        Cell::left(track.on.clone()),
        Cell::point(brief(track.period)),
        Cell::right(track.holds.len().to_string()),
        Cell::point(shortest),
        Cell::right(counted(track.table().bytes, "byte")),
        Cell::right(show::significant(track.rounding.approx(), 2)),
    ])
}

/// A signal in a picture: what is wanted, and what its compare values make.
fn level_line(track: &LevelTrack, length: f64) -> Result<LevelLine> {
    let unit = |setpoint: Setpoint| match setpoint.reported() {
        (value, None) => (value.approx() * 100.0, "%"),
        (value, Some(unit)) => (value.approx(), unit),
    };
    // What is asked as a pulse is drawn as the level that it makes.
    let made_unit = track.holds.first().map_or("%", |hold| unit(hold.level).1);
    let (mut wanted, mut made) = (Vec::new(), Vec::new());
    for way in &track.ways {
        if unit(way.to).1 != made_unit || unit(way.from).1 != made_unit {
            continue;
        }
        let points = match (way.over.value().is_zero(), way.shape) {
            (true, _) => 0,
            (false, LevelShape::Linear) => 1,
            (false, LevelShape::Smooth) => SMOOTH,
        };
        let (at, over) = (way.at.value().approx(), way.over.value().approx());
        for point in 0..points {
            let share = Rational::new(point, points).unwrap_or(Rational::ZERO);
            wanted.push((at + over * share.approx(), unit(way.wanted_at(share)?).0));
        }
        let to = unit(way.to).0;
        wanted.extend([(at + over, to), (at + over + way.hold.value().approx(), to)]);
    }
    let period = track.period.value().approx();
    for LevelHold { begins, periods, level, .. } in &track.holds {
        let level = unit(*level).0;
        let end = (begins + periods) as f64 * period;
        made.extend([(*begins as f64 * period, level), (end.min(length), level)]);
    }
    Ok(LevelLine { words: format!("{}, {made_unit}", track.signal), wanted, made })
}
