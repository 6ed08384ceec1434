//! What `parts` shows of the catalogue as a whole and of one part.

use std::collections::BTreeMap;

use kairotic_core::part::{Fact, MappedRegister, OrderCode, Part, Timer, Trust, Variant};
use serde::Serialize;

use super::words::{after_reset, counted};
use crate::fault::Result;
use crate::format::{Cell, Line, Page, Report, Table, decimal, envelope};

pub use super::timer::TimerPage;

/// The catalogue: its parts.
#[derive(Debug)]
pub struct PartList {
    /// Every part.
    pub parts: Vec<Part>,
    /// What is left out, and what is missing for it.
    pub unsupported: &'static [(&'static str, &'static str)],
}

impl Report for PartList {
    fn page(&self) -> Result<Page> {
        let mut page = Page::headed(["the catalogue".to_owned(), format!("{} parts", self.parts.len())]);
        let row = |part: &Part| {
            Line::Row(vec![
                Cell::left(part.name.clone()),
                Cell::right(counted(part.timers.len() as u64, "timer")),
                Cell::right(counted(laws(part) as u64, "law")),
                Cell::left(part.title.clone()),
            ])
        };
        page.push("parts", &["part", "timers", "laws", "silicon"], self.parts.iter().map(row).collect());
        let variants = self.parts.iter().flat_map(|part| {
            let row = |variant: &Variant| {
                Line::Row(vec![
                    Cell::left(variant.name.clone()),
                    Cell::left(part.name.clone()),
                    Cell::left(variant.title.clone()),
                ])
            };
            part.variants.iter().map(row)
        });
        page.push("variants", &["part", "described with", "silicon"], variants.collect());
        let facts = self.parts.iter().map(|part| {
            let TrustCounts { verified, from_memory, unsure } = TrustCounts::of(part);
            Line::Row(vec![
                Cell::left(part.name.clone()),
                Cell::left(if part.pinout.is_some() { "pins" } else { "" }),
                Cell::left(if part.tree.is_some() { "tree" } else { "" }),
                Cell::right(format!("{verified} verified")),
                Cell::right(format!("{from_memory} memory")),
                Cell::right(format!("{unsure} unsure")),
                Cell::left(checks(part)),
            ])
        });
        let columns = &["part", "pins", "clock tree", "verified", "from memory", "unsure", "held against"];
        page.push("facts", columns, facts.collect());
        let unsupported = self
            .unsupported
            .iter()
            .map(|(what, missing)| Line::Row(vec![Cell::left(*what), Cell::left(*missing)]));
        page.push("left out", &["timer", "what is missing"], unsupported.collect());
        Ok(page)
    }

    fn table(&self) -> Result<Table> {
        let rows = self.parts.iter().flat_map(|part| {
            part.timers.iter().map(|timer| {
                vec![part.name.clone(), part.title.clone(), timer.name.clone(), timer.clock.clone()]
            })
        });
        Ok(Table::new(&["part", "title", "timer", "clock"], rows))
    }

    fn json(&self) -> Result<String> {
        let parts = self.parts.iter().map(|part| ListedPart {
            part: &part.name,
            title: &part.title,
            timers: part.timers.iter().map(|timer| timer.name.as_str()).collect(),
            variants: part.variants.iter().map(|variant| variant.name.as_str()).collect(),
        });
        envelope("parts", BTreeMap::from([("parts", parts.collect::<Vec<_>>())]), &[])
    }
}

/// How many different laws a part's timers follow.
fn laws(part: &Part) -> usize {
    part.blocks.values().map(|block| block.modes.len()).sum()
}

/// What a part's laws were held against.
fn checks(part: &Part) -> String {
    let others = part.checked.iter().map(|checked| checked.words());
    std::iter::once("oracle").chain(others).collect::<Vec<_>>().join(", ")
}

#[derive(Serialize)]
struct ListedPart<'r> {
    part: &'r str,
    title: &'r str,
    timers: Vec<&'r str>,
    variants: Vec<&'r str>,
}

/// One part: its timers and clocks.
#[derive(Debug)]
pub struct PartPage {
    /// The part.
    pub part: Part,
    /// Its timers, each with its default base counter.
    pub timers: Vec<Timer>,
}

impl Report for PartPage {
    fn page(&self) -> Result<Page> {
        let part = &self.part;
        let mut page = Page::headed([part.name.clone(), part.title.clone()]);
        page.push("named", &[], names(part));
        let timer_row = |timer: &Timer| {
            Line::Row(vec![
                Cell::left(timer.name.clone()),
                Cell::right(format!("{} bit", timer.block.counter_bits)),
                Cell::left(channels(timer)),
                Cell::left(timer.clock.title.clone()),
                Cell::left(timer.block.title.clone()),
            ])
        };
        let columns = &["timer", "counter", "channels", "clock", "what it is"];
        page.table("timers", columns, self.timers.iter().map(timer_row).collect());
        let clocks = part.clocks.values().map(|clock| {
            Line::Row(vec![
                Cell::left(clock.title.clone()),
                Cell::left(after_reset(clock)),
                Cell::left(format!("at most {}", clock.maximum)),
            ])
        });
        page.table("clocks", &["clock", "after reset", "at most"], clocks.collect());
        let sources = part.oscillators.iter().map(|source| {
            let accuracy = source.accuracy.iter().map(|known| format!("{} ({})", known.within, known.over));
            Line::Row(vec![
                Cell::left(source.name.clone()),
                Cell::left(source.frequency.told()),
                Cell::left(accuracy.collect::<Vec<_>>().join(", ")),
            ])
        });
        page.table("sources", &["source", "frequency", "deviation"], sources.collect());
        let traced = part.tree.iter().flat_map(|tree| {
            let nodes = tree.nodes.iter().map(|node| (&node.title, &node.facts));
            nodes.chain(tree.switches.iter().map(|switch| (&switch.name, &switch.facts)))
        });
        let traced = traced.flat_map(|(title, facts)| facts.iter().map(move |fact| trace(title, fact)));
        page.table("tree", &["node", "trust", "document", "statement"], traced.collect());
        let pins = part
            .pinout
            .iter()
            .flat_map(|pinout| pinout.facts.iter().map(|fact| trace(&pinout.package, fact)));
        page.push("pins", &["package", "trust", "document", "statement"], pins.collect());
        let TrustCounts { verified, from_memory, unsure } = TrustCounts::of(part);
        let mut facts =
            vec![Line::Prose(format!("{verified} verified, {from_memory} from memory, {unsure} unsure"))];
        let doubtful = part.facts().filter(|fact| fact.trust == Trust::Unsure);
        facts.extend(doubtful.map(|fact| Line::Prose(format!("unsure: {}", fact.says))));
        facts.dedup();
        page.push("facts", &[], facts);
        page.push("from", &["key", "document"], documents(&part.documents));
        Ok(page)
    }

    fn table(&self) -> Result<Table> {
        let rows = self.timers.iter().map(|timer| {
            let channels: Vec<&str> =
                timer.block.channels.iter().map(|channel| channel.label.as_str()).collect();
            vec![
                timer.part.clone(),
                timer.name.clone(),
                timer.block.title.clone(),
                timer.block.counter_bits.to_string(),
                channels.join(" "),
                timer.clock.title.clone(),
                decimal(timer.clock.default.value()),
                decimal(timer.clock.maximum.value()),
            ]
        });
        Ok(Table::new(
            &[
                "part",
                "timer",
                "title",
                "counter_bits",
                "channels",
                "clock",
                "clock_default_hz",
                "clock_maximum_hz",
            ],
            rows,
        ))
    }

    fn json(&self) -> Result<String> {
        let whole = WholePart { part: &self.part, registers: self.part.register_map() };
        envelope("parts", &whole, &[])
    }
}

/// A part as its family file has it, and its registers with their names and addresses worked out.
#[derive(Serialize)]
struct WholePart<'r> {
    #[serde(flatten)]
    part: &'r Part,
    registers: Vec<MappedRegister>,
}

/// How a part is named, sold and varied.
fn names(part: &Part) -> Vec<Line> {
    let mut lines: Vec<Line> = part.naming.iter().map(|naming| Line::Prose(naming.clone())).collect();
    if !part.order_codes.is_empty() {
        let codes: Vec<&str> = part.order_codes.iter().map(OrderCode::as_str).collect();
        lines.push(Line::Prose(format!("sold as {}", codes.join(", "))));
    }
    let variant = |variant: &Variant| Line::Prose(format!("{} is {}", variant.name, variant.title));
    lines.extend(part.variants.iter().map(variant));
    lines
}

/// How many statements stand behind a part, by how far they can be trusted.
#[derive(Serialize)]
pub(super) struct TrustCounts {
    pub(super) verified: usize,
    pub(super) from_memory: usize,
    pub(super) unsure: usize,
}

impl TrustCounts {
    pub(super) fn of(part: &Part) -> Self {
        let count = |trust| part.facts().filter(|fact| fact.trust == trust).count();
        Self {
            verified: count(Trust::Verified),
            from_memory: count(Trust::Memory),
            unsure: count(Trust::Unsure),
        }
    }
}

/// The channels of a timer, the first and the last where there are many.
pub(super) fn channels(timer: &Timer) -> String {
    let labels: Vec<&str> = timer.block.channels.iter().map(|channel| channel.label.as_str()).collect();
    match labels.as_slice() {
        [first, .., last] if labels.len() > 8 => format!("channels {first} to {last}"),
        labels => format!("channels {}", labels.join(" ")),
    }
}

/// One statement with where it comes from.
fn trace(title: &str, fact: &Fact) -> Line {
    Line::Row(vec![
        Cell::left(title),
        Cell::left(fact.trust.word()),
        Cell::left(fact.document.clone()),
        Cell::left(fact.says.clone()),
    ])
}

/// The documents behind the key of each.
pub(super) fn documents(documents: &BTreeMap<String, String>) -> Vec<Line> {
    let row = |(key, title): (&String, &String)| {
        Line::Row(vec![Cell::left(key.clone()), Cell::left(title.clone())])
    };
    documents.iter().map(row).collect()
}
