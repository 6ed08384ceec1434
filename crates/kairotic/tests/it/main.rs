//! The built program, run on command lines and files as its user would.

// A test may panic: that is how it fails.
#![allow(clippy::unwrap_used, clippy::panic, clippy::indexing_slicing)]

mod answers;
mod boards;
mod budget;
mod checks;
mod documents;
mod emitted;
mod followed;
mod formats;
mod from_reset;
#[cfg(unix)]
mod help_examples;
mod hostile;
mod measure;
mod moves;
mod own_parts;
mod plots;
mod refusals;
mod routing;
mod run;
mod scale;
mod schema;
mod sequence;
mod tach;
