//! `--sequence` and `--move`: what a board does over time.

use clap::Args;
use kairotic_core::board::{self, Board};
use kairotic_core::motion::{Course, StepperMove};
use kairotic_core::part::Part;
use kairotic_core::quantity::{Angle, Range, Time, parse};
use kairotic_core::sequence::SequencePlan;
use kairotic_core::simulation::{self, PlayedPin};

use super::signal_spec::SpecOptions;
use super::typed::Refusal;
use crate::fault::{Fault, Result};
use crate::part_library::PartLibrary;

/// What a board does over time, instead of levels that stay.
#[derive(Debug, Args)]
pub struct PlayedOptions {
    /// A sequence of the board file
    #[arg(
        long,
        value_name = "NAME",
        requires = "board",
        conflicts_with = "signal",
        help_heading = "Over time"
    )]
    sequence: Option<String>,
    /// A move of the board's stepper that --signal names, such as 0deg..85deg
    #[arg(long = "move", value_name = "FROM..TO", requires = "signal", conflicts_with = "sequence", help_heading = "Over time", allow_hyphen_values = true, value_parser = ends)]
    moves: Option<Range<Angle>>,
}

/// What is played.
#[derive(Debug)]
pub struct Played {
    /// What it is called.
    pub name: String,
    /// Its pins.
    pub pins: Vec<PlayedPin>,
    /// How long it takes.
    pub length: Time,
}

impl PlayedOptions {
    /// What is played, where that is asked for.
    ///
    /// # Errors
    /// A board file that cannot be read or is wrong; names that are not there; what cannot be planned.
    pub fn read(&self, spec: &SpecOptions, catalogue: &PartLibrary) -> Result<Option<Played>> {
        let Some(board) = spec.board(catalogue)? else { return Ok(None) };
        let part = catalogue.whole_part(&board.part)?;
        if let Some(name) = &self.sequence {
            return of_sequence(&board, part, name).map(Some);
        }
        let (Some(ends), Some(name)) = (self.moves, spec.signal_name()) else { return Ok(None) };
        of_move(&board, part, name, ends).map(Some)
    }
}

fn of_sequence(board: &Board, part: &Part, name: &str) -> Result<Played> {
    let sequence = board.sequence(name)?;
    let members = board::sequence_members(board, part, sequence)?;
    let plan = SequencePlan::of(&members, sequence)?;
    let pins = simulation::lines_of_sequence(&members, &plan)?;
    Ok(Played { name: name.to_owned(), pins, length: plan.length })
}

fn of_move(board: &Board, part: &Part, name: &str, ends: Range<Angle>) -> Result<Played> {
    let Some(axis) = board.axis(name) else {
        let name = &board.signal(name)?.name;
        return Err(Fault::Usage {
            message: format!("--move: {name} is no stepper"),
            hint: "name a signal whose load is a stepper, or play a --sequence".to_owned(),
        });
    };
    let course = Course::Between { from: ends.low, to: ends.high };
    let made = StepperMove::of(&board.move_request(axis, part, course)?).map_err(|error| Fault::Usage {
        message: format!("--move: {error}"),
        hint: error.hint().unwrap_or_else(|| "for example --move 0deg..85deg".to_owned()),
    })?;
    let pins = simulation::lines_of_move(name, &made)?;
    Ok(Played { name: name.to_owned(), pins, length: made.time })
}

fn ends(text: &str) -> Result<Range<Angle>, Refusal> {
    Ok(parse::range(text)?)
}
