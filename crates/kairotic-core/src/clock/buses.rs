//! From the system clock to a timer: what the bus dividers and their rules make of it.

use serde::Serialize;

use super::arrange::{Arrangement, Way};
use super::number::{gives_illegal, steps};
use super::path::{Hop, paths, switch_settings};
use super::tree_and_node;
use crate::error::{Error, Result};
use crate::part::{ClockNode, Part, Steps, Timer};
use crate::quantity::Frequency;

/// A bus divider or a switch that is set: `apb1=4`.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
pub struct Bus {
    /// The node's or switch's name.
    pub name: String,
    /// The division, or the switch's code.
    pub value: u64,
}

impl std::str::FromStr for Bus {
    type Err = Error;

    fn from_str(text: &str) -> Result<Self> {
        let wrong = || Error::Bus { text: text.chars().take(60).collect() };
        let (name, value) = text.split_once('=').ok_or_else(wrong)?;
        let value = value.trim().parse().map_err(|_| wrong())?;
        Ok(Self { name: name.trim().to_lowercase(), value })
    }
}

/// What every legal setting of the bus dividers makes of a system clock.
#[derive(Debug, Clone, PartialEq, Serialize)]
pub struct BusTable {
    /// The timer.
    pub timer: Timer,
    /// The system clock.
    pub system: Frequency,
    /// What reaches the timer: switches as after reset first, then smallest divisions first.
    pub legal: Vec<Arrangement>,
    /// How many settings break a limit.
    pub illegal: usize,
    /// The names of the part's switches.
    pub switches: Vec<String>,
    /// The limit that the setting with the smallest divisions breaks, where it breaks one.
    pub why: Option<String>,
}

impl BusTable {
    /// The settings that differ from the first in no more than the last divider and the switches: those that somebody
    /// who wants a fast timer chooses from.
    pub fn leading(&self) -> impl Iterator<Item = &Arrangement> {
        let before_last = |arrangement: &Arrangement| -> Vec<(String, u64)> {
            let divisions = arrangement.settled.iter().filter(|(name, _)| !self.switches.contains(name));
            let mut divisions: Vec<(String, u64)> = divisions.cloned().collect();
            divisions.pop();
            divisions
        };
        let first = self.legal.first().map(before_last);
        self.legal.iter().filter(move |arrangement| Some(before_last(arrangement)) == first)
    }
}

/// Every setting of the bus dividers between the system clock and a timer that `given` leaves open.
///
/// # Errors
/// [`Error::NoClockTree`], [`Error::UnknownName`] for a bus that is not on the way, [`Error::ClockIllegal`] where no
/// setting is legal.
pub fn buses(part: &Part, timer: &str, system: Frequency, given: &[Bus]) -> Result<BusTable> {
    let timer = part.timer(timer, None)?;
    let system = system.positive()?;
    let (tree, node) = tree_and_node(part, &timer)?;
    // The system node's own limit holds whatever it is made from.
    if let Some(why) = gives_illegal(tree.node(&tree.system)?, system) {
        return Err(Error::ClockIllegal { timer: timer.path(), why });
    }
    let switches = tree.switches.iter().map(|switch| switch.name.clone()).collect();
    let mut table =
        BusTable { system, legal: Vec::new(), illegal: 0, why: None, switches, timer: timer.clone() };
    let mut known: Vec<String> = Vec::new();
    for hops in paths(tree, node, &|node| node.name == tree.system)? {
        let below = hops.get(1..).unwrap_or_default();
        for switches in switch_settings(tree, &hops) {
            known.extend(switches.iter().map(|(name, _)| (*name).to_owned()));
            known.extend(
                below.iter().filter(|hop| steps(hop.node).is_some()).map(|hop| hop.node.name.clone()),
            );
            let fits =
                |name: &str, value: u64| given.iter().all(|bus| bus.name != name || bus.value == value);
            if !switches.iter().all(|(name, code)| fits(name, *code)) {
                continue;
            }
            for numbers in choices(below, &fits) {
                let way =
                    Way { part, tree, hops: below, start: system, numbers: &numbers, switches: &switches };
                match way.arrangement()? {
                    Ok(arrangement) => table.legal.push(arrangement),
                    Err(why) => {
                        table.illegal += 1;
                        table.why.get_or_insert(why);
                    }
                }
            }
        }
    }
    if let Some(bus) = given.iter().find(|bus| !known.contains(&bus.name)) {
        known.sort();
        known.dedup();
        let known = known.iter().map(String::as_str);
        return Err(Error::unknown(
            "bus divider or switch",
            &bus.name,
            &format!("the way to {}", timer.path()),
            known,
        ));
    }
    if table.legal.is_empty() {
        let why = table.why.unwrap_or_else(|| "no divider on the way has such a division".to_owned());
        return Err(Error::ClockIllegal { timer: timer.path(), why });
    }
    Ok(table)
}

/// Those settings that stand on the way from the system clock to a timer: a board has one list for all of its timers.
///
/// # Errors
/// [`Error::NoClockTree`]; [`Error::UnknownName`] for a name that is nowhere in the tree.
pub fn on_the_way(part: &Part, timer: &str, given: &[Bus]) -> Result<Vec<Bus>> {
    let timer = part.timer(timer, None)?;
    let (tree, node) = tree_and_node(part, &timer)?;
    let divides = |node: &&ClockNode| steps(node).is_some();
    let known = tree.nodes.iter().filter(divides).map(|node| node.name.as_str());
    let known: Vec<&str> = known.chain(tree.switches.iter().map(|switch| switch.name.as_str())).collect();
    if let Some(bus) = given.iter().find(|bus| !known.contains(&bus.name.as_str())) {
        let place = format!("the clock tree of {}", part.name);
        return Err(Error::unknown("bus divider or switch", &bus.name, &place, known.into_iter()));
    }
    let ways = paths(tree, node, &|node| node.name == tree.system)?;
    let stands = |bus: &&Bus| {
        ways.iter().flatten().any(|hop| hop.node.name == bus.name || hop.node.scale.asks_for(&bus.name))
    };
    Ok(given.iter().filter(stands).cloned().collect())
}

/// The arrangement from the system clock: as `given`, the smallest legal divisions and switches as after reset for the
/// rest.
///
/// # Errors
/// As [`buses`].
pub fn from_system(part: &Part, timer: &str, system: Frequency, given: &[Bus]) -> Result<Arrangement> {
    let table = buses(part, timer, system, given)?;
    table.legal.into_iter().next().ok_or_else(|| Error::NoClockTree { part: part.name.clone() })
}

/// Every combination of divisions of some nodes that fits, smallest first.
fn choices(hops: &[Hop<'_>], fits: &dyn Fn(&str, u64) -> bool) -> Vec<Vec<u64>> {
    let mut all = vec![Vec::new()];
    for hop in hops {
        let numbers: Vec<u64> = match steps(hop.node) {
            None => vec![0],
            Some((steps, _)) => {
                let mut numbers: Vec<u64> = match steps {
                    // A bus has a few divisions; what has thousands is set at the source.
                    Steps::Fraction { min, .. } => vec![*min],
                    steps => steps.every().into_iter().map(|(number, _)| number).collect(),
                };
                numbers.retain(|number| fits(&hop.node.name, *number));
                numbers.sort_unstable();
                numbers
            }
        };
        all = all
            .iter()
            .flat_map(|before| {
                numbers.iter().map(|number| before.iter().copied().chain([*number]).collect::<Vec<u64>>())
            })
            .collect();
    }
    all
}
