//! Timer arithmetic for pulse-width modulation: from a wanted signal to register values and back.
//!
//! Everything here is computation. There is no input, no output, no clock and no environment; numbers are exact
//! rationals with checked arithmetic, and a number that does not fit is an [`Error`] that names the quantity.
//!
//! ```
//! use kairotic_core::part::TimerUse;
//! use kairotic_core::quantity::units::{khz, mhz, percent};
//! use kairotic_core::search::derive;
//! use kairotic_core::target::Target;
//! use kairotic_parts::Catalogue;
//!
//! let catalogue = Catalogue::embedded();
//! let timer_use = TimerUse::of(catalogue.part("stm32f411")?, "tim3").clocked(mhz(96).exactly());
//! let derivation = derive(&timer_use, &Target::frequency(khz(25)).duty(percent(35)))?;
//! let write: Vec<String> = derivation.best.registers.iter().map(|write| write.name()).collect();
//! assert_eq!(write[..3], ["PSC", "ARR", "CCR1"]);
//! assert_eq!(derivation.best.setting.frequency, khz(25));
//! # Ok::<(), kairotic_core::Error>(())
//! ```
//!
//! `examples/first-steps` goes on from here: to the edges on the pin, and back from the registers.
//!
//! The features `capture` and `simulation` bring what measures recorded edges, and what makes edges with faults and
//! boards drawn at random; they come with larger dependencies, and are off unless they are asked for.
//!
//! The rooms, each of which uses only those above it in this list:
//!
//! - [`limits`]: what input may cost; [`name`]: names that come from outside;
//! - [`quantity`]: exact numbers with a dimension, read from text and shown as text;
//! - [`error`]: what can be wrong with a request, as data;
//! - [`target`]: what is wanted of a pin;
//! - [`part`]: what a family file says about a microcontroller's timers;
//! - [`waveform`]: the edge-by-edge oracle, a counter simulated clock by clock;
//! - [`finding`]: the registry of what can be wrong with a result;
//! - [`setting`]: register values and what they make;
//! - [`load`]: what a signal drives, in its own unit;
//! - [`signal`]: one named signal: where it comes out, what it drives, what is required of it;
//! - [`search`]: every mode and divider of a timer, ranked;
//! - [`requirement`]: what is required of a signal, and whether it is met;
//! - [`decode`]: from register values back to a signal;
//! - [`explain`]: how a setting comes about, line by line;
//! - [`clock`]: the clock tree in front of a timer, and both searched together;
//! - [`program`]: every step between reset and a moving pin;
//! - [`survey`]: one target on many timers;
//! - [`scale`]: from whole-number inputs to compare values, in whole-number arithmetic with a proof;
//! - [`accuracy`]: the error budget of a signal;
//! - [`motion`]: from here to there: steps, ramps and their time;
//! - [`sequence`]: levels over time, several signals on one line of time;
//! - [`simulation`]: the edges that a signal should have, and faults in them;
//! - [`capture`]: what a pin did, measured edge by edge;
//! - [`tach`]: how a counter measures a speed from pulses, and speeds in a capture;
//! - [`board`]: several signals on one part, with what is required of them.

#![cfg_attr(not(test), deny(clippy::print_stdout, clippy::print_stderr))]

pub mod accuracy;
pub mod board;
#[cfg(feature = "capture")]
pub mod capture;
pub mod clock;
pub mod decode;
pub mod error;
pub mod explain;
pub mod finding;
pub mod limits;
pub mod load;
pub mod motion;
pub mod name;
pub mod part;
pub mod program;
pub mod quantity;
pub mod requirement;
pub mod scale;
pub mod search;
pub mod sequence;
pub mod setting;
pub mod signal;
pub mod simulation;
pub mod survey;
pub mod tach;
pub mod target;
pub mod waveform;

pub use error::{Error, Result};
