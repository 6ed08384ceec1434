//! The arguments of `clock`, and the options by which other commands take their clock from the tree.

use std::path::PathBuf;

use clap::{ArgGroup, Args};
use kairotic_core::board::Board;
use kairotic_core::clock::{Arrangement, Bus, JointRequest, ReachRequest, SourceAsk, from_system};
use kairotic_core::part::{Assignment, Part, TimerUse};
use kairotic_core::program::ClockRoute;
use kairotic_core::quantity::{Deviation, Frequency, FrequencyDimension, Tolerance};

use super::location::Location;
use super::typed::{clock, positive, text, tolerance};
use crate::fault::{Fault, Result};
use crate::part_library::PartLibrary;

/// The arguments of `clock`.
///
/// Without a question: the clocks as they are after reset. With --reach: every legal way for a frequency to reach the
/// timer. With --reach-pwm: clock tree and timer searched together for the signal's frequency. With --board: the same for
/// all signals of a board. With --sysclk: what the bus dividers make of a system clock. With --registers: the way back,
/// from register values to what reaches each timer.
#[derive(Debug, Args)]
#[command(after_help = EXAMPLES, group = ArgGroup::new("where").args(["on", "board"]).required(true))]
pub struct ClockArgs {
    /// The timer; the part alone is enough for --registers
    #[arg(long, value_name = "PART[/TIMER]", value_parser = text::<Location>)]
    on: Option<Location>,
    /// Where the clock starts: an internal oscillator by name, a crystal by frequency, or both, such as hse=8MHz
    #[arg(long, value_name = "SOURCE", help_heading = "Question", value_parser = text::<SourceAsk>)]
    source: Option<SourceAsk>,
    /// The frequency that shall reach the timer
    #[arg(
        long,
        value_name = "FREQUENCY",
        help_heading = "Question",
        group = "question",
        allow_hyphen_values = true,
        value_parser = positive::<FrequencyDimension>
    )]
    reach: Option<Frequency>,
    /// The frequency of a PWM signal, with clock tree and timer both left open
    #[arg(
        long,
        value_name = "FREQUENCY",
        help_heading = "Question",
        group = "question",
        allow_hyphen_values = true,
        value_parser = positive::<FrequencyDimension>
    )]
    reach_pwm: Option<Frequency>,
    /// A board file: one setting of the clock tree for all of its signals
    #[arg(
        long,
        value_name = "FILE",
        help_heading = "Question",
        group = "question",
        conflicts_with_all = ["on", "within", "base", "bus", "all"]
    )]
    board: Option<PathBuf>,
    /// The system clock: what do the bus dividers make of it?
    #[arg(
        long,
        value_name = "FREQUENCY",
        help_heading = "Question",
        group = "question",
        allow_hyphen_values = true,
        value_parser = positive::<FrequencyDimension>
    )]
    sysclk: Option<Frequency>,
    /// A bus divider or switch that is settled, such as apb1=4
    #[arg(long, value_name = "NAME=NUMBER", help_heading = "Question", requires = "sysclk", value_parser = text::<Bus>)]
    bus: Vec<Bus>,
    /// Clock registers as they stand in the code; what is not given is as after reset
    #[arg(long, value_name = "NAME=VALUE", num_args = 1.., help_heading = "Question", group = "question", value_parser = text::<Assignment>)]
    registers: Vec<Assignment>,
    /// How far the clock (with --reach) or the signal (with --reach-pwm) may be off where it cannot be met
    #[arg(
        long,
        value_name = "PPM",
        default_value = "1%",
        allow_hyphen_values = true,
        help_heading = "Choice",
        value_parser = tolerance
    )]
    within: Deviation,
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
  kairotic clock --board dome.toml --source 12MHz
      one clock setting for all signals of a board
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
    /// How do all signals of a board get their frequencies, with the clock left open?
    Board(Box<Board>, Option<SourceAsk>),
}

impl ClockArgs {
    /// The part, and what is asked.
    ///
    /// # Errors
    /// A part whose timer has to be named.
    pub fn read<'c>(&self, catalogue: &'c PartLibrary) -> Result<(&'c Part, Question)> {
        let source = self.source.clone();
        if let Some(file) = &self.board {
            let board = super::board::open(file, catalogue)?;
            return Ok((catalogue.whole_part(&board.part)?, Question::Board(Box::new(board), source)));
        }
        // clap has asked for one of the two.
        let Some(on) = &self.on else {
            let (message, hint) = ("expected --on or --board".to_owned(), "name the timer".to_owned());
            return Err(Fault::Usage { message, hint });
        };
        let part = catalogue.whole_part(&on.part)?;
        let question = match (self.reach, self.reach_pwm, self.sysclk) {
            (Some(reach), ..) => {
                let timer = on.timer(catalogue)?.timer;
                Question::Reach(ReachRequest { timer, source, reach, within: self.within })
            }
            (_, Some(frequency), _) => {
                let TimerUse { timer, .. } = on.timer(catalogue)?;
                let base = self.base.clone();
                Question::Joint(JointRequest { timer, base, source, frequency }, self.within)
            }
            (.., Some(system)) => Question::Buses(on.timer(catalogue)?.timer, system, self.bus.clone()),
            (None, None, None) => Question::State(self.registers.clone(), source),
        };
        Ok((part, question))
    }
}

/// The clock of a timer: itself, or the system clock that it comes from.
#[derive(Debug, Args)]
pub struct ClockOptions {
    /// The clock that reaches the timer; the part's own after reset where none is given
    #[arg(long, value_name = "FREQUENCY[+-PPM]", help_heading = "Clock", allow_hyphen_values = true, value_parser = clock)]
    clock: Option<Tolerance<Frequency>>,
    /// The system clock instead: the clock tree says what reaches the timer
    #[arg(
        long,
        value_name = "FREQUENCY[+-PPM]",
        help_heading = "Clock",
        conflicts_with = "clock",
        allow_hyphen_values = true,
        value_parser = clock
    )]
    sysclk: Option<Tolerance<Frequency>>,
    /// A bus divider or switch on the way, such as apb1=4; the smallest legal division where none is given
    #[arg(long, value_name = "NAME=NUMBER", help_heading = "Clock", requires = "sysclk", value_parser = text::<Bus>)]
    bus: Vec<Bus>,
}

impl ClockOptions {
    /// What the options say of the clocks, with the way from the system clock.
    pub fn said(&self, way: Option<&Arrangement>) -> ClockRoute {
        let system = self.sysclk.map(|system| system.nominal);
        ClockRoute { system, buses: way.into_iter().cloned().collect(), ..ClockRoute::default() }
    }

    /// A timer with the clock that reaches it, and its way there where the tree was asked.
    ///
    /// # Errors
    /// What the tree refuses.
    pub fn on<'c>(
        &self,
        on: TimerUse<'c>,
        catalogue: &PartLibrary,
    ) -> Result<(TimerUse<'c>, Option<Arrangement>)> {
        let Some(system) = self.sysclk else { return Ok((TimerUse { clock: self.clock, ..on }, None)) };
        let whole = catalogue.whole_part(&on.part.name)?;
        let way = from_system(whole, &on.timer, system.nominal, &self.bus)?;
        let clock = Tolerance { nominal: way.frequency, deviation: system.deviation };
        Ok((on.clocked(clock), Some(way)))
    }
}
