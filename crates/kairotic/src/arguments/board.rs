//! `--board` and `--signal`: a signal that a board file describes.

use std::path::{Path, PathBuf};

use clap::Args;
use kairotic_core::board::{self, Board, Signal};
use kairotic_core::signal::SignalSpec;

use super::location::PinChoice;
use super::routing::Routing;
use crate::fault::Result;
use crate::part_library::PartLibrary;

/// A signal of a board file.
#[derive(Debug, Args)]
pub struct BoardOptions {
    /// A board file: it says where, from which clock, and what is wanted
    #[arg(long, value_name = "FILE", requires = "signal", help_heading = "Board")]
    board: Option<PathBuf>,
    /// The signal of the board that is meant
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

impl BoardOptions {
    /// The name of the signal, where one is named.
    pub fn name(&self) -> Option<&str> {
        self.signal.as_deref()
    }

    /// The board with the name of a signal, which may be a stepper.
    ///
    /// # Errors
    /// A file that cannot be read or is wrong.
    pub fn named(&self, catalogue: &PartLibrary) -> Result<Option<(Board, &str)>> {
        let (Some(file), Some(name)) = (&self.board, &self.signal) else { return Ok(None) };
        Ok(Some((open(file, catalogue)?, name)))
    }

    /// The signal, where one is named.
    ///
    /// # Errors
    /// A file that cannot be read or is wrong, and for a name that is not there.
    pub fn signal(&self, catalogue: &PartLibrary) -> Result<Option<BoardSignal>> {
        let Some((board, name)) = self.named(catalogue)? else { return Ok(None) };
        let signal = board.signal(name)?.clone();
        Ok(Some(BoardSignal { board, signal }))
    }
}

impl BoardSignal {
    /// The signal as it is planned, with the way of its clock and its pin.
    ///
    /// # Errors
    /// A clock that is not legal, and a signal that fits nowhere.
    pub fn spec<'c>(&self, catalogue: &'c PartLibrary) -> Result<(SignalSpec<'c>, Routing)> {
        let part = catalogue.whole_part(&self.board.part)?;
        let (spec, way) = board::spec(&self.board, &self.signal, part)?;
        let output = (spec.on.timer.as_str(), spec.target.channel.as_deref());
        let pin = self.signal.place.pin.as_ref().map(|pin| PinChoice::carrying(part, pin, output));
        let said = self.board.clock.route(way.iter().cloned().collect());
        Ok((spec, Routing { way, pin, said, ..Routing::default() }))
    }
}

/// The board in a file.
///
/// # Errors
/// A file that cannot be read or is wrong.
pub fn open(file: &Path, catalogue: &PartLibrary) -> Result<Board> {
    let known = |name: &str| catalogue.whole_part(name);
    Ok(kairotic_formats::board_file::read(&catalogue.file(file)?, &known)?)
}
