//! A statement of 95 % confidence has to hold the truth in about 95 of 100 captures, whatever kind of jitter there is and
//! however few cycles: made-up captures, whose truth is known, are measured and counted.
//!
//! `scripts/coverage` runs it with the 400 captures of each kind that the guide's table tells of.

// A test may panic: that is how it fails.
#![allow(clippy::unwrap_used, clippy::indexing_slicing)]

use kairotic_core::capture::{Meter, Timing};
use kairotic_core::simulation::Logic;
use rand_chacha::ChaCha8Rng;
use rand_chacha::rand_core::SeedableRng;
use rand_distr::{Distribution, Normal, Uniform};

/// Ticks of a period, of a pulse, and of its jitter.
const PERIOD: f64 = 200_000.3;
const HIGH: f64 = 15_000.6;
const JITTER: f64 = 100.0;
/// How much a drifting period changes over the capture.
const DRIFT: f64 = 1e-3;

#[derive(Debug, Clone, Copy)]
enum Kind {
    /// Each edge by itself.
    White,
    /// Each period by itself: edges walk away.
    Walk,
    /// Nothing but whole ticks, of which a period has a few hundred.
    Ticks,
    /// Long and short periods and pulses in turn.
    Alternating,
    /// A period that grows, and white jitter.
    Drifting,
}

const KINDS: [Kind; 5] = [Kind::White, Kind::Walk, Kind::Ticks, Kind::Alternating, Kind::Drifting];
const CYCLES: [usize; 8] = [3, 4, 6, 10, 20, 50, 150, 500];
const FIGURES: [&str; 4] = ["frequency", "period", "high time", "duty"];

/// One capture of a kind, measured; with the period and the high time that it was made with.
fn capture(kind: Kind, cycles: usize, seed: u64) -> (Timing, f64, f64) {
    let mut random = ChaCha8Rng::seed_from_u64(seed);
    let normal = Normal::new(0.0, JITTER).unwrap();
    let mut shake = |size: f64| size * normal.sample(&mut random);
    let (mut at, mut period, mut high) = (1000.0 * PERIOD, PERIOD, HIGH);
    if let Kind::Ticks = kind {
        let mut random = ChaCha8Rng::seed_from_u64(seed);
        let some = Uniform::new(100.0, 1000.0).unwrap();
        (at, period) = (1000.0 + some.sample(&mut random), some.sample(&mut random));
        high = period * Uniform::new(0.1, 0.9).unwrap().sample(&mut random);
    }
    let mut meter = Meter::new(0);
    meter.change(0, Logic::Low);
    let (mut all, mut highs) = (0.0, 0.0);
    for n in 0..=cycles {
        let turn = if n % 2 == 0 { 1.0 } else { -1.0 };
        let (rise, pulse, next) = match kind {
            Kind::White => (at + shake(1.0), high, period),
            Kind::Walk => (at, high + shake(0.5), period + shake(1.0)),
            Kind::Ticks => (at, high, period),
            Kind::Alternating => (at + turn * JITTER, high, period),
            Kind::Drifting => {
                let longer = 1.0 + DRIFT * n as f64 / cycles as f64;
                (at + shake(0.2), high * longer, period * longer)
            }
        };
        let fall = match kind {
            Kind::White => at + pulse + shake(1.0),
            Kind::Drifting => at + pulse + shake(0.2),
            _ => rise + pulse,
        };
        meter.change(rise.round() as u64, Logic::High);
        meter.change(fall.round() as u64, Logic::Low);
        if n < cycles {
            (all, highs) = (all + next, highs + pulse);
        }
        at += next;
    }
    // What drifts has no other truth than its mean; all else has the one that it was made with.
    let truth =
        if let Kind::Drifting = kind { (all / cycles as f64, highs / cycles as f64) } else { (period, high) };
    let timing = meter.finish().timing.unwrap();
    assert_eq!(timing.cycles, cycles as u64);
    (timing, truth.0, truth.1)
}

/// In how many of so many captures each figure's statement holds the truth.
fn covered(kind: Kind, cycles: usize, captures: u64) -> [u64; 4] {
    let mut held = [0; 4];
    for seed in 0..captures {
        let (timing, period, high) = capture(kind, cycles, seed * 1000 + cycles as u64);
        let frequency = (timing.clock.period / period - 1.0).abs() <= timing.clock.uncertainty(1).unwrap();
        let mean = (timing.period.mean() - period).abs() <= timing.period_uncertainty(1).unwrap();
        let pulse = (timing.high.mean() - high).abs() <= timing.high.uncertainty(1).unwrap();
        let duty = (timing.duty() - high / period).abs() <= timing.duty_uncertainty(1).unwrap();
        for (held, holds) in held.iter_mut().zip([frequency, mean, pulse, duty]) {
            *held += u64::from(holds);
        }
    }
    held
}

#[test]
fn a_95_percent_statement_holds_the_truth() {
    let captures = std::env::var("CAPTURES").map_or(60, |text| text.parse().unwrap());
    println!("| jitter | cycles | {} |", FIGURES.join(" | "));
    println!("|---|---|---|---|---|---|");
    for kind in KINDS {
        for cycles in CYCLES {
            let held = covered(kind, cycles, captures);
            let shares = held.map(|held| format!("{:.1} %", 100.0 * held as f64 / captures as f64));
            println!("| {kind:?} | {cycles} | {} |", shares.join(" | "));
            // Of 60 captures 52 are within the chance of a true 95 %; of 400 it is 92 in 100.
            let least = if captures < 400 { 0.86 } else { 0.92 };
            assert!(
                held.iter().all(|held| *held as f64 >= least * captures as f64),
                "{kind:?} {cycles} {held:?}"
            );
        }
    }
}

/// What is stated over what would do, in the middle and at most of twenty captures.
fn width(kind: Kind, cycles: usize, would_do: f64) -> (f64, f64) {
    let width = |seed| capture(kind, cycles, seed).0.clock.error.unwrap() / would_do;
    let mut widths: Vec<f64> = (0..20).map(width).collect();
    widths.sort_by(f64::total_cmp);
    (widths[10], widths[19])
}

#[test]
fn a_statement_is_not_much_wider_than_it_has_to_be() {
    // Whoever knew the kind of jitter could state twice the standard error: of a line, σ √(12 / n³); of a walk, σ / √n. 40 000
    // cycles are kept as blocks of 64.
    for cycles in [500, 40_000] {
        let n = cycles as f64;
        let (usual, most) = width(Kind::White, cycles, 2.0 * JITTER * (12.0 / n.powi(3)).sqrt());
        assert!((0.9..1.6).contains(&usual) && most < 4.0, "{cycles} {usual} {most}");
        let (usual, most) = width(Kind::Walk, cycles, 2.0 * JITTER / n.sqrt());
        assert!((0.9..1.2).contains(&usual) && most < 1.5, "{cycles} {usual} {most}");
    }
}

#[test]
fn blocks_of_many_edges_hold_the_truth_as_edges_do() {
    for kind in [Kind::White, Kind::Walk] {
        let held = covered(kind, 20_000, 20);
        assert!(held.iter().all(|held| *held >= 17), "{kind:?} {held:?}");
    }
}

#[test]
fn one_period_has_no_scatter() {
    let (timing, ..) = capture(Kind::White, 1, 0);
    assert_eq!(
        (timing.clock.uncertainty(1), timing.high.uncertainty(1), timing.duty_uncertainty(1)),
        (None, None, None)
    );
}
