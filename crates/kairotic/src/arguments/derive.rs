//! The arguments of `derive`.

use clap::{ArgGroup, Args, ValueEnum};
use kairotic_core::clock::SourceAsk;
use kairotic_core::decode::DecodeRequest;
use kairotic_core::part::{Assignment, TimerUse};
use kairotic_core::program::ClockRoute;
use kairotic_core::quantity::{Frequency, Time, TimeDimension, Tolerance};
use kairotic_core::search::{Prefer, SearchOptions, TimeBaseRequest};
use kairotic_core::signal::SignalSpec;
use kairotic_core::target::Target;

use super::location::{Located, Location};
use super::routing::Routing;
use super::signal_spec::{SpecOptions, Specified};
use super::typed::{Refusal, clock, positive, text};
use crate::fault::Result;
use crate::part_library::PartLibrary;

/// The arguments of `derive`.
///
/// Every divider and mode of the timer is searched. The answer comes first, then what the pin will do, why this setting
/// leads, what may be wrong, and what else is worth a look.
#[derive(Debug, Args)]
#[command(
    override_usage = "kairotic derive --on PART/TIMER (--freq F | --period T | --tick T | --port-from P) [OPTIONS]\n       \
                      kairotic derive --board FILE --signal NAME [OPTIONS]"
)]
#[command(after_help = EXAMPLES, group = ArgGroup::new("aim").args(["freq", "period", "tick", "port_from", "board"]).required(true))]
#[command(group = ArgGroup::new("where").args(["on", "board"]).required(true))]
pub struct DeriveArgs {
    #[command(flatten)]
    spec: SpecOptions,
    /// A counter tick of this length, for a time base without a signal
    #[arg(
        long,
        value_name = "TIME",
        help_heading = "Target",
        allow_hyphen_values = true,
        conflicts_with_all = ["duty", "pulse", "phase", "span", "prefer", "active", "dither", "dead_time", "min_bits"],
        value_parser = positive::<TimeDimension>
    )]
    tick: Option<Time>,
    /// The signal that registers of another timer make: PART/TIMER[/CHANNEL]@CLOCK
    #[arg(
        long,
        value_name = "FROM@CLOCK",
        help_heading = "Target",
        requires = "registers",
        conflicts_with_all = ["duty", "pulse", "phase", "active"],
        value_parser = port_source
    )]
    port_from: Option<PortSource>,
    /// Those registers, as NAME=VALUE with spaces between
    #[arg(long, value_name = "NAME=VALUE", help_heading = "Target", requires = "port_from", conflicts_with = "board", value_parser = assignments)]
    registers: Vec<Assignments>,
    /// What leads instead of steps and exactness together: the smallest error, the most steps, or the tick with the
    /// fewest digits in nanoseconds
    #[arg(long, value_enum, help_heading = "Choice")]
    prefer: Option<Preference>,
    /// Spread fractions of a tick over several periods, where the hardware can
    #[arg(long, help_heading = "Choice")]
    dither: bool,
    /// Show every setting within the tolerance, not only those worth a look
    #[arg(long, help_heading = "Choice")]
    all: bool,
    /// Accept a clock above the timer's maximum
    #[arg(long, help_heading = "Choice")]
    allow_overclock: bool,
    /// Show every step from reset to a moving pin: clocks, gates, pins and whole registers, with addresses and masks
    #[arg(long, help_heading = "Output", conflicts_with = "tick")]
    pub from_reset: bool,
    /// Where the clock starts, for --from-reset: hsi, 8MHz from outside, hse=8MHz
    #[arg(long, value_name = "SOURCE", help_heading = "Clock", requires = "from_reset", conflicts_with = "board", value_parser = text::<SourceAsk>)]
    source: Option<SourceAsk>,
    /// Show the arithmetic, line by line
    #[arg(long, help_heading = "Output")]
    pub explain: bool,
}

const EXAMPLES: &str = "\
Examples:
  kairotic derive --on samd21g18/tcc0 --clock 48MHz --freq 25kHz --duty 35%
      the dome's rotation motor
  kairotic derive --on stm32f411/tim3 --clock 100MHz --freq 50Hz --span 900us..2100us --pulse 1500us
      the shutter's servo, with the steps that its span gets
  kairotic derive --on atmega328p/timer1 --clock 16MHz --freq 1kHz --duty b=10% --duty a=60%
      two lamps on one timer
  kairotic derive --on stm32f411/tim2 --clock 100MHz --tick 1us
      a time base for the focuser's stepper
  kairotic derive --on stm32f411/tim3/1 --pin PA6 --source 12MHz --sysclk 96MHz --freq 25kHz --duty 35% --from-reset
      everything between reset and the moving pin, with addresses and masks
  kairotic derive --board dome.toml --signal shutter
      a signal as a board file describes it, in the units of what it drives
  kairotic derive --port-from atmega328p/timer1@16MHz --registers 'TCCR1A=0x82 TCCR1B=0x1a ICR1=39999 OCR1A=2999' \\
      --on stm32f411/tim3 --clock 100MHz
      the servo of the old firmware on another part, and what changes by it";

/// What leads instead of the score.
#[derive(Debug, Clone, Copy, PartialEq, Eq, ValueEnum)]
enum Preference {
    Exact,
    Fine,
    RoundTick,
}

/// What `derive` is asked for.
#[derive(Debug)]
pub enum DeriveTask<'c> {
    /// Registers for one signal.
    Signal(Box<Specified<'c>>),
    /// Registers for one target at the best of several places, each with what lies around it.
    Led(Vec<(TimerUse<'c>, Target, Routing)>),
    /// Registers for the signal that other registers make, at a place.
    Ported(DecodeRequest<'c>, TimerUse<'c>, Box<Target>, Routing),
    /// Registers for a time base.
    TimeBase(TimeBaseRequest<'c>, Routing),
}

impl DeriveArgs {
    /// What is asked.
    ///
    /// # Errors
    /// Names that are not there, and what the clock tree refuses.
    pub fn read<'c>(&self, catalogue: &'c PartLibrary) -> Result<DeriveTask<'c>> {
        let spec = &self.spec;
        if spec.is_by_board() {
            return Ok(DeriveTask::Signal(Box::new(self.overclocked(spec.one(catalogue)?))));
        }
        if let Some(tick) = self.tick {
            let located = spec.location.one(catalogue)?;
            let (on, target, around) = self.at(located, Target::period(tick), catalogue)?;
            let (within, all) = (spec.target.within, self.all);
            return Ok(DeriveTask::TimeBase(
                TimeBaseRequest { on, tick, within, mode: target.mode, all },
                around,
            ));
        }
        if let Some(from) = &self.port_from {
            let located = spec.location.one(catalogue)?;
            // What is ported over has its own frequency, known once it is decoded.
            let target = Target { within: spec.target.within, ..Target::frequency(from.clock.nominal) };
            let (on, target, around) = self.at(located, target, catalogue)?;
            let decode = from.decode(self.registers(), catalogue)?;
            return Ok(DeriveTask::Ported(decode, on, Box::new(target), around));
        }
        let target = spec.target.target()?;
        let at = |located| self.at(located, target.clone(), catalogue);
        let places = spec.location.all(catalogue)?;
        match <[_; 1]>::try_from(places) {
            Ok([place]) => {
                let (on, target, around) = at(place)?;
                let spec = SignalSpec::of(on, target);
                Ok(DeriveTask::Signal(Box::new(Specified { spec, around, by_board: false })))
            }
            Err(places) => Ok(DeriveTask::Led(places.into_iter().map(at).collect::<Result<_>>()?)),
        }
    }

    /// A target at a place, as the options say.
    fn at<'c>(
        &self,
        located: Located<'c>,
        target: Target,
        catalogue: &PartLibrary,
    ) -> Result<(TimerUse<'c>, Target, Routing)> {
        let (on, target, around) = self.spec.wanted_at(located, target, catalogue)?;
        let said = ClockRoute { source: self.source.clone(), ..around.said };
        Ok((TimerUse { allow_overclock: self.allow_overclock, ..on }, target, Routing { said, ..around }))
    }

    fn overclocked<'c>(&self, mut signal: Specified<'c>) -> Specified<'c> {
        signal.spec.on.allow_overclock = self.allow_overclock;
        signal
    }

    /// The registers that are ported over.
    fn registers(&self) -> Vec<Assignment> {
        self.registers.iter().flat_map(|Assignments(all)| all).cloned().collect()
    }

    /// How settings are searched.
    pub fn options(&self) -> SearchOptions {
        let prefer = self.prefer.map(|preference| match preference {
            Preference::Exact => Prefer::Exact,
            Preference::Fine => Prefer::Fine,
            Preference::RoundTick => Prefer::RoundTick,
        });
        SearchOptions { prefer, dither: self.dither, all: self.all }
    }
}

/// Several `NAME=VALUE`, with spaces between.
#[derive(Debug, Clone)]
struct Assignments(Vec<Assignment>);

fn assignments(text: &str) -> Result<Assignments, Refusal> {
    Ok(Assignments(text.split_whitespace().map(str::parse).collect::<kairotic_core::Result<_>>()?))
}

/// Where a signal is ported over from.
#[derive(Debug, Clone)]
struct PortSource {
    location: Location,
    clock: Tolerance<Frequency>,
}

impl PortSource {
    fn decode<'c>(
        &self,
        registers: Vec<Assignment>,
        catalogue: &'c PartLibrary,
    ) -> Result<DecodeRequest<'c>> {
        let on = self.location.timer(catalogue)?.clocked(self.clock);
        let channel = self.location.channel.clone();
        Ok(DecodeRequest { channel, ..DecodeRequest::plain(on, registers) })
    }
}

fn port_source(from: &str) -> Result<PortSource, Refusal> {
    let (place, known) = from.split_once('@').ok_or_else(|| {
        Refusal::new(
            format!("expected PART/TIMER@CLOCK, found `{from}`"),
            "for example --port-from stm32f411/tim3@100MHz",
        )
    })?;
    Ok(PortSource { location: place.parse()?, clock: clock(known)? })
}
