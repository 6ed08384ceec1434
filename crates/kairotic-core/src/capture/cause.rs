//! What a measured frequency is off by its plan, and what that comes from. Each explanation predicts where the frequency
//! may lie; what lies where only one predicts it is that, and what lies where several do is said to be either.

use serde::Serialize;

use crate::decode::clock_suspects;
use crate::error::{OrOverflow, Result};
use crate::finding::{
    BusClockSuspected, CauseUndecided, ClockOff, DividerOffByOne, Explanation, Finding, FrequencyUnexplained,
    RegisterSlip, Remedy, SinglePeriod, TopOffByOne,
};
use crate::quantity::{Deviation, Frequency, Rational};
use crate::search::DerivedSignal;

/// What a difference in frequency comes from.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
#[serde(rename_all = "snake_case")]
pub enum Cause {
    /// There is none that the measurement could see.
    AsPlanned,
    /// The clock is off.
    Clock,
    /// A register holds something else, or the timer counts another clock.
    Registers,
    /// More than one of those explains it, and the measurement cannot tell them apart.
    Undecided,
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
            Self::Undecided => "undecided",
            Self::Unexplained => "unexplained",
            Self::Missing => "no signal",
        }
    }
}

/// A clock of which nothing is stated may be off by this; none that is worth the name is off by more.
pub(super) const UNSTATED: f64 = 0.05;
/// A clock that is taken for another may be off by this, as it is not the one that a tolerance is stated for.
const OTHER_CLOCK: f64 = 1e-3;
/// The same, where nothing is stated of the planned one either.
const OTHER_UNSTATED: f64 = 0.025;

/// Something that would make another frequency of the planned one.
#[derive(Debug, Clone)]
struct Suspect {
    /// That frequency over the planned one.
    factor: f64,
    /// How much further off its clock may be than the planned one.
    room: f64,
    /// What it is.
    explanation: Explanation,
    finding: Finding,
}

/// What a measurement tells of one signal's frequency.
#[derive(Debug, Clone)]
pub(super) struct Clues {
    name: String,
    planned: Frequency,
    measured: Frequency,
    /// The measured frequency over the planned one.
    pub(super) ratio: f64,
    /// How far that may be off by the capture; none where a single period cannot tell.
    pub(super) by_capture: Option<f64>,
    /// How far it may be off by the recorder's clock, as all signals of a capture are.
    pub(super) by_recorder: f64,
    /// How far the signal's clock is stated to be off.
    stated: Option<Deviation>,
    /// What else would explain it.
    others: Vec<Suspect>,
}

/// A clock that the signals of a capture have in common: its real frequency over the planned one, and how far that may be
/// off, the recorder's clock apart.
#[derive(Debug, Clone, Copy, PartialEq)]
pub(super) struct Shared {
    pub(super) ratio: f64,
    pub(super) uncertainty: f64,
}

impl Clues {
    pub(super) fn of(
        signal: &DerivedSignal<'_>,
        period: f64,
        by_capture: Option<f64>,
        by_recorder: f64,
    ) -> Result<Self> {
        let planned = signal.derivation.best.setting.frequency;
        let measured = Frequency::new(Rational::measured(1.0 / period).or_overflow("frequency")?);
        let stated = Some(signal.derivation.clock.deviation).filter(|stated| *stated > Deviation::ZERO);
        Ok(Self {
            name: signal.spec.name.clone(),
            planned,
            measured,
            ratio: 1.0 / period / planned.value().approx(),
            by_capture,
            by_recorder,
            stated,
            others: others(signal, measured, stated.is_some())?,
        })
    }

    /// What its clock may really be, over the planned one: with the planned registers, and with each other explanation.
    pub(super) fn clocks(&self) -> impl Iterator<Item = f64> {
        let others = self.others.iter().map(|other| other.factor);
        std::iter::once(1.0).chain(others).map(|factor| self.ratio / factor)
    }

    /// Whether its clock may be so far off, by what is stated of it.
    pub(super) fn allows(&self, off: f64) -> bool {
        self.stated().is_none_or(|stated| off <= stated)
    }

    fn stated(&self) -> Option<f64> {
        self.stated.map(|stated| stated.value().approx())
    }

    /// What the difference comes from, with the clock behind several signals where that is known.
    pub(super) fn judged(&self, shared: Option<Shared>) -> Result<(Cause, Vec<Finding>)> {
        let Some(by_capture) = self.by_capture else {
            return Ok((Cause::Undecided, vec![SinglePeriod { signal: self.name.clone() }.into()]));
        };
        let total = by_capture + self.by_recorder;
        let error = self.ratio - 1.0;
        // A clock that other signals tell is known better than its tolerance, and the recorder's is in both alike.
        let (clock, seen, room) = match shared {
            Some(shared) => (shared.ratio, by_capture + shared.uncertainty, 0.0),
            None => (1.0, total, self.stated().unwrap_or(0.0)),
        };
        let lies = |factor: f64, room: f64| (self.ratio / clock / factor - 1.0).abs() <= room;
        if lies(1.0, seen) {
            // There is no difference to explain but that of the clock itself.
            return Ok(match error.abs() <= total {
                true => (Cause::AsPlanned, Vec::new()),
                false => (Cause::Clock, self.clock_off(total)?.into_iter().collect()),
            });
        }
        let explained: Vec<&Suspect> =
            self.others.iter().filter(|other| lies(other.factor, seen + room + other.room)).collect();
        let by_tolerance = shared.is_none() && self.stated.is_some() && lies(1.0, seen + room);
        let unstated = shared.is_none() && self.stated.is_none() && error.abs() <= UNSTATED;
        match explained.as_slice() {
            [] if by_tolerance || (shared.is_none() && error.abs() <= UNSTATED) => {
                Ok((Cause::Clock, self.clock_off(total)?.into_iter().collect()))
            }
            [] => {
                let Self { name, measured, planned, .. } = self;
                let found =
                    FrequencyUnexplained { signal: name.clone(), measured: *measured, planned: *planned };
                Ok((Cause::Unexplained, vec![found.into()]))
            }
            [only] if !by_tolerance && !unstated => Ok((Cause::Registers, vec![only.finding.clone()])),
            several => {
                let found = self.undecided(several, by_tolerance || unstated, room)?;
                Ok((Cause::Undecided, vec![found]))
            }
        }
    }

    /// The clock is further off than it is stated to be.
    fn clock_off(&self, uncertainty: f64) -> Result<Option<Finding>> {
        let error = self.ratio - 1.0;
        let Some(stated) = self.stated.filter(|stated| error.abs() > stated.value().approx() + uncertainty)
        else {
            return Ok(None);
        };
        let error = Deviation::new(Rational::measured(error).or_overflow("error")?);
        Ok(Some(ClockOff { signal: self.name.clone(), error, stated }.into()))
    }

    /// Several things explain it: which, and what would tell them apart, by what keeps it from being told now.
    fn undecided(&self, several: &[&Suspect], clock_may: bool, tolerance: f64) -> Result<Finding> {
        let mut explanations = Vec::new();
        if clock_may {
            let error = Deviation::new(Rational::measured(self.ratio - 1.0).or_overflow("error")?);
            explanations.push(Explanation::ClockOff { error });
        }
        explanations.extend(several.iter().map(|one| one.explanation.clone()));
        let by_capture = self.by_capture.unwrap_or(0.0);
        let would = if self.stated.is_none() || tolerance > by_capture.max(self.by_recorder) {
            Remedy::SecondSignal
        } else if self.by_recorder > by_capture {
            Remedy::BetterRecorder
        } else {
            Remedy::LongerCapture
        };
        let (signal, measured, planned) = (self.name.clone(), self.measured, self.planned);
        Ok(CauseUndecided { signal, measured, planned, explanations, would }.into())
    }
}

/// Registers that are one off, and other clocks of the part.
fn others(signal: &DerivedSignal<'_>, measured: Frequency, stated: bool) -> Result<Vec<Suspect>> {
    let derivation = &signal.derivation;
    let setting = &derivation.best.setting;
    let planned = setting.frequency;
    let mut others = Vec::new();
    // One count too many or too few in the top, or in a divider.
    let ticks = setting.mean_ticks()?.approx();
    let one = |count: f64, by: i64| count / (count + by as f64);
    for by in [1, -1] {
        if ticks > 1.0 && setting.dither_bits == 0 {
            let field = setting.top_register.as_deref().unwrap_or("the top");
            let top = setting.plan.top;
            others.push(Suspect {
                factor: one(ticks, by),
                room: 0.0,
                explanation: held_instead(field, top, by),
                finding: TopOffByOne { slip: slip(field, top, by, measured, planned) }.into(),
            });
        }
        let stages =
            derivation.timer.block.dividers.iter().zip(&setting.divisions).zip(&setting.plan.dividers);
        for ((stage, division), written) in stages {
            let factor = one(division.approx(), by);
            // By two or by four, it is more likely another clock.
            let doubled = [0.25, 0.5, 2.0, 4.0].contains(&factor);
            if division.is_whole() && division.approx() + by as f64 >= 1.0 && !doubled {
                let field = derivation.timer.slot(&stage.slot)?.name();
                others.push(Suspect {
                    factor,
                    room: 0.0,
                    explanation: held_instead(&field, *written, by),
                    finding: DividerOffByOne { slip: slip(&field, *written, by, measured, planned) }.into(),
                });
            }
        }
    }
    let clock = setting.clock;
    let room = if stated { OTHER_CLOCK } else { OTHER_UNSTATED };
    for (origin, suspect) in clock_suspects(&derivation.timer, setting.clock)? {
        let factor = suspect.ratio_to(setting.clock)?.approx();
        // What is hardly another clock explains nothing, and one that two names have is told once.
        if (factor - 1.0).abs() > 2.0 * room && others.iter().all(|other| other.factor != factor) {
            others.push(Suspect {
                factor,
                room,
                explanation: Explanation::OtherClock {
                    clock: suspect,
                    origin: origin.clone(),
                    planned: clock,
                },
                finding: BusClockSuspected { found: planned, expected: measured, clock, suspect, origin }
                    .into(),
            });
        }
    }
    Ok(others)
}

fn held_instead(field: &str, written: u64, by: i64) -> Explanation {
    let holds = written.saturating_add_signed(by);
    Explanation::Register { field: field.to_owned(), holds, planned: written }
}

fn slip(field: &str, planned: u64, by: i64, measured: Frequency, expected: Frequency) -> RegisterSlip {
    let holds = planned.saturating_add_signed(by);
    RegisterSlip::Measured { field: field.to_owned(), planned, holds, measured, expected }
}

#[cfg(test)]
mod tests;
