//! Requirements against what a setting has: met to the last, and missed by the least there is more.

use kairotic_core::load::{Kind, Load, Servo, drive};
use kairotic_core::quantity::{Angle, Deviation, Figure, LoadLevel, Range, Rational, Time, Tolerance};
use kairotic_core::requirement::{RequirementCheck, Verdict, check};
use kairotic_core::search::Derivation;
use kairotic_core::signal::{Need, Needs};

use crate::catalogue::part;
use crate::request::{Request, clock, derive, derived, request};

/// The one check of a derivation, from a clock of such a deviation.
fn of(derivation: &Derivation, needs: &Needs, deviation: Option<&str>) -> RequirementCheck {
    let clock = deviation.map(|text| Tolerance { deviation: text.parse().unwrap(), ..clock("100MHz") });
    let mut found = check(needs, derivation, clock, None).unwrap();
    assert_eq!(found.len(), 1, "{found:?}");
    found.remove(0)
}

fn is_met(check: &RequirementCheck) -> bool {
    check.outcome == Verdict::Met
}

fn seconds(numerator: i128, denominator: i128) -> Time {
    Time::new(Rational::new(numerator, denominator).unwrap())
}

#[test]
fn steps_are_enough_from_the_last_one_on() {
    let plan = derived("stm32f411/tim3", "100MHz", "25kHz", &["50%"]);
    let of = |steps| of(&plan, &Needs { steps: Some(steps), ..Needs::default() }, None);
    // 4000 of them.
    let (enough, missed) = (of(4000), of(4001));
    assert_eq!((enough.outcome, enough.share), (Verdict::Met, Rational::new(1, 1)));
    assert_eq!((missed.outcome, missed.share), (Verdict::Missed, Rational::new(4001, 4000)));
    assert_eq!(
        (missed.requirement, missed.limit_words().as_str(), missed.found),
        (Need::Steps, "at least 4001", Some(Figure::Count(4000)))
    );
}

#[test]
fn frequency_and_pulse_are_met_when_off_by_just_what_is_allowed() {
    // 8 MHz / 3 kHz is 2666 2/3: 2667 clocks are 125 ppm too many, so that the frequency is 1/8001 low.
    let mut asked = request("timer1", "8MHz", "3kHz", &["30%"]);
    asked.target.within = "200ppm".parse().unwrap();
    let plan = derive(part("atmega328p"), &asked).unwrap();
    let frequency = |most: Rational| Needs { frequency: Some(Deviation::new(most)), ..Needs::default() };
    let just = Rational::new(1, 8001).unwrap();
    assert_eq!(
        (of(&plan, &frequency(just), None).outcome, of(&plan, &frequency(just), None).share),
        (Verdict::Met, Some(Rational::ONE))
    );
    assert!(!is_met(&of(&plan, &frequency(Rational::new(1, 8002).unwrap()), None)));
    // 30 % of 2667 clocks is 800.1: 800 of them are a tenth of 125 ns short.
    let pulse = |most: Time| Needs { pulse: Some(most), ..Needs::default() };
    assert!(is_met(&of(&plan, &pulse(seconds(125, 10_000_000_000)), None)));
    assert!(!is_met(&of(&plan, &pulse(seconds(124, 10_000_000_000)), None)));
    // A pulse as one: 1500.4 us become 1500 us.
    let plan = derived("atmega328p/timer1", "8MHz", "50Hz", &["1500.4us"]);
    assert!(is_met(&of(&plan, &pulse("0.4us".parse().unwrap()), None)));
    let missed = of(&plan, &pulse("0.39us".parse().unwrap()), None);
    assert_eq!(
        (missed.outcome, missed.found, missed.limit_words().as_str()),
        (Verdict::Missed, Some(Figure::Time(seconds(4, 10_000_000))), "at most 390 ns")
    );
    // Where nothing is allowed nothing is used, and only what is exact will do.
    let nothing = of(&plan, &pulse(Time::ZERO), None);
    assert_eq!((nothing.outcome, nothing.share), (Verdict::Missed, None));
}

#[test]
fn a_clock_of_which_nothing_is_known_meets_nothing() {
    let plan = derived("stm32f411/tim3", "100MHz", "25kHz", &["50%"]);
    let needs = Needs { clock: "100ppm".parse().ok(), ..Needs::default() };
    let met = |deviation| is_met(&of(&plan, &needs, deviation));
    assert_eq!([met(None), met(Some("0ppm")), met(Some("1ppm"))], [false, false, true]);
    assert_eq!([met(Some("100ppm")), met(Some("101ppm"))], [true, false]);
    assert_eq!(of(&plan, &needs, None).found, None);
    assert_eq!(of(&plan, &needs, Some("50ppm")).share, Rational::new(1, 2));
}

#[test]
fn jitter_counts_the_larger_of_periods_and_pulses() {
    // The dither moves edges by a tick of 1/170 us.
    let asked = Request { dither: true, ..request("tim3", "170MHz", "44.1kHz", &["25%"]) };
    let plan = derive(part("stm32g474"), &asked).unwrap();
    let needs = |most| Needs { jitter: Some(most), ..Needs::default() };
    assert!(is_met(&of(&plan, &needs(seconds(1, 170_000_000)), None)));
    assert!(!is_met(&of(&plan, &needs(seconds(1, 170_000_001)), None)));
    // Without any, nothing is needed.
    let steady = derived("stm32f411/tim3", "100MHz", "25kHz", &["50%"]);
    assert!(is_met(&of(&steady, &needs(Time::ZERO), None)));
}

#[test]
fn a_step_is_held_in_the_load_s_unit() {
    // 400 ns of 10 us a degree.
    let span = Range { low: "900us".parse().unwrap(), high: "2100us".parse().unwrap() };
    let travel = Range { low: "0deg".parse().unwrap(), high: "120deg".parse().unwrap() };
    let kind = Kind::Servo(Servo { span, travel, dead_band: None, frame: None, slew: None });
    let load = Load { name: "shutter".into(), kind, tolerance: None };
    let plan = derived("stm32f411/tim3", "100MHz", "50Hz", &["1500us"]);
    assert_eq!(plan.best.setting.step, "400ns".parse().unwrap());
    let driven = drive(&load, &plan.best.setting, None).unwrap();
    let of = |degrees: Rational| {
        let step = Angle::new(degrees.over(Rational::whole(360)).unwrap());
        let needs = Needs { step: Some(LoadLevel::Angle(step)), ..Needs::default() };
        check(&needs, &plan, None, Some(&driven)).unwrap().remove(0)
    };
    let met = |degrees| is_met(&of(degrees));
    assert!(met(Rational::new(4, 100).unwrap()) && !met(Rational::new(39, 1000).unwrap()));
    // Without a load there is no step to hold.
    let needs = Needs { step: Some(LoadLevel::Angle("1deg".parse().unwrap())), ..Needs::default() };
    assert_eq!(check(&needs, &plan, None, None).unwrap().len(), 0);
}
