//! The clock tree: answers with known numbers, and on a small tree every answer against every register setting there
//! is.

use std::collections::{BTreeMap, BTreeSet};
use std::sync::{Arc, LazyLock, Mutex};

use kairotic_core::clock::{
    Arrangement, Bus, JointRequest, JointSetting, ReachRequest, ReachedClock, SourceAsk, buses, from_system,
    joint, reach, state,
};
use kairotic_core::part::{Assignment, Part};
use kairotic_core::quantity::{Deviation, Frequency, Rational};
use kairotic_core::search::Prefer;
use kairotic_core::target::Aim;
use kairotic_formats::part_file;
use kairotic_formats::text_file::Source;
use proptest::prelude::*;
use proptest::test_runner::TestCaseError;

use crate::catalogue::{PARTS, part};
use crate::request::derive;

static SMALL: LazyLock<Part> = LazyLock::new(|| {
    let bytes = include_bytes!("small-tree.toml").to_vec();
    let source = Source { file: "small-tree.toml".to_owned(), bytes };
    part_file::read(&source, &kairotic_parts::block_file).unwrap_or_else(|error| panic!("{error}"))
});

fn hz(frequency: i64) -> Frequency {
    Frequency::new(Rational::whole(frequency))
}

fn from(text: &str) -> Option<SourceAsk> {
    Some(text.parse().unwrap())
}

fn request(timer: &str, source: &str, reach: &str) -> ReachRequest {
    let within = "1%".parse().unwrap();
    ReachRequest { timer: timer.to_owned(), source: from(source), reach: reach.parse().unwrap(), within }
}

fn assignments(arrangement: &Arrangement) -> Vec<Assignment> {
    let writes = arrangement.writes.iter();
    writes.map(|write| Assignment { name: write.name(), value: write.written.number().unwrap() }).collect()
}

#[test]
fn the_bus_divider_doubles_and_the_switch_quadruples() {
    let at = |buses: &[(&str, u64)]| {
        let given: Vec<Bus> =
            buses.iter().map(|(name, value)| Bus { name: (*name).to_owned(), value: *value }).collect();
        from_system(part("stm32f411"), "tim3", hz(100_000_000), &given).unwrap().frequency
    };
    assert_eq!(at(&[("apb1", 2)]), hz(100_000_000));
    assert_eq!(at(&[("apb1", 4)]), hz(50_000_000));
    assert_eq!(at(&[("apb1", 4), ("timpre", 1)]), hz(100_000_000));
    // An undivided bus would have 100 MHz, twice what it may have: the smallest legal division is two.
    assert_eq!(at(&[]), hz(100_000_000));
    assert!(buses(part("stm32f411"), "tim3", hz(101_000_000), &[]).is_err());
}

#[test]
fn a_crystal_of_12_mhz_gives_96_mhz_by_6_times_96_by_2() {
    let reached = reach(part("stm32f411"), &request("tim3", "12MHz", "96MHz")).unwrap();
    let wanted = ["RCC_PLLCFGR.PLLM=6", "RCC_PLLCFGR.PLLN=96", "RCC_PLLCFGR.PLLP=0"];
    let has = |arrangement: &Arrangement| {
        let written: Vec<String> =
            arrangement.writes.iter().map(|write| format!("{}={}", write.name(), write.written)).collect();
        wanted.iter().all(|field| written.iter().any(|known| known == field))
    };
    assert!(has(&reached.ways[0].arrangement));
    assert_eq!(reached.ways[0].arrangement.vco, Some(hz(192_000_000)));
}

/// Legal register settings, each with what reaches the timer.
type LegalSettings = Arc<Vec<(Vec<Assignment>, Frequency)>>;

/// Every register setting of the small tree with a source, where no limit is broken; each source is gone through once.
fn every_setting(source: &str) -> LegalSettings {
    static KNOWN: Mutex<BTreeMap<String, LegalSettings>> = Mutex::new(BTreeMap::new());
    let known = KNOWN.lock().unwrap().get(source).cloned();
    known.unwrap_or_else(|| {
        let found = Arc::new(legal_settings(source));
        KNOWN.lock().unwrap().insert(source.to_owned(), Arc::clone(&found));
        found
    })
}

fn legal_settings(source: &str) -> Vec<(Vec<Assignment>, Frequency)> {
    let mut legal = Vec::new();
    for (m, n, p) in pll_codes() {
        for (src, sw, bus, fast) in (0..2).flat_map(|src| {
            (0..3)
                .flat_map(move |sw| (0..3).flat_map(move |bus| (0..2).map(move |fast| (src, sw, bus, fast))))
        }) {
            let fields =
                [("SRC", src), ("M", m), ("N", n), ("P", p), ("SW", sw), ("BUS", bus), ("FAST", fast)];
            let given: Vec<Assignment> = fields
                .iter()
                .map(|(name, value)| Assignment { name: format!("CLK.{name}"), value: *value })
                .collect();
            // The source decides which way the multiplexers may point.
            let runs_from =
                |name: &str| (sw == 2 && (src == 1) == (name == "xtal")) || sw == u64::from(name == "xtal");
            if !runs_from(source.split('=').next().unwrap()) {
                continue;
            }
            let state = state(&SMALL, &given, from(source).as_ref()).unwrap();
            // Limits of nodes that the clock does not pass do not matter.
            let passes = |node: &str| sw == 2 || !["reference", "vco", "pll"].contains(&node);
            if state.nodes.iter().any(|node| node.illegal.is_some() && passes(&node.node)) {
                continue;
            }
            let timers = state.nodes.iter().find(|node| node.node == "timers").unwrap();
            legal.push((given, timers.frequency.unwrap()));
        }
    }
    legal
}

/// Every combination of the PLL's three codes.
fn pll_codes() -> Vec<(u64, u64, u64)> {
    let combined = (0..5).flat_map(|m| (3..13).flat_map(move |n| [0, 1, 3].map(|p| (m, n, p))));
    combined.collect()
}

/// The joint search of the small tree finds the same settings as trying every clock, division and top.
fn misses_nothing(source: &str, wanted: Rational) -> Result<(), TestCaseError> {
    let clocks: BTreeSet<Frequency> = every_setting(source).iter().map(|(_, clock)| *clock).collect();
    // For each clock the smallest error of all divisions and tops, and of those the most steps.
    let mut best: Vec<(Rational, i64)> = Vec::new();
    for clock in clocks {
        let settings = (1..=4_u32).flat_map(|division| (2..=16_u32).map(move |ticks| (division, ticks)));
        let judged = settings.map(|(division, ticks)| {
            let realised = clock.value().over(Rational::from(division * ticks)).unwrap();
            let ratio = realised.over(wanted).unwrap();
            (ratio.minus(Rational::ONE).unwrap().magnitude(), -i64::from(ticks))
        });
        best.push(judged.min().unwrap());
    }
    best.sort();
    let frequency = Frequency::new(wanted);
    let request = JointRequest { timer: "tim1".into(), base: None, source: from(source), frequency };
    let found = joint(&SMALL, &request).unwrap();
    let found: Vec<(Rational, i64)> = found
        .settings
        .iter()
        .map(|found| (found.error.value().magnitude(), -i64::try_from(found.setting.steps).unwrap()))
        .collect();
    prop_assert_eq!(&found[..], &best[..found.len()]);
    prop_assert_eq!(found.len(), best.len().min(6));
    Ok(())
}

fn sources() -> impl Strategy<Value = String> {
    prop_oneof![Just("rc".to_owned()), (1_u32..21).prop_map(|mhz| format!("xtal={mhz}MHz"))]
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(24))]

    #[test]
    fn every_way_is_legal_and_no_way_is_missing(source in sources(), pick in any::<prop::sample::Index>()) {
        let every = every_setting(&source);
        let wanted = every[pick.index(every.len())].1;
        let request = ReachRequest { timer: "tim1".into(), source: from(&source), reach: wanted, within: Deviation::ZERO };
        let reached = reach(&SMALL, &request).unwrap();
        for way in &reached.ways {
            let given = assignments(&way.arrangement);
            let agrees = |(setting, frequency): &(Vec<Assignment>, Frequency)| {
                *frequency == wanted && given.iter().all(|one| setting.contains(one))
            };
            prop_assert!(every.iter().any(agrees), "{:?} is no legal setting for {wanted}", given);
        }
        // Each setting is one way's and no other's, so that their number is right too.
        for (setting, _) in every.iter().filter(|(_, frequency)| *frequency == wanted) {
            let covers = |way: &&ReachedClock| {
                // A way that does not pass the switch's rule says nothing of it.
                assignments(&way.arrangement).iter().all(|one| setting.contains(one))
            };
            let found = reached.ways.iter().filter(covers).count();
            prop_assert_eq!(found, 1, "{:?}", setting);
        }
    }

    #[test]
    fn what_cannot_be_met_is_met_as_nearly_as_can_be(source in sources(), wanted in 300_000_i64..50_000_000) {
        let wanted = hz(wanted);
        let within: Deviation = "5%".parse().unwrap();
        let error = |frequency: Frequency| {
            frequency.value().over(wanted.value()).unwrap().minus(Rational::ONE).unwrap().magnitude()
        };
        let nearest = every_setting(&source).iter().map(|(_, frequency)| error(*frequency)).min().unwrap();
        let request = ReachRequest { timer: "tim1".into(), source: from(&source), reach: wanted, within };
        match reach(&SMALL, &request) {
            Ok(reached) => prop_assert_eq!(reached.ways[0].error.value().magnitude(), nearest),
            Err(_) => prop_assert!(nearest > within.value()),
        }
    }

    #[test]
    fn the_joint_search_misses_nothing(source in sources(), wanted in 20_000_i64..8_000_000, by in 1_i64..40) {
        misses_nothing(&source, Rational::new(wanted.into(), by.into()).unwrap())?;
    }

    #[test]
    fn of_exact_clocks_those_with_the_most_steps_are_found(
        source in sources(), clock in any::<prop::sample::Index>(), division in 1_u32..=4, ticks in 2_u32..=16,
    ) {
        // What one of the clocks makes exactly, many of them do.
        let clocks: BTreeSet<Frequency> = every_setting(&source).iter().map(|(_, clock)| *clock).collect();
        let clocks: Vec<Frequency> = clocks.into_iter().collect();
        let wanted = clocks[clock.index(clocks.len())].value().over(Rational::from(division * ticks)).unwrap();
        misses_nothing(&source, wanted)?;
    }

    #[test]
    fn no_setting_of_any_family_breaks_a_limit(
        family in any::<prop::sample::Index>(),
        timer in any::<prop::sample::Index>(),
        mhz in 1_u32..300,
        crystal in 1_u32..26,
    ) {
        let families: Vec<&Part> = PARTS.iter().filter(|part| part.tree.is_some()).collect();
        let part = families[family.index(families.len())];
        let timer = &part.timers[timer.index(part.timers.len())].name;
        let within = "2%".parse().unwrap();
        for source in [None, from(&format!("{crystal}MHz"))] {
            let request = ReachRequest { timer: timer.clone(), source, reach: hz(i64::from(mhz) * 1_000_000), within };
            let Ok(reached) = reach(part, &request) else { continue };
            for way in reached.ways.iter().take(20) {
                // The way back, which knows nothing of the search, has to find the same clock and nothing illegal on
                // the way.
                let first = &way.arrangement.passages[0];
                let source = from(&format!("{}={}", first.node, first.frequency));
                let state = state(part, &assignments(&way.arrangement), source.as_ref()).unwrap();
                for passage in &way.arrangement.passages {
                    let node = state.nodes.iter().find(|node| node.node == passage.node).unwrap();
                    prop_assert_eq!(node.frequency, Some(passage.frequency));
                    prop_assert_eq!(&node.illegal, &None);
                }
            }
        }
    }
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(48))]

    #[test]
    fn no_clock_of_any_family_beats_the_joint_search(
        family in any::<prop::sample::Index>(),
        timer in any::<prop::sample::Index>(),
        others in prop::collection::vec(1_i64..3_000_000, 3),
        wanted in 20_i64..3_000_000,
        crystal in 4_u32..25,
    ) {
        let families: Vec<&Part> = PARTS.iter().filter(|part| part.tree.is_some()).collect();
        let part = families[family.index(families.len())];
        let timer = &part.timers[timer.index(part.timers.len())].name;
        let ask = |thirds: i64| JointRequest {
            timer: timer.clone(),
            base: None,
            source: from(&format!("{crystal}MHz")),
            frequency: Frequency::new(Rational::new(thirds.into(), 3).unwrap()),
        };
        let Ok(found) = joint(part, &ask(wanted)) else { return Ok(()) };
        let worst = found.settings.last().unwrap().error.value().magnitude();
        let order = |one: &JointSetting| (one.error.value().magnitude(), std::cmp::Reverse(one.setting.steps));
        prop_assert!(found.settings.is_sorted_by_key(order), "{timer} of {}: {wanted}", part.name);
        for setting in &found.settings {
            // How its clock is made is the first answer to the question for that clock.
            let (source, reach) = (from(&format!("{crystal}MHz")), setting.arrangement.frequency);
            let alone = ReachRequest { timer: timer.clone(), source, reach, within: Deviation::ZERO };
            prop_assert_eq!(&self::reach(part, &alone).unwrap().ways[0].arrangement, &setting.arrangement);
        }
        // Clocks that the tree can make: those of other searches.
        let clocks = others.iter().filter_map(|other| joint(part, &ask(*other)).ok()).flat_map(|other| other.settings);
        // What the timer makes of a clock at best, by the search that tries every division.
        let alone = |clock: Frequency| {
            let mut request = crate::request::request(timer, "1Hz", "1Hz", &[]);
            request.clock.as_mut().unwrap().nominal = clock;
            request.target.aim = Aim::Frequency(ask(wanted).frequency);
            request.prefer = Some(Prefer::Exact);
            request.allow_overclock = true;
            Some(derive(part, &request).ok()?.best.fit.frequency_error.value().magnitude())
        };
        for setting in &found.settings {
            if let Some(error) = alone(setting.arrangement.frequency) {
                prop_assert_eq!(setting.error.value().magnitude(), error, "{} of {}", timer, &part.name);
            }
        }
        for clock in clocks.map(|setting| setting.arrangement.frequency) {
            if found.settings.iter().any(|found| found.arrangement.frequency == clock) {
                continue;
            }
            let Some(error) = alone(clock) else { continue };
            prop_assert!(error >= worst || found.settings.len() < 6, "{timer} of {}: {clock} has {error}, not {worst}", part.name);
        }
    }
}

#[test]
fn what_is_settled_of_another_branch_is_not_on_the_way() {
    let given = ["ahb=2", "apb1=4", "apb2=2"].map(|text| text.parse::<Bus>().unwrap());
    let names = |timer: &str| -> Vec<String> {
        let found = kairotic_core::clock::on_the_way(part("stm32f411"), timer, &given).unwrap();
        found.into_iter().map(|bus| bus.name).collect()
    };
    // tim3 hangs on APB1, tim1 on APB2.
    assert_eq!(
        (names("tim3"), names("tim1")),
        (vec!["ahb".to_owned(), "apb1".to_owned()], vec!["ahb".to_owned(), "apb2".to_owned()])
    );
}
