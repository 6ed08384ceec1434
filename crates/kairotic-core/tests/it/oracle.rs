//! What the formulas say against what the counter does, clock by clock.

use kairotic_core::part::{CompareLaw, Mode, Timer};
use kairotic_core::quantity::Rational;
use kairotic_core::setting::{Output, Setting};
use kairotic_core::target::Level;
use kairotic_core::waveform::{Cycle, Machine, Values};
use proptest::prelude::*;
use proptest::test_runner::TestCaseError;

use crate::catalogue::dice;
use crate::request::{decoded, read_back};

/// Counter ticks that a case may take to play.
const AFFORDABLE: u64 = 400_000;

fn mode<'t>(timer: &'t Timer, setting: &Setting) -> &'t Mode {
    timer.block.modes.iter().find(|mode| mode.name == setting.plan.mode).unwrap()
}

/// Settled cycles of a channel; a toggling one takes two runs of the counter for a period.
fn played(timer: &Timer, setting: &Setting, output: Option<&Output>, count: usize) -> Vec<Cycle> {
    let mode = mode(timer, setting);
    let inverted = output.is_some_and(|output| output.level == Level::Low);
    let compare = output.and_then(|output| output.compare).unwrap_or(0);
    let machine = Machine::of(timer, mode, setting.divider, inverted);
    let runs = if mode.compare == CompareLaw::Toggle { 2 } else { 1 };
    let cycles: Vec<Cycle> = machine
        .play(Values { top: setting.plan.top, compare }, &[])
        .cycles()
        .skip(2)
        .take(runs * count)
        .collect();
    cycles
        .chunks(runs)
        .map(|runs| Cycle {
            start: runs[0].start,
            length: runs.iter().map(|run| run.length).sum(),
            high: runs.iter().map(|run| run.high).sum(),
        })
        .collect()
}

/// Source clocks per period and high time that the formulas claim.
fn claimed(setting: &Setting, output: Option<&Output>) -> (Rational, Rational) {
    let clocks = |ticks: Rational| ticks.times(setting.divider).unwrap();
    let period = clocks(setting.mean_ticks().unwrap());
    let active = output.map_or(Rational::ZERO, |output| clocks(output.ticks));
    let high = match output.map(|output| output.level) {
        Some(Level::Low) => period.minus(active).unwrap(),
        _ => active,
    };
    (period, high)
}

fn holds(timer: &Timer, setting: &Setting) -> Result<(), TestCaseError> {
    let repeats = setting.jitter.map_or(1, |jitter| jitter.repeats);
    let outputs: Vec<Option<&Output>> = match setting.outputs.as_slice() {
        [] => vec![None],
        outputs => outputs.iter().map(Some).collect(),
    };
    for output in outputs {
        let cycles = played(timer, setting, output, repeats as usize);
        let (period, high) = claimed(setting, output);
        // Over a whole pattern the mean is exact, for the period.
        let total: u128 = cycles.iter().map(|cycle| cycle.length).sum();
        prop_assert_eq!(Rational::new(total as i128, repeats.into()), Some(period));
        // A pattern is no repetition of a shorter one: patterns are powers of two long, so half of it would do. A
        // dithered pulse may need it where the period does not.
        let half: u128 = cycles.iter().take(cycles.len() / 2).map(|cycle| cycle.length).sum();
        prop_assert!(repeats == 1 || half * 2 != total || setting.dither_bits > 0);
        let lengths = cycles.iter().map(|cycle| cycle.length);
        let spread = lengths.clone().max().unwrap() - lengths.min().unwrap();
        let jitters = setting.jitter.is_some_and(|jitter| !jitter.peak_to_peak.value().is_zero());
        if setting.dither_bits > 0 {
            // Dither moves by a counter tick, and only the mean over the pattern is as claimed.
            prop_assert_eq!(
                Rational::new(spread as i128, 1),
                Some(if jitters { setting.divider } else { Rational::ZERO })
            );
            let total: u128 = cycles.iter().map(|cycle| cycle.high).sum();
            prop_assert!(output.is_none() || Rational::new(total as i128, repeats.into()) == Some(high));
            continue;
        }
        prop_assert_eq!(spread, u128::from(jitters));
        if output.is_none() {
            continue;
        }
        for cycle in &cycles {
            // A fractional divider displaces each edge by less than one source clock.
            let off = Rational::new(cycle.high as i128, 1).unwrap().minus(high).unwrap().magnitude();
            let bound = Rational::whole(if setting.divider.is_whole() { 0 } else { 2 });
            prop_assert!(off <= bound, "{} high for {} of {}", off, cycle.high, high);
            let whole = output.is_some_and(|output| output.pulse_clocks.is_none());
            prop_assert!(!setting.divider.is_whole() || whole);
        }
        let constant = output.and_then(|output| output.constant).is_some();
        let never_moves = cycles.iter().all(|cycle| cycle.high == 0 || cycle.high == cycle.length);
        prop_assert_eq!(constant, never_moves);
    }
    Ok(())
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(600))]
    #[test]
    fn periods_and_pulses_are_as_claimed(dice in dice()) {
        let (part, timer, setting) = dice.setting(300);
        let pattern = setting.jitter.map_or(1, |jitter| jitter.repeats);
        prop_assume!((setting.ticks >> setting.dither_bits) * (pattern + 2) <= AFFORDABLE);
        // From the registers, so that decode is held to it as well.
        let reading = read_back(part, timer, &setting).map_err(|error| TestCaseError::fail(error.to_string()))?;
        holds(timer, &reading.setting)?;
    }
}

#[test]
fn sixteen_periods_of_a_sixteenth_differ_by_one_source_clock() {
    let reading = decoded("rp2040/slice0", "125MHz", "DIV=625 TOP=64000");
    let setting = &reading.setting;
    // 64001 · (39 + 1/16) = 2 500 039 1/16 source clocks.
    let lengths: Vec<u128> =
        played(&reading.timer, setting, None, 16).iter().map(|cycle| cycle.length).collect();
    let longer = lengths.iter().filter(|length| **length == 2_500_040).count();
    let shorter = lengths.iter().filter(|length| **length == 2_500_039).count();
    assert_eq!((longer, shorter), (1, 15));
    let jitter = setting.jitter.unwrap();
    assert_eq!((jitter.peak_to_peak, jitter.repeats), ("8ns".parse().unwrap(), 16));
    let mean = lengths.iter().sum::<u128>() as f64 / 16.0;
    let squares = lengths.iter().map(|length| (*length as f64 - mean).powi(2)).sum::<f64>();
    assert!((jitter.rms - (squares / 16.0).sqrt() * 8e-9).abs() < 1e-15, "{}", jitter.rms);
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(400))]
    /// A machine that is played until it stands as before and then repeated does what one does that is played on: with
    /// fractional dividers and dither as well, whose pattern takes several runs of the counter.
    #[test]
    fn what_repeats_is_what_would_be_played(dice in dice()) {
        let (_, timer, setting) = dice.setting(60);
        prop_assume!(setting.ticks <= 20_000);
        let mode = mode(timer, &setting);
        for output in &setting.outputs {
            let machine = Machine::of(timer, mode, setting.divider, output.level == Level::Low);
            let values = Values { top: setting.plan.top, compare: output.compare.unwrap_or(setting.plan.top) };
            let runs = if setting.divider.is_whole() && setting.dither_bits == 0 { 24 } else { 400 };
            let end = setting.divider.times(setting.ticks.into()).unwrap().floor().unsigned_abs() * runs;
            let end = end.min(2_000_000);
            let within = |event: &kairotic_core::waveform::Event| event.at <= end;
            let played: Vec<_> = machine.play(values, &[]).take_while(within).collect();
            let repeated: Vec<_> = machine.repeat(values).take_while(within).collect();
            prop_assert_eq!(played.len(), repeated.len());
            prop_assert!(played == repeated, "{} {}", timer.path(), setting.plan.mode);
        }
    }
}
