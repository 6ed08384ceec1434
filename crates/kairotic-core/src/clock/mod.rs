//! The clock tree: what reaches a timer, how to make it reach a wanted frequency, and the search over clock tree and
//! timer together.
//!
//! A frequency on its way from a source to a timer passes the nodes of a path; each divides it, multiplies it or lets
//! it through, and may have limits for what comes in and what goes out. Nothing outside a limit is ever answered.
//!
//! ```
//! use kairotic_core::clock::{ReachRequest, reach};
//! use kairotic_core::quantity::Deviation;
//! use kairotic_core::quantity::units::mhz;
//!
//! let catalogue = kairotic_parts::Catalogue::embedded();
//! let source = Some("25MHz".parse()?);
//! let request = ReachRequest { timer: "tim3".to_owned(), source, reach: mhz(96), within: Deviation::ZERO };
//! let reached = reach(catalogue.whole_part("stm32f411")?, &request)?;
//! assert_eq!(reached.ways[0].arrangement.frequency, mhz(96));
//! # Ok::<(), kairotic_core::Error>(())
//! ```

mod arrange;
mod buses;
mod candidates;
mod forks;
mod joint;
mod nearby;
mod number;
mod path;
mod reach;
mod route;
mod source;
mod state;
mod stretch;
mod ways;

pub use self::arrange::{Arrangement, Passage};
pub use self::buses::{Bus, BusTable, buses, from_system, on_the_way};
pub(crate) use self::forks::{Fork, Forks};
pub(crate) use self::joint::first_near;
pub use self::joint::{Joint, JointRequest, JointSetting, joint};
pub use self::reach::{ReachRequest, Reached, ReachedClock, reach};
pub use self::source::{SourceAsk, oscillator};
pub use self::state::{ClockState, NodeState, TimerClock, state};
pub(crate) use self::stretch::{Clock, Stretch};
pub use self::ways::{sources_told, way_to};

use crate::error::{Error, Result};
use crate::part::{ClockTree, Part, Timer};

/// The tree of a part, and the node that is the clock of one of its timers.
pub(crate) fn tree_and_node<'p>(part: &'p Part, timer: &Timer) -> Result<(&'p ClockTree, &'p str)> {
    let tree = part.tree.as_ref();
    let node = timer.clock.node.as_ref().and_then(|name| Some(tree?.node(name).ok()?.name.as_str()));
    tree.zip(node).ok_or_else(|| Error::NoClockTree { part: part.name.clone() })
}
