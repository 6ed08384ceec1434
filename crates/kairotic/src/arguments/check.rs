//! The arguments of `check`.

use std::path::PathBuf;

use clap::Args;

/// The arguments of `check`.
///
/// Everything at once: the file itself, a place for every signal that leaves all others theirs, each signal's setting,
/// findings and requirements in the worst case, the clock tree, and what the program from reset does not know. With code
/// that was made from the board, whether it is still what would be made: a plan that changed is told from a change by hand.
/// Findings name the line of the board file.
#[derive(Debug, Args)]
#[command(after_help = EXAMPLES)]
pub struct CheckArgs {
    /// The board files
    #[arg(value_name = "BOARD", required = true)]
    pub boards: Vec<PathBuf>,
    /// A folder with code that `emit` made from them
    #[arg(long, value_name = "FOLDER")]
    pub against: Option<PathBuf>,
    /// Print nothing when all is well
    #[arg(short, long)]
    pub quiet: bool,
}

const EXAMPLES: &str = "\
Examples:
  kairotic check dome.toml
      a line for each signal, and what is wrong with the board
  kairotic check boards/*.toml --against firmware/generated --quiet
      for a commit hook: silent when all is met and the code is what would be made
  kairotic check dome.toml --format sarif
      for what shows findings beside the lines of a change; --format junit for what shows tests";
