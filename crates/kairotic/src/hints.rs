//! What to try, in the words of the command line: the core's remedies and errors know no options.

use kairotic_core::Error;
use kairotic_core::accuracy::{Improvement, SpecChange};
use kairotic_core::error::NoModeReason;
use kairotic_core::finding::{Finding, Remedy};
use kairotic_core::quantity::show;

/// The remedies of a finding in one clause.
pub fn of_finding(finding: &Finding) -> String {
    finding.remedies().iter().map(of_remedy).collect::<Vec<_>>().join("; or ")
}

/// A remedy, with the option that does it where one does.
pub fn of_remedy(remedy: &Remedy) -> String {
    match remedy {
        Remedy::WidenTolerance(tolerance) => {
            format!("tolerate it with --within {}", typed(&tolerance.told()))
        }
        Remedy::UseMode { mode, reaches } => format!("--mode {mode} reaches {reaches}"),
        Remedy::UseBufferedMode(mode) => format!("--mode {mode} of the same timer buffers it"),
        Remedy::FindClock { suspect, given } => format!(
            "find out which clock reaches the counter: decode again with --clock {}, or derive for {}",
            typed(&suspect.rounded(9)),
            given.rounded(9)
        ),
        Remedy::AllowTime(time) => format!("--in {}", typed(&time.rounded(6))),
        Remedy::AllowTicks(ticks) => format!("--max-error {}", show::significant(ticks.approx(), 4)),
        Remedy::RateAtMost(most) => format!("--rate {}", typed(&most.rounded(6))),
        Remedy::WholeDivision => "a division without a fraction: --prefer exact, or another clock".to_owned(),
        Remedy::StayInsideSpan => {
            "stay inside the load's span, or correct the span in the board file".to_owned()
        }
        Remedy::DeclarePause => {
            "let it come to rest first, and state how long that takes: pause = \"200ms\"".to_owned()
        }
        Remedy::NarrowSearch => "ask for less: a narrower --within, one --mode, or --min-bits".to_owned(),
        Remedy::ShorterWindow => {
            "a shorter --window, or read the counter more often and add the differences".to_owned()
        }
        Remedy::WindowAtLeast(window) => format!("a --window of at least {}", window.rounded(6)),
        Remedy::MeasureClock => {
            "measure the clock's frequency, and derive for that (budget --measured)".to_owned()
        }
        Remedy::FitClock => "measure --fit-clock tells what the clock has, and derives for it".to_owned(),
        Remedy::MeasureWarm => {
            "measure again when the oscillator is warm; `budget` shows what temperature may do".to_owned()
        }
        Remedy::StateInputs => {
            "look it up in the part's manual, and state it as `inputs` in the family file".to_owned()
        }
        Remedy::MakeCode => "emit BOARD --to FOLDER makes it".to_owned(),
        Remedy::MakeCodeAgain => "emit makes it again, with the line at its top".to_owned(),
        Remedy::LookAtBudget => "budget says what takes most of it".to_owned(),
        Remedy::BetterRecorder => "a recorder with a better clock (--recorder)".to_owned(),
        other => other.to_string(),
    }
}

/// What to try after an error, with the options that do it.
pub fn of_error(error: &Error) -> Option<String> {
    Some(match error {
        Error::ChannelTwice { .. } => "name each channel once, as in --duty 1=35% --duty 2=50%".to_owned(),
        Error::NoMode { reason, .. } => match **reason {
            NoModeReason::NoDither => {
                "leave --dither away, or choose a timer whose page in `kairotic parts` names a mode that dithers"
                    .to_owned()
            }
            NoModeReason::NoStartOffset => {
                "leave --phase away, or choose a timer with a start offset".to_owned()
            }
            NoModeReason::SquareOnly => {
                "ask for a duty of 50 %, or leave --mode out or name another".to_owned()
            }
            _ => return error.hint(),
        },
        Error::IsStepper { signal } => format!("move --board FILE --signal {signal} --to ANGLE plans it"),
        Error::ClockTooFast(_) => "lower the clock, or accept the risk with --allow-overclock".to_owned(),
        Error::NoInversion { .. } => "leave --active out and swap the levels in the load's wiring".to_owned(),
        Error::NoDeadTime { .. } => {
            "a timer whose page in `kairotic parts` names complementary outputs".to_owned()
        }
        Error::NoClockTree { .. } => {
            "derive and decode take the timer's clock itself, with --clock".to_owned()
        }
        Error::NoPinout { .. } => "name the timer and channel instead: --on PART/TIMER/CHANNEL".to_owned(),
        Error::PinOutputs { part, timer: Some(timer), pin, .. } => {
            format!("say which: --on {part}/{timer} --pin {pin}")
        }
        Error::ClockUnreachable(clock) => {
            format!("allow more with --within, or start from another --source: {}", clock.sources)
        }
        Error::JointUnreachable { sources, .. } => {
            format!("a timer with more bits or divisions, or another --source: {sources}")
        }
        Error::AnyPin { part, .. } => {
            format!("name the timer, and perhaps the channel: --on {part}/TIMER/CHANNEL")
        }
        Error::ClockOff { on, .. } => {
            format!("say what it will have, for example --clock {}", typed(&on.told()))
        }
        Error::NoMap { .. } => {
            "give two different ends for inputs and compare values, or a wider --word".to_owned()
        }
        Error::ClockIllegal { .. } => "`kairotic clock` lists what is legal".to_owned(),
        other => return other.hint(),
    })
}

/// A change that makes a budget smaller, with the registers that go with it.
pub fn of_improvement(improvement: &Improvement) -> String {
    let change = match &improvement.change {
        SpecChange::ExactSetting => "the same timer with derive --prefer exact".to_owned(),
        other => other.to_string(),
    };
    let registers = improvement.registers.as_ref().map(|(divider, top)| {
        let top = top.as_ref().map(|(name, top)| format!(", {name} {top}")).unwrap_or_default();
        format!(": divide by {}{top}", divider.mixed())
    });
    format!("{change}{}", registers.unwrap_or_default())
}

/// A quantity as it is typed: without the blank before its unit.
pub fn typed(text: &str) -> String {
    text.replace(' ', "")
}

#[cfg(test)]
mod tests {
    use super::of_remedy;
    use kairotic_core::finding::Remedy;

    #[test]
    fn a_remedy_names_the_option_as_it_is_typed() {
        let widen = Remedy::WidenTolerance("577ppm".parse().unwrap());
        assert_eq!(of_remedy(&widen), "tolerate it with --within 577ppm");
        let clocks = Remedy::FindClock { suspect: "42MHz".parse().unwrap(), given: "84MHz".parse().unwrap() };
        assert!(of_remedy(&clocks).ends_with("decode again with --clock 42MHz, or derive for 84 MHz"));
        // What needs no option is said as the core says it.
        assert_eq!(of_remedy(&Remedy::CheckPin), Remedy::CheckPin.to_string());
    }
}
