//! What is allowed is allowed to the last: limits from both sides, where one more or one less makes the difference.

use kairotic_core::Error;
use kairotic_core::quantity::{Deviation, Frequency, Rational, Tolerance};
use kairotic_core::search::{Derivation, Prefer, RankedSetting};

use crate::catalogue::{PARTS, part};
use crate::request::{Readout, Request, decode, derive, derived, readout, request};

fn names(derivation: &Derivation) -> Vec<&str> {
    derivation
        .findings
        .iter()
        .map(|finding| finding.name())
        .filter(|name| *name != "catalogue-unsure")
        .collect()
}

/// A number so many parts of a billion larger.
fn raised(value: Rational, parts: i128) -> Rational {
    value.times(Rational::new(1_000_000_000 + parts, 1_000_000_000).unwrap()).unwrap()
}

#[test]
fn the_highest_clock_is_legal_and_the_next_is_not() {
    let mut held = 0;
    for part in PARTS.iter() {
        for instance in &part.timers {
            let timer = part.timer(&instance.name, None).unwrap();
            let at = |clock: Rational| {
                let nominal = Frequency::new(clock);
                let clock = Some(Tolerance { nominal, deviation: Deviation::ZERO });
                derive(part, &Request { clock, ..request(&instance.name, "1MHz", "1kHz", &[]) })
            };
            let most = timer.clock.maximum.value();
            assert!(!matches!(at(most), Err(Error::ClockTooFast { .. })), "{}", timer.path());
            let above = at(raised(most, 1));
            assert!(matches!(above, Err(Error::ClockTooFast { .. })), "{}: {above:?}", timer.path());
            let allowed = Request {
                clock: Some(Tolerance {
                    nominal: Frequency::new(raised(most, 1)),
                    deviation: Deviation::ZERO,
                }),
                allow_overclock: true,
                ..request(&instance.name, "1MHz", "1kHz", &[])
            };
            assert!(!matches!(derive(part, &allowed), Err(Error::ClockTooFast { .. })), "{}", timer.path());
            held += 1;
        }
    }
    assert!(held > 200, "{held}");
}

#[test]
fn a_tolerance_holds_what_is_off_by_just_that_much() {
    // 100 MHz / 44.1 kHz is 2267.57 ticks: 2268 of them are 187.5 ppm too slow.
    let off = Rational::new(100_000_000, 2268 * 44_100).unwrap().minus(Rational::ONE).unwrap().magnitude();
    let within = |allowed: Rational| {
        let mut asked = request("tim3", "100MHz", "44.1kHz", &[]);
        asked.target.within = Deviation::new(allowed);
        derive(part("stm32f411"), &Request { prefer: Some(Prefer::Exact), ..asked }).unwrap()
    };
    let fits = within(off);
    assert!(fits.best.fit.within && !names(&fits).contains(&"outside-tolerance"), "{:?}", fits.best.fit);
    assert_eq!(fits.best.fit.frequency_error.value().magnitude(), off);
    let misses = within(raised(off, -1));
    assert!(
        !misses.best.fit.within && names(&misses).contains(&"outside-tolerance"),
        "{:?}",
        misses.findings
    );
}

#[test]
fn a_pulse_of_half_a_step_is_rounded_and_a_shorter_one_is_told() {
    // A step of 62.5 ns.
    let told = |pulse: &str| {
        names(&derived("atmega328p/timer1", "16MHz", "1kHz", &[pulse])).contains(&"pulse-under-half-step")
    };
    assert!(told("31.24ns") && !told("31.25ns") && !told("0ns") && told("0.001ns"));
}

#[test]
fn as_many_signals_as_channels_and_no_more() {
    let ask = |signals: &[&str]| derive(part("stm32f411"), &request("tim3", "100MHz", "1kHz", signals));
    assert_eq!(ask(&["10%", "20%", "30%", "40%"]).unwrap().best.setting.outputs.len(), 4);
    let refused = ask(&["10%", "20%", "30%", "40%", "50%"]).unwrap_err();
    assert!(matches!(refused, Error::TooFewChannels { asked: 5, free: 4, .. }), "{refused:?}");
    // One channel is the top of that mode: it leaves one fewer.
    let timer2 = |signals: &[&str]| derive(part("atmega328p"), &request("timer2", "16MHz", "1kHz", signals));
    assert!(timer2(&["10%", "20%"]).is_ok());
    assert!(matches!(timer2(&["1%", "2%", "3%"]), Err(Error::TooFewChannels { asked: 3, free: 2, .. })));
}

#[test]
fn as_many_steps_as_were_asked_for_are_enough() {
    // 100 MHz / 50 Hz are 2 000 000 clocks: 32 times 62 500, the longest period of whole ticks that 16 bits hold.
    let with = |least: u64| {
        let mut asked = request("tim3", "100MHz", "50Hz", &[]);
        asked.target.min_steps = least;
        derive(part("stm32f411"), &asked).unwrap()
    };
    let steps = with(0).best.steps();
    assert_eq!(steps, 62_500);
    assert!(!names(&with(62_500)).contains(&"too-few-steps"));
    let more = with(62_501);
    // A setting that is further off has more, or it is told that there are too few.
    assert!(more.best.steps() >= 62_501 || names(&more).contains(&"too-few-steps"), "{:?}", more.best);
}

#[test]
fn other_settings_say_what_they_are_better_at() {
    let derivation = derived("stm32f411/tim3", "100MHz", "44.1kHz", &["33%"]);
    let Derivation { best, others, .. } = &derivation;
    assert!(!others.is_empty());
    let off = |choice: &RankedSetting| choice.fit.frequency_error.value().magnitude();
    for other in others {
        let nearer = off(other) < off(best) || (other.fit.frequency_exact && !best.fit.frequency_exact);
        for (better, word) in [
            (other.steps() > best.steps(), "more steps"),
            (nearer, "nearer frequency"),
            (other.signals_exact() && !best.signals_exact(), "exact signals"),
        ] {
            assert_eq!(other.better.contains(&word), better, "{word}: {other:?}");
        }
    }
}

#[test]
fn registers_from_a_clock_that_is_too_fast_are_refused() {
    let asked = |clock: &str| readout("timer1", clock, "TCCR1A=0x82 TCCR1B=0x1a ICR1=39999 OCR1A=2999");
    let part = part("atmega328p");
    assert!(decode(part, &asked("20MHz")).is_ok());
    assert!(matches!(decode(part, &asked("20.000001MHz")), Err(Error::ClockTooFast { .. })));
    assert!(decode(part, &Readout { allow_overclock: true, ..asked("24MHz") }).is_ok());
}
