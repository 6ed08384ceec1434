//! A counter comes round before the next pulse, or within a window.

use super::{Finding, Severity};
use crate::quantity::{Speed, Time};

/// The finding's name.
pub const NAME: &str = "counter-overflows";

/// Between two pulses of `slowest` a counter of `bits` comes round at its longest tick; `reach` is the slowest that it can
/// tell, and `wider` another timer that may do.
pub fn between_pulses(slowest: Speed, reach: Speed, bits: u32, wider: Option<String>) -> Finding {
    let wider = wider.map(|wider| format!(", or take {wider}")).unwrap_or_default();
    Finding {
        name: NAME,
        severity: Severity::Error,
        message: format!(
            "between two pulses at {} the counter's {bits} bits come round, even at its longest tick: the slowest speed \
             that it can tell is {}",
            slowest.rounded(4),
            reach.rounded(4)
        ),
        remedy: format!("count how often it comes round, in its overflow interrupt{wider}"),
    }
}

/// In a window of `length` there are up to `counts` pulses, more than `bits` hold.
pub fn in_a_window(length: Time, counts: u64, bits: u32) -> Finding {
    Finding {
        name: NAME,
        severity: Severity::Warning,
        message: format!(
            "a window of {} can see {counts} pulses: more than {bits} bits hold",
            length.rounded(4)
        ),
        remedy: "a shorter --window, or read the counter more often and add the differences".to_owned(),
    }
}
