//! The options that say what signal is wanted, for every command that takes one.

use clap::Args;
use kairotic_core::quantity::{Deviation, parse};
use kairotic_core::signal::{Aim, Level, Span, Target, rising};

use super::quantities::{positive, read, within};
use super::signals::Signals;
use crate::fault::Result;

/// A signal: how often, how long, and how exactly.
#[derive(Debug, Args)]
pub struct TargetOptions {
    /// How often the pulse repeats, such as 25kHz; or any frequency of a window, such as 18kHz..25kHz
    #[arg(long, value_name = "FREQUENCY", help_heading = "Target", allow_hyphen_values = true)]
    freq: Option<String>,
    /// The same as a time, such as 20ms
    #[arg(long, value_name = "TIME", help_heading = "Target", allow_hyphen_values = true)]
    period: Option<String>,
    #[command(flatten)]
    signals: Signals,
    /// The shortest to longest pulse (or duty) that the load uses: where resolution counts
    #[arg(long, value_name = "LOW..HIGH", help_heading = "Target", allow_hyphen_values = true)]
    span: Option<String>,
    /// How far the frequency (or tick) may be off
    #[arg(
        long,
        value_name = "PPM",
        help_heading = "Target",
        default_value = "100ppm",
        allow_hyphen_values = true
    )]
    within: String,
    /// The fewest steps that will do, as bits of resolution: in the span if there is one
    #[arg(long, value_name = "BITS", help_heading = "Target", value_parser = clap::value_parser!(u32).range(1..=32))]
    min_bits: Option<u32>,
}

impl TargetOptions {
    /// The wanted frequency or period; `None` where neither is given.
    ///
    /// # Errors
    /// [`Fault::Option`](crate::fault::Fault::Option).
    pub fn aim(&self) -> Result<Option<Aim>> {
        Ok(match (&self.freq, &self.period) {
            (_, Some(text)) => Some(Aim::Period(positive("period", text)?)),
            (Some(text), _) if text.contains("..") => {
                Some(Aim::Window(read("freq", text, |text| rising(parse::range(text)?))?))
            }
            (Some(text), _) => Some(Aim::Frequency(positive("freq", text)?)),
            (None, None) => None,
        })
    }

    /// How far the frequency may be off.
    ///
    /// # Errors
    /// [`Fault::Option`](crate::fault::Fault::Option).
    pub fn within(&self) -> Result<Deviation> {
        within(&self.within)
    }

    /// The signal for an aim, active high and without dead time.
    ///
    /// # Errors
    /// [`Fault`](crate::fault::Fault) for texts that are no quantities.
    pub fn target(&self, aim: Aim) -> Result<Target> {
        Ok(Target {
            aim,
            asks: self.signals.asks()?,
            span: self
                .span
                .as_ref()
                .map(|text| read("span", text, |text| text.parse().and_then(Span::rising)))
                .transpose()?,
            within: self.within()?,
            level: Level::High,
            dead_time: None,
            min_steps: self.min_bits.map_or(0, |bits| 1 << bits),
        })
    }
}
