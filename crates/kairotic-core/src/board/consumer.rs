//! What the kernel that drives a part takes a signal for.

use crate::quantity::{Range, Voltage};

/// Who takes a signal's channel in a kernel's device tree: the standard bindings.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Consumer {
    /// A fan with cooling levels.
    Fan,
    /// A light with levels of brightness.
    Leds,
    /// A screen's backlight.
    Backlight,
    /// Something that sounds at the signal's frequency.
    Beeper,
    /// A voltage regulator whose output follows the duty.
    Regulator {
        /// Its output at a duty of 0 % and of 100 %.
        output: Range<Voltage>,
    },
    /// A driver of the developer's own.
    Plain,
}
