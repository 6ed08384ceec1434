//! A measurement against each requirement, and where nothing is required against what the registers should give, with the
//! measurement's own uncertainty.

use super::measurement::Timing;
use super::recorder::Recorder;
use super::spread::Spread;
use crate::error::{OrOverflow, Result};
use crate::finding::Remedy;
use crate::load::{Load, LoadKind, Realised};
use crate::quantity::{Deviation, Duty, Figure, Frequency, LoadLevel, Quantity, Rational, Time};
use crate::requirement::{RequirementCheck, Verdict};
use crate::search::DerivedSignal;
use crate::signal::Need;
use crate::target::{Active, Aim, Level};

/// What was planned and allowed, in seconds.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Allowed {
    /// The period that the planned registers make.
    pub planned: f64,
    /// The shortest and the longest period that will do, where that is required.
    pub period: Option<(f64, f64)>,
    /// The pulse that was asked for, where one was.
    pub pulse: Option<f64>,
    /// The shortest and the longest that will do, where that is required.
    pub pulses: Option<(f64, f64)>,
    /// Whether pulses are low.
    pub low: bool,
}

impl Allowed {
    pub(super) fn of(signal: &DerivedSignal<'_>) -> Result<Self> {
        let wanted = frequency(signal)?.value().approx();
        let most = signal.spec.needs.frequency.map(|most| most.value().approx());
        let pulse = pulse(signal);
        let off = signal.spec.needs.pulse.map(|most| most.value().approx());
        Ok(Self {
            planned: signal.derivation.best.setting.period.value().approx(),
            period: most.map(|most| (1.0 / (wanted * (1.0 + most)), 1.0 / (wanted * (1.0 - most).max(0.0)))),
            pulse,
            pulses: pulse.zip(off).map(|(pulse, off)| (pulse - off, pulse + off)),
            low: signal.derivation.target.level == Level::Low,
        })
    }
}

/// The frequency that is wanted. Of a window any would have done: the one that was chosen counts.
fn frequency(signal: &DerivedSignal<'_>) -> Result<Frequency> {
    match signal.derivation.target.aim {
        Aim::Window(_) => Ok(signal.derivation.best.setting.frequency),
        _ => signal.derivation.target.wanted_frequency(),
    }
}

/// The pulse that is wanted, in seconds.
fn pulse(signal: &DerivedSignal<'_>) -> Option<f64> {
    match signal.derivation.target.asks.first().map(|ask| ask.active)? {
        Active::Pulse(pulse) => Some(pulse.value().approx()),
        Active::Duty(duty) => {
            Some(duty.value().approx() * signal.derivation.best.setting.period.value().approx())
        }
    }
}

/// Active times.
fn active<'t>(signal: &DerivedSignal<'_>, timing: &'t Timing) -> &'t Spread {
    if signal.derivation.target.level == Level::Low { &timing.low } else { &timing.high }
}

/// Something held against a limit.
struct Holding<'h> {
    need: Need,
    limit: Figure,
    found: f64,
    uncertainty: Option<f64>,
    /// A number of base units as a figure of the limit's kind.
    figure: &'h dyn Fn(Rational) -> Figure,
    /// What would tell, where this cannot.
    would: Remedy,
}

impl Holding<'_> {
    fn check(self, implied: bool) -> Result<RequirementCheck> {
        let figure = |value: f64| {
            Rational::measured(value).or_overflow("measurement").map(|value| (self.figure)(value))
        };
        let outcome = Verdict::of_measurement(self.found, self.uncertainty, self.limit.value().approx());
        let would = if self.uncertainty.is_some() { self.would } else { Remedy::SecondPeriod };
        Ok(RequirementCheck {
            uncertainty: self.uncertainty.map(figure).transpose()?,
            outcome,
            implied,
            would_tell: (outcome == Verdict::CannotTell).then_some(would),
            ..RequirementCheck::at_most(self.need, self.limit, figure(self.found)?)?
        })
    }
}

fn deviation(value: Rational) -> Figure {
    Figure::Deviation(Deviation::new(value))
}

fn time(value: Rational) -> Figure {
    Figure::Time(Time::new(value))
}

fn faster(most: f64) -> Result<Remedy> {
    let rate = Rational::measured(4.0 / most).or_overflow("measurement")?;
    Ok(Remedy::SampleFaster(Some(Frequency::new(rate))))
}

/// What a measurement says of one signal, in seconds, with what it may be off.
struct SignalReading {
    period: f64,
    /// The measured frequency over that of the planned registers, less one.
    error: f64,
    by_capture: Option<f64>,
    by_recorder: f64,
    pulse: f64,
    pulse_uncertainty: Option<f64>,
}

impl SignalReading {
    fn of(signal: &DerivedSignal<'_>, timing: &Timing, recorder: &Recorder, error: f64) -> Self {
        let by_recorder = recorder.by_clock();
        let active = active(signal, timing);
        let pulse = active.mean() * recorder.tick;
        Self {
            period: timing.clock.period * recorder.tick,
            error,
            by_capture: timing.clock.uncertainty(recorder.interval),
            by_recorder,
            pulse,
            pulse_uncertainty: active
                .uncertainty(recorder.interval)
                .map(|ticks| ticks * recorder.tick + pulse * by_recorder),
        }
    }

    fn frequency_uncertainty(&self) -> Option<f64> {
        Some(self.by_capture? + self.by_recorder)
    }

    /// What would tell a frequency better that may be off by so much.
    const fn steadier(&self, allowed: f64) -> Remedy {
        if self.by_recorder > allowed / 2.0 { Remedy::BetterRecorder } else { Remedy::LongerCapture }
    }
}

/// Holds a measurement against each requirement, and against what the registers should give where nothing is required of
/// the frequency or of the pulse.
pub(super) fn check(
    signal: &DerivedSignal<'_>,
    timing: &Timing,
    recorder: &Recorder,
    error: f64,
) -> Result<Vec<RequirementCheck>> {
    let needs = &signal.spec.needs;
    let seen = SignalReading::of(signal, timing, recorder, error);
    let mut checks = Vec::new();
    if let Some(most) = needs.frequency {
        let wanted = frequency(signal)?;
        let found = (1.0 / seen.period / wanted.value().approx() - 1.0).abs();
        checks.push(of_frequency(&seen, Need::Frequency, most, found).check(false)?);
    }
    if let Some(most) = needs.clock {
        checks.push(of_frequency(&seen, Need::Clock, most, seen.error.abs()).check(false)?);
    }
    let stated = signal.derivation.clock.deviation;
    if needs.frequency.is_none() && needs.clock.is_none() && stated > Deviation::ZERO {
        checks.push(of_frequency(&seen, Need::Frequency, stated, seen.error.abs()).check(true)?);
    }
    if let (Some(most), Some(wanted)) = (needs.pulse, pulse(signal)) {
        checks.push(of_pulse(&seen, most, (seen.pulse - wanted).abs())?.check(false)?);
    }
    if let (Some(most), Some(wanted), Some(load)) = (needs.level, pulse(signal), signal.spec.load.as_ref()) {
        checks.push(of_level(&seen, most, wanted, load)?);
    }
    if needs.pulse.is_none() && needs.level.is_none() {
        checks.extend(implied_pulse(signal, &seen)?);
    }
    if let (Some(most), Some((least, longest))) = (needs.jitter, timing.period.ends()) {
        let holding = Holding {
            need: Need::Jitter,
            limit: Figure::Time(most),
            found: (longest - least) as f64 * recorder.tick,
            uncertainty: (timing.cycles > 1).then(|| 2.0 * recorder.floor()),
            figure: &time,
            would: faster(most.value().approx())?,
        };
        checks.push(holding.check(false)?);
    }
    Ok(checks)
}

fn of_frequency(seen: &SignalReading, need: Need, most: Deviation, found: f64) -> Holding<'static> {
    Holding {
        need,
        limit: Figure::Deviation(most),
        found,
        uncertainty: seen.frequency_uncertainty(),
        figure: &deviation,
        would: seen.steadier(most.value().approx()),
    }
}

fn of_pulse(seen: &SignalReading, most: Time, found: f64) -> Result<Holding<'static>> {
    Ok(Holding {
        need: Need::Pulse,
        limit: Figure::Time(most),
        found,
        uncertainty: seen.pulse_uncertainty,
        figure: &time,
        would: faster(most.value().approx())?,
    })
}

fn of_level(seen: &SignalReading, most: LoadLevel, wanted: f64, load: &Load) -> Result<RequirementCheck> {
    let level = |seconds: f64| -> Result<LoadLevel> {
        let pulse = Rational::measured(seconds).or_overflow("pulse")?;
        let duty = Rational::measured(seconds / seen.period).or_overflow("duty")?;
        load.kind.level(Realised { duty: Duty::new(duty), pulse: Time::new(pulse) })
    };
    let meant = level(wanted)?;
    let off = |seconds: f64| -> Result<f64> { Ok(level(seconds)?.less(meant)?.magnitude().value().approx()) };
    let found = off(seen.pulse)?;
    let uncertainty = seen.pulse_uncertainty.map(|by| -> Result<f64> {
        Ok((off(seen.pulse + by)? - found).abs().max((off(seen.pulse - by)? - found).abs()))
    });
    Holding {
        need: Need::Level,
        limit: Figure::Level(most),
        found,
        uncertainty: uncertainty.transpose()?,
        figure: &|value: Rational| Figure::Level(most.with(value)),
        would: Remedy::LongerCapture,
    }
    .check(false)
}

/// The pulse that was asked for, against what the registers should make of it: within a step of the compare value, and within
/// what the clock may be off. A duty, and a pulse from a clock of which nothing is stated, is held against the period that
/// there is.
fn implied_pulse(signal: &DerivedSignal<'_>, seen: &SignalReading) -> Result<Option<RequirementCheck>> {
    let setting = &signal.derivation.best.setting;
    let (Some(ask), Some(output)) = (signal.derivation.target.asks.first(), setting.outputs.first()) else {
        return Ok(None);
    };
    let stated = signal.derivation.clock.deviation;
    let clock_counts = matches!(ask.active, Active::Pulse(_)) && stated > Deviation::ZERO;
    let period = setting.period.value().approx();
    // Dead time comes off the pulse, since it delays the edge that begins it.
    let dead = setting.dead_time.map_or(Rational::ZERO, Quantity::value);
    let pulse = output.pulse.value().minus(dead).or_overflow("pulse")?;
    let (wanted, by_clock) = if clock_counts {
        (pulse.approx(), pulse.magnitude().times(stated.value()).or_overflow("pulse")?)
    } else {
        (pulse.approx() * seen.period / period, Rational::ZERO)
    };
    let limit = setting.step.value().plus(by_clock).or_overflow("pulse")?;
    let found = (seen.pulse - wanted).abs();
    of_pulse(seen, Time::new(limit), found)?.check(true).map(Some)
}
