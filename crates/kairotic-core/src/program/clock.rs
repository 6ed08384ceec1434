//! How the clocks get to the timers: oscillators and multipliers with their ready flags, what a fast clock needs
//! before, bus dividers, and last of all what everything runs from.

use super::draft::Draft;
use super::recipe::{Purpose, trust};
use super::route::PlannedClocks;
use super::step::{Action, Phase};
use crate::error::Result;
use crate::part::{ClockNode, ClockTree, Field, FieldIs, NodeInput, NodeStart, Scale, SpeedNeed, Trust};
use crate::setting::FieldWrite;

/// Adds the steps that make the clocks what a route says.
pub(super) fn steps(draft: &mut Draft<'_>, route: &PlannedClocks) -> Result<()> {
    if let Some(tree) = &draft.part.tree {
        let mut clocks = ClockSteps { draft, tree, route };
        clocks.speed(false)?;
        clocks.nodes()?;
    }
    for gap in &route.gaps {
        let function = Action::Supply { function: gap.function.clone() };
        draft.step(Phase::Clock, function, &gap.why, &gap.of, Trust::Unsure);
    }
    draft.flush(Phase::Clock);
    Ok(())
}

struct ClockSteps<'d, 'p> {
    draft: &'d mut Draft<'p>,
    tree: &'p ClockTree,
    route: &'d PlannedClocks,
}

impl<'p> ClockSteps<'_, 'p> {
    /// What fast clocks need, before anything else or `late`.
    fn speed(&mut self, late: bool) -> Result<()> {
        let Some(bring_up) = &self.draft.part.bring_up else { return Ok(()) };
        for need in bring_up.speed.iter().filter(|need| need.late == late) {
            self.need(need)?;
        }
        self.draft.flush(Phase::Clock);
        Ok(())
    }

    fn need(&mut self, need: &SpeedNeed) -> Result<()> {
        let Some(frequency) = self.route.frequency(&need.node) else { return Ok(()) };
        let purpose = Purpose { phase: Phase::Clock, of: &need.node, trust: trust(&need.facts) };
        let Some(step) = need.steps.iter().find(|step| frequency <= step.to) else {
            let why =
                format!("{}, for {} of {frequency}: the catalogue does not say how", need.means, need.node);
            let function = format!("prepare_{}", need.node.replace('-', "_"));
            self.draft.step(Phase::Clock, Action::Supply { function }, why, &need.node, Trust::Unsure);
            return Ok(());
        };
        if self.held(&need.slot)? == Some(step.code) {
            return Ok(());
        }
        let why = format!("{}, for {} of {frequency}", need.means, need.node);
        self.draft.recipe(&need.before, purpose)?;
        self.draft.flush(Phase::Clock);
        self.draft.set(&need.slot, step.code, &why, purpose)?;
        match &need.until {
            Some(until) => self.draft.until(until, &need.means, purpose),
            None => Ok(()),
        }
    }

    /// The number that a slot holds by now.
    fn held(&self, slot: &[String]) -> Result<Option<u64>> {
        let slot = self.draft.part.bring_up_slot(slot)?;
        Ok(slot.join(|field| {
            let known = self.draft.known(&field.register)?;
            Some((self.draft.held(&known) >> field.low) & field.largest())
        }))
    }

    /// The nodes in the order of the tree; those that choose what everything runs from after all others.
    fn nodes(&mut self) -> Result<()> {
        let on_the_way = self.tree.nodes.iter().filter(|node| self.route.frequency(&node.name).is_some());
        let is_last = |node: &&ClockNode| self.start(node).is_some_and(|start| start.last);
        let (last, others): (Vec<&ClockNode>, Vec<&ClockNode>) = on_the_way.partition(is_last);
        for node in others {
            self.node(node)?;
        }
        self.speed(true)?;
        for node in last {
            self.node(node)?;
        }
        let started = self.tree.nodes.iter().filter(|node| self.route.frequency(&node.name).is_some());
        for node in started {
            let Some(start) = self.start(node) else { continue };
            let purpose = Purpose { phase: Phase::Clock, of: &node.name, trust: trust(&start.facts) };
            self.draft.recipe(&start.once_chosen, purpose)?;
        }
        self.draft.flush(Phase::Clock);
        Ok(())
    }

    fn start(&self, node: &ClockNode) -> Option<&'p NodeStart> {
        self.draft.part.bring_up.as_ref()?.nodes.get(&node.name)
    }

    fn node(&mut self, node: &ClockNode) -> Result<()> {
        let start = self.start(node);
        let purpose = |trust| Purpose { phase: Phase::Clock, of: &node.name, trust };
        if let Some(start) = start {
            self.draft.flush(Phase::Clock);
            self.draft.recipe(&start.before, purpose(trust(&start.facts)))?;
            self.draft.flush(Phase::Clock);
        }
        for (field, write) in self.writes(node)? {
            if let Some(known) = self.draft.known(&write.register) {
                self.draft.field(&known, &field, write, &node.name, trust(&node.facts))?;
            }
        }
        match start {
            Some(start) => {
                self.draft.flush(Phase::Clock);
                self.echo(node, start)?;
                self.draft.recipe(&start.after, purpose(trust(&start.facts)))?;
                self.draft.flush(Phase::Clock);
            }
            None if self.has_to_be_started(node) => {
                let why = format!("{} has to be started, and ready before it is used", node.title);
                let function = format!("start_{}", node.name.replace('-', "_"));
                self.draft.step(Phase::Clock, Action::Supply { function }, why, &node.name, Trust::Unsure);
            }
            None => {}
        }
        Ok(())
    }

    /// Waits until what a node chose runs.
    fn echo(&mut self, node: &ClockNode, start: &NodeStart) -> Result<()> {
        let NodeInput::Choice { slot, .. } = &node.input else { return Ok(()) };
        if start.echo.is_empty() {
            return Ok(());
        }
        let chosen = self.held(slot)?.unwrap_or(0);
        let echo = self.draft.part.bring_up_slot(&start.echo)?;
        for (field, value) in echo.split(chosen) {
            let until = FieldIs { field: field.name(), value };
            let purpose = Purpose { phase: Phase::Clock, of: &node.name, trust: trust(&start.facts) };
            self.draft.until(&until, "what was chosen runs", purpose)?;
        }
        Ok(())
    }

    /// Whether a node does not run after reset, and nothing on its way says how it is started.
    fn has_to_be_started(&self, node: &ClockNode) -> bool {
        match &node.input {
            NodeInput::External(_) => true,
            NodeInput::Oscillator(name) => {
                let runs = |node: &Option<String>| {
                    node.as_ref().and_then(|node| self.tree.oscillator_after_reset(node)) == Some(name)
                };
                !self.draft.part.clocks.values().any(|clock| runs(&clock.node))
            }
            // A multiplier is often started once what divides its output is set.
            NodeInput::Choice { .. } | NodeInput::Node(_) => node.vco && !self.is_started_below(&node.name),
        }
    }

    /// Whether a node behind another, before what all runs from, is started by a recipe.
    fn is_started_below(&self, name: &str) -> bool {
        let Some(bring_up) = &self.draft.part.bring_up else { return false };
        self.route.paths.iter().any(|path| {
            let behind = path.iter().skip_while(|(node, _)| node != name);
            let mut starts = behind.filter_map(|(node, _)| bring_up.nodes.get(node));
            starts.any(|start| !start.last && !start.after.is_empty())
        })
    }

    /// The fields of a node that the route sets.
    fn writes(&self, node: &ClockNode) -> Result<Vec<(Field, FieldWrite)>> {
        let mut slots: Vec<&[String]> = Vec::new();
        if let NodeInput::Choice { slot, .. } = &node.input {
            slots.push(slot);
        }
        match &node.scale {
            Scale::Divide { slot, .. } | Scale::Multiply { slot, .. } => slots.push(slot),
            Scale::Rules(_) => {
                let asked = self.tree.switches.iter().filter(|switch| node.scale.asks_for(&switch.name));
                slots.extend(asked.map(|switch| switch.slot.as_slice()));
            }
            Scale::Unchanged | Scale::By(_) => {}
        }
        let mut writes = Vec::new();
        for slot in slots {
            for field in self.tree.slot(slot)?.0 {
                let here =
                    |write: &&FieldWrite| write.register == field.register && write.field == field.field;
                if let Some(write) = self.route.writes.iter().find(here) {
                    writes.push((field.clone(), write.clone()));
                }
            }
        }
        Ok(writes)
    }
}
