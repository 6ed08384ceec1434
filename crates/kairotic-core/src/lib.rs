//! Timer arithmetic for pulse-width modulation: from a wanted signal to register values and back.
//!
//! Everything here is computation. There is no input, no output, no clock and no environment; numbers are exact
//! rationals with checked arithmetic, and a number that does not fit is an [`Error`] that names the quantity.
//!
//! The rooms, each of which knows only those above it in this list:
//!
//! - [`limits`]: what input may cost; [`name`]: names that come from outside;
//! - [`quantity`]: exact numbers with a dimension, read from text and shown as text;
//! - [`part`]: what a family file says about a microcontroller's timers;
//! - [`finding`]: the registry of what can be wrong with a setting;
//! - [`waveform`]: the edge-by-edge oracle, a counter simulated clock by clock;
//! - [`setting`]: the search for register values, and the way back;
//! - [`clock`]: the clock tree in front of a timer, and both searched together;
//! - [`survey`]: one target on many timers;
//! - [`load`]: what a signal drives, in its own unit;
//! - [`scale`]: from whole-number inputs to compare values, in whole-number arithmetic with a proof;
//! - [`board`]: several signals on one part, with what is required of them;
//! - [`accuracy`]: how far a signal may be off, all in all;
//! - [`tach`]: how a counter measures a speed from pulses that come so many a turn;
//! - [`capture`]: what a pin did, measured edge by edge.

#![cfg_attr(not(test), deny(clippy::print_stdout, clippy::print_stderr))]

pub mod accuracy;
pub mod board;
pub mod capture;
pub mod clock;
pub mod decode;
pub mod error;
pub mod explain;
pub mod finding;
pub mod limits;
pub mod load;
pub mod name;
pub mod part;
pub mod quantity;
pub mod requirement;
pub mod scale;
pub mod search;
pub mod setting;
pub mod signal;
pub mod simulation;
pub mod survey;
pub mod tach;
pub mod waveform;

pub use error::{Error, Result};
