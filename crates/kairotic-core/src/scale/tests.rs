//! Maps against the exact line, input by input.

use proptest::prelude::*;

use super::*;
use crate::quantity::Rational;

fn half() -> Rational {
    Rational::new(1, 2).unwrap()
}

fn ask(from: i64, to: i64, first: u64, last: u64, word: Word) -> ScaledMap {
    scale(MapRequest { map: Map { from, to, first, last }, word, most: half() }).unwrap()
}

#[test]
fn ten_bits_to_a_servo_in_words_of_16_bits_take_a_remainder() {
    let found = ask(0, 1023, 1800, 4200, Word::Bits16);
    assert!(found.met && found.error <= half() && found.widest <= 65_535, "{found:?}");
    assert!(matches!(found.form, Form::Remainder { .. }), "{found:?}");
    assert_eq!(found.proof, Proof::EveryInput(1024));
    // In 32 bits a multiplication and a shift do.
    let wide = ask(0, 1023, 1800, 4200, Word::Bits32);
    assert!(matches!(wide.form, Form::Shift { whole: 0, .. }) && wide.met, "{wide:?}");
    // The naive product of 2400 leaves 16 bits at 28 (28 * 2400 = 67200) and 15 bits at 14 (14 * 2400 = 33600).
    let ways = naive(&found);
    let overflow = ways.iter().find(|way| way.way == NaiveWay::Overflow).unwrap();
    assert_eq!(overflow.overflows, Some((Some(28), Some(14))));
    // 2 in place of 2400/1023: 354 steps are missing at the end.
    let rounded = ways.iter().find(|way| way.way == NaiveWay::RoundedStep).unwrap();
    assert_eq!(rounded.drift, Some(2 * 1023 - 2400));
}

#[test]
fn a_few_inputs_are_a_table() {
    let found = ask(-3, 3, 100, 160, Word::Bits16);
    assert_eq!(found.form, Form::Table(vec![100, 110, 120, 130, 140, 150, 160]));
    assert_eq!(found.error, Rational::ZERO);
}

#[test]
fn many_inputs_are_proved_by_their_ends() {
    // Thirty bits to 60000 steps in 32 bits: bits have to be dropped, and half a step is not quite met.
    let map = Map { from: 0, to: (1 << 30) - 1, first: 0, last: 60_000 };
    let found = |most: Rational| scale(MapRequest { map, word: Word::Bits32, most }).unwrap();
    let near = found(half());
    assert!(
        !near.met && near.proof == Proof::Interval && near.error < Rational::new(6, 10).unwrap(),
        "{near:?}"
    );
    assert!(found(near.error).met);
    // Twenty bits are looked at one by one.
    let fewer = ask(0, (1 << 20) - 1, 0, 1000, Word::Bits32);
    assert!(fewer.met && fewer.proof == Proof::EveryInput(1 << 20), "{fewer:?}");
}

#[test]
fn a_falling_map_never_goes_below_nought() {
    // A large error allows cheap arithmetic, but none whose last difference is negative.
    for halves in 1..20 {
        let map = Map { from: 0, to: 1023, first: 100, last: 0 };
        let most = Rational::new(halves, 2).unwrap();
        let found = scale(MapRequest { map, word: Word::Bits16, most }).unwrap();
        assert!((0..=1023).all(|x| found.form.distance(&map, x) <= 100), "{found:?}");
    }
}

#[test]
fn a_bare_shift_is_the_nearest_one() {
    let shift = |last| {
        let ways = super::naive::shortcuts(&Map { from: 0, to: 1000, first: 0, last }, Word::Bits32);
        ways.into_iter().find(|way| way.way == NaiveWay::BareShift).map(|way| (way.text, way.drift.unwrap()))
    };
    // 5.9 lies nearer to 4 than to 8, 0.3 nearer to a quarter than to a half, and 0.9 nearest to no shift.
    assert_eq!(shift(5900), Some(("x << 2".to_owned(), 4000 - 5900)));
    assert_eq!(shift(300), Some(("x >> 2".to_owned(), 250 - 300)));
    assert_eq!(shift(900), None);
}

#[test]
fn a_line_of_no_length_is_none() {
    let map = |from, to, first, last| {
        scale(MapRequest { map: Map { from, to, first, last }, word: Word::Bits32, most: half() })
    };
    assert!(map(5, 5, 0, 10).is_err() && map(6, 5, 0, 10).is_err() && map(0, 5, 7, 7).is_err());
    // 70000 is no number of 16 bits.
    let wide =
        MapRequest { map: Map { from: 0, to: 9, first: 0, last: 70_000 }, word: Word::Bits16, most: half() };
    assert!(scale(wide).is_err());
}

proptest! {
    #[test]
    fn the_proved_error_is_the_largest_there_is(
        from in -5000_i64..5000, run in 1_i64..5000, first in 0_u64..60_000, last in 0_u64..60_000, wide in any::<bool>(),
    ) {
        prop_assume!(first != last);
        let word = if wide { Word::Bits32 } else { Word::Bits16 };
        let Ok(found) = scale(MapRequest { map: Map { from, to: from + run, first, last }, word, most: half() }) else {
            return Ok(());
        };
        let map = found.request.map;
        let error = |input: i64| {
            let made = Rational::from(found.form.value(&map, input.abs_diff(from)));
            made.minus(map.exact(input).unwrap()).unwrap().magnitude()
        };
        let largest = (from..=from + run).map(error).max().unwrap();
        prop_assert_eq!(largest, found.error);
        prop_assert_eq!(found.met, largest <= half());
        prop_assert!(found.widest <= word.largest());
    }

    #[test]
    fn the_interval_holds_what_looking_at_every_input_finds(
        run in 1_u64..4000, rise in 1_u64..9000, before in 0_u32..4, shift in 0_u32..20, more in any::<bool>(),
        add in 0_u64..4000,
    ) {
        let factor = (rise << (before + shift)) / run + u64::from(more);
        let add = add % (1 << shift);
        let map = Map { from: 0, to: i64::try_from(run).unwrap(), first: 0, last: rise };
        let form = Form::Shift { whole: 0, before, factor, add, shift };
        let (least, most) = search::bounds_of(before, factor, shift, run, rise);
        let part = |parts: i128| Rational::new(parts + i128::from(add), 1 << shift).unwrap();
        for x in 0..=run {
            let made = Rational::from(form.distance(&map, x));
            let error = made.minus(Rational::new((x * rise).into(), run.into()).unwrap()).unwrap();
            prop_assert!(part(least) <= error && error <= part(most), "{x}: {error}");
        }
    }
}

/// The largest error of a shift, by every input: an oracle that knows nothing of bounds.
fn error_of(map: &Map, before: u32, factor: u64, add: u64, shift: u32) -> Rational {
    let error = |x: u64| {
        let made = (((x >> before) * factor + add) >> shift) as i128 * i128::from(map.run());
        (made - i128::from(x) * i128::from(map.rise())).unsigned_abs()
    };
    let most = (0..=map.run()).map(error).max().unwrap_or(0);
    Rational::new(most as i128, map.run().into()).unwrap()
}

#[test]
fn bits_of_the_input_are_dropped_to_fit_the_word() {
    // By hand: (x >> 5) * 17 + 50 is at most 50 steps off the line to 34 898; a constant was 34 898 off.
    let found = ask(0, 65_535, 4109, 39_007, Word::Bits16);
    let by_hand = error_of(&found.request.map, 5, 17, 50, 0);
    assert!(found.error <= by_hand && by_hand < Rational::whole(60), "{found:?} {by_hand:?}");
    let found = ask(-32_768, 32_767, 5699, 40_439, Word::Bits16);
    assert!(found.error <= error_of(&found.request.map, 7, 68, 0, 0) && !found.met, "{found:?}");
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(40))]
    #[test]
    fn what_is_found_is_near_the_best_of_all_shifts(run in 40_u64..300, rise in 1_u64..60_000) {
        let map = Map { from: 0, to: run as i64, first: 0, last: rise };
        let found = scale(MapRequest { map, word: Word::Bits16, most: Rational::new(1, 100).unwrap() }).unwrap();
        // Every shift that fits 16 bits, with every multiplier near the slope and every rounding constant of some.
        let mut best: Option<Rational> = None;
        for before in 0..5_u32 {
            for shift in 0..16_u32 {
                let slope = (u128::from(rise) << (before + shift)) / u128::from(run);
                for factor in slope.saturating_sub(1)..=slope + 2 {
                    let largest = u128::from(run >> before) * factor;
                    if factor == 0 || largest > 65_535 {
                        continue;
                    }
                    for part in 0..=8_u128 {
                        let add = ((1_u128 << shift) * part / 8).min(65_535 - largest);
                        let error = error_of(&map, before, factor as u64, add as u64, shift);
                        best = Some(best.map_or(error, |best| best.min(error)));
                    }
                }
            }
        }
        let best = best.unwrap();
        // Half a step more for rounding constants in between.
        prop_assert!(found.error <= best.plus(half()).unwrap(), "{found:?} {best:?}");
    }
}
