//! The arguments of `completions` and `manual`.

use clap::Args;
use clap_complete::Shell;

/// Print a completion script for a shell.
#[derive(Debug, Args)]
pub struct CompletionsArgs {
    /// The shell
    pub shell: Shell,
}

/// Print a manual page in roff, for `man -l -`.
#[derive(Debug, Args)]
pub struct ManualArgs {
    /// The command it is about; the program itself where none is given
    pub command: Option<String>,
}
