//! The arguments of `move`.

use clap::{ArgGroup, Args, ValueEnum};
use kairotic_core::board::Asked;
use kairotic_core::error::OrOverflow;
use kairotic_core::load::{Gear, KeyText, Kind, LoadKind, PhaseMode, StepDrive, StepRates, Stepper};
use kairotic_core::motion::{
    Course, MicrostepTables, MoveRequest, Pace, StepTimer, StepTiming, TimedMoveRequest, Winding,
};
use kairotic_core::quantity::{
    Angle, AngleDimension, LoadLevel, QuantityError, Rational, Speed, StepAcceleration,
    StepAccelerationDimension, StepJerk, StepJerkDimension, StepRate, StepRateDimension, Time, TimeDimension,
};
use kairotic_core::search::DerivedSignal;
use kairotic_core::sequence::LevelPace;

use super::board::{BoardOptions, BoardSignal};
use super::clock::ClockOptions;
use super::files::FileOptions;
use super::location::LocationOptions;
use super::scale::Code;
use super::timed_move::TimedOptions;
use super::typed::{Refusal, identifier, plain, positive, quantity, whole};
use crate::fault::{Fault, Result};
use crate::part_library::PartLibrary;

/// The arguments of `move`.
///
/// A stepper's move is planned edge by edge: so many steps, a ramp up and down, each edge at the tick nearest to the ideal.
/// Every way to make the ramp in firmware is run over all steps and held against it; the one that keeps to --max-error with
/// the least data leads. Angles are those of what the stepper turns, behind its gear. With --speed a motor is run for a time
/// instead: what that is off by, move after move. A servo of a board goes to an angle: its pulse, and when it has arrived.
#[derive(Debug, Args)]
#[command(override_usage = "kairotic move --board FILE --signal NAME --to ANGLE [OPTIONS]\n       \
                      kairotic move (--on PART/TIMER[/CHANNEL] | --tick TIME) --fastest RATE --acceleration RATE (--steps NUMBER | --to ANGLE) [OPTIONS]\n       \
                      kairotic move --tick TIME (--speed SPEED | --board FILE --signal NAME) --by ANGLE [OPTIONS]")]
#[command(after_help = EXAMPLES)]
#[command(group = ArgGroup::new("timing").args(["on", "tick", "board"]).required(true).multiple(true))]
#[command(mut_arg("board", |board| board.conflicts_with("on")))]
#[command(group = ArgGroup::new("way").args(["to", "by", "steps"]).required(true))]
#[command(mut_arg("save", |save| save.help("Write every step to a .csv file")))]
#[command(mut_arg("plot", |plot| plot.help("Draw rate and position over time, and how far each edge is off, to an SVG or PNG file")))]
pub struct MoveArgs {
    /// Where it goes
    #[arg(long, value_name = "ANGLE", help_heading = "Way", allow_hyphen_values = true, value_parser = quantity::<AngleDimension>)]
    to: Option<Angle>,
    /// Where it is before; a stepper at zero and a servo at its level where that is not said
    #[arg(
        long,
        value_name = "ANGLE",
        help_heading = "Way",
        requires = "to",
        allow_hyphen_values = true,
        value_parser = quantity::<AngleDimension>
    )]
    from: Option<Angle>,
    /// How far it goes, again and again
    #[arg(long, value_name = "ANGLE", help_heading = "Way", allow_hyphen_values = true, value_parser = quantity::<AngleDimension>)]
    by: Option<Angle>,
    /// How many steps it makes
    #[arg(long, value_name = "NUMBER", help_heading = "Way", allow_hyphen_values = true, value_parser = steps)]
    steps: Option<i64>,
    /// How often a move with --by is made
    #[arg(long, value_name = "NUMBER", help_heading = "Way", default_value = "1000", value_parser = whole::<u32, 1, 1_000_000>)]
    moves: u32,
    /// How long it may take: it goes as slowly as that allows
    #[arg(long = "in", value_name = "TIME", help_heading = "Pace", value_parser = positive::<TimeDimension>)]
    within: Option<Time>,
    /// How fast it may go, if not as fast as it can: 2000steps/s, 30deg/s or 5rpm
    #[arg(long, value_name = "RATE", help_heading = "Pace", conflicts_with = "within", value_parser = rate)]
    rate: Option<Pace>,
    #[command(flatten)]
    location: LocationOptions,
    /// A counter's tick, without a timer
    #[arg(long, value_name = "TIME", conflicts_with = "on", value_parser = positive::<TimeDimension>)]
    tick: Option<Time>,
    #[command(flatten)]
    clock: ClockOptions,
    #[command(flatten)]
    stepper: StepperOptions,
    #[command(flatten)]
    board: BoardOptions,
    #[command(flatten)]
    timed: TimedOptions,
    /// How far an edge may be off the ideal, in ticks
    #[arg(
        long,
        value_name = "TICKS",
        help_heading = "Ramp",
        default_value = "1",
        allow_hyphen_values = true,
        value_parser = ticks_off
    )]
    max_error: Rational,
    /// Clocks of the timer that an interrupt takes for each step
    #[arg(long, value_name = "NUMBER", help_heading = "Ramp", value_parser = whole::<u64, 1, 1_000_000_000>)]
    cycles_per_step: Option<u64>,
    /// Print the move as code: a function that gives the ticks from step to step
    #[arg(long, value_name = "LANGUAGE", value_enum, help_heading = "Output")]
    pub code: Option<Code>,
    /// The name of the move in code; that of the signal where none is given
    #[arg(long, value_name = "NAME", value_parser = identifier, help_heading = "Output", requires = "code")]
    name: Option<String>,
    #[command(flatten)]
    pub files: FileOptions,
}

/// A move that is asked for.
#[derive(Debug)]
pub enum AskedMove<'c> {
    /// So many steps.
    Steps {
        /// What is wanted.
        request: Box<MoveRequest<'c>>,
        /// The pins of four wires.
        lines: Vec<String>,
    },
    /// From one level to another.
    Level {
        /// What moves.
        signal: Box<DerivedSignal<'c>>,
        /// Where it begins and ends.
        ends: [LoadLevel; 2],
        /// How fast.
        pace: LevelPace,
    },
}

/// A stepper, where no board file describes it.
#[derive(Debug, Args)]
#[group(conflicts_with = "board")]
struct StepperOptions {
    /// Full steps in a turn of the motor
    #[arg(long, value_name = "NUMBER", help_heading = "Stepper", default_value = "200", value_parser = whole::<u32, 1, 1_000_000>)]
    steps_per_turn: u32,
    /// Turns of the motor for a turn of what it moves, such as "32/11 * 26/9"
    #[arg(long, value_name = "RATIO", help_heading = "Stepper", default_value = "1", value_parser = gear)]
    gear: Rational,
    /// Steps of a step-and-direction driver, or of two windings, in a full step
    #[arg(long, value_name = "NUMBER", help_heading = "Stepper", default_value = "1", value_parser = whole::<u32, 1, 1024>)]
    microsteps: u32,
    /// The shortest pulse, and the shortest pause, that the driver sees
    #[arg(long, value_name = "TIME", help_heading = "Stepper", default_value = "2us", value_parser = positive::<TimeDimension>)]
    step_pulse: Time,
    /// How four wires are driven, without a driver
    #[arg(
        long,
        value_name = "MODE",
        value_enum,
        help_heading = "Stepper",
        conflicts_with_all = ["microsteps", "step_pulse"]
    )]
    phases: Option<Phases>,
    /// Two PWM signals drive the windings, without a driver: their compare value at the full current
    #[arg(
        long,
        value_name = "COMPARE",
        help_heading = "Stepper",
        conflicts_with_all = ["phases", "step_pulse"],
        value_parser = whole::<u32, 1, { u32::MAX as u64 }>
    )]
    windings: Option<u32>,
    /// The rate that it takes at once
    #[arg(long, value_name = "RATE", help_heading = "Stepper", default_value = "0steps/s", value_parser = quantity::<StepRateDimension>)]
    start: StepRate,
    /// The fastest rate, such as 4000steps/s
    #[arg(
        long,
        value_name = "RATE",
        help_heading = "Stepper",
        required_unless_present_any = ["board", "speed"],
        allow_hyphen_values = true,
        value_parser = positive::<StepRateDimension>
    )]
    fastest: Option<StepRate>,
    /// How fast the rate grows, such as 10000steps/s2
    #[arg(
        long,
        value_name = "RATE",
        help_heading = "Stepper",
        required_unless_present_any = ["board", "speed"],
        allow_hyphen_values = true,
        value_parser = positive::<StepAccelerationDimension>
    )]
    acceleration: Option<StepAcceleration>,
    /// How fast the acceleration grows, for an S-curve, such as 200000steps/s3
    #[arg(long, value_name = "RATE", help_heading = "Stepper", allow_hyphen_values = true, value_parser = positive::<StepJerkDimension>)]
    jerk: Option<StepJerk>,
}

/// How four wires are driven.
#[derive(Debug, Clone, Copy, PartialEq, Eq, ValueEnum)]
enum Phases {
    /// One line at a time
    Wave,
    /// Two lines at a time
    Full,
    /// One and two lines in turn
    Half,
}

const EXAMPLES: &str = "\
Examples:
  kairotic move --board dome.toml --signal slit --to 85deg
      the slit of a dome: steps, ramp, timer
  kairotic move --board dome.toml --signal slit --to 85deg --in 4s --plot opens.svg
      the same in no more than four seconds, with a picture
  kairotic move --board dome.toml --signal shutter --to 120deg --rate 60deg/s
      a servo no faster than that: a level each frame, and when it has arrived
  kairotic move --tick 1us --fastest 2000steps/s --acceleration 1000steps/s2 --steps 400 --save steps.csv
      a ramp from rest, every step of it
  kairotic move --on atmega328p/timer1/b --clock 16MHz --fastest 4000steps/s --acceleration 20000steps/s2 --gear \"32/11 * 26/9\" --by 75deg
      a gear that is no whole number: what a thousand moves make of what is left over
  kairotic move --tick 1ms --speed 140rpm --by 60deg --need 5deg --speed-spread 2%
      a motor that is run for a time: after how many moves it is five degrees off";

impl MoveArgs {
    /// The move that is asked for, and the pins of a stepper's four wires.
    ///
    /// # Errors
    /// A board file that cannot be read or is wrong, and one without that stepper; names that are not there; what the clock
    /// tree refuses.
    pub fn read<'c>(&self, catalogue: &'c PartLibrary) -> Result<AskedMove<'c>> {
        let (stepper, timing, lines, microsteps) = match self.board.named(catalogue)? {
            Some((board, name)) => match board.axis(name) {
                Some(axis) => {
                    let part = catalogue.whole_part(&board.part)?;
                    let timing = StepTiming::Timer(board.step_timer(axis, part)?);
                    (axis.stepper.clone(), timing, axis.lines.clone(), board.microsteps(axis, part)?)
                }
                None => {
                    let signal = board.signal(name)?.clone();
                    return self.level(BoardSignal { board, signal }, catalogue);
                }
            },
            None => {
                let microsteps = self.stepper.tables()?;
                (self.stepper.read()?, self.timing(catalogue)?, Vec::new(), microsteps)
            }
        };
        let (from, to) = (self.from.unwrap_or(Angle::ZERO), self.to);
        let course = match (to, self.by, self.steps) {
            (Some(to), ..) => Course::Between { from, to },
            (_, Some(by), _) => Course::By(by),
            (_, _, steps) => Course::Steps(steps.or_overflow("number of steps")?),
        };
        let pace = self.within.map(Pace::Within).or(self.rate).unwrap_or(Pace::Fastest);
        let request = Box::new(MoveRequest {
            stepper,
            course,
            pace,
            timing,
            most: self.max_error,
            cycles_per_step: self.cycles_per_step,
            moves: self.moves,
            microsteps,
        });
        Ok(AskedMove::Steps { request, lines })
    }

    /// The move of a servo.
    fn level<'c>(&self, signal: BoardSignal, catalogue: &'c PartLibrary) -> Result<AskedMove<'c>> {
        let name = signal.signal.name.clone();
        let load = signal.board.load_of(&signal.signal).map(|load| &load.kind);
        let (Some(Kind::Servo(_)), Some(to)) = (load, self.to) else {
            return Err(match load {
                Some(Kind::Servo(_)) => Fault::Usage {
                    message: format!("--by and --steps: {name} is a servo, which goes to an angle"),
                    hint: "give --to, and --from".to_owned(),
                },
                _ => no_stepper(&name),
            });
        };
        let spec = signal.spec(catalogue)?.0;
        let from = self.from.map(LoadLevel::Angle).or(spec.level).ok_or_else(|| Fault::Usage {
            message: format!("missing --from: nothing says where {name} is before"),
            hint: "give --from, or `at` in the board file".to_owned(),
        })?;
        let pace = match (self.within, self.rate) {
            (Some(time), _) => LevelPace::Within(time),
            (None, None) => LevelPace::AtOnce,
            (None, Some(Pace::Speed(speed))) => LevelPace::Speed(speed),
            (None, Some(_)) => {
                return Err(Fault::Usage {
                    message: format!("--rate: {name} is a servo, which has no steps"),
                    hint: "for example --rate 30deg/s".to_owned(),
                });
            }
        };
        let signal = Box::new(DerivedSignal::of(spec)?);
        Ok(AskedMove::Level { signal, ends: [from, LoadLevel::Angle(to)], pace })
    }

    /// What the move is called in code.
    pub fn code_name(&self) -> String {
        let signal = || self.signal().map(|name| name.replace('-', "_").to_lowercase());
        self.name.clone().or_else(signal).unwrap_or_else(|| "steps".to_owned())
    }

    /// What is moved: a board's stepper by its name.
    pub fn signal(&self) -> Option<&str> {
        self.board.name()
    }

    /// The move of a motor that is run for a time, where that is asked for: at a speed, or as a board's load turns.
    ///
    /// # Errors
    /// A board file that cannot be read or is wrong; a load of which nothing says how fast it turns; a level that it does
    /// not have.
    pub fn timed(&self, catalogue: &PartLibrary) -> Result<Option<TimedMoveRequest>> {
        let (Some(tick), Some((board, name))) = (self.tick, self.board.named(catalogue)?) else {
            return Ok(self.timed.request(self.by, self.tick, self.moves));
        };
        if board.axis(name).is_some() {
            return Err(Fault::Usage {
                message: format!("--tick: {name} is a stepper, and the board says which timer times it"),
                hint: "leave --tick out".to_owned(),
            });
        }
        let signal = board.signal(name)?;
        let load = board.load_of(signal).map(|load| &load.kind);
        let turning = load.map(LoadKind::turning).unwrap_or_default();
        let level = match (&self.timed.level, signal.asked, load) {
            (Some(text), _, Some(load)) => {
                let level = load.read_level(text)?;
                load.active(level)?;
                Some(level)
            }
            (None, Some(Asked::Level(level)), _) => Some(level),
            _ => None,
        };
        let speed = level.map(|level| turning.speed_at(level)).transpose()?.flatten();
        let Some(speed) = speed else {
            let missing = if turning.full_speed.is_none() { "`full-speed`" } else { "level" };
            return Err(Fault::Usage {
                message: format!("--signal: {name} has no {missing} from which to tell how fast it turns"),
                hint: "observe it (`scale --observed` writes `full-speed`), and give --level; or give --speed without a board"
                    .to_owned(),
            });
        };
        let speed = speed.positive().map_err(kairotic_core::Error::from)?;
        if self.by.is_none() {
            return Err(Fault::Usage {
                message: format!("--to and --steps: {name} is run for a time, and nothing tells where it is"),
                hint: "give --by".to_owned(),
            });
        }
        Ok(self.timed.at(speed, turning, self.by, Some(tick), self.moves))
    }

    fn timing<'c>(&self, catalogue: &'c PartLibrary) -> Result<StepTiming<'c>> {
        if let Some(tick) = self.tick {
            return Ok(StepTiming::Tick(tick));
        }
        let located = self.location.one(catalogue)?;
        let (on, _) = self.clock.on(located.on, catalogue)?;
        Ok(StepTiming::Timer(StepTimer { on, channel: located.channel }))
    }
}

impl StepperOptions {
    /// The compare values of two windings, where those are driven.
    fn tables(&self) -> Result<Option<MicrostepTables>> {
        let Some(full) = self.windings else { return Ok(None) };
        let winding = Winding::Counts(full);
        Ok(Some(MicrostepTables::of(self.microsteps, [&winding, &winding])?))
    }

    fn read(&self) -> Result<Stepper> {
        let drive = match (self.phases, self.windings) {
            (Some(phases), _) => StepDrive::FourWire {
                mode: match phases {
                    Phases::Wave => PhaseMode::Wave,
                    Phases::Full => PhaseMode::Full,
                    Phases::Half => PhaseMode::Half,
                },
            },
            (None, Some(_)) => StepDrive::TwoWindings { microsteps: self.microsteps },
            (None, None) => StepDrive::StepDirection {
                microsteps: self.microsteps,
                pulse: self.step_pulse,
                setup: Time::ZERO,
                hold: Time::ZERO,
            },
        };
        let rates = StepRates {
            start: self.start,
            fastest: self.fastest.or_overflow("fastest rate")?,
            acceleration: self.acceleration.or_overflow("acceleration")?,
            jerk: self.jerk,
        };
        Ok(Stepper {
            steps_per_turn: self.steps_per_turn.into(),
            gear: self.gear,
            drive,
            rates: rates.checked()?,
            travel: None,
            backlash: None,
        })
    }
}

fn no_stepper(signal: &str) -> Fault {
    Fault::Usage {
        message: format!("--signal: {signal} is no stepper, and no servo"),
        hint: "name a signal whose load is one; a motor is run for a time with --tick and --speed".to_owned(),
    }
}

fn gear(text: &str) -> Result<Rational, Refusal> {
    Ok(Gear::of(text).map(|Gear(ratio)| ratio)?)
}

fn ticks_off(text: &str) -> Result<Rational, Refusal> {
    plain(text, "ticks", "for example --max-error 0.51")
}

fn steps(text: &str) -> Result<i64, Refusal> {
    let number = text.replace('_', "").parse().ok().filter(|steps| *steps != 0);
    number.ok_or_else(|| {
        let message = format!("expected a whole number of steps that is not zero, found `{text}`");
        Refusal::new(message, "for example --steps 400, or --steps -400 the other way")
    })
}

/// A rate in steps, or a speed of what is turned.
fn rate(text: &str) -> Result<Pace, Refusal> {
    if let Ok(speed) = text.parse::<Speed>() {
        return Ok(Pace::Speed(speed.positive()?));
    }
    let wrong = |error: QuantityError| match error {
        QuantityError::Text { quantity, text, problem, units } => {
            QuantityError::Text { quantity, text, problem, units: format!("{units}, deg/s, rpm") }
        }
        other => other,
    };
    Ok(Pace::Rate(text.parse::<StepRate>().map_err(wrong)?.positive()?))
}
