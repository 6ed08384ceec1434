//! What findings work out themselves: how bad they are, and the numbers in their words.

use super::*;
use crate::quantity::{Deviation, Dimension, Duty, Frequency, Quantity, Range, Time};

fn q<D: Dimension>(text: &str) -> Quantity<D> {
    crate::quantity::parse::quantity(text).unwrap()
}

#[test]
fn names_are_sorted_and_unique() {
    assert!(NAMES.is_sorted_by(|left, right| left < right));
}

#[test]
fn the_worst_come_first_and_equals_stay_as_they_came() {
    let with = |name, severity| Finding { name, severity, message: String::new(), remedy: String::new() };
    let mut findings = [
        with("a", Severity::Note),
        with("b", Severity::Error),
        with("c", Severity::Warning),
        with("d", Severity::Error),
    ];
    sort(&mut findings);
    assert_eq!(findings.map(|finding| finding.name), ["b", "d", "c", "a"]);
    let words = [Severity::Error, Severity::Warning, Severity::Note].map(Severity::word);
    assert_eq!(words, ["error", "warning", "note"]);
}

#[test]
fn a_pulse_less_than_a_step_beyond_the_end_may_be_rounding() {
    let of =
        |beyond| pulse_outside_load::new("the servo", q("2.1ms"), q("2ms"), q(beyond), q("4us")).severity;
    assert_eq!([of("3.9us"), of("4us"), of("5us")], [Severity::Warning, Severity::Error, Severity::Error]);
}

#[test]
fn jitter_is_told_in_nanoseconds() {
    // 2.5 ns, of a pattern that repeats 1000 times a second.
    let of = |missed| fractional_jitter::new(q("10ns"), 2.5e-9, 20, q("1kHz"), missed);
    assert!(of(false).message.contains("(2.5 ns RMS)") && of(false).message.contains("1000 times a second"));
    assert_eq!((of(false).severity, of(true).severity), (Severity::Note, Severity::Error));
    let seen = |planned| jitter_unplanned::new("pin", q("50ns"), planned).message;
    assert!(seen(Time::ZERO).ends_with("the timer's not at all") && seen(q("10ns")).ends_with("by 10 ns"));
}

#[test]
fn a_drift_has_its_way() {
    let says = |change: Deviation| clock_drifts::new("pin", change, q("2s")).message;
    assert_eq!(says(q("40ppm")), "the frequency of pin rises by 40 ppm in 2 s");
    assert_eq!(says(q("-40ppm")), "the frequency of pin falls by 40 ppm in 2 s");
}

#[test]
fn a_frame_is_below_or_above_what_is_tolerated() {
    let limits = Range { low: q("40Hz"), high: q("60Hz") };
    let says = |found: Frequency| frame_rate_outside_load::new("the servo", found, limits).message;
    assert_eq!(says(q("30Hz")), "30 Hz is below the 40 Hz that the servo tolerates");
    assert_eq!(says(q("61Hz")), "61 Hz is above the 60 Hz that the servo tolerates");
}

#[test]
fn only_pulses_that_are_wrong_are_counted() {
    let says = |missing, doubled, irregular| pulses_wrong::new("pin", missing, doubled, irregular).message;
    assert!(says(2, 0, 0).ends_with(": 2 with pulses missing"));
    assert!(says(0, 1, 3).ends_with(": 1 with a pulse too many, 3 of another length"));
}

#[test]
fn steps_are_told_in_bits_and_by_what_they_lack() {
    // log2 of 1000 is 9.966, of 4096 12.
    let says = too_few_steps::new(1000, 4096).message;
    assert_eq!(says, "1000 steps (9.97 bit) are fewer than the 4096 (12 bit) that were asked for");
    let says = few_steps_in_span::new("the servo", 100, "1 deg", 180, "0.5 deg", None).message;
    assert!(says.contains("80 too few") && says.ends_with("which take 180"), "{says}");
}

#[test]
fn what_is_missing_is_sure_only_where_a_period_would_have_been_seen() {
    let of = |edges, enough| signal_missing::new("pin", edges, q("50Hz"), enough);
    assert_eq!((of(1, true).severity, of(0, false).severity), (Severity::Error, Severity::Warning));
    assert!(of(1, true).message.contains("1 edge in") && of(2, true).message.contains("2 edges in"));
    assert!(of(1, true).remedy.contains("pin") && of(1, false).remedy.contains("record for longer"));
}

#[test]
fn a_tolerance_is_offered_rounded_up() {
    let remedy = |error: &str| {
        let (found, wanted): (Frequency, Frequency) = (q("1kHz"), q("1kHz"));
        outside_tolerance::frequency(found, wanted, q(error), q("1ppm")).remedy
    };
    // From one per cent on in whole ones.
    assert!(remedy("120.2ppm").ends_with("--within 121ppm"), "{}", remedy("120.2ppm"));
    assert!(remedy("-120ppm").ends_with("--within 120ppm"), "{}", remedy("-120ppm"));
    assert!(remedy("9999.5ppm").ends_with("--within 10000ppm"), "{}", remedy("9999.5ppm"));
    assert!(remedy("1%").ends_with("--within 1%") && remedy("-2.01%").ends_with("--within 3%"));
}

#[test]
fn an_overflow_is_told_with_the_input_where_it_begins() {
    let says = |unsigned, signed| map_overflow::new("x * 300", 16, unsigned, signed).message;
    assert_eq!(
        says(Some(219), Some(110)),
        "x * 300 overflows words of 16 bits from 219 on as unsigned, from 110 on as signed"
    );
    assert!(says(None, Some(110)).ends_with("bits from 110 on as signed"));
    // The sign of a drift is told even where it is none.
    assert!(rounded_step_drifts::new("x * 3", 65).message.contains("+65 compare steps"));
    assert!(rounded_step_drifts::new("x * 3", -65).message.contains("-65 compare steps"));
}

#[test]
fn what_is_needed_and_what_would_help_stand_in_the_words() {
    let limit = |missed| clock_error_above_need::new("120 ppm", "100 ppm", missed).severity;
    assert_eq!((limit(false), limit(true)), (Severity::Warning, Severity::Error));
    let window = |alone| window_too_short::new(q("10ms"), q("300rpm"), q("100ms"), alone).severity;
    assert_eq!((window(false), window(true)), (Severity::Note, Severity::Error));
    let lowest: Duty = q("0.5%");
    let spike = spike_at_zero::new(Severity::Warning, "1", lowest, q("5us"), String::new()).message;
    assert!(spike.contains("0.5 %") && spike.contains("5 us"), "{spike}");
    let change = |changes: &[String]| {
        outside_tolerance::decoded(q("500Hz"), q("50Hz"), q("900%"), q("1ppm"), changes).remedy
    };
    assert!(change(&[]).contains("--within 900%"));
    assert_eq!(change(&["A=1".into(), "B=2".into()]), "one register would make it: A=1, or B=2");
}
