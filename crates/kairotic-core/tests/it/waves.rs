//! Waves of settings: what is measured of them is what the settings make, faults and all.

use kairotic_core::capture::{Measurement, Meters};
use kairotic_core::quantity::units::ns;
use kairotic_core::quantity::{Rational, Time};
use kairotic_core::setting::Setting;
use kairotic_core::simulation::{Change, FaultInjection, Wave, WaveLine, WaveRequest, lines};
use kairotic_core::tach::SpeedMeter;
use kairotic_core::target::Level;
use proptest::prelude::*;
use proptest::test_runner::TestCaseError;

use crate::catalogue::{dice, part};
use crate::request::{Request, decoded, derive, request};

fn wave(lines: Vec<WaveLine>, length: Time, tick: Time, rehearsal: FaultInjection) -> Vec<Change> {
    Wave::of(&WaveRequest { lines, length, tick, rehearsal }).unwrap().collect()
}

fn measured(changes: &[Change], signals: usize) -> Vec<Measurement> {
    let mut meters = Meters::new(&vec![true; signals], &[], 0);
    meters.take(changes);
    meters.finish().signals.into_iter().map(|(_, measurement)| measurement).collect()
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(250))]
    #[test]
    fn what_a_setting_s_wave_measures_is_the_setting(dice in dice()) {
        let (_, timer, setting) = dice.setting(300);
        let moving: Vec<_> = setting.outputs.iter().filter(|output| output.constant.is_none()).collect();
        prop_assume!(!moving.is_empty() && setting.ticks <= 100_000);
        let tick = Time::new(Rational::new(1, 1_000_000_000_000).unwrap());
        let length = Time::new(setting.period.value().times(Rational::whole(12)).unwrap());
        let lines = lines(timer, &setting, "s").unwrap();
        let count = lines.len();
        let changes = wave(lines, length, tick, FaultInjection::PERFECT);
        let found = measured(&changes, count);
        for (output, found) in setting.outputs.iter().zip(found) {
            if output.constant.is_some() {
                prop_assert!(found.timing.is_none());
                continue;
            }
            // Dither of less than a tick leaves whole periods without a pulse, or without a gap.
            let gap = setting.mean_ticks().unwrap().minus(output.ticks).unwrap();
            if setting.dither_bits > 0 && output.ticks.min(gap) < Rational::ONE {
                continue;
            }
            holds(&setting, output, &found, tick)?;
        }
    }
}

proptest! {
    /// Something that gives any number of pulses a turn at any steady speed is read at that speed, to the recorder's tick.
    #[test]
    fn a_steady_speed_is_read_as_it_is(pulses in 1_u32..9, rate in 30_u32..4_000, duty in 1_u32..99, turns in 3_u32..9) {
        let plan = crate::request::derived("stm32f411/tim9", "1MHz", &format!("{rate}Hz"), &[&format!("{duty}%")]);
        let tick = ns(100);
        let period = plan.best.setting.period.value();
        let length = Time::new(period.times(Rational::from(pulses * turns + 1)).unwrap());
        let changes = wave(lines(&plan.timer, &plan.best.setting, "tach").unwrap(), length, tick, FaultInjection::PERFECT);
        let mut turning = SpeedMeter::new(pulses, None, 0);
        changes.iter().for_each(|change| turning.change(change.at, change.level));
        let found = turning.finish(length.value().over(tick.value()).unwrap().floor() as u64);
        // A level that is there from the start is no edge.
        prop_assert!(found.pulses.abs_diff(u64::from(pulses * turns)) <= 1);
        let turn = period.times(pulses.into()).unwrap().over(tick.value()).unwrap().approx();
        let (least, most) = found.turn.ends().unwrap();
        prop_assert!((least as f64 - turn).abs() <= 1.0 && (most as f64 - turn).abs() <= 1.0, "{least} {most} {turn}");
        prop_assert!((found.mean_turn.unwrap() / turn - 1.0).abs() <= 2.0 * f64::from(pulses) / turn);
        prop_assert_eq!((found.stops.count, found.segments.len()), (0, 1));
        let even = 1.0 / f64::from(pulses);
        prop_assert!(found.places.iter().all(|share| (share - even).abs() <= 2.0 / turn), "{:?}", found.places);
    }
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(250))]
    /// The counter that a picture draws stands at one of its marks, or at an end, wherever the pin changes.
    #[test]
    fn a_pin_changes_where_its_counter_meets_a_mark(dice in dice()) {
        let (_, timer, setting) = dice.setting(300);
        prop_assume!(setting.dither_bits == 0 && setting.ticks <= 100_000);
        let tick = Time::new(Rational::new(1, 1_000_000_000_000).unwrap());
        let length = Time::new(setting.period.value().times(Rational::whole(3)).unwrap());
        let lines = lines(timer, &setting, "s").unwrap();
        let request = WaveRequest { lines, length, tick, rehearsal: FaultInjection::PERFECT };
        let changes: Vec<Change> = Wave::of(&request).unwrap().collect();
        let end = length.value().over(tick.value()).unwrap().approx();
        let a_count = setting.tick.value().over(tick.value()).unwrap().approx();
        for (place, line) in (0..).zip(&request.lines) {
            let counter = request.counter(line, end as u64).unwrap().unwrap();
            let own = changes.iter().filter(|change| change.signal == place && change.at > 0);
            for change in own.filter(|change| (change.at as f64) < end - 3.0 * a_count) {
                let at = change.at as f64;
                // What a comparator does takes up to two counts; a fraction of a source clock is less than another.
                let near = counter.points.windows(2).filter(|pair| {
                    pair[0].0 - 3.0 * a_count <= at && at <= pair[1].0 + 3.0 * a_count
                });
                let values = near.map(|pair| {
                    let run = pair[1].0 - pair[0].0;
                    let share = if run > 0.0 { ((at - pair[0].0) / run).clamp(0.0, 1.0) } else { 0.0 };
                    pair[0].1 + (pair[1].1 - pair[0].1) * share
                });
                let ends = [0.0, counter.top.0];
                let marks: Vec<f64> = counter.marks.iter().map(|(mark, _)| *mark).chain(ends).collect();
                let values: Vec<f64> = values.collect();
                let met = values.iter().any(|value| marks.iter().any(|mark| (mark - value).abs() <= 3.0));
                prop_assert!(met, "{} {}: at {at} {values:?}, {marks:?}", timer.path(), setting.plan.mode);
            }
        }
    }
}

/// Period and active time are those of the setting, to a tick of the recorder and what the divider does to single edges.
fn holds(
    setting: &Setting,
    output: &kairotic_core::setting::Output,
    found: &Measurement,
    tick: Time,
) -> Result<(), TestCaseError> {
    let timing =
        found.timing.as_ref().ok_or_else(|| TestCaseError::fail(format!("no period in {found:?}")))?;
    let ticks = |time: Time| time.value().over(tick.value()).unwrap().approx();
    // A fractional divider displaces each edge by less than a source clock, and dither by a counter tick; a centred pulse
    // has one edge in each of two cycles.
    let clock = ticks(setting.clock.period().unwrap());
    let room = match (setting.dither_bits > 0, setting.divider.is_whole()) {
        (true, _) => 2.0 * ticks(setting.tick) + 1.0,
        (false, true) => 1.0,
        (false, false) => 2.0 * clock + 1.0,
    };
    let near = |(least, most): (i64, i64), wanted: f64| {
        (least as f64 - wanted).abs() <= room && (most as f64 - wanted).abs() <= room
    };
    let period = timing.period.ends().unwrap();
    prop_assert!(near(period, ticks(setting.period)), "{period:?} {}", ticks(setting.period));
    let active = if output.level == Level::Low { &timing.low } else { &timing.high };
    prop_assert!(
        near(active.ends().unwrap(), ticks(output.pulse)),
        "{:?} {}",
        active.ends(),
        ticks(output.pulse)
    );
    Ok(())
}

/// A servo's signal: 50 Hz and 1.5 ms from 16 MHz.
fn servo() -> Vec<WaveLine> {
    let reading = decoded("stm32f411/tim3", "16MHz", "PSC=4 ARR=63999 CCR1=4800");
    lines(&reading.timer, &reading.setting, "servo").unwrap()
}

#[test]
fn faults_that_were_put_in_are_found_again() {
    let rehearsal = FaultInjection {
        clock_error: "-0.8%".parse().unwrap(),
        jitter: "2us".parse().unwrap(),
        seed: 7,
        missing: vec![30..=30, 80..=81],
        doubled: vec![120..=120],
    };
    let changes = wave(servo(), "4s".parse().unwrap(), ns(10), rehearsal);
    let found = measured(&changes, 1).remove(0);
    assert_eq!((found.missing.count, found.doubled.count, found.irregular.count), (2, 1, 0));
    let timing = found.timing.unwrap();
    // 20 ms / 0.992, and its jitter: the period's has two edges.
    let ratio = timing.clock.period / 2e6 * 0.992 - 1.0;
    assert!(
        ratio.abs() <= timing.clock.uncertainty(1).unwrap(),
        "{ratio} {}",
        timing.clock.uncertainty(1).unwrap()
    );
    assert!(timing.clock.uncertainty(1).unwrap() < 2e-6);
    assert!((timing.clock.rms / 200.0 - 1.0).abs() < 0.15, "{}", timing.clock.rms);
    assert!((timing.period.deviation() / (200.0 * 2_f64.sqrt()) - 1.0).abs() < 0.15);
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(40))]
    #[test]
    fn a_clock_error_lies_within_the_stated_uncertainty(
        ppb in -5_000_000_i64..5_000_000, periods in 4_i64..60, tick in 1_u32..2000,
    ) {
        let error = Rational::new(ppb.into(), 1_000_000_000).unwrap();
        let clock_error = kairotic_core::quantity::Deviation::new(error);
        let rehearsal = FaultInjection { clock_error, ..FaultInjection::PERFECT };
        let length = Time::new(Rational::new(periods.into(), 50).unwrap());
        // Whole multiples of a nanosecond, that fall on all places of a period.
        let changes = wave(servo(), length, ns(tick), rehearsal);
        let timing = measured(&changes, 1).remove(0).timing.unwrap();
        let wanted = 0.02 / (1.0 + error.approx()) / (f64::from(tick) * 1e-9);
        let off = (timing.clock.period / wanted - 1.0).abs();
        prop_assert!(off <= timing.clock.uncertainty(1).unwrap() + 1e-15, "{off} {}", timing.clock.uncertainty(1).unwrap());
    }
}

#[test]
fn complementary_outputs_keep_their_dead_time() {
    let reading = decoded(
        "stm32f411/tim1",
        "100MHz",
        "PSC=0 ARR=4999 CCR1=1250 BDTR.DTG=50 CR1.CKD=0 CCER.CC1NE=1 CCER.CC1E=1 CCMR1.OC1M=6 BDTR.MOE=1",
    );
    let lines = lines(&reading.timer, &reading.setting, "half").unwrap();
    let names: Vec<&str> = lines.iter().map(|line| line.name.as_str()).collect();
    assert_eq!(names, ["half", "halfn"]);
    let changes = wave(lines, "1ms".parse().unwrap(), ns(10), FaultInjection::PERFECT);
    let mut meters = Meters::new(&[true, true], &[(0, 1)], 0);
    meters.take(&changes);
    let found = meters.finish();
    let (signals, pairs) = (found.signals, found.pairs);
    let pair = &pairs[0].1;
    // 50 clocks of 10 ns after either edge, and never both.
    assert_eq!(
        (pair.dead_after_first.ends(), pair.dead_after_second.ends()),
        (Some((50, 50)), Some((50, 50)))
    );
    assert_eq!(pair.overlap.count(), 0);
    assert_eq!(signals[0].1.timing.as_ref().unwrap().high.ends(), Some((1200, 1200)));
}

#[test]
fn a_dithered_counter_is_drawn_in_whole_counts_with_its_marks_between() {
    let dithered = Request { dither: true, ..request("tim3", "170MHz", "44.1kHz", &["25%"]) };
    let derivation = derive(part("stm32g474"), &dithered).unwrap();
    let lines = lines(&derivation.timer, &derivation.best.setting, "pin").unwrap();
    let (length, tick) = ("100us".parse().unwrap(), "1ns".parse().unwrap());
    let request = WaveRequest { lines, length, tick, rehearsal: FaultInjection::PERFECT };
    let counter = request.counter(&request.lines[0], 100_000).unwrap().unwrap();
    // ARR and CCR1 are in sixteenths: 61662 and 15419 of them.
    assert_eq!(counter.top, (61_662.0 / 16.0, "ARR 61662".to_owned()));
    assert_eq!(counter.marks, [(15_419.0 / 16.0, "CCR1 15419".to_owned())]);
    // A run of 3854 or 3855 clocks of 1/170 us, in ticks of 1 ns.
    let (first, second) = (counter.points[0], counter.points[2]);
    assert_eq!((first, second.1), ((0.0, 0.0), 0.0));
    let clocks = second.0 * 0.17;
    assert!((3853.999..3855.001).contains(&clocks), "{clocks}");
}

#[test]
fn several_pins_are_called_by_their_channels() {
    let names = |signals: &[&str], dead_time: bool| {
        let mut request = request("tim1", "100MHz", "20kHz", signals);
        request.target.dead_time = dead_time.then(|| "500ns".parse().unwrap());
        let derivation = derive(part("stm32f411"), &request).unwrap();
        let lines = lines(&derivation.timer, &derivation.best.setting, "vent").unwrap();
        lines.into_iter().map(|line| line.name).collect::<Vec<_>>()
    };
    assert_eq!(names(&["25%"], false), ["vent"]);
    assert_eq!(names(&["25%", "3=50%"], false), ["vent/1", "vent/3"]);
    assert_eq!(names(&["25%"], true), ["vent", "ventn"]);
    assert_eq!(names(&["25%", "50%"], true), ["vent/1", "vent/1n", "vent/2", "vent/2n"]);
}
