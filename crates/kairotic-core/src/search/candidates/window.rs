//! The search where any frequency between two will do: then exact signals and steps decide.
//!
//! Of each division the largest top inside the window has the most steps; those below it that make every signal exact,
//! or every period the same, are looked at as well.

use super::super::candidate::Candidate;
use super::super::rank;
use super::super::shortlist::Shortlist;
use super::{Frame, Held, Search};
use crate::error::{Error, Result};
use crate::part::CompareLaw;
use crate::setting::active;

/// So many tops below the largest are tried for exact signals.
const TRIED: u64 = 4096;

/// The periods of a window, in source clocks, each as a fraction.
#[derive(Debug, Clone, Copy)]
pub(crate) struct PeriodWindow {
    pub(crate) shortest: (u128, u128),
    pub(crate) longest: (u128, u128),
}

impl Search {
    /// Looks at every division of a mode.
    pub(crate) fn run_window(
        &self,
        frame: &Frame<'_>,
        window: PeriodWindow,
        found: &mut Shortlist,
        best: &mut Held,
    ) -> Result<()> {
        let law = frame.mode.period;
        let most = law.ticks(frame.tops.1).ok_or_else(overflow)?.max(1);
        let ticks = |(numerator, denominator): (u128, u128), scaled: u64| {
            let numerator = numerator.checked_mul(1 << frame.fraction_bits);
            numerator.zip(denominator.checked_mul(scaled.into())).ok_or_else(overflow)
        };
        let (shortest, denominator) = ticks(window.shortest, 1)?;
        let start = shortest.div_ceil(denominator.checked_mul(most.into()).ok_or_else(overflow)?);
        for index in self.dividers.at_least(start)..self.dividers.len() {
            let scaled = self.dividers.scaled(index);
            let (longest, denominator) = ticks(window.longest, scaled)?;
            let (shortest, other) = ticks(window.shortest, scaled)?;
            let (longest, shortest) = (longest / denominator, shortest.div_ceil(other));
            let (plus, per_top) = (u128::from(law.plus), u128::from(law.per_top.max(1)));
            let highest = longest.checked_sub(plus).map(|rest| rest / per_top);
            let lowest = shortest.saturating_sub(plus).div_ceil(per_top).max(frame.tops.0.into());
            let Some(highest) = highest.filter(|highest| *highest >= lowest.min(frame.tops.0.into())) else {
                break;
            };
            let highest = highest.min(frame.tops.1.into());
            if lowest > highest {
                continue;
            }
            // Both are no larger than the largest top.
            let (lowest, highest) = (lowest as u64, highest as u64);
            let leading = self.inside(frame, index, highest)?;
            if self.is_beaten(&leading, best) {
                break;
            }
            // What the tops so far have had together: only a top that has more is worth its fewer steps.
            let mut had = (leading.frequency_exact, leading.signals_exact);
            best.take(&leading);
            found.push(leading);
            for top in (lowest.max(highest.saturating_sub(TRIED))..highest).rev() {
                if had == (true, true) {
                    break;
                }
                let may_have = self.may_have(frame, index, top)?;
                if (had.0 || !may_have.0) && (had.1 || !may_have.1) {
                    continue;
                }
                let candidate = self.inside(frame, index, top)?;
                let has = (candidate.frequency_exact, candidate.signals_exact);
                if (has.0 && !had.0) || (has.1 && !had.1) || has == (true, true) {
                    had = if has == (true, true) { has } else { (had.0 || has.0, had.1 || has.1) };
                    best.take(&candidate);
                    found.push(candidate);
                }
            }
        }
        Ok(())
    }

    /// Whether every period may be the same, and whether every signal may be exact, with a top.
    fn may_have(&self, frame: &Frame<'_>, index: usize, top: u64) -> Result<(bool, bool)> {
        let ruler = self.ruler(frame, self.dividers.scaled(index), top)?;
        let signals = match &frame.mode.compare {
            CompareLaw::Toggle => true,
            CompareLaw::Linear(law) => {
                frame.signals.iter().all(|(wanted, _)| active::may_be_exact(law, ruler, *wanted))
            }
        };
        Ok((active::is_whole(ruler), signals))
    }

    /// Whether nothing with at most a candidate's steps can be better than what is held. All frequencies are as good
    /// here: with too few steps the score decides as well.
    fn is_beaten(&self, candidate: &Candidate, best: &Held) -> bool {
        let most = rank::best_possible(candidate.steps, 2, candidate.usual);
        let enough = candidate.steps >= self.min_steps;
        let beaten = match best.score {
            0 => !enough && most < best.outside,
            score => !enough || most < score,
        };
        !self.all && self.prefer.is_none() && beaten
    }

    /// A candidate of the window: its frequency is as good as any other in it.
    pub(crate) fn inside(&self, frame: &Frame<'_>, index: usize, top: u64) -> Result<Candidate> {
        let judged = self.judge(frame, index, top)?;
        let within = judged.steps >= self.min_steps;
        Ok(Candidate { deviation: 0, frequency_exact: judged.steady, within, ..judged })
    }
}

const fn overflow() -> Error {
    Error::overflow("ratio of clock and frequency")
}
