//! `why`: a finding, a requirement, a word or a block of a page, explained.

use kairotic_core::Error;
use kairotic_core::finding;

use crate::arguments::why::WhyArgs;
use crate::fault::Result;
use crate::format::Report;
use crate::glossary::GLOSSARY;
use crate::report::why::{Explained, WhyReport};

pub(super) fn run(arguments: &WhyArgs) -> Result<Box<dyn Report>> {
    let examples = finding::examples()?;
    let findings = finding::ALL.iter().map(|(name, about)| {
        Explained::of_finding(name, about, examples.iter().find(|example| example.name() == *name))
    });
    let all: Vec<Explained> = GLOSSARY.iter().map(Explained::of_word).chain(findings).collect();
    let Some(asked) = &arguments.name else {
        return Ok(Box::new(WhyReport { asked: None, explained: all }));
    };
    // As people write them: a word of two may have a blank.
    let name = asked.trim().to_lowercase().replace([' ', '_'], "-");
    let (found, others): (Vec<Explained>, Vec<Explained>) = all.into_iter().partition(|one| one.name == name);
    if found.is_empty() {
        let mut known: Vec<&str> = others.iter().map(|one| one.name.as_str()).collect();
        known.sort_unstable();
        known.dedup();
        let known = known.into_iter();
        return Err(Error::unknown("explanation of", &name, "kairotic", known).into());
    }
    Ok(Box::new(WhyReport { asked: Some(name), explained: found }))
}
