//! Kairotic as a library: registers for a signal, the edges that they make, and the way back from them.

use kairotic_core::decode::{DecodeRequest, decode};
use kairotic_core::part::{Assignment, TimerUse};
use kairotic_core::quantity::units::{khz, mhz, ns, percent, us};
use kairotic_core::search::derive;
use kairotic_core::simulation::{FaultInjection, Wave, WaveRequest, lines};
use kairotic_core::target::Target;
use kairotic_parts::Catalogue;

fn main() -> kairotic_core::Result<()> {
    let catalogue = Catalogue::embedded();
    let timer_use = TimerUse::of(catalogue.part("stm32f411")?, "tim3").clocked(mhz(96).exactly());
    let derivation = derive(&timer_use, &Target::frequency(khz(25)).duty(percent(35)))?;
    let write = derivation.best.registers.iter().map(|write| format!("{}={}", write.name(), write.written));
    let write: Vec<String> = write.collect();
    println!("{}", write.join(" "));

    let pins = lines(&derivation.timer, &derivation.best.setting, "motor")?;
    let request =
        WaveRequest { lines: pins, length: us(100), tick: ns(1), rehearsal: FaultInjection::PERFECT };
    Wave::of(&request)?.for_each(|edge| println!("{} ns: {:?}", edge.at, edge.level));

    let registers = write.iter().map(|text| text.parse::<Assignment>()).collect::<Result<_, _>>()?;
    let reading = decode(&DecodeRequest::plain(timer_use, registers))?;
    println!("{}", reading.setting.frequency);
    Ok(())
}
