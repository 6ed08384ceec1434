//! Both methods set up for a speed's range, and which of them tells it more finely where.

mod findings;

use serde::Serialize;

use super::at_speed::{AtSpeed, SpeedReading};
use super::interval::{Interval, TimedPulses};
use super::window::Window;
use crate::error::{Error, OrOverflow, Result};
use crate::finding::Finding;
use crate::part::{Timer, TimerUse};
use crate::quantity::{Figure, Frequency, QuantityError, Range, Rational, Speed, Time, Tolerance};

/// A window where neither a length nor a step is asked for.
const USUAL_WINDOW: i64 = 1;
/// The most speeds that are looked at between the slowest and the fastest.
const STEPS: usize = 8;

/// What is to be measured, and with what.
#[derive(Debug, Clone, PartialEq)]
pub struct TachRequest<'p> {
    /// The timer and its clock; the counter with the finest tick, where none is named.
    pub on: TimerUse<'p>,
    /// Pulses a turn.
    pub pulses_per_turn: u32,
    /// From the slowest to the fastest speed.
    pub speeds: Range<Speed>,
    /// How long pulses are counted.
    pub window: Option<Time>,
    /// The largest step between readings that will do.
    pub resolve: Option<Speed>,
}

/// A timer set up to measure a speed.
#[derive(Debug, Clone, PartialEq, Serialize)]
pub struct TachPlan {
    /// The timer, with the base counter that was chosen.
    pub timer: Timer,
    /// The clock.
    pub clock: Tolerance<Frequency>,
    /// Whether that is the part's default, for want of another.
    pub default_clock: bool,
    /// Pulses a turn.
    pub pulses_per_turn: u32,
    /// From the slowest to the fastest speed.
    pub speeds: Range<Speed>,
    /// Period measurement, where the timer can capture.
    pub interval: Option<Interval>,
    /// Counting in a window.
    pub window: Window,
    /// Whether the timer can be clocked by the pulses; otherwise an interrupt has to count them.
    pub counts_pulses: bool,
    /// The speed at which both are equally fine, where there are both.
    pub crossover: Option<Speed>,
    /// What leads.
    pub recommendation: Recommendation,
    /// Both methods from the slowest to the fastest speed.
    pub at: Vec<AtSpeed>,
    /// The step that was asked for.
    pub resolve: Option<Speed>,
    /// What is or may be wrong.
    #[serde(skip)]
    pub findings: Vec<Finding>,
}

/// Which method resolves better.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
#[serde(rename_all = "snake_case")]
pub enum Recommendation {
    /// Period measurement, at every speed.
    Period,
    /// The window, at every speed.
    Window,
    /// Period measurement below the crossover, the window above.
    Both,
}

impl Recommendation {
    /// The word for it.
    pub const fn word(self) -> &'static str {
        match self {
            Self::Period => "period",
            Self::Window => "window",
            Self::Both => "both",
        }
    }
}

/// Sets a timer up to measure a speed.
///
/// # Errors
/// [`QuantityError::NotPositive`] and [`Error::RangeReversed`] for speeds,
/// steps and times that are none; [`Error::NoInputs`] for a timer that takes no pulses; [`Error::ClockTooFast`];
/// [`Error::UnknownName`].
pub fn plan(request: &TachRequest<'_>) -> Result<TachPlan> {
    let Range { low, high } = request.speeds;
    if low.positive()? >= high {
        return Err(Error::reversed(Figure::Speed(low), Figure::Speed(high)));
    }
    let pulses = Rational::from(request.pulses_per_turn);
    if pulses.is_zero() {
        let quantity = "number of pulses per revolution";
        return Err(QuantityError::NotPositive { quantity, value: "0".to_owned() }.into());
    }
    let on = &request.on;
    let mut timers = on.views()?.into_iter();
    let first = timers.next().ok_or_else(|| takes_none(on, None))?;
    let inputs = first.block.inputs.clone();
    let (captures, counts_pulses) =
        inputs.as_ref().map_or((true, true), |inputs| (inputs.capture, inputs.count));
    if !captures && !counts_pulses {
        return Err(takes_none(on, inputs.and_then(|inputs| inputs.instead)));
    }
    let clock = on.clock_of(&first)?;
    let wanted = TimedPulses {
        pulses_per_turn: request.pulses_per_turn,
        speeds: request.speeds,
        clock: clock.nominal,
        deviation: clock.deviation,
    };
    let (timer, interval) = if captures {
        let (timer, interval) = finest(first, timers, &wanted)?;
        (timer, Some(interval))
    } else {
        (first, None)
    };

    let window = Window::of(length(request, pulses)?, pulses, request.speeds)?;
    let crossover = interval.as_ref().map(|interval| crossover(interval, &window, pulses)).transpose()?;
    let recommendation = match crossover {
        None => Recommendation::Window,
        Some(crossover) if crossover >= high => Recommendation::Period,
        Some(crossover) if crossover <= low => Recommendation::Window,
        Some(_) => Recommendation::Both,
    };
    let mut plan = TachPlan {
        timer,
        clock,
        default_clock: on.clock.is_none(),
        pulses_per_turn: request.pulses_per_turn,
        speeds: request.speeds,
        interval,
        window,
        counts_pulses,
        crossover,
        recommendation,
        at: Vec::new(),
        resolve: request.resolve,
        findings: Vec::new(),
    };
    let between = crossover.filter(|_| recommendation == Recommendation::Both);
    plan.at =
        speeds(request.speeds, between)?.into_iter().map(|speed| plan.at(speed)).collect::<Result<_>>()?;
    plan.findings = findings::of(on.part, &plan)?;
    Ok(plan)
}

impl TachPlan {
    /// Both methods at a speed.
    ///
    /// # Errors
    /// [`QuantityError::Overflow`].
    pub fn at(&self, speed: Speed) -> Result<AtSpeed> {
        let pulses = Rational::from(self.pulses_per_turn);
        let timed = |together: u64| -> Result<Option<SpeedReading>> {
            self.interval.as_ref().map(|interval| interval.at(pulses, speed, together)).transpose()
        };
        let turn = if self.pulses_per_turn > 1 { timed(self.pulses_per_turn.into())? } else { None };
        Ok(AtSpeed { speed, interval: timed(1)?, turn, window: self.window.at(speed)? })
    }
}

/// The error for a timer that takes no pulses, with those of the part that do.
fn takes_none(on: &TimerUse<'_>, instead: Option<String>) -> Error {
    let part = on.part;
    let takes = |name: &str| {
        let inputs = part.timer(name, None).ok()?.block.inputs?;
        (inputs.capture || inputs.count).then(|| name.to_owned())
    };
    let others = part.timers.iter().filter_map(|timer| takes(&timer.name)).collect();
    Error::NoInputs { timer: on.path(), instead, others }
}

/// The view of a timer with the finest tick among those that hold the slowest speed; the one that comes nearest to it
/// where none does.
fn finest(
    first: Timer,
    others: impl Iterator<Item = Timer>,
    wanted: &TimedPulses,
) -> Result<(Timer, Interval)> {
    let holds = |interval: &Interval| interval.slowest <= wanted.speeds.low;
    let interval = Interval::of(&first, wanted)?;
    let mut best = (first, interval);
    for timer in others {
        let interval = Interval::of(&timer, wanted)?;
        let better = match (holds(&interval), holds(&best.1)) {
            (true, true) => interval.counter.tick < best.1.counter.tick,
            (false, false) => interval.slowest < best.1.slowest,
            (holds, _) => holds,
        };
        if better {
            best = (timer, interval);
        }
    }
    Ok(best)
}

/// How long pulses are counted: as asked, or as the wanted step needs.
fn length(request: &TachRequest<'_>, pulses: Rational) -> Result<Time> {
    if let Some(window) = request.window {
        return Ok(window.positive()?);
    }
    let Some(resolve) = request.resolve else { return Ok(Time::new(Rational::whole(USUAL_WINDOW))) };
    let rate = resolve.positive()?.value().times(pulses).or_overflow("window")?;
    Ok(Time::new(Rational::ONE.over(rate).or_overflow("window")?))
}

/// The speed at which both methods are equally fine. It is a root, hence a float.
fn crossover(interval: &Interval, window: &Window, pulses: Rational) -> Result<Speed> {
    let product = interval.counter.tick.value().approx() * window.length.value().approx();
    let speed = 1.0 / (pulses.approx() * product.sqrt());
    Rational::measured(speed).or_overflow("crossover").map(Speed::new)
}

/// The slowest speed, doubles of it, the fastest, and the one between where there is one. Where doubles would be too
/// many, larger steps.
fn speeds(Range { low, high }: Range<Speed>, between: Option<Speed>) -> Result<Vec<Speed>> {
    let mut factor = Rational::whole(2);
    let mut speeds;
    loop {
        speeds = vec![low];
        let mut next = low.times(factor)?;
        while next < high && speeds.len() <= STEPS {
            speeds.push(next);
            next = next.times(factor)?;
        }
        if speeds.len() <= STEPS {
            break;
        }
        factor = factor.times(Rational::whole(2)).or_overflow("speed")?;
    }
    speeds.extend(between);
    speeds.push(high);
    speeds.sort_unstable();
    speeds.dedup();
    Ok(speeds)
}
