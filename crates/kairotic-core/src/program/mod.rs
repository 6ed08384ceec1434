//! Programs: every step between reset and a moving pin, in an order that is safe.
//!
//! Clocks come first, with their ready flags and what a fast clock needs before; then clock and reset of the timers,
//! the pins, the values, what loads them, the outputs; the counters start last. A register is written once in each of
//! these, whole where nothing else is in it, by its bits where others share it. What the catalogue does not know is a
//! step of its own, which the developer has to supply: nothing is left out in silence.
//!
//! ```
//! use kairotic_core::program::{Action, ClockRoute, ProgramRequest, TimerPlan, program};
//! use kairotic_core::search::derive;
//! # use kairotic_core::part::TimerUse;
//! # use kairotic_core::quantity::units::{khz, mhz, percent};
//! # use kairotic_core::target::Target;
//! # let catalogue = kairotic_parts::Catalogue::embedded();
//! let part = catalogue.whole_part("atmega328p")?;
//! let on = TimerUse::of(part, "timer1");
//! let found = derive(&on, &Target::frequency(khz(1)).duty(percent(25)))?;
//! let timers = vec![TimerPlan::of(part, &found.timer, found.best.setting)?];
//! let steps = program(&ProgramRequest { part, clock: ClockRoute::default(), timers })?.steps;
//! let Some(Action::Write(last)) = steps.last().map(|step| &step.action) else { panic!() };
//! assert_eq!((last.register.name.as_str(), last.register.address), ("TCCR1B", Some(0x81)));
//! # Ok::<(), kairotic_core::Error>(())
//! ```

mod clock;
mod compare;
mod draft;
pub(crate) mod pins;
mod recipe;
mod route;
mod step;
mod timer;
mod transfer;

use std::collections::BTreeMap;

use serde::Serialize;

pub use self::compare::{ComparePart, CompareUpdate, HeldUpdate, TakeOver, compare_update, held_update};
use self::draft::Draft;
pub use self::route::ClockRoute;
use self::route::PlannedClocks;
pub use self::step::{Action, Phase, ProgramStep, RegisterPlace, RegisterWrite};
pub use self::transfer::CompareTransfer;
use crate::error::Result;
use crate::part::{Part, ReachedBy, Timer};
use crate::setting::Setting;

/// What a program is wanted for.
#[derive(Debug, Clone)]
pub struct ProgramRequest<'p> {
    /// The part, with everything that its family file says.
    pub part: &'p Part,
    /// What was said of the clocks.
    pub clock: ClockRoute,
    /// The timers, each with its setting.
    pub timers: Vec<TimerPlan>,
}

/// A timer with its setting, and where its channels come out.
#[derive(Debug, Clone)]
pub struct TimerPlan {
    /// The timer.
    pub timer: Timer,
    /// What it is set to.
    pub setting: Setting,
    /// The pins of its channels, by label, where they are chosen; with an `n` behind it for a complementary output.
    pub pins: BTreeMap<String, String>,
}

/// Every step between reset and moving pins.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
pub struct Program {
    /// The part's name.
    pub part: String,
    /// The steps, in their order.
    pub steps: Vec<ProgramStep>,
}

impl TimerPlan {
    /// A timer of a part with its setting; its channels come out on their only pins. `part` is the one with everything
    /// that its family file says, which the timer that a setting was found for may not have.
    ///
    /// # Errors
    /// A timer that the part does not have.
    pub fn of(part: &Part, timer: &Timer, setting: Setting) -> Result<Self> {
        let timer = part.timer(&timer.name, timer.base.as_ref().map(|base| base.name.as_str()))?;
        Ok(Self { timer, setting, pins: BTreeMap::new() })
    }

    /// The outputs that are used: channels, and the complements of those that have one.
    fn used_outputs(&self) -> Vec<String> {
        let channels = self.setting.plan.channels.iter();
        channels
            .flat_map(|channel| {
                let paired = self.setting.plan.dead_time.is_some()
                    && self
                        .timer
                        .dead_time
                        .as_ref()
                        .is_some_and(|known| known.outputs.contains_key(&channel.label));
                let complement = paired.then(|| format!("{}n", channel.label));
                std::iter::once(channel.label.clone()).chain(complement)
            })
            .collect()
    }
}

impl Program {
    /// The steps that somebody has to supply: those that the catalogue does not know.
    pub fn unknown(&self) -> impl Iterator<Item = &ProgramStep> {
        self.steps.iter().filter(|step| matches!(step.action, Action::Supply { .. }))
    }

    /// The registers whose address is not known, each once.
    pub fn without_address(&self) -> Vec<&str> {
        let mut names: Vec<&str> = Vec::new();
        for step in &self.steps {
            let (Action::Write(RegisterWrite { register, .. }) | Action::Until { register, .. }) =
                &step.action
            else {
                continue;
            };
            if register.address.is_none() && !names.contains(&register.name.as_str()) {
                names.push(&register.name);
            }
        }
        names
    }
}

/// The program that makes timers do what they are set to.
///
/// # Errors
/// [`Error::FieldWrittenTwice`](crate::Error::FieldWrittenTwice) where two timers want one field to be different,
/// [`Error::NoRemap`](crate::Error::NoRemap) where no route suits all pins, and those of names that the part does not
/// have.
pub fn program(request: &ProgramRequest<'_>) -> Result<Program> {
    let mut draft = Draft::of(request.part);
    clock::steps(&mut draft, &PlannedClocks::of(request.part, &request.clock, &request.timers)?)?;
    // What is at the end of a bus, or behind a kernel, is set up by whoever owns it.
    let own = request.part.memory.as_ref().is_none_or(|memory| memory.reach == ReachedBy::Memory);
    if own {
        for plan in &request.timers {
            timer::gate(&mut draft, plan)?;
        }
        draft.flush(Phase::Gate);
        for plan in &request.timers {
            pins::steps(&mut draft, plan)?;
        }
        draft.flush(Phase::Pin);
    }
    for phase in [Phase::Mode, Phase::Values, Phase::Load, Phase::Outputs, Phase::Start] {
        for plan in &request.timers {
            timer::fields(&mut draft, plan, phase)?;
        }
        draft.flush(phase);
        for plan in &request.timers {
            timer::waits(&mut draft, plan, phase)?;
        }
    }
    Ok(Program { part: request.part.name.clone(), steps: draft.finish() })
}
