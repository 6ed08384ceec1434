//! Between bytes and the types of `kairotic-core`.
//!
//! - [`part_file`]: a family file as its author writes it, in TOML;
//! - [`part_blob`]: the same as the binary carries it.
//!
//! Nothing here opens a file: text and bytes come in, values go out.

#![cfg_attr(not(test), deny(clippy::print_stdout, clippy::print_stderr))]

pub mod left_out;
pub mod part_blob;
pub mod part_file;
