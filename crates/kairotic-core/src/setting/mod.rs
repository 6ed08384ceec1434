//! Settings: register values, what they make of a clock, and the fields to write.
//!
//! ```
//! use kairotic_core::search::derive;
//! use kairotic_core::setting::Setting;
//! # use kairotic_core::part::TimerUse;
//! # use kairotic_core::quantity::units::{khz, mhz, percent};
//! # use kairotic_core::target::Target;
//! # let catalogue = kairotic_parts::Catalogue::embedded();
//! let timer_use = TimerUse::of(catalogue.part("stm32f411")?, "tim3").clocked(mhz(96).exactly());
//! let found = derive(&timer_use, &Target::frequency(khz(25)).duty(percent(35)))?;
//! let again = Setting::evaluate(&found.timer, mhz(96), found.best.setting.plan.clone())?;
//! assert_eq!(again, found.best.setting);
//! assert_eq!(again.outputs[0].duty, percent(35));
//! # Ok::<(), kairotic_core::Error>(())
//! ```

pub(crate) mod active;
mod compare_scale;
mod counting;
pub(crate) mod dead_time;
pub(crate) mod divider;
mod evaluate;
pub(crate) mod findings;
mod timing;
pub(crate) mod write;

pub use self::compare_scale::{CompareFit, CompareScale};
pub use self::counting::FreeRunning;
pub(crate) use self::evaluate::{is_past_top, ruler};
pub use self::timing::{ClockError, Jitter};
pub use self::write::{FieldWrite, Written};

use serde::Serialize;

use crate::error::{OrOverflow, Result};
use crate::part::Alignment;
use crate::quantity::{Duty, Frequency, Rational, Time};
use crate::target::Level;

/// What registers hold, before anything is made of it. `decode` of what `derive` writes gives the same plan again.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
pub struct RegisterPlan {
    /// The mode's name.
    pub mode: String,
    /// What is written to each divider.
    pub dividers: Vec<u64>,
    /// The top.
    pub top: u64,
    /// The used channels.
    pub channels: Vec<PlannedChannel>,
    /// The dead time between complementary outputs, where there is one.
    pub dead_time: Option<PlannedDeadTime>,
}

/// What a dead time generator's fields hold.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
pub struct PlannedDeadTime {
    /// What is written to its divider; zero where it has none.
    pub divider: u64,
    /// Its code.
    pub code: u64,
}

/// One used channel of a [`RegisterPlan`].
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
pub struct PlannedChannel {
    /// Its label.
    pub label: String,
    /// Its compare value; none where its compare register is the top.
    pub compare: Option<u64>,
    /// The tick at which its pulse starts.
    pub start: u64,
    /// The pin's level while it is active.
    pub level: Level,
}

/// One complete choice, with what it realises from a perfect clock.
#[derive(Debug, Clone, PartialEq, Serialize)]
pub struct Setting {
    /// What the registers hold.
    pub plan: RegisterPlan,
    /// What the mode is, in a few words.
    pub mode_title: String,
    /// Where the pulse lies.
    pub alignment: Alignment,
    /// The source clock.
    pub clock: Frequency,
    /// A division that no register changes, 1 where there is none.
    pub fixed_divider: u32,
    /// What each divider divides by.
    pub divisions: Vec<Rational>,
    /// Everything between the source clock and a counter tick.
    pub divider: Rational,
    /// The register that holds the top; none for a fixed length.
    pub top_register: Option<String>,
    /// Counter ticks in a period; where the mode dithers, in steps of `1 / 2^dither_bits` of one.
    pub ticks: u64,
    /// Bits of top and compare that only count on average.
    pub dither_bits: u32,
    /// One counter tick.
    pub tick: Time,
    /// Periods a second.
    pub frequency: Frequency,
    /// One period.
    pub period: Time,
    /// How long both complementary outputs are off between one and the other.
    pub dead_time: Option<Time>,
    /// How much periods differ, where a divider is fractional.
    pub jitter: Option<Jitter>,
    /// Duty levels from 0 to 100 %, less one.
    pub steps: u64,
    /// How much a step of the compare value changes the pulse.
    pub step: Time,
    /// How much a step of the compare value changes the duty.
    pub step_duty: Duty,
    /// What duties the compare register can reach.
    pub ends: Ends,
    /// The used channels.
    pub outputs: Vec<Output>,
}

/// The duties that a compare register can reach at the setting's top.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
pub struct Ends {
    /// The lowest.
    pub lowest: Duty,
    /// The highest.
    pub highest: Duty,
}

/// What one channel does.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
pub struct Output {
    /// The channel's label.
    pub channel: String,
    /// Its compare value; none where its compare register is the top.
    pub compare: Option<u64>,
    /// The pin's level while it is active.
    pub level: Level,
    /// When its pulse starts, counted from the start of the period; none where the mode cannot move it.
    pub start: Option<Time>,
    /// Counter ticks that it is active in a period, on average where the mode dithers.
    pub ticks: Rational,
    /// How long it is active in a period.
    pub pulse: Time,
    /// The share of the period that it is active.
    pub duty: Duty,
    /// Whether it never moves.
    pub constant: Option<Constant>,
    /// The fewest and the most source clocks of a pulse, where that is no whole number of them: a fractional divider
    /// hands out whole clocks, so that each pulse has the one or the other.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub pulse_clocks: Option<[i128; 2]>,
}

/// An output that never moves.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
#[serde(rename_all = "snake_case")]
pub enum Constant {
    /// Always active.
    Active,
    /// Never active.
    Inactive,
}

impl Setting {
    /// Counter ticks in a period, on average where the mode dithers.
    ///
    /// # Errors
    /// [`QuantityError::Overflow`](crate::quantity::QuantityError::Overflow).
    pub fn mean_ticks(&self) -> Result<Rational> {
        undithered(Rational::from(self.ticks), self.dither_bits)
    }

    /// `log2(steps)`.
    pub fn bits(&self) -> f64 {
        (self.steps as f64).log2()
    }
}

/// Steps of a mode that dithers as counter ticks.
fn undithered(steps: Rational, dither_bits: u32) -> Result<Rational> {
    steps.over(Rational::from(1_u64 << dither_bits.min(32))).or_overflow("number of ticks")
}
