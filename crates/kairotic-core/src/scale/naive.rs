//! What the usual shortcuts cost.

use serde::Serialize;

use super::search::{MapRequest, ScaledMap};
use super::{Map, Word};
use crate::finding::{Finding, InputWiderThanCompare, MapOverflow, RoundedStepDrifts};

/// A shortcut.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
#[serde(rename_all = "snake_case")]
pub enum NaiveWay {
    /// The compare values of one input, rounded first and then multiplied.
    RoundedStep,
    /// The division done before the multiplication, cut off.
    EarlyDivision,
    /// A shift in place of the slope: the nearest power of two.
    BareShift,
    /// Multiplied first, in a word that does not hold the product.
    Overflow,
}

/// What a shortcut does.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
pub struct Naive {
    /// Which.
    pub way: NaiveWay,
    /// The arithmetic, as one would write it; `x` is the input less the lowest.
    pub text: String,
    /// How far it is off at the highest input, in compare steps; of an overflow nothing can be said.
    pub drift: Option<i128>,
    /// The first inputs at which an unsigned and a signed word overflow.
    pub overflows: Option<(Option<i64>, Option<i64>)>,
}

/// What a map shows to be worth knowing.
pub fn findings(scaled: &ScaledMap) -> Vec<Finding> {
    let MapRequest { map, word, .. } = scaled.request;
    let mut found = Vec::new();
    let [first, last] = map.ends();
    let rise = last.abs_diff(first);
    if map.run() > rise {
        found.push(InputWiderThanCompare { inputs: map.run() + 1, steps: rise + 1 }.into());
    }
    for way in naive(scaled) {
        match (way.way, way.drift, way.overflows) {
            (NaiveWay::Overflow, _, Some((unsigned, signed))) => {
                found.push(MapOverflow { arithmetic: way.text, bits: word.bits(), unsigned, signed }.into());
            }
            (NaiveWay::RoundedStep, Some(drift), _) => {
                found.push(RoundedStepDrifts { arithmetic: way.text, drift }.into());
            }
            _ => {}
        }
    }
    found
}

/// The shortcuts that differ from the exact line; there are none to a curve.
pub fn naive(scaled: &ScaledMap) -> Vec<Naive> {
    if scaled.curve.is_some() { Vec::new() } else { shortcuts(&scaled.request.map, scaled.request.word) }
}

pub(super) fn shortcuts(map: &Map, word: Word) -> Vec<Naive> {
    // Who takes a shortcut begins with whole compare values.
    let [first, last] = map.ends();
    let (run, rise) = (i128::from(map.run()), i128::from(last.abs_diff(first)));
    if run == 0 || rise == 0 {
        return Vec::new();
    }
    let drift = |slope: i128| slope * run - rise;
    let plain = |way, text: String, drift: i128| Naive { way, text, drift: Some(drift), overflows: None };
    let mut found = Vec::new();
    let rounded = (2 * rise + run) / (2 * run);
    // Nobody multiplies by zero.
    if rounded > 0 && drift(rounded) != 0 {
        let text = if rounded == 1 { "x".to_owned() } else { format!("x * {rounded}") };
        found.push(plain(NaiveWay::RoundedStep, text, drift(rounded)));
    }
    let cut = rise / run;
    if drift(cut) != 0 && cut != rounded {
        found.push(plain(NaiveWay::EarlyDivision, format!("x * ({rise} / {run})"), drift(cut)));
    }
    // The power of two nearest to the slope; none at all is the rounded step.
    let shifted = |shift: u32| if rise >= run { run << shift } else { run >> shift };
    let shift = (0..63).min_by_key(|shift| (shifted(*shift) - rise).abs()).unwrap_or(0);
    let made = shifted(shift);
    if shift > 0 && made != rise && made != rounded * run {
        let sign = if rise >= run { "<<" } else { ">>" };
        found.push(plain(NaiveWay::BareShift, format!("x {sign} {shift}"), made - rise));
    }
    let first = |largest: u128| {
        let x = i128::try_from(largest).unwrap_or(i128::MAX) / rise + 1;
        (x <= run).then(|| i64::try_from(i128::from(map.from) + x).unwrap_or(i64::MAX))
    };
    let overflows = (first(word.largest()), first(word.largest_signed()));
    if overflows != (None, None) {
        let text = format!("x * {rise} / {run}");
        found.push(Naive { way: NaiveWay::Overflow, text, drift: None, overflows: Some(overflows) });
    }
    found
}
