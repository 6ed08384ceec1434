//! Compare values against trying all of them.

use proptest::prelude::*;

use super::*;
use crate::part::PastTop;
use crate::quantity::{Duty, Time};

/// A law with a period of `top + 1` ticks, of which so many parts are compare steps.
fn law(gain: i32, per_top: i32, plus: i32, per_tick: u32, full: ComparePoint) -> LinearLaw {
    LinearLaw {
        gain,
        per_top,
        plus,
        per_tick,
        zero: ComparePoint::Never,
        full,
        zero_at_largest_top: true,
        full_at_largest_top: true,
        min: 0,
        max: None,
        past_top: PastTop::Active,
    }
}

const fn ruler(scaled: u64, fraction_bits: u32, top: u64) -> Ruler {
    Ruler { scaled, fraction_bits, dither_bits: 0, top, ticks: top + 1 }
}

/// Laws that rise and fall with the compare value, by one and by more steps.
fn laws() -> impl Strategy<Value = LinearLaw> {
    let all = prop::sample::select(vec![
        (1, 0, 0, 1),
        (-1, 1, 1, 1),
        (1, 0, 1, 1),
        (2, 0, 0, 1),
        (-2, 2, 2, 1),
        (1, 0, 0, 4),
        (3, -1, 2, 2),
        (-1, 4, 4, 4),
    ]);
    (all, any::<bool>()).prop_map(|((gain, per_top, plus, per_tick), never)| {
        let full = if never { ComparePoint::Never } else { ComparePoint::At { per_top: 1, plus: 1 } };
        law(gain, per_top, plus, per_tick, full)
    })
}

/// Every compare value that may be written, with its active time in compare steps.
fn all(law: &LinearLaw, limit: u64, ruler: Ruler) -> Vec<(u64, i128)> {
    let whole = i128::from(ruler.ticks) * i128::from(law.per_tick);
    let allowed = |compare: &u64| law.full != ComparePoint::Never || law.gain < 0 || *compare <= ruler.top;
    let steps = (0..=limit).filter(allowed).map(|compare| (compare, law.sub_ticks(ruler.top, compare)));
    steps.filter(|(_, active)| (0..=whole).contains(active)).collect()
}

proptest! {
    #[test]
    fn what_may_be_written_is_what_is_within_a_period(law in laws(), limit in 0_u64..40, top in 1_u64..30) {
        let ruler = ruler(1, 0, top);
        let all = all(&law, limit, ruler);
        prop_assume!(!all.is_empty());
        let (low, high) = legal(&law, limit, ruler);
        let ends = (i128::from(all[0].0), i128::from(all[all.len() - 1].0));
        prop_assert_eq!((low, high), ends);
    }

    #[test]
    fn the_nearest_is_that_of_all_and_of_two_the_shorter(
        law in laws(), limit in 5_u64..40, top in 1_u64..30, share in (0_i128..60, 1_i128..40), pulse in any::<bool>(),
        scaled in 1_u64..9, fraction_bits in 0_u32..3,
    ) {
        let ruler = ruler(scaled, fraction_bits, top);
        let all = all(&law, limit, ruler);
        prop_assume!(!all.is_empty());
        let share = Rational::new(share.0.min(share.1), share.1).unwrap();
        let clocks_per_tick = Rational::new(scaled.into(), 1 << fraction_bits).unwrap();
        let per_step = clocks_per_tick.over(law.per_tick.into()).unwrap();
        let period = clocks_per_tick.times(ruler.ticks.into()).unwrap();
        let wanted_clocks = share.times(period).unwrap();
        let active = if pulse { Active::Pulse(Time::new(wanted_clocks)) } else { Active::Duty(Duty::new(share)) };
        // From a clock of 1 Hz a pulse in seconds is one in clocks.
        let wanted = Wanted::of(active, Rational::ONE).unwrap();
        let off = |steps: i128| {
            let clocks = per_step.times(Rational::new(steps, 1).unwrap()).unwrap();
            (clocks.minus(wanted_clocks).unwrap().magnitude(), clocks)
        };
        let best = all.iter().map(|(compare, steps)| (off(*steps), *compare)).min().unwrap();
        let found = nearest(&law, limit, ruler, wanted).unwrap();
        prop_assert_eq!(found.compare, best.1);
        let error = Rational::new(found.error.cast_signed(), found.error_scale.cast_signed()).unwrap();
        // Of a duty the error is that of its share, in ticks of this division.
        prop_assert_eq!(error, best.0.0);
        let steady = pulse || period.is_whole();
        prop_assert_eq!(found.exact, error.is_zero() && best.0.1.is_whole() && steady);
        prop_assert!(!error.is_zero() || may_be_exact(&law, ruler, wanted));
        // As if compare values had parts, it is met.
        let exact = exact(&law, ruler, wanted).unwrap();
        let made = Rational::new(law.gain.into(), 1).unwrap().times(exact).unwrap();
        let made = made.plus(Rational::new(law.sub_ticks(top, 0), 1).unwrap()).unwrap();
        prop_assert_eq!(made.times(per_step).unwrap(), wanted_clocks);
    }

    #[test]
    fn the_steps_of_a_span_are_those_between_its_ends(
        law in laws(), limit in 5_u64..60, top in 4_u64..50, low in 0_i128..100, more in 0_i128..100,
    ) {
        let ruler = ruler(1, 0, top);
        let duty = |percent: i128| {
            let share = Rational::new(percent.min(100), 100).unwrap();
            (share, Wanted::of(Active::Duty(Duty::new(share)), Rational::ONE).unwrap())
        };
        let ((from, low), (to, high)) = (duty(low), duty(low + more));
        let whole = Rational::from(ruler.ticks).times(law.per_tick.into()).unwrap();
        let inside = |steps: i128| {
            let share = Rational::new(steps, 1).unwrap().over(whole).unwrap();
            from <= share && share <= to
        };
        let count = all(&law, limit, ruler).iter().filter(|(_, steps)| inside(*steps)).count();
        prop_assert_eq!(span_steps(&law, limit, ruler, low, high), Some((count as u64).saturating_sub(1)));
        // What no division further on exceeds is at least that, and without a span all there are.
        let most = most_steps(&law, ruler, Some((low, high))).unwrap();
        prop_assert!(most + 1 >= count as u64, "{} {}", most, count);
        let length = to.minus(from).unwrap().times(whole).unwrap();
        let gain = Rational::whole(law.gain.unsigned_abs().into());
        prop_assert_eq!(i128::from(most), length.over(gain).unwrap().floor());
        prop_assert_eq!(i128::from(most_steps(&law, ruler, None).unwrap()), whole.over(gain).unwrap().floor());
    }

    #[test]
    fn quotients_are_rounded_down_whatever_their_signs_and_lengths(
        numerator in any::<i128>(), denominator in any::<i128>(), shift in 0_u32..127, by in 0_u32..127,
    ) {
        let (numerator, denominator) = (numerator >> shift, denominator >> by);
        prop_assume!(denominator != 0 && numerator != i128::MIN && denominator != i128::MIN);
        prop_assert_eq!(floor_over(numerator, denominator), num_integer::div_floor(numerator, denominator));
        prop_assert_eq!(is_multiple(numerator, denominator), num_integer::mod_floor(numerator, denominator) == 0);
    }

    #[test]
    fn periods_are_whole_where_their_clocks_are(ticks in 1_u64..200, scaled in 1_u64..99, fraction_bits in 0_u32..5, dither_bits in 0_u32..4) {
        let ruler = Ruler { scaled, fraction_bits, dither_bits, top: ticks, ticks };
        let clocks = Rational::new(i128::from(ticks * scaled), 1 << fraction_bits).unwrap();
        let dithered = Rational::new(ticks.into(), 1 << dither_bits).unwrap();
        prop_assert_eq!(is_whole(ruler), clocks.is_whole() && dithered.is_whole());
    }
}
