//! How a kernel knows a part that it drives.

use serde::{Deserialize, Serialize};

use super::Part;
use super::fact::Fact;

/// How a kernel knows a part that it drives: as a provider of PWM channels in a device tree.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct KernelDriver {
    /// What the part is compatible with; none where the tree has it already.
    #[serde(default)]
    pub compatible: Option<String>,
    /// How many cells a channel takes: its number and its period, and with three the flags as well.
    pub cells: u32,
    /// Where that stands.
    pub facts: Vec<Fact>,
}

impl Part {
    /// The number that a kernel has for an output: its place among all outputs of the part.
    pub fn kernel_channel(&self, timer: &str, label: &str) -> Option<usize> {
        let outputs = self.timers.iter().flat_map(|instance| {
            let channels =
                self.instantiate(instance, None).map(|timer| timer.block.channels).unwrap_or_default();
            channels.into_iter().map(|channel| (instance.name.clone(), channel.label))
        });
        outputs.into_iter().position(|(name, channel)| name == timer && channel == label)
    }
}
