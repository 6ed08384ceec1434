//! The catalogue and the core against each other, against the oracle, and against what simulators measured.

// A test may panic: that is how it fails.
#![allow(clippy::unwrap_used, clippy::panic, clippy::indexing_slicing, clippy::unreachable)]

mod board_clocks;
mod boundaries;
mod brute_force;
mod budgets;
mod catalogue;
mod choices;
mod clocks;
mod dead_times;
mod examples;
mod extremes;
mod identity;
mod invariants;
mod known_clocks;
mod microsteps;
mod moves;
mod needs;
mod oracle;
mod pins;
mod placements;
mod program;
mod reaches;
mod request;
mod sequences;
mod suspicions;
mod tach;
mod time_bases;
mod vectors;
mod verdicts;
mod waves;
mod workings;
