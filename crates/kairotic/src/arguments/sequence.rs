//! The arguments of `sequence`.

use clap::Args;
use kairotic_core::board;
use kairotic_core::search::DerivedSignal;
use kairotic_core::sequence::{self, Member, Sequence, Setpoint};

use super::files::FileOptions;
use super::scale::Code;
use super::signal_spec::SpecOptions;
use super::typed::{identifier, whole};
use crate::fault::{Fault, Result};
use crate::part_library::PartLibrary;

/// The arguments of `sequence`.
///
/// A sequence moves signals from level to level on one line of time. Every level comes from the exact ends of its way and is
/// written as the nearest compare value; each stays for whole periods of its signal, and begins in the period that is nearest
/// to its time from the beginning, so that nothing drifts. What a load needs is put in: the pulse that arms a controller, a
/// kick that makes a motor break away, its rest before it turns round.
#[derive(Debug, Args)]
#[command(override_usage = "kairotic sequence NAME --board FILE [OPTIONS]\n       \
                      kairotic sequence --board FILE --signal NAME --steps TEXT [OPTIONS]\n       \
                      kairotic sequence --on PART/TIMER[/CHANNEL] --freq FREQUENCY --steps TEXT [OPTIONS]")]
#[command(after_help = EXAMPLES)]
#[command(mut_arg("signal", |signal| signal.help("The signal of the board that --steps moves").requires("steps")))]
#[command(mut_arg("save", |save| save.help("Write every compare value to a .csv file")))]
#[command(mut_arg("plot", |plot| plot.help("Draw the levels over time, as they are wanted and as they are made, to an SVG or PNG file")))]
pub struct SequenceArgs {
    /// A sequence of the board file; its only one where none is named
    #[arg(value_name = "NAME", requires = "board", conflicts_with_all = ["steps", "signal"])]
    sequence: Option<String>,
    /// Steps of one signal, with commas between: `[from LEVEL] to LEVEL [over TIME] [in NUMBER levels] [smooth] [and back]
    /// [hold TIME] [NUMBER times]`, `arm`, `calibrate`, `hold TIME`
    #[arg(long, value_name = "TEXT", help_heading = "Steps")]
    steps: Option<String>,
    /// How often all steps are made
    #[arg(long, value_name = "NUMBER", help_heading = "Steps", value_parser = whole::<u32, 1, 10_000>)]
    repeat: Option<u32>,
    #[command(flatten)]
    spec: SpecOptions,
    /// Print the sequence as code: for each signal a function that gives the compare value of the next period
    #[arg(long, value_name = "LANGUAGE", value_enum, help_heading = "Output")]
    pub code: Option<Code>,
    /// The name of the sequence in code; its own where none is given
    #[arg(long, value_name = "NAME", value_parser = identifier, help_heading = "Output", requires = "code")]
    name: Option<String>,
    #[command(flatten)]
    pub files: FileOptions,
}

const EXAMPLES: &str = "\
Examples:
  kairotic sequence opens --board dome.toml
      a sequence of a board file: several signals on one line of time
  kairotic sequence --board dome.toml --signal vent --steps \"30% for 10s, to 100% over 20s, hold 5s\" --repeat 2
      one signal in words
  kairotic sequence --board dome.toml --signal shutter --steps \"from 0deg to 120deg over 4.8s and back\" --plot sweep.svg
      a sweep there and back, with a picture
  kairotic sequence --on atmega328p/timer1/a --clock 16MHz --freq 50Hz --steps \"from 1100us to 1900us over 6s in 12 levels\" --code c
      twelve levels as code for a part without a board file";

/// The name of what is given in words.
const UNNAMED: &str = "sequence";

impl SequenceArgs {
    /// The sequence, and what it moves.
    ///
    /// # Errors
    /// A board file that cannot be read or is wrong; names that are not there; steps that make no sense; what the clock
    /// tree refuses.
    pub fn read<'c>(&self, catalogue: &'c PartLibrary) -> Result<(Sequence, Vec<Member<'c>>)> {
        match &self.steps {
            Some(text) => self.in_words(text, catalogue),
            None => self.of_board(catalogue),
        }
    }

    fn in_words<'c>(&self, text: &str, catalogue: &'c PartLibrary) -> Result<(Sequence, Vec<Member<'c>>)> {
        if let Some(name) = self.spec.signal_name()
            && let Some(board) = self.spec.board(catalogue)?
            && board.axis(name).is_some()
        {
            return Err(Fault::Usage {
                message: format!(
                    "--signal: {name} is a stepper, and --steps moves signals that hold a level"
                ),
                hint: "`move` moves it, and so does a `[[sequence]]` of the board file".to_owned(),
            });
        }
        let spec = self.spec.one(catalogue)?.spec;
        let load = spec.load.as_ref().map(|load| &load.kind);
        let steps = sequence::steps(&spec.name, text, &|text| Setpoint::read(load, text))?;
        let name = self.spec.signal_name().unwrap_or(UNNAMED).to_owned();
        let sequence = Sequence { name, steps, repeat: self.repeat.unwrap_or(1) };
        Ok((sequence, vec![Member::Signal(Box::new(DerivedSignal::of(spec)?))]))
    }

    fn of_board<'c>(&self, catalogue: &'c PartLibrary) -> Result<(Sequence, Vec<Member<'c>>)> {
        let Some(board) = self.spec.board(catalogue)? else {
            return Err(Fault::Usage {
                message: "missing --steps: nothing says what is to be done".to_owned(),
                hint: "give --steps, or --board with a file that has a `[[sequence]]`".to_owned(),
            });
        };
        let found = match (&self.sequence, board.sequences.as_slice()) {
            (Some(name), _) => board.sequence(name)?,
            (None, [only]) => only,
            (None, all) => {
                let names: Vec<&str> = all.iter().map(|sequence| sequence.name.as_str()).collect();
                let (message, hint) = match names.is_empty() {
                    true => {
                        ("the board has no `[[sequence]]`".to_owned(), "give --signal and --steps".to_owned())
                    }
                    false => {
                        let message = format!("the board has {} sequences", names.len());
                        (message, format!("name one of {}", names.join(", ")))
                    }
                };
                return Err(Fault::Usage { message, hint });
            }
        };
        let sequence = Sequence { repeat: self.repeat.unwrap_or(found.repeat), ..found.clone() };
        let part = catalogue.whole_part(&board.part)?;
        let members = board::sequence_members(&board, part, &sequence)?;
        Ok((sequence, members))
    }

    /// What the sequence is called in code.
    pub fn code_name(&self, sequence: &str) -> String {
        self.name.clone().unwrap_or_else(|| sequence.replace('-', "_").to_lowercase())
    }
}
