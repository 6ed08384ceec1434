//! What is read from files, and what is written to them.

// A test may panic: that is how it fails.
#![allow(clippy::unwrap_used, clippy::panic, clippy::indexing_slicing, clippy::unreachable)]

mod board_files;
mod captures;
mod catalogue;
mod emit;
mod emit_drives;
mod emit_forms;
mod emit_rust;
mod emit_together;
mod emit_transfer;
mod map_code;
mod observations;
mod part_files;
mod part_schema;
mod part_variants;
mod sequence_code;
mod spoil;
mod step_code;
