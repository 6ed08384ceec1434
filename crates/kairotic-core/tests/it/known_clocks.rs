//! Clock settings that stand in manuals or were worked out by hand, against the trees of the families: forward from
//! the registers, and found again by the search.

use kairotic_core::Error;
use kairotic_core::clock::{ReachRequest, SourceAsk, reach, state};
use kairotic_core::part::{Assignment, Part};
use kairotic_core::quantity::{Deviation, Frequency};

use crate::catalogue::{PARTS, part};
use crate::request::{Request, derive, request};

fn from(text: &str) -> Option<SourceAsk> {
    (!text.is_empty()).then(|| text.parse().unwrap())
}

fn assignments(text: &str) -> Vec<Assignment> {
    text.split_whitespace().map(|one| one.parse().unwrap()).collect()
}

/// What reaches a timer.
fn reaches(part: &Part, timer: &str, source: &str, registers: &str) -> Option<Frequency> {
    let state = state(part, &assignments(registers), from(source).as_ref()).unwrap();
    state.timers.iter().find(|found| found.timer == timer).unwrap().frequency
}

/// One test for each line: timer, source, registers => frequency at the timer.
macro_rules! known {
    ($($name:ident: $place:literal, $source:literal, $registers:literal => $frequency:literal;)*) => {
        $(#[test]
        fn $name() {
            let (name, timer) = $place.split_once('/').unwrap();
            let wanted: Frequency = $frequency.parse().unwrap();
            assert_eq!(reaches(part(name), timer, $source, $registers), Some(wanted));
            // The same setting is among those that the search finds, which are legal.
            let request = ReachRequest { timer: timer.to_owned(), source: from($source), reach: wanted, within: Deviation::ZERO };
            let ways = reach(part(name), &request).unwrap().ways;
            let given = assignments($registers);
            let found = ways.iter().any(|way| given.iter().all(|given| {
                way.arrangement.writes.iter().any(|write| {
                    (write.name() == given.name || write.field.as_ref() == Some(&given.name)) && write.written.number() == Some(given.value)
                })
            }));
            assert!(found, "not among {} ways", ways.len());
        })*
    };
}

known! {
    // 8 MHz * 9; APB1 halved and doubled again.
    f103_at_72: "stm32f103/tim3", "8MHz", "SW=2 PLLSRC=1 PLLXTPRE=0 PLLMUL=7 HPRE=0 PPRE1=4" => "72MHz";
    // 16 MHz / 8 * 180 / 2 = 180; APB1 / 4 * 2.
    f446_apb1_at_90: "stm32f446/tim3", "hsi", "SW=2 PLLSRC=0 PLLM=8 PLLN=180 PLLP=0 HPRE=0 PPRE1=5 TIMPRE=0" => "90MHz";
    f446_apb1_at_180: "stm32f446/tim3", "hsi", "SW=2 PLLSRC=0 PLLM=8 PLLN=180 PLLP=0 HPRE=0 PPRE1=5 TIMPRE=1" => "180MHz";
    // 4 MHz * 40 / 2.
    l432_at_80: "stm32l432/tim2", "msi-4mhz", "SW=3 PLLSRC=1 PLLM=0 PLLN=40 PLLR=0 HPRE=0 PPRE1=0" => "80MHz";
    // 16 MHz * 16 / 2, by way of PLLQ.
    g071_tim1_at_128: "stm32g071/tim1", "hsi16", "TIM1SEL=1 PLLSRC=2 PLLM=0 PLLN=16 PLLQ=1" => "128MHz";
    // 24 MHz / 6 * 85 / 2.
    g474_at_170: "stm32g474/tim3", "hse=24MHz", "SW=3 PLLSRC=3 PLLM=5 PLLN=85 PLLR=0 HPRE=0 PPRE1=0" => "170MHz";
    // 12 MHz * 125 / 6 / 2.
    rp2040_at_125: "rp2040/slice0", "xosc=12MHz", "REFDIV=1 PLL_SYS_FBDIV_INT=125 POSTDIV1=6 POSTDIV2=2 SRC=1 AUXSRC=0" => "125MHz";
    rp2350_at_150: "rp2350/slice0", "xosc=12MHz", "REFDIV=1 PLL_SYS_FBDIV_INT=125 POSTDIV1=5 POSTDIV2=2 SRC=1 AUXSRC=0" => "150MHz";
    // 8 MHz / 4 * 48 / 2.
    kl25_at_48: "mkl25z128/tpm0", "8MHz", "PRDIV0=3 VDIV0=24 PLLFLLSEL=1 TPMSRC=1" => "48MHz";
    // 8 MHz / 3 * 45 / 2.
    k64_at_60: "mk64fn1m0/ftm0", "8MHz", "CLKS=0 PLLS=1 OSCSEL=0 PRDIV0=2 VDIV0=21 OUTDIV2=1" => "60MHz";
    // 32768 Hz * (2928 + 1 + 11/16) = 96 MHz exactly; halved for TC4.
    samd21_dpll_at_96: "samd21g18/tc4", "xosc32k=32768Hz", "REFCLK=0 LDR=2928 LDRFRAC=11 GCLK_GENCTRL.SRC=8 GCLK_GENDIV.DIV=2" => "48MHz";
    // 32768 Hz * 1465, 106.67 ppm above 48 MHz.
    samd21_dfll_closed: "samd21g18/tcc0", "xosc32k=32768Hz", "SYSCTRL_DFLLCTRL.MODE=1 MUL=1465 GCLK_GENCTRL.SRC=7 GCLK_GENDIV.DIV=1" => "48005120Hz";
    // 12 MHz / 2 / 6 * 200.
    same54_at_200: "same54p20/tcc0", "xosc=12MHz", "REFCLK=2 OSCCTRL_DPLLCTRLB0.DIV=5 LDR=199 LDRFRAC=0 SRC=7 GCLK_GENCTRL.DIV=1" => "200MHz";
    // 32768 Hz * 732.
    fr2355_fll: "msp430fr2355/tb0", "refo", "SELREF=1 FLLREFDIV=0 FLLN=731 SELMS=0 DIVM=0 DIVS=0" => "23986176Hz";
    g2553_calibrated: "msp430g2553/ta0", "dco=16MHz", "SELS=0 DIVS=0" => "16MHz";
    // 10 MHz * 12 / 2 and 10 MHz * 18 / 2.
    f28027_at_60: "f28027/epwm1", "intosc", "OSCCLKSRCSEL=0 PLLCR.DIV=12 DIVSEL=2" => "60MHz";
    f28069_at_90: "f28069/epwm1", "10MHz", "PLLCR.DIV=18 DIVSEL=2" => "90MHz";
    // 400 MHz / 5.
    tm4c_at_80: "tm4c123/pwm0-0", "pll", "BYPASS2=0 SYSDIV2=2 SYSDIV2LSB=0" => "80MHz";
    // 12 MHz * 2 * 12 = 288, / 3; the PWM counts all of it.
    lpc1768_at_96: "lpc1768/pwm1", "12MHz", "CLKSRC=1 NSEL0=0 MSEL0=11 PLLC0=1 PLLE0=1 CCLKSEL=2 PCLK_PWM1=1" => "96MHz";
    // 16 MHz * 300 / 16 = 300, / 2.
    lpc55_at_150: "lpc55s69/ctimer0", "clkin=16MHz", "SYSCON_PLL0CLKSEL.SEL=1 NDIV=4 MDIV_EXT=75 PDIV=1 SYSCON_CTIMERCLKSELn.SEL=1" => "150MHz";
    // 16 MHz / 2 * 2 * 32 = 512, / 2.
    fe310_at_256: "fe310/pwm1", "hfxosc=16MHz", "REFSEL=1 R=1 F=31 Q=1 DIV_BY_1=1 SEL=1 BYPASS=0" => "256MHz";
    // 24 MHz / 2 * 100 = 1200, / 2, / 4.
    rt1060_at_150: "mimxrt1060/pwm1-0", "osc", "DIV_SELECT=100 BYPASS=0 ARM_PODF=1 PRE_PERIPH_CLK_SEL=3 AHB_PODF=0 IPG_PODF=3" => "150MHz";
    // 8 MHz * 13.5 would do as well: 8 MHz / 2 * 27.
    gd32_at_108: "gd32vf103/timer1", "irc8m", "SCS=2 PLLSEL=0 PLLMF_HIGH=1 PLLMF_LOW=10 AHBPSC=0 APB1PSC=4" => "108MHz";
    // 8 MHz * 16, APB1 halved and doubled again.
    ch32v203_at_128: "ch32v203/tim2", "hse=8MHz", "SW=2 PLLSRC=1 PLLXTPRE=0 PLLMUL=14 HPRE=0 PPRE1=4" => "128MHz";
    efm32_at_28: "efm32gg/timer0", "hfrco-28", "BAND=5 HFXOSEL=0 HFRCOSEL=1 CMU_HFPERCLKDIV.HFPERCLKDIV=0" => "28MHz";
    // 20 MHz / 5 * 24 / 2: 48 MHz from any of eight crystals.
    pic18f4550_at_48: "pic18f4550/ccp1", "20MHz", "PLLDIV=4 CPUDIV=0 FOSC=14 SCS=0" => "48MHz";
    // 16 MHz * 4.
    pic18f45k22_at_64: "pic18f45k22/ccp1", "hfintosc-16", "IRCF=7 FOSC=8 PLLEN=1 SCS=0" => "64MHz";
    pic16f18855_at_32: "pic16f18855/ccp1", "8MHz", "NOSC=2 NDIV=0" => "32MHz";
    m328_at_16: "atmega328p/timer1", "crystal=16MHz", "CKSEL=15 CLKPS=0" => "16MHz";
    // 16 MHz / 2 * 12 / 1.5.
    m32u4_timer4_at_64: "atmega32u4/timer4", "crystal=16MHz", "CKSEL=15 PINDIV=1 PDIV=10 PLLTM=2" => "64MHz";
    avr128db28_at_24: "avr128db28/tca0", "oschf-24", "FRQSEL=9 CLKSEL=0 PEN=0 PDIV=0" => "24MHz";
    // 20 MHz / 6, as after reset.
    attiny1614_reset: "attiny1614/tca0", "osc-20", "FREQSEL=2 CLKSEL=0 PEN=1 PDIV=8" => "10/3MHz";
    nrf52_from_the_crystal: "nrf52840/pwm0", "32MHz", "SRC=1" => "16MHz";
    esp32s3_from_the_crystal: "esp32s3/timer0", "xtal", "APB_CLK_SEL=3" => "40MHz";
    pca9685_outside: "pca9685/pwm", "50MHz", "EXTCLK=1" => "50MHz";
    bcm2711_plld: "bcm2711/pwm0-1", "plld", "SRC=6" => "750MHz";
}

#[test]
fn after_reset_a_tree_says_what_the_clocks_say() {
    let mut compared = 0;
    for part in PARTS.iter().filter(|part| part.tree.is_some()) {
        for timer in &part.timers {
            // Where the multiplexer chooses nothing, or the source is a crystal that nobody named, no clock runs.
            let Some(frequency) = reaches(part, &timer.name, "", "") else { continue };
            let clock = &part.clocks[&timer.clock];
            // Some families' reset state is nobody's: their facts say what is taken instead.
            if clock.facts.iter().any(|fact| fact.says.contains("is taken")) {
                continue;
            }
            assert_eq!(frequency, clock.default, "{}/{}", part.name, timer.name);
            compared += 1;
        }
    }
    assert!(compared > 150, "{compared}");
}

#[test]
fn a_clock_that_is_off_has_no_frequency_and_its_choices_give_it_one() {
    let mut off = Vec::new();
    for part in PARTS.iter().filter(|part| part.tree.is_some()) {
        for timer in &part.timers {
            let clock = &part.clocks[&timer.clock];
            let Some(switch) = &clock.off else { continue };
            assert_eq!(reaches(part, &timer.name, "", ""), None, "{}/{}", part.name, timer.name);
            let chosen = |(code, _): &(u64, String)| {
                reaches(part, &timer.name, "", &format!("{}={code}", switch.field)).is_some()
            };
            assert!(switch.choices.iter().any(chosen), "{}/{}: {switch:?}", part.name, timer.name);
            let plain = Request { clock: None, ..request(&timer.name, "1MHz", "1kHz", &[]) };
            let refused = derive(part, &plain).unwrap_err();
            assert!(matches!(refused, Error::ClockOff { .. }), "{refused:?}");
            off.push(part.name.as_str());
        }
    }
    off.dedup();
    for name in ["esp32c3", "esp32c6", "esp32s3", "lpc55s69", "mkl25z128"] {
        assert!(off.contains(&name), "{name}: {off:?}");
    }
}

#[test]
fn every_part_with_a_clock_of_its_own_has_a_tree() {
    let without: Vec<&str> =
        PARTS.iter().filter(|part| part.tree.is_none()).map(|part| part.name.as_str()).collect();
    // The kernel's interface hides the clock behind its nanoseconds.
    assert_eq!(without, ["kernel-pwm"]);
}

#[test]
fn a_clock_outside_its_band_is_told_with_the_side_that_it_is_on() {
    // 8 MHz through PLLM, times PLLN, by 2.
    let illegal = |registers: &str| {
        let state = state(part("stm32f411"), &assignments(registers), from("8MHz").as_ref()).unwrap();
        state.nodes.into_iter().filter_map(|node| node.illegal).collect::<Vec<String>>()
    };
    assert_eq!(illegal("PLLSRC=1 PLLM=8 PLLN=50 SW=2"), ["the VCO would be 50 MHz, below its 100 MHz"]);
    let fast = illegal("PLLSRC=1 PLLM=2 PLLN=60 SW=2");
    assert_eq!(
        fast[..2],
        ["the PLL's input would be 4 MHz, above its 2 MHz", "the PLL would be 120 MHz, above its 100 MHz"]
    );
    let slow = illegal("PLLSRC=1 PLLM=10 PLLN=200 SW=2");
    assert_eq!(
        slow,
        ["the PLL's input would be 800 kHz, below its 1 MHz", "PCLK1 would be 80 MHz, above its 50 MHz"]
    );
    // On the ends themselves nothing is wrong: 1 MHz, 200 MHz, 100 MHz, with PCLK1 divided.
    assert_eq!(illegal("PLLSRC=1 PLLM=8 PLLN=200 SW=2 PPRE1=4"), Vec::<String>::new());
}
