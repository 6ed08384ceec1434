//! Signals of a board that cannot all be placed.

use std::fmt;

/// A smallest set of signals that cannot stand together: without any one of them the others can.
#[derive(Debug, Clone, PartialEq, Eq, serde::Serialize)]
pub struct PlacementConflict {
    /// The signals, in the order of the board.
    pub signals: Vec<ConflictingSignal>,
}

/// One signal of a [`PlacementConflict`].
#[derive(Debug, Clone, PartialEq, Eq, serde::Serialize)]
pub struct ConflictingSignal {
    /// Its name.
    pub name: String,
    /// Where it could come out alone.
    pub choices: Vec<String>,
    /// Where it would come out, and all others too, if the board file left its place open.
    pub instead: Option<String>,
}

impl PlacementConflict {
    /// What would free the signals, one way a line.
    pub(super) fn hint(&self) -> String {
        let free = |signal: &ConflictingSignal| {
            signal
                .instead
                .as_ref()
                .map(|instead| format!("leave the place of `{}` open: it would be {instead}", signal.name))
        };
        let ways: Vec<String> = self.signals.iter().filter_map(free).collect();
        if ways.is_empty() {
            return "leave one of them out, give them one frequency, or take a part with more timers"
                .to_owned();
        }
        ways.join("\n")
    }
}

impl fmt::Display for PlacementConflict {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        const FEW: usize = 3;
        let told = |signal: &ConflictingSignal| {
            let mut choices: Vec<String> = signal.choices.iter().take(FEW).cloned().collect();
            let more = signal.choices.len().saturating_sub(FEW);
            if more > 0 {
                choices.push(format!("{more} more"));
            }
            format!("`{}` ({})", signal.name, choices.join(", "))
        };
        let signals: Vec<String> = self.signals.iter().map(told).collect();
        write!(f, "there is no place for all of {}", signals.join(", "))
    }
}
