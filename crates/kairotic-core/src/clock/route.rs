//! The roads from the sources that may be used to a node, with what every question about them needs.

use super::arrange::Way;
use super::candidates::CutPath;
use super::path::{Hops, paths, switch_settings};
use super::source::{SourceAsk, sources};
use crate::error::Result;
use crate::part::{ClockTree, Part};
use crate::quantity::{Deviation, Frequency};

/// One path from a source.
pub(super) struct Road<'p> {
    part: &'p Part,
    tree: &'p ClockTree,
    pub(super) hops: Hops<'p>,
    /// What comes into the first node.
    pub(super) start: Frequency,
    /// Every setting of the switches that rules on the path ask for.
    pub(super) switches: Vec<Vec<(&'p str, u64)>>,
    cut: CutPath,
}

/// The roads to a node from the sources that fit what was asked.
pub(super) fn roads<'p>(
    part: &'p Part,
    tree: &'p ClockTree,
    node: &str,
    source: Option<&SourceAsk>,
) -> Result<Vec<Road<'p>>> {
    let mut roads = Vec::new();
    for (name, start) in sources(part, tree, source)? {
        for hops in paths(tree, node, &|node| node.name == name)? {
            let switches = switch_settings(tree, &hops);
            roads.push(Road::along(part, tree, hops, start, switches)?);
        }
    }
    Ok(roads)
}

impl<'p> Road<'p> {
    /// The road along some nodes.
    pub(super) fn along(
        part: &'p Part,
        tree: &'p ClockTree,
        hops: Hops<'p>,
        start: Frequency,
        switches: Vec<Vec<(&'p str, u64)>>,
    ) -> Result<Self> {
        let cut = CutPath::of(&hops, start)?;
        Ok(Self { part, tree, hops, start, switches, cut })
    }

    /// The numbers for its nodes that may make the wanted frequency.
    pub(super) fn candidates(&self, wanted: Frequency, within: Deviation) -> Result<Vec<Vec<u64>>> {
        self.cut.candidates(&self.hops, wanted, within)
    }

    /// The road with numbers for its nodes and codes for its switches.
    pub(super) fn way<'a>(&'a self, numbers: &'a [u64], switches: &'a [(&'a str, u64)]) -> Way<'a> {
        Way { part: self.part, tree: self.tree, hops: &self.hops, start: self.start, numbers, switches }
    }
}
