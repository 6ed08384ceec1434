//! Microsteps by two PWM signals: the current of one winding follows the cosine of the angle, that of the other the sine.

use serde::Serialize;

use super::cosine::quarter_cosine;
use super::table_word::TableWord;
use crate::error::{Error, OrOverflow, Result};
use crate::quantity::{Duty, Rational};
use crate::search::DerivedSignal;
use crate::setting::CompareScale;
use crate::target::Active;

/// What makes the current of a winding.
#[derive(Debug, Clone, Copy)]
pub enum Winding<'t> {
    /// A compare value that is the active time in ticks, and is this at the full current.
    Counts(u32),
    /// A channel at a setting.
    Channel {
        /// How its compare values and active times go together.
        scale: CompareScale<'t>,
        /// What it is active at the full current.
        full: Duty,
    },
}

impl<'t> Winding<'t> {
    /// The signal of a winding: what it is active in its plan is the full current; all of the period where it has none.
    ///
    /// # Errors
    /// [`Error::NoLevels`] for a signal whose compare value has no say in its active time; [`Error::NoPlace`] for one without
    /// a channel; one that is never active.
    pub fn of(signal: &'t DerivedSignal<'_>) -> Result<Self> {
        let (setting, timer) = (&signal.derivation.best.setting, &signal.derivation.timer);
        let named = signal.spec.target.channel.as_deref();
        let used = setting.outputs.first().map(|output| output.channel.as_str());
        let channel = named.or(used).ok_or_else(|| Error::NoPlace { signal: signal.spec.name.clone() })?;
        let scale = setting.compare_scale(timer, channel)?;
        let full = match setting.outputs.first() {
            Some(output) => output.duty,
            None => scale.active(scale.compare(Active::Duty(Duty::new(Rational::ONE)))?.nearest)?.0,
        };
        full.positive()?;
        Ok(Self::Channel { scale, full })
    }

    /// The compare value of a share of the full current that lies between two bounds.
    fn compare(&self, [low, high]: [Rational; 2]) -> Result<u64> {
        let nearest = |share: Rational| match self {
            Self::Counts(full) => {
                let half = Rational::new(1, 2).or_overflow("compare value")?;
                let exact = share.times((*full).into()).and_then(|exact| exact.minus(half));
                // Halves go down, as those of a channel.
                exact.and_then(|exact| u64::try_from(exact.ceiling()).ok()).or_overflow("compare value")
            }
            Self::Channel { scale, full } => {
                let duty = full.value().times(share).or_overflow("duty")?;
                Ok(scale.compare(Active::Duty(Duty::new(duty)))?.nearest)
            }
        };
        let (least, most) = (nearest(low)?, nearest(high)?);
        // The bounds are some 1e-17 apart: even of 32 bits few compare values lie so near to a half, and then nothing is guessed.
        Some(least).filter(|least| *least == most).or_overflow("compare value of a microstep")
    }

    /// The share of the full current that a compare value makes.
    fn made(&self, compare: u64) -> Result<Rational> {
        match self {
            Self::Counts(full) => Rational::from(compare).over((*full).into()),
            Self::Channel { scale, full } => scale.active(compare)?.0.value().over(full.value()),
        }
        .or_overflow("current")
    }
}

/// The compare values of two windings, for every microstep of four full steps; then they begin anew.
#[derive(Debug, Clone, PartialEq, Serialize)]
pub struct MicrostepTables {
    /// Microsteps in a full step.
    pub microsteps: u32,
    /// The compare values of both windings at the full current.
    pub full: [u64; 2],
    /// The compare values of the first, less than zero where its current flows the other way: a cosine.
    pub first: Vec<i64>,
    /// Those of the second: a sine.
    pub second: Vec<i64>,
    /// The smallest type that holds them.
    pub word: TableWord,
    /// How far each is off where it should be, in microsteps.
    pub off: Vec<f64>,
    /// The least and the most that a step turns, in microsteps.
    pub step: [f64; 2],
    /// The least and the most torque, as a share of the full one.
    pub torque: [f64; 2],
    /// Microsteps of a full turn of the currents at which the compare values are other than at the one before.
    pub distinct: u32,
}

impl MicrostepTables {
    /// The tables of two windings.
    ///
    /// # Errors
    /// [`Error::NoLevels`] and numbers that do not fit, as of a winding's scale.
    pub fn of(microsteps: u32, windings: [&Winding<'_>; 2]) -> Result<Self> {
        let quarter = microsteps.max(1);
        let [first, second] = windings.map(|winding| Waves::of(winding, quarter));
        let (first, second) = (first?, second?);
        let full = [&first, &second].map(|winding| winding.at(0).0.unsigned_abs());
        let turn = 4 * quarter;
        let back = 3 * quarter;
        let pairs = || (0..turn).map(|step| (first.at(step), second.at((step + back) % turn)));
        let angles: Vec<(f64, f64)> =
            pairs().map(|((_, cosine), (_, sine))| (sine.atan2(cosine), sine.hypot(cosine))).collect();
        let in_microsteps = |radians: f64| radians / std::f64::consts::FRAC_PI_2 * f64::from(quarter);
        let off: Vec<f64> = (0..turn)
            .zip(&angles)
            .map(|(step, (angle, _))| near_zero(in_microsteps(*angle) - f64::from(step), turn))
            .collect();
        let next = |step: usize| off.get((step + 1) % off.len()).copied().unwrap_or_default();
        let turned = || off.iter().enumerate().map(|(step, off)| 1.0 + next(step) - off);
        let torques = || angles.iter().map(|(_, torque)| *torque);
        let (first, second): (Vec<i64>, Vec<i64>) =
            pairs().map(|((cosine, _), (sine, _))| (cosine, sine)).unzip();
        let values = || first.iter().chain(&second).copied();
        let is_new = |step: usize| {
            let before = (step + first.len() - 1) % first.len();
            let at = |place: usize| (first.get(place), second.get(place));
            at(step) != at(before)
        };
        let distinct = (0..first.len()).filter(|step| is_new(*step)).count();
        Ok(Self {
            microsteps: quarter,
            full,
            word: TableWord::of(values().min().unwrap_or(0).into(), values().max().unwrap_or(0).into()),
            step: [least(turned()), most(turned())],
            torque: [least(torques()), most(torques())],
            distinct: u32::try_from(distinct).ok().or_overflow("microsteps")?,
            first,
            second,
            off,
        })
    }

    /// How far a microstep is off where it should be, at most, in microsteps.
    pub fn largest_off(&self) -> f64 {
        most(self.off.iter().map(|off| off.abs()))
    }

    /// Whether the second winding has the compare values of the first, a quarter of the turn later.
    pub fn is_one_table(&self) -> bool {
        let back = 3 * self.microsteps as usize;
        let later = self.first.iter().cycle().skip(back);
        self.second.iter().zip(later).all(|(second, first)| second == first)
    }
}

/// The compare values of a winding for a quarter turn of its current, with the current that they make.
struct Waves {
    quarter: u32,
    values: Vec<(i64, f64)>,
}

impl Waves {
    fn of(winding: &Winding<'_>, quarter: u32) -> Result<Self> {
        let value = |step: u32| {
            let compare = winding.compare(quarter_cosine(step, quarter).or_overflow("microstep")?)?;
            // Zero has no sign to tell the direction by: where that is the largest current, the next value is taken, a tick less.
            let is_signless = compare == 0 && winding.made(0)? > winding.made(1)?;
            let compare = if is_signless { 1 } else { compare };
            let made = winding.made(compare)?.approx();
            Ok((i64::try_from(compare).ok().or_overflow("compare value")?, made))
        };
        Ok(Self { quarter, values: (0..=quarter).map(value).collect::<Result<_>>()? })
    }

    /// Of a microstep of the whole turn: the current falls to zero, turns round and comes back.
    fn at(&self, step: u32) -> (i64, f64) {
        let quarter = self.quarter;
        let (place, backward) = match step / quarter {
            0 => (step, false),
            1 => (2 * quarter - step, true),
            2 => (step - 2 * quarter, true),
            _ => (4 * quarter - step, false),
        };
        let (compare, made) = self.values.get(place as usize).copied().unwrap_or_default();
        if backward { (-compare, -made) } else { (compare, made) }
    }
}

/// The same place on a circle, as near to zero as it gets.
fn near_zero(off: f64, turn: u32) -> f64 {
    let turn = f64::from(turn);
    off - (off / turn).round() * turn
}

fn least(numbers: impl Iterator<Item = f64>) -> f64 {
    numbers.fold(f64::INFINITY, f64::min)
}

fn most(numbers: impl Iterator<Item = f64>) -> f64 {
    numbers.fold(f64::NEG_INFINITY, f64::max)
}
