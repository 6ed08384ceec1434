//! The arguments of `why`.

use clap::Args;

/// The arguments of `why`.
///
/// What a finding, a requirement, a word or a block of a page means, an example with numbers, and what to do.
#[derive(Debug, Args)]
#[command(after_help = EXAMPLES)]
pub struct WhyArgs {
    /// What is asked about; everything where none is given
    #[arg(value_name = "NAME")]
    pub name: Option<String>,
}

const EXAMPLES: &str = "\
Examples:
  kairotic why few-steps-in-span
      a finding
  kairotic why span
      a word of the trade; of a word that is a requirement as well, both
  kairotic why
      all of them";
