//! A measurement against each requirement, with the measurement's own uncertainty.

use super::measurement::Timing;
use super::plan::Planned;
use super::recorder::Recorder;
use crate::board::Need;
use crate::error::Result;
use crate::load::{LoadLevel, Realised};
use crate::quantity::{Deviation, Duty, Frequency, OrOverflow, Rational, Time};
use crate::setting::{Active, Aim, Level};

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

    fn of(found: f64, uncertainty: f64, limit: f64) -> Self {
        if found + uncertainty <= limit {
            Self::Pass
        } else if found - uncertainty > limit {
            Self::Fail
        } else {
            Self::CannotTell
        }
    }
}

/// One requirement, held against the measurement.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Held {
    /// What is required.
    pub need: Need,
    /// How much, as text.
    pub wanted: String,
    /// What was measured, as text.
    pub found: String,
    /// How far that may be off, as text.
    pub uncertainty: String,
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

/// Mean active time in seconds.
fn active(plan: &Planned<'_>, timing: &Timing, recorder: &Recorder) -> f64 {
    let spread = if plan.derivation.target.level == Level::Low { &timing.low } else { &timing.high };
    spread.mean() * recorder.tick
}

fn text(value: f64, of: impl Fn(Rational) -> String) -> Result<String> {
    Rational::measured(value).or_overflow("measurement").map(of)
}

/// Holds a measurement against each requirement.
pub(super) fn held(
    plan: &Planned<'_>,
    timing: &Timing,
    recorder: &Recorder,
    error: f64,
    (by_capture, by_recorder): (f64, f64),
) -> Result<Vec<Held>> {
    let needs = plan.needs;
    let period = timing.clock.period * recorder.tick;
    let deviation = |value: Rational| Deviation::new(value).rounded(4);
    let time = |value: Rational| Time::new(value).rounded(4);
    let mut held = Vec::new();
    let mut hold = |need,
                    limit: Rational,
                    wanted: String,
                    (found, uncertainty): (f64, f64),
                    show: &dyn Fn(Rational) -> String,
                    would: String|
     -> Result<()> {
        let answer = Answer::of(found, uncertainty, limit.approx());
        held.push(Held {
            need,
            wanted: format!("at most {wanted}"),
            found: text(found, show)?,
            uncertainty: text(uncertainty, show)?,
            answer,
            would: (answer == Answer::CannotTell).then_some(would),
        });
        Ok(())
    };
    let steadier = |allowed: f64| {
        if by_recorder > allowed / 2.0 {
            "a recorder with a better clock (--recorder)".to_owned()
        } else {
            "a longer capture, or more samples a second".to_owned()
        }
    };
    let total = by_capture + by_recorder;
    if let Some(most) = needs.frequency {
        let wanted = frequency(plan)?;
        let found = (1.0 / period / wanted.value().approx() - 1.0).abs();
        let would = steadier(most.value().approx());
        hold(Need::Frequency, most.value(), most.exact(), (found, total), &deviation, would)?;
    }
    if let Some(most) = needs.clock {
        let found = error.abs();
        let would = steadier(most.value().approx());
        hold(Need::Clock, most.value(), most.exact(), (found, total), &deviation, would)?;
    }
    // An edge is seen up to one sample late: so may each end of a pulse.
    let floor = recorder.floor();
    let seconds = active(plan, timing, recorder);
    let of_pulse = floor + seconds * by_recorder;
    let wanted = pulse(plan);
    let faster = |most: f64| -> Result<String> {
        let rate = text(4.0 / most, |rate| Frequency::new(rate).rounded(3))?;
        Ok(format!("{rate} or more samples a second"))
    };
    if let (Some(most), Some(wanted)) = (needs.pulse, wanted) {
        let found = (seconds - wanted).abs();
        let would = faster(most.value().approx())?;
        hold(Need::Pulse, most.value(), most.exact(), (found, of_pulse), &time, would)?;
    }
    if let (Some(most), Some(wanted), Some(load)) = (needs.level, wanted, plan.load) {
        let level = |seconds: f64| -> Result<LoadLevel> {
            let pulse = Rational::measured(seconds).or_overflow("pulse")?;
            let duty = Rational::measured(seconds / period).or_overflow("duty")?;
            load.kind.level(Realised { duty: Duty::new(duty), pulse: Time::new(pulse) })
        };
        let meant = level(wanted)?;
        let off =
            |seconds: f64| -> Result<f64> { Ok(level(seconds)?.less(meant)?.magnitude().value().approx()) };
        let found = off(seconds)?;
        let spread = (off(seconds + of_pulse)? - found).abs().max((off(seconds - of_pulse)? - found).abs());
        let show = |value: Rational| most.with(value).rounded(4);
        let would = "more samples a second".to_owned();
        hold(Need::Level, most.value(), most.exact(), (found, spread), &show, would)?;
    }
    if let (Some(most), Some((least, longest))) = (needs.jitter, timing.period.ends()) {
        let found = (longest - least) as f64 * recorder.tick;
        let would = faster(most.value().approx())?;
        hold(Need::Jitter, most.value(), most.exact(), (found, 2.0 * floor), &time, would)?;
    }
    Ok(held)
}
