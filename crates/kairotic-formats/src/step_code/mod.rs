//! A stepper's move as C or Rust: a function that gives the ticks from each step to the next.
//!
//! ```
//! use kairotic_core::load::StepRates;
//! use kairotic_core::motion::{RampRequest, StepRamp};
//! use kairotic_core::quantity::{Rational, StepRate, units::us};
//! use kairotic_formats::map_code::Language;
//! use kairotic_formats::step_code::module;
//!
//! let rates = StepRates {
//!     start: StepRate::ZERO,
//!     fastest: "2000steps/s".parse()?,
//!     acceleration: "1000steps/s2".parse()?,
//!     jerk: None,
//! };
//! let ramp = StepRamp::of(&RampRequest { steps: 200, rates, tick: us(1), most: Rational::ONE })?;
//! let code = module(Language::C, "slit", &ramp, &ramp.ways[0]);
//! assert!(code.contains("uint32_t slit_next(void)"));
//! # Ok::<(), kairotic_core::Error>(())
//! ```

mod c;
mod rust;
mod windings;

use kairotic_core::load::PhaseMode;
use kairotic_core::motion::{RampWay, SteadyRun, StepRamp, TableWord};
use kairotic_core::quantity::show;

pub use self::windings::windings;
use crate::code_text::list;
use crate::map_code::Language;

/// A way to make a move as a file of its own. Nothing in it is allocated, and every number fits its type: the intervals that
/// it gives are those that were held against the ideal.
pub fn module(language: Language, name: &str, ramp: &StepRamp, way: &RampWay) -> String {
    match language {
        Language::C => c::module(name, ramp, way),
        Language::Rust => rust::module(name, ramp, way),
    }
}

/// The same in C as what others call, and what that does.
pub(crate) fn c_parts(name: &str, ramp: &StepRamp, way: &RampWay) -> [String; 2] {
    c::parts(name, ramp, way)
}

/// The lines of a four-wire drive that are on at a position, as a function; the first line is the lowest bit.
pub fn phases(language: Language, name: &str, mode: PhaseMode) -> String {
    let patterns = mode.patterns();
    let (all, numbers) = (patterns.len(), list(patterns.iter()));
    match language {
        Language::C => format!(
            "\n/* The lines that are on at a step counted from angle zero, the first line in the lowest bit. */\n\
             uint8_t {name}_phase(int32_t position);\n\n\
             static const uint8_t {name}_phases[{all}] = {{\n{numbers}}};\n\n\
             uint8_t {name}_phase(int32_t position)\n{{\n    return {name}_phases[(uint32_t)position % {all}u];\n}}\n"
        ),
        Language::Rust => {
            let table = format!("{}_PHASES", name.to_uppercase());
            format!(
                "\nconst {table}: [u8; {all}] = [\n{numbers}];\n\n\
                 /// The lines that are on at a step counted from angle zero, the first line in the lowest bit.\n\
                 pub const fn {name}_phase(position: i32) -> u8 {{\n    {table}[(position as u32 % {all}) as usize]\n}}\n"
            )
        }
    }
}

/// What is proved, for the comment.
fn told(ramp: &StepRamp, way: &RampWay) -> Vec<String> {
    let ticks = show::significant(way.deviation.ticks.approx(), 4);
    vec![
        format!("{} steps in {} ticks of {}.", ramp.steps, way.ticks, ramp.tick.rounded(6)),
        format!("No edge is more than {ticks} ticks off the ideal: all of them were looked at."),
    ]
}

/// The type of a counter of so many, and of an interval of so many ticks.
const fn word_for(most: u64) -> TableWord {
    TableWord { bits: if most >> 32 == 0 { 32 } else { 64 }, signed: false }
}

/// The longest interval of a way.
fn longest(way: &RampWay) -> u64 {
    way.walk.intervals().max().unwrap_or(0)
}

/// How much shorter each interval is than the one before.
fn differences(intervals: &[u64]) -> impl Iterator<Item = i128> + '_ {
    intervals.iter().zip(intervals.iter().skip(1)).map(|(one, next)| i128::from(*one) - i128::from(*next))
}

/// The steps of a run, in the order in which they come.
enum RunStep {
    /// The first, with its ticks.
    First(u64),
    /// The last before the way down.
    Last(u64),
    /// Those between.
    Between(SteadyRun),
}

/// Which kinds of steps a run has.
fn run_steps(run: SteadyRun) -> impl Iterator<Item = RunStep> {
    let between = (run.count > 0).then_some(RunStep::Between(run));
    [Some(RunStep::First(run.first)), run.last.map(RunStep::Last), between].into_iter().flatten()
}
