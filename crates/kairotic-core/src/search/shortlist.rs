//! The candidates worth keeping of a search that looks at hundreds of thousands.

use std::cmp::Ordering;

use super::candidate::Candidate;
use super::rank::{self, Prefer};

/// So many of the leading candidates are kept.
const LEADING: usize = 64;

/// A candidate that is worth a look although it does not lead: what it must be, and what it is compared by.
struct Seat {
    admits: fn(&Candidate) -> bool,
    /// Less is better; equals are ranked as usual.
    order: fn(&Candidate, &Candidate) -> Ordering,
}

const SEATS: [Seat; 4] = [
    Seat { admits: |_| true, order: finer },
    Seat { admits: |candidate| candidate.signals_exact, order: finer },
    Seat { admits: |candidate| candidate.frequency_exact, order: finer },
    Seat { admits: |candidate| candidate.frequency_exact && candidate.signals_exact, order: rounder },
];

fn finer(left: &Candidate, right: &Candidate) -> Ordering {
    right.steps.cmp(&left.steps)
}

fn rounder(left: &Candidate, right: &Candidate) -> Ordering {
    left.tick_digits.cmp(&right.tick_digits)
}

/// What has been found so far.
#[derive(Debug)]
pub(crate) struct Shortlist {
    prefer: Option<Prefer>,
    /// Everything, where that is wanted; else the leading ones.
    ranked: Vec<Candidate>,
    all: bool,
    /// The holders of [`SEATS`].
    seated: [Option<Candidate>; SEATS.len()],
}

impl Shortlist {
    /// An empty list. With `all`, everything is kept.
    pub(crate) fn new(prefer: Option<Prefer>, all: bool) -> Self {
        Self { prefer, ranked: Vec::new(), all, seated: [const { None }; SEATS.len()] }
    }

    /// Looks at a candidate.
    pub(crate) fn push(&mut self, candidate: Candidate) {
        if self.all {
            self.ranked.push(candidate);
            return;
        }
        if candidate.within && candidate.usual {
            for (seat, holder) in SEATS.iter().zip(&mut self.seated) {
                let better = |held: &Candidate| {
                    let order = (seat.order)(&candidate, held);
                    order.then_with(|| rank::compare(&candidate, held, self.prefer)).is_lt()
                };
                if (seat.admits)(&candidate) && holder.as_ref().is_none_or(better) {
                    *holder = Some(candidate.clone());
                }
            }
        }
        let beats_last = |last: &Candidate| rank::compare(&candidate, last, self.prefer).is_lt();
        if self.ranked.len() < LEADING || self.ranked.last().is_some_and(beats_last) {
            let place =
                self.ranked.partition_point(|held| rank::compare(held, &candidate, self.prefer).is_le());
            self.ranked.insert(place, candidate);
            self.ranked.truncate(LEADING);
        }
    }

    /// What was kept, best first.
    pub(crate) fn ranked(self) -> Vec<Candidate> {
        let Self { prefer, mut ranked, seated, .. } = self;
        let key = |candidate: &Candidate| (candidate.mode, candidate.division, candidate.top);
        for holder in seated.into_iter().flatten() {
            if !ranked.iter().any(|held| key(held) == key(&holder)) {
                ranked.push(holder);
            }
        }
        ranked.sort_by(|left, right| rank::compare(left, right, prefer));
        ranked
    }
}
