//! What a frequency is put down to, by intervals that are added up by hand.

use super::*;
use crate::capture::shared_clock::shared;

const PPM: f64 = 1e-6;

fn hertz(value: i64) -> Frequency {
    Frequency::new(Rational::whole(value))
}

/// A signal that was measured so many millionths off its plan, known to so many by the capture and by the recorder, on a
/// clock of which so many are stated; with what else would explain it, as millionths and room.
struct Case {
    off: f64,
    by_capture: f64,
    by_recorder: f64,
    stated: Option<i128>,
    others: &'static [(f64, f64)],
}

impl Case {
    fn clues(&self) -> Clues {
        let explanation = |(off, room): &(f64, f64)| Suspect {
            factor: 1.0 + off * PPM,
            room: room * PPM,
            explanation: held_instead(&format!("{off} off"), 999, 1),
            finding: TopOffByOne { slip: slip("ARR", 999, 1, hertz(999), hertz(1000)) }.into(),
        };
        Clues {
            name: "pin".to_owned(),
            planned: hertz(1000),
            measured: hertz(1001),
            ratio: 1.0 + self.off * PPM,
            by_capture: Some(self.by_capture * PPM),
            by_recorder: self.by_recorder * PPM,
            stated: self.stated.map(|stated| Deviation::new(Rational::new(stated, 1_000_000).unwrap())),
            others: self.others.iter().map(explanation).collect(),
        }
    }

    fn judged(&self, shared: Option<Shared>) -> (Cause, Vec<&'static str>) {
        let (cause, findings) = self.clues().judged(shared).unwrap();
        (cause, findings.iter().map(|finding| finding.name()).collect())
    }
}

/// A clock that other signals tell.
fn clock(off: f64, uncertainty: f64) -> Option<Shared> {
    Some(Shared { ratio: 1.0 + off * PPM, uncertainty: uncertainty * PPM })
}

const GOOD: Case = Case { off: 0.0, by_capture: 10.0, by_recorder: 20.0, stated: Some(100), others: &[] };

#[test]
fn one_period_tells_nothing() {
    let clues = Clues { by_capture: None, ..GOOD.clues() };
    let (cause, findings) = clues.judged(None).unwrap();
    assert_eq!((cause, findings[0].name()), (Cause::Undecided, "single-period"));
}

#[test]
fn a_clock_by_itself_is_as_planned_within_the_measurement_and_off_within_its_tolerance() {
    // The measurement may be 10 + 20 off, the clock 100 more.
    for (off, expected) in [
        (29.0, (Cause::AsPlanned, vec![])),
        (-29.0, (Cause::AsPlanned, vec![])),
        (31.0, (Cause::Clock, vec![])),
        (129.0, (Cause::Clock, vec![])),
        (131.0, (Cause::Clock, vec!["clock-off"])),
        (-131.0, (Cause::Clock, vec!["clock-off"])),
        (49_999.0, (Cause::Clock, vec!["clock-off"])),
        (50_001.0, (Cause::Unexplained, vec!["frequency-unexplained"])),
    ] {
        assert_eq!(Case { off, ..GOOD }.judged(None), expected, "{off}");
    }
    // A poor clock may be further off than 5 %, where that is stated of it.
    for (off, cause) in [(99_999.0, Cause::Clock), (100_031.0, Cause::Unexplained)] {
        assert_eq!(Case { off, stated: Some(100_000), ..GOOD }.judged(None).0, cause, "{off}");
    }
    // Of a clock of which nothing is stated, anything up to 5 % is taken.
    for (off, expected) in [
        (131.0, (Cause::Clock, vec![])),
        (-49_999.0, (Cause::Clock, vec![])),
        (-50_001.0, (Cause::Unexplained, vec!["frequency-unexplained"])),
    ] {
        assert_eq!(Case { off, stated: None, ..GOOD }.judged(None), expected, "{off}");
    }
}

#[test]
fn what_lies_in_one_interval_only_is_that() {
    // A register would make 1000: the clock by its tolerance may take that 100 up or down, the measurement 30.
    let others = &[(1000.0, 0.0)];
    for (off, expected) in [
        (869.0, (Cause::Clock, vec!["clock-off"])),
        (871.0, (Cause::Registers, vec!["top-off-by-one"])),
        (1000.0, (Cause::Registers, vec!["top-off-by-one"])),
        (1129.0, (Cause::Registers, vec!["top-off-by-one"])),
        (1132.0, (Cause::Clock, vec!["clock-off"])),
    ] {
        assert_eq!(Case { off, others, ..GOOD }.judged(None), expected, "{off}");
    }
    // Another clock has room of its own.
    let others = &[(1000.0, 50.0)];
    assert_eq!(Case { off: 1179.0, others, ..GOOD }.judged(None).0, Cause::Registers);
    assert_eq!(Case { off: 1182.0, others, ..GOOD }.judged(None).0, Cause::Clock);
    // Two that explain it alike leave it open, and so do a register and the clock's tolerance, or one that nobody knows.
    let undecided = (Cause::Undecided, vec!["cause-undecided"]);
    let two: &[(f64, f64)] = &[(1000.0, 0.0), (1100.0, 0.0)];
    assert_eq!(Case { off: 1050.0, others: two, ..GOOD }.judged(None), undecided);
    let near = &[(120.0, 0.0)];
    assert_eq!(Case { off: 80.0, others: near, ..GOOD }.judged(None), undecided);
    assert_eq!(Case { off: 120.0, stated: None, others: near, ..GOOD }.judged(None), undecided);
    assert_eq!(
        Case { off: 60_000.0, stated: None, others: &[(60_000.0, 0.0)], ..GOOD }.judged(None).0,
        Cause::Registers
    );
}

#[test]
fn a_clock_that_others_tell_leaves_no_room_for_its_tolerance() {
    // The clock is 90 off, known to 5; the signal is known to 10 by the capture, and the recorder is in both alike.
    for (off, expected) in [
        (29.0, (Cause::Unexplained, vec!["frequency-unexplained"])),
        (74.0, (Cause::Unexplained, vec!["frequency-unexplained"])),
        (76.0, (Cause::Clock, vec![])),
        (104.0, (Cause::Clock, vec![])),
        (106.0, (Cause::Unexplained, vec!["frequency-unexplained"])),
    ] {
        assert_eq!(Case { off, ..GOOD }.judged(clock(90.0, 5.0)), expected, "{off}");
    }
    // As far off as the clock, and by itself no further than the measurement may be.
    assert_eq!(Case { off: 25.0, ..GOOD }.judged(clock(20.0, 5.0)), (Cause::AsPlanned, vec![]));
    assert_eq!(Case { off: 140.0, ..GOOD }.judged(clock(135.0, 5.0)), (Cause::Clock, vec!["clock-off"]));
    let others = &[(1000.0, 0.0)];
    assert_eq!(Case { off: 1090.0, others, ..GOOD }.judged(clock(90.0, 5.0)).0, Cause::Registers);
    assert_eq!(Case { off: 1074.0, others, ..GOOD }.judged(clock(90.0, 5.0)).0, Cause::Unexplained);
    // Nothing being stated does not make the tolerance an explanation either.
    let unstated = Case { off: 1090.0, stated: None, others, ..GOOD };
    assert_eq!(unstated.judged(clock(90.0, 5.0)).0, Cause::Registers);
    assert_eq!(Case { off: 1500.0, ..unstated }.judged(clock(90.0, 5.0)).0, Cause::Unexplained);
}

#[test]
fn what_would_tell_is_what_keeps_it_from_being_told() {
    let would = |case: &Case| case.clues().judged(None).unwrap().1[0].remedies()[0].to_string();
    let others = &[(120.0, 0.0)];
    let told = |case: &Case, part: &str| assert!(would(case).contains(part), "{}", would(case));
    told(&Case { off: 80.0, others, ..GOOD }, "another signal of the same clock");
    told(&Case { off: 100.0, stated: None, others, ..GOOD }, "another signal of the same clock");
    let close = Case { off: 118.0, stated: Some(20), others, ..GOOD };
    told(&Case { by_capture: 10.0, by_recorder: 95.0, ..close }, "recorder with a better clock");
    told(&Case { by_capture: 95.0, by_recorder: 10.0, ..close }, "longer capture");
    // It names what explains it, the clock first.
    let message = |case: &Case| case.clues().judged(None).unwrap().1[0].to_string();
    let said = message(&Case { off: 80.0, others, ..GOOD });
    assert!(said.contains("80 ppm") && said.contains("120 off"), "{said}");
    let two: &[(f64, f64)] = &[(1000.0, 0.0), (1100.0, 0.0)];
    let said = message(&Case { off: 1050.0, others: two, ..GOOD });
    assert!(!said.contains("planned registers with a clock") && said.contains("1000 off"), "{said}");
}

/// The clock that signals share, in millionths, and what it may be off.
fn common(cases: &[Case]) -> Option<(f64, f64)> {
    let clues: Vec<Clues> = cases.iter().map(Case::clues).collect();
    let found = shared(&clues.iter().collect::<Vec<_>>())?;
    Some(((found.ratio - 1.0) / PPM, found.uncertainty / PPM))
}

fn nearly(found: Option<(f64, f64)>, expected: (f64, f64)) {
    let (off, uncertainty) = found.unwrap();
    assert!((off - expected.0).abs() < 1e-3 && (uncertainty - expected.1).abs() < 1e-3, "{found:?}");
}

#[test]
fn a_clock_is_the_mean_of_the_signals_that_it_explains() {
    // Known to 10 and to 5: weights of 1 and 4; together to 1 / √(1/100 + 1/25).
    let cases = [Case { off: 50.0, ..GOOD }, Case { off: 55.0, by_capture: 5.0, ..GOOD }];
    nearly(common(&cases), (54.0, 20_f64.sqrt()));
    // One by itself tells nothing of a shared clock, nor do two that do not agree.
    assert_eq!(common(&cases[..1]), None);
    assert_eq!(common(&[Case { off: 50.0, ..GOOD }, Case { off: 90.0, ..GOOD }]), None);
    // Nor one that is known without any doubt, which no capture is.
    assert_eq!(common(&[Case { by_capture: 0.0, ..GOOD }, GOOD]), None);
}

#[test]
fn a_clock_explains_by_other_registers_too() {
    // 50, and 1050 by a register that makes 1000: 1.00105 / 1.001 is 49.95 off.
    let wrong = Case { off: 1050.0, others: &[(1000.0, 0.0)], ..GOOD };
    let cases = [Case { off: 50.0, ..GOOD }, Case { off: 50.0, ..GOOD }, wrong];
    nearly(common(&cases), ((50.0 + 50.0 + 50.0 / 1.001) / 3.0, 10.0 / 3_f64.sqrt()));
    // A clock further off than 5 % is none, however well it explains.
    let far = || Case { off: 50_500.0, ..GOOD };
    assert_eq!(common(&[far(), far()]), None);
}

#[test]
fn a_clock_that_is_as_good_as_stated_is_preferred_then_one_with_more_as_planned() {
    // Both 0 and 1000 off explain all: what is stated (100) decides.
    let both = |off, others| Case { off, others, ..GOOD };
    let cases = [both(1000.0, &[(1000.0, 0.0)]), both(1000.0, &[(1000.0, 0.0)])];
    nearly(common(&cases), (0.0, 10.0 / 2_f64.sqrt()));
    // Within 2000 both are as stated; as planned they are with the clock that is off.
    let unstated = |off, others| Case { off, others, stated: Some(2000), ..GOOD };
    let cases = [unstated(1000.0, &[(1000.0, 0.0)]), unstated(1000.0, &[(1000.0, 0.0)])];
    nearly(common(&cases), (1000.0, 10.0 / 2_f64.sqrt()));
    // As much speaks for 0 as for 1000: one each is as planned. Then nothing is known.
    let cases = [unstated(1000.0, &[(1000.0, 0.0)]), unstated(0.0, &[(-1000.0, 0.0)])];
    assert_eq!(common(&cases), None);
    // The recorder's 20 and the signal's own 10 are added to what is stated: 129 is as good, 131 is not.
    let near = |off| Case { off, stated: Some(100), others: &[(131.0, 0.0)], ..GOOD };
    nearly(common(&[near(129.0), near(129.0)]), (129.0, 10.0 / 2_f64.sqrt()));
    assert!(common(&[near(132.0), near(132.0)]).is_some_and(|(off, _)| off.abs() < 2.0));
}
