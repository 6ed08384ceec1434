//! The moves of a sequence's steppers, each as the function that gives the ticks from step to step.

use kairotic_core::motion::RampWay;
use kairotic_core::sequence::{SequencePlan, SequencedMove};

use super::part_of_name;
use crate::map_code::Language;
use crate::step_code;

/// A move that the sequence makes once or more, always in the same way.
pub(super) struct MoveCode<'p> {
    /// What all that belongs to it begins with.
    own: String,
    made: &'p SequencedMove,
    way: &'p RampWay,
    /// When it begins.
    begins: Vec<String>,
}

impl<'p> MoveCode<'p> {
    /// The moves of a sequence of that name. A stepper's only move is called after it, several have the number of their step
    /// as well.
    pub(super) fn all(name: &str, plan: &'p SequencePlan) -> Vec<Self> {
        let mut different: Vec<&SequencedMove> = Vec::new();
        for made in &plan.moves {
            if !different.iter().any(|known| is_same(known, made)) {
                different.push(made);
            }
        }
        let code = |made: &&'p SequencedMove| {
            let is_only = different.iter().filter(|other| other.signal == made.signal).count() == 1;
            let of_step =
                different.iter().filter(|other| other.signal == made.signal && other.step == made.step);
            let pass = if of_step.count() == 1 { String::new() } else { format!("_{}", made.pass) };
            let place = if is_only { String::new() } else { format!("_{}{pass}", made.step) };
            let all = plan.moves.iter().filter(|other| is_same(made, other));
            Some(Self {
                own: format!("{name}_{}{place}", part_of_name(&made.signal)),
                made,
                way: made.made.ramp.ways.first()?,
                begins: all.map(|made| made.begins.rounded(6)).collect(),
            })
        };
        different.iter().filter_map(code).collect()
    }

    fn told(&self) -> String {
        let SequencedMove { signal, from, to, .. } = self.made;
        let begins = self.begins.join(", ");
        format!("{signal} goes from {from} to {to}: it begins at {begins} of the sequence.")
    }

    /// Declarations and definitions.
    pub(super) fn c(&self) -> [String; 2] {
        let [declared, defined] = step_code::c_parts(&self.own, &self.made.made.ramp, self.way);
        [
            format!("/* {} */\n\n{declared}", self.told()),
            format!("\n{}", defined.trim_end_matches('\n').to_owned() + "\n"),
        ]
    }

    pub(super) fn rust(&self) -> String {
        let module = step_code::module(Language::Rust, &self.own, &self.made.made.ramp, self.way);
        format!("\n// {}\n\n{module}", self.told())
    }
}

/// Whether two moves make the same steps in the same place of the sequence.
fn is_same(one: &SequencedMove, other: &SequencedMove) -> bool {
    (&one.signal, one.step, one.from, one.to) == (&other.signal, other.step, other.from, other.to)
}
