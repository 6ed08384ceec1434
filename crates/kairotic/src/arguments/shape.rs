//! How a signal is made: active high or low, with dead time or without, in which mode and with which counter.

use clap::{Args, ValueEnum};
use kairotic_core::signal::{Level, Target};

use super::quantities::positive;
use crate::fault::Result;

/// How a signal is made.
#[derive(Debug, Args)]
pub struct ShapeOptions {
    /// The pin's level while the output is active; low inverts the output
    #[arg(long, value_enum, default_value_t = ActiveLevel::High, help_heading = "Target")]
    active: ActiveLevel,
    /// Insist on a mode of the timer by name, or on edge, centre or square
    #[arg(long, value_name = "MODE", help_heading = "Choice")]
    pub mode: Option<String>,
    /// Insist on a base counter, where the timer can choose one
    #[arg(long, value_name = "COUNTER", help_heading = "Choice")]
    pub base: Option<String>,
    /// Keep complementary outputs both off for at least this time between one and the other
    #[arg(long, value_name = "TIME", help_heading = "Target", allow_hyphen_values = true)]
    dead_time: Option<String>,
}

/// The pin's level while the output is active.
#[derive(Debug, Clone, Copy, PartialEq, Eq, ValueEnum)]
enum ActiveLevel {
    High,
    Low,
}

impl ShapeOptions {
    /// A target made so.
    ///
    /// # Errors
    /// [`Fault::Option`](crate::fault::Fault::Option).
    pub fn of(&self, target: Target) -> Result<Target> {
        let dead_time = self.dead_time.as_ref().map(|text| positive("dead-time", text));
        Ok(Target {
            level: match self.active {
                ActiveLevel::High => Level::High,
                ActiveLevel::Low => Level::Low,
            },
            dead_time: dead_time.transpose()?,
            ..target
        })
    }
}
