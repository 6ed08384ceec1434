//! One example of each finding, with numbers that go together: the controller of an observatory dome.

use std::str::FromStr;

use super::{
    AudibleFrequency, BelowTheFloor, BoardFileWrong, BusClockSuspected, CatalogueUnsure, CauseUndecided,
    ClockAboveMaximum, ClockDrifts, ClockErrorAboveNeed, ClockOff, CodeChange, CodeDiffers, ComparePastTop,
    CounterOverflows, DeadBandSwallows, DirectionTooLate, DividerOffByOne, DutyBelowStart, EndOutsideDuty,
    Explanation, FasterThanSlew, FewStepsInSpan, FewerLevels, Finding, FractionalJitter,
    FrameRateOutsideLoad, FrequencyUnexplained, FullOnUnreachable, GlitchesSeen, InputWiderThanCompare,
    InterruptsTooSlow, JitterUnplanned, LineDoesNotFit, Made, MapOverflow, MicrostepsAlike, MoveTooSlow,
    OutsideTolerance, Overflow, Place, ProgramIncomplete, PulseOutsideLoad, PulseUnderHalfStep, PulsesWrong,
    RegisterSlip, Remedy, RequirementMissed, ReversalWithoutPause, RoundedStepDrifts, SettingsLeftOut,
    Severity, SignalMissing, SignalNotMade, SignalsNotPlaced, SinglePeriod, SpeedStepTooCoarse, SpikeAtZero,
    StepPulseCut, StepWithoutPulse, StepsOffIdeal, TeachesAtFullThrottle, TimedMoveDrifts, TooFewSteps,
    TopNotBuffered, TopOffByOne, UpdateNotBuffered, VisibleFlicker, VoltsAboveRating, WindowTooShort,
};
use crate::error::{ConflictingSignal, PlacementConflict, Result};
use crate::quantity::{Figure, LoadLevel, QuantityError, Range, Rational};
use crate::target::Level;

/// A quantity from its text.
fn q<T: FromStr<Err = QuantityError>>(text: &str) -> Result<T> {
    Ok(text.parse()?)
}

fn words(text: &str) -> String {
    text.to_owned()
}

/// An example of each finding, in the order of their names.
///
/// # Errors
/// None: the quantities are constants.
pub fn examples() -> Result<Vec<Finding>> {
    let conflicting = |name: &str, choice: &str, instead: Option<&str>| ConflictingSignal {
        name: words(name),
        choices: vec![words(choice)],
        instead: instead.map(words),
    };
    Ok(vec![
        AudibleFrequency { load: words("vent"), frequency: q("400Hz")?, quiet: q("18kHz")? }.into(),
        BelowTheFloor { signal: words("shutter"), floor: q("125ns")? }.into(),
        BoardFileWrong {
            problem: words("part: the catalogue has no part `stm32f41`; did you mean stm32f411?"),
        }
        .into(),
        BusClockSuspected {
            found: q("25Hz")?,
            expected: q("50Hz")?,
            clock: q("100MHz")?,
            suspect: q("50MHz")?,
            origin: words("half of it"),
        }
        .into(),
        CatalogueUnsure {
            fact: words("whether new counts wait for the start of a cycle is not certain"),
            document: Some(words("the part's data sheet")),
        }
        .into(),
        CauseUndecided {
            signal: words("shutter"),
            measured: q("50.1Hz")?,
            planned: q("50Hz")?,
            explanations: vec![
                Explanation::ClockOff { error: q("2000ppm")? },
                Explanation::Register { field: words("ARR"), holds: 499, planned: 500 },
            ],
            would: Remedy::SecondSignal,
        }
        .into(),
        ClockAboveMaximum { clock: q("120MHz")?, maximum: q("100MHz")?, input: words("the timer clock") }
            .into(),
        ClockDrifts { signal: words("shutter"), change: q("40ppm")?, length: q("2s")? }.into(),
        ClockErrorAboveNeed {
            found: Figure::Deviation(q("150ppm")?),
            limit: Figure::Deviation(q("100ppm")?),
            missed: true,
        }
        .into(),
        ClockOff { signal: words("shutter"), error: q("120ppm")?, stated: q("30ppm")? }.into(),
        CodeDiffers { file: words("generated/dome.h"), change: CodeChange::Hand, from: Vec::new() }.into(),
        ComparePastTop { channel: words("1"), compare: 1200, top: 999, last: 1000, constant: Level::High }
            .into(),
        CounterOverflows {
            bits: 16,
            overflow: Overflow::BetweenPulses {
                speed: q("9rpm")?,
                reach: q("27rpm")?,
                wider: Some((words("tim2"), 32)),
            },
        }
        .into(),
        DeadBandSwallows { signal: words("shutter"), swallowed: 400, levels: 480, dead_band: q("5us")? }
            .into(),
        DirectionTooLate { first: q("2us")?, setup: q("5us")? }.into(),
        DividerOffByOne {
            slip: RegisterSlip::Decoded {
                severity: Severity::Error,
                field: words("PSC"),
                holds: 96,
                makes: 97,
                together_with: None,
                found: q("989.69Hz")?,
                corrected: q("1kHz")?,
            },
        }
        .into(),
        DutyBelowStart { load: words("vent"), duty: q("10%")?, start: q("14%")? }.into(),
        EndOutsideDuty { key: words("full"), found: q("104%")?, inside: q("100%")? }.into(),
        FasterThanSlew { signal: words("shutter"), step: 1, needs: q("240ms")?, has: q("100ms")? }.into(),
        FewStepsInSpan {
            load: words("shutter"),
            steps: 60,
            step: LoadLevel::Angle(q("2deg")?),
            needed: 240,
            wanted: LoadLevel::Angle(q("0.5deg")?),
            elsewhere: Some(Place { timer: words("pic18f4550/ccp1"), steps: 2400, clock: q("16MHz")? }),
        }
        .into(),
        FewerLevels { signal: words("shutter"), step: 1, asked: 240, made: 48 }.into(),
        FractionalJitter {
            peak_to_peak: q("8ns")?,
            rms_s: 3.9e-9,
            periods: 21,
            rate: q("1kHz")?,
            missed: false,
        }
        .into(),
        FrameRateOutsideLoad {
            load: words("shutter"),
            frequency: q("100Hz")?,
            limits: Range { low: q("40Hz")?, high: q("60Hz")? },
        }
        .into(),
        FrequencyUnexplained { signal: words("shutter"), measured: q("47.3Hz")?, planned: q("50Hz")? }.into(),
        FullOnUnreachable {
            severity: Severity::Warning,
            channel: Some(words("a")),
            highest: q("99.609375%")?,
            gap: q("4us")?,
            remedies: vec![Remedy::HoldPin],
        }
        .into(),
        GlitchesSeen { signal: words("shutter"), count: 3 }.into(),
        InputWiderThanCompare { inputs: 4096, steps: 1000 }.into(),
        InterruptsTooSlow {
            cycles: 900,
            clock: q("16MHz")?,
            rate: q("20000steps/s")?,
            most: q("160000/9steps/s")?,
        }
        .into(),
        JitterUnplanned { signal: words("shutter"), measured: q("2us")?, planned: q("0s")? }.into(),
        LineDoesNotFit {
            furthest: Figure::Level(LoadLevel::Angle(q("6deg")?)),
            limit: Figure::Level(LoadLevel::Angle(q("1.2deg")?)),
        }
        .into(),
        MapOverflow { arithmetic: words("x * 3840 / 4095"), bits: 16, unsigned: Some(18), signed: Some(9) }
            .into(),
        MicrostepsAlike { distinct: 236, wanted: 256 }.into(),
        MoveTooSlow { wanted: q("500ms")?, time: q("1.2s")?, fastest: q("4000steps/s")? }.into(),
        OutsideTolerance {
            found: Made::Frequency(q("50.0288Hz")?),
            wanted: Made::Frequency(q("50Hz")?),
            error: q("576ppm")?,
            tolerance: q("100ppm")?,
            changes: vec![Remedy::WidenTolerance(q("577ppm")?)],
        }
        .into(),
        ProgramIncomplete {
            function: words("clock_of_tim3"),
            task: words("tim3 is to have 96 MHz, and nothing says where that comes from"),
        }
        .into(),
        PulseOutsideLoad {
            load: words("shutter"),
            pulse: q("2.3ms")?,
            end: q("2.1ms")?,
            beyond: q("200us")?,
            step: q("312.5ns")?,
        }
        .into(),
        PulseUnderHalfStep { channel: words("1"), wanted: q("1us")?, found: q("0s")?, step: q("4us")? }
            .into(),
        PulsesWrong { signal: words("shutter"), missing: 2, doubled: 0, irregular: 1 }.into(),
        RequirementMissed {
            requirement: "level error",
            limit: words("at most 0.5 deg"),
            found: Some(Figure::Level(LoadLevel::Angle(q("0.7deg")?))),
            likely_kept: true,
        }
        .into(),
        ReversalWithoutPause { load: words("vent") }.into(),
        RoundedStepDrifts { arithmetic: words("x * (1000 / 255)"), drift: -235 }.into(),
        SettingsLeftOut { shown: 10_000, omitted: 2345 }.into(),
        SignalMissing { signal: words("shutter"), edges: 0, expected: q("50Hz")?, long_enough: true }.into(),
        SignalNotMade {
            problem: words("stm32f411/tim3 cannot make 1 mHz from 100 MHz"),
            instead: Some(words("a slower clock")),
        }
        .into(),
        SignalsNotPlaced {
            conflict: PlacementConflict {
                signals: vec![
                    conflicting("shutter", "tim3/1 on PA6", None),
                    conflicting("dome", "tim3/1 on PB4", Some("tim3/2 on PA7")),
                ],
            },
        }
        .into(),
        SinglePeriod { signal: words("dew-heater") }.into(),
        SpeedStepTooCoarse {
            speed: q("3000rpm")?,
            step: q("60rpm")?,
            wanted: q("10rpm")?,
            together: Some(6),
            window: q("60ms")?,
        }
        .into(),
        SpikeAtZero {
            severity: Severity::Error,
            channel: Some(words("a")),
            lowest: q("0.390625%")?,
            spike: q("4us")?,
            remedies: vec![Remedy::HoldPin],
        }
        .into(),
        StepPulseCut { interval: q("3us")?, pulse: q("2us")?, needed: q("4us")? }.into(),
        StepWithoutPulse { signal: words("shutter"), step: 2, length: q("5ms")?, period: q("20ms")? }.into(),
        StepsOffIdeal {
            ticks: Rational::new(1023, 1024).unwrap_or(Rational::ONE),
            wanted: Rational::new(1, 2).unwrap_or(Rational::ONE),
        }
        .into(),
        TeachesAtFullThrottle { signal: words("dome"), pulse: q("2ms")?, hold: q("2s")? }.into(),
        TimedMoveDrifts { need: q("5deg")?, after: 14, moves: 100 }.into(),
        TooFewSteps { steps: 1000, needed: 4096 }.into(),
        TopNotBuffered { shortest: q("250us")? }.into(),
        TopOffByOne {
            slip: RegisterSlip::Decoded {
                severity: Severity::Warning,
                field: words("ARR"),
                holds: 1000,
                makes: 1001,
                together_with: None,
                found: q("999.001Hz")?,
                corrected: q("1kHz")?,
            },
        }
        .into(),
        UpdateNotBuffered { glitch: q("1.2ms")?, safe: q("900us")?, buffered: None }.into(),
        VisibleFlicker { load: words("flat-field"), frequency: q("100Hz")?, least: q("400Hz")? }.into(),
        VoltsAboveRating {
            load: words("vent"),
            average: q("24V")?,
            rated: q("9V")?,
            duty: q("100%")?,
            most: q("37.5%")?,
        }
        .into(),
        WindowTooShort { window: q("100ms")?, speed: q("9rpm")?, needed: q("3.34s")?, alone: false }.into(),
    ])
}
