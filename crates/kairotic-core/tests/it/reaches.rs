//! What a timer cannot make, and what is said about it.

use kairotic_core::Error;
use kairotic_core::error::Unreachable;
use kairotic_core::quantity::{Frequency, Rational};

use crate::catalogue::part;
use crate::request::{Request, derive, request};

fn unreachable(place: &str, clock: &str, frequency: &str) -> Unreachable {
    let (name, timer) = place.split_once('/').unwrap();
    match derive(part(name), &request(timer, clock, frequency, &[])) {
        Err(Error::Unreachable(reason)) => *reason,
        other => panic!("{other:?}"),
    }
}

fn hertz(numerator: i128, denominator: i128) -> Frequency {
    Frequency::new(Rational::new(numerator, denominator).unwrap())
}

/// One test for each line: name, timer, clock, frequency => the nearest that can be made, the clock that would do,
/// other timers of the part.
macro_rules! out_of_reach {
    ($($name:ident: $place:literal, $clock:literal, $frequency:literal => $near:expr, $needed:expr, [$($other:literal),*];)*) => {
        $(#[test]
        fn $name() {
            let reason = unreachable($place, $clock, $frequency);
            let near = &reason.reaches[0];
            let limit = if reason.wanted < near.lowest { near.lowest } else { near.highest };
            assert_eq!((limit, reason.needed_clock), ($near, $needed));
            let others: &[&str] = &[$($other),*];
            assert_eq!(reason.other_timers, others);
            // The clock that is named does it.
            let (name, timer) = $place.split_once('/').unwrap();
            let mut request = request(timer, "1Hz", $frequency, &[]);
            request.clock.as_mut().unwrap().nominal = reason.needed_clock;
            request.allow_overclock = true;
            let found = derive(part(name), &request).unwrap();
            assert!(found.best.fit.within && found.best.fit.frequency_error.value().is_zero());
        })*
    };
}

out_of_reach! {
    // 16 MHz / (1024 * 510); 10 Hz * 1024 * 510.
    eight_bits_too_slow: "atmega328p/timer2", "16MHz", "10Hz" => hertz(16_000_000, 522_240), hertz(5_222_400, 1), ["timer1"];
    // 16 MHz / (4 * 16 * 256); 50 Hz * 16384.
    pocket_pwm_too_slow: "pic18f45k22/ccp1", "16MHz", "50Hz" => hertz(15_625, 16), hertz(819_200, 1), [];
    // 48 MHz / 16384.
    pocket_pwm_of_another: "pic18f4550/ccp2", "48MHz", "1kHz" => hertz(46_875, 16), hertz(16_384_000, 1), [];
    // 125 MHz / (255 15/16 * 131072); 3 Hz of that.
    fraction_too_slow: "rp2040/slice5", "125MHz", "3Hz" => hertz(125_000_000 * 16, 4095 * 131_072), hertz(3 * 4095 * 8192, 1), [];
    // 100 MHz / (65536 * 131070); the 32-bit timers do it.
    sixteen_bits_too_slow: "stm32f411/tim4", "100MHz", "10mHz" => hertz(100_000_000, 65_536 * 131_070), hertz(65_536 * 131_070, 100), ["tim2", "tim5"];
    // Two ticks a period at least: 72 MHz / 2.
    too_fast: "stm32f103/tim3", "72MHz", "40MHz" => hertz(36_000_000, 1), hertz(80_000_000, 1), [];
    // A smallest top of 3 makes four ticks; the other timers may have two.
    too_fast_for_a_top_of_three: "atmega328p/timer1", "16MHz", "5MHz" => hertz(4_000_000, 1), hertz(20_000_000, 1), ["timer0", "timer2"];
    // Type A: four ticks as well; halves of it, and type B, may have two.
    type_a_too_fast: "avr128db28/tca0", "20MHz", "6MHz" => hertz(5_000_000, 1), hertz(24_000_000, 1), ["tca0l", "tca0h", "tcd0", "tcb0", "tcb1", "tcb2"];
}

#[test]
fn modes_that_reach_equally_far_are_told_once() {
    let told = unreachable("atmega328p/timer2", "16MHz", "10Hz").to_string();
    assert_eq!(told.matches("30.637 Hz").count(), 1, "{told}");
    assert_eq!(told.matches("61.035 Hz").count(), 1, "{told}");
}

#[test]
fn just_outside_the_reach_but_within_the_tolerance_is_an_answer() {
    // The lowest is 976.5625 Hz; 976.5 Hz is 64 ppm below it.
    let near = request("ccp1", "16MHz", "976.5Hz", &[]);
    assert!(derive(part("pic18f45k22"), &near).unwrap().best.fit.within);
    let far = Request { ..request("ccp1", "16MHz", "970Hz", &[]) };
    assert!(matches!(derive(part("pic18f45k22"), &far), Err(Error::Unreachable(_))));
}
