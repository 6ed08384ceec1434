//! What is known of the surroundings that a signal is made in.

use clap::Args;
use kairotic_core::quantity::{Deviation, DeviationDimension, Range, Time, TimeDimension};
use kairotic_core::signal::Conditions;

use super::typed::{Refusal, positive, quantity, range};

/// What is known of the surroundings; it takes the place of what a board file says.
#[derive(Debug, Args)]
#[command(next_help_heading = "Conditions")]
pub struct ConditionsOptions {
    /// How far temperature takes the oscillator, such as -2%..1%
    #[arg(long, value_name = "LOW..HIGH", allow_hyphen_values = true, value_parser = around_zero)]
    temperature: Option<Range<Deviation>>,
    /// How far the oscillator drifts over its life, either way
    #[arg(long, value_name = "PPM", allow_hyphen_values = true, value_parser = positive::<DeviationDimension>)]
    ageing: Option<Deviation>,
    /// The step of the oscillator's trim, where the firmware trims it: half of it is left of the tolerance
    #[arg(long, value_name = "PPM", allow_hyphen_values = true, value_parser = positive::<DeviationDimension>)]
    trim_step: Option<Deviation>,
    /// PLL jitter (rms)
    #[arg(long, value_name = "TIME", allow_hyphen_values = true, value_parser = positive::<TimeDimension>)]
    pll_jitter: Option<Time>,
    /// From the shortest to the longest time between a period's start and the write of a compare value
    #[arg(long, value_name = "LOW..HIGH", allow_hyphen_values = true, value_parser = latency)]
    latency: Option<Range<Time>>,
    /// How much longer a driver makes the pulse; less than zero where it makes it shorter
    #[arg(long, value_name = "TIME", allow_hyphen_values = true, value_parser = quantity::<TimeDimension>)]
    edges: Option<Time>,
}

impl ConditionsOptions {
    /// Puts what the options say in place of what was known.
    pub fn change(&self, conditions: &mut Conditions) {
        conditions.temperature = self.temperature.or(conditions.temperature);
        conditions.ageing = self.ageing.or(conditions.ageing);
        conditions.trim = self.trim_step.or(conditions.trim);
        conditions.pll = self.pll_jitter.or(conditions.pll);
        conditions.latency = self.latency.or(conditions.latency);
        conditions.edges = self.edges.or(conditions.edges);
    }
}

fn around_zero(text: &str) -> Result<Range<Deviation>, Refusal> {
    let found: Range<Deviation> = range(text)?;
    if found.low > Deviation::ZERO || found.high < Deviation::ZERO {
        let message = format!("expected a range around zero, found `{text}`");
        return Err(Refusal::new(message, "for example --temperature -2%..1%"));
    }
    Ok(found)
}

fn latency(text: &str) -> Result<Range<Time>, Refusal> {
    let found: Range<Time> = range(text)?;
    if found.low > found.high || found.low < Time::ZERO {
        let message = format!("expected the shorter time first, found `{text}`");
        return Err(Refusal::new(message, "for example --latency 2us..15us"));
    }
    Ok(found)
}
