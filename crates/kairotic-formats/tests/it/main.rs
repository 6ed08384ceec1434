//! The catalogue and the core against each other, against the oracle, and against what simulators measured.

mod brute_force;
mod catalogue;
mod identity;
mod oracle;
mod part_files;
mod vectors;
