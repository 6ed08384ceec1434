//! A board looked at as a whole: every signal in its place, against everything that is required of it and that may take
//! its output away from what is wanted, and the program that makes them all.

use super::spec::spec_alone;
use super::{AxisReview, Board, BoardPlan, Placement, Signal, layout, outcome, plan, spec_in};
use crate::accuracy;
use crate::error::{Error, Result};
use crate::finding::{self, Finding, Severity};
use crate::load::Driven;
use crate::part::Part;
use crate::requirement::{RequirementCheck, Verdict};
use crate::search::{Derivation, SearchOptions};
use crate::signal::SignalSpec;

/// A board looked at as a whole.
#[derive(Debug)]
pub struct BoardReview {
    /// The signals, in the order of the board.
    pub signals: Vec<SignalReview>,
    /// The steppers, in the order of the board.
    pub axes: Vec<AxisReview>,
    /// What is built, or why nothing can be.
    pub plan: Result<BoardPlan>,
}

/// What becomes of one signal of a board.
#[derive(Debug)]
pub struct SignalReview {
    /// Its name.
    pub name: String,
    /// Where it comes out; `None` where it has no place.
    pub place: Option<Placement>,
    /// What is made of it, or why nothing is.
    pub made: Result<ReviewedSignal>,
}

/// A signal's setting against what is required of it.
#[derive(Debug)]
pub struct ReviewedSignal {
    /// The setting, and how it was found.
    pub derivation: Derivation,
    /// What its load makes of the setting, where it has one.
    pub driven: Option<Driven>,
    /// What is required: with everything that is known of clock, load and surroundings in the worst case, where the signal
    /// has a pulse, else by the setting alone.
    pub checks: Vec<RequirementCheck>,
    /// What is or may be wrong.
    pub findings: Vec<Finding>,
}

impl SignalReview {
    /// Whether it is made, all is met that is required of it, and nothing is wrong with it.
    pub fn is_met(&self) -> bool {
        self.made.as_ref().is_ok_and(|made| {
            made.checks.iter().all(|check| check.outcome == Verdict::Met)
                && made.findings.iter().all(|finding| finding.severity() != Severity::Error)
        })
    }
}

impl ReviewedSignal {
    /// The requirement that is nearest to its limit, or furthest beyond it.
    pub fn tightest(&self) -> Option<&RequirementCheck> {
        let worse = |check: &&RequirementCheck| (check.outcome != Verdict::Met, check.share);
        // Of equals the first that is required.
        self.checks.iter().rev().max_by_key(worse)
    }
}

/// Looks at a board as a whole. `part` is the board's, with everything that its family file says; where steps are missing
/// on it, the first of `others` that has enough is named. Nothing that is wrong with one signal keeps the others from being
/// looked at.
pub fn review<'p, I: Iterator<Item = &'p Part>>(
    board: &Board,
    part: &'p Part,
    others: impl Fn() -> I,
) -> BoardReview {
    let found = layout(board, part);
    let look = |(at, signal): (usize, &Signal)| {
        let conflicts = |error: &Error| matches!(error, Error::NoPlacement(conflict) if conflict.signals.iter().any(|one| one.name == signal.name));
        let place = match &found {
            Ok(layout) => layout.places.get(at).cloned(),
            Err(error) if conflicts(error) => None,
            Err(_) => signal.place.settled(part),
        };
        let specified = match &found {
            Ok(layout) => spec_in(board, signal, part, layout),
            // One that has its place is looked at even where others have none.
            Err(error) => spec_alone(board, signal, part).unwrap_or_else(|| Err(error.clone())),
        };
        let made = specified.and_then(|(spec, _)| reviewed(&spec, others()));
        SignalReview { name: signal.name.clone(), place, made }
    };
    let signals: Vec<SignalReview> = board.signals.iter().enumerate().map(look).collect();
    let axes = board.axes.iter().map(|axis| AxisReview::of(board, axis, part)).collect();
    BoardReview { signals, axes, plan: found.and_then(|layout| plan::planned_in(board, part, layout)) }
}

fn reviewed<'p>(spec: &SignalSpec<'p>, others: impl Iterator<Item = &'p Part>) -> Result<ReviewedSignal> {
    let options = SearchOptions::default();
    let (derivation, outcome) = outcome(spec, options, others)?;
    let mut findings = derivation.findings.clone();
    let checks = match accuracy::drawn_up_of(spec, derivation.clone()) {
        Ok(budget) => {
            findings.extend(budget.findings.into_iter().filter(|one| !derivation.findings.contains(one)));
            budget.checks
        }
        Err(Error::NoSignal { .. }) => outcome.checks,
        Err(error) => return Err(error),
    };
    finding::sort(&mut findings);
    Ok(ReviewedSignal { derivation, driven: outcome.driven, checks, findings })
}
