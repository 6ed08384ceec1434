//! A stepper's move as Rust, without the standard library.

use kairotic_core::motion::{Climb, Coding, RampWay, SteadyRun, StepRamp, StepRoots, TableWord, Walk};

use super::{RunStep, differences, longest, run_steps, told, word_for};
use crate::code_text::{camel, list, rust_type};

/// The pieces of a file: tables, what is kept between two steps, how that begins, and what a step does.
#[derive(Default)]
struct RustPieces {
    tables: String,
    state: String,
    begin: String,
    body: String,
}

impl RustPieces {
    fn table(&mut self, word: TableWord, name: &str, numbers: &str, count: usize) {
        self.tables.push_str(&format!("const {name}: [{}; {count}] = [\n{numbers}];\n\n", rust_type(word)));
    }

    fn keep(&mut self, word: TableWord, name: &str, first: u64) {
        self.state.push_str(&format!("    {name}: {},\n", rust_type(word)));
        self.begin.push_str(&format!("{name}: {first}, "));
    }
}

pub(super) fn module(name: &str, ramp: &StepRamp, way: &RampWay) -> String {
    let (steps, interval) = (word_for(ramp.steps), word_for(longest(way)));
    let word = rust_type(interval);
    let (kind, shouted) = (camel(name), name.to_uppercase());
    let mut pieces = RustPieces::default();
    pieces.keep(steps, "step", 0);
    match &way.walk {
        Walk::Listed { intervals, word: kind } => {
            let table = format!("{shouted}_INTERVALS");
            pieces.table(*kind, &table, &list(intervals.iter()), intervals.len());
            pieces.body.push_str(&format!(
                "        Some({})\n",
                cast(&format!("{table}[step as usize]"), *kind, &word)
            ));
        }
        Walk::Ramped { climb, run } => {
            let up = climb.as_ref().map_or(0, |climb| climb.up().count() as u64);
            if let Some(climb) = climb {
                climbing(&mut pieces, &shouted, climb, up, ramp.steps, &word);
            }
            match run {
                Some(run) => running(&mut pieces, *run, up, ramp.steps),
                None => pieces.body.push_str("        None\n"),
            }
        }
    }
    let RustPieces { tables, state, begin, body } = pieces;
    let comment = told(ramp, way).iter().map(|line| format!("/// {line}\n")).collect::<String>();
    let begin = begin.trim_end_matches([' ', ',']);
    format!(
        "{tables}{comment}///\n/// Gives the ticks to the next step, from the start or from the step before.\n#[derive(Debug, Clone)]\npub struct {kind} {{\n{state}}}\n\n\
         impl {kind} {{\n    /// The move from its start.\n    #[allow(clippy::new_without_default)]\n    pub const fn new() -> Self {{\n        Self {{ {begin} }}\n    }}\n}}\n\n\
         impl Iterator for {kind} {{\n    type Item = {word};\n\n    fn next(&mut self) -> Option<{word}> {{\n        let step = self.step;\n        if step >= {all} {{\n            return None;\n        }}\n        self.step = step + 1;\n{body}    }}\n}}\n",
        all = ramp.steps
    )
}

/// The steps of the ramp: `step` is below `up` on the way up, and as near to the end on the way down.
fn climbing(pieces: &mut RustPieces, shouted: &str, climb: &Climb, up: u64, steps: u64, word: &str) {
    let (down, last) = (steps - up, steps - 1);
    match climb {
        Climb::Table { intervals, coding: Coding::Plain(kind) } => {
            let table = format!("{shouted}_RAMP");
            pieces.table(*kind, &table, &list(intervals.iter()), intervals.len());
            let [forward, back] = ["step", &format!("({last} - step)")]
                .map(|place| cast(&format!("{table}[{place} as usize]"), *kind, word));
            pieces.body.push_str(&format!(
                "        if step < {up} {{\n            return Some({forward});\n        }}\n        if step >= {down} {{\n            return Some({back});\n        }}\n"
            ));
        }
        Climb::Table { intervals, coding: Coding::Differences(kind) } => {
            let table = format!("{shouted}_SHORTER");
            pieces.table(*kind, &table, &list(differences(intervals)), intervals.len().saturating_sub(1));
            // The first interval is the longest.
            let first = intervals.first().copied().unwrap_or(0);
            pieces.keep(word_for(first), "interval", first);
            let [forward, back] = ["(step - 1)", &format!("({last} - step)")].map(|place| {
                let entry = format!("{table}[{place} as usize]");
                if rust_type(*kind) == word { entry } else { format!("{entry} as {word}") }
            });
            pieces.body.push_str(&format!(
                "        if step < {up} {{\n            if step > 0 {{\n                self.interval = self.interval.wrapping_sub({forward});\n            }}\n            return Some(self.interval);\n        }}\n        \
                 if step >= {down} {{\n            if step > {down} {{\n                self.interval = self.interval.wrapping_add({back});\n            }}\n            return Some(self.interval);\n        }}\n"
            ));
        }
        Climb::Plateaus { plateaus, interval, count } => {
            let number = plateaus.len();
            let (intervals, counts) = (format!("{shouted}_INTERVALS"), format!("{shouted}_COUNTS"));
            pieces.table(*interval, &intervals, &list(plateaus.iter().map(|one| one.interval)), number);
            pieces.table(*count, &counts, &list(plateaus.iter().map(|one| one.count)), number);
            pieces.keep(word_for(0), "plateau", 0);
            pieces.keep(word_for(0), "made", 0);
            let made = cast(&format!("{counts}[self.plateau as usize]"), *count, "u32");
            let given = cast(&format!("{intervals}[self.plateau as usize]"), *interval, word);
            let turn = |sign: &str| {
                format!(
                    "            if self.made == {made} {{\n                self.plateau {sign}= 1;\n                self.made = 0;\n            }}\n            self.made += 1;\n            return Some({given});\n"
                )
            };
            pieces.body.push_str(&format!(
                "        if step < {up} {{\n{}        }}\n        if step >= {down} {{\n            if step == {down} {{\n                self.made = 0;\n            }}\n{}        }}\n",
                turn("+"),
                turn("-")
            ));
        }
        Climb::Root(StepRoots { offset, slope, shift, .. }) => {
            let edge = format!("{}_edge", shouted.to_lowercase());
            let half = (1_u64 << shift) >> 1;
            let square = u128::from(*offset) * u128::from(*offset);
            pieces.tables.push_str(&format!(
                "/// Ticks from the start to a step of the ramp.\nconst fn {edge}(step: u64) -> u64 {{\n    (({square} + step * {slope}_u64).isqrt() - {offset} + {half}) >> {shift}\n}}\n\n"
            ));
            let step =
                |text: &str| if steps >> 32 == 0 { format!("u64::from({text})") } else { text.to_owned() };
            let narrow = if word == "u64" { "" } else { " as u32" };
            pieces.body.push_str(&format!(
                "        if step < {up} {{\n            return Some(({edge}({}) - {edge}({})){narrow});\n        }}\n        if step >= {down} {{\n            return Some(({edge}({}) - {edge}({})){narrow});\n        }}\n",
                step("step + 1"),
                step("step"),
                step(&format!("{steps} - step")),
                step(&format!("{last} - step"))
            ));
        }
    }
}

/// The steps between the ramps.
fn running(pieces: &mut RustPieces, run: SteadyRun, up: u64, steps: u64) {
    let at = |step: u64, ticks: u64| {
        format!("        if step == {step} {{\n            return Some({ticks});\n        }}\n")
    };
    for step in run_steps(run) {
        let made = match step {
            RunStep::First(ticks) if run.last.is_none() => format!("        Some({ticks})\n"),
            RunStep::First(ticks) => at(up, ticks),
            RunStep::Last(ticks) if run.count == 0 => format!("        Some({ticks})\n"),
            RunStep::Last(ticks) => at(steps - up - 1, ticks),
            RunStep::Between(run) if run.fraction == 0 => format!("        Some({})\n", run.interval),
            RunStep::Between(run) => {
                pieces.keep(word_for(0), "sum", run.phase.into());
                let (fraction, interval) = (run.fraction, run.interval);
                format!(
                    "        // What the mean interval has more than whole ticks adds up to one now and then.\n        \
                     let (sum, longer) = self.sum.overflowing_add({fraction});\n        self.sum = sum;\n        Some(if longer {{ {} }} else {{ {interval} }})\n",
                    interval + 1
                )
            }
        };
        pieces.body.push_str(&made);
    }
}

/// A value of one type as another, where they differ.
fn cast(value: &str, from: TableWord, to: &str) -> String {
    if rust_type(from) == to { value.to_owned() } else { format!("{to}::from({value})") }
}
