//! A motor that is run for a time to turn it by an angle, with nothing that tells where it is: what that is off by, move
//! after move.

use serde::Serialize;

use crate::error::{Error, OrOverflow, Result};
use crate::finding::{Finding, TimedMoveDrifts};
use crate::quantity::{Angle, AngleDimension, Deviation, Measured, Rational, Speed, Time};

/// What is wanted of a timed move.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct TimedMoveRequest {
    /// How far it shall turn.
    pub by: Angle,
    /// How fast it turns, as observed.
    pub speed: Speed,
    /// How far that differs from move to move, either way.
    pub spread: Deviation,
    /// How long it takes until it turns so fast, the speed growing evenly.
    pub spin_up: Time,
    /// How long it takes until it stands, the speed falling evenly.
    pub run_down: Time,
    /// The tick of the firmware's timer.
    pub tick: Time,
    /// How far that timer's clock may be off, either way.
    pub clock: Deviation,
    /// How often the move is made.
    pub moves: u32,
    /// How far the end may be off.
    pub need: Option<Angle>,
    /// What would tell where it is.
    pub encoder: Option<Encoder>,
}

/// Something that counts while a motor turns.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
pub struct Encoder {
    /// Counts in a turn.
    pub counts: u32,
    /// How long the firmware takes from a count to a change of the motor.
    pub latency: Time,
}

/// A timed move.
#[derive(Debug, Clone, PartialEq, Serialize)]
pub struct TimedMove {
    /// How far it shall turn.
    pub by: Angle,
    /// How fast it turns.
    pub speed: Speed,
    /// How long it takes at that speed.
    pub ideal: Time,
    /// The ticks that are nearest to that.
    pub ticks: u64,
    /// The same as a time.
    pub time: Time,
    /// A tick of the timer.
    pub tick: Time,
    /// What a tick turns.
    pub tick_angle: Angle,
    /// How often the move is made.
    pub moves: u32,
    /// What takes the end away from where it should be.
    pub contributions: Vec<MoveDrift>,
    /// All of them after that many moves, rounding dropped each time: the same way, and by chance.
    pub dropped: DriftSum,
    /// The same with the rest of a tick carried into the next move.
    pub carried: DriftSum,
    /// How far the end may be off.
    pub need: Option<Angle>,
    /// The first move after which it may be further off, rounding dropped and carried; none within a million moves.
    pub broken_after: [Option<u32>; 2],
    /// What an encoder would do instead.
    pub encoder: Option<EncoderPlan>,
    /// What is or may be wrong.
    #[serde(skip)]
    pub findings: Vec<Finding>,
}

/// Something that takes the end of a move away from where it should be.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
pub struct MoveDrift {
    /// What it is.
    pub source: DriftSource,
    /// What one move is off by, with its sign where that is known.
    pub each: Angle,
}

/// What takes a move away from where it should end.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
#[serde(rename_all = "snake_case")]
pub enum DriftSource {
    /// Time has ticks. The same every time.
    Rounding,
    /// The clock is off. The same every time, either way.
    Clock,
    /// It speeds up and runs down. The same every time.
    SpinUp,
    /// Its speed differs from move to move.
    Spread,
}

impl DriftSource {
    /// Whether it is another each time, so that moves partly make up for one another.
    pub const fn is_random(self) -> bool {
        matches!(self, Self::Spread)
    }
}

/// What several moves are off by together.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
pub struct DriftSum {
    /// What adds up, the worst way round.
    pub systematic: Angle,
    /// What grows with the root of the number of moves.
    pub random: Measured<AngleDimension>,
}

/// What an encoder tells of a move.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
pub struct EncoderPlan {
    /// The encoder.
    #[serde(flatten)]
    pub encoder: Encoder,
    /// What a count turns.
    pub resolution: Angle,
    /// Counts of the move.
    pub counts_of_move: Rational,
    /// What it turns on from a count to the change of the motor.
    pub overrun: Angle,
    /// The dead band that keeps switching on and off from hunting: what it runs on, and a count.
    pub dead_band: Angle,
}

/// As many moves as are looked at for when a requirement is broken.
const MOST_MOVES: u32 = 1_000_000;

impl TimedMove {
    /// Plans a timed move.
    ///
    /// # Errors
    /// [`QuantityError::NotPositive`](crate::quantity::QuantityError::NotPositive) for a speed or tick of zero or less;
    /// [`Error::NoMove`] for an angle that takes no tick; numbers that do not fit.
    pub fn of(request: &TimedMoveRequest) -> Result<Self> {
        let (speed, tick) = (request.speed.positive()?, request.tick.positive()?);
        let by = request.by.magnitude();
        let ideal = Time::new(by.value().over(speed.value()).or_overflow("time of a move")?);
        let exact = ideal.ratio_to(tick)?;
        let half = Rational::new(1, 2).or_overflow("tick")?;
        let ticks = exact.plus(half).or_overflow("number of ticks")?.floor();
        let ticks = u64::try_from(ticks).ok().or_overflow("number of ticks")?;
        if ticks == 0 {
            return Err(Error::NoMove {
                why: format!("it would run for {}, less than half a tick", ideal.rounded(4)),
            });
        }
        let time = tick.times(ticks.into())?;
        let turned = |time: Rational| time.times(speed.value()).or_overflow("angle").map(Angle::new);
        let rounding = turned(time.less(ideal)?.value())?;
        // While the speed grows evenly, half of the way is missing; while it falls, half of it comes on top.
        let swing = request.run_down.less(request.spin_up)?.value().times(half).or_overflow("angle")?;
        let all = [
            (DriftSource::Rounding, rounding),
            (DriftSource::Clock, by.times(request.clock.value())?),
            (DriftSource::SpinUp, turned(swing)?),
            (DriftSource::Spread, by.times(request.spread.value())?),
        ];
        let contributions: Vec<MoveDrift> = all
            .into_iter()
            .filter(|(_, each)| !each.value().is_zero())
            .map(|(source, each)| MoveDrift { source, each })
            .collect();
        let tick_angle = turned(tick.value())?;
        let drifting = Drifting { contributions: &contributions, half_tick: tick_angle.times(half)? };
        let broken = |carried: bool| request.need.and_then(|need| drifting.broken_after(need, carried));
        let broken_after = [broken(false), broken(true)];
        let encoder = request.encoder.map(|encoder| encoder.plan(by, speed)).transpose()?;
        let mut findings = Vec::new();
        if let (Some(need), Some(after)) = (request.need, broken_after[1])
            && after <= request.moves
        {
            findings.push(TimedMoveDrifts { need, after, moves: request.moves }.into());
        }
        Ok(Self {
            by,
            speed,
            ideal,
            ticks,
            time,
            tick,
            tick_angle,
            moves: request.moves,
            dropped: drifting.after(request.moves, false)?,
            carried: drifting.after(request.moves, true)?,
            need: request.need,
            broken_after,
            encoder,
            findings,
            contributions,
        })
    }
}

/// What one move is off by, to be added up.
struct Drifting<'d> {
    contributions: &'d [MoveDrift],
    half_tick: Angle,
}

impl Drifting<'_> {
    /// All of it after so many moves; with the rest of a tick carried along, rounding is never more than half a tick.
    fn after(&self, moves: u32, carried: bool) -> Result<DriftSum> {
        let mut systematic = Rational::ZERO;
        let mut squares = 0.0;
        for MoveDrift { source, each } in self.contributions {
            let each = each.magnitude();
            if source.is_random() {
                squares += each.value().approx().powi(2) * f64::from(moves);
                continue;
            }
            let sum = match (source, carried) {
                (DriftSource::Rounding, true) => self.half_tick,
                _ => each.times(moves.into())?,
            };
            systematic = systematic.plus(sum.value()).or_overflow("angle")?;
        }
        Ok(DriftSum { systematic: Angle::new(systematic), random: Measured::new(squares.sqrt()) })
    }

    /// The first move after which the end may be further off than is allowed.
    fn broken_after(&self, need: Angle, carried: bool) -> Option<u32> {
        let is_broken = |moves: u32| {
            self.after(moves, carried)
                .is_ok_and(|sum| sum.systematic.value().approx() + sum.random.value() > need.value().approx())
        };
        if !is_broken(MOST_MOVES) {
            return None;
        }
        let (mut kept, mut broken) = (0, MOST_MOVES);
        while kept + 1 < broken {
            let middle = u32::midpoint(kept, broken);
            *(if is_broken(middle) { &mut broken } else { &mut kept }) = middle;
        }
        Some(broken)
    }
}

impl Encoder {
    fn plan(self, by: Angle, speed: Speed) -> Result<EncoderPlan> {
        let counts = Rational::from(self.counts);
        let resolution = Rational::ONE.over(counts).or_overflow("resolution")?;
        let overrun = speed.value().times(self.latency.value()).or_overflow("angle")?;
        Ok(EncoderPlan {
            encoder: self,
            resolution: Angle::new(resolution),
            counts_of_move: by.value().times(counts).or_overflow("counts")?,
            overrun: Angle::new(overrun),
            dead_band: Angle::new(overrun.plus(resolution).or_overflow("dead band")?),
        })
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::quantity::units::{ms, ppm};

    fn request() -> TimedMoveRequest {
        TimedMoveRequest {
            by: "60deg".parse().unwrap(),
            speed: "140rpm".parse().unwrap(),
            spread: Deviation::ZERO,
            spin_up: Time::ZERO,
            run_down: Time::ZERO,
            tick: ms(1),
            clock: Deviation::ZERO,
            moves: 100,
            need: None,
            encoder: None,
        }
    }

    #[test]
    fn sixty_degrees_at_140_rpm() {
        // 140 rpm are 840 degrees a second: 60/840 s, of which 71 ms turn 59.64 degrees.
        let made = TimedMove::of(&request()).unwrap();
        assert_eq!(made.ideal.value(), Rational::new(60, 840).unwrap());
        assert_eq!((made.ticks, made.tick_angle.told()), (71, "0.84 deg".to_owned()));
        assert_eq!(
            made.contributions,
            [MoveDrift { source: DriftSource::Rounding, each: "-0.36deg".parse().unwrap() }]
        );
        assert_eq!(made.dropped.systematic, "36deg".parse().unwrap());
        assert_eq!(made.carried.systematic, "0.42deg".parse().unwrap());
    }

    #[test]
    fn what_is_the_same_each_time_adds_up_and_chance_grows_with_the_root() {
        let request = TimedMoveRequest {
            spread: "5%".parse().unwrap(),
            clock: ppm(10_000),
            spin_up: ms(40),
            run_down: ms(10),
            ..request()
        };
        let made = TimedMove::of(&request).unwrap();
        // A hundred times 0.36 + 0.6 (1 % of 60) + 12.6 (half of 30 ms at 840 deg/s) degrees; 5 % of 60 degrees times ten.
        assert_eq!(made.dropped.systematic, "1356deg".parse().unwrap());
        assert!((made.dropped.random.value() - 30.0 / 360.0).abs() < 1e-12);
    }

    #[test]
    fn a_requirement_is_broken_by_the_first_move_that_goes_beyond_it() {
        let request = TimedMoveRequest { need: Some("5deg".parse().unwrap()), ..request() };
        let made = TimedMove::of(&request).unwrap();
        // 13 times 0.36 are 4.68 degrees, 14 times 5.04; half a tick never is.
        assert_eq!((made.broken_after, made.findings.len()), ([Some(14), None], 0));
        let tight = TimedMoveRequest { need: Some("0.4deg".parse().unwrap()), ..request };
        let made = TimedMove::of(&tight).unwrap();
        assert_eq!((made.broken_after, made.findings.len()), ([Some(2), Some(1)], 1));
    }

    #[test]
    fn an_encoder_of_twenty_counts() {
        let encoder = Encoder { counts: 20, latency: ms(5) };
        let made = TimedMove::of(&TimedMoveRequest { encoder: Some(encoder), ..request() }).unwrap();
        let plan = made.encoder.unwrap();
        // 18 degrees a count, 3 1/3 of them; 840 deg/s for 5 ms are 4.2 degrees.
        assert_eq!(
            (plan.resolution, plan.counts_of_move),
            ("18deg".parse().unwrap(), Rational::new(10, 3).unwrap())
        );
        assert_eq!((plan.overrun, plan.dead_band), ("4.2deg".parse().unwrap(), "22.2deg".parse().unwrap()));
    }
}
