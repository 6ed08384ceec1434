//! What `check` shows: a line for each signal, what is wrong and where, and how code differs.

use kairotic_core::board::{AxisReview, Placement, SignalReview};
use kairotic_core::finding::{self, Finding, Severity};
use kairotic_core::quantity::{Deviation, Frequency, Time};
use kairotic_core::requirement::RequirementCheck;
use kairotic_core::signal::Need;
use quick_junit::{NonSuccessKind, Report as JunitReport, TestCase, TestCaseStatus, TestSuite};
use serde::Serialize;

use super::words::{counted, frequency_error};
use crate::fault::{Fault, Result};
use crate::format::sarif::{self, SarifLocation, SarifMessage, SarifResult};
use crate::format::{Cell, Line, Page, Report, Table, decimal_or_none, envelope};
use crate::hints;

/// What became of board files.
#[derive(Debug, Serialize)]
pub struct CheckReport {
    /// The files.
    pub boards: Vec<CheckedBoard>,
}

/// What became of a board file.
#[derive(Debug, Serialize)]
pub struct CheckedBoard {
    /// The file.
    pub file: String,
    /// Its part; `None` where the file is no board.
    pub part: Option<String>,
    /// Its signals.
    pub signals: Vec<CheckedSignal>,
    /// Its steppers.
    pub axes: Vec<CheckedAxis>,
    /// The steps between reset and moving pins.
    pub steps: usize,
    /// The files with code that was made from it, where they were looked at.
    pub code: Vec<CheckedCode>,
    /// What is or may be wrong, worst first.
    pub problems: Vec<BoardProblem>,
}

/// A signal that was looked at.
#[derive(Debug, Serialize)]
pub struct CheckedSignal {
    name: String,
    place: Option<Placement>,
    frequency: Option<Frequency>,
    frequency_error: Option<Deviation>,
    frequency_exact: bool,
    steps: Option<u64>,
    requirements: Vec<RequirementCheck>,
    tightest: Option<RequirementCheck>,
    met: bool,
}

/// A stepper that was looked at: its whole travel, or a turn.
#[derive(Debug, Serialize)]
pub struct CheckedAxis {
    name: String,
    timer: Option<String>,
    channel: Option<String>,
    pin: Option<String>,
    move_steps: Option<u64>,
    move_time: Option<Time>,
    tick: Option<Time>,
    met: bool,
}

impl CheckedAxis {
    /// A stepper of a board that was reviewed.
    pub fn of(review: &AxisReview) -> Self {
        let (made, output) = (review.made.as_ref().ok(), review.output.as_ref());
        Self {
            name: review.name.clone(),
            timer: output.map(|output| output.timer.clone()),
            channel: output.and_then(|output| output.channel.clone()),
            pin: review.pin.clone(),
            move_steps: made.map(|made| made.ramp.steps),
            move_time: made.map(|made| made.time),
            tick: made.map(|made| made.ramp.tick),
            met: review.is_met(),
        }
    }

    const fn outcome(&self) -> &'static str {
        match (self.move_steps, self.met) {
            (_, true) => "made",
            (None, false) => "not made",
            (Some(_), false) => "missed",
        }
    }

    /// The row of a table whose columns are a signal's: its steps are those of the move.
    fn cells(&self, board: &CheckedBoard) -> Vec<String> {
        let text = |text: &Option<String>| text.clone().unwrap_or_default();
        vec![
            board.file.clone(),
            self.name.clone(),
            text(&self.timer),
            text(&self.channel),
            text(&self.pin),
            String::new(),
            String::new(),
            self.move_steps.map(|steps| steps.to_string()).unwrap_or_default(),
            self.outcome().to_owned(),
            board.findings_of(&self.name),
        ]
    }

    fn row(&self) -> Line {
        let channel = self.channel.as_ref().map(|channel| format!("/{channel}")).unwrap_or_default();
        Line::row([
            Cell::left(self.name.clone()),
            Cell::left(self.timer.clone().unwrap_or_default() + &channel),
            Cell::left(self.pin.clone().unwrap_or_default()),
            Cell::right(self.move_steps.map(|steps| steps.to_string()).unwrap_or_default()),
            Cell::point(self.move_time.map(|time| time.rounded(4)).unwrap_or_default()),
            Cell::point(self.tick.map(|tick| tick.rounded(4)).unwrap_or_default()),
            Cell::left(self.outcome()),
        ])
    }
}

/// A file with code that was looked at.
#[derive(Debug, Serialize)]
pub struct CheckedCode {
    /// The file.
    pub file: String,
    /// Whether the code is what would be made.
    pub same: bool,
    /// How it differs, where it does.
    pub diff: Option<String>,
}

/// Something that is or may be wrong, and where.
#[derive(Debug, Serialize)]
pub struct BoardProblem {
    /// The file.
    pub file: String,
    /// The line, from 1.
    pub line: usize,
    /// The column, from 1.
    pub column: usize,
    /// The signal, where it is one's.
    pub signal: Option<String>,
    /// What is wrong.
    pub finding: Finding,
    /// Other lines of the board file that it is about.
    pub related: Vec<RelatedPlace>,
}

/// A line of the board file that something is about.
#[derive(Debug, Serialize)]
pub struct RelatedPlace {
    /// The line, from 1.
    pub line: usize,
    /// The column, from 1.
    pub column: usize,
    /// What is there.
    pub says: String,
}

impl CheckedBoard {
    /// Whether nothing is wrong with it.
    pub fn is_met(&self) -> bool {
        self.part.is_some()
            && self.signals.iter().all(|signal| signal.met)
            && self.axes.iter().all(|axis| axis.met)
            && self.problems.iter().all(|problem| problem.finding.severity() != Severity::Error)
    }

    /// The names of what is wrong with a signal.
    fn findings_of(&self, signal: &str) -> String {
        let own = self.problems.iter().filter(|problem| problem.signal.as_deref() == Some(signal));
        own.map(|problem| problem.finding.name()).collect::<Vec<_>>().join(" ")
    }

    fn outcome(&self) -> &'static str {
        match (&self.part, self.is_met()) {
            (None, _) => "no board",
            (_, true) => "met",
            (_, false) => "missed",
        }
    }
}

impl CheckedSignal {
    /// A signal of a board that was reviewed.
    pub fn of(review: &SignalReview) -> Self {
        let made = review.made.as_ref().ok();
        let best = made.map(|made| &made.derivation.best);
        Self {
            name: review.name.clone(),
            place: review.place.clone(),
            frequency: best.map(|best| best.setting.frequency),
            frequency_error: best.map(|best| best.fit.frequency_error),
            frequency_exact: best.is_some_and(|best| best.fit.frequency_exact),
            steps: best.map(|best| best.steps()),
            requirements: made.map(|made| made.checks.clone()).unwrap_or_default(),
            tightest: made.and_then(|made| made.tightest().cloned()),
            met: review.is_met(),
        }
    }

    fn outcome(&self) -> &'static str {
        match (self.frequency, self.place.is_some(), self.met) {
            (_, true, true) if self.requirements.is_empty() => "made",
            (_, true, true) => "met",
            (_, false, _) => "not placed",
            (None, true, false) => "not made",
            (Some(_), true, false) => "missed",
        }
    }
}

const BOARD: &[&str] = &["file", "part", "signals", "program", "verdict"];
const STEPPERS: &[&str] = &["stepper", "place", "pin", "steps", "travel", "tick", "verdict"];
const SIGNALS: &[&str] = &["signal", "place", "pin", "frequency", "error", "steps", "verdict", "tightest"];

impl Report for CheckReport {
    fn page(&self) -> Result<Page> {
        let met = self.boards.iter().filter(|board| board.is_met()).count();
        let mut page = Page::headed([
            counted(self.boards.len() as u64, "board"),
            match (met, self.boards.len()) {
                (met, all) if met == all => "all met".to_owned(),
                (0, _) => "missed".to_owned(),
                (met, _) => format!("{met} met"),
            },
        ]);
        for board in &self.boards {
            let program = if board.steps > 0 { counted(board.steps as u64, "step") } else { String::new() };
            page.push(
                "board",
                BOARD,
                vec![Line::row([
                    Cell::left(board.file.clone()),
                    Cell::left(board.part.clone().unwrap_or_default()),
                    Cell::left(counted((board.signals.len() + board.axes.len()) as u64, "signal")),
                    Cell::left(program),
                    Cell::left(board.outcome()),
                ])],
            );
            page.table("signals", SIGNALS, board.signals.iter().map(row).collect());
            page.table("steppers", STEPPERS, board.axes.iter().map(CheckedAxis::row).collect());
            page.push("code", &["file", "verdict"], board.code.iter().map(code).collect());
            page.push("findings", &[], board.problems.iter().flat_map(told).collect());
            let diffs = board.code.iter().filter_map(|code| code.diff.as_ref());
            let lines = diffs.flat_map(|diff| diff.lines()).map(|line| Line::Verbatim(line.to_owned()));
            page.push("diff", &[], lines.collect());
        }
        Ok(page)
    }

    fn table(&self) -> Result<Table> {
        let header = [
            "file",
            "signal",
            "timer",
            "channel",
            "pin",
            "frequency_hz",
            "frequency_error",
            "steps",
            "verdict",
            "findings",
        ];
        let rows = self.boards.iter().flat_map(|board| {
            let steppers = board.axes.iter().map(|axis| axis.cells(board));
            let signals = board.signals.iter().map(|signal| {
                let place = |part: fn(&Placement) -> Option<String>| {
                    signal.place.as_ref().and_then(part).unwrap_or_default()
                };
                vec![
                    board.file.clone(),
                    signal.name.clone(),
                    place(|place| Some(place.timer.clone())),
                    place(|place| Some(place.channel.clone())),
                    place(|place| place.pin.clone()),
                    decimal_or_none(signal.frequency.map(Frequency::value)),
                    decimal_or_none(signal.frequency_error.map(Deviation::value)),
                    signal.steps.map(|steps| steps.to_string()).unwrap_or_default(),
                    signal.outcome().to_owned(),
                    board.findings_of(&signal.name),
                ]
            });
            signals.chain(steppers)
        });
        Ok(Table::new(&header, rows))
    }

    fn json(&self) -> Result<String> {
        let all = self.boards.iter().flat_map(|board| &board.problems);
        let findings: Vec<Finding> = all.map(|problem| problem.finding.clone()).collect();
        envelope("check", self, &findings)
    }

    fn sarif(&self) -> Result<String> {
        let results: Vec<SarifResult> = self
            .boards
            .iter()
            .flat_map(|board| board.problems.iter().map(move |problem| (board, problem)))
            .map(|(board, problem)| SarifResult {
                rule_id: problem.finding.name(),
                level: problem.finding.severity().word(),
                message: SarifMessage { text: sentence(problem) },
                locations: vec![SarifLocation::at(&problem.file, (problem.line, problem.column), None)],
                related_locations: problem
                    .related
                    .iter()
                    .map(|one| SarifLocation::at(&board.file, (one.line, one.column), Some(one.says.clone())))
                    .collect(),
            })
            .collect();
        sarif::log(finding::ALL, &results)
    }

    fn junit(&self) -> Result<String> {
        let mut report = JunitReport::new("kairotic");
        for board in &self.boards {
            let mut suite = TestSuite::new(board.file.as_str());
            let mut cases = vec![case("board file", &board.file, board, |problem| {
                problem.signal.is_none() && problem.file == board.file
            })];
            let names = board.signals.iter().map(|signal| &signal.name);
            let names = names.chain(board.axes.iter().map(|axis| &axis.name));
            cases.extend(
                names.map(|name| {
                    case(name, &board.file, board, |problem| problem.signal.as_ref() == Some(name))
                }),
            );
            cases.extend(
                board
                    .code
                    .iter()
                    .map(|code| case(&code.file, &board.file, board, |one| one.file == code.file)),
            );
            suite.add_test_cases(cases);
            report.add_test_suite(suite);
        }
        report.to_string().map_err(|error| Fault::Write(std::io::Error::other(error)))
    }
}

/// One case: it fails where a problem that is its own is an error.
fn case(name: &str, class: &str, board: &CheckedBoard, own: impl Fn(&BoardProblem) -> bool) -> TestCase {
    let told = |problem: &BoardProblem| {
        let (name, severity) = (problem.finding.name(), problem.finding.severity().word());
        format!(
            "{}:{}:{}: {name} ({severity}): {}",
            problem.file,
            problem.line,
            problem.column,
            sentence(problem)
        )
    };
    let (errors, others): (Vec<&BoardProblem>, Vec<&BoardProblem>) = board
        .problems
        .iter()
        .filter(|problem| own(problem))
        .partition(|problem| problem.finding.severity() == Severity::Error);
    let lines =
        |problems: &[&BoardProblem]| problems.iter().map(|one| told(one)).collect::<Vec<_>>().join("\n");
    let status = match errors.first() {
        None => TestCaseStatus::success(),
        Some(first) => {
            let mut failed = TestCaseStatus::non_success(NonSuccessKind::Failure);
            failed
                .set_type(first.finding.name())
                .set_message(sentence(first))
                .set_description(lines(&errors));
            failed
        }
    };
    let mut case = TestCase::new(name, status);
    case.set_classname(class);
    if !others.is_empty() {
        case.set_system_out(lines(&others));
    }
    case
}

/// What is wrong, and what to do.
fn sentence(problem: &BoardProblem) -> String {
    let signal = problem.signal.as_ref().map(|signal| format!("{signal}: ")).unwrap_or_default();
    let remedy = hints::of_finding(&problem.finding);
    let remedy = if remedy.is_empty() { remedy } else { format!(" ({remedy})") };
    format!("{signal}{}{remedy}", problem.finding)
}

fn row(signal: &CheckedSignal) -> Line {
    let place = signal.place.as_ref();
    let output = place.map(|place| format!("{}/{}", place.timer, place.channel)).unwrap_or_default();
    let pin = place.and_then(|place| place.pin.clone()).unwrap_or_default();
    let error = signal.frequency_error.map(|error| frequency_error(error, signal.frequency_exact));
    let tightest = signal.tightest.as_ref().map(|check| {
        let found = check.found.map_or_else(|| "not stated".to_owned(), |found| found.rounded(3));
        let limit = check.limit.rounded(3);
        match check.requirement {
            Need::Steps => format!("{found} steps where {limit} do"),
            // A unit that both have stands once.
            need => match (found.split_once(' '), limit.split_once(' ')) {
                (Some((number, own)), Some((_, unit))) if own == unit => {
                    format!("{} {number} of {limit}", need.key())
                }
                _ => format!("{} {found} of {limit}", need.key()),
            },
        }
    });
    Line::row([
        Cell::left(signal.name.clone()),
        Cell::left(output),
        Cell::left(pin),
        Cell::point(signal.frequency.map(|frequency| frequency.rounded(6)).unwrap_or_default()),
        Cell::left(error.unwrap_or_default()),
        Cell::right(signal.steps.map(|steps| steps.to_string()).unwrap_or_default()),
        Cell::left(signal.outcome()),
        Cell::left(tightest.unwrap_or_default()),
    ])
}

fn code(code: &CheckedCode) -> Line {
    let verdict = match (code.same, &code.diff) {
        (true, _) => "as it would be made",
        (false, Some(_)) => "differs",
        (false, None) => "missing",
    };
    Line::row([Cell::left(code.file.clone()), Cell::left(verdict)])
}

/// A place, and what is wrong there.
fn told(problem: &BoardProblem) -> [Line; 2] {
    let signal = problem.signal.as_ref().map(|signal| format!(", signal {signal}")).unwrap_or_default();
    // Where a code's lines come from is in the sentence already.
    let more: Vec<String> = match problem.finding {
        Finding::CodeDiffers(_) => Vec::new(),
        _ => problem.related.iter().map(|one| format!("; line {}, {}", one.line, one.says)).collect(),
    };
    let more = more.concat();
    let place = format!("{}:{}:{}{signal}{more}", problem.file, problem.line, problem.column);
    [Line::Prose(place), Line::Finding(problem.finding.clone())]
}
