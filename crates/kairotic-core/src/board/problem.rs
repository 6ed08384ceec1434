//! What is or may be wrong with a board that was reviewed, each with the key of the board file that it is about.

use super::{Board, BoardPlan, BoardReview, DirectionLines, ReviewedSignal, drives};
use crate::error::{Error, PlacementConflict};
use crate::finding::{Finding, ProgramIncomplete, RequirementMissed, SignalNotMade, SignalsNotPlaced};
use crate::program::Action;
use crate::requirement::{RequirementCheck, Verdict};
use crate::signal::Need;

/// Something that is or may be wrong with a board.
#[derive(Debug, Clone, PartialEq)]
pub struct ReviewProblem {
    /// The signals that it is about, by their places on the board; none for one of the board as a whole.
    pub signals: Vec<usize>,
    /// The stepper that it is about, by its place on the board.
    pub axis: Option<usize>,
    /// The way to the key of such a signal; empty for its name.
    pub keys: Vec<&'static str>,
    /// What it is.
    pub finding: Finding,
}

impl BoardReview {
    /// Everything that is or may be wrong, in the order of the signals, and then of the board as a whole.
    pub fn problems(&self, board: &Board) -> Vec<ReviewProblem> {
        let mut problems = Vec::new();
        for (place, signal) in self.signals.iter().enumerate() {
            match &signal.made {
                // What cannot be placed is told once, for all of them.
                Err(Error::NoPlacement(_)) => {}
                Err(error) => problems.push(at(vec![place], &["on"], not_made(error))),
                Ok(made) => problems.extend(of_signal(place, made)),
            }
        }
        for (place, axis) in self.axes.iter().enumerate() {
            let of_axis = |finding| ReviewProblem { axis: Some(place), ..at(Vec::new(), &[], finding) };
            match &axis.made {
                Err(error) => problems.push(of_axis(Finding::from(not_made(error)))),
                Ok(made) => problems.extend(made.findings.iter().cloned().map(of_axis)),
            }
        }
        match &self.plan {
            Ok(plan) => problems.extend(unknown(plan).into_iter().chain(directions(board, plan))),
            Err(Error::NoPlacement(conflict)) => problems.push(conflicting(board, conflict)),
            // A signal that cannot be made says so itself.
            Err(_) if self.signals.iter().any(|signal| signal.made.is_err()) => {}
            Err(error) => problems.push(at(Vec::new(), &[], not_made(error))),
        }
        problems
    }
}

fn at(signals: Vec<usize>, keys: &[&'static str], finding: impl Into<Finding>) -> ReviewProblem {
    ReviewProblem { signals, axis: None, keys: keys.to_vec(), finding: finding.into() }
}

fn not_made(error: &Error) -> SignalNotMade {
    SignalNotMade { problem: error.to_string(), instead: error.hint() }
}

/// What is or may be wrong with a signal that is made.
fn of_signal(place: usize, made: &ReviewedSignal) -> Vec<ReviewProblem> {
    // What a finding says of a requirement need not be said twice.
    let told: Vec<Need> = made.findings.iter().filter_map(need_of).collect();
    let missed = made.checks.iter().filter(|check| check.outcome != Verdict::Met);
    let missed = missed.filter(|check| !told.contains(&check.requirement));
    let missed = missed.map(|check| at(vec![place], &["needs", check.requirement.key()], missed_by(check)));
    let findings = made.findings.iter().map(|finding| match need_of(finding) {
        Some(need) => at(vec![place], &["needs", need.key()], finding.clone()),
        None => at(vec![place], &[], finding.clone()),
    });
    missed.chain(findings).collect()
}

fn missed_by(check: &RequirementCheck) -> RequirementMissed {
    RequirementMissed {
        requirement: check.requirement.words(),
        limit: check.limit_words(),
        found: check.found,
        likely_kept: check.outcome == Verdict::Marginal,
    }
}

/// The requirement that a finding is about, where that is missed.
fn need_of(finding: &Finding) -> Option<Need> {
    match finding {
        Finding::TooFewSteps(_) => Some(Need::Steps),
        Finding::FewStepsInSpan(_) => Some(Need::Step),
        Finding::ClockErrorAboveNeed(_) => Some(Need::Clock),
        _ => None,
    }
}

/// What the firmware has to supply, each function once.
fn unknown(plan: &BoardPlan) -> Vec<ReviewProblem> {
    let mut problems: Vec<ReviewProblem> = Vec::new();
    for step in plan.program.unknown() {
        let Action::Supply { function } = &step.action else { continue };
        let finding = ProgramIncomplete { function: function.clone(), task: step.why.clone() };
        let signal = plan.signal_of(step);
        let problem = at(signal.into_iter().collect(), &["on"], finding);
        if !problems.contains(&problem) {
            problems.push(problem);
        }
    }
    problems
}

/// The functions for lines that say which way a motor turns: no signal is on them.
fn directions(board: &Board, plan: &BoardPlan) -> Vec<ReviewProblem> {
    let turned = drives(board).into_iter().zip(&plan.signals).enumerate();
    let beside = turned.filter(|(_, (drive, signal))| {
        // What cannot be put to rest is turned round by nobody.
        signal.off.is_some() && drive.is_some_and(|drive| drive.lines == DirectionLines::Beside)
    });
    beside
        .map(|(place, (_, signal))| {
            let function = format!("{}_direction", signal.name.replace('-', "_"));
            let task = format!("{} has two lines beside it that say which way its motor turns", signal.name);
            at(vec![place], &["load"], ProgramIncomplete { function, task })
        })
        .collect()
}

fn conflicting(board: &Board, conflict: &PlacementConflict) -> ReviewProblem {
    let place = |name: &str| board.signals.iter().position(|signal| signal.name == name);
    let signals = conflict.signals.iter().filter_map(|one| place(&one.name)).collect();
    at(signals, &["on"], SignalsNotPlaced { conflict: conflict.clone() })
}
