//! One clock setting for all signals of a board: on a small tree against every register setting there is, and on the
//! families by the way back.

use std::collections::{BTreeMap, BTreeSet};
use std::sync::LazyLock;

use kairotic_core::Error;
use kairotic_core::board::{
    Asked, Board, BoardClock, BoardClocks, ClockedBoard, ClockedStepper, Placed, Signal, StepAxis,
    TimerOutput, clocks,
};
use kairotic_core::clock::{SourceAsk, state};
use kairotic_core::load::{PhaseMode, StepDrive, StepRates, Stepper};
use kairotic_core::part::{Assignment, Part, TimerUse};
use kairotic_core::quantity::units::{hz, mhz, percent};
use kairotic_core::quantity::{Frequency, Range, Rational, StepRate};
use kairotic_core::search::derive;
use kairotic_core::target::{Active, Aim, Target};
use kairotic_formats::part_file;
use kairotic_formats::text_file::Source;
use proptest::prelude::*;

use crate::catalogue::part;

/// The small tree with a second bus, and a timer on it.
static FORKED: LazyLock<Part> = LazyLock::new(|| {
    let facts = "facts = [{ says = \"made up\", document = \"made-up\", trust = \"verified\" }]";
    let second = format!(
        r#"
[[tree.nodes]]
name = "other-bus"
title = "the other bus clock"
input.node = "sys"
scale.divide = {{ slot = ["CLK.OTHER"], steps = {{ list = [{{ by = 1, code = 0 }}, {{ by = 3, code = 1 }}] }}, reset = 0 }}
gives = "1 Hz..15 MHz"
{facts}
[[tree.nodes]]
name = "other-timers"
title = "the other timer clock"
input.node = "other-bus"
scale.rules = [
    {{ times = 4, when = {{ other-bus = [3], fast = [1] }}, says = "four times the bus" }},
    {{ times = 1, says = "the bus" }},
]
{facts}
[clocks.other]
title = "the other timer clock"
default = "8 MHz"
maximum = "40 MHz"
node = "other-timers"
{facts}
[[timers]]
name = "tim2"
prefix = "TIM2_"
block = "small"
clock = "other"
"#
    );
    let text = include_str!("small-tree.toml").replace(r#"FAST = "14""#, r#"FAST = "14", OTHER = "15""#);
    let source = Source { file: "forked.toml".to_owned(), bytes: (text + &second).into_bytes() };
    part_file::read(&source, &kairotic_parts::block_file).unwrap_or_else(|error| panic!("{error}"))
});

const SOURCES: &[&str] = &["rc", "xtal=7MHz", "xtal=12MHz", "xtal=20MHz"];

/// For each source, what every register setting within the limits brings to both timers.
static CLOCKS: LazyLock<BTreeMap<&str, BTreeSet<(Frequency, Frequency)>>> = LazyLock::new(|| {
    let of = |source: &&'static str| (*source, every_pair(source));
    SOURCES.iter().map(of).collect()
});

fn every_pair(source: &str) -> BTreeSet<(Frequency, Frequency)> {
    let xtal = source != "rc";
    let asked: SourceAsk = source.parse().unwrap();
    let mut found = BTreeSet::new();
    let fields: [(&str, Vec<u64>); 7] = [
        ("M", (0..5).collect()),
        ("N", (3..13).collect()),
        ("P", vec![0, 1, 3]),
        ("SW", vec![2, u64::from(xtal)]),
        ("BUS", vec![0, 1, 2]),
        ("FAST", vec![0, 1]),
        ("OTHER", vec![0, 1]),
    ];
    let mut settings = vec![vec![("SRC", u64::from(xtal))]];
    for (name, codes) in fields {
        let with = |code: &u64| {
            let add = move |setting: &Vec<(&'static str, u64)>, code| {
                [setting.as_slice(), &[(name, code)]].concat()
            };
            settings.iter().map(|setting| add(setting, *code)).collect::<Vec<_>>()
        };
        settings = codes.iter().flat_map(with).collect();
    }
    for setting in settings {
        let value = |name: &str| setting.iter().find(|(known, _)| *known == name).unwrap().1;
        // The PLL's codes do not matter where the clock does not pass it.
        if value("SW") != 2 && (value("M"), value("N"), value("P")) != (0, 3, 0) {
            continue;
        }
        let given =
            setting.iter().map(|(name, value)| Assignment { name: format!("CLK.{name}"), value: *value });
        let state = state(&FORKED, &given.collect::<Vec<_>>(), Some(&asked)).unwrap();
        let passes = |node: &str| value("SW") == 2 || !["reference", "twice", "vco", "pll"].contains(&node);
        if state.nodes.iter().any(|node| node.illegal.is_some() && passes(&node.node)) {
            continue;
        }
        let clock = |timer: &str| state.timers.iter().find(|known| known.timer == timer).unwrap().frequency;
        found.insert((clock("tim1").unwrap(), clock("tim2").unwrap()));
    }
    found
}

/// A board whose signals come out of some timers' first channels.
fn board(part: &str, signals: &[(&str, Aim)]) -> Board {
    let signal = |(at, (timer, aim)): (usize, &(&str, Aim))| {
        let on = Some(TimerOutput { timer: (*timer).to_owned(), channel: None });
        Signal::new(format!("signal-{at}"), Placed { on, pin: None }, *aim)
    };
    let signals = signals.iter().enumerate().map(signal).collect();
    Board { signals, ..Board::empty(part.to_owned(), BoardClock::default()) }
}

/// How good a setting is: fewer that are not exact, a smaller largest error, more steps (less as they are counted here) of
/// the signal with the fewest, then of the next.
type Merit = (usize, Rational, Vec<i64>);

fn merit(signals: &[(Rational, u64)]) -> Merit {
    let off = signals.iter().filter(|(error, _)| !error.is_zero()).count();
    let worst = signals.iter().map(|(error, _)| *error).max().unwrap();
    let mut steps: Vec<u64> = signals.iter().map(|(_, steps)| *steps).collect();
    steps.sort_unstable();
    (off, worst, steps.into_iter().map(|steps| -i64::try_from(steps).unwrap()).collect())
}

/// How far a frequency is off what is wanted.
fn error(aim: Aim, made: Frequency) -> Rational {
    let (low, high) = match aim {
        Aim::Window(window) => (window.low, window.high),
        Aim::Frequency(wanted) => (wanted, wanted),
        Aim::Period(_) => panic!("no period is asked for here"),
    };
    let nearest = made.max(low).min(high);
    made.value().over(nearest.value()).unwrap().minus(Rational::ONE).unwrap().magnitude()
}

fn merit_of(found: &ClockedBoard) -> Merit {
    let signals: Vec<(Rational, u64)> =
        found.signals.iter().map(|one| (one.error.value().magnitude(), one.setting.steps)).collect();
    merit(&signals)
}

fn aims() -> impl Strategy<Value = Aim> {
    let frequency = (150_000_i64..6_000_000, 1_i64..12).prop_map(|(wanted, by)| {
        Aim::Frequency(Frequency::new(Rational::new(wanted.into(), by.into()).unwrap()))
    });
    let round = (1_u32..40).prop_map(|many| Aim::Frequency(hz(many * 50_000)));
    let window = (200_000_u32..2_000_000, 2_u32..40)
        .prop_map(|(low, more)| Aim::Window(Range { low: hz(low), high: hz(low + low / 100 * more) }));
    // Just inside and just outside the slowest that a clock gives: 64 clocks a period.
    let edge = (prop::sample::select(vec![2_i128, 4, 8, 12, 16]), -200_i128..200).prop_map(|(mhz, ppm)| {
        Aim::Frequency(Frequency::new(Rational::new(mhz * (1_000_000 + ppm), 64).unwrap()))
    });
    prop_oneof![2 => frequency, 3 => round, 1 => window, 2 => edge]
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(96))]

    #[test]
    fn no_setting_of_a_small_tree_is_better(
        source in prop::sample::select(SOURCES),
        first in aims(),
        second in aims(),
        one_timer in prop::bool::weighted(0.2),
    ) {
        let signals: Vec<(&str, Aim)> = if one_timer { vec![("tim2", first)] } else { vec![("tim1", first), ("tim2", second)] };
        let asked: SourceAsk = source.parse().unwrap();
        let mut merits = BTreeMap::new();
        for pair in &CLOCKS[source] {
            let clock = |timer: &str| if timer == "tim1" { pair.0 } else { pair.1 };
            let made: Option<Vec<(Rational, u64)>> = signals.iter().map(|(timer, aim)| {
                let on = TimerUse::of(&FORKED, *timer).clocked(clock(timer).exactly());
                let best = derive(&on, &Target::of(*aim)).ok()?.best;
                Some((error(*aim, best.setting.frequency), best.setting.steps))
            }).collect();
            if let Some(made) = made {
                // Settings that bring the same clocks are one.
                let clocks: Vec<Frequency> = signals.iter().map(|(timer, _)| clock(timer)).collect();
                merits.insert(clocks, merit(&made));
            }
        }
        let mut expected: Vec<Merit> = merits.into_values().collect();
        expected.sort();
        match clocks(&board("small-tree", &signals), &FORKED, Some(&asked)) {
            Ok(BoardClocks { settings, .. }) => {
                let found: Vec<Merit> = settings.iter().map(merit_of).collect();
                prop_assert_eq!(found.len(), expected.len().min(6));
                prop_assert_eq!(&found[..], &expected[..found.len()]);
            }
            Err(error) => prop_assert!(expected.is_empty(), "{error}, and {} serve", expected.len()),
        }
    }
}

/// Each setting is legal and brings the clocks that it says, by the registers and by what a board file would say.
fn comes_back(part: &Part, found: &BoardClocks, board: &Board) {
    for setting in &found.settings {
        let first = &setting.arrangements[0].passages[0];
        let source: SourceAsk = format!("{}={}", first.node, first.frequency).parse().unwrap();
        let registers: Vec<Assignment> = setting
            .writes
            .iter()
            .map(|write| Assignment { name: write.name(), value: write.written.number().unwrap() })
            .collect();
        let by_registers = BoardClock { source: Some(source.clone()), registers, ..BoardClock::default() };
        let by_system = setting.system_and_buses(part).map(|(system, buses)| BoardClock {
            source: Some(source.clone()),
            system: Some(system.exactly()),
            buses,
            ..BoardClock::default()
        });
        for (signal, asked) in setting.signals.iter().zip(&board.signals) {
            for clock in [Some(&by_registers), by_system.as_ref()].into_iter().flatten() {
                let (reached, _) = clock.of(part, &signal.place.timer).unwrap();
                assert_eq!(reached.map(|clock| clock.nominal), Some(signal.clock), "{}", part.name);
            }
            let on = TimerUse::of(part, &signal.place.timer).clocked(signal.clock.exactly());
            let alone = derive(&on, &Target::of(asked.aim).duty(percent(30))).unwrap().best.setting.frequency;
            assert_eq!(alone, signal.setting.frequency);
        }
    }
}

/// A part, a source, and timers with their frequencies in hertz.
type FamilyCase = (&'static str, &'static str, &'static [(&'static str, u32)]);

#[test]
fn what_is_found_for_a_family_is_legal_and_comes_back() {
    let cases: &[FamilyCase] = &[
        ("stm32f411", "12MHz", &[("tim1", 20_000), ("tim3", 50), ("tim2", 48_000)]),
        ("stm32g071", "8MHz", &[("tim1", 44_000), ("tim15", 48_000), ("tim3", 50)]),
        ("stm32h743", "25MHz", &[("tim1", 44_000), ("tim2", 48_000)]),
        ("samd21g18", "xosc=16MHz", &[("tcc0", 44_000), ("tcc1", 48_000), ("tcc2", 50)]),
        ("same54p20", "xosc=12MHz", &[("tcc0", 20_000), ("tc0", 1_000), ("tc2", 3_000)]),
        ("rp2040", "12MHz", &[("slice0", 44_000), ("slice1", 48_000)]),
        ("atmega32u4", "16MHz", &[("timer4", 50_000), ("timer1", 50)]),
        ("esp32c6", "rc-fast", &[("mcpwm0-0", 5_000), ("timer0", 1_000)]),
    ];
    for (name, source, signals) in cases {
        let part = part(name);
        let signals: Vec<(&str, Aim)> =
            signals.iter().map(|(timer, frequency)| (*timer, Aim::Frequency(hz(*frequency)))).collect();
        let mut board = board(name, &signals);
        for signal in &mut board.signals {
            signal.asked = Some(Asked::Active(Active::Duty(percent(30))));
        }
        let found = clocks(&board, part, Some(&source.parse().unwrap()))
            .unwrap_or_else(|error| panic!("{name}: {error}"));
        comes_back(part, &found, &board);
    }
}

#[test]
fn a_clock_for_44_1_khz_and_48_khz_is_a_multiple_of_both() {
    // 44.1 kHz and 48 kHz have 7.056 MHz in common; a divider in sixteenths makes 1/16 of that enough.
    let part = part("rp2040");
    let signals = [("slice0", Aim::Frequency(hz(44_100))), ("slice1", Aim::Frequency(hz(48_000)))];
    let found = clocks(&board("rp2040", &signals), part, Some(&"12MHz".parse().unwrap())).unwrap();
    let best = &found.settings[0];
    assert_eq!(best.exact, 2);
    let sixteenth = Rational::new(7_056_000, 16).unwrap();
    assert!(best.signals[0].clock.value().over(sixteenth).unwrap().is_whole());
}

/// One needs the fastest clock there is, the other a slow one: each alone has a clock, both have none.
#[test]
fn what_no_clock_serves_together_is_refused_with_the_reason() {
    let (fast, slow) = (("timer0", Aim::Frequency(hz(62_500))), ("timer2", Aim::Frequency(hz(1))));
    let at = |signals: &[(&str, Aim)]| {
        clocks(&board("atmega328p", signals), part("atmega328p"), Some(&"16MHz".parse().unwrap()))
    };
    assert!(at(&[fast]).is_ok() && at(&[slow]).is_ok());
    let refused = at(&[fast, slow]);
    assert!(matches!(refused, Err(Error::Unreachable(_))), "{refused:?}");
}

#[test]
fn what_no_clock_is_fast_enough_for_is_refused_with_the_reason() {
    let signals = [("tim3", Aim::Frequency(hz(80_000_000)))];
    let refused = clocks(&board("stm32f411", &signals), part("stm32f411"), Some(&"12MHz".parse().unwrap()));
    assert!(matches!(refused, Err(Error::Unreachable(_))), "{refused:?}");
}

#[test]
fn a_clock_on_which_a_stepper_cannot_be_moved_is_not_taken() {
    // From rest at 0.0005 steps/s2 the first step comes after sqrt(2 / 0.0005) = 63.2 s. A counter of 16 bits behind a
    // divider of 16 bits is longer than that at 67.9 MHz and less; the signal alone takes a faster clock.
    let signals = [("tim3", Aim::Frequency(hz(50)))];
    let (part, source) = (part("stm32f411"), Some("12MHz".parse().unwrap()));
    let alone = board("stm32f411", &signals);
    let stepper = |acceleration: &str| Stepper {
        steps_per_turn: Rational::whole(200),
        gear: Rational::ONE,
        drive: StepDrive::FourWire { mode: PhaseMode::Full },
        rates: StepRates {
            start: StepRate::ZERO,
            fastest: "1steps/s".parse().unwrap(),
            acceleration: acceleration.parse().unwrap(),
            jerk: None,
        },
        travel: None,
        backlash: None,
    };
    let with = |acceleration: &str| Board {
        axes: vec![StepAxis {
            name: "slit".to_owned(),
            load: "slit".to_owned(),
            stepper: stepper(acceleration),
            place: Placed { on: Some(TimerOutput { timer: "tim10".to_owned(), channel: None }), pin: None },
            direction: None,
            lines: ["PB12", "PB13", "PB14", "PB15"].map(str::to_owned).into(),
            windings: None,
            before: 1,
        }],
        ..alone.clone()
    };
    let fastest = clocks(&alone, part, source.as_ref()).unwrap();
    assert!(fastest.settings[0].signals[0].clock > mhz(68));
    let found = clocks(&with("0.0005steps/s2"), part, source.as_ref()).unwrap();
    for setting in &found.settings {
        let ClockedStepper { clock, tick, .. } = &setting.steppers[0];
        let longest = tick.value().times(Rational::whole(65_536)).unwrap().approx();
        assert!(clock.value().approx() < 67_910_000.0 && longest > 63.2, "{clock} {tick}");
    }
    // What a quick step needs takes nothing away.
    let quick = clocks(&with("5steps/s2"), part, source.as_ref()).unwrap();
    assert_eq!(quick.settings[0].signals, fastest.settings[0].signals);
    // 163 days are longer than any period.
    let refused = clocks(&with("0.00000000000001steps/s2"), part, source.as_ref());
    assert!(matches!(refused, Err(Error::StepTooLong { .. })));
}
