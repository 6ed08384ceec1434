//! Stretches of clocks against the clocks that they stand for, one by one.

use std::collections::BTreeSet;

use proptest::prelude::*;

use super::*;

fn clock(numerator: u64, denominator: u64) -> Clock {
    Ratio::new(numerator, denominator)
}

fn stretches(list: &[((u64, u64), u32, u32)]) -> Stretches {
    let stretch = |((numerator, denominator), from, to): &((u64, u64), u32, u32)| Stretch {
        step: Ratio::new_raw(*numerator, *denominator),
        from: *from,
        to: *to,
    };
    Stretches { list: list.iter().map(stretch).collect(), whole_only: false }
}

/// Every clock of some stretches.
fn clocks<'s>(stretches: impl IntoIterator<Item = &'s Stretch>) -> BTreeSet<(u64, u64)> {
    let of = |stretch: &Stretch| {
        let stretch = *stretch;
        (stretch.from..=stretch.to).map(move |number| {
            let (numerator, denominator) = stretch.clock(number).unwrap();
            clock(numerator, denominator).into_raw()
        })
    };
    stretches.into_iter().flat_map(of).collect()
}

fn tail(factor: (u64, u64), low: u64, high: u64, divisions: &[(usize, u64)]) -> Tail {
    Tail {
        factor: clock(factor.0, factor.1),
        low: Ratio::from_integer(low),
        high: Ratio::from_integer(high),
        divisions: divisions.to_vec(),
    }
}

proptest! {
    #[test]
    fn the_fastest_come_first_and_no_clock_is_lost(
        list in proptest::collection::vec(((1_u64..40, 1_u64..6), 1_u32..30, 0_u32..20), 1..40),
    ) {
        let list: Vec<((u64, u64), u32, u32)> =
            list.into_iter().map(|(step, from, more)| (step, from, from + more)).collect();
        let given = stretches(&list);
        let before = clocks(&given.list);
        let sorted = given.fastest_first().unwrap();
        prop_assert_eq!(clocks(&sorted), before);
        let fastest: Vec<f64> = sorted
            .iter()
            .map(|one| f64::from(one.to) * *one.step.numer() as f64 / *one.step.denom() as f64)
            .collect();
        prop_assert!(fastest.is_sorted_by(|left, right| left >= right || (left - right).abs() < 1e-5), "{:?}", fastest);
        // Nothing that comes later is above what is said of the one before.
        for (place, one) in sorted.iter().enumerate() {
            let (numerator, denominator) = one.at_most().unwrap();
            let most = numerator as f64 / denominator as f64;
            prop_assert!(fastest[place..].iter().all(|fastest| *fastest <= most), "{} {:?}", most, fastest);
            prop_assert!(most - fastest[place] <= 1.0 / 1_048_576.0, "{} {:?}", most, fastest);
        }
    }

    #[test]
    fn the_numbers_within_limits_are_those_whose_products_are(
        step in (1_u64..50, 1_u64..8), low in (0_u64..900, 1_u64..5), more in 0_u64..900, from in 1_u64..20, to in 1_u64..40,
    ) {
        let (step, low) = (clock(step.0, step.1), clock(low.0, low.1));
        let high = low + Ratio::from_integer(more);
        let (first, last) = within(&step, (&low, &high), (from, to));
        let inside = |number: &u64| (low..=high).contains(&(step * Ratio::from_integer(*number)));
        let expected: Vec<u64> = (from..=to).filter(inside).collect();
        prop_assert_eq!((first..=last).collect::<Vec<u64>>(), expected);
    }

    #[test]
    fn factors_allow_what_some_of_them_allowed(
        all in proptest::collection::vec(((1_u64..4, 1_u64..4), 0_u64..30, 0_u64..10, 0_u64..2), 1..30),
    ) {
        let tails: Vec<Tail> = all
            .iter()
            .map(|(factor, low, more, division)| tail(*factor, *low, low + more, &[(1, *division)]))
            .collect();
        let allows = |tails: &[Tail]| {
            let of = |one: &Tail| {
                let key = (one.factor.into_raw(), one.divisions.clone());
                (one.low.to_integer()..=one.high.to_integer()).map(move |at| (key.clone(), at)).collect::<Vec<_>>()
            };
            tails.iter().flat_map(of).collect::<BTreeSet<_>>()
        };
        let before = allows(&tails);
        let found = merged(tails);
        prop_assert_eq!(allows(&found), before);
        // What touches has become one.
        for (place, one) in found.iter().enumerate() {
            let touches = |other: &Tail| {
                other.factor == one.factor
                    && other.divisions == one.divisions
                    && order(&other.low, &one.high) != Ordering::Greater
                    && order(&one.low, &other.high) != Ordering::Greater
            };
            prop_assert!(!found[place + 1..].iter().any(touches), "{:?}", found);
        }
    }
}

#[test]
fn stretches_of_one_step_that_meet_are_one() {
    let sorted = |list: &[((u64, u64), u32, u32)]| -> Vec<((u64, u64), u32, u32)> {
        let all = stretches(list).fastest_first().unwrap();
        all.iter().map(|one| (one.step(), one.from, one.to)).collect()
    };
    assert_eq!(sorted(&[((3, 1), 5, 9), ((3, 1), 1, 4)]), [((3, 1), 1, 9)]);
    assert_eq!(sorted(&[((3, 1), 6, 9), ((3, 1), 1, 4)]), [((3, 1), 6, 9), ((3, 1), 1, 4)]);
    assert_eq!(sorted(&[((3, 1), 1, 9), ((3, 1), 2, 4)]), [((3, 1), 1, 9)]);
    assert_eq!(sorted(&[((3, 1), 1, 4), ((5, 1), 1, 4)]), [((5, 1), 1, 4), ((3, 1), 1, 4)]);
}

#[test]
fn a_step_of_long_numbers_is_reduced() {
    let large = 1_u64 << 33;
    let all = stretches(&[((3 * large, 2 * large), 1, 2), ((6, 4), 1, 2)]).fastest_first().unwrap();
    let mut steps: Vec<(u64, u64)> = all.iter().map(Stretch::step).collect();
    steps.sort_unstable();
    // Short ones stay as they are: reducing costs more than it saves.
    assert_eq!(steps, [(3, 2), (6, 4)]);
    assert!(all.iter().all(|one| (one.from, one.to) == (1, 2)));
}

#[test]
fn products_that_do_not_fit_are_reduced_first() {
    let large = u64::MAX / 2;
    // Nothing is reduced where it need not be.
    assert_eq!(product(&Ratio::new_raw(6, 4), &Ratio::new_raw(2, 3)).unwrap().into_raw(), (12, 12));
    let long = product(&clock(large, 3), &clock(3, large)).unwrap();
    assert_eq!((long.numer(), long.denom()), (&1, &1));
    let numerator_only = product(&clock(large, 1), &clock(4, large)).unwrap();
    assert_eq!(numerator_only, clock(4, 1));
    assert_eq!(product(&clock(large, 1), &clock(large, 1)), None);
}

#[test]
fn limits_are_divided_by_what_comes_before_them() {
    // After a division by 2, 10 to 20 comes out of 20 to 40.
    let half = tail((1, 2), 0, 100, &[]);
    let limits = |low, high| (Ratio::from_integer(low), Ratio::from_integer(high));
    let ends = |tail: &Tail, low, high| {
        let limited = tail.limited(Some(&limits(low, high))).unwrap();
        limited.map(|tail| (tail.low.reduced(), tail.high.reduced()))
    };
    assert_eq!(ends(&half, 10, 20), Some(limits(20, 40)));
    // The narrower limit counts, from either side; one frequency is enough.
    assert_eq!(ends(&tail((1, 2), 30, 35, &[]), 10, 20), Some(limits(30, 35)));
    assert_eq!(ends(&tail((1, 2), 40, 50, &[]), 10, 20), Some(limits(40, 40)));
    assert_eq!(ends(&tail((1, 2), 41, 50, &[]), 10, 20), None);
    assert_eq!(half.limited(None).unwrap(), Some(half.clone()));
    let band = limits(10, 20);
    let held = |value| holds(Some(&band), &Ratio::from_integer(value));
    assert_eq!([held(9), held(10), held(20), held(21)], [false, true, true, false]);
    assert!(holds(None, &Ratio::from_integer(5)));
}

#[test]
fn numbers_that_follow_one_another_stand_together() {
    let numbers = [2_u64, 3, 4, 6, 8, 9].map(|number| (number, Ratio::from_integer(number)));
    assert_eq!(runs(&numbers), [(2, 4), (6, 6), (8, 9)]);
}
