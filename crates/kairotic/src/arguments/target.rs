//! The options that say what signal is wanted, for every command that takes one.

use clap::Args;
use kairotic_core::quantity::{Deviation, Time, TimeDimension};
use kairotic_core::target::{Aim, Span, Target};

use super::signals::{GROUP, Signals};
use super::typed::{positive, span, text, tolerance, whole};
use crate::fault::{Fault, Result};

/// A signal: how often, how long, and how exactly. All of it is in one group with the signals.
#[derive(Debug, Args)]
#[group(skip)]
pub struct TargetOptions {
    /// PWM frequency, such as 25kHz; or a window, such as 18kHz..25kHz, in which any frequency will do
    #[arg(long, value_name = "FREQUENCY", group = GROUP, help_heading = "Target", allow_hyphen_values = true, value_parser = text::<Aim>)]
    freq: Option<Aim>,
    /// The same as a time, such as 20ms
    #[arg(long, value_name = "TIME", group = GROUP, help_heading = "Target", allow_hyphen_values = true, value_parser = positive::<TimeDimension>)]
    period: Option<Time>,
    #[command(flatten)]
    signals: Signals,
    /// The shortest to longest pulse (or duty) that the load uses: where resolution counts
    #[arg(long, value_name = "LOW..HIGH", group = GROUP, help_heading = "Target", allow_hyphen_values = true, value_parser = span)]
    span: Option<Span>,
    /// How far the frequency (or tick) may be off
    #[arg(
        long,
        value_name = "PPM",
        group = GROUP, help_heading = "Target",
        default_value = "100ppm",
        allow_hyphen_values = true,
        value_parser = tolerance
    )]
    pub within: Deviation,
    /// Minimum resolution in bits: in the span if there is one
    #[arg(long, value_name = "BITS", group = GROUP, help_heading = "Target", value_parser = whole::<u32, 1, 32>)]
    min_bits: Option<u32>,
}

impl TargetOptions {
    /// The signal, active high and without dead time.
    ///
    /// # Errors
    /// [`Fault::Usage`] where neither frequency nor period is given, and for a phase without a signal.
    pub fn target(&self) -> Result<Target> {
        let aim = self.period.map(Aim::Period).or(self.freq).ok_or_else(|| Fault::Usage {
            message: "missing --freq or --period".to_owned(),
            hint: "give --freq or --period, and --pulse, --duty or --span".to_owned(),
        })?;
        Ok(Target {
            asks: self.signals.asks()?,
            span: self.span,
            within: self.within,
            min_steps: self.min_bits.map_or(0, |bits| 1 << bits),
            ..Target::of(aim)
        })
    }
}
