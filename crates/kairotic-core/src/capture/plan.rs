//! What was measured against what was planned: held against each requirement, with the measurement's own uncertainty,
//! and what the difference comes from.

use super::measurement::{Measurement, Timing};
use super::recorder::Recorder;
use crate::board::{Need, Needs};
use crate::error::Result;
use crate::finding::{
    self, Finding, below_the_floor, bus_clock_suspected, clock_off, divider_off_by_one,
    frequency_unexplained, glitches_seen, jitter_unplanned, pulses_wrong, signal_missing, top_off_by_one,
};
use crate::load::{Load, LoadLevel, Realised};
use crate::quantity::{Deviation, Duty, Frequency, OrOverflow, Rational, Time};
use crate::setting::{Active, Aim, Derivation, Level, clock_suspects};

/// A signal as it was planned.
#[derive(Debug, Clone)]
pub struct Planned<'p> {
    /// Its name.
    pub name: &'p str,
    /// The setting that was derived for it.
    pub derivation: &'p Derivation,
    /// What is required.
    pub needs: &'p Needs,
    /// What it drives.
    pub load: Option<&'p Load>,
}

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

/// What a difference in frequency comes from.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Cause {
    /// There is none that the measurement could see.
    AsPlanned,
    /// The clock is off.
    Clock,
    /// A register holds something else, or the timer counts another clock.
    Registers,
    /// None of those explains it.
    Unexplained,
    /// There is no signal.
    Missing,
}

impl Cause {
    /// The word that outputs use.
    pub const fn word(self) -> &'static str {
        match self {
            Self::AsPlanned => "as planned",
            Self::Clock => "clock",
            Self::Registers => "registers",
            Self::Unexplained => "unexplained",
            Self::Missing => "no signal",
        }
    }
}

/// A signal, measured against its plan.
#[derive(Debug, Clone, PartialEq)]
pub struct Comparison {
    /// The measured frequency over that of the planned registers, less one.
    pub error: f64,
    /// How far that may be off by the capture itself, and by the recorder's clock.
    pub uncertainty: (f64, f64),
    /// The requirements.
    pub held: Vec<Held>,
    /// What the difference comes from.
    pub cause: Cause,
    /// What is or may be wrong.
    pub findings: Vec<Finding>,
}

/// A clock of which nothing is stated is taken to be off by no more than this.
const UNSTATED: f64 = 0.05;
/// So small a share of a period is no jitter worth a word.
const UNHEEDED: f64 = 1e-4;
/// A clock that is taken for another is off by this at least, as clocks of silicon are.
const ROUGHLY: f64 = 1e-3;

/// Holds a measurement against its plan.
///
/// # Errors
/// Numbers that do not fit.
pub fn compare(plan: &Planned<'_>, measured: &Measurement, recorder: &Recorder) -> Result<Comparison> {
    let best = &plan.derivation.best;
    let planned = best.setting.frequency.value().approx();
    let constant = best.setting.outputs.first().is_some_and(|output| output.constant.is_some());
    let mut comparison = Comparison {
        error: 0.0,
        uncertainty: (0.0, 0.0),
        held: Vec::new(),
        cause: Cause::AsPlanned,
        findings: Vec::new(),
    };
    let Some(timing) = &measured.timing else {
        if !constant {
            comparison.cause = Cause::Missing;
            let expected = best.setting.frequency;
            // A period has to fit between two rising edges, wherever the capture begins.
            let enough = recorder.length as f64 * recorder.tick > 2.0 / planned;
            comparison.findings.push(signal_missing::new(plan.name, measured.edges, expected, enough));
        }
        return Ok(comparison);
    };
    let period = timing.clock.period * recorder.tick;
    let by_recorder = recorder.accuracy.map_or(0.0, |accuracy| accuracy.value().approx());
    comparison.error = 1.0 / period / planned - 1.0;
    comparison.uncertainty = (timing.clock.uncertainty(recorder.interval), by_recorder);
    comparison.held = held(plan, timing, recorder, &comparison)?;
    let (cause, finding) = cause(plan, &comparison, period)?;
    comparison.cause = cause;
    comparison.findings.extend(finding);
    if measured.missing.count + measured.doubled.count + measured.irregular.count > 0 {
        comparison.findings.push(pulses_wrong::new(
            plan.name,
            measured.missing.count,
            measured.doubled.count,
            measured.irregular.count,
        ));
    }
    if measured.glitches.count > 0 {
        comparison.findings.push(glitches_seen::new(plan.name, measured.glitches.count));
    }
    let (planned, seen) = jitter(best.setting.jitter.map(|jitter| jitter.peak_to_peak), timing, recorder);
    // Twice what is planned, and more than the capture adds, is something else's.
    if seen > 2.0 * planned + 4.0 * recorder.floor() + UNHEEDED * period {
        let time = |seconds| Rational::measured(seconds).map(Time::new).or_overflow("jitter");
        comparison.findings.push(jitter_unplanned::new(plan.name, time(seen)?, time(planned)?));
    }
    if plan.needs.jitter.is_some() && recorder.is_below_floor(timing) {
        let floor = Time::new(Rational::measured(recorder.floor()).or_overflow("interval")?);
        comparison.findings.push(below_the_floor::new(plan.name, floor));
    }
    finding::sort(&mut comparison.findings);
    Ok(comparison)
}

/// Longest period less shortest, in seconds: as planned, and as seen.
fn jitter(planned: Option<Time>, timing: &Timing, recorder: &Recorder) -> (f64, f64) {
    let seen = timing.period.ends().map_or(0, |(least, most)| most - least);
    (planned.map_or(0.0, |planned| planned.value().approx()), seen as f64 * recorder.tick)
}

/// Mean active time in seconds.
fn active(plan: &Planned<'_>, timing: &Timing, recorder: &Recorder) -> f64 {
    let spread = if plan.derivation.target.level == Level::Low { &timing.low } else { &timing.high };
    spread.mean() * recorder.tick
}

fn text(value: f64, of: impl Fn(Rational) -> String) -> Result<String> {
    Rational::measured(value).or_overflow("measurement").map(of)
}

fn held(
    plan: &Planned<'_>,
    timing: &Timing,
    recorder: &Recorder,
    comparison: &Comparison,
) -> Result<Vec<Held>> {
    let needs = plan.needs;
    let target = &plan.derivation.target;
    let period = timing.clock.period * recorder.tick;
    let (by_capture, by_recorder) = comparison.uncertainty;
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
        // Of a window, any frequency would have done: the one that was chosen counts.
        let wanted = match target.aim {
            Aim::Window(_) => plan.derivation.best.setting.frequency,
            _ => target.frequency()?,
        };
        let found = (1.0 / period / wanted.value().approx() - 1.0).abs();
        let would = steadier(most.value().approx());
        hold(Need::Frequency, most.value(), most.exact(), (found, total), &deviation, would)?;
    }
    if let Some(most) = needs.clock {
        let found = comparison.error.abs();
        let would = steadier(most.value().approx());
        hold(Need::Clock, most.value(), most.exact(), (found, total), &deviation, would)?;
    }
    // An edge is seen up to one sample late: so may each end of a pulse.
    let floor = recorder.floor();
    let seconds = active(plan, timing, recorder);
    let of_pulse = floor + seconds * by_recorder;
    let wanted = match target.asks.first().map(|ask| ask.active) {
        Some(Active::Pulse(pulse)) => Some(pulse.value().approx()),
        Some(Active::Duty(duty)) => {
            Some(duty.value().approx() * plan.derivation.best.setting.period.value().approx())
        }
        None => None,
    };
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

/// What the frequency is off by, and what that comes from.
fn cause(plan: &Planned<'_>, comparison: &Comparison, period: f64) -> Result<(Cause, Option<Finding>)> {
    let derivation = plan.derivation;
    let setting = &derivation.best.setting;
    let (error, ratio) = (comparison.error, 1.0 + comparison.error);
    let uncertainty = comparison.uncertainty.0 + comparison.uncertainty.1;
    if error.abs() <= uncertainty {
        return Ok((Cause::AsPlanned, None));
    }
    let stated = derivation.clock.deviation.value().approx();
    let tolerance = if stated > 0.0 { stated } else { UNSTATED };
    let measured = Frequency::new(Rational::measured(1.0 / period).or_overflow("frequency")?);
    let planned = setting.frequency;
    let explains = |factor: f64, room: f64| {
        // What is no further from 1 than can be told explains nothing.
        (ratio / factor - 1.0).abs() <= room && (factor - 1.0).abs() > 2.0 * room
    };
    // One count too many or too few in the top, or in a divider.
    let ticks = setting.mean_ticks()?.approx();
    let one = |count: f64, more: f64| count / (count + more);
    for (more, by) in [(1.0, 1_i64), (-1.0, -1)] {
        if ticks > 1.0 && setting.dither_bits == 0 && explains(one(ticks, more), uncertainty) {
            let field = setting.top_register.as_deref().unwrap_or("the top");
            let found = top_off_by_one::seen(field, setting.plan.top, by, measured, planned);
            return Ok((Cause::Registers, Some(found)));
        }
        let stages =
            derivation.timer.block.dividers.iter().zip(&setting.divisions).zip(&setting.plan.dividers);
        for ((stage, division), written) in stages {
            let whole = division.is_whole() && division.approx() + more >= 1.0;
            // By two or by four, it is more likely another clock.
            let doubled = [0.25, 0.5, 2.0, 4.0].contains(&one(division.approx(), more));
            if whole
                && !doubled
                && explains(one(division.approx(), more), uncertainty.max(tolerance.min(ROUGHLY)))
            {
                let field = derivation.timer.slot(&stage.slot)?.name();
                let found = divider_off_by_one::seen(&field, *written, by, measured, planned);
                return Ok((Cause::Registers, Some(found)));
            }
        }
    }
    if error.abs() <= tolerance + uncertainty {
        return Ok((Cause::Clock, None));
    }
    let room = uncertainty + if stated > 0.0 { stated.max(ROUGHLY) } else { UNSTATED / 2.0 };
    for (origin, suspect) in clock_suspects(&derivation.timer, setting.clock)? {
        let factor = suspect.value().over(setting.clock.value()).or_overflow("clock")?.approx();
        if explains(factor, room) {
            let found = bus_clock_suspected::new(planned, measured, setting.clock, suspect, &origin);
            return Ok((Cause::Registers, Some(found)));
        }
    }
    if stated > 0.0 && error.abs() <= UNSTATED {
        let off = Deviation::new(Rational::measured(error).or_overflow("error")?);
        return Ok((Cause::Clock, Some(clock_off::new(plan.name, off, derivation.clock.deviation))));
    }
    Ok((Cause::Unexplained, Some(frequency_unexplained::new(plan.name, measured, planned))))
}
