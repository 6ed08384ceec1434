//! The oracle against patterns that were worked out on paper.

use super::{EventKind, Machine, Values, Write};
use crate::part::{Counting, OutputRule, UpdatePoint, Updates};
use crate::quantity::Rational;

fn machine(counting: Counting, output: OutputRule, update: UpdatePoint) -> Machine {
    Machine {
        counting,
        output,
        complement: false,
        inverted: false,
        counter_bits: 8,
        per_tick: 1,
        divider: Rational::ONE,
        dither: None,
        updates: Updates { top: update, compare: update },
    }
}

fn up(update: UpdatePoint) -> Machine {
    machine(Counting::Up, OutputRule::Below, update)
}

/// Length and high time of the first cycles.
fn cycles(machine: &Machine, top: u64, compare: u64, writes: &[Write], count: usize) -> Vec<(u128, u128)> {
    let cycles = machine.play(Values { top, compare }, writes).cycles();
    cycles.take(count).map(|cycle| (cycle.length, cycle.high)).collect()
}

#[test]
fn a_fraction_of_seven_sixteenths_spreads_its_long_ticks_evenly() {
    // 3 + 7/16 source clocks a tick, seen through a counter that wraps every tick.
    let machine = Machine { divider: Rational::new(55, 16).unwrap(), ..up(UpdatePoint::Bottom) };
    let lengths: Vec<u128> = cycles(&machine, 0, 0, &[], 16).into_iter().map(|(length, _)| length).collect();
    assert_eq!(lengths, [3, 3, 4, 3, 4, 3, 4, 3, 3, 4, 3, 4, 3, 4, 3, 4]);
}

#[test]
fn a_period_that_is_no_whole_number_of_clocks_alternates() {
    // 1000 ticks of 1 + 5/16 clocks are 1312.5 clocks.
    let machine =
        Machine { divider: Rational::new(21, 16).unwrap(), counter_bits: 16, ..up(UpdatePoint::Bottom) };
    let lengths: Vec<u128> = cycles(&machine, 999, 1, &[], 4).into_iter().map(|(length, _)| length).collect();
    assert_eq!(lengths, [1312, 1313, 1312, 1313]);
    // 1024 of them are 1344.
    assert!(cycles(&machine, 1023, 1, &[], 8).iter().all(|(length, _)| *length == 1344));
}

#[test]
fn a_buffered_compare_waits_for_the_period_s_end() {
    let write = [Write { at: 13, values: Values { top: 9, compare: 7 } }];
    assert_eq!(cycles(&up(UpdatePoint::Bottom), 9, 2, &write, 4), [(10, 2), (10, 2), (10, 7), (10, 7)]);
}

#[test]
fn an_unbuffered_compare_acts_in_the_running_period() {
    // At count 3 the output is low already; a compare of 7 raises it again until then.
    let write = [Write { at: 13, values: Values { top: 9, compare: 7 } }];
    assert_eq!(cycles(&up(UpdatePoint::Immediate), 9, 2, &write, 3), [(10, 2), (10, 6), (10, 7)]);
}

#[test]
fn an_unbuffered_top_below_the_counter_is_missed_once() {
    // At count 8 the top moves to 4: the counter runs to the end of its 8 bits.
    let write = [Write { at: 8, values: Values { top: 4, compare: 2 } }];
    assert_eq!(cycles(&up(UpdatePoint::Immediate), 9, 2, &write, 3), [(256, 2), (5, 2), (5, 2)]);
    assert_eq!(cycles(&up(UpdatePoint::Bottom), 9, 2, &write, 3), [(10, 2), (5, 2), (5, 2)]);
}

#[test]
fn an_update_at_the_top_changes_the_second_half_of_a_centred_pulse() {
    // 2 * 5 ticks; up half with compare 2, down half with compare 4 from the top on.
    let machine = machine(Counting::UpDown, OutputRule::BelowUpThroughDown, UpdatePoint::Both);
    let write = [Write { at: 3, values: Values { top: 5, compare: 4 } }];
    assert_eq!(cycles(&machine, 5, 2, &write, 2), [(10, 2 + 4), (10, 8)]);
}

#[test]
fn an_inverted_output_is_high_for_the_rest() {
    let machine = Machine { inverted: true, ..up(UpdatePoint::Bottom) };
    assert_eq!(cycles(&machine, 9, 3, &[], 2), [(10, 7), (10, 7)]);
}

#[test]
fn a_constant_output_has_no_edges() {
    let levels = |compare| {
        let events = up(UpdatePoint::Bottom).play(Values { top: 9, compare }, &[]).take(20);
        events.filter(|event| matches!(event.kind, EventKind::Level(_))).count()
    };
    // The first level is the start.
    assert_eq!((levels(0), levels(10)), (1, 1));
}
