//! What `parts check` shows of a family file: what of it a machine can decide, and what only a reader can.

use std::collections::{BTreeMap, BTreeSet};
use std::path::PathBuf;

use kairotic_core::part::{ClaimKind, Claimed, Part};
use serde::Serialize;

use super::parts::TrustCounts;
use super::words::counted;
use crate::fault::Result;
use crate::format::{Cell, Line, Page, Report, Table, envelope};

/// A family file that was read and found sound.
#[derive(Debug)]
pub struct CheckedFamily {
    /// The file.
    pub file: PathBuf,
    /// What it says.
    pub part: Part,
}

impl CheckedFamily {
    /// How many claims there are of each kind; what several timers have in common counts once.
    fn kinds(&self) -> Vec<(ClaimKind, usize)> {
        let claims = self.part.claims();
        let subjects = |kind| {
            let of_kind = claims.iter().filter(move |claim| claim.what.kind() == kind);
            of_kind.map(|claim| claim.subject.as_str()).collect::<BTreeSet<_>>()
        };
        let count = |kind| subjects(kind).len();
        ClaimKind::ALL.into_iter().map(|kind| (kind, count(kind))).collect()
    }

    /// The registers whose place the file does not tell, so that of them neither that nor a value after reset is claimed.
    fn without_place(&self) -> BTreeSet<String> {
        let of_registers = |what: &Claimed| !matches!(what, Claimed::Pin { .. } | Claimed::Gate { .. });
        let claims = self.part.claims().into_iter();
        let unplaced = claims.filter(|claim| claim.address.is_none() && of_registers(&claim.what));
        unplaced.map(|claim| claim.register).collect()
    }
}

impl Report for CheckedFamily {
    fn page(&self) -> Result<Page> {
        let part = &self.part;
        let mut page = Page::headed([self.file.display().to_string(), part.name.clone(), part.title.clone()]);
        let timers = counted(part.timers.len() as u64, "timer");
        let variants = match part.variants.len() as u64 {
            0 => String::new(),
            some => format!(", {}", counted(some, "variant")),
        };
        let sound = format!("sound: {timers}{variants}; laws and behaviour agree");
        page.push("file", &[], vec![Line::Prose(sound)]);
        let row = |(kind, count): (ClaimKind, usize)| {
            Line::Row(vec![Cell::left(kind.words()), Cell::right(count.to_string())])
        };
        page.push(
            "decided",
            &["a register package could decide", "claims"],
            self.kinds().into_iter().map(row).collect(),
        );
        let without = self.without_place();
        if !without.is_empty() {
            let names = without.into_iter().collect::<Vec<_>>().join(", ");
            page.push("no place", &[], vec![Line::Prose(names)]);
        }
        let TrustCounts { verified, from_memory, unsure } = TrustCounts::of(part);
        let facts = format!(
            "{verified} verified, {from_memory} from memory, {unsure} unsure: what only a reader or a simulator decides"
        );
        page.push("facts", &[], vec![Line::Prose(facts)]);
        Ok(page)
    }

    fn table(&self) -> Result<Table> {
        let rows =
            self.kinds().into_iter().map(|(kind, count)| vec![kind.words().to_owned(), count.to_string()]);
        Ok(Table::new(&["claims", "count"], rows))
    }

    fn json(&self) -> Result<String> {
        #[derive(Serialize)]
        struct Checked<'r> {
            part: &'r str,
            title: &'r str,
            claims: BTreeMap<&'static str, usize>,
            without_place: BTreeSet<String>,
            facts: TrustCounts,
        }
        let checked = Checked {
            part: &self.part.name,
            title: &self.part.title,
            claims: self.kinds().into_iter().map(|(kind, count)| (kind.words(), count)).collect(),
            without_place: self.without_place(),
            facts: TrustCounts::of(&self.part),
        };
        envelope("parts", checked, &[])
    }
}
