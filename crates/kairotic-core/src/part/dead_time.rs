//! Dead time: how a timer with complementary outputs keeps both off between one and the other.

use std::collections::BTreeMap;

use serde::{Deserialize, Serialize};

use super::divider::Tap;
use super::fact::Fact;
use super::field_is::FieldIs;

/// The dead time generator of a timer.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct DeadTime {
    /// The places that hold the code, each with its fields, most significant first. All get the same.
    pub slots: Vec<Vec<String>>,
    /// What the codes mean, in ascending order.
    pub segments: Vec<DeadSegment>,
    /// A divider of its own in front of it.
    #[serde(default)]
    pub divider: Option<DeadDivider>,
    /// What it counts.
    pub counts: DeadUnit,
    /// For each channel that has a complementary output, the fields that switch it on.
    pub outputs: BTreeMap<String, Vec<FieldIs>>,
    /// Where that stands.
    pub facts: Vec<Fact>,
}

/// Codes that stand at equal distances.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct DeadSegment {
    /// The first code.
    pub from: u64,
    /// The last code.
    pub to: u64,
    /// What the first code counts to.
    pub counts: u64,
    /// How much more each further code counts to.
    pub step: u64,
}

/// A divider in front of a dead time generator.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct DeadDivider {
    /// The fields, most significant first.
    pub slot: Vec<String>,
    /// The divisions, smallest first.
    pub taps: Vec<Tap>,
}

/// What a dead time generator counts.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(rename_all = "kebab-case")]
pub enum DeadUnit {
    /// The clock in front of the timer's dividers.
    Clocks,
    /// Counter ticks.
    Ticks,
}

impl DeadTime {
    /// What a code counts to; `None` for one without meaning.
    pub fn counts_of(&self, code: u64) -> Option<u64> {
        let segment = self.segments.iter().find(|segment| (segment.from..=segment.to).contains(&code))?;
        segment.step.checked_mul(code - segment.from)?.checked_add(segment.counts)
    }

    /// The smallest code that counts to at least so many.
    pub fn code_of(&self, counts: u64) -> Option<u64> {
        self.segments.iter().find_map(|segment| {
            let more = counts.saturating_sub(segment.counts);
            let code = segment.from.checked_add(more.div_ceil(segment.step.max(1)))?;
            (code <= segment.to).then_some(code)
        })
    }

    /// The largest that it counts to.
    pub fn most(&self) -> u64 {
        self.segments.last().and_then(|segment| self.counts_of(segment.to)).unwrap_or(0)
    }

    /// The divisions in front of it, each with its code; 1 alone where there is no divider.
    pub fn divisions(&self) -> Vec<Tap> {
        self.divider.as_ref().map_or_else(|| vec![Tap { by: 1, code: 0 }], |divider| divider.taps.clone())
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    /// Four segments, as in many reload timers.
    fn four() -> DeadTime {
        let segment = |from, to, counts, step| DeadSegment { from, to, counts, step };
        DeadTime {
            slots: Vec::new(),
            segments: vec![
                segment(0, 127, 0, 1),
                segment(128, 191, 128, 2),
                segment(192, 223, 256, 8),
                segment(224, 255, 512, 16),
            ],
            divider: None,
            counts: DeadUnit::Clocks,
            outputs: BTreeMap::new(),
            facts: Vec::new(),
        }
    }

    #[test]
    fn a_code_is_the_smallest_that_is_long_enough() {
        let dead = four();
        for counts in 0..=dead.most() {
            // By trying every code.
            let wanted = (0..256).find(|code| dead.counts_of(*code).unwrap() >= counts);
            assert_eq!(dead.code_of(counts), wanted, "{counts}");
        }
        assert_eq!(dead.code_of(1009), None);
        // 216 = (64 + 44) * 2 and 1008 = (32 + 31) * 16, as a reference manual writes them.
        assert_eq!((dead.counts_of(0xAC), dead.most()), (Some(216), 1008));
    }
}
