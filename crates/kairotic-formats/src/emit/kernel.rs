//! Period and active time for the PWM channels of a kernel, as functions of a shell.

use kairotic_core::part::{Memory, ReachedBy};
use kairotic_core::quantity::Time;
use kairotic_core::target::Level;

use super::code::{CodeText, EmittedFrom};
use super::words::nanoseconds;
use super::{EmitError, Named};

/// The functions' text.
///
/// # Errors
/// [`EmitError::Values`] for a period that no attribute holds.
pub(super) fn script(named: &Named<'_>) -> Result<CodeText, EmitError> {
    let mut code = CodeText::default();
    let board = &named.board;
    code.line(
        "# To be read by a shell: `. FILE`. Each function takes the folder of a PWM channel of the kernel.\n",
    );
    code.line("# Sets period and active time, in nanoseconds. The active time is never longer than the period, in between too.");
    code.line(format!(
        "{board}_put() {{ # FOLDER PERIOD ACTIVE\n    \
             if [ \"$(cat \"$1/duty_cycle\")\" -le \"$2\" ]; then\n        \
                 echo \"$2\" > \"$1/period\"\n        \
                 echo \"$3\" > \"$1/duty_cycle\"\n    \
             else\n        \
                 echo \"$3\" > \"$1/duty_cycle\"\n        \
                 echo \"$2\" > \"$1/period\"\n    \
             fi\n\
         }}"
    ));
    let plan = named.request.plan;
    let signals = plan.signals.iter().zip(&named.signals).zip(&named.request.board.signals);
    for (place, ((signal, name), asked)) in signals.enumerate() {
        let Some(timer) = plan.timers.get(signal.timer) else { continue };
        code.from = EmittedFrom::Signal(place);
        let setting = &timer.setting;
        let output = setting.outputs.iter().find(|output| output.channel == signal.channel);
        let pulse = output.map_or(Time::ZERO, |output| output.pulse);
        let too_long = || EmitError::Values(format!("the period of {} in nanoseconds", signal.name));
        // Drivers round down: rounded up, it is what the hardware makes.
        let period = nanoseconds(setting.period).ok_or_else(too_long)?;
        let active = nanoseconds(pulse).ok_or_else(too_long)?.min(period);
        let upper = name.to_uppercase();
        let polarity = if asked.level == Level::Low { "inversed" } else { "normal" };
        code.line(format!(
            "\n# {}: channel {}/{}. {}",
            super::harmless(&signal.name),
            timer.timer.name,
            signal.channel,
            match &named.request.part.memory {
                Some(Memory { reach: ReachedBy::Attributes, .. }) =>
                    "What the hardware behind it makes of that is not known.".to_owned(),
                _ => format!(
                    "What is behind it makes {} with {} active.",
                    setting.frequency.rounded(9),
                    pulse.rounded(9)
                ),
            }
        ));
        code.line(format!("{upper}_PERIOD={period}\n{upper}_ACTIVE={active}"));
        code.line(format!(
            "{name}_start() {{ # FOLDER\n    \
                 # The polarity changes only while the output is off.\n    \
                 echo 0 > \"$1/enable\"\n    \
                 echo {polarity} > \"$1/polarity\"\n    \
                 {board}_put \"$1\" \"${upper}_PERIOD\" \"${upper}_ACTIVE\"\n    \
                 echo 1 > \"$1/enable\"\n\
             }}"
        ));
        code.line(format!("{name}_stop() {{ # FOLDER\n    echo 0 > \"$1/duty_cycle\"\n}}"));
    }
    Ok(code)
}
