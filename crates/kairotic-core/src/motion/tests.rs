//! Ramps against the same formulas in numbers with forty decimal places.

use num_bigint::{BigInt, BigUint};
use proptest::prelude::*;

use super::*;
use crate::load::StepRates;
use crate::quantity::units::{ns, us};
use crate::quantity::{Rational, StepAcceleration, StepJerk, StepRate, Time};

fn rates(start: i64, fastest: i64, acceleration: i64) -> StepRates {
    StepRates {
        start: StepRate::new(Rational::whole(start)),
        fastest: StepRate::new(Rational::whole(fastest)),
        acceleration: StepAcceleration::new(Rational::whole(acceleration)),
        jerk: None,
    }
}

fn ramp(steps: u64, rates: StepRates, tick: Time) -> StepRamp {
    StepRamp::of(&RampRequest { steps, rates, tick, most: Rational::ONE }).unwrap()
}

/// Forty decimal places.
fn scale() -> BigInt {
    BigInt::from(10).pow(40)
}

/// The square root with forty decimal places, rounded down.
fn root(square: i64) -> BigInt {
    let scaled = BigInt::from(square) * scale() * scale();
    BigUint::try_from(scaled).unwrap().sqrt().into()
}

/// When the edges of a ramp with whole rates come: as mechanics has it, in seconds with forty places.
struct Mechanics {
    start: i64,
    fastest: i64,
    acceleration: i64,
    steps: i64,
}

impl Mechanics {
    fn of(steps: u64, rates: &StepRates) -> Self {
        let [start, fastest, acceleration] =
            [rates.start.value(), rates.fastest.value(), rates.acceleration.value()]
                .map(|rate| i64::try_from(rate.floor()).unwrap());
        Self { start, fastest, acceleration, steps: steps.try_into().unwrap() }
    }

    /// The time for half as many steps from the start, before the way down.
    fn half(&self, twice: i64) -> BigInt {
        let Self { start, fastest, acceleration, .. } = *self;
        // Twice the acceleration times the way is the difference of the squared rates.
        let gained = fastest * fastest - start * start;
        if acceleration * twice <= gained {
            return (root(start * start + acceleration * twice) - BigInt::from(start) * scale())
                / acceleration;
        }
        let up = BigInt::from(fastest - start) * scale() / acceleration;
        up + BigInt::from(acceleration * twice - gained) * scale() / (2 * acceleration) / fastest
    }

    /// How far an edge is off at a tick, in 10^-40 s: the second half is the first, turned round.
    fn off(&self, edge: u64, ticks: u64, tick: Time) -> BigInt {
        let twice = 2 * i64::try_from(edge).unwrap();
        let time = match twice <= self.steps {
            true => self.half(twice),
            false => self.half(self.steps) * 2 - self.half(2 * self.steps - twice),
        };
        let off = in_places(tick, Rational::from(ticks)) - time;
        if off < BigInt::from(0) { -off } else { off }
    }
}

/// So many ticks, in 10^-40 s.
fn in_places(tick: Time, ticks: Rational) -> BigInt {
    let (tick, ticks) = (tick.value(), ticks);
    BigInt::from(tick.numerator()) * BigInt::from(ticks.numerator()) * scale()
        / BigInt::from(tick.denominator())
        / BigInt::from(ticks.denominator())
}

/// What forty places may be off after a few operations.
fn places_lost() -> BigInt {
    BigInt::from(10).pow(10)
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(10_000))]
    #[test]
    fn no_edge_is_further_than_half_a_tick_from_mechanics(
        steps in 1_u64..3_000,
        (start, more) in (0_i64..2_000, 0_i64..40_000),
        acceleration in 1_i64..200_000,
        tick in 20_u32..20_000,
        places in prop::collection::vec(0.0..1.0, 4),
    ) {
        let rates = rates(start, (start + more).max(1), acceleration);
        // What is proved of the ways takes longer than the edges do: that is another test.
        let ideal = ideal::Ideal::of(steps, &rates, ns(tick)).unwrap();
        let mechanics = Mechanics::of(steps, &rates);
        let half = in_places(ns(tick), Rational::new(1, 2).unwrap()) + places_lost();
        for edge in places.iter().map(|place: &f64| 1 + (place * (steps - 1) as f64) as u64).chain([steps]) {
            let found = ideal.nearest(ideal.floor(edge).unwrap());
            prop_assert!(mechanics.off(edge, found, ns(tick)) <= half, "edge {} of {}", edge, steps);
        }
    }
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(100))]
    #[test]
    fn every_way_ends_right_and_is_off_by_no_more_than_it_says(
        steps in 1_u64..300,
        (start, more) in (0_i64..500, 0_i64..20_000),
        acceleration in 1_i64..200_000,
        tick in 100_u32..20_000,
        most in 1_i64..20,
    ) {
        let rates = rates(start, (start + more).max(1), acceleration);
        let most = Rational::new(most.into(), 2).unwrap();
        let ramp = StepRamp::of(&RampRequest { steps, rates, tick: ns(tick), most }).unwrap();
        let mechanics = Mechanics::of(steps, &rates);
        for way in &ramp.ways {
            let intervals: Vec<u64> = way.walk.intervals().collect();
            prop_assert_eq!(intervals.len() as u64, steps);
            prop_assert_eq!(intervals.iter().sum::<u64>(), way.ticks);
            let mut at = 0;
            let mut worst = BigInt::from(0);
            for (edge, interval) in (1..).zip(&intervals) {
                at += interval;
                worst = worst.max(mechanics.off(edge, at, ns(tick)));
            }
            let said = way.deviation.ticks;
            prop_assert!(worst <= in_places(ns(tick), said) + places_lost(), "{:?}", way);
            // What is said is not more than a unit of the coarsest grid too much.
            let less = said.minus(Rational::new(1, 4).unwrap()).unwrap();
            prop_assert!(worst + places_lost() >= in_places(ns(tick), less), "{:?}", way.deviation);
        }
        let listed = ramp.ways.iter().find(|way| matches!(way.walk, Walk::Listed { .. })).unwrap();
        let nearest: Vec<u64> = ramp.edges().map(|edge| edge.unwrap().interval).collect();
        prop_assert_eq!(listed.walk.intervals().collect::<Vec<_>>(), nearest);
    }

    #[test]
    fn an_s_curve_moves_all_steps_within_its_limits(
        steps in 1_u64..3_000,
        (start, more) in (0_i64..500, 1_i64..20_000),
        acceleration in 100_i64..200_000,
        jerk in 1_000_i64..5_000_000,
    ) {
        let jerk = Some(StepJerk::new(Rational::whole(jerk)));
        let rates = StepRates { jerk, ..rates(start, start + more, acceleration) };
        let ramp = ramp(steps, rates, us(1));
        let times: Vec<u64> = ramp.edges().map(|edge| edge.unwrap().tick).collect();
        prop_assert_eq!(times.len() as u64, steps);
        prop_assert!(times.is_sorted());
        let end = *times.last().unwrap();
        // The way back is the way there: edge n comes as long before the end as edge N - n after the start.
        for (edge, tick) in times.iter().enumerate().take(times.len() - 1) {
            let mirrored = end - times[times.len() - 2 - edge];
            prop_assert!(tick.abs_diff(mirrored) <= 1, "edge {}", edge);
        }
        // No rate over two neighbouring steps is above the fastest, but for the rounding of its edges.
        let fastest = (start + more) as f64;
        for pair in times.windows(2) {
            let interval = (pair[1] - pair[0]) as f64 + 1.0;
            prop_assert!(1e6 / interval <= fastest * 1.000_001, "{:?}", pair);
        }
        prop_assert!(ramp.top_rate.value() <= fastest);
    }
}

#[test]
fn the_first_intervals_from_rest_are_those_of_roots() {
    // sqrt(2 n / 1000) s: 44721.36, 63245.55, 77459.67, 89442.72 us.
    let ramp = ramp(400, rates(0, 2_000, 1_000), us(1));
    let first: Vec<u64> = ramp.edges().take(4).map(|edge| edge.unwrap().interval).collect();
    assert_eq!(first, [44_721, 18_525, 14_214, 11_983]);
    assert_eq!((ramp.shape, ramp.climb), (RampShape::Triangle, 200));
}

#[test]
fn a_trapezoid_takes_as_long_as_mechanics_says() {
    // 400 steps/s at 1000 steps/s2: 0.4 s and 80 steps up, the same down, 240 steps at 400 steps/s.
    let ramp = ramp(400, rates(0, 400, 1_000), us(1));
    assert_eq!((ramp.shape, ramp.climb), (RampShape::Trapezoid, 80));
    assert_eq!(ramp.edges().last().unwrap().unwrap().tick, 1_400_000);
    assert!(ramp.met && ramp.nearest.ticks <= Rational::new(513, 1024).unwrap());
}

#[test]
fn an_s_curve_by_hand() {
    // Jerk 1000 steps/s3 and acceleration 100 steps/s2 reach 40 steps/s in 0.1 + 0.3 + 0.1 s, over 10 steps; 80 steps at 40
    // steps/s lie between.
    let jerk = Some("1000steps/s3".parse().unwrap());
    let ramp = ramp(100, StepRates { jerk, ..rates(0, 40, 100) }, us(1));
    assert_eq!((ramp.shape, ramp.climb), (RampShape::SCurve, 10));
    let edges: Vec<u64> = ramp.edges().map(|edge| edge.unwrap().tick).collect();
    assert_eq!((edges[9], edges[89], edges[99]), (500_000, 2_500_000, 3_000_000));
    // 1/6 step after 0.1 s at 5 steps/s; half an acceleration of 100 steps/s2 makes the rest of the first step.
    let later = (-5.0 + f64::sqrt(25.0 + 200.0 * 5.0 / 6.0)) / 100.0;
    assert_eq!(edges[0], ((0.1 + later) * 1e6).round() as u64);
}

#[test]
fn a_way_too_short_for_an_s_curve_is_made_at_the_start_rate() {
    // At the start rate three steps take 3 ms, and a jerk of 1 step/s3 gains nothing in that time.
    let jerk = Some("1steps/s3".parse().unwrap());
    let ramp = ramp(3, StepRates { jerk, ..rates(1_000, 4_000, 10_000) }, us(1));
    let edges: Vec<u64> = ramp.edges().map(|edge| edge.unwrap().tick).collect();
    assert_eq!(edges, [1_000, 2_000, 3_000]);
    assert!((ramp.top_rate.value() - 1_000.0).abs() < 0.01, "{:?}", ramp.top_rate);
}

#[test]
fn shortcuts_come_to_what_a_loop_of_them_does() {
    let ramp = ramp(400, rates(0, 2_000, 1_000), us(1));
    let late: Vec<f64> = ramp.naive.iter().map(|naive| naive.late.value().approx()).collect();
    let ideal = 2.0 * f64::sqrt(0.4);
    // Every step after 500 us; and every interval of the roots rounded to a microsecond, which is a tick here.
    assert!((late[0] - (0.2 - ideal)).abs() < 2e-6, "{late:?}");
    let time = |n: f64| {
        if n <= 200.0 { f64::sqrt(2.0 * n / 1e3) } else { ideal - f64::sqrt(2.0 * (400.0 - n) / 1e3) }
    };
    let rounded: f64 = (1..=400).map(|n| ((time(f64::from(n)) - time(f64::from(n - 1))) * 1e6).round()).sum();
    assert!((late[1] - (rounded / 1e6 - ideal)).abs() < 2e-6, "{late:?} {rounded}");
    // Up for 200 steps and down again: c -= 2c / (4n + 1) and its inverse.
    let (mut interval, mut up) = (0.676 * 1e6 * f64::sqrt(2e-3), Vec::new());
    for n in 1..=200 {
        up.push(interval.floor());
        interval -= 2.0 * interval / (4.0 * f64::from(n) + 1.0);
    }
    let all: f64 = up.iter().sum::<f64>() * 2.0 / 1e6;
    assert!((late[2] - (all - ideal)).abs() < 2e-4, "{late:?} {all}");
}
