//! A stepper's move as C99.

use kairotic_core::motion::{Climb, Coding, RampWay, SteadyRun, StepRamp, StepRoots, TableWord, Walk};

use super::{RunStep, differences, longest, run_steps, told, word_for};
use crate::code_text::{c_type, list};

/// The pieces of a file: tables, what is kept between two steps, how that begins, and what a step does.
#[derive(Default)]
struct CPieces {
    tables: String,
    state: String,
    begin: String,
    body: String,
}

impl CPieces {
    fn table(&mut self, word: TableWord, name: &str, numbers: &str, count: usize) {
        self.tables
            .push_str(&format!("static const {} {name}[{count}] = {{\n{numbers}}};\n\n", c_type(word)));
    }

    fn keep(&mut self, word: TableWord, name: &str, first: u64) {
        self.state.push_str(&format!("static {} {name};\n", c_type(word)));
        self.begin.push_str(&format!("    {name} = {first}u;\n"));
    }
}

/// All in one file.
pub(super) fn module(name: &str, ramp: &StepRamp, way: &RampWay) -> String {
    let [declared, defined] = parts(name, ramp, way);
    format!("#include <stdint.h>\n\n{declared}{defined}")
}

/// What others call, and what that does.
pub(super) fn parts(name: &str, ramp: &StepRamp, way: &RampWay) -> [String; 2] {
    let (steps, interval) = (word_for(ramp.steps), word_for(longest(way)));
    let (counts, word) = (c_type(steps), c_type(interval));
    let mut pieces = CPieces::default();
    pieces.keep(steps, &format!("{name}_step"), 0);
    match &way.walk {
        Walk::Listed { intervals, word: kind } => {
            pieces.table(*kind, &format!("{name}_intervals"), &list(intervals.iter()), intervals.len());
            pieces.body.push_str(&format!("    return {name}_intervals[step];\n"));
        }
        Walk::Ramped { climb, run } => {
            let up = climb.as_ref().map_or(0, |climb| climb.up().count() as u64);
            if let Some(climb) = climb {
                climbing(&mut pieces, name, climb, up, ramp.steps, &word);
            }
            if let Some(run) = run {
                running(&mut pieces, name, *run, up, ramp.steps);
            }
        }
    }
    let CPieces { tables, state, begin, body } = pieces;
    let comment = told(ramp, way).join("\n   ");
    let declared = format!(
        "/* {comment} */\n\n/* Begins the move. */\nvoid {name}_begin(void);\n\n\
         /* Ticks to the next step, from the start or from the step before; 0 when there is none. */\n{word} {name}_next(void);\n\n"
    );
    let defined = format!(
        "{tables}{state}\nvoid {name}_begin(void)\n{{\n{begin}}}\n\n\
         {word} {name}_next(void)\n{{\n    {counts} step = {name}_step;\n    if (step >= {all}u)\n        return 0;\n    {name}_step = step + 1u;\n{body}}}\n",
        all = ramp.steps
    );
    [declared, defined]
}

/// The steps of the ramp: `step` is below `up` on the way up, and as near to the end on the way down.
fn climbing(pieces: &mut CPieces, name: &str, climb: &Climb, up: u64, steps: u64, word: &str) {
    let down = steps - up;
    match climb {
        Climb::Table { intervals, coding: Coding::Plain(kind) } => {
            pieces.table(*kind, &format!("{name}_ramp"), &list(intervals.iter()), intervals.len());
            pieces.body.push_str(&format!(
                "    if (step < {up}u)\n        return {name}_ramp[step];\n    if (step >= {down}u)\n        return {name}_ramp[{last}u - step];\n",
                last = steps - 1
            ));
        }
        Climb::Table { intervals, coding: Coding::Differences(kind) } => {
            let table = format!("{name}_shorter");
            pieces.table(*kind, &table, &list(differences(intervals)), intervals.len().saturating_sub(1));
            let interval = format!("{name}_interval");
            let first = intervals.first().copied().unwrap_or(0);
            // The first interval is the longest.
            pieces.keep(word_for(first), &interval, first);
            pieces.body.push_str(&format!(
                "    if (step < {up}u) {{\n        if (step > 0u) {{\n            {word} shorter = ({word}){table}[step - 1u];\n            {interval} -= shorter;\n        }}\n        return {interval};\n    }}\n    \
                 if (step >= {down}u) {{\n        if (step > {down}u) {{\n            {word} longer = ({word}){table}[{last}u - step];\n            {interval} += longer;\n        }}\n        return {interval};\n    }}\n",
                last = steps - 1
            ));
        }
        Climb::Plateaus { plateaus, interval, count } => {
            let number = plateaus.len();
            let intervals = list(plateaus.iter().map(|one| one.interval));
            pieces.table(*interval, &format!("{name}_intervals"), &intervals, number);
            pieces.table(
                *count,
                &format!("{name}_counts"),
                &list(plateaus.iter().map(|one| one.count)),
                number,
            );
            pieces.keep(word_for(0), &format!("{name}_plateau"), 0);
            pieces.keep(word_for(0), &format!("{name}_made"), 0);
            let turn = |sign: &str| {
                format!(
                    "        if ({name}_made == {name}_counts[{name}_plateau]) {{\n            {name}_plateau{sign};\n            {name}_made = 0u;\n        }}\n        {name}_made++;\n        return {name}_intervals[{name}_plateau];\n"
                )
            };
            pieces.body.push_str(&format!(
                "    if (step < {up}u) {{\n{forward}    }}\n    if (step >= {down}u) {{\n        if (step == {down}u)\n            {name}_made = 0u;\n{back}    }}\n",
                forward = turn("++"),
                back = turn("--")
            ));
        }
        Climb::Root(roots) => {
            pieces.tables.push_str(&edge_function(name, roots));
            pieces.body.push_str(&format!(
                "    if (step < {up}u)\n        return ({word})({name}_edge(step + 1u) - {name}_edge(step));\n    \
                 if (step >= {down}u)\n        return ({word})({name}_edge({steps}u - step) - {name}_edge({last}u - step));\n",
                last = steps - 1
            ));
        }
    }
}

/// The edges of a ramp as roots.
fn edge_function(name: &str, StepRoots { offset, slope, shift, .. }: &StepRoots) -> String {
    let half = (1_u64 << shift) >> 1;
    let square = u128::from(*offset) * u128::from(*offset);
    format!(
        "/* The square root, rounded down, a bit at a time. */\nstatic uint64_t {name}_root(uint64_t square)\n{{\n    \
         uint64_t root = 0, bit = UINT64_C(1) << 62;\n    while (bit > square)\n        bit >>= 2;\n    while (bit != 0) {{\n        \
         if (square >= root + bit) {{\n            square -= root + bit;\n            root = (root >> 1) + bit;\n        }} else {{\n            root >>= 1;\n        }}\n        bit >>= 2;\n    }}\n    return root;\n}}\n\n\
         /* Ticks from the start to a step of the ramp. */\nstatic uint64_t {name}_edge(uint64_t step)\n{{\n    \
         return ({name}_root(UINT64_C({square}) + step * UINT64_C({slope})) - UINT64_C({offset}) + UINT64_C({half})) >> {shift};\n}}\n\n"
    )
}

/// The steps between the ramps.
fn running(pieces: &mut CPieces, name: &str, run: SteadyRun, up: u64, steps: u64) {
    for step in run_steps(run) {
        let made = match step {
            RunStep::First(ticks) if run.last.is_none() => format!("    return {ticks}u;\n"),
            RunStep::First(ticks) => format!("    if (step == {up}u)\n        return {ticks}u;\n"),
            RunStep::Last(ticks) if run.count == 0 => format!("    return {ticks}u;\n"),
            RunStep::Last(ticks) => {
                format!("    if (step == {}u)\n        return {ticks}u;\n", steps - up - 1)
            }
            RunStep::Between(run) if run.fraction == 0 => format!("    return {}u;\n", run.interval),
            RunStep::Between(run) => {
                let sum = format!("{name}_sum");
                pieces.keep(word_for(0), &sum, run.phase.into());
                let (fraction, interval) = (run.fraction, run.interval);
                format!(
                    "    /* What the mean interval has more than whole ticks adds up to one now and then. */\n    {sum} += {fraction}u;\n    return {interval}u + ({sum} < {fraction}u ? 1u : 0u);\n"
                )
            }
        };
        pieces.body.push_str(&made);
    }
}
