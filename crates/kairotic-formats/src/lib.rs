//! Between bytes and the types of `kairotic-core`.
//!
//! - [`text_file`]: a file that a person writes, and what is wrong with it;
//! - `capture`, with the feature of that name: recorded edges as files have them;
//! - [`board_file`]: a board as a person writes it, in TOML; with the feature `schema`, its JSON Schema as well;
//! - [`part_file`]: a family file as its author writes it, in TOML;
//! - [`part_blob`]: the same as the binary carries it;
//! - [`memory_dump`]: memory as a debugger prints it;
//! - [`lines`]: text with something on each line;
//! - [`observations`]: what was seen of a load, beside what it was given;
//! - [`map_code`]: a map from inputs to compare values as a function in C or Rust;
//! - [`step_code`]: a stepper's move as C or Rust;
//! - `emit`, with the feature of that name: code made of a board.
//!
//! Nothing here opens a file: text and bytes come in, values go out.

#![cfg_attr(not(test), deny(clippy::print_stdout, clippy::print_stderr))]

pub mod board_file;
#[cfg(feature = "capture")]
pub mod capture;
mod code_text;
#[cfg(feature = "emit")]
pub mod emit;
pub mod lines;
pub mod map_code;
pub mod memory_dump;
pub mod observations;
pub mod part_blob;
pub mod part_file;
pub mod sequence_code;
pub mod step_code;
pub mod text_file;
pub mod unsupported;
