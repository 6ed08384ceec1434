//! What `why` shows: what something means, an example, and what to do.

use kairotic_core::finding::Finding;
use serde::Serialize;

use crate::fault::Result;
use crate::format::{Cell, Line, Page, Report, Table, envelope};
use crate::glossary::GlossaryEntry;
use crate::hints;

/// What was asked about, explained.
#[derive(Debug, Serialize)]
pub struct WhyReport {
    /// What was asked about; none for everything.
    pub asked: Option<String>,
    /// What is meant by it: a name may mean several things.
    pub explained: Vec<Explained>,
}

/// One thing that a name means.
#[derive(Debug, Serialize)]
pub struct Explained {
    /// The name.
    pub name: String,
    kind: &'static str,
    means: String,
    example: String,
    advice: String,
}

impl Explained {
    /// A word of the glossary.
    pub fn of_word(entry: &GlossaryEntry) -> Self {
        Self {
            name: entry.word.to_owned(),
            kind: entry.kind.words(),
            means: entry.means.to_owned(),
            example: entry.example.to_owned(),
            advice: entry.advice.to_owned(),
        }
    }

    /// A finding, by what its reference page says of it and an example.
    pub fn of_finding(name: &str, about: &str, example: Option<&Finding>) -> Self {
        let (means, advice) = about.split_once("*Remedy*:").unwrap_or((about, ""));
        let example = example.map(|example| {
            let (said, remedy) = (example.to_string(), hints::of_finding(example));
            if remedy.is_empty() { said } else { format!("{said} → {remedy}") }
        });
        Self {
            name: name.to_owned(),
            kind: "a finding",
            means: means.trim().to_owned(),
            example: example.unwrap_or_default(),
            advice: capital(advice.trim()),
        }
    }

    /// The first sentence of what it means.
    fn brief(&self) -> &str {
        let first = self.means.split_once(". ").map_or(self.means.as_str(), |(first, _)| first);
        first.trim_end_matches('.')
    }
}

/// A sentence that begins as one.
fn capital(text: &str) -> String {
    let mut letters = text.chars();
    letters.next().map_or_else(String::new, |first| format!("{}{}", first.to_uppercase(), letters.as_str()))
}

impl Report for WhyReport {
    fn page(&self) -> Result<Page> {
        let Some(asked) = &self.asked else { return Ok(self.all()) };
        let mut page = Page::headed([asked.clone()]);
        for one in &self.explained {
            page.push("is", &[], vec![Line::Prose(one.kind.to_owned())]);
            page.push("means", &[], vec![Line::Prose(one.means.clone())]);
            page.push("example", &[], vec![Line::Prose(one.example.clone())]);
            let advice = (!one.advice.is_empty()).then(|| Line::Prose(one.advice.clone()));
            page.push("do", &[], advice.into_iter().collect());
        }
        Ok(page)
    }

    fn table(&self) -> Result<Table> {
        let rows = self.explained.iter().map(|one| {
            vec![
                one.name.clone(),
                one.kind.to_owned(),
                one.means.clone(),
                one.example.clone(),
                one.advice.clone(),
            ]
        });
        Ok(Table::new(&["name", "kind", "means", "example", "advice"], rows))
    }

    fn json(&self) -> Result<String> {
        envelope("why", self, &[])
    }
}

impl WhyReport {
    /// Everything, a line each.
    fn all(&self) -> Page {
        let mut page = Page::headed(["everything that can be asked about".to_owned()]);
        let blocks = [
            ("words", "a word of the trade"),
            ("needs", "a requirement of a signal"),
            ("blocks", "a block of a page"),
            ("findings", "a finding"),
        ];
        for (word, kind) in blocks {
            let here = self.explained.iter().filter(|one| one.kind == kind);
            let row = |one: &Explained| Line::row([Cell::left(one.name.clone()), Cell::left(one.brief())]);
            page.push(word, &["name", "what it is"], here.map(row).collect());
        }
        page
    }
}
