//! The numbers of a board as TOML and JSON, for other generators.

use kairotic_core::program::{Action, RegisterPlace};
use kairotic_core::setting::Written;
use serde::Serialize;

use super::code::{CodeText, EmittedFile};
use super::{EmitError, Named};

#[derive(Serialize)]
struct BoardValues<'a> {
    board: &'a str,
    part: &'a str,
    signals: Vec<SignalValues<'a>>,
    steps: Vec<StepValues<'a>>,
}

/// One signal. What is not whole is a fraction, as text.
#[derive(Serialize)]
struct SignalValues<'a> {
    name: &'a str,
    timer: &'a str,
    channel: &'a str,
    #[serde(skip_serializing_if = "Option::is_none")]
    pin: Option<&'a str>,
    clock_hz: String,
    frequency_hz: String,
    divider: String,
    top: u64,
    ticks: u64,
    #[serde(skip_serializing_if = "Option::is_none")]
    compare: Option<u64>,
    compare_lowest: u64,
    compare_highest: u64,
    #[serde(skip_serializing_if = "Option::is_none")]
    compare_off: Option<u64>,
    #[serde(skip_serializing_if = "Option::is_none")]
    levels: Option<LevelValues>,
}

#[derive(Serialize)]
struct LevelValues {
    unit: &'static str,
    per_unit: u32,
    lowest: i64,
    highest: i64,
}

/// One step of the program.
#[derive(Default, Serialize)]
struct StepValues<'a> {
    action: &'static str,
    #[serde(skip_serializing_if = "Option::is_none")]
    name: Option<&'a str>,
    #[serde(skip_serializing_if = "Option::is_none")]
    address: Option<u64>,
    #[serde(skip_serializing_if = "Option::is_none")]
    bits: Option<u32>,
    #[serde(skip_serializing_if = "Option::is_none")]
    value: Option<u64>,
    #[serde(skip_serializing_if = "Option::is_none")]
    mask: Option<u64>,
    #[serde(skip_serializing_if = "Vec::is_empty")]
    data: Vec<u64>,
    why: &'a str,
}

/// The numbers, in both formats.
///
/// # Errors
/// [`EmitError::Values`] for what a format cannot hold.
pub(super) fn files(named: &Named<'_>) -> Result<[EmittedFile; 2], EmitError> {
    let values = values(named);
    let refused = |error: String| EmitError::Values(error);
    let toml = toml::to_string(&values).map_err(|error| refused(error.to_string()))?;
    let json = serde_json::to_string_pretty(&values).map_err(|error| refused(error.to_string()))?;
    let mut code = CodeText::default();
    code.line(toml.trim_end());
    let toml = code.file(named, format!("{}_values.toml", named.board), super::SHELL_COMMENT);
    let mut code = CodeText::default();
    // JSON has no comments: what the file says of itself is its first value, a line each.
    code.line(format!("  ],{}", json.strip_prefix('{').unwrap_or(&json)));
    let json = code.file(
        named,
        format!("{}_values.json", named.board),
        ["{\n  \"about\": [\n    \"", "    \"", "\""],
    );
    Ok([toml, json])
}

fn values<'a>(named: &'a Named<'_>) -> BoardValues<'a> {
    let plan = named.request.plan;
    let signals = plan.signals.iter().zip(&named.levels).filter_map(|(signal, levels)| {
        let timer = plan.timers.get(signal.timer)?;
        let setting = &timer.setting;
        let [compare_lowest, compare_highest] = signal.limits;
        Some(SignalValues {
            name: &signal.name,
            timer: &timer.timer.name,
            channel: &signal.channel,
            pin: timer.pins.get(&signal.channel).map(String::as_str),
            clock_hz: setting.clock.value().to_string(),
            frequency_hz: setting.frequency.value().to_string(),
            divider: setting.divider.to_string(),
            top: setting.plan.top,
            ticks: setting.ticks,
            compare: signal.compare,
            compare_lowest,
            compare_highest,
            compare_off: signal.off,
            levels: levels.as_ref().map(|levels| LevelValues {
                unit: levels.unit,
                per_unit: levels.per_unit,
                lowest: levels.lowest,
                highest: levels.highest,
            }),
        })
    });
    let steps =
        plan.program.steps.iter().map(|step| StepValues { why: &step.why, ..of_action(&step.action) });
    BoardValues {
        board: &named.board,
        part: &plan.program.part,
        signals: signals.collect(),
        steps: steps.collect(),
    }
}

fn of_action(action: &Action) -> StepValues<'_> {
    fn of<'a>(action: &'static str, register: &'a RegisterPlace) -> StepValues<'a> {
        let (name, bits) = (Some(register.name.as_str()), Some(register.bits));
        StepValues { action, name, address: register.address, bits, ..StepValues::default() }
    }
    match action {
        Action::Write(write) => {
            let value = match write.value {
                Written::Number(value) => Some(value),
                Written::AddressOf(_) => None,
            };
            StepValues { value, mask: Some(write.mask), ..of("write", &write.register) }
        }
        Action::Until { register, mask, value } => {
            StepValues { value: Some(*value), mask: Some(*mask), ..of("until", register) }
        }
        Action::Programmed { register, mask, value, .. } => {
            StepValues { value: Some(*value), mask: Some(*mask), ..of("programmed", register) }
        }
        Action::Delay { time } => StepValues {
            action: "delay_ns",
            value: super::words::nanoseconds(*time),
            ..StepValues::default()
        },
        Action::Buffer { name, bits, words } => StepValues {
            action: "buffer",
            name: Some(name),
            bits: Some(*bits),
            data: words.clone(),
            ..StepValues::default()
        },
        Action::Transfer { register, address, bytes, .. } => StepValues {
            action: "transfer",
            name: Some(register),
            address: Some((*address).into()),
            data: bytes.iter().map(|byte| u64::from(*byte)).collect(),
            ..StepValues::default()
        },
        Action::Attribute { name, value, .. } => {
            StepValues { action: "attribute", name: Some(name), value: Some(*value), ..StepValues::default() }
        }
        Action::Supply { function } => {
            StepValues { action: "supply", name: Some(function), ..StepValues::default() }
        }
    }
}
