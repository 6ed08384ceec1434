//! The arguments of `clock`, and the options by which other commands take their clock from the tree.

use clap::Args;
use kairotic_core::clock::{Arrangement, Bus, JointRequest, ReachRequest, SourceAsk, from_system};
use kairotic_core::part::{Assignment, Part};
use kairotic_core::quantity::{Deviation, Frequency, Tolerance};

use super::location::Location;
use super::quantities::{positive, read, real_clock, within};
use crate::fault::{Fault, Result};
use crate::part_library::PartLibrary;

/// Search the clock tree in front of a timer.
///
/// Without a question: the clocks as they are after reset. With --reach: every legal way for a frequency to reach the
/// timer. With --reach-pwm: clock tree and timer searched together for the signal's frequency. With --sysclk: what the
/// bus dividers make of a system clock. With --registers: the way back, from register values to what reaches each
/// timer.
#[derive(Debug, Args)]
#[command(after_help = EXAMPLES)]
pub struct ClockArgs {
    /// The timer; the part alone is enough for --registers
    #[arg(long, value_name = "PART[/TIMER]")]
    on: String,
    /// Where the clock starts: an internal oscillator by name, a crystal by frequency, or both, such as hse=8MHz
    #[arg(long, value_name = "SOURCE", help_heading = "Question")]
    source: Option<String>,
    /// The frequency that shall reach the timer
    #[arg(
        long,
        value_name = "FREQUENCY",
        help_heading = "Question",
        group = "question",
        allow_hyphen_values = true
    )]
    reach: Option<String>,
    /// The frequency of a PWM signal, with clock tree and timer both left open
    #[arg(
        long,
        value_name = "FREQUENCY",
        help_heading = "Question",
        group = "question",
        allow_hyphen_values = true
    )]
    reach_pwm: Option<String>,
    /// The system clock: what do the bus dividers make of it?
    #[arg(
        long,
        value_name = "FREQUENCY",
        help_heading = "Question",
        group = "question",
        allow_hyphen_values = true
    )]
    sysclk: Option<String>,
    /// A bus divider or switch that is settled, such as apb1=4
    #[arg(long, value_name = "NAME=NUMBER", help_heading = "Question", requires = "sysclk")]
    bus: Vec<String>,
    /// Clock registers as they stand in the code; what is not given is as after reset
    #[arg(long, value_name = "NAME=VALUE", num_args = 1.., help_heading = "Question", group = "question")]
    registers: Vec<String>,
    /// How far the clock (with --reach) or the signal (with --reach-pwm) may be off where it cannot be met
    #[arg(
        long,
        value_name = "PPM",
        default_value = "1%",
        allow_hyphen_values = true,
        help_heading = "Choice"
    )]
    within: String,
    /// The base counter for --reach-pwm, where the timer can choose one
    #[arg(long, value_name = "COUNTER", help_heading = "Choice", conflicts_with_all = ["reach", "sysclk", "registers"])]
    base: Option<String>,
    /// Show every setting, not only the best
    #[arg(long, help_heading = "Choice")]
    pub all: bool,
}

const EXAMPLES: &str = "\
Examples:
  kairotic clock --on stm32f411/tim3 --source 12MHz --reach 96MHz
      PLL and bus dividers for a timer clock, from a 12 MHz crystal
  kairotic clock --on stm32f411/tim3 --source 12MHz --reach-pwm 44.1kHz
      the clock and the timer together, for one signal
  kairotic clock --on stm32f411/tim3 --sysclk 100MHz
      what reaches the timer for each setting of the bus dividers
  kairotic clock --on stm32f411 --source 8MHz --registers PLLSRC=1 PLLM=8 PLLN=100 SW=2
      what old firmware makes of the clocks, and what is illegal about it";

/// What `clock` is asked.
#[derive(Debug)]
pub enum Question {
    /// What reaches the timers with these registers?
    State(Vec<Assignment>, Option<SourceAsk>),
    /// What do the bus dividers make of the system clock?
    Buses(String, Frequency, Vec<Bus>),
    /// How does a frequency reach a timer?
    Reach(ReachRequest),
    /// How does a timer make a frequency, with the clock left open? And how far off is missed?
    Joint(JointRequest, Deviation),
}

impl ClockArgs {
    /// The part, and what is asked.
    ///
    /// # Errors
    /// [`Fault`] for texts that are no quantities, sources or assignments.
    pub fn read(&self) -> Result<(String, Question)> {
        let source = self.source.as_ref().map(|text| read("source", text, str::parse)).transpose()?;
        let frequency = |option, text: &String| positive(option, text);
        if self.reach.is_none() && self.reach_pwm.is_none() && self.sysclk.is_none() {
            let assignments = self.registers.iter().map(|text| read("registers", text, str::parse));
            let part = self.on.to_lowercase().split('/').next().unwrap_or_default().to_owned();
            return Ok((part, Question::State(assignments.collect::<Result<_>>()?, source)));
        }
        let Location { part, timer, .. } = Location::read(&self.on)?;
        let base = self.base.clone();
        let question = match (&self.reach, &self.reach_pwm, &self.sysclk) {
            (Some(text), ..) => {
                let (reach, within) = (frequency("reach", text)?, within(&self.within)?);
                Question::Reach(ReachRequest { timer, source, reach, within })
            }
            (_, Some(text), _) => {
                let frequency = frequency("reach-pwm", text)?;
                Question::Joint(JointRequest { timer, base, source, frequency }, within(&self.within)?)
            }
            (.., text) => {
                let system = frequency("sysclk", text.as_ref().unwrap_or(&String::new()))?;
                Question::Buses(timer, system, buses(&self.bus)?)
            }
        };
        Ok((part, question))
    }
}

fn buses(texts: &[String]) -> Result<Vec<Bus>> {
    texts.iter().map(|text| read("bus", text, str::parse)).collect()
}

/// The clock of a timer: itself, or the system clock that it comes from.
#[derive(Debug, Args)]
pub struct ClockOptions {
    /// The clock that reaches the timer; the part's own after reset where none is given
    #[arg(long, value_name = "FREQUENCY[+-PPM]", help_heading = "Clock", allow_hyphen_values = true)]
    clock: Option<String>,
    /// The system clock instead: the clock tree says what reaches the timer
    #[arg(
        long,
        value_name = "FREQUENCY[+-PPM]",
        help_heading = "Clock",
        conflicts_with = "clock",
        allow_hyphen_values = true
    )]
    sysclk: Option<String>,
    /// A bus divider or switch on the way, such as apb1=4; the smallest legal division where none is given
    #[arg(long, value_name = "NAME=NUMBER", help_heading = "Clock", requires = "sysclk")]
    bus: Vec<String>,
}

impl ClockOptions {
    /// The clock that reaches a timer, and its way there where the tree was asked.
    ///
    /// # Errors
    /// [`Fault`] for texts that are no quantities, and for what the tree refuses.
    pub fn of(
        &self,
        catalogue: &PartLibrary,
        part: &str,
        timer: &str,
    ) -> Result<(Option<Tolerance<Frequency>>, Option<Arrangement>)> {
        let Some(text) = &self.sysclk else {
            let clock = self.clock.as_ref().map(|text| real_clock("clock", text));
            return Ok((clock.transpose()?, None));
        };
        let system = real_clock("sysclk", text)?;
        let part: Part = catalogue.whole_part(part)?;
        let arrangement =
            from_system(&part, timer, system.nominal, &buses(&self.bus)?).map_err(Fault::from)?;
        let clock = Tolerance { nominal: arrangement.frequency, deviation: system.deviation };
        Ok((Some(clock), Some(arrangement)))
    }
}
