//! What signals in their places share: a counter, or the divider before several counters.

use super::Placement;
use super::choices::{counters, dividers};
use crate::error::{Error, Result};
use crate::part::{Part, TimerUse};
use crate::search::{counter_for, counters_of_one_divider};
use crate::target::{CounterSetting, Target};

/// Which of some signals share what; each group has at least two.
pub(super) struct Sharing {
    counters: Vec<Vec<usize>>,
    dividers: Vec<Vec<usize>>,
}

impl Sharing {
    pub(super) fn of(part: &Part, placed: &[Placement]) -> Result<Self> {
        let counters = groups(placed, |place| counters_of(part, place))?;
        Ok(Self { counters, dividers: groups(placed, |place| dividers_of(part, place))? })
    }

    /// Signals that have to be settled together: those that share anything, and each other one alone.
    pub(super) fn together(&self, signals: usize) -> Vec<Vec<usize>> {
        let mut all: Vec<Vec<usize>> = Vec::new();
        let alone = (0..signals).map(|signal| vec![signal]);
        for group in self.counters.iter().chain(&self.dividers).cloned().chain(alone) {
            let (same, others) =
                all.into_iter().partition(|known: &Vec<usize>| known.iter().any(|one| group.contains(one)));
            all = others;
            let mut joined: Vec<usize> = same.into_iter().flatten().chain(group).collect();
            joined.sort_unstable();
            joined.dedup();
            all.push(joined);
        }
        all
    }

    /// For each signal how its counter counts, where it shares one for which each would choose another setting alone.
    ///
    /// # Errors
    /// [`Error::TimeBasesDiffer`] where no setting serves all.
    pub(super) fn counters(&self, signals: &[(TimerUse<'_>, Target)]) -> Result<Vec<Option<CounterSetting>>> {
        let mut settled: Vec<Option<CounterSetting>> = vec![None; signals.len()];
        let of = |group: &[usize]| -> Vec<(TimerUse<'_>, Target)> {
            group.iter().filter_map(|signal| signals.get(*signal).cloned()).collect()
        };
        for group in &self.counters {
            // What one of them cannot even alone is told of that one.
            let counter = match counter_for(&of(group)) {
                Err(error @ Error::TimeBasesDiffer { .. }) => return Err(error),
                found => found.unwrap_or_default(),
            };
            for signal in group {
                if let Some(own) = settled.get_mut(*signal) {
                    own.clone_from(&counter);
                }
            }
        }
        for group in &self.dividers {
            let counter = |signal: &usize| settled.get(*signal).cloned().flatten();
            let targets: Vec<(TimerUse<'_>, Target)> = group
                .iter()
                .zip(of(group))
                .map(|(signal, (on, target))| (on, Target { counter: counter(signal), ..target }))
                .collect();
            for (signal, counter) in
                group.iter().zip(counters_of_one_divider(&targets)?.into_iter().flatten())
            {
                if let Some(own) = settled.get_mut(*signal) {
                    *own = Some(counter);
                }
            }
        }
        Ok(settled)
    }
}

/// What a place's counter is known by.
pub(super) fn counters_of(part: &Part, place: &Placement) -> Result<Vec<String>> {
    let view = part.timer(&place.timer, place.base.as_deref())?;
    let own = std::iter::once(format!("counter of {}", place.timer));
    Ok(counters(&view).into_iter().chain(own).collect())
}

/// What a place's dividers are known by, where other timers may have the same.
fn dividers_of(part: &Part, place: &Placement) -> Result<Vec<String>> {
    Ok(dividers(&part.timer(&place.timer, place.base.as_deref())?))
}

/// The signals that share some of what their places are known by, where several do.
fn groups(
    placed: &[Placement],
    known_by: impl Fn(&Placement) -> Result<Vec<String>>,
) -> Result<Vec<Vec<usize>>> {
    let mut groups: Vec<(Vec<String>, Vec<usize>)> = Vec::new();
    for (signal, place) in placed.iter().enumerate() {
        let (mut fields, mut signals) = (known_by(place)?, vec![signal]);
        // What it has in common with several groups makes one of them.
        let (same, others) = groups
            .into_iter()
            .partition(|(known, _): &(Vec<String>, _)| known.iter().any(|field| fields.contains(field)));
        groups = others;
        for (known, members) in same {
            fields.extend(known);
            signals.extend(members);
        }
        signals.sort_unstable();
        groups.push((fields, signals));
    }
    let mut groups: Vec<Vec<usize>> =
        groups.into_iter().map(|(_, signals)| signals).filter(|signals| signals.len() > 1).collect();
    groups.sort_unstable();
    Ok(groups)
}
