//! The laws of period and compare, and the behaviours from which the oracle plays them.
//!
//! A mode states both: the law as numbers, for the arithmetic, and the behaviour as the reference manual tells it, for
//! the edge-by-edge oracle. Neither is derived from the other; loading a family file holds them against each other.

use std::fmt;

use serde::{Deserialize, Serialize};

use super::point::ComparePoint;

/// Counter ticks in one period: `N = per_top * TOP + plus`.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct PeriodLaw {
    /// Ticks for each unit of the top.
    pub per_top: u32,
    /// Ticks besides.
    pub plus: u32,
}

impl PeriodLaw {
    /// `N` for a top; `None` when it does not fit.
    pub fn ticks(self, top: u64) -> Option<u64> {
        u64::from(self.per_top).checked_mul(top)?.checked_add(self.plus.into())
    }
}

/// The formula, with `top` for the top: `2*top + 2`.
impl fmt::Display for PeriodLaw {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        let product = term(i64::from(self.per_top), "top");
        f.write_str(&sum([product, constant(i64::from(self.plus))]))
    }
}

/// How the compare value makes the active time.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(rename_all = "kebab-case")]
pub enum CompareLaw {
    /// `H = (gain * C + per_top * TOP + plus) / per_tick` counter ticks.
    Linear(LinearLaw),
    /// The output changes place once a half period: a square wave, whatever the compare value.
    Toggle,
}

/// `H = (gain * C + per_top * TOP + plus) / per_tick` counter ticks, between 0 and `N`.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct LinearLaw {
    /// Active ticks for each unit of the compare value, times `per_tick`; negative where the output goes active late.
    pub gain: i32,
    /// Active ticks for each unit of the top, times `per_tick`.
    #[serde(default)]
    pub per_top: i32,
    /// Active ticks besides, times `per_tick`.
    #[serde(default)]
    pub plus: i32,
    /// How much finer than a counter tick the compare is.
    #[serde(default = "one")]
    pub per_tick: u32,
    /// The compare value of a constant inactive output.
    pub zero: ComparePoint,
    /// The compare value of a constant active output.
    pub full: ComparePoint,
    /// Whether `zero` still fits the compare register when the top is at its largest.
    pub zero_at_largest_top: bool,
    /// Whether `full` still fits the compare register when the top is at its largest.
    pub full_at_largest_top: bool,
    /// The smallest compare value that may be written.
    #[serde(default)]
    pub min: u64,
    /// The largest compare value, where it is less than the register holds.
    #[serde(default)]
    pub max: Option<u64>,
    /// What the output does with a compare value above those that the law covers.
    pub past_top: PastTop,
}

const fn one() -> u32 {
    1
}

impl LinearLaw {
    /// Active time in sub-ticks (`per_tick` of them a counter tick), not limited to the period.
    pub fn sub_ticks(&self, top: u64, compare: u64) -> i128 {
        i128::from(self.gain) * i128::from(compare)
            + i128::from(self.per_top) * i128::from(top)
            + i128::from(self.plus)
    }
}

/// The formula, with `top` and `compare` for the two registers: `2*top - 2*compare`.
impl fmt::Display for LinearLaw {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        let terms =
            [term(self.per_top.into(), "top"), term(self.gain.into(), "compare"), constant(self.plus.into())];
        let text = sum(terms);
        match self.per_tick {
            1 => f.write_str(&text),
            per_tick if text.contains(' ') => write!(f, "({text}) / {per_tick}"),
            per_tick => write!(f, "{text} / {per_tick}"),
        }
    }
}

/// A product as it is written in a formula; nothing for a factor of zero.
pub(crate) fn term(factor: i64, name: &str) -> String {
    match factor {
        0 => String::new(),
        1 => name.to_owned(),
        -1 => format!("-{name}"),
        factor => format!("{factor}*{name}"),
    }
}

/// A number as it is written in a formula; nothing for zero.
pub(crate) fn constant(number: i64) -> String {
    if number == 0 { String::new() } else { number.to_string() }
}

/// The terms that are there, with their signs between them; `0` where there are none.
pub(crate) fn sum<const N: usize>(terms: [String; N]) -> String {
    let mut text = String::new();
    for term in terms.iter().filter(|term| !term.is_empty()) {
        match term.strip_prefix('-') {
            _ if text.is_empty() => text.clone_from(term),
            Some(less) => text = format!("{text} - {less}"),
            None => text = format!("{text} + {term}"),
        }
    }
    if text.is_empty() { "0".to_owned() } else { text }
}

/// The constant output that a compare value beyond the law gives.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(rename_all = "kebab-case")]
pub enum PastTop {
    /// It stays active.
    Active,
    /// It stays inactive.
    Inactive,
}

/// Where the pulse lies in the period.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(rename_all = "kebab-case")]
pub enum Alignment {
    /// One edge is fixed at the period's boundary.
    Edge,
    /// Both edges move about a fixed centre.
    Centre,
    /// A square wave.
    Square,
}

impl Alignment {
    /// The word for it on the command line and in outputs.
    pub const fn word(self) -> &'static str {
        match self {
            Self::Edge => "edge",
            Self::Centre => "centre",
            Self::Square => "square",
        }
    }
}

/// The sequence that the counter runs through.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(rename_all = "kebab-case")]
pub enum Counting {
    /// 0, 1, … TOP.
    Up,
    /// 0, 1, … TOP-1.
    UpToLength,
    /// TOP, … 1, 0.
    Down,
    /// 0, 1, … TOP, TOP-1, … 1.
    UpDown,
    /// 0, 1, … TOP, TOP, … 1, 0.
    UpDownHeld,
}

/// What the reference manual says that the output does. Counting down from TOP belongs to the way down.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(rename_all = "kebab-case")]
pub enum OutputRule {
    /// Active while the counter is below the compare value.
    Below,
    /// On the way up active while the counter is below the compare value, on the way down while it is not above it.
    BelowUpThroughDown,
    /// Set at the bottom, cleared one tick after the counter matched; when both fall together, set wins.
    SetBottomClearAfterMatch,
    /// Set at the bottom, cleared when the counter matches; when both fall together, clear wins.
    SetBottomClearMatch,
    /// Cleared when the counter matches on the way up, set when it matches on the way down.
    ClearUpSetDown,
    /// Toggled each time the counter completes its sequence.
    ToggleWrap,
}

/// When a written value takes effect.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(rename_all = "kebab-case")]
pub enum UpdatePoint {
    /// At once.
    Immediate,
    /// When the counter starts its sequence anew.
    Bottom,
    /// When the counter reaches its top.
    Top,
    /// At the bottom and at the top.
    Both,
}

impl UpdatePoint {
    /// The words that outputs use.
    pub const fn words(self) -> &'static str {
        match self {
            Self::Immediate => "at once",
            Self::Bottom => "at the period's end",
            Self::Top => "at the top",
            Self::Both => "at the bottom and at the top",
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_law_is_told_as_its_formula() {
        let told = |gain, per_top, plus, per_tick| {
            let zero = ComparePoint::Never;
            LinearLaw {
                gain,
                per_top,
                plus,
                per_tick,
                zero,
                full: zero,
                zero_at_largest_top: false,
                full_at_largest_top: false,
                min: 0,
                max: None,
                past_top: PastTop::Active,
            }
            .to_string()
        };
        assert_eq!([told(1, 0, 0, 1), told(1, 0, 1, 1)], ["compare", "compare + 1"]);
        assert_eq!([told(-2, 2, 0, 1), told(-1, 1, -1, 1)], ["2*top - 2*compare", "top - compare - 1"]);
        assert_eq!([told(1, 0, 0, 16), told(-1, 1, 1, 4)], ["compare / 16", "(top - compare + 1) / 4"]);
        assert_eq!([told(0, 0, 0, 1), told(0, -1, 0, 1)], ["0", "-top"]);
    }
}
