//! A stepper's move, whole: the way, the ramp, the timer that times it, and what is or may be wrong.

use serde::Serialize;

use super::ideal::Ideal;
use super::microsteps::MicrostepTables;
use super::pace::Pace;
use super::ramp::{RampRequest, StepRamp};
use super::step_counter::{StepCounter, StepTimer};
use super::travel::{Course, Travel};
use crate::error::{Error, OrOverflow, Result};
use crate::finding::{
    self, DirectionTooLate, Finding, InterruptsTooSlow, MicrostepsAlike, MoveTooSlow, StepPulseCut,
    StepsOffIdeal, TopNotBuffered,
};
use crate::limits;
use crate::load::{StepDrive, StepRates, Stepper};
use crate::part::Trust;
use crate::quantity::{Frequency, Rational, StepRate, Time};
use crate::setting::findings::unsure;

/// What is wanted of a move.
#[derive(Debug, Clone, PartialEq)]
pub struct MoveRequest<'p> {
    /// What moves.
    pub stepper: Stepper,
    /// Where it goes.
    pub course: Course,
    /// How fast.
    pub pace: Pace,
    /// What times its steps.
    pub timing: StepTiming<'p>,
    /// How far an edge may be off the ideal, in ticks.
    pub most: Rational,
    /// Clocks that an interrupt takes for each step, where that is said.
    pub cycles_per_step: Option<u64>,
    /// How often the move is made, for what becomes of a rest.
    pub moves: u32,
    /// The compare values of two windings, where those make the steps.
    pub microsteps: Option<MicrostepTables>,
}

impl MoveRequest<'_> {
    /// The timer as it times the move, where it is one, without a look at each step.
    ///
    /// # Errors
    /// As [`StepperMove::of`].
    pub fn counter(&self) -> Result<Option<StepCounter>> {
        let (_, steps, rates) = self.paced()?;
        let StepTiming::Timer(at) = &self.timing else { return Ok(None) };
        StepCounter::of(at, steps, &rates, shortest_pulse(&self.stepper)).map(Some)
    }

    /// The way, its steps and their rates.
    fn paced(&self) -> Result<(Travel, u64, StepRates)> {
        let stepper = &self.stepper;
        let travel = Travel::of(stepper, self.course, self.moves)?;
        let steps = travel.steps.unsigned_abs();
        if steps == 0 {
            return Err(Error::NoMove { why: "both ends are the same step".to_owned() });
        }
        if limits::MOVE_STEPS.is_below(steps) {
            let said = limits::MOVE_STEPS.refusal("the move has", steps);
            return Err(Error::TooManySteps { said });
        }
        let rates = self.pace.rates(&stepper.rates, stepper.steps_in_turn()?, steps)?;
        Ok((travel, steps, rates))
    }
}

/// What times steps.
#[derive(Debug, Clone, PartialEq)]
pub enum StepTiming<'p> {
    /// A counter whose tick is settled, however long it counts.
    Tick(Time),
    /// A timer of a part.
    Timer(StepTimer<'p>),
}

/// A move of a stepper.
#[derive(Debug, Clone, PartialEq, Serialize)]
pub struct StepperMove {
    /// What moves.
    pub stepper: Stepper,
    /// The way.
    pub travel: Travel,
    /// The rates of this move.
    pub rates: StepRates,
    /// The ramp.
    pub ramp: StepRamp,
    /// How long it takes, by the first of the ways to make it.
    pub time: Time,
    /// The timer, where one is known.
    pub counter: Option<StepCounter>,
    /// The compare values of two windings, where they are known.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub microsteps: Option<MicrostepTables>,
    /// What is or may be wrong.
    #[serde(skip)]
    pub findings: Vec<Finding>,
}

impl StepperMove {
    /// Plans a move.
    ///
    /// # Errors
    /// [`Error::LevelOutside`] for an angle outside the stepper's travel, [`Error::NoMove`] for a way of no step; rates
    /// that [`StepRates::checked`] refuses; a timer that is not there or cannot time the move; numbers that do not fit.
    pub fn of(request: &MoveRequest<'_>) -> Result<Self> {
        let stepper = &request.stepper;
        let (travel, steps, rates) = request.paced()?;
        let (tick, counter) = match &request.timing {
            StepTiming::Tick(tick) => (tick.positive()?, None),
            StepTiming::Timer(at) => {
                let counter = StepCounter::of(at, steps, &rates, shortest_pulse(stepper))?;
                (counter.setting.tick, Some(counter))
            }
        };
        let ramp = StepRamp::of(&RampRequest { steps, rates, tick, most: request.most })?;
        if let Some(shortest) = counter.as_ref().map(|counter| counter.shortest)
            // A way that rounds twice may have an interval that is a tick shorter.
            && ramp.fastest <= shortest
        {
            let least = ramp.time_of(shortest.saturating_add(1))?;
            return Err(Error::StepTooShort { step: ramp.time_of(ramp.fastest)?, least });
        }
        let ticks = ramp.ways.first().map_or(0, |way| way.ticks);
        let time = tick.times(ticks.into())?;
        let mut made = Self {
            stepper: stepper.clone(),
            travel,
            rates,
            ramp,
            time,
            counter,
            microsteps: request.microsteps.clone(),
            findings: Vec::new(),
        };
        made.findings = findings(request, &made)?;
        Ok(made)
    }
}

/// How long a move takes if time has no steps: found at once, however many steps it has.
///
/// # Errors
/// As [`StepperMove::of`], but for what a timer cannot do.
pub fn ideal_time(stepper: &Stepper, course: Course, pace: Pace) -> Result<Time> {
    let steps = Travel::of(stepper, course, 1)?.steps.unsigned_abs();
    if steps == 0 {
        return Err(Error::NoMove { why: "both ends are the same step".to_owned() });
    }
    let rates = pace.rates(&stepper.rates, stepper.steps_in_turn()?, steps)?.checked()?;
    let tick = Time::new(Rational::new(1, 1_000_000).or_overflow("tick")?);
    let ideal = Ideal::of(steps, &rates, tick)?;
    Ok(tick.times(ideal.nearest(ideal.floor(steps)?).into())?)
}

/// The shortest pulse that the driver sees, where there is one.
const fn shortest_pulse(stepper: &Stepper) -> Option<Time> {
    match stepper.drive {
        StepDrive::StepDirection { pulse, .. } => Some(pulse),
        StepDrive::FourWire { .. } | StepDrive::TwoWindings { .. } => None,
    }
}

fn findings(request: &MoveRequest<'_>, made: &StepperMove) -> Result<Vec<Finding>> {
    let mut found: Vec<Finding> = Vec::new();
    let ramp = &made.ramp;
    let interval = |ticks: u64| ramp.tick.times(ticks.into());
    let shortest = interval(ramp.fastest)?;
    if let Pace::Within(wanted) = request.pace
        && made.time > wanted
    {
        let fastest = made.stepper.rates.fastest;
        found.push(MoveTooSlow { wanted, time: made.time, fastest }.into());
    }
    if !ramp.met
        && let Some(way) = ramp.ways.first()
    {
        found.push(StepsOffIdeal { ticks: way.deviation.ticks, wanted: ramp.most }.into());
    }
    if let Some(pulse) = shortest_pulse(&made.stepper) {
        // The pulse as the timer makes it, and a pause that the driver sees as well.
        let made_pulse = made.counter.as_ref().and_then(StepCounter::pulse).unwrap_or(pulse);
        let needed = Time::new(made_pulse.value().plus(pulse.value()).or_overflow("pulse")?);
        if shortest < needed {
            found.push(StepPulseCut { interval: shortest, pulse, needed }.into());
        }
    }
    if let StepDrive::StepDirection { setup, .. } = made.stepper.drive {
        let first =
            ramp.edges().next().transpose()?.map_or(Ok(Time::ZERO), |edge| interval(edge.interval))?;
        if first < setup {
            found.push(DirectionTooLate { first, setup }.into());
        }
    }
    if let Some(tables) = &made.microsteps {
        let wanted = 4 * tables.microsteps;
        if tables.distinct < wanted {
            found.push(MicrostepsAlike { distinct: tables.distinct, wanted }.into());
        }
    }
    if let Some(counter) = &made.counter {
        if let Some(cycles) = request.cycles_per_step {
            let clock: Frequency = counter.clock.nominal;
            let most = clock.value().over(cycles.into()).or_overflow("step rate")?;
            let rate = Rational::ONE.over(shortest.value()).or_overflow("step rate")?;
            if rate > most {
                let (rate, most) = (StepRate::new(rate), StepRate::new(most));
                found.push(InterruptsTooSlow { cycles, clock, rate, most }.into());
            }
        }
        if !counter.buffered {
            found.push(TopNotBuffered { shortest }.into());
        }
        let mode = counter.timer.mode(&counter.setting.plan.mode)?;
        for fact in mode.facts.iter().filter(|fact| fact.trust == Trust::Unsure) {
            found.push(unsure(&counter.timer, fact));
        }
    }
    finding::sort(&mut found);
    Ok(found)
}
