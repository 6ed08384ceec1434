//! Programs from reset: nothing is lost on the way from a setting to registers, the order is safe, and the numbers are
//! those of the reference manuals.

use std::collections::BTreeMap;
use std::sync::LazyLock;

use kairotic_core::Error;
use kairotic_core::decode::{DecodeRequest, decode};
use kairotic_core::part::{Access, Assignment, Part, Timer, TimerUse};
use kairotic_core::program::{Action, ClockRoute, Phase, Program, ProgramRequest, TimerPlan, program};
use kairotic_core::quantity::units::{hz, khz, mhz, percent, us};
use kairotic_core::quantity::{Deviation, Frequency, Rational, Tolerance};
use kairotic_core::search::derive;
use kairotic_core::setting::{RegisterPlan, Written};
use kairotic_core::target::Target;

use crate::catalogue::{TIMERS, part};

/// A timer with some setting from the clock that it has after reset, or would have if it were on.
fn planned(part: &Part, timer: &str, base: Option<&str>) -> Option<(TimerPlan, RegisterPlan)> {
    let timer = part.timer(timer, base).unwrap();
    let clock = Tolerance { nominal: timer.clock.default, deviation: Deviation::ZERO };
    let on = TimerUse { base: base.map(ToOwned::to_owned), ..TimerUse::of(part, &timer.name).clocked(clock) };
    let slower = |by: i64| Frequency::new(clock.nominal.value().over(Rational::whole(by)).unwrap());
    let found = [2000, 300, 70_000].iter().find_map(|by| {
        let target = Target { within: percent_off(), ..Target::frequency(slower(*by)).duty(percent(30)) };
        derive(&on, &target).ok()
    })?;
    let plan = found.best.setting.plan.clone();
    Some((TimerPlan::of(part, &found.timer, found.best.setting).unwrap(), plan))
}

fn percent_off() -> Deviation {
    Deviation::new(Rational::new(60, 100).unwrap())
}

fn program_of(part: &Part, timers: Vec<TimerPlan>) -> Program {
    program(&ProgramRequest { part, clock: ClockRoute::default(), timers }).unwrap()
}

/// A timer of the catalogue with one of its counters, what it is set to, and a program for it.
struct Known {
    part: &'static Part,
    timer: Timer,
    plan: RegisterPlan,
    program: Program,
}

static PROGRAMS: LazyLock<Vec<Known>> = LazyLock::new(|| {
    let mut programs = Vec::new();
    for (part, view) in TIMERS.iter() {
        let base = view.base.as_ref().map(|base| base.name.as_str());
        let Some((timer, plan)) = planned(part, &view.name, base) else { continue };
        let program = program_of(part, vec![timer.clone()]);
        programs.push(Known { part, timer: timer.timer, plan, program });
    }
    assert!(programs.len() > 300, "only {} programs are looked at", programs.len());
    programs
});

/// What the registers of a timer hold after some steps, by the catalogue's own names.
fn replayed<'s>(
    timer: &Timer,
    steps: impl Iterator<Item = &'s kairotic_core::program::ProgramStep>,
) -> BTreeMap<String, u64> {
    let mut held: BTreeMap<String, u64> = BTreeMap::new();
    let own = |name: &str| {
        let plain = name.strip_prefix(&timer.prefix).unwrap_or(name);
        [plain, name]
            .into_iter()
            .find(|name| timer.block.registers.contains_key(*name))
            .map(ToOwned::to_owned)
    };
    for step in steps {
        match &step.action {
            Action::Write(write) => {
                let (Some(name), Written::Number(value)) = (own(&write.register.name), &write.value) else {
                    continue;
                };
                let before = held.get(&name).copied().unwrap_or(timer.block.registers[&name].reset);
                held.insert(name, (before & !write.mask) | value);
            }
            Action::Buffer { words, .. } => {
                let buffer =
                    timer.block.registers.iter().filter(|(_, register)| register.access == Access::Buffer);
                held.extend(buffer.map(|(name, _)| name.clone()).zip(words.iter().copied()));
            }
            Action::Transfer { register, bytes, .. } => {
                let value = bytes.iter().skip(1).rev().fold(0, |value, byte| value << 8 | u64::from(*byte));
                held.extend(own(register).map(|name| (name, value)));
            }
            Action::Attribute { name, value, .. } => held.extend(own(name).map(|name| (name, *value))),
            _ => {}
        }
    }
    held
}

#[test]
fn registers_decode_to_the_setting_that_they_were_written_for() {
    for Known { part, timer, plan, program } in PROGRAMS.iter() {
        let held = replayed(timer, program.steps.iter());
        let assignments = held.into_iter().map(|(name, value)| {
            let bits = timer.block.registers[&name].bits;
            Assignment { name, value: value & (u64::MAX >> (64 - bits)) }
        });
        let clock = Tolerance { nominal: timer.clock.default, deviation: Deviation::ZERO };
        let base = timer.base.as_ref().map(|base| base.name.clone());
        let on = TimerUse { base, ..TimerUse::of(part, &timer.name).clocked(clock) };
        let channel = plan.channels.first().map(|channel| channel.label.clone());
        let request = DecodeRequest { channel, ..DecodeRequest::plain(on, assignments.collect()) };
        let reading = decode(&request).unwrap_or_else(|error| panic!("{}: {error}", timer.path()));
        // Modes with the same registers have the same waveform under another name.
        let back = RegisterPlan { mode: plan.mode.clone(), ..reading.setting.plan };
        assert_eq!(back, *plan, "{}", timer.path());
    }
}

#[test]
fn nothing_counts_before_everything_else_is_done() {
    for Known { timer, program, .. } in PROGRAMS.iter() {
        let phases: Vec<Phase> = program.steps.iter().map(|step| step.phase).collect();
        assert!(phases.is_sorted(), "{}: {phases:?}", timer.path());
        let before = replayed(timer, program.steps.iter().filter(|step| step.phase < Phase::Start));
        for entry in &timer.block.order.start {
            let Ok(field) = timer.field(entry) else { continue };
            let reset = timer.block.registers[&field.register].reset;
            let held = before.get(&field.register).copied().unwrap_or(reset);
            let bits = |value: u64| (value >> field.low) & field.largest();
            assert_eq!(bits(held), bits(reset), "{} {entry}", timer.path());
        }
    }
}

#[test]
fn registers_do_not_lie_on_top_of_each_other() {
    for (part, timer) in TIMERS.iter() {
        let mut places: Vec<(u64, u64, String)> = Vec::new();
        for (name, register) in &timer.block.registers {
            let Some(address) = part.address_of(timer, name) else { continue };
            let bytes = u64::from(part.access_bits(register) / 8);
            assert!(address % bytes.min(4) == 0, "{} {name} at {address:#x}", timer.path());
            places.push((address, address + bytes, name.clone()));
        }
        places.sort();
        for pair in places.windows(2) {
            let [(_, end, one), (start, _, other)] = pair else { continue };
            assert!(end <= start, "{}: {one} and {other} overlap", timer.path());
        }
    }
}

/// The parts of which everything between reset and the pin is known; timers that are put on pins by events are not.
const COMPLETE: &[&str] = &[
    "atmega328p",
    "atmega2560",
    "attiny1614",
    "avr128db28",
    "pic16f877a",
    "pic18f4550",
    "pic18f45k22",
    "rp2040",
    "rp2350",
    "stm32f103",
    "stm32f411",
    "stm32f446",
    "stm32g071",
    "stm32g474",
    "stm32l432",
    "stm32h743",
    "samd21g18",
    "nrf52832",
    "nrf52840",
    "esp32c3",
    "gd32vf103",
    "ch32v003",
    "msp430g2553",
];

#[test]
fn what_is_said_to_be_complete_is() {
    for name in COMPLETE {
        let part = part(name);
        let mut on_pins = 0;
        for instance in &part.timers {
            let Some((mut plan, registers)) = planned(part, &instance.name, None) else { continue };
            let channel = &registers.channels[0].label;
            let pinout = part.pinout.as_ref().unwrap();
            let outputs = pinout.outputs();
            let listed =
                outputs.iter().find(|output| output.timer == instance.name && output.channel == *channel);
            let free = ["GPIO5", "P0.13"].into_iter().find(|pin| {
                let place = format!("{}/{channel}", instance.name);
                pinout.is_free() && part.bring_up.as_ref().unwrap().recipes(pin, &place).next().is_some()
            });
            let pin = listed.map(|output| output.pin.clone()).or(free.map(ToOwned::to_owned));
            let Some(pin) = pin else { continue };
            plan.pins.insert(channel.clone(), pin);
            let program = program_of(part, vec![plan]);
            let unknown: Vec<&str> = program.unknown().map(|step| step.why.as_str()).collect();
            let clock_is_off = part.clocks[&instance.clock].off.is_some();
            assert!(unknown.is_empty() || clock_is_off, "{name}/{}: {unknown:?}", instance.name);
            assert!(program.without_address().is_empty(), "{name}: {:?}", program.without_address());
            on_pins += 1;
        }
        assert!(on_pins > 0, "{name}");
    }
}

/// Register, address, value and mask of each write of a program.
fn writes(program: &Program) -> Vec<(&str, u64, u64, u64)> {
    let one = |action: &'_ Action| match action {
        Action::Write(write) => Some((write.register.address?, write.value.number()?, write.mask)),
        _ => None,
    };
    let named = program.steps.iter().filter_map(|step| match &step.action {
        Action::Write(write) => Some((write.register.name.as_str(), one(&step.action)?)),
        _ => None,
    });
    named.map(|(name, (address, value, mask))| (name, address, value, mask)).collect()
}

/// 12 MHz / 6 * 96 / 2 = 96 MHz: PLLM = 6, PLLN = 96 (<< 6), PLLP = 0 (divides by two), PLLSRC = 1 (<< 22). 96 MHz need
/// three wait states and voltage scale 1, and PCLK1 half of it. 96 MHz / 25 kHz = 3840 ticks, of which 35 % are 1344.
#[test]
fn a_pll_is_started_before_it_is_chosen() {
    let part = part("stm32f411");
    let on = TimerUse::of(part, "tim3").clocked(mhz(96).exactly());
    let found = derive(&on, &Target::frequency(khz(25)).duty(percent(35))).unwrap();
    let mut plan = TimerPlan::of(part, &found.timer, found.best.setting).unwrap();
    plan.pins.insert("1".to_owned(), "PA6".to_owned());
    let buses =
        vec![kairotic_core::clock::from_system(part, "tim3", mhz(96), &["apb1=2".parse().unwrap()]).unwrap()];
    let clock = ClockRoute {
        source: Some("12MHz".parse().unwrap()),
        system: Some(mhz(96)),
        buses,
        registers: vec![],
    };
    let program = program(&ProgramRequest { part, clock, timers: vec![plan] }).unwrap();
    let whole = 0xFFFF_FFFF;
    let expected = [
        ("RCC_APB1ENR", 0x4002_3840, 1 << 28, 1 << 28),
        ("PWR_CR", 0x4000_7000, 3 << 14, 3 << 14),
        ("FLASH_ACR", 0x4002_3C00, 3, 0xF),
        ("RCC_CR", 0x4002_3800, 1 << 16, 1 << 16),
        ("RCC_PLLCFGR", 0x4002_3804, 1 << 22 | 96 << 6 | 6, 1 << 22 | 0x1FF << 6 | 0x3F),
        ("RCC_CR", 0x4002_3800, 1 << 24, 1 << 24),
        ("RCC_CFGR", 0x4002_3808, 4 << 10, 7 << 10 | 0xF << 4),
        ("RCC_CFGR", 0x4002_3808, 2, 3),
        ("RCC_APB1ENR", 0x4002_3840, 1 << 1, 1 << 1),
        ("RCC_AHB1ENR", 0x4002_3830, 1, 1),
        ("GPIOA_AFRL", 0x4002_0020, 2 << 24, 0xF << 24),
        ("GPIOA_MODER", 0x4002_0000, 2 << 12, 3 << 12),
        ("TIM3_PSC", 0x4000_0428, 0, whole),
        ("TIM3_ARR", 0x4000_042C, 3839, whole),
        ("TIM3_CCR1", 0x4000_0434, 1344, whole),
        ("TIM3_CR1", 0x4000_0400, 1 << 7, whole),
        ("TIM3_CCMR1", 0x4000_0418, 6 << 4 | 1 << 3, whole),
        ("TIM3_EGR", 0x4000_0414, 1, whole),
        ("TIM3_CCER", 0x4000_0420, 1, whole),
        ("TIM3_CR1", 0x4000_0400, 1 << 7 | 1, whole),
    ];
    assert_eq!(writes(&program), expected);
    let waits: Vec<(usize, u64, u64)> = (0..)
        .zip(&program.steps)
        .filter_map(|(place, step)| match &step.action {
            Action::Until { mask, value, .. } => Some((place, *mask, *value)),
            _ => None,
        })
        .collect();
    // HSERDY, PLLRDY, and SWS as SW.
    assert_eq!(waits, [(4, 1 << 17, 1 << 17), (7, 1 << 25, 1 << 25), (10, 3 << 2, 2 << 2)]);
}

/// 16 MHz / 8 / 40000 = 50 Hz, 3000 ticks are 1500 us; WGM 14 = 0b11 in TCCR1B and 0b10 in TCCR1A, COM1A = 2, CS1 = 2.
#[test]
fn fuses_are_told_and_the_clock_divider_is_unlocked() {
    let part = part("atmega328p");
    let on = TimerUse::of(part, "timer1").clocked(mhz(16).exactly());
    let found = derive(&on, &Target::frequency(hz(50)).pulse(us(1500))).unwrap();
    let plan = TimerPlan::of(part, &found.timer, found.best.setting).unwrap();
    let clock = ClockRoute { source: Some("16MHz".parse().unwrap()), ..ClockRoute::default() };
    let program = program(&ProgramRequest { part, clock, timers: vec![plan] }).unwrap();
    let expected = [
        ("CLKPR", 0x61, 0, 0x0F),
        ("DDRB", 0x24, 1 << 1, 1 << 1),
        ("TCCR1B", 0x81, 0b11 << 3, 0xFF),
        ("TCCR1A", 0x80, 0b10, 0xFF),
        ("ICR1", 0x86, 39_999, 0xFFFF),
        ("OCR1A", 0x88, 2999, 0xFFFF),
        ("TCCR1A", 0x80, 2 << 6 | 0b10, 0xFF),
        ("TCCR1B", 0x81, 0b11 << 3 | 2, 0xFF),
    ];
    assert_eq!(writes(&program), expected);
    let Action::Programmed { register, mask: 0x0F, value: 0x0F, .. } = &program.steps[0].action else {
        panic!("{:?}", program.steps[0]);
    };
    assert_eq!(register.name, "FUSE_LOW");
    let Action::Write(clkpr) = &program.steps[1].action else { panic!() };
    let (place, unlock) = clkpr.unlock.as_ref().unwrap();
    assert_eq!((place.address, unlock.value, unlock.within), (Some(0x61), 0x80, 4));
}

/// The internal oscillator may start only once it is chosen: it is waited for then, and not before.
#[test]
fn an_oscillator_is_waited_for_once_everything_runs_from_it() {
    let part = part("pic18f4550");
    let on = TimerUse::of(part, "ccp1").clocked(mhz(4).exactly());
    let found = derive(&on, &Target::frequency(khz(1)).duty(percent(50))).unwrap();
    let timers = vec![TimerPlan::of(part, &found.timer, found.best.setting).unwrap()];
    let clock = ClockRoute {
        source: Some("intosc-8".parse().unwrap()),
        system: Some(mhz(4)),
        ..ClockRoute::default()
    };
    let steps = program(&ProgramRequest { part, clock, timers }).unwrap().steps;
    let chosen = steps.iter().position(|step| matches!(&step.action, Action::Write(write) if write.register.name == "OSCCON" && write.mask & 3 != 0));
    let waits = steps.iter().position(|step| matches!(&step.action, Action::Until { register, mask: 4, value: 4 } if register.name == "OSCCON"));
    assert!(chosen.is_some() && chosen < waits, "{chosen:?} {waits:?}");
}

#[test]
fn two_timers_with_one_period_register_clash() {
    let part = part("pic18f4550");
    let plan = |timer: &str, frequency| {
        let on = TimerUse::of(part, timer).clocked(mhz(48).exactly());
        let found = derive(&on, &Target::frequency(frequency).duty(percent(50))).unwrap();
        TimerPlan::of(part, &found.timer, found.best.setting).unwrap()
    };
    let request = |timers| ProgramRequest { part, clock: ClockRoute::default(), timers };
    let shared = program(&request(vec![plan("ccp1", khz(20)), plan("ccp2", khz(20))])).unwrap();
    let starts = shared.steps.iter().filter(|step| step.phase == Phase::Start);
    assert_eq!(starts.count(), 1, "one counter is started once");
    let error = program(&request(vec![plan("ccp1", khz(20)), plan("ccp2", khz(25))])).unwrap_err();
    assert!(matches!(error, Error::FieldWrittenTwice { .. }), "{error}");
}

#[test]
fn what_is_not_known_is_to_be_supplied() {
    let part = part("f28069");
    let (plan, _) = planned(part, "epwm1", None).unwrap();
    let program = program_of(part, vec![plan]);
    assert!(program.unknown().count() >= 2, "the gate and the pin");
    assert!(!program.without_address().is_empty());
    let (plan, _) = planned(crate::catalogue::part("rp2040"), "slice0", None).unwrap();
    let program = program_of(crate::catalogue::part("rp2040"), vec![plan]);
    let why: Vec<&str> = program.unknown().map(|step| step.why.as_str()).collect();
    assert_eq!(why, ["slice0/a is not on a pin yet: GPIO0 (F4), GPIO16 (F4)"]);
}
