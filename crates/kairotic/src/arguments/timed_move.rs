//! The options of `move` for a motor that is run for a time.

use clap::Args;
use kairotic_core::load::Turning;
use kairotic_core::motion::{Encoder, TimedMoveRequest};
use kairotic_core::quantity::{Angle, AngleDimension, Deviation, Speed, SpeedDimension, Time, TimeDimension};

use super::typed::{positive, tolerance, whole};

/// A motor that is run for a time.
#[derive(Debug, Args)]
#[group(conflicts_with_all = ["StepperOptions", "on", "to", "steps", "code", "save", "plot", "rate", "within"])]
pub struct TimedOptions {
    /// How fast a motor turns that is run for a time, as observed: without a stepper, and with nothing that tells where it is
    #[arg(long, value_name = "SPEED", help_heading = "Timed motor", requires_all = ["by", "tick"], conflicts_with = "board", value_parser = positive::<SpeedDimension>)]
    speed: Option<Speed>,
    /// The level at which a board's motor runs; that of the signal where none is given
    #[arg(long, value_name = "LEVEL", help_heading = "Timed motor", requires_all = ["tick", "board"], allow_hyphen_values = true)]
    pub level: Option<String>,
    /// How far that differs from move to move, either way
    #[arg(long, value_name = "DEVIATION", help_heading = "Timed motor", requires = "tick", value_parser = tolerance)]
    speed_spread: Option<Deviation>,
    /// How long it takes until it turns so fast
    #[arg(long, value_name = "TIME", help_heading = "Timed motor", requires = "tick", value_parser = positive::<TimeDimension>)]
    spin_up: Option<Time>,
    /// How long it takes until it stands
    #[arg(long, value_name = "TIME", help_heading = "Timed motor", requires = "tick", value_parser = positive::<TimeDimension>)]
    run_down: Option<Time>,
    /// How far the clock may be off, either way
    #[arg(long, value_name = "DEVIATION", help_heading = "Timed motor", requires = "tick", value_parser = tolerance)]
    clock_error: Option<Deviation>,
    /// How far the end may be off
    #[arg(long, value_name = "ANGLE", help_heading = "Timed motor", requires = "tick", value_parser = positive::<AngleDimension>)]
    need: Option<Angle>,
    /// Counts per revolution of an encoder that could tell where it is
    #[arg(long, value_name = "NUMBER", help_heading = "Timed motor", requires = "tick", value_parser = whole::<u32, 1, 1_000_000>)]
    encoder: Option<u32>,
    /// How long the firmware takes from a count to a change of the motor
    #[arg(long, value_name = "TIME", help_heading = "Timed motor", requires = "encoder", value_parser = positive::<TimeDimension>)]
    latency: Option<Time>,
}

impl TimedOptions {
    /// The move, where a motor is timed: so far, in ticks of a counter, so often.
    pub fn request(&self, by: Option<Angle>, tick: Option<Time>, moves: u32) -> Option<TimedMoveRequest> {
        self.at(self.speed?, Turning::default(), by, tick, moves)
    }

    /// The same at a speed, with what a load says of how it turns where the options do not.
    pub fn at(
        &self,
        speed: Speed,
        turning: Turning,
        by: Option<Angle>,
        tick: Option<Time>,
        moves: u32,
    ) -> Option<TimedMoveRequest> {
        let encoder = |counts| Encoder { counts, latency: self.latency.unwrap_or(Time::ZERO) };
        Some(TimedMoveRequest {
            by: by?,
            speed,
            spread: self.speed_spread.unwrap_or(Deviation::ZERO),
            spin_up: self.spin_up.or(turning.spin_up).unwrap_or(Time::ZERO),
            run_down: self.run_down.or(turning.run_down).unwrap_or(Time::ZERO),
            tick: tick?,
            clock: self.clock_error.unwrap_or(Deviation::ZERO),
            moves,
            need: self.need,
            encoder: self.encoder.map(encoder),
        })
    }
}
