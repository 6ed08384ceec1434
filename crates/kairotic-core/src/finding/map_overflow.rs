//! The usual product leaves the machine's word.

use std::fmt;

use serde::Serialize;

use super::{Described, Remedy, Severity};

/// The usual product leaves the machine's word.
#[derive(Debug, Clone, PartialEq, Serialize)]
pub struct MapOverflow {
    /// The product, as one would write it.
    pub arithmetic: String,
    /// The bits of a word.
    pub bits: u32,
    /// The first input at which an unsigned word overflows.
    pub unsigned: Option<i64>,
    /// The first input at which a signed word does.
    pub signed: Option<i64>,
}

impl Described for MapOverflow {
    const NAME: &'static str = "map-overflow";
    const ABOUT: &'static str = "The usual product of input and span leaves the machine's \
        word, from the inputs named on. A note: the arithmetic that was found does not. *Remedy*: that \
        arithmetic.";

    fn severity(&self) -> Severity {
        Severity::Note
    }

    fn remedies(&self) -> Vec<Remedy> {
        vec![Remedy::UseTheMap]
    }
}

impl fmt::Display for MapOverflow {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(f, "{} overflows words of {} bits ", self.arithmetic, self.bits)?;
        let from = |sign: &str, from: Option<i64>| from.map(|from| format!("from {from} on as {sign}"));
        let from: Vec<String> =
            [from("unsigned", self.unsigned), from("signed", self.signed)].into_iter().flatten().collect();
        f.write_str(&from.join(", "))
    }
}
