//! Speed measurement, held against a counter and pulses that are played one by one.

use kairotic_core::finding::Severity;
use kairotic_core::part::TimerUse;
use kairotic_core::quantity::{Range, Rational, Speed, Time};
use kairotic_core::tach::{Recommendation, TachPlan, TachRequest, plan};
use proptest::prelude::*;

use crate::catalogue::{PARTS, part};
use crate::request::clock;

fn request(
    place: &str,
    clock_text: &str,
    pulses_per_turn: u32,
    speeds: (&str, &str),
) -> TachRequest<'static> {
    let (name, timer) = place.split_once('/').unwrap();
    TachRequest {
        on: TimerUse::of(part(name), timer).clocked(clock(clock_text)),
        pulses_per_turn,
        speeds: Range { low: speeds.0.parse().unwrap(), high: speeds.1.parse().unwrap() },
        window: None,
        resolve: None,
    }
}

fn time(text: &str) -> Time {
    text.parse().unwrap()
}

fn names(plan: &TachPlan) -> Vec<&str> {
    plan.findings.iter().map(|finding| finding.name()).collect()
}

#[test]
fn the_tick_is_the_finest_that_the_slowest_speed_allows() {
    let plan = plan(&request("stm32f411/tim9", "96MHz", 2, ("300rpm", "3000rpm"))).unwrap();
    let interval = plan.interval.as_ref().unwrap();
    // 300 rpm with two pulses a turn is a pulse each 100 ms: 9 600 000 clocks. Divided by 146 these are 65753.4 counts, more
    // than 65535; by 147, 65306.1. At 3000 rpm 960 000 / 147 = 6530.6.
    let writes: Vec<(String, u64)> =
        interval.counter.writes.iter().map(|write| (write.name(), write.written.number().unwrap())).collect();
    assert_eq!(writes, [("PSC".to_owned(), 146)]);
    assert_eq!((interval.counts, interval.stop), ((6530, 65307), time("100ms")));
    // 65536 ticks of 147 clocks.
    assert_eq!(interval.overflow, time("100.352ms"));
    // With 6530 counts 60 / (2 · 6530 · t), with one more 60 / (2 · 6531 · t): 96e6 · 30 / 147 / 6530 / 6531 apart.
    let step = plan.at(plan.speeds.high).unwrap().interval.unwrap().step;
    let by_hand = Rational::new(96_000_000 * 30, 147 * 6530 * 6531).unwrap();
    assert_eq!(step.value().times(Rational::whole(60)).unwrap(), by_hand);
    // A second's window counts 100 pulses at most, 30 rpm apart: periods are finer up to 60 / (2 · √(1.53125 us · 1 s)).
    assert_eq!((plan.window.counts, plan.window.step), ((10, 100), "30rpm".parse().unwrap()));
    assert!((plan.crossover.unwrap().value().approx() * 60.0 - 24_243.66).abs() < 0.01);
    assert_eq!(
        (plan.recommendation, plan.window.stop, names(&plan)),
        (Recommendation::Period, time("2s"), vec![])
    );
}

#[test]
fn a_wanted_step_makes_the_window_as_long_as_it_has_to_be() {
    let mut request = request("stm32f411/tim9", "96MHz", 2, ("300rpm", "3000rpm"));
    request.resolve = Some("5rpm".parse().unwrap());
    // 60 / (2 · 5).
    assert_eq!(plan(&request).unwrap().window.length, time("6s"));
    // An encoder of 1000 lines at 96 000 rpm gives 1.6 MHz: 60 clocks a pulse. One count is 60 · 96e6 / 1000 / (60 · 61).
    let mut fast = self::request("stm32f411/tim9", "96MHz", 1000, ("6000rpm", "96000rpm"));
    fast.window = Some(time("1ms"));
    fast.resolve = Some("10rpm".parse().unwrap());
    let plan = plan(&fast).unwrap();
    assert_eq!(plan.recommendation, Recommendation::Both);
    // 60 / (1000 · 1 ms) = 60 rpm a count: six times too coarse.
    let [finding] = plan.findings.as_slice() else { panic!("{:?}", plan.findings) };
    assert_eq!((finding.name(), finding.severity()), ("speed-step-too-coarse", Severity::Error));
    assert!(finding.remedy().contains("6 ms"), "{}", finding.remedy());
}

#[test]
fn what_a_counter_cannot_hold_is_said() {
    // 16 MHz / 1024 are 64 us a tick: 65535 of them are 4.194 s, with one pulse a turn 14.3 rpm.
    let plan = plan(&request("atmega328p/timer1", "16MHz", 1, ("10rpm", "200rpm"))).unwrap();
    let interval = plan.interval.as_ref().unwrap();
    assert_eq!(interval.counter.tick, time("64us"));
    let slowest = interval.slowest.value().times(Rational::whole(60)).unwrap();
    assert_eq!(slowest, Rational::new(60 * 1_000_000, 64 * 65535).unwrap());
    // A pulse comes each 6 s: no window of a second holds one each time.
    assert_eq!(names(&plan), ["counter-overflows", "window-too-short"]);
    let narrow = request("atmega328p/timer0", "16MHz", 2, ("600rpm", "60000rpm"));
    let plan = self::plan(&narrow).unwrap();
    // It counts only: up to 2000 pulses in a second, in eight bits.
    assert!(plan.interval.is_none());
    assert_eq!((plan.recommendation, names(&plan)), (Recommendation::Window, vec!["counter-overflows"]));
    let none = self::plan(&request("atmega328p/timer2", "16MHz", 2, ("600rpm", "6000rpm")));
    let hint = none.unwrap_err().hint().unwrap();
    assert!(hint.contains("timer0, timer1") && !hint.contains("timer2"), "{hint}");
}

#[test]
fn a_wider_counter_of_the_part_is_named_where_there_is_one() {
    // 100 MHz / 65536 is 655.36 us a tick: 65535 of them are 43 s; once a minute is slower than that.
    let remedy = |timer: &str| {
        let plan = plan(&request(&format!("stm32f411/{timer}"), "100MHz", 1, ("1rpm", "100rpm"))).unwrap();
        plan.findings.iter().find(|one| one.name() == "counter-overflows").map(|one| one.remedy())
    };
    let sixteen = remedy("tim3").unwrap();
    assert!(sixteen.ends_with("; or take tim2, which has 32 bits"), "{sixteen}");
    assert_eq!(remedy("tim2"), None);
    // A part without a wider one has no such advice.
    let plan = plan(&request("atmega328p/timer1", "16MHz", 1, ("10rpm", "200rpm"))).unwrap();
    assert!(!plan.findings[0].remedy().contains("take"), "{}", plan.findings[0].remedy());
}

#[test]
fn the_counter_with_the_finest_tick_is_chosen() {
    // 32 bits of 48 MHz go on for 89 s, so that nothing has to be divided.
    let request = request("samd21g18/tc4", "48MHz", 2, ("60rpm", "3000rpm"));
    let plan = plan(&request).unwrap();
    let interval = plan.interval.unwrap();
    assert_eq!((interval.base.as_deref(), interval.counter_bits), (Some("count32"), 32));
    assert_eq!(interval.counter.divider, Rational::ONE);
}

#[test]
fn every_timer_says_what_it_does_with_pulses() {
    for part in PARTS.iter() {
        for timer in &part.timers {
            let inputs = part.timer(&timer.name, None).unwrap().block.inputs;
            assert!(inputs.is_some(), "{}/{}", part.name, timer.name);
        }
    }
}

/// Captured counts of pulses that come evenly from a time on, in a counter that comes round.
fn captured(tick: Rational, gap: Rational, from: Rational, bits: u32) -> Vec<u64> {
    let at = |n: i64| gap.times(Rational::whole(n)).unwrap().plus(from).unwrap();
    let count = |n: i64| at(n).over(tick).unwrap().floor() as u64 & (u64::MAX >> (64 - bits));
    (0..12).map(count).collect()
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(256))]

    /// Between two pulses the counter, which may come round, tells the speed to the step that was promised, and so does a
    /// window; at the slowest speed as well.
    #[test]
    fn readings_are_within_the_step(
        low in 20_u32..2_000, factor in 2_u32..60, share in 0_u32..=1000, pulses in 1_u32..12, from in 0_u32..10_000,
    ) {
        let rpm = |rpm: Rational| Speed::new(rpm.over(Rational::whole(60)).unwrap());
        let (low, high) = (Rational::from(low), Rational::from(low * factor));
        let mut wanted = request("stm32f411/tim9", "84MHz", pulses, ("1rpm", "2rpm"));
        wanted.speeds = Range { low: rpm(low), high: rpm(high) };
        let plan = plan(&wanted).unwrap();
        let interval = plan.interval.as_ref().unwrap();
        let span = high.minus(low).unwrap().times(Rational::new(share.into(), 1000).unwrap()).unwrap();
        let speed = rpm(low.plus(span).unwrap());
        let at = plan.at(speed).unwrap();
        let gap = Rational::ONE.over(speed.value().times(pulses.into()).unwrap()).unwrap();
        let tick = interval.counter.tick.value();
        let from = Rational::new(from.into(), 1_000_000).unwrap();
        let counts = captured(tick, gap, from, interval.counter_bits);
        let mask = u64::MAX >> (64 - interval.counter_bits);
        let promised = at.interval.unwrap().step.value();
        for pair in counts.windows(2) {
            let counted = Rational::from(pair[1].wrapping_sub(pair[0]) & mask);
            let read = Rational::ONE.over(counted.times(tick).unwrap().times(pulses.into()).unwrap()).unwrap();
            prop_assert!(read.minus(speed.value()).unwrap().magnitude() <= promised, "{read} {speed}");
        }
        // Pulses from n · gap + from in [k · T, (k + 1) · T), by counting them.
        let length = plan.window.length.value();
        let before = |end: Rational| {
            let n = end.minus(from).unwrap().over(gap).unwrap();
            if n.is_whole() { n.floor() } else { n.floor() + 1 }
        };
        for k in 1..5 {
            let ends = [k, k + 1].map(|k| before(length.times(Rational::whole(k)).unwrap()));
            let read = plan.window.step.value().times(Rational::new(ends[1] - ends[0], 1).unwrap()).unwrap();
            prop_assert!(read.minus(speed.value()).unwrap().magnitude() <= plan.window.step.value());
            prop_assert!((ends[1] - ends[0]) as u64 <= plan.window.counts.1);
        }
    }
}
