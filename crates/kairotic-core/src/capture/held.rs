//! A measurement against each requirement, and where nothing is required against what the registers should give, with the
//! measurement's own uncertainty.

use super::measurement::Timing;
use super::plan::Planned;
use super::recorder::Recorder;
use super::spread::Spread;
use crate::error::Result;
use crate::load::{Load, LoadLevel, Realised};
use crate::quantity::{Deviation, Duty, Frequency, OrOverflow, Quantity, Rational, Time};
use crate::requirement::Need;
use crate::signal::{Active, Aim, Level};

/// Whether a requirement is met, as far as the measurement can tell.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Answer {
    /// It is, whatever the measurement may be off.
    Pass,
    /// It is not, whatever the measurement may be off.
    Fail,
    /// The measurement is not good enough.
    CannotTell,
}

impl Answer {
    /// The words that outputs use.
    pub const fn words(self) -> &'static str {
        match self {
            Self::Pass => "pass",
            Self::Fail => "fail",
            Self::CannotTell => "cannot tell",
        }
    }

    fn of(found: f64, uncertainty: Option<f64>, limit: f64) -> Self {
        match uncertainty {
            Some(off) if found + off <= limit => Self::Pass,
            Some(off) if found - off > limit => Self::Fail,
            _ => Self::CannotTell,
        }
    }
}

/// One requirement, or one figure that the registers should give, held against the measurement.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Held {
    /// What is required.
    pub need: Need,
    /// How much, as text.
    pub wanted: String,
    /// What was measured, as text.
    pub found: String,
    /// How far that may be off with 95 % confidence, as text; `None` where a single period cannot tell.
    pub uncertainty: Option<String>,
    /// Whether nobody asked for it: it is what the registers should give.
    pub implied: bool,
    /// Whether it is met.
    pub answer: Answer,
    /// What would tell, where the measurement cannot.
    pub would: Option<String>,
}

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
    pub(super) fn of(plan: &Planned<'_>) -> Result<Self> {
        let wanted = frequency(plan)?.value().approx();
        let most = plan.needs.frequency.map(|most| most.value().approx());
        let pulse = pulse(plan);
        let off = plan.needs.pulse.map(|most| most.value().approx());
        Ok(Self {
            planned: plan.derivation.best.setting.period.value().approx(),
            period: most.map(|most| (1.0 / (wanted * (1.0 + most)), 1.0 / (wanted * (1.0 - most).max(0.0)))),
            pulse,
            pulses: pulse.zip(off).map(|(pulse, off)| (pulse - off, pulse + off)),
            low: plan.derivation.target.level == Level::Low,
        })
    }
}

/// The frequency that is wanted. Of a window any would have done: the one that was chosen counts.
fn frequency(plan: &Planned<'_>) -> Result<Frequency> {
    match plan.derivation.target.aim {
        Aim::Window(_) => Ok(plan.derivation.best.setting.frequency),
        _ => plan.derivation.target.frequency(),
    }
}

/// The pulse that is wanted, in seconds.
fn pulse(plan: &Planned<'_>) -> Option<f64> {
    match plan.derivation.target.asks.first().map(|ask| ask.active)? {
        Active::Pulse(pulse) => Some(pulse.value().approx()),
        Active::Duty(duty) => {
            Some(duty.value().approx() * plan.derivation.best.setting.period.value().approx())
        }
    }
}

/// Active times.
fn active<'t>(plan: &Planned<'_>, timing: &'t Timing) -> &'t Spread {
    if plan.derivation.target.level == Level::Low { &timing.low } else { &timing.high }
}

fn text(value: f64, of: impl Fn(Rational) -> String) -> Result<String> {
    Rational::measured(value).or_overflow("measurement").map(of)
}

/// Something held against a limit.
struct Holding<'h> {
    need: Need,
    limit: Rational,
    /// The limit, as text.
    wanted: String,
    found: f64,
    uncertainty: Option<f64>,
    show: &'h dyn Fn(Rational) -> String,
    /// What would tell, where this cannot.
    would: String,
}

impl Holding<'_> {
    fn held(self, implied: bool) -> Result<Held> {
        let answer = Answer::of(self.found, self.uncertainty, self.limit.approx());
        let would = if self.uncertainty.is_some() { self.would } else { "a second period".to_owned() };
        Ok(Held {
            need: self.need,
            wanted: format!("at most {}", self.wanted),
            found: text(self.found, self.show)?,
            uncertainty: self.uncertainty.map(|off| text(off, self.show)).transpose()?,
            implied,
            answer,
            would: (answer == Answer::CannotTell).then_some(would),
        })
    }
}

fn deviation(value: Rational) -> String {
    Deviation::new(value).rounded(4)
}

fn time(value: Rational) -> String {
    Time::new(value).rounded(4)
}

fn faster(most: f64) -> Result<String> {
    let rate = text(4.0 / most, |rate| Frequency::new(rate).rounded(3))?;
    Ok(format!("{rate} or more samples a second"))
}

/// What a measurement says of one signal, in seconds, with what it may be off.
struct Seen {
    period: f64,
    /// The measured frequency over that of the planned registers, less one.
    error: f64,
    by_capture: Option<f64>,
    by_recorder: f64,
    pulse: f64,
    pulse_uncertainty: Option<f64>,
}

impl Seen {
    fn of(plan: &Planned<'_>, timing: &Timing, recorder: &Recorder, error: f64) -> Self {
        let by_recorder = recorder.by_clock();
        let active = active(plan, timing);
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
    fn steadier(&self, allowed: f64) -> String {
        if self.by_recorder > allowed / 2.0 {
            "a recorder with a better clock (--recorder)".to_owned()
        } else {
            "a longer capture, or more samples a second".to_owned()
        }
    }
}

/// Holds a measurement against each requirement, and against what the registers should give where nothing is required of
/// the frequency or of the pulse.
pub(super) fn held(
    plan: &Planned<'_>,
    timing: &Timing,
    recorder: &Recorder,
    error: f64,
) -> Result<Vec<Held>> {
    let needs = plan.needs;
    let seen = Seen::of(plan, timing, recorder, error);
    let mut held = Vec::new();
    if let Some(most) = needs.frequency {
        let wanted = frequency(plan)?;
        let found = (1.0 / seen.period / wanted.value().approx() - 1.0).abs();
        held.push(of_frequency(&seen, Need::Frequency, most, found).held(false)?);
    }
    if let Some(most) = needs.clock {
        held.push(of_frequency(&seen, Need::Clock, most, seen.error.abs()).held(false)?);
    }
    let stated = plan.derivation.clock.deviation;
    if needs.frequency.is_none() && needs.clock.is_none() && stated > Deviation::ZERO {
        held.push(of_frequency(&seen, Need::Frequency, stated, seen.error.abs()).held(true)?);
    }
    if let (Some(most), Some(wanted)) = (needs.pulse, pulse(plan)) {
        held.push(of_pulse(&seen, most, (seen.pulse - wanted).abs())?.held(false)?);
    }
    if let (Some(most), Some(wanted), Some(load)) = (needs.level, pulse(plan), plan.load) {
        held.push(of_level(&seen, most, wanted, load)?);
    }
    if needs.pulse.is_none() && needs.level.is_none() {
        held.extend(implied_pulse(plan, &seen)?);
    }
    if let (Some(most), Some((least, longest))) = (needs.jitter, timing.period.ends()) {
        let holding = Holding {
            need: Need::Jitter,
            limit: most.value(),
            wanted: most.told(),
            found: (longest - least) as f64 * recorder.tick,
            uncertainty: (timing.cycles > 1).then(|| 2.0 * recorder.floor()),
            show: &time,
            would: faster(most.value().approx())?,
        };
        held.push(holding.held(false)?);
    }
    Ok(held)
}

fn of_frequency(seen: &Seen, need: Need, most: Deviation, found: f64) -> Holding<'static> {
    Holding {
        need,
        limit: most.value(),
        wanted: most.told(),
        found,
        uncertainty: seen.frequency_uncertainty(),
        show: &deviation,
        would: seen.steadier(most.value().approx()),
    }
}

fn of_pulse(seen: &Seen, most: Time, found: f64) -> Result<Holding<'static>> {
    Ok(Holding {
        need: Need::Pulse,
        limit: most.value(),
        wanted: most.rounded(4),
        found,
        uncertainty: seen.pulse_uncertainty,
        show: &time,
        would: faster(most.value().approx())?,
    })
}

fn of_level(seen: &Seen, most: LoadLevel, wanted: f64, load: &Load) -> Result<Held> {
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
        limit: most.value(),
        wanted: most.told(),
        found,
        uncertainty: uncertainty.transpose()?,
        show: &|value: Rational| most.with(value).rounded(4),
        would: "a longer capture, or more samples a second".to_owned(),
    }
    .held(false)
}

/// The pulse that was asked for, against what the registers should make of it: within a step of the compare value, and within
/// what the clock may be off. A duty, and a pulse from a clock of which nothing is stated, is held against the period that
/// there is.
fn implied_pulse(plan: &Planned<'_>, seen: &Seen) -> Result<Option<Held>> {
    let setting = &plan.derivation.best.setting;
    let (Some(ask), Some(output)) = (plan.derivation.target.asks.first(), setting.outputs.first()) else {
        return Ok(None);
    };
    let stated = plan.derivation.clock.deviation;
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
    of_pulse(seen, Time::new(limit), found)?.held(true).map(Some)
}

#[cfg(test)]
mod tests {
    use super::Answer;

    #[test]
    fn an_answer_needs_the_whole_interval_on_one_side() {
        let of = |found, off| Answer::of(found, off, 10.0);
        // From 8 to 10 it passes, from 9 to 11 nothing can be told, nor from 10 to 12: 10 would pass. Above 10 it fails.
        assert_eq!(of(9.0, Some(1.0)), Answer::Pass);
        assert_eq!(of(10.0, Some(1.0)), Answer::CannotTell);
        assert_eq!(of(11.0, Some(1.0)), Answer::CannotTell);
        assert_eq!(of(11.5, Some(1.0)), Answer::Fail);
        assert_eq!(of(10.0, Some(0.0)), Answer::Pass);
        // Without an uncertainty there is no answer, however far it is.
        assert_eq!((of(0.0, None), of(1e9, None)), (Answer::CannotTell, Answer::CannotTell));
    }
}
