//! What a choice says of itself, and of what it is held against: worked out by hand.

use kairotic_core::accuracy::{BenchMeasurement, MeasuredQuantity};
use kairotic_core::decode::{ChangeVerdict, PropertyChange, port};
use kairotic_core::load::{Kind, Load, Motor, Wiring, drive};
use kairotic_core::quantity::{Deviation, Duty, Frequency, LoadLevel, Rational};
use kairotic_core::search::{Prefer, SearchOptions};
use kairotic_core::signal::{Conditions, Needs};
use kairotic_core::target::{Active, Aim};

use crate::catalogue::part;
use crate::request::{
    Planned, Readout, Request, clock, decoded, derive, derived, measured, readout, request,
};

/// What changes from a fast PWM of 50 Hz in 40 000 ticks of 500 ns to one of 50 000 ticks of 400 ns.
fn ported(before: &str, after: &str) -> Vec<PropertyChange> {
    let stated = |text: &str, deviation: &str| {
        let deviation: Deviation = deviation.parse().unwrap();
        Some(kairotic_core::quantity::Tolerance { deviation, ..clock(text) })
    };
    let registers = "TCCR1A=0x82 TCCR1B=0x1a ICR1=39999 OCR1A=2999";
    let request = Readout { clock: stated("16MHz", before), ..readout("timer1", "16MHz", registers) };
    let before = request.on(part("atmega328p"));
    let after = Request { clock: stated("100MHz", after), ..self::request("tim3", "100MHz", "1Hz", &[]) }
        .spec(part("stm32f411"));
    port(&before, &after.on, &after.target, SearchOptions::default()).unwrap().1
}

#[test]
fn what_changes_from_one_timer_to_another_is_told_row_by_row() {
    let all = ported("0%", "0%");
    let rows: Vec<(&str, &str, &str, ChangeVerdict)> = all
        .iter()
        .map(|one| (one.what.as_str(), one.before.as_str(), one.after.as_str(), one.verdict))
        .collect();
    // The pulse of the one timer can be zero and its steps are 400 ns; the other leaves a spike of one of 500 ns.
    let expected = [
        ("frequency", "50 Hz", "50 Hz", ChangeVerdict::Same),
        ("pulse a → 1", "1.5 ms", "1.5 ms", ChangeVerdict::Same),
        ("duty a → 1", "7.5 %", "7.5 %", ChangeVerdict::Same),
        ("resolution", "40000 steps", "50000 steps", ChangeVerdict::Better),
        ("step", "500 ns", "400 ns", ChangeVerdict::Better),
        ("lowest duty", "0.0025 %", "0 %", ChangeVerdict::Better),
        ("highest duty", "100 %", "100 %", ChangeVerdict::Same),
        ("jitter", "none", "none", ChangeVerdict::Same),
    ];
    assert_eq!(rows[..expected.len()], expected);
    let updates: Vec<(&str, ChangeVerdict)> =
        rows[expected.len()..].iter().map(|(what, .., verdict)| (*what, *verdict)).collect();
    // ICR1 has no buffer; ARR has one.
    assert_eq!(updates, [("a new period", ChangeVerdict::Better), ("a new pulse", ChangeVerdict::Same)]);
}

#[test]
fn clocks_are_held_against_one_another_where_both_are_stated() {
    let row = |before: &str, after: &str| ported(before, after).into_iter().find(|one| one.what == "clock");
    assert_eq!((row("0%", "1%"), row("1%", "0%")), (None, None));
    let better = row("1%", "100ppm").unwrap();
    assert_eq!(
        (better.before.as_str(), better.after.as_str(), better.verdict),
        ("± 1 %", "± 100 ppm", ChangeVerdict::Better)
    );
    assert_eq!(row("100ppm", "1%").unwrap().verdict, ChangeVerdict::Worse);
}

#[test]
fn a_clock_that_is_measured_too_fast_is_counted_with_all_the_same() {
    // Planned at the most that the timer may have; what it really has is no choice any more.
    let derive = request("tim3", "100MHz", "50Hz", &["1500us"]);
    let request = Planned { derive, conditions: Conditions::default(), needs: Needs::default(), load: None };
    let fast = BenchMeasurement {
        measured: MeasuredQuantity::Frequency("50.5Hz".parse().unwrap()),
        uncertainty: "1ppm".parse().unwrap(),
    };
    let real = measured(part("stm32f411"), &request, &fast).unwrap();
    assert_eq!((real.clock, real.error), ("101MHz".parse().unwrap(), "1%".parse().unwrap()));
    // Of 2 020 000 clocks 151 500 are active: by 50 both are whole, and by nothing smaller that leaves 16 bits.
    assert_eq!((real.after.best.setting.ticks, real.after.best.setting.plan.top), (40_400, 40_399));
}

#[test]
fn of_exact_tops_on_either_side_the_nearer_one_is_taken() {
    // Half of an odd number of ticks is none. The nearest to 20 001.3, 20 001.2 and 20 000.7 is 20 001 each time; of the even
    // ones 20 002 is 0.7 and 0.8 from the first two, and 20 000 is 0.7 from the last.
    let ticks = |tenths: i128| {
        let mut asked = request("tim3", "100MHz", "1Hz", &["50%"]);
        let hertz = Rational::new(1_000_000_000, tenths).unwrap();
        asked.target.aim = Aim::Frequency(Frequency::new(hertz));
        let best = derive(part("stm32f411"), &asked).unwrap().best;
        assert!(best.signals_exact() && best.setting.divider == Rational::ONE, "{best:?}");
        best.setting.ticks
    };
    assert_eq!([ticks(200_013), ticks(200_012), ticks(200_007)], [20_002, 20_002, 20_000]);
}

#[test]
fn a_tick_has_digits_where_it_is_whole_nanoseconds() {
    let digits = |clock: &str, freq: &str| derived("stm32f411/tim3", clock, freq, &[]).best.fit.tick_digits;
    // Divided by 32 for 62 500 steps a tick is 320 ns; 10 ns have one digit, and 96 MHz / 1 are 10.41666 ns.
    assert_eq!([digits("100MHz", "50Hz"), digits("100MHz", "25kHz")], [Some(2), Some(1)]);
    assert_eq!(digits("96MHz", "20kHz"), None);
    // 31.25 MHz: 32 ns.
    assert_eq!(digits("31.25MHz", "10kHz"), Some(2));
    let round = Request { prefer: Some(Prefer::RoundTick), ..request("tim3", "96MHz", "50Hz", &[]) };
    let found = derive(part("stm32f411"), &round).unwrap();
    // 96 MHz / 48 is 500 ns, / 96 1 us, / 480 5 us: one digit each, of which the first has the most steps.
    assert_eq!((found.best.setting.tick, found.best.fit.tick_digits), ("500ns".parse().unwrap(), Some(1)));
}

#[test]
fn what_cannot_be_reached_says_what_would_reach_it() {
    let findings = |freq: &str, signal: &str| derived("atmega328p/timer1", "16MHz", freq, &[signal]).findings;
    let spike = findings("1kHz", "0%");
    let found = spike.iter().find(|finding| finding.name() == "spike-at-zero").unwrap();
    // A tick of 62.5 ns in 16 000.
    assert!(found.to_string().contains("0.00625 %, a spike of 62.5 ns"), "{}", found.to_string());
    let off = "disconnect the output from the timer and hold the pin at its level";
    // Counting up and down makes half as many steps, and a pulse of none.
    assert_eq!(found.remedy(), format!("mode phase-frequency-icr reaches 0 %; or {off}"));
}

#[test]
fn a_score_is_bits_and_what_is_exact() {
    // 50 000 steps, and a point each for a frequency, a signal and a mode that are as wished.
    let fit = derived("stm32f411/tim3", "100MHz", "50Hz", &["7.5%"]).best.fit;
    assert!((fit.score - (50_000_f64.log2() + 2.0)).abs() < 1e-12, "{}", fit.score);
    // 100 MHz / 2049 Hz is no whole number: the signal alone is exact.
    let fit = derived("stm32f411/tim3", "100MHz", "2049Hz", &["90%"]).best.fit;
    assert!((fit.score - (48_800_f64.log2() + 1.0)).abs() < 1e-12, "{}", fit.score);
    assert_eq!(
        fit.frequency_error.value().is_positive(),
        Rational::new(100_000_000, 48_800).unwrap() > Rational::whole(2049)
    );
}

#[test]
fn a_register_may_hold_where_a_pulse_ends() {
    // 25 MHz / 31 in 4096 ticks: from 3072 to 1024 of the next period are 2048, from 1024 to 3072 as many.
    let ticks = |on: u64, off: u64| {
        let registers =
            format!("PRE_SCALE=30 LED0_ON.COUNT={on} LED0_ON.FULL=0 LED0_OFF.COUNT={off} LED0_OFF.FULL=0");
        decoded("pca9685/pwm/led0", "25MHz", &registers).setting.outputs[0].ticks
    };
    assert_eq!([ticks(3072, 1024), ticks(1024, 3072)], [Rational::whole(2048); 2]);
    assert_eq!([ticks(0, 1), ticks(4095, 0), ticks(4000, 4095)], [1, 1, 95].map(Rational::whole));
    // And it is written so: half of the period from three quarters on ends at 1024 of the next one.
    let mut asked = request("pwm", "25MHz", "200Hz", &["led0=50%"]);
    asked.target.within = "2%".parse().unwrap();
    asked.target.asks[0].start = Some(Active::Duty("75%".parse().unwrap()));
    let found = derive(part("pca9685"), &asked).unwrap();
    let writes = found.best.setting.writes(&found.timer).unwrap();
    let written = |name: &str| {
        writes.iter().find(|write| write.name() == name).and_then(|write| write.written.number())
    };
    assert_eq!((written("LED0_ON.COUNT"), written("LED0_OFF.COUNT")), (Some(3072), Some(1024)));
}

#[test]
fn a_motor_turns_the_way_that_was_asked() {
    let motor = Motor {
        supply: "24V".parse().unwrap(),
        rated: "24V".parse().unwrap(),
        start: "0%".parse().unwrap(),
        full: None,
        wiring: Wiring::TwoLines,
        quiet: None,
        pause: None,
        kick: None,
        turning: Default::default(),
    };
    let load = Load { name: "dome".into(), kind: Kind::Motor(motor), tolerance: None };
    let setting = derived("stm32f411/tim3", "100MHz", "20kHz", &["25%"]).best.setting;
    let share = |percent: i128| LoadLevel::Share(Duty::new(Rational::new(percent, 100).unwrap()));
    let driven = |asked: Option<LoadLevel>| drive(&load, &setting, asked).unwrap();
    // A quarter of 24 V either way; the pulse alone says nothing of the direction.
    let (forward, backward) = (driven(Some(share(25))), driven(Some(share(-25))));
    assert_eq!((&forward.outputs, &backward.outputs), (&vec![share(25)], &vec![share(-25)]));
    assert_eq!((driven(None).outputs, driven(Some(share(0))).outputs), (vec![share(25)], vec![share(25)]));
    assert_eq!(forward.average.unwrap().value().magnitude(), Rational::whole(6));
    assert_ne!(forward.lines, backward.lines);
}

#[test]
fn a_tolerance_beyond_all_numbers_is_only_wide() {
    // From a clock of 1 Hz a period of a second is one clock: no longer period is out of such a tolerance.
    for name in ["stm32f411/tim3", "lpc1768/pwm1", "atmega328p/timer1"] {
        let (part_name, timer) = name.split_once('/').unwrap();
        let mut asked = request(timer, "1Hz", "1Hz", &["0%"]);
        asked.target.within = Deviation::new(Rational::new(i128::MAX, 1).unwrap());
        let best = derive(part(part_name), &asked).unwrap().best;
        assert!(best.fit.within, "{name}: {best:?}");
    }
}
