//! Pins and doubts of the catalogue: what is listed, and what is left of a part that only computes.

use kairotic_core::Error;
use kairotic_core::part::{Fact, Part, Trust};

use crate::catalogue::PARTS;
use crate::request::decoded;

/// Letters, number and the rest of a pin's name, found digit by digit.
fn in_steps(pin: &str) -> (String, u64, String) {
    let letters: String = pin.chars().take_while(|one| !one.is_ascii_digit()).collect();
    let digits: String = pin[letters.len()..].chars().take_while(char::is_ascii_digit).collect();
    let rest = pin[letters.len() + digits.len()..].to_owned();
    (letters, digits.parse().unwrap_or(0), rest)
}

#[test]
fn pins_are_listed_as_people_count() {
    let mut tens = 0;
    for part in PARTS.iter() {
        let Some(pinout) = &part.pinout else { continue };
        let pins: Vec<_> = pinout.outputs().iter().map(|output| in_steps(&output.pin)).collect();
        assert!(pins.is_sorted(), "{}: {pins:?}", part.name);
        tens += usize::from(pins.iter().any(|(_, number, _)| *number > 9));
    }
    assert!(tens > 10, "{tens}");
}

#[test]
fn what_shares_a_timer_is_each_pin_once() {
    for part in PARTS.iter() {
        let Some(pinout) = &part.pinout else { continue };
        let all = pinout.outputs();
        for timer in &part.timers {
            let sharing = pinout.sharing(&timer.name);
            let of_timer = |pin: &String| all.iter().any(|one| one.timer == timer.name && one.pin == *pin);
            assert!(sharing.iter().all(of_timer), "{}/{}", part.name, timer.name);
            let missing = all.iter().filter(|one| one.timer == timer.name && !sharing.contains(&one.pin));
            assert_eq!(missing.count(), 0, "{}/{}", part.name, timer.name);
            let each: std::collections::BTreeSet<&String> = sharing.iter().collect();
            assert_eq!(each.len(), sharing.len(), "{}/{}: {sharing:?}", part.name, timer.name);
        }
    }
}

#[test]
fn a_pin_that_carries_nothing_is_told_those_that_do() {
    let mut tried = 0;
    for part in PARTS.iter().filter(|part| part.pinout.as_ref().is_some_and(|pinout| !pinout.is_free())) {
        let pinout = part.pinout.as_ref().unwrap();
        for timer in part.timers.iter().map(|timer| &timer.name) {
            let Err(Error::UnknownName { name, place, known, .. }) = part.pin("none", Some(timer)) else {
                panic!("{}/{timer}", part.name)
            };
            assert_eq!((name.as_str(), place), ("none", format!("{}/{timer}", part.name)));
            assert_eq!(known, pinout.sharing(timer), "{}/{timer}", part.name);
            tried += 1;
        }
    }
    assert!(tried > 50, "{tried}");
}

/// Every statement that a computation on a timer may pass on.
fn facts(part: &Part) -> Vec<&Fact> {
    let mut all: Vec<&Fact> = part.oscillators.iter().flat_map(|source| &source.facts).collect();
    all.extend(part.clocks.values().flat_map(|clock| &clock.facts));
    for timer in &part.timers {
        all.extend(&timer.facts);
        all.extend(timer.with.dividers.iter().flat_map(|stage| &stage.facts));
        all.extend(timer.with.dead_time.iter().flat_map(|dead_time| &dead_time.facts));
    }
    for block in part.blocks.values() {
        all.extend(&block.facts);
        all.extend(block.dividers.iter().flat_map(|stage| &stage.facts));
        all.extend(block.modes.iter().flat_map(|mode| &mode.facts));
    }
    all
}

#[test]
fn of_a_part_that_only_computes_the_doubts_are_left_and_no_more() {
    let mut doubts = 0;
    for part in PARTS.iter() {
        let less = part.clone().with_doubts_only();
        let unsure: Vec<&Fact> = facts(part).into_iter().filter(|fact| fact.trust == Trust::Unsure).collect();
        assert_eq!(facts(&less), unsure, "{}", part.name);
        assert!(less.tree.is_none() && less.pinout.is_none());
        doubts += unsure.len();
        // Which oscillator a clock comes from was in the tree, and is kept.
        for (clock, of_less) in part.clocks.values().zip(less.clocks.values()) {
            let name = part.oscillator_after_reset(clock).map(|known| known.name.clone());
            assert_eq!(of_less.oscillator, name, "{}", part.name);
            let kept = less.oscillator_after_reset(of_less).map(|known| known.name.clone());
            assert_eq!(kept, name, "{}", part.name);
        }
    }
    assert!(doubts > 5, "{doubts}");
}

#[test]
fn a_doubt_is_passed_on_where_it_bears_on_what_is_written() {
    // Of the ends of the compare value two things are uncertain here, of what lies above the top a third.
    let (ends, above) = ("CCRn = 0 and CCRn = CCR0", "what a CCRn above CCR0 does");
    let doubts = |compare: u64| {
        let registers = format!("TA1CTL.ID=0 TA1CTL.MC=3 TA1CCR0=500 TA1CCTL1.OUTMOD=2 TA1CCR1={compare}");
        let findings = decoded("msp430g2553/ta1/1", "1MHz", &registers).findings;
        let unsure = findings.into_iter().filter(|finding| finding.name() == "catalogue-unsure");
        unsure.map(|finding| finding.to_string()).collect::<Vec<String>>()
    };
    let says = |compare: u64, part: &str| {
        let doubts = doubts(compare);
        doubts.len() == 1 && doubts[0].contains(part)
    };
    assert!(says(0, ends) && says(500, ends) && says(501, above) && says(600, above));
    assert_eq!((doubts(1), doubts(499)), (Vec::new(), Vec::new()));
}
