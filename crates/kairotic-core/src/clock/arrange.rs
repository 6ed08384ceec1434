//! One way for a clock to reach a node: the path, what each node on it does, and what is written for it.

use serde::Serialize;

use super::number::{allows, factor, how, illegal, lookup, meant, rule, steps};
use super::path::Hop;
use crate::error::Result;
use crate::part::{Accuracy, ClockNode, ClockTree, NodeInput, Part, Scale, Steps};
use crate::quantity::Frequency;
use crate::setting::{FieldWrite, Written};

/// One way for a clock to reach a node, within all limits.
#[derive(Debug, Clone, PartialEq, Serialize)]
pub struct Arrangement {
    /// The nodes on the way, source first.
    pub passages: Vec<Passage>,
    /// What reaches the last of them.
    pub frequency: Frequency,
    /// Every field that makes it so.
    pub writes: Vec<FieldWrite>,
    /// How far the source may be off, where it is an oscillator whose deviation is known; the widest statement last.
    pub accuracy: Vec<Accuracy>,
    /// The divisions on the way and the codes of the switches that matter, each with its name.
    pub settled: Vec<(String, u64)>,
    /// The frequency of the highest oscillator that a multiplier drives, where one is on the way.
    pub vco: Option<Frequency>,
    /// Whether a factor or division has a fractional part.
    pub fractional: bool,
}

/// A clock at one node.
#[derive(Debug, Clone, PartialEq, Serialize)]
pub struct Passage {
    /// The node's name.
    pub node: String,
    /// What the reference manual calls it.
    pub title: String,
    /// The frequency there.
    pub frequency: Frequency,
    /// What the node did to it, in words; empty where nothing.
    pub how: String,
}

/// What stands on a path, and what the nodes on it are set to.
#[derive(Debug, Clone, Copy)]
pub(super) struct Way<'a> {
    pub(super) part: &'a Part,
    pub(super) tree: &'a ClockTree,
    pub(super) hops: &'a [Hop<'a>],
    /// What comes into the first node.
    pub(super) start: Frequency,
    /// For each node the number of its steps; for one with rules the factor that a search has taken it to have; zero
    /// where nothing is to be told.
    pub(super) numbers: &'a [u64],
    pub(super) switches: &'a [(&'a str, u64)],
}

impl Way<'_> {
    /// Whether the rules that apply have the factors that a search has taken them to have.
    pub(super) fn rules_hold(&self) -> bool {
        self.hops.iter().zip(self.numbers).all(|(hop, number)| match &hop.node.scale {
            Scale::Rules(rules) if *number > 0 => {
                let value = lookup(self.hops, self.numbers, self.switches);
                rule(rules, value).is_some_and(|rule| u64::from(rule.times) == *number)
            }
            _ => true,
        })
    }

    /// What comes out of the last node, and the highest oscillator that a multiplier drives, where one is on the way;
    /// `None` where a node may not have its clock or such an oscillator is `refused`.
    pub(super) fn end(
        &self,
        refused: impl Fn(Frequency) -> bool,
    ) -> Result<Option<(Frequency, Option<Frequency>)>> {
        let mut end = (self.start, None);
        let legal = self.walk(|node, comes, goes| {
            end = (goes, if node.vco { end.1.max(Some(goes)) } else { end.1 });
            allows(node, comes, goes) && !(node.vco && refused(goes))
        })?;
        Ok(legal.then_some(end))
    }

    /// What comes out of each node; `None` where one of them may not have it.
    fn flow(&self) -> Result<Option<Vec<Frequency>>> {
        let mut flow = Vec::with_capacity(self.hops.len());
        let legal = self.walk(|node, comes, goes| {
            flow.push(goes);
            allows(node, comes, goes)
        })?;
        Ok(legal.then_some(flow))
    }

    /// Why the first node that may not have its clock may not have it.
    fn complaint(&self) -> Result<String> {
        let mut why = String::new();
        self.walk(|node, comes, goes| match illegal(node, comes, goes) {
            Some(found) => {
                why = found;
                false
            }
            None => true,
        })?;
        Ok(why)
    }

    /// Goes along the nodes as long as `visit`, which gets what comes in and what goes out, says so; whether to the
    /// end.
    fn walk(&self, mut visit: impl FnMut(&ClockNode, Frequency, Frequency) -> bool) -> Result<bool> {
        let value = lookup(self.hops, self.numbers, self.switches);
        let mut comes = self.start;
        for (hop, number) in self.hops.iter().zip(self.numbers) {
            let factor = factor(hop.node, *number, &value)?;
            let goes = comes.times(factor)?;
            if !visit(hop.node, comes, goes) {
                return Ok(false);
            }
            comes = goes;
        }
        Ok(true)
    }

    /// The frequency of the highest oscillator that a multiplier drives.
    fn vco(&self, flow: &[Frequency]) -> Option<Frequency> {
        self.hops.iter().zip(flow).filter(|(hop, _)| hop.node.vco).map(|(_, frequency)| *frequency).max()
    }

    /// Whether a factor or division has a fractional part.
    pub(super) fn is_fractional(&self) -> bool {
        self.hops.iter().zip(self.numbers).any(|(hop, number)| {
            steps(hop.node).is_some_and(|(steps, _)| number.trailing_zeros() < steps.fraction_bits())
        })
    }

    /// How far the source may be off: known of an internal oscillator only.
    fn accuracy(&self) -> Vec<Accuracy> {
        let Some(NodeInput::Oscillator(name)) = self.hops.first().map(|hop| &hop.node.input) else {
            return Vec::new();
        };
        self.part.oscillator(name).map(|oscillator| oscillator.accuracy.clone()).unwrap_or_default()
    }

    /// The way with everything that is to be said and written, or why it is not legal.
    pub(super) fn arrangement(&self) -> Result<Result<Arrangement, String>> {
        let Some(flow) = self.flow()? else { return self.complaint().map(Err) };
        let value = lookup(self.hops, self.numbers, self.switches);
        let mut passages = Vec::new();
        let mut settled = Vec::new();
        let mut writes = Vec::new();
        for ((hop, number), frequency) in self.hops.iter().zip(self.numbers).zip(&flow) {
            let node = hop.node;
            if let (Some(code), NodeInput::Choice { slot, routes, .. }) = (hop.code, &node.input) {
                let from = routes.iter().find(|route| route.code == code).map_or("", |route| &route.from);
                let from = self.tree.node(from).map_or(from, |node| node.title.as_str());
                self.put(&mut writes, slot, code, from, &format!("{} from {from}", node.title))?;
            }
            match &node.scale {
                Scale::Unchanged | Scale::By(_) => {}
                Scale::Divide { slot, steps, .. } | Scale::Multiply { slot, steps, .. } => {
                    let meant = meant(steps, *number)?;
                    settled.push((node.name.clone(), *number));
                    let divides = matches!(&node.scale, Scale::Divide { .. });
                    let verb = if divides { "divide by" } else { "multiply by" };
                    let code = code(steps, *number);
                    self.put(
                        &mut writes,
                        slot,
                        code,
                        &meant.to_string(),
                        &format!("{verb} {}", meant.mixed()),
                    )?;
                }
                Scale::Rules(_) => {
                    for (name, code) in self.switches {
                        let switch = self.tree.switches.iter().find(|switch| switch.name == *name);
                        if let Some(switch) = switch.filter(|_| node.scale.asks_for(name)) {
                            settled.push((switch.name.clone(), *code));
                            let means = switch.codes.iter().find(|known| known.code == *code);
                            let means = means.map_or("", |known| known.means.as_str());
                            self.put(&mut writes, &switch.slot, *code, means, means)?;
                        }
                    }
                }
            }
            passages.push(Passage {
                node: node.name.clone(),
                title: node.title.clone(),
                frequency: *frequency,
                how: how(node, *number, &value)?,
            });
        }
        Ok(Ok(Arrangement {
            frequency: flow.last().copied().unwrap_or(self.start),
            passages,
            writes,
            settled,
            accuracy: self.accuracy(),
            vco: self.vco(&flow),
            fractional: self.is_fractional(),
        }))
    }

    fn put(
        &self,
        writes: &mut Vec<FieldWrite>,
        slot: &[String],
        value: u64,
        meant: &str,
        note: &str,
    ) -> Result<()> {
        let slot = self.tree.slot(slot)?;
        for (place, (field, written)) in slot.split(value).into_iter().enumerate() {
            writes.push(FieldWrite {
                register: field.register.clone(),
                field: field.field.clone(),
                meant: meant.to_owned(),
                written: Written::Number(written),
                note: if place == 0 { note.to_owned() } else { format!("the rest of {}", slot.name()) },
            });
        }
        Ok(())
    }
}

/// What is written for a number of some steps.
pub(super) fn code(steps: &Steps, number: u64) -> u64 {
    match steps {
        Steps::List(taps) => taps.iter().find(|tap| u64::from(tap.by) == number).map_or(0, |tap| tap.code),
        _ => number.saturating_sub(steps.written_less()),
    }
}
