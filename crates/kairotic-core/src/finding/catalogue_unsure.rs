//! The result depends on a fact that the catalogue marks as unsure.

use std::fmt;

use serde::Serialize;

use super::{Described, Remedy, Severity};

/// The result depends on a fact that the catalogue marks as unsure.
#[derive(Debug, Clone, PartialEq, Serialize)]
pub struct CatalogueUnsure {
    /// What is unsure.
    pub fact: String,
    /// The document to check it in; `None` where the catalogue says nothing at all.
    pub document: Option<String>,
}

impl Described for CatalogueUnsure {
    const NAME: &'static str = "catalogue-unsure";
    const ABOUT: &'static str = "The result depends on a fact that the catalogue marks as \
        unsure. *Remedy*: check it in the document named, or on the pin, and correct the family file.";

    fn severity(&self) -> Severity {
        Severity::Note
    }

    fn remedies(&self) -> Vec<Remedy> {
        vec![match &self.document {
            Some(document) => Remedy::CheckDocument(document.clone()),
            None => Remedy::StateInputs,
        }]
    }
}

impl fmt::Display for CatalogueUnsure {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(
            f,
            "{}{}",
            if self.document.is_some() { "the catalogue is unsure here: " } else { "" },
            self.fact
        )
    }
}
