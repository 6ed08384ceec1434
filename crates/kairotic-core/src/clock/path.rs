//! The paths that a clock can take through the tree.

use crate::error::Result;
use crate::part::{ClockNode, ClockTree, NodeInput};

/// One node on a path, and the code by which it chooses the node before it, where it chooses.
#[derive(Debug, Clone, Copy)]
pub(super) struct Hop<'t> {
    pub(super) node: &'t ClockNode,
    pub(super) code: Option<u64>,
}

/// A path, first node first.
pub(super) type Hops<'t> = Vec<Hop<'t>>;

/// Every path from a node for which `starts` holds down to the node named `to`.
pub(super) fn paths<'t>(
    tree: &'t ClockTree,
    to: &str,
    starts: &dyn Fn(&ClockNode) -> bool,
) -> Result<Vec<Hops<'t>>> {
    let node = tree.node(to)?;
    if starts(node) {
        return Ok(vec![vec![Hop { node, code: None }]]);
    }
    let before: Vec<(&str, Option<u64>)> = match &node.input {
        NodeInput::Oscillator(_) | NodeInput::External(_) => Vec::new(),
        NodeInput::Node(name) => vec![(name, None)],
        NodeInput::Choice { routes, .. } => {
            routes.iter().map(|route| (route.from.as_str(), Some(route.code))).collect()
        }
    };
    let mut found = Vec::new();
    for (name, code) in before {
        for mut hops in paths(tree, name, starts)? {
            hops.push(Hop { node, code });
            found.push(hops);
        }
    }
    Ok(found)
}

/// Every combination of the switches that the rules on a path ask for, each as name and code; codes as after reset
/// first.
pub(super) fn switch_settings<'t>(tree: &'t ClockTree, hops: &[Hop<'t>]) -> Vec<Vec<(&'t str, u64)>> {
    let asked = |name: &str| hops.iter().any(|hop| hop.node.scale.asks_for(name));
    let mut settings = vec![Vec::new()];
    for switch in tree.switches.iter().filter(|switch| asked(&switch.name)) {
        let mut codes: Vec<u64> = switch.codes.iter().map(|code| code.code).collect();
        codes.sort_by_key(|code| *code != switch.reset);
        settings = codes
            .iter()
            .flat_map(|code| {
                settings.iter().map(|before: &Vec<_>| {
                    let mut next = before.clone();
                    next.push((switch.name.as_str(), *code));
                    next
                })
            })
            .collect();
    }
    settings
}
