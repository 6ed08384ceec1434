//! What can be wrong with a setting: the registry of findings, one file each.
//!
//! A finding has a name, a severity, a sentence with the numbers in it, and a remedy with concrete values. The rooms
//! that can see a fault call the constructor here; `docs/findings.md` explains each name to a reader.

pub mod audible_frequency;
pub mod below_the_floor;
pub mod bus_clock_suspected;
pub mod catalogue_unsure;
pub mod cause_undecided;
pub mod clock_above_maximum;
pub mod clock_drifts;
pub mod clock_error_above_need;
pub mod clock_off;
pub mod compare_past_top;
pub mod counter_overflows;
pub mod divider_off_by_one;
pub mod duty_below_start;
pub mod end_outside_duty;
pub mod few_steps_in_span;
pub mod fractional_jitter;
pub mod frame_rate_outside_load;
pub mod frequency_unexplained;
pub mod full_on_unreachable;
pub mod glitches_seen;
pub mod input_wider_than_compare;
pub mod jitter_unplanned;
pub mod line_does_not_fit;
pub mod map_overflow;
pub mod off_by_one;
pub mod outside_tolerance;
pub mod pulse_outside_load;
pub mod pulse_under_half_step;
pub mod pulses_wrong;
pub mod reversal_without_pause;
pub mod rounded_step_drifts;
pub mod settings_left_out;
pub mod signal_missing;
pub mod single_period;
pub mod speed_step_too_coarse;
pub mod spike_at_zero;
pub mod too_few_steps;
pub mod top_off_by_one;
pub mod update_not_buffered;
pub mod visible_flicker;
pub mod volts_above_rating;
pub mod window_too_short;

/// One thing that is or may be wrong.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Finding {
    /// Its kebab-case name.
    pub name: &'static str,
    /// How bad it is.
    pub severity: Severity,
    /// One sentence with the numbers in it.
    pub message: String,
    /// What to do, with concrete values.
    pub remedy: String,
}

/// How bad a finding is, worst first.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord)]
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

/// The names of all findings, in alphabetical order.
pub const NAMES: [&str; 41] = [
    audible_frequency::NAME,
    below_the_floor::NAME,
    bus_clock_suspected::NAME,
    catalogue_unsure::NAME,
    cause_undecided::NAME,
    clock_above_maximum::NAME,
    clock_drifts::NAME,
    clock_error_above_need::NAME,
    clock_off::NAME,
    compare_past_top::NAME,
    counter_overflows::NAME,
    divider_off_by_one::NAME,
    duty_below_start::NAME,
    end_outside_duty::NAME,
    few_steps_in_span::NAME,
    fractional_jitter::NAME,
    frame_rate_outside_load::NAME,
    frequency_unexplained::NAME,
    full_on_unreachable::NAME,
    glitches_seen::NAME,
    input_wider_than_compare::NAME,
    jitter_unplanned::NAME,
    line_does_not_fit::NAME,
    map_overflow::NAME,
    outside_tolerance::NAME,
    pulse_outside_load::NAME,
    pulse_under_half_step::NAME,
    pulses_wrong::NAME,
    reversal_without_pause::NAME,
    rounded_step_drifts::NAME,
    settings_left_out::NAME,
    signal_missing::NAME,
    single_period::NAME,
    speed_step_too_coarse::NAME,
    spike_at_zero::NAME,
    too_few_steps::NAME,
    top_off_by_one::NAME,
    update_not_buffered::NAME,
    visible_flicker::NAME,
    volts_above_rating::NAME,
    window_too_short::NAME,
];

/// Sorts findings, worst first; equals stay as they came.
pub fn sort(findings: &mut [Finding]) {
    findings.sort_by_key(|finding| finding.severity);
}

#[cfg(test)]
mod tests;
