//! Sequences: the compare values of every period, from the same levels worked out in whole numbers.

use kairotic_core::Error;
use kairotic_core::load::{KeyText, Kick, Kind, Load, LoadKind, Motor, Servo, Slew, SpeedController, Wiring};
use kairotic_core::part::TimerUse;
use kairotic_core::quantity::units::us;
use kairotic_core::quantity::{LoadLevel, Range, Time};
use kairotic_core::search::DerivedSignal;
use kairotic_core::sequence::{
    LegCause, LevelTrack, Member, Sequence, SequencePlan, SequenceStep, Setpoint, steps,
};
use kairotic_core::signal::SignalSpec;
use kairotic_core::simulation::{FaultInjection, Logic, Wave, WaveRequest, lines_of_sequence};
use kairotic_core::target::Target;
use kairotic_core::waveform::{EventKind, Machine, Values, Write};
use proptest::prelude::*;

use crate::catalogue::part;
use crate::request::clock;

/// A signal of a timer whose tick is one of a clock's periods.
fn signal(timer_clock: &str, frequency: &str, load: Option<Kind>) -> DerivedSignal<'static> {
    let on = TimerUse::of(part("stm32f411"), "tim2").clocked(clock(timer_clock));
    let target = Target::frequency(frequency.parse().unwrap()).on_channel("1");
    let load = load.map(|kind| Load { name: "load".to_owned(), kind, tolerance: None });
    DerivedSignal::of(SignalSpec { name: "signal".to_owned(), load, ..SignalSpec::of(on, target) }).unwrap()
}

fn wanted(signal: &DerivedSignal<'_>, text: &str, repeat: u32) -> Result<Sequence, Error> {
    let load = signal.spec.load.as_ref().map(|load| &load.kind);
    let steps = steps("signal", text, &|text| Setpoint::read(load, text))?;
    Ok(Sequence { name: "sequence".to_owned(), steps, repeat })
}

fn plan(signal: DerivedSignal<'_>, text: &str, repeat: u32) -> Result<SequencePlan, Error> {
    let sequence = wanted(&signal, text, repeat)?;
    SequencePlan::of(&[Member::Signal(Box::new(signal))], &sequence)
}

fn time(text: &str) -> Time {
    text.parse().unwrap()
}

fn servo() -> Servo {
    Servo {
        span: Range { low: us(900), high: us(2100) },
        travel: "0deg..120deg".to_owned().try_into().unwrap(),
        dead_band: None,
        frame: None,
        slew: None,
    }
}

fn motor() -> Motor {
    Motor {
        supply: "24V".parse().unwrap(),
        rated: "12V".parse().unwrap(),
        start: "10%".parse().unwrap(),
        full: None,
        wiring: Wiring::TwoLines,
        quiet: None,
        pause: Some(time("300ms")),
        kick: Some(Kick::of("40% for 100ms").unwrap()),
        turning: Default::default(),
    }
}

fn names(plan: &SequencePlan) -> Vec<&'static str> {
    plan.findings.iter().map(|finding| finding.name()).collect()
}

/// Compare value and periods of each hold.
fn made(track: &LevelTrack) -> Vec<(u64, u64)> {
    track.holds.iter().map(|hold| (hold.compare, hold.periods)).collect()
}

#[test]
fn twelve_levels_are_as_far_apart_as_their_ends_say() {
    // A tick is 10 us: 1100 us is 110 of them, and a step of the way 72.73 us.
    let made = made(
        &plan(signal("100kHz", "50Hz", None), "from 1100us to 1900us over 6s in 12 levels", 1)
            .unwrap()
            .tracks[0],
    );
    // The nearest whole number of ticks to (1100 + 800 i / 11) / 10.
    let expected: Vec<(u64, u64)> =
        (0..12).map(|level| (((11 * 110 + 80 * level) * 2 + 11) / 22, 25)).collect();
    assert_eq!(made, expected);
    assert_eq!(expected[1].0, 117);
}

#[test]
fn a_sweep_there_and_back_takes_its_time_exactly() {
    // 1200 ticks in the span: there is a compare value for each of 240 levels.
    let text = "from 0deg to 120deg over 4.8s in 240 levels and back";
    let fine = plan(signal("1MHz", "50Hz", Some(servo().into())), text, 1).unwrap();
    assert_eq!((fine.length, fine.tracks[0].periods), (time("9.6s"), 480));
    assert_eq!(
        fine.tracks[0].holds.len(),
        479,
        "120 degrees are the end of one way and the beginning of the other"
    );
    assert!(names(&fine).is_empty());

    // 47 steps in it: 900 us is 35.28 ticks, and 2100 us is 82.32.
    let coarse = plan(signal("39.2kHz", "50Hz", Some(servo().into())), text, 1).unwrap();
    let track = &coarse.tracks[0];
    assert_eq!((coarse.length, track.periods), (time("9.6s"), 480));
    let up: Vec<(u64, u64)> = (35..82).map(|compare| (compare, 5)).chain([(82, 10)]).collect();
    let down = (35..82).rev().map(|compare| (compare, 5));
    assert_eq!(made(track), up.into_iter().chain(down).collect::<Vec<_>>());
    assert_eq!(names(&coarse), ["fewer-levels"]);
}

#[test]
fn what_is_made_again_does_not_drift() {
    // Steps of 10 ms on periods of 3 ms: each begins in the period that is nearest to its time.
    let again = plan(signal("1MHz", "1000/3Hz", None), "500us for 10ms, 1ms for 10ms", 50).unwrap();
    let track = &again.tracks[0];
    assert_eq!((again.length, track.periods), (time("1s"), 333));
    for (number, hold) in track.holds.iter().enumerate() {
        // 10 n / 3, and half up.
        let number = number as u64;
        assert_eq!(hold.begins, (20 * number + 3) / 6, "hold {number}");
    }
    assert_eq!(track.each_pass, None, "a thousand periods of 3 ms are no whole number of seconds");
    let even = plan(signal("1MHz", "100Hz", None), "500us for 10ms, 1ms for 30ms", 50).unwrap();
    assert_eq!((even.tracks[0].each_pass, even.tracks[0].holds.len()), (Some(2), 100));
}

#[test]
fn a_motor_is_kicked_and_rests_before_it_turns_round() {
    // Full throttle is 50 % duty; 2 % throttle is 10.8 %. 1000 ticks in a period of 1 ms.
    let sequence = "2% for 1s, -100% for 1s, 0% for 200ms, 50% for 1s";
    let turned = plan(signal("1MHz", "1kHz", Some(motor().into())), sequence, 1).unwrap();
    let track = &turned.tracks[0];
    let found: Vec<_> =
        track.ways.iter().map(|way| (way.cause, way.step, way.periods, way.backward)).collect();
    assert_eq!(
        found,
        [
            (LegCause::Kick, 1, 100, false),
            (LegCause::Asked, 1, 1000, false),
            (LegCause::Pause, 2, 300, false),
            // It stands, and is kicked only where it gets less than the kick.
            (LegCause::Asked, 2, 1000, true),
            (LegCause::Asked, 3, 200, true),
            // Two tenths of a second of the pause are over.
            (LegCause::Pause, 4, 100, true),
            (LegCause::Kick, 4, 100, false),
            (LegCause::Asked, 4, 1000, false),
        ]
    );
    let compares = [(400, 100), (108, 1000), (0, 300), (500, 1000), (0, 300), (400, 100), (300, 1000)];
    assert_eq!(made(track), compares);
    assert_eq!(turned.length, time("3.8s"));
}

#[test]
fn a_way_through_zero_rests_there() {
    let sequence = "from 60% to -20% over 4s";
    let turned = plan(signal("1MHz", "1kHz", Some(motor().into())), sequence, 1).unwrap();
    let track = &turned.tracks[0];
    // Three quarters of the way lie before zero.
    let ends: Vec<_> = track.ways.iter().map(|way| (way.cause, way.begins, way.over)).collect();
    assert_eq!(
        ends,
        [
            (LegCause::Asked, time("0s"), time("3s")),
            (LegCause::Pause, time("3s"), time("0s")),
            (LegCause::Kick, time("3.3s"), time("0s")),
            (LegCause::Asked, time("3.4s"), time("1s")),
        ]
    );
    assert!(track.holds.iter().all(|hold| hold.backward == (hold.begins >= 3300)));
}

#[test]
fn a_load_that_was_kicked_goes_on_turning() {
    // Off until then, 100 ms of the kick, and then from the start duty of 10 % on: it is never off again.
    let kicked =
        plan(signal("1MHz", "1kHz", Some(motor().into())), "0% for 1s, to 50% over 5s in 5 levels", 1)
            .unwrap();
    let found = made(&kicked.tracks[0]);
    assert_eq!(found[..4], [(0, 1000), (400, 100), (100, 1000), (150, 1000)]);
    assert_eq!(found.last(), Some(&(300, 1000)));
    // A fan turns from 20 % duty on, at 15 % of its speed: off below that, and so it begins there.
    let fan = kairotic_core::load::Fan {
        window: None,
        lowest: "20%".parse().unwrap(),
        slowest: "15%".parse().unwrap(),
        pulses_per_turn: None,
        kick: Some(Kick::of("60% for 100ms").unwrap()),
        turning: Default::default(),
    };
    let kicked =
        plan(signal("1MHz", "1kHz", Some(fan.into())), "0% for 1s, to 100% over 3s in 3 levels", 1).unwrap();
    // Half way from 20 % to 100 % is 60 %.
    assert_eq!(made(&kicked.tracks[0])[..], [(0, 1000), (600, 100), (200, 1000), (600, 1000), (1000, 1000)]);
}

#[test]
fn a_motor_turns_as_it_did_until_its_first_step() {
    let motor = Motor { pause: None, kick: None, ..motor() };
    let turned = |start: &str, to: &str| {
        let mut signal = signal("1MHz", "1kHz", Some(motor.into()));
        signal.spec.level = Some(Kind::from(motor).read_level(start).unwrap());
        let mut sequence = wanted(&signal, &format!("{to} for 1s"), 1).unwrap();
        sequence.steps[0].begins = Some(time("1s"));
        let plan = SequencePlan::of(&[Member::Signal(Box::new(signal))], &sequence).unwrap();
        plan.tracks[0].holds.iter().map(|hold| (hold.compare, hold.backward)).collect::<Vec<_>>()
    };
    assert_eq!(turned("50%", "-50%"), [(300, false), (300, true)]);
    assert_eq!(turned("-50%", "50%"), [(300, true), (300, false)]);
    assert_eq!(turned("-50%", "0%"), [(300, true), (0, true)]);
}

#[test]
fn a_controller_is_armed_and_taught() {
    let controller = SpeedController {
        span: Range { low: us(1000), high: us(2000) },
        neutral: None,
        arming: Some(kairotic_core::load::Arming { pulse: us(1000), hold: time("2s") }),
        teach_hold: Some(time("3s")),
        frame: None,
    };
    let plan =
        plan(signal("1MHz", "50Hz", Some(controller.into())), "calibrate, arm, to 30% over 1s", 1).unwrap();
    let causes: Vec<_> = plan.tracks[0].ways.iter().map(|way| (way.cause, way.hold)).collect();
    let asked = [
        (LegCause::Longest, "3s"),
        (LegCause::Shortest, "3s"),
        (LegCause::Arming, "2s"),
        (LegCause::Asked, "0s"),
    ];
    assert_eq!(causes, asked.map(|(cause, hold)| (cause, time(hold))));
    assert_eq!(made(&plan.tracks[0])[..2], [(2000, 150), (1000, 251)]);
    assert_eq!(names(&plan), ["teaches-at-full-throttle"]);
}

#[test]
fn what_a_servo_does_not_follow_is_told() {
    let servo = Servo { dead_band: Some(us(5)), slew: Some(Slew::of("60deg in 120ms").unwrap()), ..servo() };
    let signal = |text: &str| {
        let plan = plan(signal("1MHz", "50Hz", Some(servo.into())), text, 1).unwrap();
        (names(&plan), plan.findings.iter().map(ToString::to_string).collect::<Vec<_>>())
    };
    // 120 degrees take 240 ms. Levels of 120/59 degrees are 20.3 us apart.
    assert_eq!(signal("from 0deg 120deg for 240ms, 0deg").0, [""; 0]);
    assert_eq!(signal("from 0deg 120deg for 220ms, 0deg").0, ["faster-than-slew"]);
    assert_eq!(signal("from 0deg to 120deg over 220ms").0, ["faster-than-slew"]);
    assert_eq!(signal("from 0deg to 120deg over 1.2s").0, [""; 0]);
    // 2 us apart: two of three are no further than 5 us from the last that was followed.
    let (found, text) = signal("from 0deg to 11.8deg over 1.2s");
    assert_eq!(found, ["dead-band-swallows"]);
    assert!(text[0].contains("39 of 60 levels") || text[0].contains("40 of 60 levels"), "{text:?}");
    assert_eq!(signal("from 0deg 60deg for 5ms, 0deg for 1s").0, ["step-without-pulse", "faster-than-slew"]);
    assert_eq!(signal("from 0deg 2200us for 1s").0, ["pulse-outside-load"]);
}

#[test]
fn what_cannot_be_is_refused_with_its_step() {
    let refused = |text: &str| {
        let load = Some(servo().into());
        let error = plan(signal("1MHz", "50Hz", load), text, 1).unwrap_err();
        (error.to_string(), error.hint())
    };
    for (text, said) in [
        ("", "the sequence has no steps"),
        ("0deg for 1s, over", "step 2: expected"),
        ("0deg for", "step 1: expected a time after `for` or `hold`, found nothing more"),
        ("0deg sideways", "found `sideways`"),
        ("0deg for 0s", "step 1: "),
        ("0deg, 130deg for 1s", "step 2: expected angle between 0 deg and 120 deg, found 130 deg"),
        ("to 30deg over 1s", "step 1: it is not said where `signal` is before"),
        ("hold 1s", "step 1: it is not said where `signal` is before"),
        ("from 0deg to 30deg in 5 levels", "step 1: `levels` lie on a way"),
        ("from 0deg to 30deg over 1s in 1 levels", "step 1: expected at least 2 `levels`"),
        ("arm", "step 1: `signal` drives nothing that is armed"),
        ("calibrate", "step 1: it is not said how long"),
        ("0deg for 90000s", "and at most 86400 s are planned"),
        ("from 0deg to 30deg over 1ms and back 20000 times", "40000 steps"),
    ] {
        let (error, hint) = refused(text);
        assert!(error.contains(said), "{text}: {error}");
        assert!(hint.is_some() || text == "0deg for 0s", "{text}: {error}");
    }
}

#[test]
fn steps_that_overlap_are_refused() {
    let signal = signal("1MHz", "50Hz", Some(servo().into()));
    let mut sequence = wanted(&signal, "0deg for 2s, 60deg for 1s", 1).unwrap();
    let second: &mut SequenceStep = &mut sequence.steps[1];
    second.begins = Some(time("1.5s"));
    let error = SequencePlan::of(&[Member::Signal(Box::new(signal.clone()))], &sequence).unwrap_err();
    assert_eq!(error.to_string(), "step 2: it begins at 1.5 s, and `signal` is at step 1 until 2 s");
    sequence.steps[1].begins = Some(time("5s"));
    let plan = SequencePlan::of(&[Member::Signal(Box::new(signal.clone()))], &sequence).unwrap();
    assert_eq!((plan.length, plan.tracks[0].ways[1].begins), (time("6s"), time("5s")));
    sequence.steps[1].signal = "other".to_owned();
    assert!(matches!(
        SequencePlan::of(&[Member::Signal(Box::new(signal))], &sequence),
        Err(Error::UnknownName { kind: "signal", .. })
    ));
}

proptest! {
    /// Ways between any pulses, against the same rule in whole numbers: a level for each period and each compare value, all
    /// as long as each other, each the compare value that is nearest to its exact one.
    #[test]
    fn ways_are_even_and_exact(
        from in 0_i128..20_000,
        to in 0_i128..20_000,
        milliseconds in 1_i128..5000,
        asked in proptest::option::of(2_u32..400),
        smooth in any::<bool>(),
    ) {
        // Ticks of 25 us, periods of 20 ms; pulses in microseconds.
        let (tick, period) = (25, 20);
        let levels = asked.map(|levels| format!(" in {levels} levels")).unwrap_or_default();
        let shape = if smooth { " smooth" } else { "" };
        let text = format!("from {from}us to {to}us over {milliseconds}ms{levels}{shape}");
        let plan = plan(signal("40kHz", "50Hz", None), &text, 1).unwrap();
        let track = &plan.tracks[0];

        let periods = (2 * milliseconds + period) / (2 * period);
        // Halves go to the shorter pulse; at most a whole period is 800 ticks.
        let nearest = |numerator: i128, denominator: i128| {
            (2 * numerator + denominator * tick - 1).div_euclid(2 * denominator * tick)
        };
        let compares = if smooth { i128::MAX } else { ((to * 2 + tick) / (2 * tick) - (from * 2 + tick) / (2 * tick)).abs() + 1 };
        let count = periods.min(asked.map_or(i128::MAX, i128::from)).min(compares);
        let mut expected = Vec::new();
        for index in 0..count {
            let last = (count - 1).max(1);
            let (along, of) = if smooth {
                (index * index * (3 * last - 2 * index), last * last * last)
            } else {
                (index, last)
            };
            let compare = if count == 1 { nearest(to, 1) } else { nearest(from * of + (to - from) * along, of) };
            let length = (index + 1) * periods / count - index * periods / count;
            expected.extend(std::iter::repeat_n(compare, usize::try_from(length).unwrap()));
        }
        if expected.is_empty() {
            // Where it ends as soon as it is there, it stays for a period.
            expected.push(nearest(to, 1));
        }
        let found: Vec<i128> = track
            .holds
            .iter()
            .flat_map(|hold| std::iter::repeat_n(i128::from(hold.compare), hold.periods as usize))
            .collect();
        prop_assert_eq!(found, expected);
        let pairs = track.holds.windows(2);
        for pair in pairs {
            prop_assert_eq!(pair[0].begins + pair[0].periods, pair[1].begins);
            prop_assert_ne!(pair[0].compare, pair[1].compare);
        }
    }
}

#[test]
fn a_setpoint_is_read_in_the_unit_that_fits() {
    let servo = Kind::from(servo());
    let read = |load: Option<&Kind>, text: &str| Setpoint::read(load, text);
    assert!(matches!(read(Some(&servo), "45deg"), Ok(Setpoint::Level(LoadLevel::Angle(_)))));
    assert!(matches!(read(Some(&servo), "1500us"), Ok(Setpoint::Active(_))));
    assert!(read(Some(&servo), "30%").is_err());
    let motor = Kind::from(motor());
    assert!(matches!(read(Some(&motor), "30%"), Ok(Setpoint::Level(LoadLevel::Share(_)))));
    assert!(read(Some(&motor), "1500us").is_err(), "a motor's pulse has no meaning of its own");
    assert!(matches!(read(None, "30%"), Ok(Setpoint::Active(_))));
    assert!(read(None, "30deg").is_err());
}

/// The pin of a counter to which each compare value is written in the last quarter of the period before.
fn written(signal: &DerivedSignal<'_>, track: &LevelTrack, clocks: u128) -> Vec<(u64, bool)> {
    let (timer, setting) = (&signal.derivation.timer, &signal.derivation.best.setting);
    let mode = timer.mode(&setting.plan.mode).unwrap();
    let period = setting.mean_ticks().unwrap().times(setting.divider).unwrap().floor() as u128;
    let values = |compare: u64| Values { top: setting.plan.top, compare };
    let mut writes: Vec<Write> = track
        .holds
        .iter()
        .skip(1)
        .map(|hold| Write { at: u128::from(hold.begins) * period - period / 4, values: values(hold.compare) })
        .collect();
    // What is written last is written again, after everything: with nothing left to write, the player would leap.
    writes.extend(writes.last().copied().map(|last| Write { at: clocks + 1, ..last }));
    let machine = Machine::of(timer, mode, setting.divider, false);
    let mut last = None;
    machine
        .play(values(track.holds[0].compare), &writes)
        .take_while(|event| event.at <= clocks)
        .filter_map(|event| match event.kind {
            EventKind::Level(level) => Some((event.at as u64, level)),
            EventKind::Wrap => None,
        })
        .filter(|(_, level)| last.replace(*level) != Some(*level))
        .collect()
}

#[test]
fn what_a_sequence_plays_is_what_a_counter_does_that_is_written_to() {
    for (place, mode) in [
        ("stm32f411/tim3", "up"),
        ("stm32f411/tim3", "down-late"),
        ("stm32f411/tim3", "centre"),
        ("atmega328p/timer1", "fast-icr"),
        ("atmega328p/timer1", "phase-frequency-icr"),
        ("rp2040/slice0", "trailing"),
        ("rp2040/slice0", "phase-correct"),
        ("samd21g18/tcc0", "npwm"),
        ("samd21g18/tcc0", "dual"),
    ] {
        let (name, timer) = place.split_once('/').unwrap();
        let known = part(name);
        let on = TimerUse::of(known, timer).clocked(clock("1MHz"));
        let target = Target { mode: Some(mode.to_owned()), ..Target::frequency("1kHz".parse().unwrap()) };
        let spec = SignalSpec { name: "signal".to_owned(), ..SignalSpec::of(on, target) };
        let signal = DerivedSignal::of(spec).unwrap();
        let text = "from 0us to 700us over 7ms, 1ms for 2ms, 250us for 3ms, 0us for 2ms, 500us for 2ms";
        let sequence = wanted(&signal, text, 1).unwrap();
        let members = [Member::Signal(Box::new(signal.clone()))];
        let plan = SequencePlan::of(&members, &sequence).unwrap();
        let pins = lines_of_sequence(&members, &plan).unwrap();
        let lines = pins.into_iter().map(|pin| pin.line).collect();
        // A tick of the recorder is a clock.
        let request =
            WaveRequest { lines, length: plan.length, tick: us(1), rehearsal: FaultInjection::PERFECT };
        let played: Vec<(u64, bool)> =
            Wave::of(&request).unwrap().map(|change| (change.at, change.level == Logic::High)).collect();
        assert_eq!(played, written(&signal, &plan.tracks[0], 16_000), "{place} {mode}");
    }
}

#[test]
fn a_motor_that_turns_back_at_full_level_keeps_its_sign() {
    // A smaller compare value is a longer pulse here, and zero is the whole period.
    let on =
        TimerUse { allow_overclock: true, ..TimerUse::of(part("fe310"), "pwm0").clocked(clock("16MHz")) };
    let target = Target::frequency("20kHz".parse().unwrap()).on_channel("1");
    let motor = Motor { rated: "24V".parse().unwrap(), ..motor() };
    let load = Some(Load { name: "load".to_owned(), kind: Kind::Motor(motor), tolerance: None });
    let spec = SignalSpec { name: "signal".to_owned(), load, ..SignalSpec::of(on, target) };
    let signal = DerivedSignal::of(spec).unwrap();
    let plan = plan(signal, "from 0% to -100% over 100ms, hold 50ms", 1).unwrap();
    let [track] = plan.tracks.as_slice() else { panic!() };
    let last = track.holds.last().unwrap();
    assert!(last.backward && last.compare == 1, "{last:?}");
    assert!(*track.table().values.last().unwrap() < 0);
}
