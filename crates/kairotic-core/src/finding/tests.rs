//! What findings work out themselves: how bad they are, and the numbers in their words.

use super::*;
use crate::quantity::{Deviation, Dimension, Duty, Figure, Frequency, LoadLevel, Quantity, Range, Time};

fn q<D: Dimension>(text: &str) -> Quantity<D> {
    crate::quantity::parse::quantity(text).unwrap()
}

fn spike(severity: Severity) -> Finding {
    let (lowest, spike) = (q("1%"), q("1us"));
    SpikeAtZero { severity, channel: None, lowest, spike, remedies: Vec::new() }.into()
}

#[test]
fn names_are_sorted_and_unique_and_explained() {
    assert!(ALL.is_sorted_by(|(left, _), (right, _)| left < right));
    assert!(ALL.iter().all(|(_, about)| about.contains("*Remedy*: ") && about.ends_with('.')));
}

#[test]
fn the_worst_come_first_and_equals_stay_as_they_came() {
    let steps = |steps| Finding::from(TooFewSteps { steps, needed: 9 });
    let mut findings = [spike(Severity::Note), steps(1), spike(Severity::Warning), steps(2)];
    sort(&mut findings);
    assert_eq!(findings, [steps(1), steps(2), spike(Severity::Warning), spike(Severity::Note)]);
    let words = [Severity::Error, Severity::Warning, Severity::Note].map(Severity::word);
    assert_eq!(words, ["error", "warning", "note"]);
}

#[test]
fn a_finding_is_written_with_its_figures() {
    let found = Finding::from(FrameRateOutsideLoad {
        load: "the servo".to_owned(),
        frequency: q("30Hz"),
        limits: Range { low: q("40Hz"), high: q("60Hz") },
    });
    let hertz = |value: f64| serde_json::json!({"exact": value.to_string(), "approx": value, "unit": "Hz"});
    let limits = serde_json::json!({"low": hertz(40.0), "high": hertz(60.0)});
    let expected = serde_json::json!({
        "name": "frame-rate-outside-load",
        "severity": "error",
        "load": "the servo",
        "frequency": hertz(30.0),
        "limits": limits,
        "message": "30 Hz is below the 40 Hz that the servo tolerates",
        "remedies": [{"kind": "frequency_within", "value": limits}],
    });
    assert_eq!(serde_json::to_value(found).unwrap(), expected);
}

#[test]
fn a_tolerance_is_widened_to_what_covers_the_error() {
    let of = |error: &str| {
        let (found, wanted) = (Made::Frequency(q("1kHz")), Made::Frequency(q("1kHz")));
        let (error, tolerance) = (q(error), q("1ppm"));
        Finding::from(OutsideTolerance { found, wanted, error, tolerance, changes: Vec::new() }).remedies()
    };
    let widen = |to: &str| Some(Remedy::WidenTolerance(q(to)));
    assert_eq!(of("576.1ppm").pop(), widen("577ppm"));
    assert_eq!(of("-9999.9ppm").pop(), widen("10000ppm"));
    assert_eq!(of("1.01%").pop(), widen("2%"));
    assert_eq!(of("1%").pop(), widen("1%"));
}

#[test]
fn a_pulse_less_than_a_step_beyond_the_end_may_be_rounding() {
    let of = |beyond| {
        let (pulse, end, beyond, step) = (q("2.1ms"), q("2ms"), q(beyond), q("4us"));
        PulseOutsideLoad { load: String::new(), pulse, end, beyond, step }.severity()
    };
    assert_eq!([of("3.9us"), of("4us"), of("5us")], [Severity::Warning, Severity::Error, Severity::Error]);
}

#[test]
fn jitter_is_told_in_nanoseconds() {
    // 2.5 ns, of a pattern that repeats 1000 times a second.
    let of = |missed| {
        let (peak_to_peak, rate) = (q("10ns"), q("1kHz"));
        FractionalJitter { peak_to_peak, rms_s: 2.5e-9, periods: 20, rate, missed }
    };
    let says = of(false).to_string();
    assert!(says.contains("(2.5 ns RMS)") && says.contains("1000 times a second"));
    assert_eq!((of(false).severity(), of(true).severity()), (Severity::Note, Severity::Error));
    let seen =
        |planned| JitterUnplanned { signal: "pin".to_owned(), measured: q("50ns"), planned }.to_string();
    assert!(seen(Time::ZERO).ends_with("the timer's not at all") && seen(q("10ns")).ends_with("by 10 ns"));
}

#[test]
fn a_drift_has_its_way() {
    let says =
        |change: Deviation| ClockDrifts { signal: "pin".to_owned(), change, length: q("2s") }.to_string();
    assert_eq!(says(q("40ppm")), "the frequency of pin rises by 40 ppm in 2 s");
    assert_eq!(says(q("-40ppm")), "the frequency of pin falls by 40 ppm in 2 s");
}

#[test]
fn a_frame_is_below_or_above_what_is_tolerated() {
    let limits = Range { low: q("40Hz"), high: q("60Hz") };
    let says = |frequency: Frequency| {
        FrameRateOutsideLoad { load: "the servo".to_owned(), frequency, limits }.to_string()
    };
    assert_eq!(says(q("30Hz")), "30 Hz is below the 40 Hz that the servo tolerates");
    assert_eq!(says(q("61Hz")), "61 Hz is above the 60 Hz that the servo tolerates");
}

#[test]
fn only_pulses_that_are_wrong_are_counted() {
    let says = |missing, doubled, irregular| {
        PulsesWrong { signal: "pin".to_owned(), missing, doubled, irregular }.to_string()
    };
    assert!(says(2, 0, 0).ends_with(": 2 with pulses missing"));
    assert!(says(0, 1, 3).ends_with(": 1 with a pulse too many, 3 of another length"));
}

#[test]
fn steps_are_told_in_bits_and_by_what_they_lack() {
    // log2 of 1000 is 9.966, of 4096 12.
    let says = TooFewSteps { steps: 1000, needed: 4096 }.to_string();
    assert_eq!(says, "1000 steps (9.97 bit) are fewer than the 4096 (12 bit) that were asked for");
    let level = |text| LoadLevel::Angle(q(text));
    let says = FewStepsInSpan {
        load: "the servo".to_owned(),
        steps: 100,
        step: level("1deg"),
        needed: 180,
        wanted: level("0.5deg"),
        elsewhere: None,
    }
    .to_string();
    assert!(says.contains("80 too few") && says.ends_with("which take 180"), "{says}");
}

#[test]
fn what_is_missing_is_sure_only_where_a_period_would_have_been_seen() {
    let of = |edges, long_enough| SignalMissing {
        signal: "pin".to_owned(),
        edges,
        expected: q("50Hz"),
        long_enough,
    };
    assert_eq!((of(1, true).severity(), of(0, false).severity()), (Severity::Error, Severity::Warning));
    assert!(of(1, true).to_string().contains("1 edge in") && of(2, true).to_string().contains("2 edges in"));
    assert_eq!(of(1, true).remedies(), [Remedy::CheckPin]);
    assert_eq!(of(1, false).remedies(), [Remedy::RecordTwoPeriods]);
}

#[test]
fn a_duty_is_told_where_the_load_starts() {
    let duty: Duty = q("3%");
    let says = DutyBelowStart { load: "the fan".to_owned(), duty, start: q("20%") }.to_string();
    assert_eq!(says, "3 % is below the 20 % at which the fan starts: it hums and stays at rest");
}

#[test]
fn an_overflow_is_told_by_its_first_input() {
    let says = |unsigned, signed| {
        MapOverflow { arithmetic: "x * 300".to_owned(), bits: 16, unsigned, signed }.to_string()
    };
    assert_eq!(
        says(Some(219), Some(110)),
        "x * 300 overflows words of 16 bits from 219 on as unsigned, from 110 on as signed"
    );
    assert!(says(None, Some(110)).ends_with("bits from 110 on as signed"));
    // The sign of a drift is told even where it is none.
    let says = |drift| RoundedStepDrifts { arithmetic: "x * 3".to_owned(), drift }.to_string();
    assert!(says(65).contains("+65 compare steps") && says(-65).contains("-65 compare steps"));
}

#[test]
fn what_is_needed_and_what_would_help_stand_in_the_words() {
    let figure = |text| Figure::Deviation(q(text));
    let limit =
        |missed| ClockErrorAboveNeed { found: figure("120ppm"), limit: figure("100ppm"), missed }.severity();
    assert_eq!((limit(false), limit(true)), (Severity::Warning, Severity::Error));
    let window = |alone| {
        WindowTooShort { window: q("10ms"), speed: q("300rpm"), needed: q("100ms"), alone }.severity()
    };
    assert_eq!((window(false), window(true)), (Severity::Note, Severity::Error));
    let says = spike(Severity::Warning).to_string();
    assert!(
        says.contains("the channel of the span cannot make 0 %: its lowest duty is 1 %, a spike of 1 us")
    );
    let one = |field: &str, keep: &[&str]| {
        let keep = keep.iter().map(|name| (*name).to_owned()).collect();
        Remedy::WriteRegister { field: field.to_owned(), value: 1, keep }.to_string()
    };
    assert_eq!(one("A", &[]), "write A=1");
    assert_eq!(one("A", &["B", "C"]), "write A=1 and keep B and C");
}

#[test]
fn every_finding_has_an_example_in_its_place() {
    let examples: Vec<&str> = examples().unwrap().iter().map(Finding::name).collect();
    let all: Vec<&str> = ALL.iter().map(|(name, _)| *name).collect();
    assert_eq!(examples, all);
    assert!(all.is_sorted());
}
