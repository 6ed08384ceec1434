//! Measurements against plans: what is answered, worked out by hand.

use kairotic_core::capture::{
    CaptureCheck, Captured, Cause, Comparison, FittedClock, Measurement, Meters, Recorder, check_capture,
    is_called,
};
use kairotic_core::finding::Remedy;
use kairotic_core::load::{Curve, Kind, Lamp, Load};
use kairotic_core::part::TimerUse;
use kairotic_core::quantity::{Deviation, Figure, LoadLevel, Rational, Time};
use kairotic_core::requirement::Verdict;
use kairotic_core::search::Derivation;
use kairotic_core::signal::{Need, Needs, SignalSpec};
use kairotic_core::simulation::{FaultInjection, Wave, WaveRequest, lines};

use crate::catalogue::part;
use crate::request::{derive, request};

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
fn seen(plan: &Derivation, length: &str, tick: &str, rehearsal: &FaultInjection) -> (Measurement, Recorder) {
    let (length, tick) = (time(length), time(tick));
    let lines = lines(&plan.timer, &plan.best.setting, "pin").unwrap();
    let request = WaveRequest { lines, length, tick, rehearsal: rehearsal.clone() };
    let mut meters = Meters::new(&[true], &[], 0);
    meters.take(&Wave::of(&request).unwrap().collect::<Vec<_>>());
    let ticks = length.value().over(tick.value()).unwrap().floor() as u64;
    let recorder = Recorder { tick: tick.value().approx(), length: ticks, interval: 1, accuracy: None };
    (meters.finish().signals.remove(0).1, recorder)
}

fn off(clock_error: &str) -> FaultInjection {
    FaultInjection { clock_error: clock_error.parse().unwrap(), ..FaultInjection::PERFECT }
}

/// What was derived, as it was planned under a name.
fn spec(name: &str, plan: &Derivation, needs: &Needs, load: Option<&Load>) -> SignalSpec<'static> {
    let on = TimerUse::of(part(&plan.timer.part), &plan.timer.name).clocked(plan.clock);
    let of = SignalSpec::of(on, plan.target.clone());
    SignalSpec { name: name.to_owned(), needs: needs.clone(), load: load.cloned(), ..of }
}

fn held(plan: &Derivation, needs: &Needs, measured: &Measurement, recorder: &Recorder) -> Comparison {
    alone(spec("pin", plan, needs, None), measured, recorder)
}

fn alone(spec: SignalSpec<'_>, measured: &Measurement, recorder: &Recorder) -> Comparison {
    let (names, measured) = (["pin".to_owned()], [(0, measured.clone())]);
    let seen = Captured { names: &names, measured: &measured, recorder };
    check_capture(vec![spec], &[], seen, false).unwrap().comparisons.remove(0).1
}

/// Signals of one capture against their plans, with nothing required of them.
fn together(all: &[(&Derivation, (Measurement, Recorder))]) -> (Vec<Comparison>, Option<FittedClock>) {
    let names: Vec<String> = (0..all.len()).map(|place| format!("pin{place}")).collect();
    let plan = names.iter().zip(all).map(|(name, (plan, _))| spec(name, plan, &Needs::default(), None));
    let measured: Vec<(u32, Measurement)> =
        (0..).zip(all).map(|(place, (_, (measured, _)))| (place, measured.clone())).collect();
    let seen = Captured { names: &names, measured: &measured, recorder: &all[0].1.1 };
    let CaptureCheck { comparisons, clock, .. } = check_capture(plan.collect(), &[], seen, true).unwrap();
    (comparisons.into_iter().map(|(_, comparison)| comparison).collect(), clock)
}

/// The answers to what is required.
fn answers(comparison: &Comparison) -> Vec<(Need, Verdict)> {
    comparison
        .checks
        .iter()
        .filter(|held| !held.implied)
        .map(|held| (held.requirement, held.outcome))
        .collect()
}

/// The answers to what nobody required, but the plan says.
fn by_the_plan(comparison: &Comparison) -> Vec<(Need, Verdict)> {
    comparison
        .checks
        .iter()
        .filter(|held| held.implied)
        .map(|held| (held.requirement, held.outcome))
        .collect()
}

fn names(comparison: &Comparison) -> Vec<&str> {
    comparison.findings.iter().map(|finding| finding.name()).collect()
}

#[test]
fn a_limit_is_met_missed_or_out_of_sight() {
    let plan = planned("20kHz", "12500ns", "100ppm");
    // 50 ppm fast for 100 ms, in ticks of 10 ns: 2000 periods tell the frequency to 0.2 ppm at most.
    let (measured, mut recorder) = seen(&plan, "100ms", "10ns", &off("50ppm"));
    recorder.accuracy = Some("20ppm".parse().unwrap());
    for (limit, answer) in [
        // 50 ppm, and 20 ppm by the recorder's clock.
        ("71ppm", Verdict::Met),
        ("69ppm", Verdict::CannotTell),
        ("31ppm", Verdict::CannotTell),
        ("29ppm", Verdict::Missed),
    ] {
        let limit: Option<Deviation> = limit.parse().ok();
        let needs = Needs { frequency: limit, clock: limit, ..Needs::default() };
        let found = held(&plan, &needs, &measured, &recorder);
        assert_eq!(answers(&found), [(Need::Frequency, answer), (Need::Clock, answer)], "{limit:?}");
        assert_eq!((found.cause, names(&found)), (Cause::Clock, vec![]));
        let would = found.checks[0].would_tell.as_ref();
        // With 20 ppm a limit of less than 40 needs another recorder; else more edges would do.
        let better = limit < "40ppm".parse().ok();
        assert_eq!(would.is_some(), answer == Verdict::CannotTell);
        assert!(would.is_none_or(|would| (*would == Remedy::BetterRecorder) == better), "{would:?}");
    }
    for (limit, answer) in [
        // The pulse of 12.5 us is 0.6 ns short; each of its ends is seen up to 10 ns late, and 20 ppm of it are 0.3 ns.
        ("13ns", Verdict::Met),
        ("9ns", Verdict::CannotTell),
    ] {
        let needs = Needs { pulse: limit.parse().ok(), ..Needs::default() };
        assert_eq!(answers(&held(&plan, &needs, &measured, &recorder)), [(Need::Pulse, answer)], "{limit}");
    }
    // A pulse that should be 20 ns longer.
    let other = planned("20kHz", "12520ns", "100ppm");
    let needs = Needs { pulse: "9ns".parse().ok(), ..Needs::default() };
    let found = held(&other, &needs, &measured, &recorder);
    assert_eq!(answers(&found), [(Need::Pulse, Verdict::Missed)]);
    // What a picture marks: what is wanted, and 9 ns to either side.
    let allowed = found.allowed;
    assert_eq!((allowed.planned, allowed.pulse, allowed.low), (5e-5, Some(1.252e-5), false));
    assert!(allowed.pulses.is_some_and(|(low, high)| (high - low - 1.8e-8).abs() < 1e-15));
}

#[test]
fn jitter_is_answered_by_what_the_samples_can_tell() {
    let plan = planned("20kHz", "12500ns", "100ppm");
    // Edges that shake by 100 ns: 2000 periods differ by more than half a microsecond.
    let shaken = FaultInjection { jitter: time("100ns"), seed: 4, ..FaultInjection::PERFECT };
    let (measured, recorder) = seen(&plan, "100ms", "10ns", &shaken);
    let needs = |jitter: &str| Needs { jitter: jitter.parse().ok(), ..Needs::default() };
    let found = held(&plan, &needs("500ns"), &measured, &recorder);
    assert_eq!(
        (answers(&found), names(&found)),
        (vec![(Need::Jitter, Verdict::Missed)], vec!["jitter-unplanned"])
    );
    assert_eq!(answers(&held(&plan, &needs("2us"), &measured, &recorder)), [(Need::Jitter, Verdict::Met)]);
    // Steady, and seen to 10 ns: up to two steps may hide.
    let (measured, recorder) = seen(&plan, "100ms", "10ns", &off("7ppm"));
    let found = held(&plan, &needs("15ns"), &measured, &recorder);
    assert_eq!(
        (answers(&found), names(&found)),
        (vec![(Need::Jitter, Verdict::CannotTell)], vec!["below-the-floor"])
    );
    // Four samples in what is allowed.
    let jitter = found.checks.iter().find(|held| held.requirement == Need::Jitter).unwrap();
    let would = jitter.would_tell.as_ref().map(ToString::to_string);
    assert_eq!(would.as_deref(), Some("267 MHz or more samples a second"));
    assert_eq!(answers(&held(&plan, &needs("31ns"), &measured, &recorder)), [(Need::Jitter, Verdict::Met)]);
}

#[test]
fn signals_that_agree_overrule_an_explanation_of_one() {
    // 124 ticks a period: a count more would be 0.8 % slow, as the clock is.
    let plans = [
        planned("24/31MHz", "50%", "30ppm"),
        planned("20kHz", "25%", "30ppm"),
        planned("50Hz", "1500us", "30ppm"),
    ];
    let slow = |plan: &Derivation| seen(plan, "120ms", "1ns", &off("-0.8%"));
    let alone = held(&plans[0], &Needs::default(), &slow(&plans[0]).0, &slow(&plans[0]).1);
    assert_eq!((alone.cause, names(&alone)), (Cause::Registers, vec!["top-off-by-one"]));
    let (all, clock) = together(&plans.each_ref().map(|plan| (plan, slow(plan))));
    for one in &all {
        assert_eq!((one.cause, names(one)), (Cause::Clock, vec!["clock-off"]));
    }
    let FittedClock { common, derived } = clock.unwrap();
    assert_eq!(derived.len(), 3);
    assert!(common.agree && common.signals == 3);
    assert!((common.error + 0.008).abs() <= common.uncertainty && common.uncertainty < 1e-6, "{common:?}");
    // 96 MHz less 0.8 %.
    let real = common.real(plans[0].clock.nominal).unwrap();
    assert!((real.nominal.value().approx() / 95_232_000.0 - 1.0).abs() <= common.uncertainty);
    // With a clock that is as it should be, the same signal's registers are wrong.
    let longer = planned("96/125MHz", "50%", "30ppm");
    let perfect = |plan: &Derivation| seen(plan, "120ms", "1ns", &FaultInjection::PERFECT);
    let (all, clock) = together(&[(&plans[0], perfect(&longer)), (&plans[1], perfect(&plans[1]))]);
    assert_eq!((all[0].cause, names(&all[0])), (Cause::Registers, vec!["top-off-by-one"]));
    assert_eq!((all[1].cause, clock.unwrap().common.signals), (Cause::AsPlanned, 1));
}

#[test]
fn a_count_is_told_from_a_crystal_that_is_a_little_off() {
    // 3840 ticks a period: a count more is 260 ppm slow, which a crystal of ±30 ppm is not, wherever in that it is.
    let (plan, made) = (planned("25kHz", "25%", "30ppm"), planned("96/3841MHz", "25%", "30ppm"));
    for error in ["0ppm", "12ppm", "-29ppm"] {
        let (measured, recorder) = seen(&made, "100ms", "1ns", &off(error));
        let found = held(&plan, &Needs::default(), &measured, &recorder);
        assert_eq!((found.cause, names(&found)), (Cause::Registers, vec!["top-off-by-one"]), "{error}");
        assert!(found.is_failed());
    }
    // 300 ppm is neither.
    let (measured, recorder) = seen(&plan, "100ms", "1ns", &off("-300ppm"));
    let found = held(&plan, &Needs::default(), &measured, &recorder);
    assert_eq!((found.cause, names(&found)), (Cause::Clock, vec!["clock-off"]));
}

#[test]
fn what_several_things_explain_is_a_warning_with_what_would_tell() {
    // 64000 ticks a period: a count is 15.6 ppm, and the crystal may be 30 ppm off.
    let plan = planned("50Hz", "1500us", "30ppm");
    assert_eq!(plan.best.setting.ticks, 64_000);
    let (measured, recorder) = seen(&plan, "2s", "1ns", &off("-15ppm"));
    let found = held(&plan, &Needs::default(), &measured, &recorder);
    assert_eq!((found.cause, names(&found)), (Cause::Undecided, vec!["cause-undecided"]));
    assert!(!found.is_failed(), "{found:?}");
    let (says, would) = (&found.findings[0].to_string(), &found.findings[0].remedy());
    assert!(says.contains("-15 ppm off") && says.contains("ARR=64000 in place of ARR=63999"), "{says}");
    assert!(would.contains("another signal of the same clock"), "{would}");
    // Another signal of that clock, of 4800 ticks, tells.
    let other = planned("20kHz", "25%", "30ppm");
    let slow = |plan: &Derivation| seen(plan, "2s", "1ns", &off("-15ppm"));
    let (all, _) = together(&[(&plan, slow(&plan)), (&other, slow(&other))]);
    for one in &all {
        assert_eq!((one.cause, names(one), one.is_failed()), (Cause::Clock, vec![], false));
    }
    // And it tells that the count is wrong, where the clock is right: 64001 ticks make 15.6 ppm.
    let made = planned("3200000/64001Hz", "25%", "30ppm");
    let (all, _) = together(&[
        (&plan, seen(&made, "2s", "1ns", &FaultInjection::PERFECT)),
        (&other, seen(&other, "2s", "1ns", &FaultInjection::PERFECT)),
    ]);
    assert_eq!((all[0].cause, names(&all[0])), (Cause::Registers, vec!["top-off-by-one"]));
    assert_eq!((all[1].cause, names(&all[1])), (Cause::AsPlanned, vec![]));
    // A recorder that is half as far off as a count hides it as well: 4800 ticks, of which one is 208 ppm.
    let (measured, mut recorder) = seen(&other, "100ms", "1ns", &off("-120ppm"));
    recorder.accuracy = Some("100ppm".parse().unwrap());
    let found = held(&other, &Needs::default(), &measured, &recorder);
    assert!(found.findings[0].remedy().contains("recorder with a better clock"), "{found:?}");
    // So do few edges, where what they leave open is more than the tolerance: some difference between none and a count.
    let remedies: Vec<String> = (40..200)
        .step_by(8)
        .filter_map(|ppm| {
            let (measured, recorder) = seen(&other, "40ms", "1us", &off(&format!("-{ppm}ppm")));
            let mut found = held(&other, &Needs::default(), &measured, &recorder);
            (found.cause == Cause::Undecided).then(|| found.findings.remove(0).remedy())
        })
        .collect();
    assert!(
        !remedies.is_empty() && remedies.iter().all(|remedy| remedy.contains("a longer capture")),
        "{remedies:?}"
    );
    // A difference that cannot be seen needs no explanation.
    let (measured, recorder) = seen(&other, "10ms", "1us", &FaultInjection::PERFECT);
    let found = held(&other, &Needs::default(), &measured, &recorder);
    assert_eq!((found.cause, names(&found)), (Cause::AsPlanned, vec![]));
}

#[test]
fn a_clock_of_which_nothing_is_stated_is_not_told_from_a_count() {
    let plan = planned("20kHz", "25%", "0ppm");
    let of = |error: &str| {
        let (measured, recorder) = seen(&plan, "100ms", "1ns", &off(error));
        let found = held(&plan, &Needs::default(), &measured, &recorder);
        (found.cause, names(&found).join(" "))
    };
    // 20 kHz in 4800 ticks: 4801 of them are 208.29 ppm slower.
    assert_eq!(of("-208.29ppm"), (Cause::Undecided, "cause-undecided".to_owned()));
    assert_eq!(of("-150ppm"), (Cause::Clock, String::new()));
    assert_eq!(of("-7%"), (Cause::Unexplained, "frequency-unexplained".to_owned()));
}

#[test]
fn one_period_cannot_tell() {
    let plan = planned("50Hz", "1500us", "30ppm");
    let (measured, recorder) = seen(&plan, "50ms", "10ns", &FaultInjection::PERFECT);
    let needs = Needs {
        frequency: "1%".parse().ok(),
        pulse: "1ms".parse().ok(),
        jitter: "1ms".parse().ok(),
        ..Needs::default()
    };
    let found = held(&plan, &needs, &measured, &recorder);
    assert_eq!(measured.timing.as_ref().unwrap().cycles, 1);
    assert!(
        found.checks.iter().all(|held| held.outcome == Verdict::CannotTell && held.uncertainty.is_none())
    );
    assert_eq!(found.checks.len(), 3);
    assert_eq!((found.cause, names(&found)), (Cause::Undecided, vec!["single-period"]));
}

#[test]
fn where_nothing_is_required_the_plan_is() {
    // A pulse of 1.4 ms where one of 1.5 ms was planned: the step is 312.5 ns, and 30 ppm of 1.5 ms are 45 ns.
    let plan = planned("50Hz", "1500us", "30ppm");
    let of = |pulse: &str, error: &str| {
        let (measured, recorder) = seen(&planned("50Hz", pulse, "30ppm"), "2s", "10ns", &off(error));
        held(&plan, &Needs::default(), &measured, &recorder)
    };
    let wrong = of("1400us", "0ppm");
    assert_eq!(by_the_plan(&wrong), [(Need::Frequency, Verdict::Met), (Need::Pulse, Verdict::Missed)]);
    assert!(wrong.is_failed() && wrong.checks.iter().all(|held| held.implied));
    assert_eq!(
        (rounded(wrong.checks[1].found).as_str(), wrong.checks[1].limit_words().as_str()),
        ("100 us", "at most 357.5 ns")
    );
    let right = of("1500us", "20ppm");
    assert_eq!(by_the_plan(&right), [(Need::Frequency, Verdict::Met), (Need::Pulse, Verdict::Met)]);
    // A step more than planned is what may be; two are not.
    assert_eq!(by_the_plan(&of("1500.3125us", "0ppm"))[1].1, Verdict::Met);
    assert_eq!(by_the_plan(&of("1500.625us", "0ppm"))[1].1, Verdict::Missed);
    // A clock that is 400 ppm off takes the pulse along: by 600 ns.
    assert_eq!(
        by_the_plan(&of("1500us", "-400ppm")),
        [(Need::Frequency, Verdict::Missed), (Need::Pulse, Verdict::Missed)]
    );
    // A duty is what it is, whatever the clock.
    let plan = planned("50Hz", "7.5%", "30ppm");
    let (measured, recorder) = seen(&plan, "2s", "10ns", &off("-400ppm"));
    let found = held(&plan, &Needs::default(), &measured, &recorder);
    assert_eq!(by_the_plan(&found), [(Need::Frequency, Verdict::Missed), (Need::Pulse, Verdict::Met)]);
}

#[test]
fn a_pulse_is_known_to_its_own_scatter() {
    // 400 pulses whose edges shake by 1 us: each pulse by √2 us, their mean by 0.07 us, and its ends are seen to 10 ns.
    let plan = planned("50Hz", "1500us", "30ppm");
    let shaken = FaultInjection { jitter: time("1us"), seed: 11, ..FaultInjection::PERFECT };
    let (measured, recorder) = seen(&plan, "8s", "10ns", &shaken);
    let high = &measured.timing.as_ref().unwrap().high;
    let wanted = 1.966 * 2_f64.sqrt() * 100.0 / 399_f64.sqrt() + 1.0;
    let stated = high.uncertainty(1).unwrap();
    assert!((stated / wanted - 1.0).abs() < 0.1, "{stated} {wanted}");
    let needs = |pulse: &str| Needs { pulse: pulse.parse().ok(), ..Needs::default() };
    // The mean is within 0.15 us of 1500 us: 100 ns cannot be told, and 400 ns can.
    assert_eq!(answers(&held(&plan, &needs("400ns"), &measured, &recorder)), [(Need::Pulse, Verdict::Met)]);
    assert_eq!(answers(&held(&plan, &needs("100ns"), &measured, &recorder))[0].1, Verdict::CannotTell);
}

#[test]
fn a_pin_that_does_not_move_is_told_from_one_that_should_not() {
    let plan = planned("1kHz", "25%", "30ppm");
    let (measured, recorder) =
        seen(&planned("1kHz", "0%", "30ppm"), "100ms", "1us", &FaultInjection::PERFECT);
    let found = held(&plan, &Needs::default(), &measured, &recorder);
    assert_eq!(
        (found.cause, names(&found), found.is_failed()),
        (Cause::Missing, vec!["signal-missing"], true)
    );
    // In less than two periods there need not be a whole one.
    for (length, failed) in [("1.9ms", false), ("2.1ms", true)] {
        let nothing = planned("1kHz", "0%", "30ppm");
        let (measured, recorder) = seen(&nothing, length, "1us", &FaultInjection::PERFECT);
        let found = held(&plan, &Needs::default(), &measured, &recorder);
        assert_eq!((found.cause, found.is_failed()), (Cause::Missing, failed), "{length}");
    }
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
            let level = kairotic_core::simulation::Logic::of(level);
            meters.take(&[kairotic_core::simulation::Change { at, signal: 0, level }]);
        }
    }
    let recorder = Recorder { tick: 1e-9, length: 2_000_000_000, interval: 1, accuracy: None };
    let measured = meters.finish().signals.remove(0).1;
    let drift = measured.timing.as_ref().unwrap().drift(1).unwrap();
    assert!((drift + 40e-6).abs() < 1e-6, "{drift}");
    let found = held(&plan, &Needs::default(), &measured, &recorder);
    // 96 000 ticks a period: a count of them is less than the 100 ppm of the clock.
    assert_eq!(names(&found), ["cause-undecided", "clock-drifts"]);
    let says = &found.findings[1].to_string();
    assert!(says.contains("falls by 40 ppm in 2 s") || says.contains("falls by 39.9 ppm in 2 s"), "{says}");
}

#[test]
fn captured_names_are_matched_with_planned_ones() {
    assert!(
        is_called("top.Shutter", "shutter") && is_called("D0", "d0") && !is_called("shutter2", "shutter")
    );
    let plan = planned("1kHz", "25%", "30ppm");
    let (measured, recorder) = seen(&plan, "20ms", "1us", &FaultInjection::PERFECT);
    let names = ["top.shutter", "D1", "D2"].map(str::to_owned);
    let places = |of: &[u32], planned: &[&str], said: &[(u32, String)]| -> Vec<Option<u32>> {
        let found: Vec<(u32, Measurement)> = of.iter().map(|place| (*place, measured.clone())).collect();
        let captured = Captured { names: &names, measured: &found, recorder: &recorder };
        let specs = planned.iter().map(|name| spec(name, &plan, &Needs::default(), None));
        let check = check_capture(specs.collect(), said, captured, false).unwrap();
        let found = |name: &&str| {
            let of = check.comparisons.iter().find(|(_, comparison)| comparison.name == *name);
            let place = of.map(|(place, _)| *place);
            // What is not there is named.
            assert_eq!(place.is_none(), check.absent.iter().any(|absent| absent == name), "{name}");
            place
        };
        planned.iter().map(found).collect()
    };
    // By name; as it is said, whatever the name; not at all.
    let said = [(2, "dome".to_owned())];
    assert_eq!(places(&[0, 1, 2], &["shutter", "dome", "vent"], &said), [Some(0), Some(2), None]);
    // What is said comes before the name.
    assert_eq!(places(&[0, 1, 2], &["shutter"], &[(1, "shutter".to_owned())]), [Some(1)]);
    // One of each belong together; several do not.
    assert_eq!(places(&[1], &["tim3"], &[]), [Some(1)]);
    assert_eq!(places(&[1, 2], &["tim3"], &[]), [None]);
}

#[test]
fn an_exact_signal_is_off_by_nothing_that_can_be_seen() {
    for (freq, signal) in [("20kHz", "25%"), ("50Hz", "1500us"), ("1/3kHz", "40%")] {
        let plan = planned(freq, signal, "1ppm");
        let (measured, recorder) = seen(&plan, "300ms", "1ns", &FaultInjection::PERFECT);
        let found = held(&plan, &Needs::default(), &measured, &recorder);
        assert_eq!((found.cause, names(&found)), (Cause::AsPlanned, vec![]), "{freq}");
        let by_capture = found.uncertainty.0.unwrap();
        assert!(found.error.abs() <= by_capture && by_capture < 1e-6, "{freq} {} {by_capture}", found.error);
        let planned = plan.best.setting.period.value();
        let whole = Rational::whole(1_000_000_000).times(planned).unwrap().approx();
        assert!((measured.timing.unwrap().clock.period - whole).abs() < 1e-3);
    }
}

fn rounded(figure: Option<Figure>) -> String {
    figure.unwrap().rounded(4)
}

/// A load that is a lamp whose brightness is its duty.
fn lamp() -> Load {
    let kind = Kind::Lamp(Lamp { curve: Curve::Linear, flicker_free: None });
    Load { name: "lamp".into(), kind, tolerance: None }
}

#[test]
fn a_level_is_answered_in_the_load_s_own_unit() {
    // A quarter was planned, and 26 % is there: a hundredth too bright, known to two steps of 10 ns in 50 us.
    let plan = planned("20kHz", "25%", "100ppm");
    let (measured, recorder) =
        seen(&planned("20kHz", "26%", "100ppm"), "100ms", "10ns", &FaultInjection::PERFECT);
    let load = lamp();
    let of = |limit: &str| {
        let level = Some(LoadLevel::Share(limit.parse().unwrap()));
        let needs = Needs { level, ..Needs::default() };
        alone(spec("pin", &plan, &needs, Some(&load)), &measured, &recorder)
    };
    for (limit, answer) in [
        ("0.9%", Verdict::Missed),
        ("0.99%", Verdict::CannotTell),
        ("1.01%", Verdict::CannotTell),
        ("1.1%", Verdict::Met),
    ] {
        assert_eq!(answers(&of(limit)), [(Need::Level, answer)], "{limit}");
    }
    let found = of("0.9%");
    let check = &found.checks[1];
    assert_eq!((rounded(check.found).as_str(), check.limit_words().as_str()), ("1 %", "at most 0.9 %"));
    assert_eq!(rounded(check.uncertainty), "0.02 %");
}

#[test]
fn a_picture_marks_what_is_allowed() {
    let plan = planned("20kHz", "25%", "100ppm");
    let (measured, recorder) = seen(&plan, "10ms", "10ns", &FaultInjection::PERFECT);
    let needs = Needs { frequency: "1%".parse().ok(), pulse: "2us".parse().ok(), ..Needs::default() };
    let allowed = held(&plan, &needs, &measured, &recorder).allowed;
    let near = |found: Option<(f64, f64)>, low: f64, high: f64| {
        found.is_some_and(|(least, most)| {
            (least / low - 1.0).abs() < 1e-12 && (most / high - 1.0).abs() < 1e-12
        })
    };
    assert!(near(allowed.period, 1.0 / 20_200.0, 1.0 / 19_800.0), "{allowed:?}");
    // A quarter of 50 us, and 2 us to either side.
    assert!(near(allowed.pulses, 10.5e-6, 14.5e-6), "{allowed:?}");
    assert_eq!((allowed.planned, allowed.pulse, allowed.low), (5e-5, Some(1.25e-5), false));
}

#[test]
fn periods_that_shake_by_more_than_samples_make_them_are_told() {
    // 20 kHz in ticks of 10 ns: four steps, and a ten-thousandth of 50 us, are 45 ns.
    let plan = planned("20kHz", "25%", "100ppm");
    let recorder = Recorder { tick: 1e-8, length: 10_000_000, interval: 1, accuracy: None };
    let of = |apart: u64| {
        let mut meters = Meters::new(&[true], &[], 0);
        for n in 0..200_u64 {
            // Every other edge is late: periods are so much longer and shorter in turn.
            let at = 1000 + 5000 * n + if n % 2 == 1 { apart } else { 0 };
            for (at, level) in [(at, true), (at + 1250, false)] {
                let level = kairotic_core::simulation::Logic::of(level);
                meters.take(&[kairotic_core::simulation::Change { at, signal: 0, level }]);
            }
        }
        let measured = meters.finish().signals.remove(0).1;
        let found = held(&plan, &Needs::default(), &measured, &recorder);
        names(&found).contains(&"jitter-unplanned")
    };
    // Periods that differ by 40 ns, and by 60 ns.
    assert_eq!([of(0), of(2), of(3)], [false, false, true]);
}
