//! The arguments of `budget`.

use clap::{ArgGroup, Args};
use kairotic_core::accuracy::{BenchMeasurement, MeasuredQuantity};
use kairotic_core::quantity::{Deviation, Dimension, Quantity, Rational, Time, Tolerance, parse};

use super::conditions::ConditionsOptions;
use super::needs::NeedText;
use super::plot::PlotOptions;
use super::signal_spec::{SpecOptions, Specified};
use super::typed::{Refusal, text, whole};
use crate::fault::Result;
use crate::part_library::PartLibrary;

/// The arguments of `budget`.
///
/// Everything that takes the signal away from what is wanted stands on a line of its own: rounding, the oscillator, the
/// pattern of a fractional divider, and the operating conditions that are stated. The worst case adds the ends; the likely
/// one adds squares. Requirements are checked against both.
#[derive(Debug, Args)]
#[command(
    override_usage = "kairotic budget --on PART/TIMER --clock F+-D --freq F --pulse T [OPTIONS]\n       \
                      kairotic budget --board FILE --signal NAME [OPTIONS]"
)]
#[command(after_help = EXAMPLES, group = ArgGroup::new("whose").args(["on", "board"]).required(true))]
#[command(mut_arg("plot", |plot| plot.help(
    "Draw the contributions, or the boards where some are drawn, to an SVG or PNG file"
)))]
pub struct BudgetArgs {
    #[command(flatten)]
    spec: SpecOptions,
    #[command(flatten)]
    conditions: ConditionsOptions,
    /// What is required, such as pulse=5us,frequency=0.5%; as in a board file: frequency, pulse, level, steps, step, jitter,
    /// clock
    #[arg(long, value_name = "NAME=LIMIT", value_delimiter = ',', value_parser = text::<NeedText>, help_heading = "Requirements")]
    need: Vec<NeedText>,
    /// Simulate this number of boards, with oscillators and loads drawn inside their tolerances
    #[arg(long, value_name = "BOARDS", value_parser = whole::<u32, 1, 10_000_000>, help_heading = "Boards")]
    pub population: Option<u32>,
    /// Seed of the random numbers: the same seed gives the same boards
    #[arg(
        long,
        value_name = "NUMBER",
        default_value_t = 1,
        requires = "population",
        help_heading = "Boards"
    )]
    pub seed: u64,
    /// What was measured at the pin, such as 49.2Hz or 1519us, perhaps with its uncertainty as in 49.2Hz+-0.1%: which clock
    /// that tells of, and the signal derived for it
    #[arg(
        long,
        value_name = "FREQUENCY|PULSE",
        conflicts_with_all = ["population", "plot"],
        value_parser = measurement,
        help_heading = "Measurement"
    )]
    pub measured: Option<BenchMeasurement>,
    #[command(flatten)]
    pub plot: PlotOptions,
}

const EXAMPLES: &str = "\
Examples:
  kairotic budget --on atmega328p/timer1 --clock 16MHz+-1% --freq 50Hz --pulse 1500us --need pulse=5us
      a servo's pulse from an internal oscillator
  kairotic budget --board dome.toml --signal shutter
      the same in degrees, for a signal of a board
  kairotic budget --board dome.toml --signal shutter --population 10000
      how the signals of ten thousand boards come out
  kairotic budget --board dome.toml --signal shutter --measured 49.2Hz
      which clock a board really has, and registers for it";

impl BudgetArgs {
    /// The planned signal, with what the options say of it besides.
    ///
    /// # Errors
    /// As [`SpecOptions::one`], and requirements that the signal cannot have.
    pub fn read<'c>(&self, catalogue: &'c PartLibrary) -> Result<Specified<'c>> {
        let mut signal = self.spec.one(catalogue)?;
        self.conditions.change(&mut signal.spec.conditions);
        for need in &self.need {
            need.require(&mut signal.spec.needs, signal.spec.load.as_ref())?;
        }
        Ok(signal)
    }
}

/// A frequency or a pulse with its uncertainty: as given, else half a unit of the last digit.
fn measurement(text: &str) -> Result<BenchMeasurement, Refusal> {
    let is_frequency = text.trim_end().trim_end_matches('%').ends_with("Hz") || text.contains("Hz+-");
    if is_frequency {
        let (value, uncertainty) = with_uncertainty(text)?;
        return Ok(BenchMeasurement { measured: MeasuredQuantity::Frequency(value), uncertainty });
    }
    let (value, uncertainty): (Time, Deviation) = with_uncertainty(text)?;
    Ok(BenchMeasurement { measured: MeasuredQuantity::Pulse(value), uncertainty })
}

fn with_uncertainty<D: Dimension + Copy>(text: &str) -> Result<(Quantity<D>, Deviation), Refusal> {
    let tolerance: Tolerance<Quantity<D>> = parse::tolerance(text)?;
    let value = tolerance.nominal.positive()?;
    if text.contains("+-") {
        return Ok((value, tolerance.deviation));
    }
    let number: String =
        text.trim().chars().take_while(|c| c.is_ascii_digit() || *c == '.' || *c == '_').collect();
    let unit = text.trim().get(number.len()..).unwrap_or_default().trim();
    let places = number.split_once('.').map_or(0, |(_, places)| places.replace('_', "").len());
    let half = format!("0.{}5{unit}", "0".repeat(places));
    let half: Quantity<D> = parse::quantity(&half)?;
    let share = half.value().over(value.value()).unwrap_or(Rational::ZERO);
    Ok((value, Deviation::new(share)))
}

#[cfg(test)]
mod tests {
    use kairotic_core::quantity::Frequency;

    use super::*;

    #[test]
    fn a_measurement_is_as_certain_as_its_last_digit() {
        let read = |text: &str| measurement(text).unwrap();
        let fraction = |numerator, denominator| Rational::new(numerator, denominator).unwrap();
        assert_eq!(
            read("49.2Hz"),
            BenchMeasurement {
                measured: MeasuredQuantity::Frequency(Frequency::new(fraction(246, 5))),
                // 0.05 of 49.2.
                uncertainty: Deviation::new(fraction(5, 4920)),
            }
        );
        // Half a microsecond of 1519.
        assert_eq!(read("1519us").uncertainty, Deviation::new(fraction(1, 3038)));
        assert_eq!(read("1519us+-0.1%").uncertainty, Deviation::new(fraction(1, 1000)));
        assert!(measurement("49.2").is_err());
        assert!(measurement("0Hz").is_err());
    }
}
