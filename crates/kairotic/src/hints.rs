//! What to try, in the words of the command line: the core's remedies and errors know no options.

use kairotic_core::accuracy::{Change, Improvement};
use kairotic_core::finding::{Finding, Remedy};

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
        Remedy::BetterRecorder => "a recorder with a better clock (--recorder)".to_owned(),
        other => other.to_string(),
    }
}

/// A change that makes a budget smaller, with the registers that go with it.
pub fn of_improvement(improvement: &Improvement) -> String {
    let change = match &improvement.change {
        Change::ExactSetting => "the same timer with derive --prefer exact".to_owned(),
        other => other.to_string(),
    };
    let registers = improvement.registers.as_ref().map(|(divider, top)| {
        let top = top.as_ref().map(|(name, top)| format!(", {name} {top}")).unwrap_or_default();
        format!(": divide by {}{top}", divider.mixed())
    });
    format!("{change}{}", registers.unwrap_or_default())
}

/// A quantity as it is typed: without the blank before its unit.
fn typed(text: &str) -> String {
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
