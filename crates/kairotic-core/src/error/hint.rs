//! What to try instead, in neutral words: whoever knows a command line may know better ones.

use super::Error;
use crate::quantity::Figure;

impl Error {
    /// What to try instead, one way a line, where there is something to say.
    pub fn hint(&self) -> Option<String> {
        Some(match self {
            Self::Quantity(error) => return error.hint(),
            Self::RangeReversed(ends) if ends.low == ends.high => "give two different ends".to_owned(),
            Self::RangeReversed(ends) => {
                let typed = |end: &Figure| end.to_string().replace(' ', "");
                format!("write {}..{}", typed(&ends.high), typed(&ends.low))
            }
            Self::PulseRange { .. } => "lower the frequency, or shorten the pulse".to_owned(),
            Self::UnknownName { known, nearest, kind, .. } => match (nearest.is_empty(), known.is_empty()) {
                (false, _) => format!("did you mean {}?", nearest.join(" or ")),
                (true, false) => format!("it has {}", listed(known)),
                (true, true) => format!("leave the {kind} out"),
            },
            Self::NoSignal { .. } => "give a duty or a pulse, or a signal of a board that has one".to_owned(),
            Self::NoPopulation => {
                "give the clock a tolerance, as in 16MHz+-1%, or a load one in the board file".to_owned()
            }
            Self::ChannelTwice { .. } => "name each channel once".to_owned(),
            Self::TooFewChannels { .. } => "spread the signals over two timers".to_owned(),
            Self::NoMode { reason, .. } => reason.hint(),
            Self::NoInputs { instead, others, .. } => match (others.as_slice(), instead) {
                ([], None) => "a timer of another part".to_owned(),
                ([], Some(instead)) => format!("what can: {instead}"),
                _ => format!("timers of this part that do: {}", others.join(", ")),
            },
            Self::ClockTooFast(_) => "lower the clock, or accept the risk".to_owned(),
            Self::NoInversion { .. } => {
                "leave the output active high, and swap the levels in the load's wiring".to_owned()
            }
            Self::Unreachable(unreachable) => unreachable.hint(),
            Self::NoDeadTime { .. } => "a timer with complementary outputs".to_owned(),
            Self::NoClockTree { .. } => "state the timer's clock itself".to_owned(),
            Self::NoPinout { .. } => "name the timer and channel instead".to_owned(),
            Self::PinOutputs { timer: Some(_), .. } => "say which timer is meant".to_owned(),
            Self::PinOutputs { timer: None, .. } => {
                "that is the complement of a channel: ask for the channel itself".to_owned()
            }
            Self::NoSource { known, .. } => format!("its sources: {known}"),
            Self::ClockUnreachable(clock) => {
                format!("allow more, or start from another source: {}", clock.sources)
            }
            Self::JointUnreachable { sources, .. } => {
                format!("a timer with more bits or divisions, or another source: {sources}")
            }
            Self::NoLegalClock { sources, .. } => format!("start from another source: {sources}"),
            Self::NoPlace { .. } => {
                "let signals of one frequency share a timer, or give this one a place with `on`".to_owned()
            }
            Self::AnyPin { .. } => "name the timer, and perhaps the channel".to_owned(),
            Self::ClockOff { on, .. } => {
                format!("say what it will have, for example {on}")
            }
            Self::Gear { .. } => "for example 64, 63.68 or 32/11 * 26/9".to_owned(),
            Self::Slew { .. } => "for example 60deg in 120ms".to_owned(),
            Self::Kick { .. } => "for example 60% for 150ms".to_owned(),
            Self::StartAboveFastest { fastest, .. } => {
                format!("start at {} or less", fastest.to_string().replace(' ', ""))
            }
            Self::IsStepper { .. } => "plan a move of it".to_owned(),
            Self::RateAboveFastest { fastest, .. } => {
                format!("ask for {} or less", fastest.to_string().replace(' ', ""))
            }
            Self::NoMove { .. } => "give an end that is at least a step away".to_owned(),
            Self::TooManySteps { .. } => "plan a part of the way".to_owned(),
            Self::StepTooShort { .. } => "a slower rate, or a finer tick".to_owned(),
            Self::StepTooLong { .. } => {
                "start at a higher rate, or take a timer with more bits or divisions".to_owned()
            }
            Self::NoLevels { .. } => "take a timer or a mode that compares".to_owned(),
            Self::NotPlayed { .. } => {
                "play what does not move it, or the signals of its windings by themselves".to_owned()
            }
            Self::SequenceStep { problem, .. } => return problem.hint(),
            Self::SequenceTooLong { .. } => "a shorter one, begun again by the firmware".to_owned(),
            Self::NoSteps => "give at least one".to_owned(),
            Self::NoMap { .. } => {
                "give two different ends for inputs and compare values, or a wider word".to_owned()
            }
            Self::NoCalibration { .. } => {
                "observe the load at two or more different pulses or duties, all in one unit".to_owned()
            }
            Self::NothingToCalibrate { .. } => {
                "those that have are servo, speed-controller, motor, fan and heater".to_owned()
            }
            Self::LevelOutside(_) => "those are the load's ends, as the board file has them".to_owned(),
            Self::ClockIllegal { .. } => "choose among the legal clock settings of the part".to_owned(),
            Self::Bus { .. } => "for example apb1=4: a division, or the code of a switch".to_owned(),
            Self::Assignment { .. } => "for example PSC=39, CR1=0x80 or CTRLA.PRESCALER=0b011".to_owned(),
            Self::RegisterMissing { needed, why } => format!("add {needed}=VALUE: {why}"),
            Self::NoAddresses { .. } => "give the registers by name".to_owned(),
            Self::TimeBasesDiffer { .. } => "put one of them on another timer".to_owned(),
            Self::NoPlacement(conflict) => conflict.hint(),
            Self::PlacementUndecided => "give some of the signals a place with `on`".to_owned(),
            Self::FieldWrittenTwice { .. } => "put the signals on other timers".to_owned(),
            Self::NoRemap { timer, .. } => format!("take pins of one row of the pins of {timer}"),
            Self::RegisterTwice { name, .. } => format!("give {name} once"),
            Self::RegisterValue { legal, .. } | Self::RegisterClash { legal, .. } => {
                format!("legal: {legal}")
            }
            Self::RegisterRange { name, .. } => {
                format!("what was read out may be a whole register, or another one than {name}")
            }
            Self::BrokenPart { .. } => return None,
        })
    }
}

/// Names one behind the other; of very many only the first.
fn listed(names: &[String]) -> String {
    if names.len() <= MOST_LISTED {
        return names.join(", ");
    }
    let first: Vec<&str> = names.iter().take(FIRST_LISTED).map(String::as_str).collect();
    format!("{} and {} more", first.join(", "), names.len() - first.len())
}

/// More names than these are not listed: a person reads none of them then.
const MOST_LISTED: usize = 40;
/// How many of more are listed.
const FIRST_LISTED: usize = 12;
