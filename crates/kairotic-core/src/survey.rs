//! One target on many timers: what each kind of timer of a part makes of it, side by side.
//!
//! ```
//! use kairotic_core::survey::{SurveyClock, SurveyRequest, survey};
//! # use kairotic_core::part::TimerUse;
//! # use kairotic_core::quantity::units::{khz, mhz, percent};
//! # use kairotic_core::target::Target;
//! # let catalogue = kairotic_parts::Catalogue::embedded();
//! let target = Target::frequency(khz(25)).duty(percent(35));
//! let request = SurveyRequest { target, clock: SurveyClock::Highest, dither: false };
//! let rows = survey(catalogue.part("stm32f411")?, &request)?.rows;
//! // 100 MHz over 25 kHz.
//! assert!(rows.iter().all(|row| row.choice.setting.steps == 4000));
//! # Ok::<(), kairotic_core::Error>(())
//! ```

use std::cmp::{Ordering, Reverse};

use serde::Serialize;

use crate::error::{Error, Result};
use crate::part::{ClockSwitch, Instance, Part, Timer, TimerUse};
use crate::quantity::{Deviation, Frequency, Range, Rational, Time, Tolerance};
use crate::search::{Derivation, Prefer, RankedSetting, SearchOptions, derive_with, leading};
use crate::target::{Aim, Target};

/// What is wanted of every timer.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct SurveyRequest {
    /// The signal.
    pub target: Target,
    /// The clock that each timer is given.
    pub clock: SurveyClock,
    /// Whether only modes that dither are wanted.
    pub dither: bool,
}

/// The clock that each timer is given.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum SurveyClock {
    /// The one after reset.
    Default,
    /// The highest legal one.
    Highest,
    /// This one, where it is legal.
    Given(Tolerance<Frequency>),
}

/// What one kind of timer makes of the target.
#[derive(Debug, Clone, PartialEq, Serialize)]
pub struct SurveyRow {
    /// The first timer of the kind.
    pub timer: Timer,
    /// All timers of the kind.
    pub timers: Vec<String>,
    /// The clock.
    pub clock: Tolerance<Frequency>,
    /// The leading setting.
    #[serde(rename = "setting")]
    pub choice: RankedSetting,
    /// What switches the clock on, where it is the one after reset and off then; the frequency is the one that it is taken
    /// to have once it is on.
    #[serde(rename = "clock_off", skip_serializing_if = "Option::is_none")]
    pub off: Option<ClockSwitch>,
    /// How far the oscillator that the clock comes from after reset may be off over all conditions, where the catalogue
    /// says so.
    pub oscillator: Option<Range<Deviation>>,
}

/// What the rows are sorted by.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum SortBy {
    /// The rule by which settings are ranked, highest first.
    Score,
    /// The frequency's error, smallest first.
    Error,
    /// The steps that count, most first.
    Steps,
    /// The length of a step, shortest first.
    Step,
    /// The jitter, smallest first.
    Jitter,
    /// The clock, slowest first.
    Clock,
    /// The part's name.
    Part,
}

/// What the kinds of timers of a part make of a target.
#[derive(Debug, Clone, Default, PartialEq, Serialize)]
pub struct Survey {
    /// The kinds that make it.
    pub rows: Vec<SurveyRow>,
    /// The kinds that do not, each as `part/timer`.
    pub unable: Vec<String>,
}

impl SurveyRow {
    /// The longest period less the shortest.
    pub fn jitter(&self) -> Time {
        self.choice.setting.jitter.map_or(Time::ZERO, |jitter| jitter.peak_to_peak)
    }
}

/// Tries a target on every kind of timer of a part.
///
/// # Errors
/// What is wrong with the target itself; a timer that cannot make it is no error.
pub fn survey(part: &Part, request: &SurveyRequest) -> Result<Survey> {
    let target = request.target.clone().checked()?;
    let mut survey = Survey::default();
    for (instance, timers) in kinds(part) {
        let Some(input) = part.clocks.get(&instance.clock) else { continue };
        let exactly = |nominal| Tolerance { nominal, deviation: Deviation::ZERO };
        let clock = match request.clock {
            SurveyClock::Default => exactly(input.default),
            SurveyClock::Highest => exactly(input.maximum),
            SurveyClock::Given(clock) => clock,
        };
        let on = TimerUse::of(part, &instance.name).clocked(clock);
        let options = SearchOptions { dither: request.dither, ..SearchOptions::default() };
        match leading(&on, &target, options) {
            Ok((timer, choice)) => {
                let oscillator = part.oscillator_after_reset(input);
                let oscillator = oscillator.and_then(|known| known.accuracy.last()).map(|known| known.within);
                let default = request.clock == SurveyClock::Default;
                let off = timer.clock.off.clone().filter(|_| default);
                survey.rows.push(SurveyRow { timer, timers, clock, off, choice, oscillator });
            }
            Err(error) if error.is_overflow() || matches!(error, Error::BrokenPart { .. }) => {
                return Err(error);
            }
            Err(_) => survey.unable.push(format!("{}/{}", part.name, instance.name)),
        }
    }
    Ok(survey)
}

/// The best of several places for one signal.
#[derive(Debug, Clone, PartialEq)]
pub struct Led {
    /// Which of the places leads.
    pub place: usize,
    /// What it derives.
    pub derivation: Derivation,
    /// The others that make the signal, the best first, each with its score.
    pub others: Vec<(usize, f64)>,
}

/// Derives one signal at several places, and takes the best as [`survey`] ranks them: within the tolerance, then by score;
/// the first of equals.
///
/// # Errors
/// What the first place cannot, where none can; numbers that do not fit.
pub fn lead(places: &[(TimerUse<'_>, Target)], options: SearchOptions) -> Result<Led> {
    let mut made: Vec<(usize, bool, f64)> = Vec::new();
    let mut refused = None;
    for (place, (on, target)) in places.iter().enumerate() {
        match leading(on, target, options) {
            Ok((_, choice)) => made.push((place, choice.fit.within, choice.fit.score)),
            Err(error) => refused = refused.or(Some(error)),
        }
    }
    made.sort_by(|left, right| right.1.cmp(&left.1).then(right.2.total_cmp(&left.2)));
    let mut ranked = made.into_iter().map(|(place, _, score)| (place, score));
    let none = || Error::BrokenPart { part: String::new(), what: "it has no timers".to_owned() };
    let leads = ranked.next().and_then(|(place, _)| Some((place, places.get(place)?)));
    let Some((place, (on, target))) = leads else { return Err(refused.unwrap_or_else(none)) };
    Ok(Led { place, derivation: derive_with(on, target, options)?, others: ranked.collect() })
}

/// How many steps a row's timer has at most at other frequencies, from its clock; those that it cannot make are left out.
/// Frequencies may be off by a twentieth, so that coarse timers show as well.
pub fn steps_at(
    part: &Part,
    row: &SurveyRow,
    target: &Target,
    frequencies: &[Frequency],
) -> Vec<(Frequency, u64)> {
    let within = Rational::new(1, 20).map_or(Deviation::ZERO, Deviation::new);
    let steps = |frequency: Frequency| {
        let target = Target {
            aim: Aim::Frequency(frequency),
            asks: Vec::new(),
            within,
            min_steps: 0,
            ..target.clone()
        };
        let on = TimerUse::of(part, &row.timer.name).clocked(row.clock);
        let options = SearchOptions { prefer: Some(Prefer::Fine), ..SearchOptions::default() };
        let (_, choice) = leading(&on, &target, options).ok().filter(|(_, choice)| choice.fit.within)?;
        (choice.steps() > 0).then_some((frequency, choice.steps()))
    };
    frequencies.iter().filter_map(|frequency| steps(*frequency)).collect()
}

/// The timers of a part, those together that differ in nothing but their names.
pub(crate) fn kinds(part: &Part) -> Vec<(&Instance, Vec<String>)> {
    let mut kinds: Vec<(&Instance, Vec<String>)> = Vec::new();
    for instance in &part.timers {
        match kinds.iter_mut().find(|(known, _)| is_same_kind(part, known, instance)) {
            Some((_, names)) => names.push(instance.name.clone()),
            None => kinds.push((instance, vec![instance.name.clone()])),
        }
    }
    kinds
}

fn is_same_kind(part: &Part, left: &Instance, right: &Instance) -> bool {
    let clocks =
        [left, right].map(|timer| part.clocks.get(&timer.clock).map(|clock| (clock.default, clock.maximum)));
    let shape = |timer: &Instance| {
        let with = &timer.with;
        (with.counter_bits, with.channels.len(), with.modes.clone(), with.no_base, with.fixed_polarity)
    };
    left.block == right.block
        && clocks[0] == clocks[1]
        && left.bases == right.bases
        && left.with.dividers == right.with.dividers
        && shape(left) == shape(right)
}

/// Sorts rows; those outside the tolerance come last, and equals stay as they came.
pub fn sort(rows: &mut [SurveyRow], by: SortBy) {
    rows.sort_by(|left, right| {
        let error = |row: &SurveyRow| row.choice.fit.frequency_error.value().magnitude();
        let within = right.choice.fit.within.cmp(&left.choice.fit.within);
        within.then_with(|| match by {
            SortBy::Score => {
                right.choice.fit.score.total_cmp(&left.choice.fit.score).then(error(left).cmp(&error(right)))
            }
            SortBy::Error => error(left).cmp(&error(right)).then_with(|| compare_steps(left, right)),
            SortBy::Steps => compare_steps(left, right).then_with(|| error(left).cmp(&error(right))),
            SortBy::Step => left.choice.setting.step.cmp(&right.choice.setting.step),
            SortBy::Jitter => left.jitter().cmp(&right.jitter()).then_with(|| compare_steps(left, right)),
            SortBy::Clock => left.clock.nominal.cmp(&right.clock.nominal),
            SortBy::Part => left.timer.part.cmp(&right.timer.part),
        })
    });
}

fn compare_steps(left: &SurveyRow, right: &SurveyRow) -> Ordering {
    Reverse(left.choice.steps()).cmp(&Reverse(right.choice.steps()))
}

/// Whether an output can be held inactive, and active, at a row's setting.
pub fn reaches(row: &SurveyRow) -> (bool, bool) {
    let ends = row.choice.setting.ends;
    (ends.lowest.value().is_zero(), ends.highest.value() == Rational::ONE)
}
