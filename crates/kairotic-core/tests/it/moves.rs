//! Moves: every interval written to a counter as the firmware writes it, and the steps that come out.

use std::collections::BTreeSet;

use kairotic_core::Error;
use kairotic_core::load::{PhaseMode, StepDrive, StepRates, Stepper};
use kairotic_core::motion::{
    Course, MoveRequest, Pace, StepTimer, StepTiming, StepperMove, Travel, carried_steps,
};
use kairotic_core::part::{Part, TimerUse};
use kairotic_core::quantity::units::us;
use kairotic_core::quantity::{Angle, Rational, Time};
use kairotic_core::waveform::{Cycle, Machine, Values, Write};
use proptest::prelude::*;

use crate::catalogue::TIMERS;
use crate::request::clock;

fn stepper(gear: Rational) -> Stepper {
    Stepper {
        steps_per_turn: Rational::whole(200),
        gear,
        drive: StepDrive::StepDirection { microsteps: 1, pulse: us(7), setup: Time::ZERO, hold: Time::ZERO },
        rates: StepRates {
            start: "1500steps/s".parse().unwrap(),
            fastest: "8000steps/s".parse().unwrap(),
            acceleration: "90000steps/s2".parse().unwrap(),
            jerk: None,
        },
        travel: None,
        backlash: None,
    }
}

fn request<'p>(part: &'p Part, timer: &str, channel: Option<&str>, steps: i64) -> MoveRequest<'p> {
    let on = TimerUse { allow_overclock: true, ..TimerUse::of(part, timer).clocked(clock("1MHz")) };
    MoveRequest {
        stepper: stepper(Rational::ONE),
        course: Course::Steps(steps),
        pace: Pace::Fastest,
        timing: StepTiming::Timer(StepTimer { on, channel: channel.map(str::to_owned) }),
        most: Rational::ONE,
        cycles_per_step: None,
        moves: 1,
        microsteps: None,
    }
}

/// The cycles of a counter whose top is written anew in each: in the middle of the one before where tops are buffered, else
/// as soon as the counter has begun.
fn played(made: &StepperMove) -> Vec<Cycle> {
    let counter = made.counter.as_ref().unwrap();
    let timer = &counter.timer;
    let mode = timer.mode(&counter.setting.plan.mode).unwrap();
    let compare = counter.setting.plan.channels[0].compare.unwrap();
    let clocks = counter.setting.divider.floor() as u128;
    let intervals: Vec<u64> = made.ramp.edges().map(|edge| edge.unwrap().interval).collect();
    let values = |interval: u64| Values { top: interval - u64::from(counter.written_less), compare };
    let mut begins = 0;
    let mut writes = Vec::new();
    for pair in intervals.windows(2) {
        let half = if counter.buffered { u128::from(pair[0] / 2) } else { u128::from(pair[0]) };
        writes.push(Write {
            at: (begins + half) * clocks + u128::from(!counter.buffered),
            values: values(pair[1]),
        });
        begins += u128::from(pair[0]);
    }
    let machine = Machine::of(timer, mode, counter.setting.divider, false);
    machine.play(values(intervals[0]), &writes).cycles().take(intervals.len()).collect()
}

#[test]
fn a_counter_makes_every_interval_that_is_written_to_it() {
    let mut kinds = BTreeSet::new();
    let mut unfit = 0;
    for (part, timer) in TIMERS.iter() {
        let Some(channel) = timer.block.channels.iter().map(|channel| channel.label.as_str()).next_back()
        else {
            continue;
        };
        let made = match StepperMove::of(&request(part, &timer.name, Some(channel), 90)) {
            Ok(made) => made,
            Err(Error::NoMode { .. } | Error::StepTooLong { .. }) => {
                unfit += 1;
                continue;
            }
            Err(error) => panic!("{}: {error}", timer.path()),
        };
        let counter = made.counter.as_ref().unwrap();
        if !kinds.insert((part.name.clone(), timer.block.title.clone())) {
            continue;
        }
        let clocks = counter.setting.divider.floor() as u128;
        let cycles = played(&made);
        for (cycle, edge) in cycles.iter().zip(made.ramp.edges()) {
            let edge = edge.unwrap();
            assert_eq!(
                cycle.length,
                u128::from(edge.interval) * clocks,
                "{} step {}",
                timer.path(),
                edge.number
            );
            // Seven clocks of 1 MHz, or a tick where that is longer.
            assert!((7..7 + clocks).contains(&cycle.high), "{}: {cycle:?}", timer.path());
        }
    }
    assert!(kinds.len() > 50 && unfit > 10, "{} kinds, {unfit} unfit", kinds.len());
}

#[test]
fn the_tick_is_the_finest_that_holds_the_slowest_step() {
    // 1/1500 s less what the acceleration gains are some 640 us: of 1 MHz that is more than 255 ticks of one clock, and
    // fewer of eight.
    let made =
        StepperMove::of(&request(crate::catalogue::part("atmega328p"), "timer2", Some("b"), 90)).unwrap();
    assert_eq!(made.counter.unwrap().setting.divider, Rational::whole(8));
    let wide =
        StepperMove::of(&request(crate::catalogue::part("atmega328p"), "timer1", Some("b"), 90)).unwrap();
    assert_eq!(wide.counter.unwrap().setting.divider, Rational::ONE);
}

proptest! {
    #[test]
    fn a_rest_that_is_carried_never_grows(over in 1_i128..40_000, under in 1_i128..900, angle in 1_i64..7_200) {
        let stepper = stepper(Rational::new(over, under).unwrap());
        let angle = Angle::new(Rational::new(angle.into(), 3600).unwrap());
        let exact = |moves: u32| stepper.steps_in_turn().unwrap().times(angle.value()).unwrap().times(moves.into()).unwrap();
        let mut position = 0;
        for number in 1..=200 {
            position += carried_steps(&stepper, angle, number).unwrap();
            let off = exact(number).minus(Rational::whole(position)).unwrap().magnitude();
            prop_assert!(off <= Rational::new(1, 2).unwrap(), "after {} moves", number);
        }
        let travel = Travel::of(&stepper, Course::By(angle), 200).unwrap();
        let off = travel.repeated.unwrap().carried.times(stepper.steps_in_turn().unwrap()).unwrap();
        prop_assert_eq!(off.value(), exact(200).minus(Rational::whole(position)).unwrap());
    }
}

#[test]
fn a_thousand_moves_of_75_degrees_end_within_a_step_of_75_000() {
    let mut stepper = stepper(Rational::new(25_792, 405).unwrap());
    stepper.drive = StepDrive::FourWire { mode: PhaseMode::Full };
    let angle: Angle = "75deg".parse().unwrap();
    let made: i64 = (1..=1000).map(|number| carried_steps(&stepper, angle, number).unwrap()).sum();
    // 200 * 25792/405 steps a turn, and 75000/360 turns.
    let exact = 200.0 * 25_792.0 / 405.0 * 75_000.0 / 360.0;
    assert!((made as f64 - exact).abs() <= 0.5, "{made} of {exact}");
}
