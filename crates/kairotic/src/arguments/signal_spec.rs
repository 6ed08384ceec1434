//! A planned signal: by options, or by a board file.

use std::path::PathBuf;

use clap::Args;
use kairotic_core::board::Board;
use kairotic_core::part::TimerUse;
use kairotic_core::signal::SignalSpec;
use kairotic_core::target::Target;

use super::board::{BoardSignal, open};
use super::clock::ClockOptions;
use super::location::{Located, LocationOptions};
use super::routing::Routing;
use super::shape::{ModeOptions, ShapeOptions};
use super::signals;
use super::target::TargetOptions;
use crate::fault::{Fault, Result};
use crate::part_library::PartLibrary;

/// The options that say what a board file says as well: with one they mean nothing.
pub const DESCRIBED: [&str; 4] = ["LocationOptions", "ClockOptions", signals::GROUP, "ShapeOptions"];

/// Planned signals, by options or by a board file.
#[derive(Debug, Args)]
pub struct SpecOptions {
    #[command(flatten)]
    pub location: LocationOptions,
    #[command(flatten)]
    pub clock: ClockOptions,
    #[command(flatten)]
    pub target: TargetOptions,
    #[command(flatten)]
    pub shape: ShapeOptions,
    #[command(flatten)]
    pub modes: ModeOptions,
    /// A board file: it says where, from which clock, and what is wanted
    #[arg(long, value_name = "FILE", help_heading = "Board", conflicts_with_all = DESCRIBED)]
    board: Option<PathBuf>,
    /// The signal of the board that is meant
    #[arg(long, value_name = "NAME", requires = "board", help_heading = "Board")]
    signal: Option<String>,
}

/// A planned signal with what lies around its timer.
#[derive(Debug)]
pub struct Specified<'c> {
    /// The signal.
    pub spec: SignalSpec<'c>,
    /// The way of its clock, and its pin.
    pub around: Routing,
    /// Whether a board file says it.
    pub by_board: bool,
}

impl Specified<'_> {
    /// The signal's name, where a board file gives it one.
    pub fn board_name(&self) -> Option<String> {
        self.by_board.then(|| self.spec.name.clone())
    }
}

impl SpecOptions {
    /// Whether any signal is planned.
    pub const fn is_given(&self) -> bool {
        self.board.is_some() || self.location.is_given()
    }

    /// Whether a board file plans them.
    pub const fn is_by_board(&self) -> bool {
        self.board.is_some()
    }

    /// The name of the signal of a board, where one is named.
    pub fn signal_name(&self) -> Option<&str> {
        self.signal.as_deref()
    }

    /// The board, where one is given.
    ///
    /// # Errors
    /// A file that cannot be read or is wrong.
    pub fn board(&self, catalogue: &PartLibrary) -> Result<Option<Board>> {
        self.board.as_deref().map(|file| open(file, catalogue)).transpose()
    }

    /// The one planned signal: of a board with several, one has to be named.
    ///
    /// # Errors
    /// As [`SpecOptions::all`]; [`Fault::Usage`] for a board of which a signal has to be named.
    pub fn one<'c>(&self, catalogue: &'c PartLibrary) -> Result<Specified<'c>> {
        match <[_; 1]>::try_from(self.all(catalogue)?) {
            Ok([signal]) => Ok(signal),
            Err(all) => {
                let names: Vec<&str> = all.iter().map(|signal| signal.spec.name.as_str()).collect();
                Err(Fault::Usage {
                    message: format!("missing --signal: the board has {} signals", all.len()),
                    hint: format!("name one of {}", names.join(", ")),
                })
            }
        }
    }

    /// The planned signals, in the order of the board.
    ///
    /// # Errors
    /// A board file that cannot be read or is wrong; names that are not there; what the clock tree refuses.
    pub fn all<'c>(&self, catalogue: &'c PartLibrary) -> Result<Vec<Specified<'c>>> {
        let Some(file) = &self.board else { return Ok(vec![self.described(catalogue)?]) };
        let board = open(file, catalogue)?;
        let signals = match &self.signal {
            Some(name) => vec![board.signal(name)?.clone()],
            None => board.signals.clone(),
        };
        let specified = |signal| {
            let (spec, around) = BoardSignal { board: board.clone(), signal }.spec(catalogue)?;
            let (on, target) = self.modes.on(spec.on, spec.target);
            Ok(Specified { spec: SignalSpec { on, target, ..spec }, around, by_board: true })
        };
        signals.into_iter().map(specified).collect()
    }

    /// The signal that the options describe.
    fn described<'c>(&self, catalogue: &'c PartLibrary) -> Result<Specified<'c>> {
        let located = self.location.one(catalogue)?;
        let (on, target, around) = self.wanted_at(located, self.target.target()?, catalogue)?;
        // What the clock does after reset is told by the whole part.
        let on = TimerUse { part: catalogue.whole_part(&on.part.name)?, ..on };
        Ok(Specified { spec: SignalSpec::of(on, target), around, by_board: false })
    }

    /// A target at a place, from the clock and in the shape that the options say.
    ///
    /// # Errors
    /// What the clock tree refuses.
    pub fn wanted_at<'c>(
        &self,
        Located { on, channel, pin }: Located<'c>,
        target: Target,
        catalogue: &PartLibrary,
    ) -> Result<(TimerUse<'c>, Target, Routing)> {
        let (on, way) = self.clock.on(on, catalogue)?;
        let (on, target) = self.modes.on(on, Target { channel, ..target });
        let said = self.clock.said(way.as_ref());
        Ok((on, self.shape.of(target), Routing { way, pin, said, ..Routing::default() }))
    }
}
