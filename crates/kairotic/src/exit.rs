//! How the process ends.

use std::process::ExitCode;

/// How a run ended.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Exit {
    /// All is well.
    Fine,
    /// A finding of severity error, or nothing within the asked tolerance.
    Missed,
    /// Bad input, bad usage, or a target that cannot be reached.
    Refused,
    /// A file or device could not be read or written.
    Device,
}

impl From<Exit> for ExitCode {
    fn from(exit: Exit) -> Self {
        Self::from(match exit {
            Exit::Fine => 0,
            Exit::Missed => 1,
            Exit::Refused => 2,
            Exit::Device => 3,
        })
    }
}
