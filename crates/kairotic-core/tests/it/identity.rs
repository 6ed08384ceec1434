//! decode(derive(x)) is x, for every timer of every family.

use kairotic_core::part::{Part, Timer};
use kairotic_core::quantity::{Duty, Frequency, Rational, Time};
use kairotic_core::target::{Active, Aim, Ask, Level};
use proptest::prelude::*;
use proptest::sample::Index;

use crate::catalogue::{TIMERS, dice};
use crate::request::{derive, read_back, request};

proptest! {
    #[test]
    fn decode_gives_back_what_derive_wrote(
        timer in any::<Index>(),
        clock in 1_000_000_u32..=20_000_000,
        // From a tenth of a hertz to a megahertz, evenly over the decades.
        hertz in (-1.0..6.0_f64).prop_map(|exponent| Rational::new((10_f64.powf(exponent) * 1000.0) as i128, 1000).unwrap()),
        duties in prop::collection::vec(0_u32..=1000, 0..4),
        half in any::<bool>(),
        low in any::<bool>(),
        dead_ns in prop::option::of(0_i64..60_000),
        start in prop::option::of(0_u32..=1000),
    ) {
        let (part, timer) = timer.get(&TIMERS);
        // A square wave reaches the toggling modes too.
        let share = |thousandth: u32| Rational::new(if half { 500 } else { thousandth.into() }, 1000).unwrap();
        let asks = duties
            .iter()
            .map(|duty| Ask { channel: None, active: Active::Duty(Duty::new(share(*duty))), start: None })
            .collect();
        let mut request = request(&timer.name, &format!("{clock}Hz"), "1Hz", &[]);
        request.base = timer.base.as_ref().map(|base| base.name.clone());
        request.target.aim = Aim::Frequency(Frequency::new(hertz));
        request.target.asks = asks;
        request.target.level = if low { Level::Low } else { Level::High };
        let dead_time = dead_ns.map(|ns| Time::new(Rational::new(ns.into(), 1_000_000_000).unwrap()));
        request.target.dead_time = dead_time.filter(|_| timer.dead_time.is_some());
        let starts = timer.block.modes.iter().any(|mode| mode.start.is_some());
        if let (Some(start), Some(ask), true) = (start, request.target.asks.first_mut(), starts) {
            ask.start = Some(Active::Duty(Duty::new(share(start))));
        }
        // Out of reach, or too few channels: nothing to give back.
        if let Ok(derivation) = derive(part, &request) {
            for choice in std::iter::once(&derivation.best).chain(&derivation.others) {
                let reading = read_back(part, &derivation.timer, &choice.setting);
                prop_assert_eq!(reading.map(|reading| reading.setting), Ok(choice.setting.clone()));
            }
        }
    }

    #[test]
    fn decode_gives_back_every_legal_setting(dice in dice()) {
        let (part, timer, setting) = dice.setting(u64::MAX);
        let reading = read_back(part, timer, &setting);
        prop_assert_eq!(reading.map(|reading| reading.setting), Ok(setting));
    }
}

#[test]
fn every_timer_of_the_catalogue_is_reached() {
    // The property above is worth little if most of its cases were out of reach.
    let makes_five_kilohertz = |(part, timer): &&(&Part, Timer)| {
        let mut request = request(&timer.name, "16MHz", "5kHz", &[]);
        request.base = timer.base.as_ref().map(|base| base.name.clone());
        request.target.within = "10%".parse().unwrap();
        derive(part, &request).is_ok()
    };
    let reached = TIMERS.iter().filter(makes_five_kilohertz).count();
    // Some run over their whole width only, or have a clock of their own.
    assert!(reached * 20 >= TIMERS.len() * 19, "{reached} of {}", TIMERS.len());
}
