//! The top register is one off.

use std::fmt;

use serde::Serialize;

use super::register_slip::RegisterSlip;
use super::{Described, Remedy, Severity};

/// The top register is one off.
#[derive(Debug, Clone, PartialEq, Serialize)]
pub struct TopOffByOne {
    /// The register, and what it makes.
    #[serde(flatten)]
    pub slip: RegisterSlip,
}

impl Described for TopOffByOne {
    const NAME: &'static str = "top-off-by-one";
    const ABOUT: &'static str = "The top register holds the number of ticks, where one less \
        is written. Reported as `divider-off-by-one` is. *Remedy*: write one less. Both are reported as well where a \
        pin has the frequency that one count more, or one less, than planned would make.";

    fn severity(&self) -> Severity {
        self.slip.severity()
    }

    fn remedies(&self) -> Vec<Remedy> {
        vec![self.slip.remedy()]
    }
}

impl fmt::Display for TopOffByOne {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        self.slip.write(f, "makes", " ticks a period")
    }
}
