//! The arguments of `budget`.

use std::path::PathBuf;

use clap::{ArgGroup, Args};
use kairotic_core::accuracy::{BudgetRequest, Conditions, Measured, Measurement};
use kairotic_core::load::{Kind, Load};
use kairotic_core::quantity::LoadLevel;
use kairotic_core::quantity::{Deviation, Dimension, Quantity, Range, Rational, Time, Tolerance, parse};
use kairotic_core::requirement::Needs;
use kairotic_core::search::DeriveRequest;

use super::board::{BoardOptions, BoardPlace};
use super::quantities::{positive, read};
use super::signal_options::{DESCRIBED, DescribedSignal};
use crate::fault::{Fault, Result};
use crate::part_library::PartLibrary;

/// Error budget: worst case and likely deviation of a signal, and whether that is good enough.
///
/// Everything that takes the signal away from what is wanted stands on a line of its own: rounding, the oscillator, the
/// pattern of a fractional divider, and what is said of the surroundings. The worst case adds the ends; the likely one adds
/// squares. Requirements are held against both.
#[derive(Debug, Args)]
#[command(
    override_usage = "kairotic budget --on PART/TIMER --clock F+-D --freq F --pulse T [OPTIONS]\n       \
                      kairotic budget --board FILE --signal NAME [OPTIONS]"
)]
#[command(after_help = EXAMPLES, group = ArgGroup::new("whose").args(["on", "board"]).required(true))]
#[command(group = ArgGroup::new("said").args(DESCRIBED).multiple(true).conflicts_with("board"))]
pub struct BudgetArgs {
    #[command(flatten)]
    described: DescribedSignal,
    #[command(flatten)]
    board: BoardOptions,
    /// How far temperature takes the oscillator, such as -2%..1%
    #[arg(long, value_name = "LOW..HIGH", allow_hyphen_values = true, help_heading = "Routing")]
    temperature: Option<String>,
    /// How far the oscillator drifts over its life, either way
    #[arg(long, value_name = "PPM", help_heading = "Routing")]
    ageing: Option<String>,
    /// The step of the oscillator's trim, where the firmware trims it: half of it is left of the tolerance
    #[arg(long, value_name = "PPM", help_heading = "Routing")]
    trim_step: Option<String>,
    /// PLL jitter (rms)
    #[arg(long, value_name = "TIME", help_heading = "Routing")]
    pll_jitter: Option<String>,
    /// From the shortest to the longest time between a period's start and the write of a compare value
    #[arg(long, value_name = "LOW..HIGH", help_heading = "Routing")]
    latency: Option<String>,
    /// How much longer a driver makes the pulse; less than zero where it makes it shorter
    #[arg(long, value_name = "TIME", allow_hyphen_values = true, help_heading = "Routing")]
    edges: Option<String>,
    /// What is required, such as pulse=5us,frequency=0.5%; as in a board file: frequency, pulse, level, steps, step, jitter,
    /// clock
    #[arg(long, value_name = "NAME=LIMIT", value_delimiter = ',', help_heading = "Requirements")]
    need: Vec<String>,
    /// Draw so many boards with oscillators and loads inside their tolerances
    #[arg(long, value_name = "BOARDS", value_parser = clap::value_parser!(u32).range(1..=10_000_000), help_heading = "Boards")]
    pub population: Option<u32>,
    /// What the random numbers start with: the same seed gives the same boards
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
    #[arg(long, value_name = "FREQUENCY|PULSE", conflicts_with = "population", help_heading = "Measurement")]
    measured: Option<String>,
    /// Draw the contributions, or the boards where some are drawn, to an SVG or PNG file
    #[arg(long, value_name = "FILE", conflicts_with = "measured", help_heading = "Output")]
    pub plot: Option<PathBuf>,
    /// Replace the picture where the file is there already
    #[arg(long, requires = "plot", help_heading = "Output")]
    pub force: bool,
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

/// What is asked.
pub struct BudgetAsk {
    /// The part's name.
    pub part: String,
    /// The signal with what is known and required.
    pub request: BudgetRequest,
    /// The signal's name, where it is one of a board.
    pub signal: Option<String>,
    /// What was measured.
    pub measurement: Option<Measurement>,
}

impl BudgetArgs {
    /// What is asked.
    ///
    /// # Errors
    /// [`Fault`] for texts that are no quantities, and for what the clock tree refuses.
    pub fn read(&self, catalogue: &PartLibrary) -> Result<BudgetAsk> {
        let (part, derive, mut conditions, mut needs, load, signal) =
            if let Some(BoardPlace { signal, place, clock, .. }) = self.board.read(catalogue)? {
                let (board, signal) = (&signal.board, &signal.signal);
                let derive = DeriveRequest::plain(place.timer, place.channel, clock, board.target(signal)?);
                let load = board.load_of(signal).cloned();
                let part = catalogue.whole_part(&place.part)?;
                let conditions = board.conditions(signal, &part)?;
                (place.part, derive, conditions, signal.needs.clone(), load, Some(signal.name.clone()))
            } else {
                let (part, derive) = self.described.read(catalogue)?;
                (part, derive, Conditions::default(), Needs::default(), None, None)
            };
        self.surroundings(&mut conditions)?;
        for text in &self.need {
            need(&mut needs, load.as_ref(), text)?;
        }
        let measurement = self.measured.as_deref().map(measurement).transpose()?;
        Ok(BudgetAsk {
            part,
            request: BudgetRequest { derive, conditions, needs, load },
            signal,
            measurement,
        })
    }

    /// What the options say of the surroundings, in place of what the board says.
    fn surroundings(&self, conditions: &mut Conditions) -> Result<()> {
        if let Some(text) = &self.temperature {
            let range: Range<Deviation> = read("temperature", text, parse::range)?;
            if range.low > Deviation::ZERO || range.high < Deviation::ZERO {
                return Err(Fault::Usage {
                    message: format!("--temperature: expected a range around zero, found `{text}`"),
                    hint: "for example --temperature -2%..1%".to_owned(),
                });
            }
            conditions.temperature = Some(range);
        }
        if let Some(text) = &self.ageing {
            conditions.ageing = Some(positive("ageing", text)?);
        }
        if let Some(text) = &self.trim_step {
            conditions.trim = Some(positive("trim-step", text)?);
        }
        if let Some(text) = &self.pll_jitter {
            conditions.pll = Some(positive("pll-jitter", text)?);
        }
        if let Some(text) = &self.latency {
            let range: Range<Time> = read("latency", text, parse::range)?;
            if range.low > range.high || range.low < Time::ZERO {
                return Err(Fault::Usage {
                    message: format!("--latency: expected the shorter time first, found `{text}`"),
                    hint: "for example --latency 2us..15us".to_owned(),
                });
            }
            conditions.latency = Some(range);
        }
        if let Some(text) = &self.edges {
            conditions.edges = Some(read("edges", text, parse::quantity)?);
        }
        Ok(())
    }
}

/// Reads one `NAME=LIMIT`.
pub(super) fn need(needs: &mut Needs, load: Option<&Load>, text: &str) -> Result<()> {
    const NAMES: &str = "frequency, pulse, level, steps, step, jitter, clock";
    let wrong = |what: String| Fault::Usage {
        message: format!("--need: {what}"),
        hint: format!("for example --need pulse=5us; there are {NAMES}"),
    };
    let (name, limit) =
        text.split_once('=').ok_or_else(|| wrong(format!("expected NAME=LIMIT, found `{text}`")))?;
    let level = || -> Result<LoadLevel> {
        let kind: &Kind =
            &load.ok_or_else(|| wrong(format!("`{name}` is in the load's unit, and there is no load")))?.kind;
        read("need", limit, |text| kind.read_level(text))
    };
    match name.trim() {
        "frequency" => needs.frequency = Some(positive("need", limit)?),
        "pulse" => needs.pulse = Some(positive("need", limit)?),
        "jitter" => needs.jitter = Some(positive("need", limit)?),
        "clock" => needs.clock = Some(positive("need", limit)?),
        "level" => needs.level = Some(level()?),
        "step" => needs.step = Some(level()?),
        "steps" => {
            let count = limit.trim().parse();
            let wrong = |_| wrong(format!("expected a whole number of steps, found `{limit}`"));
            needs.steps = Some(count.map_err(wrong)?);
        }
        _ => return Err(wrong(format!("unknown requirement `{name}`"))),
    }
    Ok(())
}

/// A frequency or a pulse with its uncertainty: as given, else half a unit of the last digit.
fn measurement(text: &str) -> Result<Measurement> {
    let is_frequency = text.trim_end().trim_end_matches('%').ends_with("Hz") || text.contains("Hz+-");
    if is_frequency {
        let (value, uncertainty) = with_uncertainty(text)?;
        return Ok(Measurement { measured: Measured::Frequency(value), uncertainty });
    }
    let (value, uncertainty): (Time, Deviation) = with_uncertainty(text)?;
    Ok(Measurement { measured: Measured::Pulse(value), uncertainty })
}

fn with_uncertainty<D: Dimension + Copy>(text: &str) -> Result<(Quantity<D>, Deviation)> {
    let tolerance: Tolerance<Quantity<D>> = read("measured", text, parse::tolerance)?;
    let value = read("measured", text, |_| tolerance.nominal.positive())?;
    if text.contains("+-") {
        return Ok((value, tolerance.deviation));
    }
    let number: String =
        text.trim().chars().take_while(|c| c.is_ascii_digit() || *c == '.' || *c == '_').collect();
    let unit = text.trim().get(number.len()..).unwrap_or_default().trim();
    let places = number.split_once('.').map_or(0, |(_, places)| places.replace('_', "").len());
    let half = format!("0.{}5{unit}", "0".repeat(places));
    let half: Quantity<D> = read("measured", &half, parse::quantity)?;
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
            Measurement {
                measured: Measured::Frequency(Frequency::new(fraction(246, 5))),
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
