//! Many boards: oscillators and loads drawn from within their tolerances, and how the signals of all of them come out.

use crate::load::LoadKind;
use std::panic::resume_unwind;
use std::thread;

use rand_chacha::ChaCha8Rng;
use rand_chacha::rand_core::SeedableRng;
use rand_distr::{Distribution, Uniform};
use serde::Serialize;

use super::budget::{Budget, active};
use super::contribution::ErrorSource;
use super::totals::statistic;
use crate::error::{Error, OrOverflow, Result};
use crate::load::Realised;
use crate::quantity::{
    AngleDimension, Deviation, Duty, DutyDimension, LoadLevel, Measured, PowerDimension, Rational, Time,
    TimeDimension,
};
use crate::signal::{Need, Needs};

/// Boards that are drawn from one stream of random numbers: which thread draws them makes no difference.
const BLOCK: u32 = 512;
/// Columns of the distribution.
const BINS: usize = 24;
/// The standard score of an interval that holds 95 of 100.
const SCORE: f64 = 1.959_963_984_540_054;

/// How the signals of many boards come out.
#[derive(Debug, Clone, PartialEq, Serialize)]
pub struct Population {
    /// How many boards there are.
    pub boards: u32,
    /// What the random numbers were started with.
    pub seed: u64,
    /// The mean error.
    pub mean: MeasuredError,
    /// The standard deviation.
    pub standard_deviation: MeasuredError,
    /// The errors that 2.5, 50 and 97.5 of 100 boards stay below.
    pub quantiles: [MeasuredError; 3],
    /// What share meets each requirement that boards differ in.
    pub shares: Vec<Share>,
    /// How many boards lie where.
    pub spread: Vec<Bin>,
}

/// An error of a level in the load's unit, or of a pulse where there is no load.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
#[serde(untagged)]
pub enum MeasuredError {
    /// Of an angle.
    Angle(Measured<AngleDimension>),
    /// Of a share.
    Share(Measured<DutyDimension>),
    /// Of a power.
    Power(Measured<PowerDimension>),
    /// Of a pulse.
    Pulse(Measured<TimeDimension>),
}

impl MeasuredError {
    /// A number of the base units of a level; of seconds where there is none.
    const fn like(level: Option<LoadLevel>, value: f64) -> Self {
        match level {
            Some(LoadLevel::Angle(_)) => Self::Angle(Measured::new(value)),
            Some(LoadLevel::Share(_)) => Self::Share(Measured::new(value)),
            Some(LoadLevel::Power(_)) => Self::Power(Measured::new(value)),
            None => Self::Pulse(Measured::new(value)),
        }
    }

    /// The number in the unit that programs are told it in, with that unit; a share has none.
    pub fn reported(self) -> (f64, Option<&'static str>) {
        match self {
            Self::Angle(error) => error.reported(),
            Self::Share(error) => error.reported(),
            Self::Power(error) => error.reported(),
            Self::Pulse(error) => error.reported(),
        }
    }

    /// The number of base units.
    pub const fn value(self) -> f64 {
        match self {
            Self::Angle(error) => error.value(),
            Self::Share(error) => error.value(),
            Self::Power(error) => error.value(),
            Self::Pulse(error) => error.value(),
        }
    }
}

/// A column of the distribution.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
pub struct Bin {
    /// Where it begins.
    pub from: MeasuredError,
    /// Where it ends.
    pub to: MeasuredError,
    /// How many boards lie in it.
    pub boards: u32,
}

/// How many boards meet a requirement.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
pub struct Share {
    /// The requirement.
    #[serde(rename = "requirement")]
    pub need: Need,
    /// What it allows, in the base unit.
    #[serde(skip)]
    pub limit: f64,
    /// How many boards meet it.
    pub met: u32,
    /// The share of them.
    pub share: f64,
    /// Where the share of all boards there could be lies with a confidence of 95 %, by Wilson's score interval.
    pub interval: (f64, f64),
}

/// Two ends between which something lies.
type Bounds = (f64, f64);

/// One board.
#[derive(Debug, Clone, Copy)]
struct DrawnBoard {
    frequency: f64,
    pulse: f64,
    level: Option<f64>,
    clock: f64,
}

/// Draws boards of a budget: the oscillator's tolerance, temperature and age and the load's tolerance lie anywhere within
/// their ends, and have nothing to do with one another. What differs from pulse to pulse is not in it. The same seed draws
/// the same boards, whatever the number of threads.
///
/// # Errors
/// [`Error::NoPopulation`] for no boards, or where boards do not differ.
pub fn population(
    budget: &Budget,
    needs: &Needs,
    boards: u32,
    seed: u64,
    threads: usize,
) -> Result<Population> {
    let spread: Vec<Bounds> = budget
        .contributions
        .iter()
        .filter(|one| one.cause.is_clock())
        .map(|one| (one.reach.frequency.low.value().approx(), one.reach.frequency.high.value().approx()))
        .collect();
    let load =
        budget.contributions.iter().find(|one| one.cause == ErrorSource::Load).and_then(|one| one.level);
    let load = load.map(|level| (level.low.value().approx(), level.high.value().approx()));
    if boards == 0 || (spread.is_empty() && load.is_none()) {
        return Err(Error::NoPopulation);
    }
    let drawn = drawn(budget, (&spread, load), (boards, seed), threads)?;
    let mut errors: Vec<f64> = drawn.iter().map(|board| board.level.unwrap_or(board.pulse)).collect();
    errors.sort_by(f64::total_cmp);
    let count = f64::from(boards);
    let mean = errors.iter().sum::<f64>() / count;
    let squares = errors.iter().map(|error| (error - mean).powi(2)).sum::<f64>();
    let error = |value: f64| MeasuredError::like(budget.level, value);
    let quantile = |share: f64| {
        let place = ((count - 1.0) * share).round() as usize;
        error(errors.get(place).copied().unwrap_or(mean))
    };
    Ok(Population {
        boards,
        seed,
        mean: error(mean),
        standard_deviation: error((squares / (count - 1.0).max(1.0)).sqrt()),
        quantiles: [quantile(0.025), quantile(0.5), quantile(0.975)],
        shares: shares(&drawn, needs),
        spread: bins(&errors, error),
    })
}

/// The boards, in the order of their streams.
fn drawn(
    budget: &Budget,
    (spread, load): (&[Bounds], Option<Bounds>),
    (boards, seed): (u32, u64),
    threads: usize,
) -> Result<Vec<DrawnBoard>> {
    let blocks = boards.div_ceil(BLOCK);
    let threads = u32::try_from(threads).unwrap_or(u32::MAX).clamp(1, blocks);
    let of_block = |block: u32| {
        let count = BLOCK.min(boards - block * BLOCK);
        block_of(budget, spread, load, seed, block, count)
    };
    let shares: Vec<Vec<Result<Vec<DrawnBoard>>>> = thread::scope(|scope| {
        let running: Vec<_> = (0..threads)
            .map(|first| {
                scope.spawn(move || (first..blocks).step_by(threads as usize).map(of_block).collect())
            })
            .collect();
        running.into_iter().map(|thread| thread.join().unwrap_or_else(|panic| resume_unwind(panic))).collect()
    });
    let mut shares: Vec<_> = shares.into_iter().map(Vec::into_iter).collect();
    let mut all = Vec::with_capacity(boards as usize);
    for block in 0..blocks as usize {
        if let Some(drawn) = shares.get_mut(block % threads as usize).and_then(Iterator::next) {
            all.extend(drawn?);
        }
    }
    Ok(all)
}

fn block_of(
    budget: &Budget,
    spread: &[Bounds],
    load: Option<Bounds>,
    seed: u64,
    block: u32,
    boards: u32,
) -> Result<Vec<DrawnBoard>> {
    let mut random = ChaCha8Rng::seed_from_u64(seed);
    random.set_stream(block.into());
    let mut draw = |(low, high): Bounds| match Uniform::new_inclusive(low, high) {
        Ok(between) => between.sample(&mut random),
        Err(_) => low,
    };
    (0..boards)
        .map(|_| {
            let clock = spread.iter().map(|ends| 1.0 + draw(*ends)).product::<f64>() - 1.0;
            let own = load.map_or(0.0, &mut draw);
            board(budget, clock, own)
        })
        .collect()
}

/// What comes out of a board whose clock is so far off, and whose load adds so much.
fn board(budget: &Budget, clock: f64, own: f64) -> Result<DrawnBoard> {
    let deviation = statistic(clock)?;
    let factor = Rational::ONE.plus(deviation).or_overflow("deviation")?;
    let pulse = budget.realised.pulse.value().over(factor).or_overflow("pulse")?;
    let edges = budget.contributions.iter().find(|one| one.cause == ErrorSource::Edges).map(|one| one.reach);
    let (longer, wider) = edges
        .map_or((Rational::ZERO, Rational::ZERO), |edges| (edges.pulse.low.value(), edges.duty.low.value()));
    let pulse = pulse.plus(longer).or_overflow("pulse")?;
    let duty = budget.realised.duty.value().plus(wider).or_overflow("duty")?;
    let level = match &budget.load {
        Some(load) => {
            let realised = Realised { pulse: Time::new(pulse), duty: Duty::new(duty) };
            let off = load
                .kind
                .level(realised)?
                .less(load.kind.level(active((budget.wanted_pulse, budget.wanted_period))?)?)?;
            Some(off.value().approx() + own)
        }
        None => None,
    };
    let setting = budget.derivation.best.fit.frequency_error;
    let systematic = match budget.derivation.best.fit.window {
        Some(_) => Deviation::ZERO,
        None => setting,
    };
    Ok(DrawnBoard {
        frequency: (1.0 + clock) * (1.0 + systematic.value().approx()) - 1.0,
        pulse: pulse.approx() - budget.wanted_pulse.value().approx(),
        level,
        clock,
    })
}

/// The distribution of sorted errors.
fn bins(errors: &[f64], error: impl Fn(f64) -> MeasuredError) -> Vec<Bin> {
    let (Some(least), Some(most)) = (errors.first().copied(), errors.last().copied()) else {
        return Vec::new();
    };
    let width = (most - least) / BINS as f64;
    if width <= 0.0 {
        return vec![Bin { from: error(least), to: error(most), boards: errors.len() as u32 }];
    }
    let mut counts = [0_u32; BINS];
    for one in errors {
        let place = (((one - least) / width) as usize).min(BINS - 1);
        if let Some(count) = counts.get_mut(place) {
            *count += 1;
        }
    }
    let bin = |(place, boards)| {
        let low = least + width * place as f64;
        Bin { from: error(low), to: error(low + width), boards }
    };
    counts.into_iter().enumerate().map(bin).collect()
}

/// How many boards meet each requirement that boards differ in.
fn shares(drawn: &[DrawnBoard], needs: &Needs) -> Vec<Share> {
    let limit = |need: Need, limit: Option<Rational>| limit.map(|limit| (need, limit.approx()));
    let asked = [
        limit(Need::Frequency, needs.frequency.map(Deviation::value)),
        limit(Need::Pulse, needs.pulse.map(Time::value)),
        limit(Need::Level, needs.level.map(LoadLevel::value)),
        limit(Need::Clock, needs.clock.map(Deviation::value)),
    ];
    let share = |(need, limit): (Need, f64)| {
        let error = |board: &DrawnBoard| match need {
            Need::Frequency => board.frequency,
            Need::Level => board.level.unwrap_or(0.0),
            Need::Clock => board.clock,
            _ => board.pulse,
        };
        let met = drawn.iter().filter(|board| error(board).abs() <= limit).count() as u32;
        let interval = wilson(f64::from(met), drawn.len() as f64);
        Share { need, limit, met, share: f64::from(met) / drawn.len() as f64, interval }
    };
    asked.into_iter().flatten().map(share).collect()
}

/// Wilson's score interval for a share (E. B. Wilson, 1927): it stays inside 0 to 1 and is right for shares near the ends.
fn wilson(met: f64, count: f64) -> (f64, f64) {
    let (share, square) = (met / count, SCORE * SCORE);
    let middle = (share + square / (2.0 * count)) / (1.0 + square / count);
    let reach = SCORE / (1.0 + square / count)
        * (share * (1.0 - share) / count + square / (4.0 * count * count)).sqrt();
    ((middle - reach).max(0.0), (middle + reach).min(1.0))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn wilson_s_ends_are_the_shares_that_lie_one_score_from_what_was_seen() {
        for (met, count) in [(0.0, 10.0), (3.0, 10.0), (50.0, 100.0), (990.0, 1000.0), (7.0, 7.0)] {
            let (low, high) = wilson(met, count);
            let seen: f64 = met / count;
            assert!(low <= seen && seen <= high && low < high && (0.0..=1.0).contains(&low) && high <= 1.0);
            // Where nothing is cut off, both solve (seen - p)² = z² p (1 - p) / n.
            for end in [low, high].into_iter().filter(|end| *end > 0.0 && *end < 1.0) {
                let left = (seen - end).powi(2);
                let right = 1.959_963_984_540_054_f64.powi(2) * end * (1.0 - end) / count;
                assert!((left - right).abs() < 1e-12, "{met} of {count}: {end}");
            }
        }
        // None of ten: up to z² / (n + z²).
        let square = 1.959_963_984_540_054_f64.powi(2);
        let (low, high) = wilson(0.0, 10.0);
        assert!(low == 0.0 && (high - square / (10.0 + square)).abs() < 1e-12);
    }
}
