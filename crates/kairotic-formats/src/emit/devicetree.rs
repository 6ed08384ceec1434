//! A device tree's overlay for a part that a kernel drives: the provider of the channels, and who takes them.

use kairotic_core::board::PlannedSignal;
use kairotic_core::load::{Fan, Kind};
use kairotic_core::part::{KernelDriver, ReachedBy};
use kairotic_core::quantity::Rational;
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
        consumer(&mut code, named, place, &name.replace('_', "-"), &pwms);
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

/// Who takes a channel: what the load's kind has a usual binding for, else a node of one's own.
fn consumer(code: &mut CodeText, named: &Named<'_>, place: usize, name: &str, pwms: &str) {
    let board = named.request.board;
    let load = board.signals.get(place).and_then(|signal| board.load_of(signal)).map(|load| &load.kind);
    match load {
        Some(Kind::Fan(fan)) => code.line(format!(
            "\t{name} {{\n\t\tcompatible = \"pwm-fan\";\n\t\tpwms = {pwms};\n\t\t\
             cooling-levels = <{}>;\n\t\t#cooling-cells = <2>;\n\t}};",
            cooling_levels(fan)
        )),
        Some(Kind::Lamp(_)) => code.line(format!(
            "\t{name} {{\n\t\tcompatible = \"pwm-leds\";\n\n\t\tled-0 {{\n\t\t\tlabel = \"{name}\";\n\t\t\tpwms = {pwms};\n\t\t\t\
             max-brightness = <255>;\n\t\t}};\n\t}};"
        )),
        _ => code.line(format!(
            "\t/* A driver of your own says what this is compatible with. */\n\t{name} {{\n\t\tpwms = {pwms};\n\t\tpwm-names = \"{name}\";\n\t}};"
        )),
    }
}

/// Standing still, and four speeds from the slowest that the fan keeps to full, of 255.
fn cooling_levels(fan: &Fan) -> String {
    let lowest = fan.lowest.value().times(Rational::whole(255)).map_or(0, Rational::ceiling).clamp(0, 255);
    let levels = std::iter::once(0).chain((0..=3).map(|step| lowest + (255 - lowest) * step / 3));
    levels.map(|level| level.to_string()).collect::<Vec<_>>().join(" ")
}
