//! Microsteps by two PWM signals: each compare value against all others that the timer has.

use std::collections::BTreeSet;
use std::f64::consts::FRAC_PI_2;

use kairotic_core::motion::{MicrostepTables, Winding};
use kairotic_core::part::{CompareLaw, TimerUse};
use kairotic_core::search::DerivedSignal;
use kairotic_core::signal::SignalSpec;
use kairotic_core::target::Target;
use proptest::prelude::*;

use crate::catalogue::TIMERS;
use crate::request::clock;

fn counted(full: u32, microsteps: u32) -> MicrostepTables {
    let winding = Winding::Counts(full);
    MicrostepTables::of(microsteps, [&winding, &winding]).unwrap()
}

#[test]
fn two_counts_and_four_microsteps_by_hand() {
    let tables = counted(2, 4);
    // 2, 1.85, 1.41, 0.77, 0.
    assert_eq!(tables.first, [2, 2, 1, 1, 0, -1, -1, -2, -2, -2, -1, -1, 0, 1, 1, 2]);
    assert_eq!(tables.second, [0, 1, 1, 2, 2, 2, 1, 1, 0, -1, -1, -2, -2, -2, -1, -1]);
    assert!(tables.is_one_table());
    // The angle of (2, 1) is 26.565 degrees, where 22.5 are wanted; (1, 1) is as short as it gets, and (2, 1) as long.
    assert!((tables.off[1] - (26.565 - 22.5) / 22.5).abs() < 1e-4, "{:?}", tables.off);
    assert!((tables.largest_off() - 0.180_67).abs() < 1e-4);
    assert!(
        (tables.torque[0] - 0.5_f64.sqrt()).abs() < 1e-9 && (tables.torque[1] - 1.25_f64.sqrt()).abs() < 1e-9
    );
    assert_eq!((tables.distinct, tables.word.bits), (16, 8));
    // One count tells eight places apart, which are half steps.
    assert_eq!((counted(1, 2).distinct, counted(1, 16).distinct), (8, 8));
}

#[test]
fn a_channel_has_the_compare_values_that_are_nearest() {
    let mut kinds = BTreeSet::new();
    for (part, timer) in TIMERS.iter() {
        let Some(channel) = timer.block.channels.first() else { continue };
        let on = TimerUse { allow_overclock: true, ..TimerUse::of(part, &timer.name).clocked(clock("8MHz")) };
        let target = Target::frequency("31kHz".parse().unwrap())
            .duty("90%".parse().unwrap())
            .on_channel(&channel.label);
        let target = Target { within: "10%".parse().unwrap(), ..target };
        let Ok(signal) = DerivedSignal::of(SignalSpec::of(on, target)) else { continue };
        let Ok(winding) = Winding::of(&signal) else { continue };
        let Winding::Channel { scale, full } = winding else { panic!() };
        let Ok(tables) = MicrostepTables::of(8, [&winding, &winding]) else { panic!("{}", timer.path()) };
        let setting = &signal.derivation.best.setting;
        let CompareLaw::Linear(law) = &signal.derivation.timer.mode(&setting.plan.mode).unwrap().compare
        else {
            panic!()
        };
        let least = law.min;
        // Where the current flows the other way the value is less than zero, even if zero is the whole pulse.
        assert!(tables.first[16] < 0, "{}: {:?}", timer.path(), tables.first);
        for (step, value) in tables.first.iter().enumerate() {
            if value.unsigned_abs() == 1 && scale.active(0).unwrap().0 > scale.active(1).unwrap().0 {
                continue;
            }
            let wanted = full.value().approx() * (step as f64 / 8.0 * FRAC_PI_2).cos().abs();
            let off = |compare: u64| Some((scale.active(compare).ok()?.0.value().approx() - wanted).abs());
            let own = off(value.unsigned_abs()).unwrap();
            let nearer = (least..=setting.plan.top).filter_map(off).find(|other| *other < own - 1e-9);
            assert!(
                nearer.is_none(),
                "{} step {step}: {value} is off by {own}, another by {nearer:?}",
                timer.path()
            );
        }
        kinds.insert((part.name.clone(), timer.block.title.clone()));
    }
    assert!(kinds.len() > 40, "{kinds:?}");
}

proptest! {
    #[test]
    fn every_value_is_the_nearest_to_the_cosine(full in 1_u32..2_000_000_000, microsteps in 1_u32..=1024) {
        let tables = counted(full, microsteps);
        prop_assert_eq!(tables.first.len() as u32, 4 * microsteps);
        for (step, (first, second)) in tables.first.iter().zip(&tables.second).enumerate() {
            let angle = step as f64 / f64::from(microsteps) * FRAC_PI_2;
            // A float is off by a few parts in 10^16.
            let near = |value: i64, exact: f64| (value as f64 - exact * f64::from(full)).abs() <= 0.500_01;
            prop_assert!(near(*first, angle.cos()) && near(*second, angle.sin()), "{} {} {}", step, first, second);
            // Half of a turn later both currents are the other way round.
            let opposite = (step + 2 * microsteps as usize) % tables.first.len();
            prop_assert_eq!((tables.first[opposite], tables.second[opposite]), (-first, -second));
        }
        if microsteps % 2 == 0 {
            // At 45 degrees (2c - 1)^2 <= 2 F^2 <= (2c + 1)^2.
            let half = i128::from(tables.first[microsteps as usize / 2]);
            let twice = 2 * i128::from(full) * i128::from(full);
            prop_assert!((2 * half - 1).pow(2) <= twice && twice <= (2 * half + 1).pow(2));
        }
    }
}
