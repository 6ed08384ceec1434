//! The arguments of `derive`.

use clap::{ArgGroup, Args, ValueEnum};
use kairotic_core::decode::DecodeRequest;
use kairotic_core::quantity::{Deviation, Frequency, Tolerance};
use kairotic_core::search::{DeriveRequest, Prefer, TimeBaseRequest};
use kairotic_core::signal::{Aim, Target};

use super::board::{BoardOptions, BoardPlace, BoardSignal};
use super::clock::ClockOptions;
use super::location::{Location, LocationOptions, PinChoice};
use super::quantities::{positive, read, real_clock};
use super::routing::Routing;
use super::shape::ShapeOptions;
use super::target::TargetOptions;
use crate::fault::{Fault, Result};
use crate::part_library::PartLibrary;

/// Find register values for a wanted signal.
///
/// Every divider and mode of the timer is searched. The answer comes first, then what the pin will do, why this setting
/// leads, what to watch, and what else is worth a look.
#[derive(Debug, Args)]
#[command(
    override_usage = "kairotic derive --on PART/TIMER (--freq F | --period T | --tick T | --port-from P) [OPTIONS]\n       \
                      kairotic derive --board FILE --signal NAME [OPTIONS]"
)]
#[command(after_help = EXAMPLES, group = ArgGroup::new("aim").args(["freq", "period", "tick", "port_from", "board"]).required(true))]
#[command(group = ArgGroup::new("where").args(["on", "board"]).required(true))]
#[command(group = ArgGroup::new("described").args(DESCRIBED).multiple(true).conflicts_with("board"))]
pub struct DeriveArgs {
    #[command(flatten)]
    place: LocationOptions,
    #[command(flatten)]
    clock: ClockOptions,
    #[command(flatten)]
    board: BoardOptions,
    #[command(flatten)]
    target: TargetOptions,
    /// A counter tick of this length, for a time base without a signal
    #[arg(
        long,
        value_name = "TIME",
        help_heading = "Target",
        allow_hyphen_values = true,
        conflicts_with_all = ["duty", "pulse", "phase", "span", "prefer", "active", "dither", "dead_time", "min_bits"]
    )]
    tick: Option<String>,
    /// The signal that registers of another timer make: PART/TIMER[/CHANNEL]@CLOCK
    #[arg(
        long,
        value_name = "FROM@CLOCK",
        help_heading = "Target",
        requires = "registers",
        conflicts_with_all = ["duty", "pulse", "phase", "active"]
    )]
    port_from: Option<String>,
    /// Those registers, as NAME=VALUE with spaces between
    #[arg(long, value_name = "NAME=VALUE", help_heading = "Target", requires = "port_from")]
    registers: Vec<String>,
    #[command(flatten)]
    shape: ShapeOptions,
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
    /// Show the arithmetic, line by line
    #[arg(long, help_heading = "Output")]
    pub explain: bool,
}

/// What a board file says, and options do not say again.
const DESCRIBED: [&str; 12] = [
    "pin",
    "clock",
    "sysclk",
    "bus",
    "duty",
    "pulse",
    "phase",
    "span",
    "min_bits",
    "active",
    "dead_time",
    "registers",
];

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
pub enum Asked {
    /// Registers for a signal.
    Signal(DeriveRequest),
    /// Registers for a signal at the best of several places, each with what lies around it.
    Led(Vec<(DeriveRequest, Routing)>),
    /// Registers for a signal of a board.
    OfBoard(Box<BoardSignal>, DeriveRequest),
    /// Registers for the signal that other registers make, on a part of this name.
    Ported(String, DecodeRequest, Box<DeriveRequest>),
    /// Registers for a time base.
    TimeBase(TimeBaseRequest),
}

impl DeriveArgs {
    /// The part, what is asked of it, and what lies around the timer as far as it was asked.
    ///
    /// # Errors
    /// [`Fault`] for texts that are no quantities, and for what the clock tree refuses.
    pub fn read(&self, catalogue: &PartLibrary) -> Result<(String, Asked, Routing)> {
        if let Some(BoardPlace { signal, place, clock, around }) = self.board.read(catalogue)? {
            let target = signal.board.target(&signal.signal)?;
            let request = self.request(place.timer, place.channel, clock, target);
            return Ok((place.part, Asked::OfBoard(Box::new(signal), request), around));
        }
        let places = self.place.all(catalogue)?;
        if places.len() > 1 && self.tick.is_none() && self.port_from.is_none() {
            return self.led(places, catalogue);
        }
        let (Location { part, timer, channel }, pin) = match <[_; 1]>::try_from(places) {
            Ok([place]) => place,
            Err(_) => self.place.read(catalogue)?,
        };
        let (clock, way) = self.clock.of(catalogue, &part, &timer)?;
        let within = self.target.within()?;
        let ported = self.port_from.as_ref().map(|from| self.ported(from, within)).transpose()?;
        if let Some(text) = &self.tick {
            let tick = positive("tick", text)?;
            let (base, mode) = (self.shape.base.clone(), self.shape.mode.clone());
            let (all, allow_overclock) = (self.all, self.allow_overclock);
            let request = TimeBaseRequest { timer, base, clock, tick, within, mode, all, allow_overclock };
            return Ok((part, Asked::TimeBase(request), Routing { way, pin, ..Routing::default() }));
        }
        // What is ported over has its own frequency, known once it is decoded.
        let aim = self.target.aim()?.unwrap_or(Aim::Frequency(Frequency::ZERO));
        let target = self.shape.of(self.target.target(aim)?)?;
        let request = self.request(timer, channel, clock, target);
        let around = Routing { way, pin, ..Routing::default() };
        Ok(match ported {
            Some((from, decode)) => (part, Asked::Ported(from, decode, Box::new(request)), around),
            None => (part, Asked::Signal(request), around),
        })
    }

    /// What is asked where several places will do.
    fn led(
        &self,
        places: Vec<(Location, Option<PinChoice>)>,
        catalogue: &PartLibrary,
    ) -> Result<(String, Asked, Routing)> {
        let aim = self.target.aim()?.ok_or_else(|| Fault::Usage {
            message: "missing --freq or --period".to_owned(),
            hint: "give --freq or --period, and --pulse, --duty or --span".to_owned(),
        })?;
        let target = self.shape.of(self.target.target(aim)?)?;
        let part = places.first().map(|(place, _)| place.part.clone()).unwrap_or_default();
        let mut requests = Vec::new();
        for (Location { part, timer, channel }, pin) in places {
            let (clock, way) = self.clock.of(catalogue, &part, &timer)?;
            let around = Routing { way, pin, ..Routing::default() };
            requests.push((self.request(timer, channel, clock, target.clone()), around));
        }
        Ok((part, Asked::Led(requests), Routing::default()))
    }

    /// The request for a target, with the choices that the options make.
    fn request(
        &self,
        timer: String,
        channel: Option<String>,
        clock: Option<Tolerance<Frequency>>,
        target: Target,
    ) -> DeriveRequest {
        DeriveRequest {
            timer,
            base: self.shape.base.clone(),
            channel,
            clock,
            target,
            mode: self.shape.mode.clone(),
            prefer: self.prefer.map(|preference| match preference {
                Preference::Exact => Prefer::Exact,
                Preference::Fine => Prefer::Fine,
                Preference::RoundTick => Prefer::RoundTick,
            }),
            dither: self.dither,
            all: self.all,
            allow_overclock: self.allow_overclock,
        }
    }

    /// What is ported over: the part it comes from, and what to decode there.
    fn ported(&self, from: &str, within: Deviation) -> Result<(String, DecodeRequest)> {
        let Some((place, clock)) = from.split_once('@') else {
            return Err(Fault::Usage {
                message: format!("--port-from: expected PART/TIMER@CLOCK, found `{from}`"),
                hint: "for example --port-from stm32f411/tim3@100MHz".to_owned(),
            });
        };
        let Location { part, timer, channel } = Location::read(place)?;
        let assignments = self.registers.iter().flat_map(|text| text.split_whitespace());
        let assignments = assignments.map(|text| read("registers", text, str::parse));
        let request = DecodeRequest {
            timer,
            base: None,
            channel,
            clock: Some(real_clock("port-from", clock)?),
            assignments: assignments.collect::<Result<_>>()?,
            expect: None,
            within,
            allow_overclock: false,
        };
        Ok((part, request))
    }
}
