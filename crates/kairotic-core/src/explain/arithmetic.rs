//! The arithmetic of a setting, written out as on paper.

use serde::Serialize;

use crate::error::{OrOverflow, Result};
use crate::part::{CompareLaw, LinearLaw, PeriodLaw, Timer, law};
use crate::quantity::{Frequency, Rational, show};
use crate::search::RankedSetting;
use crate::setting::{Output, Setting};
use crate::target::{Active, Target};

/// One line of arithmetic.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
pub struct ArithmeticLine {
    /// What is computed.
    pub name: String,
    /// The formula with the numbers in it, and its result.
    pub sum: String,
}

fn line(name: impl Into<String>, sum: impl Into<String>) -> ArithmeticLine {
    ArithmeticLine { name: name.into(), sum: sum.into() }
}

/// A number exactly where that is short, else rounded and marked so.
fn number(value: Rational) -> String {
    show::decimal(value, 6).unwrap_or_else(|| format!("≈ {}", show::significant(value.approx(), 9)))
}

fn equals(value: Rational) -> String {
    let text = number(value);
    if text.starts_with('≈') { text } else { format!("= {text}") }
}

/// A number as a factor or a divisor: what has parts stands in brackets.
fn grouped(value: Rational) -> String {
    if value.is_whole() { value.to_string() } else { format!("({})", value.mixed()) }
}

/// How the leading setting comes from the target.
pub(crate) fn derivation(
    timer: &Timer,
    target: &Target,
    clock: Frequency,
    best: &RankedSetting,
) -> Result<Vec<ArithmeticLine>> {
    let setting = &best.setting;
    let mode = timer.mode(&setting.plan.mode)?;
    let wanted = target.wanted_frequency()?;
    let clocks = clock.ratio_to(wanted)?;
    let ideal = clocks.over(setting.divider).or_overflow("number of ticks in a period")?;
    let mut lines = vec![
        line("clocks wanted", format!("{clock} / {wanted} {} source clocks a period", equals(clocks))),
        line("ideal ticks", format!("{} / {} {}", number(clocks), grouped(setting.divider), equals(ideal))),
    ];
    lines.extend(realised(timer, setting)?);
    for (ask, output) in target.asks.iter().zip(&setting.outputs) {
        let ideal = match ask.active {
            Active::Duty(duty) => {
                let ticks = duty.value().times(setting.mean_ticks()?).or_overflow("duty")?;
                format!("{duty} × {} {} ticks", grouped(setting.mean_ticks()?), equals(ticks))
            }
            Active::Pulse(pulse) => {
                let ticks = pulse.ratio_to(setting.tick)?;
                format!("{pulse} × {clock} / {} {} ticks", grouped(setting.divider), equals(ticks))
            }
        };
        lines.push(line(format!("wanted on {}", output.channel), ideal));
        if let (CompareLaw::Linear(law), Some(compare)) = (&mode.compare, output.compare) {
            lines.push(line(format!("active on {}", output.channel), active(law, setting, compare, output)));
        }
    }
    let bonus = |held: bool, word: &str| if held { format!(" + 1 ({word})") } else { String::new() };
    let unusual = if mode.usual { "" } else { " - 1 (not a usual mode)" };
    lines.push(line(
        "score",
        format!(
            "log2({}){}{}{unusual} = {}",
            best.steps(),
            bonus(best.fit.frequency_exact, "exact frequency"),
            bonus(
                best.signals_exact(),
                if target.asks.is_empty() { "no signal to miss" } else { "exact signals" }
            ),
            show::significant(best.fit.score, 4)
        ),
    ));
    Ok(lines)
}

/// What registers make, from the divider to each output.
pub(crate) fn reading(timer: &Timer, setting: &Setting) -> Result<Vec<ArithmeticLine>> {
    let mode = timer.mode(&setting.plan.mode)?;
    let mut lines = realised(timer, setting)?;
    for output in &setting.outputs {
        if let (CompareLaw::Linear(law), Some(compare)) = (&mode.compare, output.compare) {
            lines.push(line(format!("active on {}", output.channel), active(law, setting, compare, output)));
            let sum = format!(
                "{} × {} / {} {} s",
                number(output.ticks),
                grouped(setting.divider),
                setting.clock,
                equals(output.pulse.value())
            );
            lines.push(line(format!("pulse on {}", output.channel), sum));
        }
    }
    Ok(lines)
}

fn realised(timer: &Timer, setting: &Setting) -> Result<Vec<ArithmeticLine>> {
    let mode = timer.mode(&setting.plan.mode)?;
    let mut factors: Vec<String> = setting.divisions.iter().map(|division| grouped(*division)).collect();
    if setting.fixed_divider != 1 {
        factors.insert(0, format!("{} (fixed)", setting.fixed_divider));
    }
    let product = match factors.as_slice() {
        [fixed] if setting.divisions.is_empty() => fixed.clone(),
        [] | [_] => setting.divider.mixed(),
        several => format!("{} = {}", several.join(" × "), setting.divider.mixed()),
    };
    let mean = setting.mean_ticks()?;
    let clocks = setting.divider.times(mean).or_overflow("period")?;
    let made = period(mode.period, setting.plan.top);
    let ticks = match setting.dither_bits {
        0 => format!("{made} = {}", setting.ticks),
        bits => format!("({made}) / {} = {} on average", 1_u64 << bits.min(32), mean.mixed()),
    };
    Ok(vec![
        line("divider", product),
        line("ticks", ticks),
        line("clocks made", format!("{} × {} {}", grouped(setting.divider), grouped(mean), equals(clocks))),
        line(
            "frequency",
            format!("{} / {} {} Hz", setting.clock, number(clocks), equals(setting.frequency.value())),
        ),
    ])
}

fn period(law: PeriodLaw, top: u64) -> String {
    law::sum([factor(law.per_top.into(), top), law::constant(law.plus.into())])
}

fn active(linear: &LinearLaw, setting: &Setting, compare: u64, output: &Output) -> String {
    let sum = law::sum([
        factor(linear.per_top.into(), setting.plan.top),
        factor(linear.gain.into(), compare),
        law::constant(linear.plus.into()),
    ]);
    let sum = match linear.per_tick << setting.dither_bits.min(16) {
        1 => sum,
        per_tick if sum.contains(' ') => format!("({sum}) / {per_tick}"),
        per_tick => format!("{sum} / {per_tick}"),
    };
    // A bare compare value is its own result.
    if sum == number(output.ticks) {
        format!("{sum} ticks")
    } else {
        format!("{sum} {} ticks", equals(output.ticks))
    }
}

fn factor(factor: i64, value: u64) -> String {
    law::term(factor, &value.to_string()).replace('*', " × ")
}
