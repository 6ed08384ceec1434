//! Mistakes put in on purpose, and found again.

use kairotic_core::decode::Reading;
use kairotic_core::quantity::{Frequency, Rational};
use proptest::prelude::*;

use crate::catalogue::part;
use crate::request::{Readout, decode, readout};

fn names(reading: &Reading) -> Vec<&'static str> {
    reading.findings.iter().map(|finding| finding.name()).collect()
}

fn expecting(registers: &str, clock: &str, hertz: Rational) -> Reading {
    let request = Readout { expect: Some(Frequency::new(hertz)), ..readout("tim3", clock, registers) };
    decode(part("stm32f411"), &request).unwrap()
}

proptest! {
    #[test]
    fn a_top_and_a_divider_that_are_one_too_large_are_found(
        division in 2_u64..60_000,
        ticks in 3_u64..65_000,
        of_top in any::<bool>(),
        of_divider in any::<bool>(),
    ) {
        // What was meant divides by `division` and counts `ticks`; written is one less, or by mistake the number
        // itself.
        let hertz = Rational::new(100_000_000, i128::from(division * ticks)).unwrap();
        let (psc, arr) = (division - 1 + u64::from(of_divider), ticks - 1 + u64::from(of_top));
        let reading = expecting(&format!("PSC={psc} ARR={arr}"), "100MHz", hertz);
        let found = names(&reading);
        prop_assert_eq!(found.contains(&"top-off-by-one"), of_top);
        prop_assert_eq!(found.contains(&"divider-off-by-one"), of_divider);
        for finding in &reading.findings {
            let (right, field) = if finding.name() == "top-off-by-one" { (ticks - 1, "ARR") } else { (division - 1, "PSC") };
            let assignment = format!("{field}={right}");
            prop_assert!(finding.remedy().contains(&assignment), "{}", finding.remedy());
        }
    }

    #[test]
    fn a_clock_that_is_off_by_two_or_four_is_suspected(
        division in 3_u64..1000,
        ticks in 100_u64..60_000,
        (numerator, denominator) in prop::sample::select(vec![(1_i128, 2_i128), (2, 1), (1, 4), (4, 1)]),
    ) {
        // Derived for 20 MHz; the clock that reaches the timer is another.
        let hertz = Rational::new(20_000_000, i128::from(division * ticks)).unwrap();
        let clock = format!("{}Hz", 20_000_000 * numerator / denominator);
        let reading = expecting(&format!("PSC={} ARR={}", division - 1, ticks - 1), &clock, hertz);
        prop_assert_eq!(names(&reading), vec!["bus-clock-suspected"]);
        prop_assert!(reading.findings[0].to_string().contains("20 MHz"), "{}", reading.findings[0].to_string());
    }

    #[test]
    fn what_is_as_it_was_meant_raises_no_suspicion(division in 1_u64..=65_536, ticks in 2_u64..=65_536) {
        let hertz = Rational::new(100_000_000, i128::from(division * ticks)).unwrap();
        let reading = expecting(&format!("PSC={} ARR={}", division - 1, ticks - 1), "100MHz", hertz);
        prop_assert_eq!(names(&reading), Vec::<&str>::new());
    }

    #[test]
    fn a_compare_value_past_the_top_is_found(top in 1_u64..65_534, past in 2_u64..1000) {
        let compare = top + past;
        prop_assume!(compare <= 65_535);
        let reading = decode(part("stm32f411"), &readout("tim3", "100MHz", &format!("PSC=4 ARR={top} CCR1={compare}"))).unwrap();
        prop_assert!(names(&reading).contains(&"compare-past-top"));
        let range = format!("0 to {}", top + 1);
        let told = reading.findings.iter().any(|finding| finding.remedy().contains(&range));
        prop_assert!(told);
    }
}

#[test]
fn doubts_of_the_catalogue_are_passed_on_where_they_bear() {
    let doubtful = |timer: &str, registers: &str| {
        let reading = decode(part("samd21g18"), &readout(timer, "48MHz", registers)).unwrap();
        names(&reading).contains(&"catalogue-unsure")
    };
    // Whether compare 0 is a spike on a TC is not known; compare 1 is in no doubt.
    assert!(doubtful("tc3", "MODE=0 WAVEGEN=3 PRESCALER=0 CC0=99 CC1=0"));
    assert!(!doubtful("tc3", "MODE=0 WAVEGEN=3 PRESCALER=0 CC0=99 CC1=1"));
    // What a TCC does with a compare value above PER in dual slope is not known.
    assert!(doubtful("tcc0", "WAVEGEN=5 POL0=1 PRESCALER=0 PER=99 CC0=150"));
    assert!(!doubtful("tcc0", "WAVEGEN=5 POL0=1 PRESCALER=0 PER=99 CC0=50"));
}
