//! A device tree's overlay for a part that a kernel drives: the provider of the channels, and who takes them.

use kairotic_core::board::{Consumer, PlannedSignal};
use kairotic_core::load::Kind;
use kairotic_core::part::{KernelDriver, ReachedBy};
use kairotic_core::quantity::{Rational, Voltage};
use kairotic_core::target::Level;

use super::code::{CodeText, EmittedFrom};
use super::words::nanoseconds;
use super::{EmitError, Named};

/// The overlay's text.
///
/// # Errors
/// [`EmitError::NoKernel`] for a part that the catalogue knows no driver of; [`EmitError::Values`] for a period that no
/// cell holds, and for an inverted channel of a provider that has no flags.
pub(super) fn overlay(named: &Named<'_>) -> Result<CodeText, EmitError> {
    let part = named.request.part;
    let driver = part.kernel.as_ref().ok_or_else(|| EmitError::NoKernel(part.name.clone()))?;
    let mut code = CodeText::default();
    code.line("/dts-v1/;\n/plugin/;\n");
    provider(&mut code, named, driver);
    code.line("&{/} {");
    let signals = named.request.plan.signals.iter().zip(&named.signals).enumerate();
    for (place, (signal, name)) in signals {
        code.from = EmittedFrom::Signal(place);
        if place > 0 {
            code.line("");
        }
        let pwms = channel(named, driver, place, signal)?;
        consumer(&mut code, named, place, &name.replace('_', "-"), &pwms)?;
    }
    code.from = EmittedFrom::Board;
    code.line("};");
    Ok(code)
}

/// The part itself, where it is at the end of a bus; one in the processor is in the tree already, and is switched on.
fn provider(code: &mut CodeText, named: &Named<'_>, driver: &KernelDriver) {
    let reach = named.request.part.memory.as_ref().map(|memory| &memory.reach);
    match (reach, &driver.compatible) {
        (Some(ReachedBy::I2c { address }), Some(compatible)) => code.line(format!(
            "/* `i2c` is the label of the bus in the tree that this is laid over. */\n\
             &i2c {{\n\t#address-cells = <1>;\n\t#size-cells = <0>;\n\n\tpwm: pwm@{address:x} {{\n\t\t\
             compatible = \"{compatible}\";\n\t\treg = <0x{address:02x}>;\n\t\t#pwm-cells = <{}>;\n\t}};\n}};\n",
            driver.cells
        )),
        _ => code.line(
            "/* `pwm` is the label of the device in the tree that this is laid over. */\n&pwm {\n\tstatus = \"okay\";\n};\n",
        ),
    }
}

/// The cells of a channel.
fn channel(
    named: &Named<'_>,
    driver: &KernelDriver,
    place: usize,
    signal: &PlannedSignal,
) -> Result<String, EmitError> {
    let (part, plan) = (named.request.part, named.request.plan);
    let no_room = |what: String| EmitError::Values(what);
    let timer =
        plan.timers.get(signal.timer).ok_or_else(|| no_room(format!("the timer of {}", signal.name)))?;
    let number = part.kernel_channel(&timer.timer.name, &signal.channel);
    let number = number.ok_or_else(|| no_room(format!("the channel of {}", signal.name)))?;
    let period = nanoseconds(timer.setting.period).filter(|period| u32::try_from(*period).is_ok());
    let period =
        period.ok_or_else(|| no_room(format!("the period of {} in a cell of 32 bits", signal.name)))?;
    let asked = named.request.board.signals.get(place);
    let inverted = asked.is_some_and(|asked| asked.level == Level::Low);
    match (driver.cells, inverted) {
        (3.., inverted) => Ok(format!("<&pwm {number} {period} {}>", u8::from(inverted))),
        (_, false) => Ok(format!("<&pwm {number} {period}>")),
        (_, true) => Err(no_room(format!("the polarity of {} in two cells", signal.name))),
    }
}

/// Who takes a channel: what the board says, else what the load's kind has a usual binding for.
fn consumer(
    code: &mut CodeText,
    named: &Named<'_>,
    place: usize,
    name: &str,
    pwms: &str,
) -> Result<(), EmitError> {
    let board = named.request.board;
    let Some(signal) = board.signals.get(place) else { return Ok(()) };
    let load = board.load_of(signal).map(|load| &load.kind);
    let by_load = match load {
        Some(Kind::Fan(_)) => Consumer::Fan,
        Some(Kind::Lamp(_)) => Consumer::Leds,
        _ => Consumer::Plain,
    };
    let lines = match signal.consumer.unwrap_or(by_load) {
        Consumer::Fan => {
            let levels = cooling_levels(load);
            format!(
                "compatible = \"pwm-fan\";\npwms = {pwms};\ncooling-levels = <{levels}>;\n#cooling-cells = <2>;"
            )
        }
        Consumer::Leds => format!(
            "compatible = \"pwm-leds\";\n\nled-0 {{\n\tlabel = \"{name}\";\n\tpwms = {pwms};\n\tmax-brightness = <255>;\n}};"
        ),
        Consumer::Backlight => format!(
            "compatible = \"pwm-backlight\";\npwms = {pwms};\nbrightness-levels = <0 255>;\n\
             num-interpolated-steps = <255>;\ndefault-brightness-level = <255>;"
        ),
        Consumer::Beeper => {
            let hertz = beeps_at(named, place);
            format!("compatible = \"pwm-beeper\";\npwms = {pwms};\nbeeper-hz = <{hertz}>;")
        }
        Consumer::Regulator { output } => {
            let [low, high] = [microvolts(name, output.low)?, microvolts(name, output.high)?];
            format!(
                "compatible = \"pwm-regulator\";\npwms = {pwms};\nregulator-name = \"{name}\";\n\
                 regulator-min-microvolt = <{low}>;\nregulator-max-microvolt = <{high}>;"
            )
        }
        Consumer::Plain => {
            code.line("\t/* A driver of your own says what this is compatible with. */");
            format!("pwms = {pwms};\npwm-names = \"{name}\";")
        }
    };
    let lines: String = lines
        .lines()
        .map(|line| if line.is_empty() { "\n".to_owned() } else { format!("\t\t{line}\n") })
        .collect();
    code.line(format!("\t{name} {{\n{lines}\t}};"));
    Ok(())
}

/// The frequency that is wanted of a beeper's signal, in whole hertz.
fn beeps_at(named: &Named<'_>, place: usize) -> i128 {
    let plan = named.request.plan;
    let timer = plan.signals.get(place).and_then(|signal| plan.timers.get(signal.timer));
    let exact = timer.map_or(Rational::ZERO, |timer| timer.setting.frequency.value());
    let rounded = Rational::new(1, 2).and_then(|half| exact.plus(half));
    rounded.unwrap_or(exact).floor()
}

/// A voltage as a regulator's binding takes it.
fn microvolts(name: &str, voltage: Voltage) -> Result<u32, EmitError> {
    let exact = voltage.value().times(Rational::whole(1_000_000));
    let whole = exact.filter(|exact| exact.is_whole()).and_then(|exact| u32::try_from(exact.floor()).ok());
    whole.ok_or_else(|| EmitError::Values(format!("{voltage} of {name} as whole microvolts in a cell")))
}

/// Standing still, and four speeds from the slowest that the fan keeps to full, of 255.
fn cooling_levels(load: Option<&Kind>) -> String {
    let lowest = match load {
        Some(Kind::Fan(fan)) => fan.lowest.value(),
        _ => Rational::ZERO,
    };
    let lowest = lowest.times(Rational::whole(255)).map_or(0, Rational::ceiling).clamp(0, 255);
    let mut levels: Vec<i128> =
        std::iter::once(0).chain((0..=3).map(|step| lowest + (255 - lowest) * step / 3)).collect();
    // A fan that keeps any speed stands still at its slowest.
    levels.dedup();
    levels.iter().map(|level| level.to_string()).collect::<Vec<_>>().join(" ")
}
