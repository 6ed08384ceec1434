//! What input may cost: each limit in one place, with the word that its refusals use. docs/limits.md lists them.
//!
//! ```
//! use kairotic_core::limits::SIGNALS;
//!
//! let refusal = SIGNALS.refusal("the capture has", 70_000);
//! assert_eq!(refusal, "the capture has 70000 signals, and at most 65536 are taken");
//! ```

/// The most that is read of something, written, or computed.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Limit {
    /// The most.
    pub most: u64,
    /// Of what: a plural.
    pub of: &'static str,
}

impl Limit {
    /// Whether a number is above it.
    pub const fn is_below(&self, number: u64) -> bool {
        number > self.most
    }

    /// What a refusal says: what came, and the most that may come.
    pub fn refusal(&self, what: &str, number: u64) -> String {
        format!("{what} {number} {of}, and at most {most} are taken", of = self.of, most = self.most)
    }
}

/// A text that a person writes: a board, family or block file, or observations.
pub const TEXT_FILE: Limit = Limit { most: 1 << 20, of: "bytes" };
/// The header of a dump, a line of a table, a word of a dump.
pub const LINE: Limit = Limit { most: 16 << 20, of: "bytes" };
/// Signals that a capture declares.
pub const SIGNALS: Limit = Limit { most: 65_536, of: "signals" };
/// Signals that are measured at a time.
pub const MEASURED: Limit = Limit { most: 1_024, of: "signals" };
/// The name of a signal, with the scopes that it stands in.
pub const NAME: Limit = Limit { most: 1_000, of: "bytes" };
/// The name that a board file gives to a signal or a load.
pub const GIVEN_NAME: Limit = Limit { most: 100, of: "bytes" };
/// Edges of a wave.
pub const WAVE_EDGES: Limit = Limit { most: 1_000_000_000, of: "edges" };
/// Periods in the picture of a wave.
pub const DRAWN_PERIODS: Limit = Limit { most: 100_000, of: "periods" };
/// Steps of a stepper's move, each of which is looked at.
pub const MOVE_STEPS: Limit = Limit { most: 100_000_000, of: "steps" };
/// Ways of a sequence, made again or not.
pub const SEQUENCE_STEPS: Limit = Limit { most: 10_000, of: "steps" };
/// Compare values of a signal in a sequence, one after the other.
pub const SEQUENCE_LEVELS: Limit = Limit { most: 1_000_000, of: "levels" };
/// Pulses of one pin that are looked for in a capture.
pub const FOLLOWED: Limit = Limit { most: 10_000_000, of: "pulses" };
/// Rows of a table of inputs and compare values, or of steps.
pub const ROWS: Limit = Limit { most: 100_000, of: "rows" };
/// Settings that `--all` shows.
pub const SETTINGS: Limit = Limit { most: 10_000, of: "settings" };
/// Complaints about one file that are told in full.
pub const COMPLAINTS: Limit = Limit { most: 20, of: "complaints" };

/// Every limit with its name.
pub const ALL: [(&str, Limit); 15] = [
    ("text file", TEXT_FILE),
    ("line", LINE),
    ("signals", SIGNALS),
    ("measured signals", MEASURED),
    ("name", NAME),
    ("given name", GIVEN_NAME),
    ("wave edges", WAVE_EDGES),
    ("drawn periods", DRAWN_PERIODS),
    ("move steps", MOVE_STEPS),
    ("sequence steps", SEQUENCE_STEPS),
    ("sequence levels", SEQUENCE_LEVELS),
    ("followed pulses", FOLLOWED),
    ("rows", ROWS),
    ("settings", SETTINGS),
    ("complaints", COMPLAINTS),
];

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_most_is_taken_and_one_more_is_not() {
        let limit = Limit { most: 3, of: "edges" };
        assert!(!limit.is_below(3) && limit.is_below(4) && !limit.is_below(0));
        assert_eq!(limit.refusal("it has", 4), "it has 4 edges, and at most 3 are taken");
    }
}
