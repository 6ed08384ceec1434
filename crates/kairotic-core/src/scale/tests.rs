//! Maps against the exact line, input by input.

use proptest::prelude::*;

use super::*;
use crate::quantity::Rational;

fn half() -> Rational {
    Rational::new(1, 2).unwrap()
}

fn ask(from: i64, to: i64, first: u64, last: u64, word: Word) -> ScaledMap {
    scale(MapRequest { map: Map::between(from, to, (first, last)), word, most: half() }).unwrap()
}

#[test]
fn ten_bits_to_a_servo_in_words_of_16_bits_take_two_multiplications() {
    let found = ask(0, 1023, 1800, 4200, Word::BITS_16);
    assert!(found.met && found.error <= half() && found.widest <= 65_535, "{found:?}");
    // One multiplication leaves the word, two do not, and cost less than a division.
    assert!(matches!(found.form, Form::Halves { .. }), "{found:?}");
    assert_eq!(found.proof, Proof::EveryInput(1024));
    // In 32 bits a multiplication and a shift do.
    let wide = ask(0, 1023, 1800, 4200, Word::BITS_32);
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
    let found = ask(-3, 3, 100, 160, Word::BITS_16);
    assert_eq!(found.form, Form::Table(vec![100, 110, 120, 130, 140, 150, 160]));
    assert_eq!(found.error, Rational::ZERO);
}

#[test]
fn many_inputs_are_proved_by_their_ends() {
    // Thirty bits to 60000 steps in 32 bits: bits have to be dropped, and half a step is not quite met.
    let map = Map::between(0, (1 << 30) - 1, (0, 60_000));
    let found = |most: Rational| scale(MapRequest { map, word: Word::BITS_32, most }).unwrap();
    let near = found(half());
    assert!(
        !near.met && near.proof == Proof::Interval && near.error < Rational::new(6, 10).unwrap(),
        "{near:?}"
    );
    assert!(found(near.error).met);
    // Twenty bits are looked at one by one.
    let fewer = ask(0, (1 << 20) - 1, 0, 1000, Word::BITS_32);
    assert!(fewer.met && fewer.proof == Proof::EveryInput(1 << 20), "{fewer:?}");
}

#[test]
fn a_falling_map_never_goes_below_zero() {
    // A large error allows cheap arithmetic, but none whose last difference is negative.
    for halves in 1..20 {
        let map = Map::between(0, 1023, (100, 0));
        let most = Rational::new(halves, 2).unwrap();
        let found = scale(MapRequest { map, word: Word::BITS_16, most }).unwrap();
        assert!((0..=1023).all(|x| found.form.distance(&map, x) <= 100), "{found:?}");
    }
}

#[test]
fn a_bare_shift_is_the_nearest_one() {
    let shift = |last| {
        let ways = super::naive::shortcuts(&Map::between(0, 1000, (0, last)), Word::BITS_32);
        ways.into_iter().find(|way| way.way == NaiveWay::BareShift).map(|way| (way.text, way.drift.unwrap()))
    };
    // 5.9 lies nearer to 4 than to 8, 0.3 nearer to a quarter than to a half, and 0.9 nearest to no shift.
    assert_eq!(shift(5900), Some(("x << 2".to_owned(), 4000 - 5900)));
    assert_eq!(shift(300), Some(("x >> 2".to_owned(), 250 - 300)));
    assert_eq!(shift(900), None);
}

#[test]
fn shortcuts_are_those_that_differ_from_the_line() {
    let ways = |run, last, word| {
        let found = super::naive::shortcuts(&Map::between(0, run, (0, last)), word);
        found.into_iter().map(|way| (way.text, way.drift)).collect::<Vec<_>>()
    };
    let text = |text: &str, drift| (text.to_owned(), drift);
    // 700 / 255 is 2.7: 3 makes 765, 2 makes 510, and so does the nearest power of two. 255 * 700 needs 18 bits.
    assert_eq!(
        ways(255, 700, Word::BITS_32),
        [text("x * 3", Some(65)), text("x * (700 / 255)", Some(-190)), text("x << 1", Some(-190))]
    );
    assert_eq!(ways(255, 700, Word::BITS_16).last(), Some(&text("x * 700 / 255", None)));
    // Four times is four times, and zero of it is nothing that anybody would write.
    assert_eq!(ways(255, 1020, Word::BITS_32), []);
    // A fifth: a quarter makes 250 and an eighth 125; x * 0 is not written.
    assert_eq!(ways(1000, 200, Word::BITS_32), [text("x >> 2", Some(50))]);
    // 1.4 is rounded to one, which is no shift.
    assert_eq!(ways(10, 14, Word::BITS_32), [text("x", Some(-4))]);
    assert_eq!(ways(10, 16, Word::BITS_32), [text("x * 2", Some(4)), text("x * (16 / 10)", Some(-6))]);
}

#[test]
fn inputs_that_share_compare_values_are_counted_with_both_ends() {
    let says = |run, last| {
        let found = super::naive::findings(&ask(0, run, 0, last, Word::BITS_32));
        found
            .into_iter()
            .find(|finding| finding.name() == "input-wider-than-compare")
            .map(|found| found.to_string())
    };
    let wide = says(1023, 255).unwrap();
    assert!(wide.starts_with("1024 inputs share 256 compare values"), "{wide}");
    assert_eq!((says(255, 255), says(255, 1023)), (None, None));
}

#[test]
fn the_cheapest_arithmetic_that_will_do_is_taken_not_the_best() {
    // 1000 / 255 in 32 bits: a multiplication with a shift does, though a division would be nearer.
    let map = Map::between(0, 255, (0, 1000));
    let found = |most: Rational| scale(MapRequest { map, word: Word::BITS_32, most }).unwrap();
    let shift = found(half());
    assert!(matches!(shift.form, Form::Shift { whole: 0, before: 0, .. }), "{shift:?}");
    let cost = |form: &Form| match form {
        Form::Table(_) => 0,
        Form::Shift { .. } => 1,
        Form::Halves { .. } => 2,
        Form::Divide { .. } => 3,
        Form::Remainder { .. } => 4,
    };
    // With any error allowed nothing costs more, and what is allowed is not exceeded.
    for most in [1, 2, 5, 100_000] {
        let found = found(Rational::whole(most));
        assert!(cost(&found.form) <= 1 && found.met && found.error <= Rational::whole(most), "{found:?}");
    }
    // Ten bits to a servo in 16 bits: half a step takes two multiplications, what a shift is off by takes one.
    let map = Map::between(0, 1023, (1800, 4200));
    let found = |most: Rational| scale(MapRequest { map, word: Word::BITS_16, most }).unwrap();
    let mut cheap = 0;
    for halves in 1..200 {
        let most = Rational::new(halves, 2).unwrap();
        let found = found(most);
        assert!(found.met && found.error <= most, "{found:?}");
        cheap += u32::from(cost(&found.form) == 1);
    }
    assert!(cheap > 100 && cost(&found(half()).form) == 2, "{cheap}");
}

#[test]
fn a_slope_that_can_be_divided_by_in_the_word_is_never_missed() {
    let word = Word::of(8).unwrap();
    let mut met = 0;
    for (run, rise) in (1..=60_i64).flat_map(|run| (1..=60_u64).map(move |rise| (run, rise))) {
        // rise / run reduced: the largest product and half the divisor have to fit.
        let slope = Rational::new(rise.into(), run.into()).unwrap();
        let widest = i128::from(run) * slope.numerator() + slope.denominator() / 2;
        if widest > 255 {
            continue;
        }
        let found = scale(MapRequest { map: Map::between(0, run, (0, rise)), word, most: half() }).unwrap();
        assert!(found.met && found.error <= half(), "{found:?}");
        met += 1;
    }
    assert!(met > 500, "{met}");
}

#[test]
fn costs_are_counted_in_additions() {
    // A multiplication with its addition is three: a shift is those and the shift itself.
    let shift = |whole, before| Form::Shift { whole, before, factor: 5, add: 1, shift: 3 }.cost();
    assert_eq!([shift(0, 0), shift(0, 2), shift(7, 0), shift(7, 2)], [4, 5, 7, 8]);
    let halves = |whole, step| {
        Form::Halves { whole, low_bits: 4, step, high_factor: 3, low_factor: 2, add: 1, shift: 3 }.cost()
    };
    assert_eq!([halves(0, 0), halves(1, 0), halves(0, 1), halves(1, 1)], [9, 12, 12, 15]);
    let divide = |whole| Form::Divide { whole, factor: 5, add: 1, divisor: 7 }.cost();
    let remainder = |whole| Form::Remainder { whole, factor: 5, add: 1, divisor: 7 }.cost();
    assert_eq!([divide(0), divide(2), remainder(0), remainder(2)], [19, 22, 40, 43]);
    assert_eq!(Form::Table(vec![1]).cost(), 1);
}

#[test]
fn the_widest_number_is_that_of_the_steps_or_of_the_ends() {
    let product = |factor, add| Form::Shift { whole: 0, before: 0, factor, add, shift: 3 };
    // 10 · 9 + 4 is 94 on the way; 11 at the end; from 500 on the compare values are larger.
    let rising = |first, last| Map::between(0, 10, (first, last));
    assert_eq!(product(9, 4).widest(&rising(0, 11)), 94);
    assert_eq!(product(9, 4).widest(&rising(500, 511)), 511);
    // Falling, to zero at most.
    assert_eq!(product(9, 4).widest(&rising(500, 489)), 500);
    assert_eq!(product(9, 4).widest(&rising(11, 0)), 94);
    assert_eq!(product(9, 4).widest(&rising(10, 0)), u128::MAX);
    // A small slope leaves the input itself.
    assert_eq!(Form::Shift { whole: 0, before: 2, factor: 1, add: 0, shift: 0 }.widest(&rising(0, 2)), 10);
    // What comes round is largest before it does: 6 · 9 + 3 of a remainder by 7, and 10 % 7 · 9 + 3 at the end.
    let remainder = |divisor| Form::Remainder { whole: 0, factor: 9, add: 3, divisor };
    assert_eq!(remainder(7).widest(&rising(0, 13)), 57);
    // A divisor beyond the run never comes round.
    assert_eq!(remainder(11).widest(&rising(0, 9)), 93);
    assert_eq!(remainder(12).widest(&rising(0, 9)), 93);
    // Halves of two bits: 7 is 1 and 3, 10 is 2 and 2.
    let halves =
        Form::Halves { whole: 0, low_bits: 2, step: 0, high_factor: 4, low_factor: 9, add: 1, shift: 3 };
    assert_eq!(halves.widest(&rising(0, 3)), 4 + 27 + 1);
    assert_eq!(halves.distance(&rising(0, 3), 10), (8 + 18 + 1) >> 3);
}

#[test]
fn a_line_of_no_length_is_none() {
    let map = |from, to, first, last| {
        scale(MapRequest { map: Map::between(from, to, (first, last)), word: Word::BITS_32, most: half() })
    };
    assert!(map(5, 5, 0, 10).is_err() && map(6, 5, 0, 10).is_err() && map(0, 5, 7, 7).is_err());
    // 70000 is no number of 16 bits.
    let wide = MapRequest { map: Map::between(0, 9, (0, 70_000)), word: Word::BITS_16, most: half() };
    assert!(scale(wide).is_err());
}

proptest! {
    #[test]
    fn the_proved_error_is_the_largest_there_is(
        from in -5000_i64..5000, run in 1_i64..5000, first in 0_i128..60_000, last in 0_i128..60_000, wide in any::<bool>(),
        parts in 1_i128..30,
    ) {
        let end = |at: i128| Rational::new(at, parts).unwrap();
        let map = Map { from, to: from + run, first: end(first), last: end(last) };
        let word = if wide { Word::BITS_32 } else { Word::BITS_16 };
        let Ok(found) = scale(MapRequest { map, word, most: half() }) else {
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
        add in 0_u64..4000, offset in 0_i128..7,
    ) {
        let factor = (rise << (before + shift)) / run + u64::from(more);
        let add = add % (1 << shift);
        let seventh = Rational::new(offset, 7).unwrap();
        let map = Map { from: 0, to: run as i64, first: seventh, last: seventh.plus(rise.into()).unwrap() };
        let form = Form::Shift { whole: 0, before, factor, add, shift };
        let line = line::ScaleLine::of(&map, 1 << 40).unwrap();
        let (least, most) = far::Product { before, factor, shift }.bounds(&line, line.rise).unwrap();
        let part = |parts: i128| Rational::new(parts + i128::from(add), 1 << shift).unwrap();
        for x in 0..=run {
            let error = Rational::from(form.distance(&map, x)).minus(map.exact(x as i64).unwrap()).unwrap();
            prop_assert!(part(least) <= error && error <= part(most), "{x}: {error}");
        }
    }
}

/// The largest error of a shift, by every input: an oracle that knows nothing of bounds.
fn error_of(map: &Map, before: u32, factor: u64, add: u64, shift: u32) -> Rational {
    let rise = map.last.minus(map.first).unwrap();
    let error = |x: u64| {
        let made = Rational::from(((x >> before) * factor + add) >> shift);
        let exact = rise.times(x.into()).unwrap().over(map.run().into()).unwrap();
        made.minus(exact).unwrap().magnitude()
    };
    (0..=map.run()).map(error).max().unwrap()
}

#[test]
fn bits_of_the_input_are_dropped_to_fit_the_word() {
    // By hand: (x >> 5) * 17 + 50 is at most 50 steps off the line to 34 898; a constant was 34 898 off.
    let found = ask(0, 65_535, 4109, 39_007, Word::BITS_16);
    let by_hand = error_of(&found.request.map, 5, 17, 50, 0);
    assert!(found.error <= by_hand && by_hand < Rational::whole(60), "{found:?} {by_hand:?}");
    let found = ask(-32_768, 32_767, 5699, 40_439, Word::BITS_16);
    assert!(found.error <= error_of(&found.request.map, 7, 68, 0, 0) && !found.met, "{found:?}");
}

/// A map in whole numbers, by hand: distances from the base in parts of a step, of which there are `parts`.
struct Parts {
    exact: Vec<i64>,
    parts: i64,
    room: u64,
}

impl Parts {
    /// Of a map whose ends are fractions of `denominator`.
    fn of(map: &Map, denominator: i64, word: Word) -> Self {
        let parts = denominator * map.run() as i64;
        let exact = |x: i64| {
            let distance = map.exact(map.from + x).unwrap().minus(map.base().into()).unwrap().magnitude();
            i64::try_from(distance.times(Rational::whole(parts)).unwrap().numerator()).unwrap()
        };
        let room = if map.falls() { map.base() } else { word.largest() as u64 - map.base() };
        Self { exact: (0..=map.run() as i64).map(exact).collect(), parts, room }
    }

    /// The largest error of an arithmetic, where its compare values are numbers of the word.
    fn error(&self, made: impl Fn(u64) -> u64) -> Option<i64> {
        let mut most = 0;
        for (x, exact) in (0..).zip(&self.exact) {
            let made = made(x);
            if made > self.room {
                return None;
            }
            most = most.max((made as i64 * self.parts - exact).abs());
        }
        Some(most)
    }
}

/// The least error of every arithmetic of one multiplication that fits a small word, by trying.
fn best_shift(by_hand: &Parts, run: u64, wholes: &[u64], word: Word) -> Option<i64> {
    let largest = word.largest() as u64;
    let mut best: Option<i64> = None;
    for whole in wholes {
        for before in (0..16).take_while(|before| run >> before > 0) {
            for shift in 0..word.bits() {
                for factor in 1..=largest / (run >> before) {
                    for add in 0..=largest - (run >> before) * factor {
                        let found = by_hand.error(|x| x * whole + (((x >> before) * factor + add) >> shift));
                        best = [best, found].into_iter().flatten().min();
                    }
                }
            }
        }
    }
    best
}

/// The same for two multiplications with the two finest shifts, whose low factor is next to the slope.
fn best_halves(by_hand: &Parts, run: u64, slope: Rational, wholes: &[u64], word: Word) -> Option<i64> {
    let largest = word.largest() as u64;
    let mut best: Option<i64> = None;
    let floor = |value: Rational, times: u64| value.times(times.into()).unwrap().floor() as u64;
    for whole in wholes {
        let rest = slope.minus((*whole).into()).unwrap();
        for bits in (1..16).take_while(|bits| run >> bits > 0) {
            let high_rest = rest.times(Rational::whole(1 << bits)).unwrap();
            for step in [0, floor(high_rest, 1)] {
                let left = high_rest.minus(step.into()).unwrap();
                let finest = (0..word.bits()).rev().find(|shift| {
                    (run >> bits) * floor(left, 1 << shift) + ((1 << bits) - 1) * floor(rest, 1 << shift)
                        <= largest
                });
                for shift in finest.into_iter().flat_map(|finest| finest.saturating_sub(1)..=finest) {
                    let near = floor(rest, 1 << shift);
                    for low_factor in near.max(1)..=near + 1 {
                        for high_factor in 1..=largest {
                            let product =
                                |x: u64| (x >> bits) * high_factor + (x & ((1 << bits) - 1)) * low_factor;
                            let most = (0..=run).map(product).max().unwrap();
                            for add in 0..=largest.checked_sub(most).map_or(0, |room| room) {
                                let found = (most <= largest).then(|| {
                                    by_hand.error(|x| {
                                        x * whole + (x >> bits) * step + ((product(x) + add) >> shift)
                                    })
                                });
                                best = [best, found.flatten()].into_iter().flatten().min();
                            }
                            if most > largest {
                                break;
                            }
                        }
                    }
                }
            }
        }
    }
    best
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(40))]
    #[test]
    fn no_arithmetic_of_the_shapes_is_better_in_a_small_word(
        bits in 6_u32..=8, run in 3_u64..20, first in 0_i128..300, last in 0_i128..300, denominator in 1_i64..8,
    ) {
        let word = Word::of(bits).unwrap();
        let end = |at: i128| Rational::new(at, denominator.into()).unwrap();
        let map = Map { from: -1, to: run as i64 - 1, first: end(first), last: end(last) };
        prop_assume!(map.checked().is_ok() && map.ends().into_iter().max().unwrap() < 1 << (bits - 1));
        let slope = map.last.minus(map.first).unwrap().magnitude().over(run.into()).unwrap();
        let wholes = [0, slope.floor() as u64];
        let by_hand = Parts::of(&map, denominator, word);
        let shift = best_shift(&by_hand, run, &wholes, word);
        // Eight bits of two multiplications would be tried for minutes.
        let halves = if bits == 6 { best_halves(&by_hand, run, slope, &wholes, word) } else { None };
        let Some(best) = [shift, halves].into_iter().flatten().min() else { return Ok(()) };
        let parts = |error: i64| Rational::new(error.into(), by_hand.parts.into()).unwrap();
        // The least error of all is met.
        let at = |most: Rational| scale(MapRequest { map, word, most }).unwrap();
        let found = at(parts(best));
        prop_assert!(found.met && found.error <= parts(best), "{found:?} {best:?}");
        // A part less is not: by these shapes, that is.
        if best > 0 {
            let less = at(parts(best - 1));
            prop_assert_eq!(less.met, less.error < parts(best));
            let tried = matches!(less.form, Form::Shift { .. }) || (halves.is_some() && matches!(less.form, Form::Halves { .. }));
            prop_assert!(!tried || less.error == parts(best), "{less:?} {best:?}");
        }
    }
}
