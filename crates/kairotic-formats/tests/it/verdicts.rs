//! Measurements against plans: what is answered, worked out by hand.

use kairotic_core::board::{Need, Needs};
use kairotic_core::capture::{
    Answer, Cause, Comparison, Measurement, Meters, Planned, Recorder, Rehearsal, Wave, WaveRequest,
    common_clock, compare, is_called, lines, places, settle,
};
use kairotic_core::quantity::{Deviation, Rational, Time};
use kairotic_core::setting::{Derivation, derive};

use crate::catalogue::part;
use crate::request::request;

/// A signal of the clock of 96 MHz, which is stated to be within so much.
fn planned(freq: &str, signal: &str, stated: &str) -> Derivation {
    let mut request = request("tim3", "96MHz", freq, &[signal]);
    request.clock.as_mut().unwrap().deviation = stated.parse().unwrap();
    derive(part("stm32f411"), &request).unwrap()
}

fn time(text: &str) -> Time {
    text.parse().unwrap()
}

/// What a recorder with such ticks sees of it in so long.
fn seen(plan: &Derivation, length: &str, tick: &str, rehearsal: &Rehearsal) -> (Measurement, Recorder) {
    let (length, tick) = (time(length), time(tick));
    let lines = lines(&plan.timer, &plan.best.setting, "pin").unwrap();
    let request = WaveRequest { lines, length, tick, rehearsal: rehearsal.clone() };
    let mut meters = Meters::new(&[true], &[], 0);
    meters.take(&Wave::of(&request).unwrap().collect::<Vec<_>>());
    let ticks = length.value().over(tick.value()).unwrap().floor() as u64;
    let recorder = Recorder { tick: tick.value().approx(), length: ticks, interval: 1, accuracy: None };
    (meters.finish().signals.remove(0).1, recorder)
}

fn off(clock_error: &str) -> Rehearsal {
    Rehearsal { clock_error: clock_error.parse().unwrap(), ..Rehearsal::PERFECT }
}

fn held(plan: &Derivation, needs: &Needs, measured: &Measurement, recorder: &Recorder) -> Comparison {
    compare(&Planned { name: "pin", derivation: plan, needs, load: None }, measured, recorder).unwrap()
}

fn answers(comparison: &Comparison) -> Vec<(Need, Answer)> {
    comparison.held.iter().map(|held| (held.need, held.answer)).collect()
}

fn names(comparison: &Comparison) -> Vec<&str> {
    comparison.findings.iter().map(|finding| finding.name).collect()
}

#[test]
fn a_limit_is_met_missed_or_out_of_sight() {
    let plan = planned("20kHz", "12500ns", "100ppm");
    // 50 ppm fast for 100 ms, in ticks of 10 ns: 2000 periods tell the frequency to 0.2 ppm at most.
    let (measured, mut recorder) = seen(&plan, "100ms", "10ns", &off("50ppm"));
    recorder.accuracy = Some("20ppm".parse().unwrap());
    for (limit, answer) in [
        // 50 ppm, and 20 ppm by the recorder's clock.
        ("71ppm", Answer::Pass),
        ("69ppm", Answer::CannotTell),
        ("31ppm", Answer::CannotTell),
        ("29ppm", Answer::Fail),
    ] {
        let limit: Option<Deviation> = limit.parse().ok();
        let needs = Needs { frequency: limit, clock: limit, ..Needs::default() };
        let found = held(&plan, &needs, &measured, &recorder);
        assert_eq!(answers(&found), [(Need::Frequency, answer), (Need::Clock, answer)], "{limit:?}");
        assert_eq!((found.cause, names(&found)), (Cause::Clock, vec![]));
        let would = found.held[0].would.as_deref();
        // With 20 ppm a limit of less than 40 needs another recorder; else more edges would do.
        let better = limit < "40ppm".parse().ok();
        assert_eq!(would.is_some(), answer == Answer::CannotTell);
        assert!(would.is_none_or(|would| would.contains("--recorder") == better), "{would:?}");
    }
    for (limit, answer) in [
        // The pulse of 12.5 us is 0.6 ns short; each of its ends is seen up to 10 ns late, and 20 ppm of it are 0.3 ns.
        ("13ns", Answer::Pass),
        ("9ns", Answer::CannotTell),
    ] {
        let needs = Needs { pulse: limit.parse().ok(), ..Needs::default() };
        assert_eq!(answers(&held(&plan, &needs, &measured, &recorder)), [(Need::Pulse, answer)], "{limit}");
    }
    // A pulse that should be 20 ns longer.
    let other = planned("20kHz", "12520ns", "100ppm");
    let needs = Needs { pulse: "9ns".parse().ok(), ..Needs::default() };
    let found = held(&other, &needs, &measured, &recorder);
    assert_eq!(answers(&found), [(Need::Pulse, Answer::Fail)]);
    // What a picture marks: what is wanted, and 9 ns to either side.
    let allowed = found.allowed;
    assert_eq!((allowed.planned, allowed.pulse, allowed.low), (5e-5, Some(1.252e-5), false));
    assert!(allowed.pulses.is_some_and(|(low, high)| (high - low - 1.8e-8).abs() < 1e-15));
}

#[test]
fn jitter_is_answered_by_what_the_samples_can_tell() {
    let plan = planned("20kHz", "12500ns", "100ppm");
    // Edges that shake by 100 ns: 2000 periods differ by more than half a microsecond.
    let shaken = Rehearsal { jitter: time("100ns"), seed: 4, ..Rehearsal::PERFECT };
    let (measured, recorder) = seen(&plan, "100ms", "10ns", &shaken);
    let needs = |jitter: &str| Needs { jitter: jitter.parse().ok(), ..Needs::default() };
    let found = held(&plan, &needs("500ns"), &measured, &recorder);
    assert_eq!(
        (answers(&found), names(&found)),
        (vec![(Need::Jitter, Answer::Fail)], vec!["jitter-unplanned"])
    );
    assert_eq!(answers(&held(&plan, &needs("2us"), &measured, &recorder)), [(Need::Jitter, Answer::Pass)]);
    // Steady, and seen to 10 ns: up to two steps may hide.
    let (measured, recorder) = seen(&plan, "100ms", "10ns", &off("7ppm"));
    let found = held(&plan, &needs("15ns"), &measured, &recorder);
    assert_eq!(
        (answers(&found), names(&found)),
        (vec![(Need::Jitter, Answer::CannotTell)], vec!["below-the-floor"])
    );
    // Four samples in what is allowed.
    assert_eq!(found.held[0].would.as_deref(), Some("267 MHz or more samples a second"));
    assert_eq!(answers(&held(&plan, &needs("31ns"), &measured, &recorder)), [(Need::Jitter, Answer::Pass)]);
}

#[test]
fn signals_that_agree_overrule_an_explanation_of_one() {
    // 124 ticks a period: a count more would be 0.8 % slow, as the clock is.
    let plans = [
        planned("24/31MHz", "50%", "30ppm"),
        planned("20kHz", "25%", "30ppm"),
        planned("50Hz", "1500us", "30ppm"),
    ];
    let compared = |plan: &Derivation| {
        let (measured, recorder) = seen(plan, "120ms", "1ns", &off("-0.8%"));
        held(plan, &Needs::default(), &measured, &recorder)
    };
    let mut all: Vec<Comparison> = plans.iter().map(compared).collect();
    assert_eq!((all[0].cause, all[1].cause), (Cause::Registers, Cause::Clock));
    settle(&mut all).unwrap();
    for one in &all {
        assert_eq!((one.cause, names(one)), (Cause::Clock, vec!["clock-off"]));
    }
    let common = common_clock(&all).unwrap();
    assert!(common.agree && common.signals == 3);
    assert!((common.error + 0.008).abs() <= common.uncertainty && common.uncertainty < 1e-6, "{common:?}");
    // 96 MHz less 0.8 %.
    let real = common.real(plans[0].clock.nominal).unwrap();
    assert!((real.nominal.value().approx() / 95_232_000.0 - 1.0).abs() <= common.uncertainty);
    // With a clock that is as it should be, the same signal's registers are wrong.
    let slow = planned("24/31MHz", "50%", "30ppm");
    let (measured, recorder) =
        seen(&planned("96/125MHz", "50%", "30ppm"), "120ms", "1ns", &Rehearsal::PERFECT);
    let mut all = [held(&slow, &Needs::default(), &measured, &recorder), {
        let (measured, recorder) = seen(&plans[1], "120ms", "1ns", &Rehearsal::PERFECT);
        held(&plans[1], &Needs::default(), &measured, &recorder)
    }];
    settle(&mut all).unwrap();
    assert_eq!((all[0].cause, names(&all[0])), (Cause::Registers, vec!["top-off-by-one"]));
    assert_eq!(common_clock(&all).unwrap().signals, 1);
}

#[test]
fn a_pin_that_does_not_move_is_told_from_one_that_should_not() {
    let plan = planned("1kHz", "25%", "30ppm");
    let (measured, recorder) = seen(&planned("1kHz", "0%", "30ppm"), "100ms", "1us", &Rehearsal::PERFECT);
    let found = held(&plan, &Needs::default(), &measured, &recorder);
    assert_eq!(
        (found.cause, names(&found), found.is_failed()),
        (Cause::Missing, vec!["signal-missing"], true)
    );
    let still = planned("1kHz", "0%", "30ppm");
    let found = held(&still, &Needs::default(), &measured, &recorder);
    assert_eq!((found.cause, names(&found), found.is_failed()), (Cause::AsPlanned, vec![], false));
}

#[test]
fn a_clock_that_warms_up_drifts() {
    let plan = planned("1kHz", "25%", "100ppm");
    let mut meters = Meters::new(&[true], &[], 0);
    // In ticks of 1 ns a period that grows by 40 ppm over 2000 periods, evenly.
    let rise = |n: f64| 1000.0 + 1e6 * n + 1e6 * 40e-6 * n * n / 4000.0;
    for n in 0..2000_u32 {
        let at = rise(f64::from(n)).round() as u64;
        for (at, level) in [(at, true), (at + 250_000, false)] {
            let level = kairotic_core::capture::Logic::of(level);
            meters.take(&[kairotic_core::capture::Change { at, signal: 0, level }]);
        }
    }
    let recorder = Recorder { tick: 1e-9, length: 2_000_000_000, interval: 1, accuracy: None };
    let measured = meters.finish().signals.remove(0).1;
    let drift = measured.timing.as_ref().unwrap().drift(1).unwrap();
    assert!((drift + 40e-6).abs() < 1e-6, "{drift}");
    let found = held(&plan, &Needs::default(), &measured, &recorder);
    assert_eq!(names(&found), ["clock-drifts"]);
    let says = &found.findings[0].message;
    assert!(says.contains("falls by 40 ppm in 2 s") || says.contains("falls by 39.9 ppm in 2 s"), "{says}");
}

#[test]
fn captured_names_are_matched_with_planned_ones() {
    assert!(
        is_called("top.Shutter", "shutter") && is_called("D0", "d0") && !is_called("shutter2", "shutter")
    );
    let captured: Vec<String> = ["top.shutter", "D1", "D2"].map(str::to_owned).to_vec();
    let planned = ["shutter", "dome", "vent"];
    // By name; as it is said, whatever the name; not at all.
    let said = [(2, "dome".to_owned())];
    assert_eq!(places(&captured, &[0, 1, 2], &planned, &said), [Some(0), Some(2), None]);
    // What is said comes before the name.
    assert_eq!(places(&captured, &[0, 1, 2], &["shutter"], &[(1, "shutter".to_owned())]), [Some(1)]);
    // One of each belong together; several do not.
    assert_eq!(places(&captured, &[1], &["tim3"], &[]), [Some(1)]);
    assert_eq!(places(&captured, &[1, 2], &["tim3"], &[]), [None]);
}

#[test]
fn an_exact_signal_is_off_by_nothing_that_can_be_seen() {
    for (freq, signal) in [("20kHz", "25%"), ("50Hz", "1500us"), ("1/3kHz", "40%")] {
        let plan = planned(freq, signal, "50ppm");
        let (measured, recorder) = seen(&plan, "300ms", "1ns", &Rehearsal::PERFECT);
        let found = held(&plan, &Needs::default(), &measured, &recorder);
        assert_eq!((found.cause, names(&found)), (Cause::AsPlanned, vec![]), "{freq}");
        let (by_capture, _) = found.uncertainty;
        assert!(found.error.abs() <= by_capture && by_capture < 1e-6, "{freq} {} {by_capture}", found.error);
        let planned = plan.best.setting.period.value();
        let whole = Rational::whole(1_000_000_000).times(planned).unwrap().approx();
        assert!((measured.timing.unwrap().clock.period - whole).abs() < 1e-3);
    }
}
