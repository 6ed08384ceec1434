//! The divider's register is one off.

use std::fmt;

use serde::Serialize;

use super::register_slip::RegisterSlip;
use super::{Described, Remedy, Severity};

/// The divider's register is one off.
#[derive(Debug, Clone, PartialEq, Serialize)]
pub struct DividerOffByOne {
    /// The register, and what it makes.
    #[serde(flatten)]
    pub slip: RegisterSlip,
}

impl Described for DividerOffByOne {
    const NAME: &'static str = "divider-off-by-one";
    const ABOUT: &'static str = "The divider's register holds the division, where one less is \
        written. Reported when one less (perhaps together with one less in the top) gives the expected frequency, or \
        where none is given a frequency or period of at most three significant digits; the correction that gives the \
        roundest number is reported. *Remedy*: write one less.";

    fn severity(&self) -> Severity {
        self.slip.severity()
    }

    fn remedies(&self) -> Vec<Remedy> {
        vec![self.slip.remedy()]
    }
}

impl fmt::Display for DividerOffByOne {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        self.slip.write(f, "divides by", "")
    }
}
