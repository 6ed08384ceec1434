//! The complete search for places: every signal gets one of its choices, such that no two take the same thing and all
//! agree on what they share. What cannot be completed is seen early: by signals without a choice left, and by more
//! signals than there are things for them, or more periods than counters.

use std::collections::{BTreeMap, BTreeSet};

/// So many steps the search takes before it gives up.
const MOST_STEPS: usize = 100_000;

/// One way of placing a signal.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub(super) struct Choice {
    /// What it takes for itself, the most contested first: the channel, the pin, and those of its complement.
    pub(super) takes: Vec<usize>,
    /// What it shares with others, and what it wants that to be. The counter's period comes first.
    pub(super) agrees: Vec<(usize, usize)>,
}

/// What a search came to.
#[derive(Debug, Clone, PartialEq, Eq)]
pub(super) enum Assigned {
    /// Which choice each signal gets: the first in the order of the signals and of their choices.
    All(Vec<usize>),
    /// There is no way.
    Never,
    /// It was given up.
    Undecided,
}

/// The choices of the signals, and whether those that share something can really have it together.
struct PlaceSearch<'a, F> {
    choices: &'a [Vec<Choice>],
    /// Whether signals that share something go together, each with its choice. Whatever does not stays so with more signals.
    fits: F,
    chosen: BTreeMap<usize, usize>,
    taken: BTreeSet<usize>,
    steps: usize,
}

/// The first way of placing the signals that are `among`.
pub(super) fn assign(
    choices: &[Vec<Choice>],
    among: &[usize],
    fits: impl FnMut(&[(usize, usize)]) -> bool,
) -> Assigned {
    let (chosen, taken) = (BTreeMap::new(), BTreeSet::new());
    let mut search = PlaceSearch { choices, fits, chosen, taken, steps: 0 };
    match search.complete(among) {
        Some(true) => Assigned::All(search.chosen.into_values().collect()),
        Some(false) => Assigned::Never,
        None => Assigned::Undecided,
    }
}

/// Signals that cannot all be placed although all but any one of them can; what is left of `among`, which cannot be placed,
/// when everything is taken away that is not needed for that. `None` where a search was given up.
pub(super) fn smallest_conflict(
    choices: &[Vec<Choice>],
    among: &[usize],
    mut fits: impl FnMut(&[(usize, usize)]) -> bool,
) -> Option<Vec<usize>> {
    let mut never = |signals: &[usize]| match assign(choices, signals, &mut fits) {
        Assigned::Never => Some(true),
        Assigned::All(_) => Some(false),
        Assigned::Undecided => None,
    };
    // The first signals that cannot be placed, found by halves: of many, most have nothing to do with it.
    let (mut few, mut enough) = (0, among.len());
    while enough - few > 1 {
        let middle = few + (enough - few) / 2;
        if never(among.get(..middle)?)? { enough = middle } else { few = middle }
    }
    let mut left = among.get(..enough)?.to_vec();
    for signal in left.clone() {
        let without: Vec<usize> = left.iter().copied().filter(|other| *other != signal).collect();
        if never(&without)? {
            left = without;
        }
    }
    Some(left)
}

impl<F: FnMut(&[(usize, usize)]) -> bool> PlaceSearch<'_, F> {
    fn complete(&mut self, left: &[usize]) -> Option<bool> {
        if left.is_empty() {
            return Some(true);
        }
        let open = self.open(left);
        if !may_complete(&open) {
            return Some(false);
        }
        // What has one choice left has it: that comes to light before others are tried out.
        let next = open.iter().position(|choices| choices.len() == 1).unwrap_or(0);
        let signal = left.get(next)?;
        let others: Vec<usize> = left.iter().copied().filter(|other| other != signal).collect();
        let choices = self.choices.get(*signal).map(Vec::as_slice).unwrap_or_default();
        for (place, choice) in choices.iter().enumerate() {
            if !self.is_open(choice) {
                continue;
            }
            self.steps += 1;
            if self.steps > MOST_STEPS {
                return None;
            }
            self.chosen.insert(*signal, place);
            if self.goes_together(choice) {
                self.taken.extend(&choice.takes);
                if self.complete(&others)? {
                    return Some(true);
                }
                choice.takes.iter().for_each(|thing| {
                    self.taken.remove(thing);
                });
            }
            self.chosen.remove(signal);
        }
        Some(false)
    }

    /// Whether a choice takes nothing that is taken, and agrees with all that is chosen.
    fn is_open(&self, choice: &Choice) -> bool {
        let agrees = |other: &Choice| {
            choice.agrees.iter().all(|(thing, wanted)| {
                other.agrees.iter().all(|(known, settled)| known != thing || settled == wanted)
            })
        };
        choice.takes.iter().all(|thing| !self.taken.contains(thing))
            && self.chosen().all(|(_, _, other)| agrees(other))
    }

    fn chosen(&self) -> impl Iterator<Item = (usize, usize, &Choice)> {
        self.chosen
            .iter()
            .filter_map(|(signal, place)| Some((*signal, *place, self.choices.get(*signal)?.get(*place)?)))
    }

    /// Whether all that share something with the last choice, it among them, go together.
    fn goes_together(&mut self, choice: &Choice) -> bool {
        let shares = |other: &Choice| {
            other.agrees.iter().any(|(thing, _)| choice.agrees.iter().any(|(known, _)| known == thing))
        };
        let group: Vec<(usize, usize)> = self
            .chosen()
            .filter(|(_, _, other)| shares(other))
            .map(|(signal, place, _)| (signal, place))
            .collect();
        group.len() < 2 || (self.fits)(&group)
    }

    /// The choices that are open to each of the signals that are left.
    fn open(&self, left: &[usize]) -> Vec<Vec<&Choice>> {
        left.iter()
            .filter_map(|signal| self.choices.get(*signal))
            .map(|choices| choices.iter().filter(|choice| self.is_open(choice)).collect())
            .collect()
    }
}

/// Whether nothing speaks against signals with these choices that can be seen at once.
fn may_complete(open: &[Vec<&Choice>]) -> bool {
    if open.iter().any(Vec::is_empty) {
        return false;
    }
    let things = |kind: usize| {
        let of = |choices: &Vec<&Choice>| -> Option<BTreeSet<usize>> {
            choices.iter().map(|choice| choice.takes.get(kind).copied()).collect()
        };
        open.iter().filter_map(of).collect::<Vec<_>>()
    };
    // Every period needs a counter of its own.
    let mut periods: BTreeMap<usize, BTreeSet<usize>> = BTreeMap::new();
    for (counter, period) in open.iter().flatten().filter_map(|choice| choice.agrees.first()) {
        periods.entry(*period).or_default().insert(*counter);
    }
    let periods: Vec<BTreeSet<usize>> = periods.into_values().collect();
    let most = open.iter().flatten().map(|choice| choice.takes.len()).max().unwrap_or(0);
    has_matching(&periods) && (0..most).all(|kind| has_matching(&things(kind)))
}

/// Whether each of several can have one of its things to itself.
fn has_matching(wanted: &[BTreeSet<usize>]) -> bool {
    let mut owners: BTreeMap<usize, usize> = BTreeMap::new();
    (0..wanted.len()).all(|one| augment(wanted, one, &mut owners, &mut BTreeSet::new()))
}

fn augment(
    wanted: &[BTreeSet<usize>],
    one: usize,
    owners: &mut BTreeMap<usize, usize>,
    seen: &mut BTreeSet<usize>,
) -> bool {
    for thing in wanted.get(one).into_iter().flatten() {
        if !seen.insert(*thing) {
            continue;
        }
        let free = match owners.get(thing).copied() {
            None => true,
            Some(owner) => augment(wanted, owner, owners, seen),
        };
        if free {
            owners.insert(*thing, one);
            return true;
        }
    }
    false
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    fn choice(takes: Vec<usize>, counter: usize, period: usize) -> Choice {
        Choice { takes, agrees: vec![(counter, period)] }
    }

    /// Whether any combination of choices works, tried one after the other.
    fn any(choices: &[Vec<Choice>], among: &[usize]) -> bool {
        let mut combinations: Vec<Vec<&Choice>> = vec![Vec::new()];
        for signal in among {
            combinations = combinations
                .into_iter()
                .flat_map(|chosen| {
                    choices[*signal].iter().map(move |one| {
                        let mut more = chosen.clone();
                        more.push(one);
                        more
                    })
                })
                .collect();
        }
        combinations.iter().any(|chosen| {
            let mut takes: Vec<usize> = chosen.iter().flat_map(|one| one.takes.clone()).collect();
            let count = takes.len();
            takes.sort_unstable();
            takes.dedup();
            let mut settled: BTreeMap<usize, usize> = BTreeMap::new();
            takes.len() == count
                && chosen
                    .iter()
                    .flat_map(|one| &one.agrees)
                    .all(|(thing, wanted)| *settled.entry(*thing).or_insert(*wanted) == *wanted)
        })
    }

    proptest! {
        #![proptest_config(ProptestConfig::with_cases(400))]

        /// What is found is what trying everything finds, and a conflict is one of which nothing can be spared.
        #[test]
        fn complete_and_minimal(
            boards in proptest::collection::vec(
                (0_usize..3, proptest::collection::vec((0_usize..6, 10_usize..15, 20_usize..24), 1..5)),
                1..7,
            ),
        ) {
            let choices: Vec<Vec<Choice>> = boards
                .iter()
                .map(|(period, places)| {
                    places.iter().map(|(channel, pin, counter)| choice(vec![*channel, *pin], *counter, *period)).collect()
                })
                .collect();
            let all: Vec<usize> = (0..choices.len()).collect();
            let found = assign(&choices, &all, |_| true);
            prop_assert_eq!(matches!(found, Assigned::All(_)), any(&choices, &all));
            if found == Assigned::Never {
                let conflict = smallest_conflict(&choices, &all, |_| true).unwrap();
                prop_assert!(!any(&choices, &conflict));
                for spared in &conflict {
                    let without: Vec<usize> = conflict.iter().copied().filter(|one| one != spared).collect();
                    prop_assert!(any(&choices, &without));
                }
            }
        }
    }

    #[test]
    fn more_signals_than_channels_are_seen_at_once() {
        // Thirteen signals of one period on twelve channels: trying them out would take 12! steps.
        let places: Vec<Choice> =
            (0..12).map(|channel| choice(vec![channel], 100 + channel / 4, 0)).collect();
        let choices = vec![places; 13];
        let all: Vec<usize> = (0..13).collect();
        assert_eq!(assign(&choices, &all, |_| true), Assigned::Never);
        assert_eq!(smallest_conflict(&choices, &all, |_| true), Some(all));
    }

    #[test]
    fn what_does_not_go_together_is_kept_apart() {
        let choices =
            vec![vec![choice(vec![0], 10, 0)], vec![choice(vec![1], 10, 0), choice(vec![2], 11, 0)]];
        assert_eq!(assign(&choices, &[0, 1], |_| true), Assigned::All(vec![0, 0]));
        assert_eq!(assign(&choices, &[0, 1], |_| false), Assigned::All(vec![0, 1]));
    }
}
