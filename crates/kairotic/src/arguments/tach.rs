//! The arguments of `tach`.

use std::path::PathBuf;

use clap::{ArgGroup, Args};
use kairotic_core::board::signal_on;
use kairotic_core::load::LoadKind;
use kairotic_core::part::TimerUse;
use kairotic_core::quantity::{Range, Speed, SpeedDimension, Time, TimeDimension};
use kairotic_core::tach::{TachRequest, gap};

use super::board::{BoardOptions, BoardSignal};
use super::capture::CaptureOptions;
use super::clock::ClockOptions;
use super::location::Location;
use super::plot::PlotOptions;
use super::typed::{Refusal, positive, range, text, whole};
use crate::fault::{Fault, Result};
use crate::part_library::PartLibrary;

/// The arguments of `tach`.
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
#[command(mut_arg("plot", |plot| plot.help("Draw the speed over time to an SVG or PNG file")))]
pub struct TachArgs {
    /// A capture to read; - for a pipe
    #[arg(conflicts_with_all = ["SetUpOptions", "ClockOptions"])]
    pub file: Option<PathBuf>,
    /// Pulses per revolution; a board file says it for its fans
    #[arg(long, value_name = "NUMBER", value_parser = whole::<u32, 1, 1_000_000>, help_heading = "Speed")]
    pulses_per_turn: Option<u32>,
    /// From the slowest to the fastest speed that matters; in a capture, stopped below this speed
    #[arg(
        long,
        value_name = "LOW..HIGH",
        help_heading = "Speed",
        required_unless_present = "file",
        value_parser = speeds
    )]
    speed_range: Option<Range<Speed>>,
    #[command(flatten)]
    set_up: SetUpOptions,
    #[command(flatten)]
    clock: ClockOptions,
    #[command(flatten)]
    board: BoardOptions,
    #[command(flatten)]
    pub capture: CaptureOptions,
    #[command(flatten)]
    pub plot: PlotOptions,
}

/// What only a timer has that is set up.
#[derive(Debug, Args)]
struct SetUpOptions {
    /// The timer that is to measure
    #[arg(
        long,
        value_name = "PART/TIMER",
        value_parser = text::<Location>,
        conflicts_with_all = ["CaptureOptions", "PlotOptions"]
    )]
    on: Option<Location>,
    /// The largest step between readings that will do
    #[arg(long, value_name = "SPEED", help_heading = "Speed", value_parser = positive::<SpeedDimension>)]
    resolve: Option<Speed>,
    /// How long pulses are counted; where it is not said, as long as --resolve needs, or a second
    #[arg(long, value_name = "TIME", help_heading = "Speed", value_parser = positive::<TimeDimension>)]
    window: Option<Time>,
    /// The base counter, where the timer can choose; the one with the finest tick where none is named
    #[arg(long, value_name = "NAME", help_heading = "Clock")]
    base: Option<String>,
    /// Accept a clock above the timer's maximum
    #[arg(long, help_heading = "Clock")]
    allow_overclock: bool,
}

const EXAMPLES: &str = "\
Examples:
  kairotic tach --on stm32f411/tim9 --clock 96MHz --pulses-per-turn 2 --speed-range 300rpm..3000rpm --resolve 5rpm
      a timer for a fan's tach signal
  kairotic tach --board dome.toml --signal camera-fan --on stm32f411/tim9 --speed-range 300rpm..3000rpm
      pulses per revolution and clock from a board file
  kairotic tach fan.vcd --board dome.toml --signal camera-fan --plot speed.svg
      the speed over time, from a capture";

impl TachArgs {
    /// The timer that is to be set up.
    ///
    /// # Errors
    /// Names that are not there; a timer that makes a signal already; what the clock tree refuses.
    pub fn setup<'c>(&self, catalogue: &'c PartLibrary) -> Result<TachRequest<'c>> {
        let missing = |what: &str, hint: &str| Fault::Usage {
            message: format!("missing {what}"),
            hint: hint.to_owned(),
        };
        let SetUpOptions { on, resolve, window, base, allow_overclock } = &self.set_up;
        let location = on.as_ref().ok_or_else(|| missing("--on", "for example --on stm32f411/tim9"))?;
        let (mut on, _) = self.clock.on(location.timer(catalogue)?, catalogue)?;
        if let Some(BoardSignal { board, .. }) = self.board.signal(catalogue)? {
            let (part, timer) = (&on.part.name, &on.timer);
            if board.part != *part {
                return Err(Fault::Usage {
                    message: format!("--on: the board has a {}, not a {part}", board.part),
                    hint: format!("for example --on {}/{timer}", board.part),
                });
            }
            let whole = catalogue.whole_part(part)?;
            if let Some(signal) = signal_on(&board, whole, timer)? {
                return Err(Fault::Usage {
                    message: format!("--on: {timer} makes the signal {signal} on this board"),
                    hint: "a timer whose counter is free: `kairotic parts` lists those of a part".to_owned(),
                });
            }
            on.clock = on.clock.or(board.clock.of(whole, timer)?.0);
        }
        let speeds = self.speed_range.ok_or_else(|| {
            missing("--speed-range", "give the slowest and the fastest speed: --speed-range 300rpm..3000rpm")
        })?;
        Ok(TachRequest {
            on: TimerUse { base: base.clone(), allow_overclock: *allow_overclock, ..on },
            pulses_per_turn: self.pulses_per_turn(catalogue)?,
            speeds,
            window: *window,
            resolve: *resolve,
        })
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
        let pulses = load.and_then(|load| load.kind.pulses_per_turn());
        pulses.ok_or_else(|| Fault::Usage {
            message: "missing --pulses-per-turn".to_owned(),
            hint: "give --pulses-per-turn, or `pulses-per-turn` of the fan in the board file".to_owned(),
        })
    }

    /// After so long without a pulse it stands: the time between pulses at the slowest speed, where that is said.
    ///
    /// # Errors
    /// Numbers that do not fit.
    pub fn stands(&self, pulses_per_turn: u32) -> Result<Option<Time>> {
        Ok(self.speed_range.map(|speeds| gap(speeds.low, pulses_per_turn)).transpose()?)
    }
}

fn speeds(text: &str) -> Result<Range<Speed>, Refusal> {
    let speeds: Range<Speed> = range(text)?;
    speeds.low.positive()?;
    Ok(speeds)
}
