//! What can be wrong with a setting, a design or a recording: the registry of findings, one file each.
//!
//! A finding is data: its figures, how bad it is, and what would mend it. [`Display`](fmt::Display) makes a sentence of
//! the figures; a [`Remedy`] is data again, which whoever shows it turns into what its user can do.
//!
//! ```
//! use kairotic_core::decode::{DecodeRequest, decode};
//! use kairotic_core::finding::{Finding, Severity};
//! # use kairotic_core::part::TimerUse;
//! # use kairotic_core::quantity::units::{khz, mhz, percent};
//! # use kairotic_core::target::Target;
//! # let catalogue = kairotic_parts::Catalogue::embedded();
//! let timer_use = TimerUse::of(catalogue.part("stm32f411")?, "tim3").clocked(mhz(96).exactly());
//! let registers = ["PSC=96".parse()?, "ARR=999".parse()?, "CCR1=350".parse()?];
//! let meant = DecodeRequest { expect: Some(khz(1)), ..DecodeRequest::plain(timer_use, registers.to_vec()) };
//! let findings = decode(&meant)?.findings;
//! let slip = findings.iter().find(|finding| finding.name() == "divider-off-by-one");
//! assert_eq!(slip.map(Finding::severity), Some(Severity::Error));
//! # Ok::<(), kairotic_core::Error>(())
//! ```

use std::fmt;

use serde::{Serialize, Serializer};

mod examples;
mod register_slip;
mod remedy;
#[cfg(test)]
mod tests;

pub use self::cause_undecided::Explanation;
pub use self::code_differs::CodeChange;
pub use self::counter_overflows::Overflow;
pub use self::examples::examples;
pub use self::few_steps_in_span::Place;
pub use self::outside_tolerance::Made;
pub use self::register_slip::RegisterSlip;
pub use self::remedy::Remedy;

/// What every finding has besides its figures.
trait Described: fmt::Display {
    /// Its kebab-case name.
    const NAME: &'static str;
    /// What it means and what to do, for a reader who meets it for the first time.
    const ABOUT: &'static str;

    /// How bad it is.
    fn severity(&self) -> Severity;

    /// What would mend it: any of them.
    fn remedies(&self) -> Vec<Remedy>;
}

/// How bad a finding is, worst first.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Serialize)]
#[serde(rename_all = "snake_case")]
pub enum Severity {
    /// The signal is not what was asked.
    Error,
    /// The signal may not be what was asked.
    Warning,
    /// Good to know.
    Note,
}

impl Severity {
    /// The word for it.
    pub const fn word(self) -> &'static str {
        match self {
            Self::Error => "error",
            Self::Warning => "warning",
            Self::Note => "note",
        }
    }
}

macro_rules! registry {
    ($($module:ident::$kind:ident),+ $(,)?) => {
        $(mod $module; pub use self::$module::$kind;)+

        /// One thing that is or may be wrong.
        #[derive(Debug, Clone, PartialEq)]
        #[non_exhaustive]
        pub enum Finding {
            $(#[doc = concat!("[`", stringify!($kind), "`].")] $kind($kind),)+
        }

        $(impl From<$kind> for Finding {
            fn from(data: $kind) -> Self {
                Self::$kind(data)
            }
        })+

        /// All findings by name, in alphabetical order, each with what it means and what to do.
        pub const ALL: &[(&str, &str)] = &[$(($kind::NAME, $kind::ABOUT)),+];

        impl Finding {
            /// Its kebab-case name.
            pub const fn name(&self) -> &'static str {
                match self {
                    $(Self::$kind(_) => $kind::NAME,)+
                }
            }

            /// How bad it is.
            pub fn severity(&self) -> Severity {
                match self {
                    $(Self::$kind(data) => data.severity(),)+
                }
            }

            /// What would mend it: any of them.
            pub fn remedies(&self) -> Vec<Remedy> {
                match self {
                    $(Self::$kind(data) => data.remedies(),)+
                }
            }
        }

        /// One sentence with the figures in it.
        impl fmt::Display for Finding {
            fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
                match self {
                    $(Self::$kind(data) => data.fmt(f),)+
                }
            }
        }

        /// Name, severity, the figures, the sentence and the remedies.
        impl Serialize for Finding {
            fn serialize<S: Serializer>(&self, serializer: S) -> Result<S::Ok, S::Error> {
                #[derive(Serialize)]
                struct Entry<'d, D> {
                    name: &'static str,
                    severity: Severity,
                    #[serde(flatten)]
                    figures: &'d D,
                    message: String,
                    remedies: Vec<Remedy>,
                }
                let (name, severity) = (self.name(), self.severity());
                let (message, remedies) = (self.to_string(), self.remedies());
                match self {
                    $(Self::$kind(figures) => {
                        Entry { name, severity, figures, message, remedies }.serialize(serializer)
                    })+
                }
            }
        }
    };
}

// A finding is listed here, and has its file.
registry! {
    audible_frequency::AudibleFrequency,
    below_the_floor::BelowTheFloor,
    board_file_wrong::BoardFileWrong,
    bus_clock_suspected::BusClockSuspected,
    catalogue_unsure::CatalogueUnsure,
    cause_undecided::CauseUndecided,
    clock_above_maximum::ClockAboveMaximum,
    clock_drifts::ClockDrifts,
    clock_error_above_need::ClockErrorAboveNeed,
    clock_off::ClockOff,
    code_differs::CodeDiffers,
    compare_past_top::ComparePastTop,
    counter_overflows::CounterOverflows,
    dead_band_swallows::DeadBandSwallows,
    direction_too_late::DirectionTooLate,
    divider_off_by_one::DividerOffByOne,
    duty_below_start::DutyBelowStart,
    end_outside_duty::EndOutsideDuty,
    faster_than_slew::FasterThanSlew,
    few_steps_in_span::FewStepsInSpan,
    fewer_levels::FewerLevels,
    fractional_jitter::FractionalJitter,
    frame_rate_outside_load::FrameRateOutsideLoad,
    frequency_unexplained::FrequencyUnexplained,
    full_on_unreachable::FullOnUnreachable,
    glitches_seen::GlitchesSeen,
    input_wider_than_compare::InputWiderThanCompare,
    interrupts_too_slow::InterruptsTooSlow,
    jitter_unplanned::JitterUnplanned,
    line_does_not_fit::LineDoesNotFit,
    map_overflow::MapOverflow,
    microsteps_alike::MicrostepsAlike,
    move_too_slow::MoveTooSlow,
    outside_tolerance::OutsideTolerance,
    program_incomplete::ProgramIncomplete,
    pulse_outside_load::PulseOutsideLoad,
    pulse_under_half_step::PulseUnderHalfStep,
    pulses_wrong::PulsesWrong,
    requirement_missed::RequirementMissed,
    reversal_without_pause::ReversalWithoutPause,
    rounded_step_drifts::RoundedStepDrifts,
    settings_left_out::SettingsLeftOut,
    signal_missing::SignalMissing,
    signal_not_made::SignalNotMade,
    signals_not_placed::SignalsNotPlaced,
    single_period::SinglePeriod,
    speed_step_too_coarse::SpeedStepTooCoarse,
    spike_at_zero::SpikeAtZero,
    step_pulse_cut::StepPulseCut,
    step_without_pulse::StepWithoutPulse,
    steps_off_ideal::StepsOffIdeal,
    teaches_at_full_throttle::TeachesAtFullThrottle,
    timed_move_drifts::TimedMoveDrifts,
    too_few_steps::TooFewSteps,
    top_not_buffered::TopNotBuffered,
    top_off_by_one::TopOffByOne,
    update_not_buffered::UpdateNotBuffered,
    visible_flicker::VisibleFlicker,
    volts_above_rating::VoltsAboveRating,
    window_too_short::WindowTooShort,
}

impl Finding {
    /// What would mend it, as one neutral clause.
    pub fn remedy(&self) -> String {
        self.remedies().iter().map(ToString::to_string).collect::<Vec<_>>().join("; or ")
    }
}

/// The reference page of all findings, in Markdown.
pub fn reference() -> String {
    let mut page = "# Findings\n\nA finding is one thing that is or may be wrong: a name, a severity, a sentence with the \
                    figures in it, and a remedy. `error` means that the signal is not what was asked, and the exit code \
                    is 1; `warning`, that it may not be; `note`, good to know.\n"
        .to_owned();
    let examples = examples().unwrap_or_default();
    for (name, about) in ALL {
        page.push_str(&format!("\n## {name}\n\n{about}\n"));
        if let Some(example) = examples.iter().find(|example| example.name() == *name) {
            let said = example.to_string();
            let stop = if said.ends_with('?') { "" } else { "." };
            page.push_str(&format!("\nFor example: {said}{stop}\n"));
        }
    }
    page
}

/// Sorts findings, worst first; equals stay as they came.
pub fn sort(findings: &mut [Finding]) {
    findings.sort_by_key(Finding::severity);
}

/// What a sentence calls a channel, where there is one.
fn channel(label: Option<&str>) -> String {
    label.map_or_else(|| "the channel of the span".to_owned(), |label| format!("channel {label}"))
}
