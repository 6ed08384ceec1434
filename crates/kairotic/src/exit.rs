//! How the process ends.

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

impl Exit {
    /// The number that the caller sees.
    pub const fn code(self) -> i32 {
        match self {
            Self::Fine => 0,
            Self::Missed => 1,
            Self::Refused => 2,
            Self::Device => 3,
        }
    }
}
