//! What a meter says of edges that were made up.

use proptest::prelude::*;

use super::*;
use crate::simulation::Logic;

/// Changes of pulses, each given by its rising edge and its high time.
fn pulses(pulses: impl IntoIterator<Item = (u64, u64)>) -> Vec<(u64, Logic)> {
    let low = [(0, Logic::Low)];
    let both = pulses.into_iter().flat_map(|(rise, high)| [(rise, Logic::High), (rise + high, Logic::Low)]);
    low.into_iter().chain(both).collect()
}

fn measured(changes: &[(u64, Logic)], glitch: u64) -> Measurement {
    let mut meter = Meter::new(glitch);
    changes.iter().for_each(|(at, level)| meter.change(*at, *level));
    meter.finish()
}

#[test]
fn a_steady_signal_has_one_period_and_no_jitter() {
    let found = measured(&pulses((0..50).map(|n| (100 + n * 1000, 250))), 0);
    let timing = found.timing.unwrap();
    assert_eq!((found.edges, timing.cycles), (100, 49));
    assert_eq!((timing.period.ends(), timing.high.ends()), (Some((1000, 1000)), Some((250, 250))));
    assert_eq!((timing.clock.period, timing.clock.ends, timing.clock.rms), (1000.0, (0.0, 0.0), 0.0));
    assert_eq!(timing.cycle_to_cycle, Some((0, 0.0)));
    assert_eq!((found.active, found.segments.len()), (Some((100, 49_350)), 1));
}

#[test]
fn missing_and_doubled_pulses_are_told_and_left_out() {
    let mut list: Vec<(u64, u64)> = (0..40).map(|n| (n * 1000, 200)).collect();
    // The eleventh and two after the twentieth do not come; one comes between the thirty-first and the next.
    list.retain(|(rise, _)| ![10_000, 20_000, 21_000].contains(rise));
    list.push((30_600, 100));
    list.sort_unstable();
    let found = measured(&pulses(list), 0);
    let missing: Vec<(u64, u64)> = found.missing.first.iter().map(|event| (event.at, event.size)).collect();
    assert_eq!(missing, [(10_000, 1), (20_000, 2)]);
    let doubled: Vec<u64> = found.doubled.first.iter().map(|event| event.at).collect();
    assert_eq!((doubled, found.irregular.count), (vec![30_600], 0));
    let timing = found.timing.unwrap();
    // The line knows that periods went by, and no figure has theirs.
    assert_eq!((timing.period.ends(), timing.clock.period), (Some((1000, 1000)), 1000.0));
    assert_eq!(timing.clock.ends, (0.0, 0.0));
}

#[test]
fn glitches_are_no_pulses() {
    let mut changes = pulses((0..20).map(|n| (100 + n * 1000, 400)));
    // A short pulse while low, and a short gap while high.
    changes.extend([(5_800, Logic::High), (5_803, Logic::Low), (7_200, Logic::Low), (7_202, Logic::High)]);
    changes.sort_by_key(|(at, _)| *at);
    let found = measured(&changes, 10);
    let glitches: Vec<(u64, u64)> = found.glitches.first.iter().map(|event| (event.at, event.size)).collect();
    assert_eq!(glitches, [(5_800, 3), (7_200, 2)]);
    assert_eq!(found.timing.unwrap().high.ends(), Some((400, 400)));
    // Without the limit they are pulses, and put cycles out of step.
    assert!(measured(&changes, 0).doubled.count + measured(&changes, 0).irregular.count > 0);
}

#[test]
fn a_sweep_is_a_list_of_steps() {
    let steps = [(30, 100), (25, 300), (40, 305), (20, 900)];
    let mut at = 0;
    let list = steps.iter().flat_map(|(count, high)| std::iter::repeat_n(*high, *count)).map(|high| {
        at += 1000;
        (at, high)
    });
    let found = measured(&pulses(list.collect::<Vec<_>>()), 0);
    let segments: Vec<(u64, f64)> = found.segments.iter().map(|one| (one.cycles, one.high)).collect();
    // The last period has no end.
    assert_eq!(segments, [(30, 100.0), (25, 300.0), (40, 305.0), (19, 900.0)]);
}

#[test]
fn another_frequency_is_another_stretch_and_the_longest_is_told() {
    let first = (0..20).map(|n| (n * 1000, 300));
    let second = (0..100).map(|n| (20_000 + n * 400, 100));
    let found = measured(&pulses(first.chain(second)), 0);
    assert_eq!(found.timing.as_ref().unwrap().clock.period, 400.0);
    assert_eq!(found.missing.count + found.doubled.count + found.irregular.count, 0);
    let periods: Vec<f64> = found.segments.iter().map(|one| one.period).collect();
    assert_eq!(periods, [1000.0, 400.0]);
}

#[test]
fn what_is_unknown_is_no_edge() {
    let mut changes = vec![(0, Logic::Unknown), (50, Logic::Low)];
    changes.extend((0..10).flat_map(|n| [(100 + n * 100, Logic::High), (130 + n * 100, Logic::Low)]));
    changes.extend([(1_060, Logic::Unknown), (1_560, Logic::High), (1_570, Logic::Low)]);
    let found = measured(&changes, 0);
    assert_eq!((found.before, found.edges, found.unknown), (Logic::Low, 21, (1, 500)));
    assert_eq!(found.timing.unwrap().cycles, 9);
    assert!(measured(&[], 0).timing.is_none());
}

#[test]
fn pulses_within_one_tick_are_no_cycles() {
    let mut changes = vec![(0, Logic::Low)];
    changes.extend((0..20).flat_map(|_| [(5, Logic::High), (5, Logic::Low)]));
    let found = measured(&changes, 0);
    assert!(found.timing.is_none() && found.edges == 40, "{found:?}");
}

#[test]
fn a_period_of_two_and_a_half_ticks_is_known_by_its_line() {
    // 400 periods in whole ticks: 2 and 3 in turn.
    let found = measured(&pulses((0..401).map(|n| (10 + n * 5 / 2, 1))), 0);
    let timing = found.timing.unwrap();
    assert_eq!((timing.cycles, timing.period.ends(), found.irregular.count), (400, Some((2, 3)), 0));
    assert!(
        (timing.clock.period - 2.5).abs() <= timing.clock.uncertainty(1).unwrap() * 2.5,
        "{:?}",
        timing.clock
    );
}

#[test]
fn jitter_by_hand() {
    // Edges at 0, 1000, 2010, 3000, 4000, 5000: periods 1000, 1010, 990, 1000, 1000.
    let found = measured(&pulses([0, 1000, 2010, 3000, 4000, 5000].map(|rise| (100 + rise, 100))), 0);
    let timing = found.timing.unwrap();
    assert_eq!(timing.period.ends(), Some((990, 1010)));
    // Mean of squares (0 + 100 + 100 + 0 + 0) / 5.
    assert!((timing.period.deviation() - 40_f64.sqrt()).abs() < 1e-12);
    // Differences 10, 20, 10, 0: squares 100 + 400 + 100 + 0 over 4.
    assert_eq!(timing.cycle_to_cycle, Some((20, 150_f64.sqrt())));
    // x̄ = 2.5, off 0 0 10 0 0 0: slope -5/17.5 about the mean 10/6.
    let slope = -5.0 / 17.5;
    assert!((timing.clock.period - (1000.0 + slope)).abs() < 1e-9);
    let line = |x: f64| 10.0 / 6.0 + slope * (x - 2.5);
    let ends = (-line(0.0), 10.0 - line(2.0));
    // Over time: the edge at each period's end.
    let third = timing.trace[1];
    assert_eq!((third.at, third.period), (1100, (1010, 1010)));
    assert!((third.error.0 - ends.1).abs() < 1e-9 && third.error.0 == third.error.1);
    assert!((timing.clock.ends.0 - ends.0).abs() < 1e-9 && (timing.clock.ends.1 - ends.1).abs() < 1e-9);
}

#[test]
fn a_long_signal_over_time_keeps_its_ends() {
    // One edge of many thousands is late.
    let late = |n: u64| if n == 77_777 { 40 } else { 0 };
    let found = measured(&pulses((0..100_000).map(|n| (1000 + n * 1000 + late(n), 300))), 0);
    let trace = found.timing.unwrap().trace;
    assert!(trace.len() <= 1024 && trace.windows(2).all(|pair| pair[0].at < pair[1].at));
    let longest = trace.iter().map(|point| point.period.1).max();
    let latest = trace.iter().map(|point| point.error.1).fold(0.0, f64::max);
    assert_eq!((longest, trace.iter().map(|point| point.period.0).min()), (Some(1040), Some(960)));
    assert!((latest - 40.0).abs() < 0.1, "{latest}");
}

#[test]
fn a_pair_has_phase_overlap_and_dead_time() {
    let mut pair = PairMeter::default();
    // The second rises 300 after the first; they overlap by 100; then 200 and 400 with both low.
    let first = pulses((0..5).map(|n| (1000 * n, 400))).into_iter().skip(1).map(|change| (true, change));
    let second = pulses((0..5).map(|n| (1000 * n + 300, 500))).into_iter().map(|change| (false, change));
    let mut all: Vec<(bool, (u64, Logic))> = first.chain(second).collect();
    all.push((true, (0, Logic::Low)));
    all.sort_by_key(|(is_first, (at, level))| (*at, *level != Logic::Low, !is_first));
    all.into_iter().for_each(|(is_first, (at, level))| pair.change(is_first, at, level));
    let found = pair.finish();
    assert_eq!((found.delay.ends(), found.period.ends()), (Some((300, 300)), Some((1000, 1000))));
    assert_eq!((found.overlap.ends(), found.dead_after_second.ends()), (Some((100, 100)), Some((200, 200))));
    assert_eq!(found.dead_after_first.count(), 0);
}

#[test]
fn a_delay_is_to_the_first_rise_after_the_first_signal_s() {
    let mut pair = PairMeter::default();
    let low = [(true, 0, Logic::Low), (false, 0, Logic::Low)];
    // The second comes twice to one pulse of the first, and then once before the next.
    let pulse = |is_first, at| [(is_first, at, Logic::High), (is_first, at + 10, Logic::Low)];
    let pulses =
        [pulse(true, 100), pulse(false, 150), pulse(false, 190), pulse(true, 400), pulse(false, 430)];
    for (is_first, at, level) in low.into_iter().chain(pulses.concat()) {
        pair.change(is_first, at, level);
    }
    let found = pair.finish();
    assert_eq!((found.delay.count(), found.delay.ends()), (2, Some((30, 50))));
    // Both low from a fall to the other's rise: 110 to 150, 200 to 400, 410 to 430.
    assert_eq!((found.dead_after_first.ends(), found.dead_after_first.count()), (Some((20, 40)), 2));
    assert_eq!((found.dead_after_second.ends(), found.dead_after_second.count()), (Some((200, 200)), 1));
    assert_eq!((found.period.ends(), found.overlap.count()), (Some((300, 300)), 0));
    // Two that rise at once are no time apart; what the second does until the first rises again is no delay.
    let mut pair = PairMeter::default();
    let at_once = [(true, 100, Logic::High), (false, 100, Logic::High), (false, 120, Logic::Low)];
    for (is_first, at, level) in low.into_iter().chain(at_once).chain(pulse(false, 150)) {
        pair.change(is_first, at, level);
    }
    assert_eq!(pair.finish().delay.ends(), Some((0, 0)));
}

#[test]
fn a_signal_that_falls_later_leaves_no_dead_time_to_its_own_rise() {
    let mut pair = PairMeter::default();
    // Both rise together; the second falls first. No rise comes after a fall of the other alone.
    for n in 0..4 {
        let at = n * 1000;
        for (is_first, at, level) in [
            (true, at, Logic::High),
            (false, at, Logic::High),
            (false, at + 300, Logic::Low),
            (true, at + 400, Logic::Low),
        ] {
            pair.change(is_first, at, level);
        }
    }
    let found = pair.finish();
    assert_eq!(found.dead_after_second.count(), 0);
    // The second rises right after the first, which fell last before: both were low for 600 until then.
    assert_eq!(found.overlap.ends(), Some((300, 300)));
}

#[test]
fn white_noise_of_edges_has_an_allan_deviation_that_falls_with_the_span() {
    // Phase noise of ±1 in a fixed pattern: σ_y(τ) of white phase noise is √3 · rms / τ.
    let mut noise = 12_345_u64;
    let mut random = || {
        noise = noise.wrapping_mul(6_364_136_223_846_793_005).wrapping_add(1_442_695_040_888_963_407);
        (noise >> 33) % 201
    };
    let found = measured(&pulses((0..20_000).map(|n| (1000 + n * 10_000 + random(), 3000))), 0);
    let timing = found.timing.unwrap();
    // Uniform over 201 values.
    let rms = ((201.0_f64 * 201.0 - 1.0) / 12.0).sqrt();
    assert!((timing.clock.rms / rms - 1.0).abs() < 0.02, "{}", timing.clock.rms);
    for one in timing.allan.iter().take(6) {
        let wanted = 3_f64.sqrt() * rms / (one.periods as f64 * 10_000.0);
        assert!((one.deviation / wanted - 1.0).abs() < 0.2, "{one:?} {wanted}");
    }
}

proptest! {
    #[test]
    fn percentiles_lie_among_the_values(
        values in proptest::collection::vec(0_i64..2_000_000, 1..300), share in 0.01_f64..1.0,
    ) {
        let mut spread = Spread::default();
        values.iter().for_each(|value| spread.add(*value));
        let mut sorted = values.clone();
        sorted.sort_unstable();
        let place = ((share * sorted.len() as f64).ceil() as usize).max(1) - 1;
        let wanted = sorted[place] as f64;
        let room = (wanted - values[0] as f64).abs() * 0.01 + 1.0;
        prop_assert!((spread.percentile(share) - wanted).abs() <= room, "{} {}", spread.percentile(share), wanted);
        let mean = values.iter().sum::<i64>() as f64 / values.len() as f64;
        prop_assert!((spread.mean() - mean).abs() <= mean.abs() * 1e-12 + 1e-9);
        prop_assert_eq!(spread.total(), values.iter().map(|value| i128::from(*value)).sum::<i128>());
        let bins = spread.bins(7, 3);
        prop_assert_eq!(bins.iter().map(|(.., count)| count).sum::<u64>(), values.len() as u64);
        prop_assert!(bins.len() <= 7 && bins.iter().all(|(from, to, _)| (to - from) % 3.0 == 0.0), "{bins:?}");
        let (first, last) = (bins[0].0, bins[bins.len() - 1].1);
        prop_assert!(values.iter().all(|value| (first..last).contains(&(*value as f64))));
    }

    #[test]
    fn no_edges_make_a_meter_panic(
        steps in proptest::collection::vec((0_u32..64, 0_u64..5000, 0_u8..3), 0..400), glitch in 0_u64..100,
    ) {
        let mut at: u64 = 0;
        let changes: Vec<(u64, Logic)> = steps.iter().map(|(large, step, level)| {
            // Now and then a step as long as times can be.
            let step = if *large > 60 { u64::MAX / 8 } else { *step };
            at = at.saturating_add(step);
            (at, [Logic::Low, Logic::High, Logic::Unknown][usize::from(*level)])
        }).collect();
        let found = measured(&changes, glitch);
        let cycles: u64 = found.segments.iter().map(|one| one.cycles).sum();
        prop_assert!(cycles <= found.edges);
    }
}

/// Edges of a period of 1000 ticks that becomes longer by so much of itself over 5000 cycles, and shake by up to 20 ticks.
fn drifting(change: f64) -> Measurement {
    let mut state = 7_u64;
    let edges = (0..5000_u64).map(|n| {
        state = state.wrapping_mul(6_364_136_223_846_793_005).wrapping_add(1_442_695_040_888_963_407);
        let (n, shake) = (n as f64, (state >> 33) as f64 / f64::from(u32::MAX >> 1) * 40.0 - 20.0);
        ((10_000.0 + 1000.0 * n + 1000.0 * change * n * n / 10_000.0 + shake) as u64, 300)
    });
    measured(&pulses(edges), 0)
}

#[test]
fn a_slow_change_of_frequency_is_told_from_jitter() {
    for change in [0.0002, -0.0005] {
        let found = drifting(change).timing.unwrap().drift(1).unwrap();
        // A longer period is a lower frequency.
        assert!((found / -change - 1.0).abs() < 0.05, "{found}");
    }
    assert_eq!(drifting(0.0).timing.unwrap().drift(1), None);
    // In steps as coarse as the bend there is nothing to be seen.
    assert_eq!(drifting(0.0002).timing.unwrap().drift(1000), None);
}

#[test]
fn periods_that_do_not_agree_are_no_new_frequency() {
    let rises = |periods: &[u64]| {
        let mut at = 0;
        let mut list = vec![(0, 100)];
        for period in periods {
            at += period;
            list.push((at, 100));
        }
        measured(&pulses(list), 0)
    };
    // After a long steady time, periods that jump between half as long and nearly twice as long agree on nothing.
    let steady = [1000; 60];
    let jumping: Vec<u64> = steady.iter().copied().chain([550, 1850].repeat(15)).collect();
    let found = rises(&jumping);
    assert_eq!(found.segments.len(), 1, "{:?}", found.segments);
    assert!(found.irregular.count > 0, "{found:?}");
    // Within a tenth of one another they do, and are a stretch of their own.
    let stepped: Vec<u64> = steady.iter().copied().chain([1950, 2050].repeat(15)).collect();
    let found = rises(&stepped);
    assert_eq!(found.segments.len(), 2, "{:?}", found.segments);
}
