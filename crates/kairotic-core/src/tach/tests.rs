//! What a speed meter says of pulses that were made up.

use super::{SpeedMeter, TurnTiming};
use crate::simulation::Logic;

/// Short pulses that begin at these times.
fn pulses(rises: impl IntoIterator<Item = u64>) -> impl Iterator<Item = (u64, Logic)> {
    let pulse = |rise| [(rise, Logic::High), (rise + 3, Logic::Low)];
    std::iter::once((0, Logic::Low)).chain(rises.into_iter().flat_map(pulse))
}

/// Rising edges with short pulses, as something that turns.
fn turned(rises: impl IntoIterator<Item = u64>, pulses_per_turn: u32, end: u64) -> TurnTiming {
    let mut turning = SpeedMeter::new(pulses_per_turn, None, 0);
    for (at, level) in pulses(rises) {
        turning.change(at, level);
    }
    turning.finish(end)
}

#[test]
fn uneven_pulses_do_not_move_the_speed() {
    // A turn of 1000 ticks whose second pulse comes after 480.
    let found = turned((0..40).flat_map(|turn| [turn * 1000 + 100, turn * 1000 + 580]), 2, 40_000);
    assert_eq!((found.turn.ends(), found.turn.count()), (Some((1000, 1000)), 78));
    assert_eq!(found.places.iter().map(|share| (share * 100.0).round()).collect::<Vec<_>>(), [48.0, 52.0]);
    assert_eq!((found.stops.count, found.segments.len()), (0, 1));
    // 39.5 turns and the gap of 480 before the last pulse.
    assert_eq!(found.mean_turn, Some((39.0 * 1000.0 + 480.0) / 79.0 * 2.0));
}

#[test]
fn something_that_stands_is_told_and_is_in_no_figure() {
    let before = (0..20).map(|n| 50 + n * 100);
    let after = (0..20).map(|n| 9_000 + n * 200);
    let found = turned(before.chain(after), 1, 20_000);
    let stops: Vec<(u64, u64)> = found.stops.first.iter().map(|stop| (stop.at, stop.size)).collect();
    // From the last pulse to the next, and from the last of all to the end.
    assert_eq!(stops, [(1950, 9_000 - 1950), (12_800, 7_200)]);
    assert_eq!(found.turn.ends(), Some((100, 200)));
    let segments: Vec<(u64, f64)> = found.segments.iter().map(|one| (one.cycles, one.period)).collect();
    assert_eq!(segments, [(19, 100.0), (19, 200.0)]);
    assert!(turned([], 2, 100).mean_turn.is_none() && turned([7], 2, 100).mean_turn.is_none());
}

#[test]
fn a_trace_of_many_turns_keeps_their_ends() {
    let found = turned((0..50_000_u64).map(|n| n * 100 + n % 7), 1, 5_000_000);
    assert!(found.trace.len() <= 1024 && found.trace.len() > 400);
    let ends = found.trace.iter().map(|point| point.turn);
    let (least, most) =
        ends.fold((i64::MAX, 0), |(least, most), (low, high)| (least.min(low), most.max(high)));
    assert_eq!(Some((least, most)), found.turn.ends());
    assert_eq!((least, most), (94, 101));
}

#[test]
fn no_turn_goes_across_a_time_that_nobody_saw() {
    let mut turning = SpeedMeter::new(1, None, 0);
    let rises = (0..5).map(|n| 100 + n * 100).chain((0..5).map(|n| 840 + n * 100));
    for (at, level) in pulses(rises) {
        // Unknown from 600 on, until 800: from 500 to 840 nothing is known.
        if at == 840 {
            turning.change(600, Logic::Unknown);
            turning.change(800, Logic::Low);
        }
        turning.change(at, level);
    }
    let found = turning.finish(1300);
    assert_eq!((found.pulses, found.turn.count(), found.turn.ends()), (10, 8, Some((100, 100))));
}
