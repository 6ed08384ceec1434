//! A signal as it is planned.

use super::{Conditions, Needs};
use crate::load::Load;
use crate::part::TimerUse;
use crate::quantity::LoadLevel;
use crate::target::Target;

/// A signal as it is planned, by options or by a board file: everything that is known of it before a register is chosen.
#[derive(Debug, Clone, PartialEq)]
pub struct SignalSpec<'p> {
    /// Its name.
    pub name: String,
    /// The timer that makes it, and that timer's clock.
    pub on: TimerUse<'p>,
    /// What is wanted.
    pub target: Target,
    /// The level that the target's active time stands for, where it was given in the load's unit.
    pub level: Option<LoadLevel>,
    /// What it drives.
    pub load: Option<Load>,
    /// What is required of it.
    pub needs: Needs,
    /// What is known of the surroundings that it is made in.
    pub conditions: Conditions,
}

impl<'p> SignalSpec<'p> {
    /// A target on a timer, of which nothing else is known; named after its place.
    pub fn of(on: TimerUse<'p>, target: Target) -> Self {
        let name = match &target.channel {
            Some(channel) => format!("{}/{channel}", on.timer),
            None => on.timer.clone(),
        };
        let (needs, conditions) = (Needs::default(), Conditions::default());
        Self { name, on, target, level: None, load: None, needs, conditions }
    }
}
