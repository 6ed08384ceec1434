//! How the clocks that timers need come about: what was said of them, followed back to reset.

use super::TimerPlan;
use crate::clock::{Arrangement, SourceAsk, sources_told, state, way_to};
use crate::error::Result;
use crate::part::{Assignment, ClockTree, Names, Part, Registers};
use crate::quantity::Frequency;
use crate::setting::{FieldWrite, Written};

/// What was said of the clocks.
#[derive(Debug, Clone, Default, PartialEq)]
pub struct ClockRoute {
    /// Where they start; any internal oscillator where nothing is said.
    pub source: Option<SourceAsk>,
    /// The system clock, where it was given.
    pub system: Option<Frequency>,
    /// The ways from the system clock to timers.
    pub buses: Vec<Arrangement>,
    /// Registers of the clock tree, where they were given.
    pub registers: Vec<Assignment>,
}

/// The clocks as they come about.
#[derive(Debug, Default)]
pub(super) struct PlannedClocks {
    /// The nodes on each path with their frequencies, source first.
    pub(super) paths: Vec<Vec<(String, Frequency)>>,
    /// The fields that make it so.
    pub(super) writes: Vec<FieldWrite>,
    /// What nobody said.
    pub(super) gaps: Vec<ClockGap>,
}

/// A clock of which nobody said how it comes about.
#[derive(Debug)]
pub(super) struct ClockGap {
    pub(super) of: String,
    pub(super) function: String,
    pub(super) why: String,
}

impl PlannedClocks {
    /// The clocks that some timers need, as far as `said` tells how they come about.
    pub(super) fn of(part: &Part, said: &ClockRoute, timers: &[TimerPlan]) -> Result<Self> {
        let mut route = Self::default();
        let Some(tree) = &part.tree else {
            route.find_gaps(part, timers);
            return Ok(route);
        };
        if !said.registers.is_empty() {
            route.take_registers(part, tree, said)?;
        }
        if let Some(system) = said.system {
            route.take_system(part, tree, system, said)?;
            said.buses.iter().for_each(|way| route.take(way));
        }
        // Without a source nobody knows which of several ways is meant.
        for plan in timers.iter().filter(|_| said.source.is_some()) {
            let clock = plan.setting.clock;
            if route.reaches(plan, clock) || is_so_after_reset(plan, clock) {
                continue;
            }
            let node = plan.timer.clock.node.as_ref();
            let way = node.map(|node| way_to(part, node, clock, said.source.as_ref())).transpose()?.flatten();
            way.iter().for_each(|way| route.take(way));
        }
        route.find_gaps(part, timers);
        Ok(route)
    }

    /// The frequency of a node that is on one of the paths.
    pub(super) fn frequency(&self, node: &str) -> Option<Frequency> {
        let mut passed = self.paths.iter().flatten();
        passed.find(|(name, _)| name == node).map(|(_, frequency)| *frequency)
    }

    fn take(&mut self, way: &Arrangement) {
        self.paths
            .push(way.passages.iter().map(|passage| (passage.node.clone(), passage.frequency)).collect());
        self.writes.extend(way.writes.iter().cloned());
    }

    fn take_system(
        &mut self,
        part: &Part,
        tree: &ClockTree,
        system: Frequency,
        said: &ClockRoute,
    ) -> Result<()> {
        if let Some(way) = way_to(part, &tree.system, system, said.source.as_ref())? {
            self.take(&way);
            return Ok(());
        }
        let after_reset = state(part, &[], None)?;
        let found = after_reset.nodes.iter().find(|node| node.node == tree.system);
        if found.and_then(|node| node.frequency) != Some(system) {
            let title = &tree.node(&tree.system)?.title;
            let sources = sources_told(part);
            self.gaps.push(ClockGap {
                of: tree.system.clone(),
                function: "clock_of_system".to_owned(),
                why: format!("{title} has to be {system}, which no way from what was said makes: {sources}"),
            });
        }
        Ok(())
    }

    /// The fields that were given, and the nodes that they make.
    fn take_registers(&mut self, part: &Part, tree: &ClockTree, said: &ClockRoute) -> Result<()> {
        let place = format!("the clock tree of {}", part.name);
        let names = Names { registers: &tree.registers, prefix: "", place: &place };
        let given = Registers::of(names, &said.registers)?;
        let state = state(part, &said.registers, said.source.as_ref())?;
        let runs = state.nodes.iter().filter_map(|node| Some((node.node.clone(), node.frequency?)));
        self.paths.push(runs.collect());
        for (register, known) in &tree.registers {
            let fields =
                known.fields.keys().map(|field| (format!("{register}.{field}"), Some(field.clone())));
            let whole = known.fields.is_empty().then(|| (register.clone(), None));
            for (name, field) in fields.chain(whole) {
                let slot = tree.slot(std::slice::from_ref(&name))?;
                let Some(value) = given.number(&slot) else { continue };
                self.writes.push(FieldWrite {
                    register: register.clone(),
                    field,
                    meant: value.to_string(),
                    written: Written::Number(value),
                    note: "as given".to_owned(),
                });
            }
        }
        Ok(())
    }

    fn reaches(&self, plan: &TimerPlan, clock: Frequency) -> bool {
        plan.timer.clock.node.as_ref().is_some_and(|node| self.frequency(node) == Some(clock))
    }

    fn find_gaps(&mut self, part: &Part, timers: &[TimerPlan]) {
        for plan in timers {
            let (timer, clock) = (&plan.timer, plan.setting.clock);
            let known = self.gaps.iter().any(|gap| gap.of == timer.clock.title);
            if known || self.reaches(plan, clock) || is_so_after_reset(plan, clock) {
                continue;
            }
            let sources = Some(sources_told(part)).filter(|told| !told.is_empty());
            let sources = sources.map(|told| format!("; its sources: {told}")).unwrap_or_default();
            let after = match timer.clock.off {
                Some(_) => "off".to_owned(),
                None => timer.clock.default.to_string(),
            };
            let why = format!("{} has to be {clock}, and is {after} after reset{sources}", timer.clock.title);
            let function = format!("clock_of_{}", timer.name.replace('-', "_"));
            self.gaps.push(ClockGap { of: timer.clock.title.clone(), function, why });
        }
    }
}

/// Whether a timer has its clock without anybody doing anything.
fn is_so_after_reset(plan: &TimerPlan, clock: Frequency) -> bool {
    plan.timer.clock.off.is_none() && plan.timer.clock.default == clock
}
