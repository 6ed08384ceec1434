//! `--board` and `--signal`: a signal that a board file describes, in place of the options that describe one.

use std::path::{Path, PathBuf};

use clap::Args;
use kairotic_core::board::{Board, Signal, place};
use kairotic_core::quantity::{Frequency, Tolerance};

use super::location::{Location, PinChoice};
use super::routing::Routing;
use crate::fault::{Fault, Result};
use crate::part_library::PartLibrary;

/// A signal of a board file.
#[derive(Debug, Args)]
pub struct BoardOptions {
    /// A board file: it says where, from which clock, and what is wanted
    #[arg(long, value_name = "FILE", requires = "signal", help_heading = "Board")]
    board: Option<PathBuf>,
    /// The signal that is meant
    #[arg(long, value_name = "NAME", requires = "board", help_heading = "Board")]
    signal: Option<String>,
}

/// A signal with the board that it is on.
#[derive(Debug, Clone, PartialEq)]
pub struct BoardSignal {
    /// The board.
    pub board: Board,
    /// The signal.
    pub signal: Signal,
}

/// Where a board's signal comes out, and from which clock.
pub struct BoardPlace {
    /// The signal.
    pub signal: BoardSignal,
    /// Part, timer and channel.
    pub place: Location,
    /// The clock that reaches the timer, where the board says so.
    pub clock: Option<Tolerance<Frequency>>,
    /// The pin, and the way of the clock.
    pub around: Routing,
}

impl BoardOptions {
    /// The signal, where one is named.
    ///
    /// # Errors
    /// [`Fault`] for a file that cannot be read or is wrong, and for a name that is not there.
    pub fn signal(&self, catalogue: &PartLibrary) -> Result<Option<BoardSignal>> {
        let (Some(file), Some(name)) = (&self.board, &self.signal) else { return Ok(None) };
        let board = open(file, catalogue)?;
        let signal = board.signal(name)?.clone();
        Ok(Some(BoardSignal { board, signal }))
    }

    /// The signal with its place and clock, where one is named.
    ///
    /// # Errors
    /// As [`BoardOptions::signal`]; a clock that is not legal.
    pub fn read(&self, catalogue: &PartLibrary) -> Result<Option<BoardPlace>> {
        self.signal(catalogue)?.map(|signal| BoardPlace::of(signal, catalogue)).transpose()
    }
}

/// The board in a file.
///
/// # Errors
/// [`Fault`] for a file that cannot be read or is wrong.
pub fn open(file: &Path, catalogue: &PartLibrary) -> Result<Board> {
    let known = |name: &str| {
        catalogue.whole_part(name).map_err(|fault| match fault {
            Fault::Core(error) => error,
            _ => kairotic_core::Error::BrokenPart {
                part: name.to_owned(),
                what: "its data cannot be read".to_owned(),
            },
        })
    };
    Ok(kairotic_formats::board_file::read(&catalogue.file(file)?, known)?)
}

impl BoardPlace {
    /// The place and the clock of a signal.
    ///
    /// # Errors
    /// A clock that is not legal, and a signal that fits nowhere.
    pub fn of(on: BoardSignal, catalogue: &PartLibrary) -> Result<Self> {
        let BoardSignal { board, signal } = on;
        let part = catalogue.whole_part(&board.part)?;
        let (timer, channel) = place(&board, &part, &signal.name)?;
        let (clock, way) = board.clock.of(&part, &timer)?;
        let pin = match &signal.place {
            kairotic_core::board::Placed::Pin(pin) => Some(PinChoice::of(&part, pin, None)?),
            _ => None,
        };
        let place = Location { part: part.name, timer, channel };
        let signal = BoardSignal { board, signal };
        Ok(Self { signal, place, clock, around: Routing { way, pin, ..Routing::default() } })
    }
}
