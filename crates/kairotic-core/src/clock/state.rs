//! The way back: what register values make of the clocks.

use serde::Serialize;

use super::number::{factor, how, illegal, number};
use super::source::SourceAsk;
use crate::error::{Error, Result};
use crate::part::{Assignment, ClockNode, ClockTree, Names, NodeInput, Part, Registers, Scale};
use crate::quantity::Frequency;

/// The clocks of a part as registers set them.
#[derive(Debug, Clone, PartialEq, Serialize)]
pub struct ClockState {
    /// The part's name.
    pub part: String,
    /// Every node that something reaches a timer through, in the order of the tree.
    pub nodes: Vec<NodeState>,
    /// The timers, each with the node that is its clock.
    pub timers: Vec<TimerClock>,
    /// Fields that nobody gave, taken as after reset.
    pub assumed: Vec<String>,
}

/// A timer with the node that is its clock.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
pub struct TimerClock {
    /// The timer.
    pub timer: String,
    /// The node.
    pub clock: String,
    /// Its frequency; `None` where it does not run.
    pub frequency: Option<Frequency>,
}

/// One node as registers set it.
#[derive(Debug, Clone, PartialEq, Serialize)]
pub struct NodeState {
    /// The node's name.
    pub node: String,
    /// What the reference manual calls it.
    pub title: String,
    /// The frequency there; none where its source's is not known.
    pub frequency: Option<Frequency>,
    /// Where it comes from and what the node does to it, in words.
    pub how: String,
    /// The limit that it breaks.
    pub illegal: Option<String>,
}

/// What `assignments` make of the clocks of `part`. Fields that are not given are as after reset.
///
/// # Errors
/// [`Error::NoClockTree`]; registers that the tree does not have; a code that chooses nothing.
pub fn state(part: &Part, assignments: &[Assignment], source: Option<&SourceAsk>) -> Result<ClockState> {
    let tree = part.tree.as_ref().ok_or_else(|| Error::NoClockTree { part: part.name.clone() })?;
    let place = format!("the clock tree of {}", part.name);
    let registers =
        Registers::of(Names { registers: &tree.registers, prefix: "", place: &place }, assignments)?;
    let known = match source {
        None => Vec::new(),
        Some(_) => super::source::sources(part, tree, source)?,
    };
    let mut reader = NodeReader { part, tree, registers, known, done: Vec::new(), assumed: Vec::new() };
    for node in &tree.nodes {
        reader.read(node)?;
    }
    let mut used: Vec<&str> = part.clocks.values().filter_map(|clock| clock.node.as_deref()).collect();
    // Nodes stand after those that they draw on: backwards, each is met after all that use it.
    for done in reader.done.iter().rev() {
        if used.contains(&done.state.node.as_str()) {
            used.extend(done.from);
        }
    }
    let nodes: Vec<NodeState> = reader
        .done
        .iter()
        .filter(|done| used.contains(&done.state.node.as_str()))
        .map(|done| done.state.clone())
        .collect();
    let assumed = reader.assumed.iter().filter(|(node, _)| used.contains(&node.as_str()));
    let assumed = assumed.map(|(_, field)| field.clone()).collect();
    let timers = part.timers.iter().filter_map(|timer| {
        let node = part.clocks.get(&timer.clock)?.node.clone()?;
        let frequency = nodes.iter().find(|state| state.node == node).and_then(|state| state.frequency);
        Some(TimerClock { timer: timer.name.clone(), clock: node, frequency })
    });
    let timers = timers.collect();
    Ok(ClockState { part: part.name.clone(), nodes, timers, assumed })
}

struct Done<'p> {
    state: NodeState,
    from: Option<&'p str>,
    /// The division, for rules further down.
    number: Option<u64>,
}

impl<'p> Done<'p> {
    /// A node that does not run.
    fn stopped(node: &ClockNode, from: Option<&'p str>, how: String) -> Self {
        let illegal = Some(format!("{} {how}", node.title));
        let (name, title) = (node.name.clone(), node.title.clone());
        Self { state: NodeState { node: name, title, frequency: None, how, illegal }, from, number: None }
    }
}

/// What comes into a node.
struct Input<'p> {
    comes: Option<Frequency>,
    from: Option<&'p str>,
    /// Where it comes from, in words.
    said: String,
    /// Whether the node's code stands for no clock.
    chooses_nothing: bool,
}

struct NodeReader<'p> {
    part: &'p Part,
    tree: &'p ClockTree,
    registers: Registers,
    known: Vec<(&'p str, Frequency)>,
    done: Vec<Done<'p>>,
    /// Node and field.
    assumed: Vec<(String, String)>,
}

impl<'p> NodeReader<'p> {
    /// The number in a node's slot: as given, else as after reset.
    fn written(&mut self, node: &str, slot: &[String], reset: u64) -> Result<u64> {
        let slot = self.tree.slot(slot)?;
        match self.registers.number(&slot) {
            Some(number) => Ok(number),
            None => {
                let assumed = format!("{}={reset}", slot.name());
                if !self.assumed.iter().any(|(_, known)| *known == assumed) {
                    self.assumed.push((node.to_owned(), assumed));
                }
                Ok(reset)
            }
        }
    }

    fn frequency(&self, name: &str) -> Option<Frequency> {
        self.done.iter().find(|done| done.state.node == name)?.state.frequency
    }

    fn read(&mut self, node: &'p ClockNode) -> Result<()> {
        let Input { comes, from, said: mut how, chooses_nothing } = self.input(node)?;
        let mut found = None;
        if let Scale::Divide { slot, steps, reset } | Scale::Multiply { slot, steps, reset } = &node.scale {
            let written = self.written(&node.name, slot, *reset)?;
            let Some(value) = steps.meaning(written) else {
                // What a field holds after reset may switch its node off: that is an error only where something hangs
                // on it.
                if written == *reset {
                    let how = format!("does not run with {}={written}", self.tree.slot(slot)?.name());
                    self.done.push(Done::stopped(node, from, how));
                    return Ok(());
                }
                return Err(Error::RegisterValue {
                    name: self.tree.slot(slot)?.name(),
                    value: written,
                    why: format!("is no legal setting of {}", node.title),
                    legal: steps.legal_codes(),
                });
            };
            found = Some(number(steps, value)?);
        }
        let mut switches = Vec::new();
        for switch in self.tree.switches.iter().filter(|switch| node.scale.asks_for(&switch.name)) {
            switches.push((switch.name.as_str(), self.written(&node.name, &switch.slot, switch.reset)?));
        }
        let value = |name: &str| {
            let switch = switches.iter().find(|(known, _)| *known == name).map(|(_, code)| *code);
            let division =
                || self.done.iter().find(|done| done.state.node == name).and_then(|done| done.number);
            switch.or_else(division)
        };
        let factor = factor(node, found.unwrap_or(0), value)?;
        let what = self::how(node, found.unwrap_or(0), value)?;
        if !what.is_empty() {
            how = if how.is_empty() { what } else { format!("{how}, {what}") };
        }
        let goes = comes.map(|comes| comes.times(factor)).transpose()?;
        let illegal = match chooses_nothing {
            true => Some(format!("{} {how}", node.title)),
            false => comes.zip(goes).and_then(|(comes, goes)| illegal(node, comes, goes)),
        };
        let state =
            NodeState { node: node.name.clone(), title: node.title.clone(), frequency: goes, how, illegal };
        self.done.push(Done { state, from, number: found });
        Ok(())
    }

    /// What comes into a node.
    fn input(&mut self, node: &'p ClockNode) -> Result<Input<'p>> {
        let given = self.known.iter().find(|(name, _)| *name == node.name).map(|(_, frequency)| *frequency);
        let nothing = Input { comes: None, from: None, said: String::new(), chooses_nothing: false };
        Ok(match &node.input {
            NodeInput::Oscillator(name) => {
                let own = self.part.oscillator(name).map(|own| own.frequency);
                Input { comes: given.or(own), ..nothing }
            }
            NodeInput::External(limits) => {
                let said = if given.is_some() { String::new() } else { format!("from outside, {limits}") };
                Input { comes: given, said, ..nothing }
            }
            NodeInput::Node(name) => Input { comes: self.frequency(name), from: Some(name), ..nothing },
            NodeInput::Choice { slot, routes, reset } => {
                let code = self.written(&node.name, slot, *reset)?;
                let Some(route) = routes.iter().find(|route| route.code == code) else {
                    // A clock that is not running: that is an error only where something hangs on it.
                    let said = format!("chooses no clock with {code}");
                    return Ok(Input { said, chooses_nothing: true, ..nothing });
                };
                let title =
                    self.tree.node(&route.from).map_or(route.from.as_str(), |node| node.title.as_str());
                let said = format!("from {title}");
                Input { comes: self.frequency(&route.from), from: Some(&route.from), said, ..nothing }
            }
        })
    }
}
