//! The arguments of `tach`.

use std::path::PathBuf;

use clap::{ArgGroup, Args};
use kairotic_core::board::signal_on;
use kairotic_core::load::Kind;
use kairotic_core::quantity::{Range, Speed, Time, parse};
use kairotic_core::tach::{TachRequest, gap};

use super::board::{BoardOptions, BoardSignal};
use super::capture::CaptureOptions;
use super::clock::ClockOptions;
use super::location::Location;
use super::quantities::read;
use crate::fault::{Fault, Result};
use crate::part_library::PartLibrary;

/// Speed feedback: a timer set up to measure it, or a capture read as one.
///
/// With --on, a timer is set up for a number of pulses per revolution: the tick with which its counter does not overflow at
/// the slowest speed, and where timing pulses or counting them in a window tells the speed more finely. With a capture, the
/// speed is read over time.
#[derive(Debug, Args)]
#[command(
    override_usage = "kairotic tach --on PART/TIMER --speed-range LOW..HIGH --pulses-per-turn NUMBER [OPTIONS]\n       \
                      kairotic tach FILE --pulses-per-turn NUMBER [OPTIONS]"
)]
#[command(after_help = EXAMPLES, group = ArgGroup::new("what").args(["on", "file"]).required(true))]
#[command(group = ArgGroup::new("turns").args(["pulses_per_turn", "board"]).required(true).multiple(true))]
#[command(group = ArgGroup::new("read").args(READ).multiple(true).conflicts_with("on"))]
#[command(group = ArgGroup::new("set_up").args(SET_UP).multiple(true).conflicts_with("file"))]
pub struct TachArgs {
    /// A capture to read; - for a pipe
    pub file: Option<PathBuf>,
    /// The timer that is to measure
    #[arg(long, value_name = "PART/TIMER")]
    on: Option<String>,
    /// Pulses per revolution; a board file says it for its fans
    #[arg(long, value_name = "NUMBER", value_parser = clap::value_parser!(u32).range(1..=1_000_000), help_heading = "Speed")]
    pulses_per_turn: Option<u32>,
    /// From the slowest to the fastest speed that matters; in a capture, stopped below this speed
    #[arg(long, value_name = "LOW..HIGH", help_heading = "Speed", required_unless_present = "file")]
    speed_range: Option<String>,
    /// The largest step between readings that will do
    #[arg(long, value_name = "SPEED", help_heading = "Speed")]
    resolve: Option<String>,
    /// How long pulses are counted; where it is not said, as long as --resolve needs, or a second
    #[arg(long, value_name = "TIME", help_heading = "Speed")]
    window: Option<String>,
    #[command(flatten)]
    clock: ClockOptions,
    /// The base counter, where the timer can choose; the one with the finest tick where none is named
    #[arg(long, value_name = "NAME", help_heading = "Clock")]
    base: Option<String>,
    /// Accept a clock above the timer's maximum
    #[arg(long, help_heading = "Clock")]
    allow_overclock: bool,
    #[command(flatten)]
    board: BoardOptions,
    #[command(flatten)]
    pub capture: CaptureOptions,
    /// Draw the speed over time to an SVG or PNG file
    #[arg(long, value_name = "FILE", help_heading = "Output")]
    pub plot: Option<PathBuf>,
    /// Replace the picture where the file is there already
    #[arg(long, requires = "plot", help_heading = "Output")]
    pub force: bool,
}

/// What only a capture has.
const READ: [&str; 10] = [
    "signals",
    "glitch",
    "recorder",
    "rate",
    "time_column",
    "time_unit",
    "separator",
    "threshold",
    "plot",
    "force",
];

/// What only a timer has.
const SET_UP: [&str; 7] = ["resolve", "window", "clock", "sysclk", "bus", "base", "allow_overclock"];

const EXAMPLES: &str = "\
Examples:
  kairotic tach --on stm32f411/tim9 --clock 96MHz --pulses-per-turn 2 --speed-range 300rpm..3000rpm --resolve 5rpm
      a timer for a fan's tach signal
  kairotic tach --board dome.toml --signal camera-fan --on stm32f411/tim9 --speed-range 300rpm..3000rpm
      pulses a turn and clock from a board file
  kairotic tach fan.vcd --board dome.toml --signal camera-fan --plot speed.svg
      the speed over time, from a capture";

/// A timer that is to be set up.
pub struct TachSetup {
    /// The part's name.
    pub part: String,
    /// What is to be measured.
    pub request: TachRequest,
}

impl TachArgs {
    /// The timer that is to be set up.
    ///
    /// # Errors
    /// [`Fault`] for texts that are no quantities, for a timer that makes a signal already, and for what the clock tree
    /// refuses.
    pub fn setup(&self, catalogue: &PartLibrary) -> Result<TachSetup> {
        let Location { part, timer, .. } = Location::of(self.on.as_deref().unwrap_or_default(), catalogue)?;
        let (mut clock, _) = self.clock.of(catalogue, &part, &timer)?;
        if let Some(BoardSignal { board, .. }) = self.board.signal(catalogue)? {
            if board.part != part {
                return Err(Fault::Usage {
                    message: format!("--on: the board has a {}, not a {part}", board.part),
                    hint: format!("for example --on {}/{timer}", board.part),
                });
            }
            let whole = catalogue.whole_part(&part)?;
            if let Some(signal) = signal_on(&board, &whole, &timer)? {
                return Err(Fault::Usage {
                    message: format!("--on: {timer} makes the signal {signal} on this board"),
                    hint: "a timer whose counter is free: `kairotic parts` lists those of a part".to_owned(),
                });
            }
            clock = clock.or(board.clock.of(&whole, &timer)?.0);
        }
        let positive = |option, text: &Option<String>| -> Result<Option<Speed>> {
            let text = text.as_ref();
            text.map(|text| read(option, text, |text| parse::quantity(text)?.positive())).transpose()
        };
        let window = self.window.as_ref();
        let window: Option<Time> =
            window.map(|text| read("window", text, |text| parse::quantity(text)?.positive())).transpose()?;
        let speeds = self.speeds()?.ok_or_else(|| Fault::Usage {
            message: "missing --speed-range".to_owned(),
            hint: "give the slowest and the fastest speed: --speed-range 300rpm..3000rpm".to_owned(),
        })?;
        let request = TachRequest {
            timer,
            base: self.base.clone(),
            clock,
            pulses_per_turn: self.pulses_per_turn(catalogue)?,
            speeds,
            window,
            resolve: positive("resolve", &self.resolve)?,
            allow_overclock: self.allow_overclock,
        };
        Ok(TachSetup { part, request })
    }

    /// Pulses a turn, by the option or by the board file's load.
    ///
    /// # Errors
    /// [`Fault`] for a board file that is wrong, or does not say it.
    pub fn pulses_per_turn(&self, catalogue: &PartLibrary) -> Result<u32> {
        if let Some(pulses) = self.pulses_per_turn {
            return Ok(pulses);
        }
        let on = self.board.signal(catalogue)?;
        let load = on.as_ref().and_then(|BoardSignal { board, signal }| board.load_of(signal));
        let pulses = match load.map(|load| &load.kind) {
            Some(Kind::Fan(fan)) => fan.pulses_per_turn,
            _ => None,
        };
        pulses.ok_or_else(|| Fault::Usage {
            message: "missing --pulses-per-turn".to_owned(),
            hint: "give --pulses-per-turn, or `pulses-per-turn` of the fan in the board file".to_owned(),
        })
    }

    /// The slowest and the fastest speed, where they are said.
    ///
    /// # Errors
    /// [`Fault::Option`].
    fn speeds(&self) -> Result<Option<Range<Speed>>> {
        let Some(text) = &self.speed_range else { return Ok(None) };
        let speeds: Range<Speed> = read("speed-range", text, parse::range)?;
        read("speed-range", text, |_| speeds.low.positive())?;
        Ok(Some(speeds))
    }

    /// After so long without a pulse it stands: the time between pulses at the slowest speed, where that is said.
    ///
    /// # Errors
    /// [`Fault::Option`].
    pub fn stands(&self, pulses_per_turn: u32) -> Result<Option<Time>> {
        let speeds = self.speeds()?;
        Ok(speeds.map(|speeds| gap(speeds.low, pulses_per_turn)).transpose()?)
    }
}
