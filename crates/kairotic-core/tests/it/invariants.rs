//! What must hold whatever the timer and the target: no number is needed to know it.

use std::collections::HashSet;

use kairotic_core::part::{Part, Timer};
use kairotic_core::quantity::{Deviation, Duty, Frequency, Rational, Tolerance};
use kairotic_core::search::{Derivation, Prefer, RankedSetting};
use kairotic_core::setting::RegisterPlan;
use kairotic_core::target::{Active, Aim, Ask, Level};
use proptest::prelude::*;
use proptest::sample::Index;

use crate::catalogue::TIMERS;
use crate::request::{Readout, Request, assigned, decode, derive, request};

/// A timer, and a target that many timers can make.
pub(crate) fn wanted() -> impl Strategy<Value = (&'static Part, &'static Timer, Request)> {
    let hertz = (1_i128..2_000_000, 1_i128..40)
        .prop_map(|(numerator, denominator)| Rational::new(numerator, denominator).unwrap());
    let duties = prop::collection::vec(0_i128..=240, 0..3);
    (any::<Index>(), 1_u32..=16, hertz, duties, prop::sample::select(vec!["100ppm", "1%", "20%"])).prop_map(
        |(timer, megahertz, hertz, duties, within)| {
            let (part, timer): &(&'static Part, Timer) = timer.get(&TIMERS);
            let mut request = request(&timer.name, &format!("{megahertz}MHz"), "1Hz", &[]);
            request.base = timer.base.as_ref().map(|base| base.name.clone());
            request.target.aim = Aim::Frequency(Frequency::new(hertz));
            request.target.asks = duties
                .into_iter()
                .map(|duty| Ask {
                    channel: None,
                    active: Active::Duty(Duty::new(Rational::new(duty, 240).unwrap())),
                    start: None,
                })
                .collect();
            request.target.within = within.parse().unwrap();
            (*part, timer, request)
        },
    )
}

fn plans(derivation: &Derivation) -> Vec<&RegisterPlan> {
    std::iter::once(&derivation.best).chain(&derivation.others).map(|choice| &choice.setting.plan).collect()
}

fn error(choice: &RankedSetting) -> Rational {
    choice.fit.frequency_error.value().magnitude()
}

proptest! {
    #[test]
    fn a_preference_keeps_its_word((part, _, request) in wanted()) {
        let preferring = |prefer| derive(part, &Request { prefer, ..request.clone() });
        let Ok(plain) = preferring(None) else { return Ok(()) };
        let fine = preferring(Some(Prefer::Fine)).unwrap().best;
        let exact = preferring(Some(Prefer::Exact)).unwrap().best;
        let round = preferring(Some(Prefer::RoundTick)).unwrap().best;
        for other in [&plain.best, &fine, &exact, &round] {
            prop_assert_eq!(plain.best.fit.within, other.fit.within);
            prop_assert!(error(&exact) <= error(other));
            if plain.best.fit.within {
                prop_assert!(fine.steps() >= other.steps());
                prop_assert!(plain.best.fit.score >= other.fit.score - 1e-9);
                let digits = |choice: &RankedSetting| choice.fit.tick_digits.unwrap_or(u32::MAX);
                prop_assert!(digits(&round) <= digits(other));
            }
        }
    }

    #[test]
    fn a_faster_clock_for_a_faster_signal_changes_no_register((part, timer, request) in wanted(), factor in 2_i64..5) {
        let scaled = |value: Rational| value.times(Rational::whole(factor)).unwrap();
        let faster = Request {
            clock: request.clock.map(|clock| Tolerance { nominal: Frequency::new(scaled(clock.nominal.value())), ..clock }),
            allow_overclock: true,
            ..request.clone()
        };
        let Aim::Frequency(frequency) = request.target.aim else { return Ok(()) };
        let mut faster = faster;
        faster.target.aim = Aim::Frequency(Frequency::new(scaled(frequency.value())));
        match (derive(part, &request), derive(part, &faster)) {
            (Ok(slow), Ok(fast)) => {
                prop_assert_eq!(&slow.best.setting.plan, &fast.best.setting.plan);
                let duties = |derivation: &Derivation| {
                    derivation.best.setting.outputs.iter().map(|output| output.duty).collect::<Vec<_>>()
                };
                prop_assert_eq!(duties(&slow), duties(&fast));
            }
            (Err(_), Err(_)) => {}
            (slow, fast) => prop_assert!(false, "{} answers {:?} and {:?}", timer.path(), slow.err(), fast.err()),
        }
    }

    #[test]
    fn a_period_is_the_frequency_s_reciprocal((part, _, request) in wanted()) {
        let Aim::Frequency(frequency) = request.target.aim else { return Ok(()) };
        let mut as_period = request.clone();
        as_period.target.aim = Aim::Period(frequency.period().unwrap());
        match (derive(part, &request), derive(part, &as_period)) {
            (Ok(one), Ok(other)) => prop_assert_eq!(plans(&one), plans(&other)),
            (one, other) => prop_assert_eq!(one.is_ok(), other.is_ok()),
        }
    }

    #[test]
    fn an_inverted_output_has_the_same_registers_but_its_polarity((part, timer, request) in wanted()) {
        let mut inverted = request.clone();
        inverted.target.level = Level::Low;
        let (Ok(high), Ok(low)) = (derive(part, &request), derive(part, &inverted)) else { return Ok(()) };
        if high.best.setting.plan.mode != low.best.setting.plan.mode {
            return Ok(());
        }
        let written = |derivation: &Derivation| derivation.best.setting.writes(timer).unwrap();
        let differing = written(&high)
            .into_iter()
            .zip(written(&low))
            .filter(|(high, low)| high.written != low.written)
            .count();
        prop_assert_eq!(differing, high.best.setting.outputs.len());
    }

    #[test]
    fn everything_within_the_tolerance_is_listed_once_and_in_order((part, _, request) in wanted()) {
        let request = Request { all: true, ..request };
        let Ok(derivation) = derive(part, &request) else { return Ok(()) };
        if !derivation.best.fit.within || derivation.others.len() > 3000 {
            return Ok(());
        }
        let choices: Vec<&RankedSetting> = std::iter::once(&derivation.best).chain(&derivation.others).collect();
        prop_assert!(choices.iter().all(|choice| choice.fit.within));
        prop_assert!(choices.windows(2).all(|pair| pair[0].fit.score >= pair[1].fit.score - 1e-9));
        let distinct: HashSet<String> = choices.iter().map(|choice| format!("{:?}", choice.setting.plan)).collect();
        prop_assert_eq!(distinct.len(), choices.len());
        // The short list is part of the long one, and has the same head.
        let short = derive(part, &Request { all: false, ..request }).unwrap();
        prop_assert_eq!(&short.best.setting.plan, &derivation.best.setting.plan);
        let listed = |plan: &&RegisterPlan| distinct.contains(&format!("{plan:?}"));
        let all_listed = plans(&short).iter().all(listed);
        prop_assert!(all_listed);
    }

    #[test]
    fn one_channel_alone_reads_as_it_does_among_others((part, timer, request) in wanted()) {
        let Ok(derivation) = derive(part, &request) else { return Ok(()) };
        let setting = &derivation.best.setting;
        for output in &setting.outputs {
            let alone = Readout {
                timer: timer.name.clone(),
                base: None,
                channel: Some(output.channel.clone()),
                clock: request.clock,
                assignments: assigned(timer, setting),
                expect: None,
                within: Deviation::ZERO,
                allow_overclock: false,
            };
            let reading = decode(part, &alone).unwrap();
            prop_assert_eq!(&reading.setting.outputs, &vec![output.clone()]);
            prop_assert_eq!(reading.setting.frequency, setting.frequency);
        }
    }
}
