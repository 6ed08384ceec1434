//! How a signal is made: active high or low, with dead time or without, in which mode and with which counter.

use clap::{Args, ValueEnum};
use kairotic_core::part::TimerUse;
use kairotic_core::quantity::Time;
use kairotic_core::target::{Level, Target};

use super::typed::positive;

/// How a signal is made.
#[derive(Debug, Args)]
pub struct ShapeOptions {
    /// The pin's level while the output is active; low inverts the output
    #[arg(long, value_enum, default_value_t = ActiveLevel::High, help_heading = "Target")]
    active: ActiveLevel,
    /// Keep complementary outputs both off for at least this time between one and the other
    #[arg(long, value_name = "TIME", help_heading = "Target", allow_hyphen_values = true, value_parser = positive::<kairotic_core::quantity::TimeDimension>)]
    dead_time: Option<Time>,
}

/// The pin's level while the output is active.
#[derive(Debug, Clone, Copy, PartialEq, Eq, ValueEnum)]
enum ActiveLevel {
    High,
    Low,
}

impl ShapeOptions {
    /// A target made so.
    pub fn of(&self, target: Target) -> Target {
        let level = match self.active {
            ActiveLevel::High => Level::High,
            ActiveLevel::Low => Level::Low,
        };
        Target { level, dead_time: self.dead_time, ..target }
    }
}

/// What is insisted on of a timer that leaves a choice.
#[derive(Debug, Args)]
pub struct ModeOptions {
    /// Use this mode of the timer: its name, or edge, centre or square
    #[arg(long, value_name = "MODE", help_heading = "Choice")]
    pub mode: Option<String>,
    /// Use this base counter, where the timer can choose one
    #[arg(long, value_name = "COUNTER", help_heading = "Choice")]
    pub base: Option<String>,
}

impl ModeOptions {
    /// A timer and a target with what is insisted on.
    pub fn on<'c>(&self, on: TimerUse<'c>, target: Target) -> (TimerUse<'c>, Target) {
        let target = Target { mode: self.mode.clone(), ..target };
        (TimerUse { base: self.base.clone(), ..on }, target)
    }
}
