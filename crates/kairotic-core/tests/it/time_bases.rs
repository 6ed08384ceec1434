//! Ticks, against trying every division.

use kairotic_core::part::{Part, TimerUse};
use kairotic_core::quantity::{Rational, Time};
use kairotic_core::search::{TimeBase, TimeBaseRequest, derive_time_base};
use proptest::prelude::*;
use proptest::sample::Index;

use crate::catalogue::{TIMERS, part};
use crate::request::clock;

fn request<'p>(part: &'p Part, timer: &str, clock_text: &str, tick: Time) -> TimeBaseRequest<'p> {
    TimeBaseRequest {
        on: TimerUse::of(part, timer).clocked(clock(clock_text)),
        tick,
        within: "100ppm".parse().unwrap(),
        mode: None,
        all: false,
    }
}

fn divider(time_base: &TimeBase) -> Rational {
    time_base.settings[0].setting.divider
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(300))]
    #[test]
    fn the_nearest_division_leads(timer in any::<Index>(), clocks in 1_i128..300_000, parts in 1_i128..40) {
        let (part, timer) = timer.get(&TIMERS);
        // Fixed-point dividers with millions of steps would take too long to try.
        prop_assume!(timer.block.dividers.iter().all(|stage| stage.steps.count() < 70_000));
        // The wanted tick is `clocks / parts` source clocks of 1 MHz.
        let ideal = Rational::new(clocks, parts).unwrap();
        let tick = Time::new(ideal.over(Rational::whole(1_000_000)).unwrap());
        let mut products = vec![Rational::from(timer.block.fixed_divider)];
        for stage in &timer.block.dividers {
            let steps: Vec<Rational> = (0..70_000).filter_map(|code| stage.steps.meaning(code)).collect();
            products = products.iter().flat_map(|product| steps.iter().map(|step| product.times(*step).unwrap())).collect();
        }
        let distance = |division: &Rational| division.minus(ideal).unwrap().magnitude();
        let nearest = products.iter().copied().min_by_key(|division| (distance(division), *division)).unwrap();
        let base = timer.base.as_ref().map(|base| base.name.clone());
        let mut request = request(part, &timer.name, "1MHz", tick);
        request.on.base = base;
        match derive_time_base(&request) {
            Ok(time_base) => prop_assert_eq!(divider(&time_base), nearest),
            // No division for it: the nearest is off by more than half.
            Err(_) => prop_assert!(distance(&nearest) > ideal.over(Rational::whole(2)).unwrap()),
        }
    }
}

#[test]
fn a_tick_between_two_taps_shows_both() {
    // 16 MHz: taps of 8 and 64 make 500 ns and 4 us.
    let time_base =
        derive_time_base(&request(part("atmega328p"), "timer1", "16MHz", "1us".parse().unwrap())).unwrap();
    let ticks: Vec<String> = time_base.settings.iter().map(|found| found.setting.tick.exact()).collect();
    assert_eq!(ticks, ["500 ns", "4 us"]);
    assert_eq!(time_base.findings[0].name(), "outside-tolerance");
}

#[test]
fn a_tick_that_is_met_stands_alone() {
    let time_base =
        derive_time_base(&request(part("stm32f411"), "tim2", "100MHz", "1us".parse().unwrap())).unwrap();
    assert_eq!((time_base.settings.len(), divider(&time_base)), (1, Rational::whole(100)));
    assert!(time_base.findings.is_empty());
}

#[test]
fn all_ticks_within_the_tolerance_are_listed_on_request() {
    let wanted = TimeBaseRequest {
        all: true,
        within: "2%".parse().unwrap(),
        ..request(part("stm32f411"), "tim2", "100MHz", "1us".parse().unwrap())
    };
    let time_base = derive_time_base(&wanted).unwrap();
    let divisions: Vec<i128> =
        time_base.settings.iter().map(|found| found.setting.divider.numerator()).collect();
    // Nearest first; of two that are equally far the smaller.
    assert_eq!(divisions, [100, 99, 101, 98, 102]);
}
