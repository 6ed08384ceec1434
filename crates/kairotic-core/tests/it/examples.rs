//! Worked examples: register values and what they make, computed by hand from the formulas of the data sheets.

use kairotic_core::decode::Reading;
use kairotic_core::quantity::Rational;
use kairotic_core::setting::Constant;

use crate::request::{decoded, derived};

fn ratio(text: &str) -> Rational {
    let (numerator, denominator) = text.split_once('/').unwrap_or((text, "1"));
    Rational::new(numerator.parse().unwrap(), denominator.parse().unwrap()).unwrap()
}

fn makes(reading: &Reading, frequency: &str, duties: &[&str]) {
    let setting = &reading.setting;
    assert_eq!(setting.frequency.value(), ratio(frequency), "frequency");
    let realised: Vec<Rational> = setting.outputs.iter().map(|output| output.duty.value()).collect();
    let wanted: Vec<Rational> = duties.iter().map(|duty| ratio(duty)).collect();
    assert_eq!(realised, wanted, "duties");
}

/// One test for each line: name, timer, clock, registers => hertz, active share of each channel.
macro_rules! read {
    ($($name:ident: $place:literal, $clock:literal, $registers:literal => $hertz:literal, [$($duty:literal),*];)*) => {
        mod read {
            use super::*;
            $(#[test]
            fn $name() {
                makes(&decoded($place, $clock, $registers), $hertz, &[$($duty),*]);
            })*
        }
    };
}

/// One test for each line: name, timer, clock, frequency, signals => the fields that matter.
macro_rules! written {
    ($($name:ident: $place:literal, $clock:literal, $frequency:literal, [$($signal:literal),*] => $fields:literal;)*) => {
        mod written {
            use super::*;
            $(#[test]
            fn $name() {
                let derivation = derived($place, $clock, $frequency, &[$($signal),*]);
                let writes = derivation.best.setting.writes(&derivation.timer).unwrap();
                let all: Vec<String> =
                    writes.iter().map(|write| format!("{}={}", write.name(), write.written)).collect();
                for field in $fields.split(' ') {
                    assert!(all.iter().any(|written| written == field), "{field} is not in {all:?}");
                }
            })*
        }
    };
}

read! {
    // 16 sixteenths of a tick to a tick: (61662 + 16) / 16 ticks, 20559 / 16 of them high.
    dithered: "stm32g474/tim3", "170MHz", "PSC=0 ARR=0xF0DE CCR1=0x504F DITHEN=1" => "1360000000/30839", ["20559/61678"];
    // 1088 7/16 ticks: (1087 + 1) * 16 + 7 sixteenths.
    dithered_by_four_bits: "samd21g18/tcc0", "48MHz", "CTRLA.RESOLUTION=1 CTRLA.PRESCALER=0 PER=17399 CC0=8707" => "51200000/1161", ["8707/17415"];
    // 25 MHz / (4096 * 61), 1025 counts from 1024 on; a pulse that runs over the end; the full bits.
    counts_from_a_start: "pca9685/pwm", "25MHz", "PRE_SCALE=60 LED0_ON=1024 LED0_OFF=2049" => "1562500/15616", ["1025/4096"];
    counts_over_the_end: "pca9685/pwm", "25MHz", "PRE_SCALE=30 LED2_ON=3500 LED2_OFF=223" => "390625/1984", ["819/4096"];
    counts_for_ever: "pca9685/pwm", "25MHz", "PRE_SCALE=30 LED2_ON=0x1000 LED2_OFF=0 LED3_ON=0 LED3_OFF=0x1000" => "390625/1984", ["1", "0"];
    // Saw: 48 MHz / (1919 + 1), one tick more than the compare value. Triangle: 48 MHz / (2 * 960), twice the compare value.
    saw_wave: "ra4m1/gpt320", "48MHz", "GTCR.TPCS=0 GTCR.MD=0 GTPR=1919 GTCCRC=639 GTIOA=9" => "25000", ["1/3"];
    saw_wave_of_sixteen_bits: "ra4m1/gpt162", "48MHz", "GTCR.TPCS=2 GTCR.MD=0 GTPR=59999 GTCCRC=4499 GTIOA=9" => "50", ["3/40"];
    triangle_wave: "ra6m5/gpt321", "48MHz", "GTCR.TPCS=0 GTCR.MD=4 GTPR=960 GTCCRE=240" => "25000", ["1/4"];
    // 4.5 V of 7.4 V is 0.6081 of 250 ticks, 152.03: 152 are 60.8 %, 4.4992 V.
    supply_of_a_lamp: "psoc4100s/tcpwm0", "24MHz", "INT16_DIV=0 TCPWM_CNT0_PERIOD=249 TCPWM_CNT0_CC=152 UP_DOWN_MODE=0" => "96000", ["76/125"];
    // 48 MHz / 48 / 20000.
    counter_block_servo: "psoc4100s/tcpwm1", "48MHz", "INT16_DIV=47 TCPWM_CNT1_PERIOD=19999 TCPWM_CNT1_CC=1500 UP_DOWN_MODE=0" => "50", ["3/40"];
    counter_block_right: "psoc62/tcpwm1-3", "100MHz", "INT16_DIV=0 TCPWM1_CNT3_PERIOD=3999 TCPWM1_CNT3_CC=1000 UP_DOWN_MODE=1" => "25000", ["1/4"];
    // 2 * 500 ticks, high for 2 * (500 - 375).
    counter_block_centre: "psoc62/tcpwm0-2", "100MHz", "INT16_DIV=0 TCPWM0_CNT2_PERIOD=500 TCPWM0_CNT2_CC=375 UP_DOWN_MODE=2" => "100000", ["1/4"];
    // 80 MHz / 2 / (39999 + 1), high from the match to the end: 39999 - 29999.
    low_power: "stm32l432/lptim1", "80MHz", "CFGR.PRESC=1 ARR=39999 CMP=29999" => "1000", ["1/4"];
    // The low byte of the prescaler stands above the sixteen bits: 0x2 * 65536 + 0x7100 = 160 000 ticks.
    general_purpose: "tm4c123/timer2a", "80MHz", "TAPSR=2 TIMER2_TAILR=0x70FF TAPSMR=1 TIMER2_TAMATCHR=0xD4BF" => "500", ["1/4"];
    general_purpose_wide: "tm4c123/wtimer0b", "80MHz", "WTIMER0_TBILR=159999999 WTIMER0_TBMATCHR=79999999" => "1/2", ["1/2"];
    // SMCLK 1 MHz: 20 000 ticks, high for CCR1 of them, or for what is left behind CCR1.
    reset_set: "msp430g2553/ta1", "1MHz", "ID=0 TA1CCR0=19999 TA1CCR1=1500 TA1CCTL1.OUTMOD=7 MC=1" => "50", ["3/40"];
    set_reset: "msp430fr2355/tb0", "1MHz", "ID=0 TBIDEX=0 TB0CCR0=19999 TB0CCR1=15000 TB0CCTL1.OUTMOD=3 MC=1" => "50", ["1/4"];
    // 80 MHz * 256 / (500 * 2^13).
    power_of_two: "esp32s3/timer0", "80MHz", "TIMER0_CONF.DUTY_RES=13 TIMER0_CONF.CLK_DIV=500 CH0_DUTY.TICKS=2048" => "5000", ["1/4"];
    motor_control: "esp32/mcpwm0-0", "160MHz", "CLK_PRESCALE=0 TIMER0_CFG0.PRESCALE=49 TIMER0_CFG0.PERIOD=63999 GEN0_TSTMP_A=4800 MOD=1" => "50", ["3/40"];
    // 19.2 MHz / 12 / 32000, and 500 MHz / (44 + 1182/4096) / 256.
    range_and_data: "bcm2835/pwm0-1", "19.2MHz", "CM_PWMCTL.MASH=0 DIVI=12 RNG1=32000 DAT1=2400 MSEN1=1 PWEN1=1" => "50", ["3/40"];
    range_of_a_fraction: "bcm2835/pwm0-1", "500MHz", "CM_PWMCTL.MASH=1 DIVI=44 DIVF=1182 RNG1=256 DAT1=64" => "4000000000/90703", ["1/4"];
    nanoseconds: "kernel-pwm/pwm", "1GHz", "period=26316 duty_cycle=8772" => "250000000/6579", ["1/3"];
    // 16 MHz / 421, no tick more; 2 * 211 up and down.
    radio_up: "nrf52840/pwm0", "16MHz", "PRESCALER=0 COUNTERTOP=421 SEQ_0=0x808C MODE=0" => "16000000/421", ["140/421"];
    radio_up_down: "nrf52840/pwm0", "16MHz", "PRESCALER=0 COUNTERTOP=211 SEQ_0=0x8064 MODE=1" => "8000000/211", ["100/211"];
    radio_events: "nrf52832/timer0", "16MHz", "BITMODE=0 PRESCALER=4 CC_3=20000 CC_0=1500" => "50", ["3/40"];
    freedom_servo: "mkl25z128/tpm0", "48MHz", "SC.PS=4 MOD=59999 C0V=4500 SC.CPWMS=0" => "50", ["3/40"];
    freedom_centre: "mkl25z128/tpm0", "48MHz", "SC.PS=0 MOD=1200 C2V=300 SC.CPWMS=1" => "20000", ["1/4"];
    // From 750 to 1500 of 3000 ticks.
    flex_pair: "mk64fn1m0/ftm0", "60MHz", "SC.PS=0 MOD=2999 C0V=750 C1V=1500 COMBINE0=1" => "20000", ["1/4"];
    // 170 MHz * 32 / 5440: PER ticks, no tick more.
    high_resolution: "stm32g474/hrtim-a", "5.44GHz", "TIMA_CR.CKPSC=0 TIMA_PERR=5440 TIMA_CMP1R=2720" => "1000000", ["1/2"];
    // 170 MHz / 8500, from 2125 to 4250 of them: as PWM mode 2 (from CCR1 on), and only below CCR2.
    combined_pair: "stm32g474/tim1", "170MHz", "PSC=0 ARR=8499 CCR1=2125 CCR2=4250 CCMR1=0x00016858 CCER.CC1E=1" => "20000", ["1/4"];
    combined_pair_of_a_low_power_part: "stm32l432/tim2", "80MHz", "PSC=79 ARR=19999 CCR3=5000 CCR4=6500 CCMR2=0x00016858 CCER.CC3E=1" => "50", ["3/40"];
    // 24 MHz / 4 / 4000, from 1000 to 2500 of them.
    one_ramp: "avr128db28/tcd0", "24MHz", "CTRLA.SYNCPRES=0 CTRLA.CNTPRES=1 CMPBCLR=3999 CMPASET=1000 CMPACLR=2500 CTRLB.WGMODE=0" => "1500", ["3/8"];
    flex_edge: "mk64fn1m0/ftm0", "60MHz", "SC.PS=0 MOD=599 C5V=150 SC.CPWMS=0" => "100000", ["1/4"];
    // 25 MHz / 25000: the match register holds the length itself. The other counter is late and holds one less.
    match_is_length: "lpc1768/pwm1", "25MHz", "PR=0 MR0=25000 MR1=6250" => "1000", ["1/4"];
    match_is_late: "lpc55s69/ctimer0", "96MHz", "PR=0 MR3=1919999 MR0=1776000" => "50", ["3/40"];
    // 48 MHz / 48 / 20 000.
    one_source: "ch32x035/tim2", "48MHz", "PSC=47 ATRLR=19999 CH3CVR=1500 OC3M=6" => "50", ["3/40"];
    gecko: "efm32gg/timer0", "48MHz", "CTRL.PRESC=0 CTRL.MODE=0 TOP=2399 CC0_CCV=600" => "20000", ["1/4"];
    // 16 MHz / 16000, high for 15999 - 12000 + 1.
    late_comparator: "fe310/pwm1", "16MHz", "SCALE=0 ZEROCMP=1 PWMCMP0=15999 PWMCMP1=12000" => "1000", ["1/4"];
    load_down: "tm4c123/pwm0-0", "80MHz", "USEPWMDIV=0 PWMDIV=0 PWM0_0_LOAD=3999 PWM0_0_CMPA=2999 PWM0_0_CTL.MODE=0" => "20000", ["1/4"];
    load_divided: "tm4c123/pwm0-0", "80MHz", "USEPWMDIV=1 PWMDIV=5 PWM0_0_LOAD=24999 PWM0_0_CMPA=23124 PWM0_0_CTL.MODE=0" => "50", ["3/40"];
    two_dividers: "f28027/epwm1", "60MHz", "HSPCLKDIV=5 CLKDIV=1 TBPRD=59999 CMPA=4500 CTRMODE=0" => "50", ["3/40"];
    two_dividers_centre: "f28069/epwm3", "60MHz", "HSPCLKDIV=0 CLKDIV=0 TBPRD=300 CMPA=75 CTRMODE=2" => "100000", ["1/4"];
    // 24 MHz / 8 / (2 * 30000), high for 2 * 4500 of it.
    toggle_reset: "msp430fr2355/tb3", "24MHz", "TB3CTL.ID=0 TBIDEX=7 TB3CCR0=30000 TB3CCR1=4500 TB3CCTL1.OUTMOD=2" => "50", ["3/20"];
    // 32 MHz / 4 / 2 / 160, in both alignments of the duty word.
    aligned_right: "pic16f18855/ccp1", "32MHz", "C1TSEL=1 T2CON.CKPS=1 T2PR=159 CCPR1H=0 CCPR1L=160 FMT=0" => "25000", ["1/4"];
    aligned_left: "pic16f18855/ccp1-left", "32MHz", "C1TSEL=1 T2CON.CKPS=1 T2PR=159 CCPR1H=40 CCPR1L=0 FMT=1" => "25000", ["1/4"];
    renamed: "gd32vf103/timer2", "108MHz", "PSC=0 CAR=5399 CH0CV=1350" => "20000", ["1/4"];
    renamed_again: "ch32v203/tim3", "144MHz", "PSC=47 ATRLR=59999 CH1CVR=4500" => "50", ["3/40"];
    between_values: "mimxrt1060/pwm1-0", "150MHz", "SM0CTRL.PRSC=0 SM0VAL1=1499 SM0VAL2=100 SM0VAL3=600" => "100000", ["1/3"];
    double_buffered: "same54p20/tc0", "48MHz", "CTRLA.MODE=0 CTRLA.PRESCALER=4 WAVEGEN=3 CC0=59999 CC1=4500" => "50", ["3/40"];
    eight_bit_half: "attiny1614/tca0l", "20MHz", "CTRLA.CLKSEL=4 LPER=249 LCMP1=50" => "5000", ["1/5"];
    eight_bit_word: "avr128db28/tcb0", "24MHz", "CTRLA.CLKSEL=1 CCMP=0x3CEF" => "50000", ["1/4"];
    fast_by_pll: "atmega32u4/timer4", "64MHz", "CS4=1 OCR4C=255 OCR4A=127 WGM4=0" => "250000", ["1/2"];
    many_bits: "stm32l432/tim2", "80MHz", "PSC=0 ARR=159999999 CCR1=120000" => "1/2", ["3/4000"];
    own_clock: "stm32g071/tim1", "128MHz", "PSC=0 ARR=640 CCR1=160 CMS=1" => "100000", ["1/4"];
    // Fast: ICR + 1 ticks, one tick more than the compare value high. 16e6 / 8 / 40000.
    avr_servo: "atmega328p/timer1", "16MHz", "TCCR1A=0x82 TCCR1B=0x1a ICR1=39999 OCR1A=2999" => "50", ["3/40"];
    avr_fast_20khz: "atmega328p/timer1", "16MHz", "TCCR1A=0x82 TCCR1B=0x19 ICR1=799 OCR1A=199" => "20000", ["1/4"];
    // Phase-correct: 2 ICR ticks, twice the compare value high.
    avr_phase_20khz: "atmega328p/timer1", "16MHz", "TCCR1A=0x82 TCCR1B=0x11 ICR1=400 OCR1A=100" => "20000", ["1/4"];
    avr_phase_frequency: "atmega328p/timer1", "16MHz", "TCCR1A=0x80 TCCR1B=0x11 ICR1=400 OCR1A=100" => "20000", ["1/4"];
    avr_fixed_nine_bits: "atmega328p/timer1", "16MHz", "TCCR1A=0x82 TCCR1B=0x09 OCR1A=255" => "31250", ["1/2"];
    avr_fixed_ten_bits_phase: "atmega328p/timer1", "16MHz", "TCCR1A=0x83 TCCR1B=0x01 OCR1A=1023" => "8000000/1023", ["1"];
    avr_top_in_ocra: "atmega328p/timer1", "16MHz", "TCCR1A=0x23 TCCR1B=0x19 OCR1A=420 OCR1B=139" => "16000000/421", ["140/421"];
    avr_38khz: "atmega328p/timer2", "16MHz", "TCCR2A=0x23 TCCR2B=0x0a OCR2A=52 OCR2B=16" => "2000000/53", ["17/53"];
    avr_eight_bit_fast: "atmega328p/timer0", "16MHz", "TCCR0A=0x83 TCCR0B=3 OCR0A=127" => "15625/16", ["1/2"];
    avr_eight_bit_phase: "atmega328p/timer0", "16MHz", "TCCR0A=0x81 TCCR0B=3 OCR0A=128" => "25000/51", ["128/255"];
    avr_inverted: "atmega328p/timer0", "16MHz", "TCCR0A=0xc3 TCCR0B=3 OCR0A=63" => "15625/16", ["1/4"];
    avr_both_channels: "atmega328p/timer0", "16MHz", "TCCR0A=0xa3 TCCR0B=1 OCR0A=63 OCR0B=191" => "62500", ["1/4", "3/4"];
    avr_square_on_its_own_top: "atmega328p/timer0", "16MHz", "TCCR0A=0x42 TCCR0B=1 OCR0A=99" => "80000", ["1/2"];
    avr_taps_of_timer_two: "atmega328p/timer2", "16MHz", "TCCR2A=0x83 TCCR2B=3 OCR2A=0" => "15625/8", ["1/256"];

    avr_third_channel: "atmega2560/timer4/c", "16MHz", "TCCR4A=0x0a TCCR4B=0x19 ICR4=799 OCR4C=199" => "20000", ["1/4"];
    avr_three_channels: "atmega32u4/timer1", "16MHz", "TCCR1A=0xaa TCCR1B=0x11 ICR1=400 OCR1A=100 OCR1B=200 OCR1C=300" => "20000", ["1/4", "1/2", "3/4"];

    // Type A: PER + 1 ticks, CMP of them; dual slope 2 PER ticks, 2 CMP of them.
    // 20 MHz / (2 * (262 + 1)): toggled at each match.
    tca_square: "attiny3217/tca0", "20MHz", "CLKSEL=0 WGMODE=1 CMP0=262 CMP0EN=1" => "10000000/263", ["1/2"];
    tca_20khz: "avr128db28/tca0", "24MHz", "CTRLA=0x01 CTRLB=0x13 PER=1199 CMP0=300" => "20000", ["1/4"];
    tca_servo: "avr128db28/tca0", "24MHz", "TCA0_SINGLE_CTRLA=0x09 TCA0_SINGLE_PER=29999 TCA0_SINGLE_CMP2=2250" => "50", ["3/40"];
    tca_dual_slope: "attiny1614/tca0", "20MHz", "CLKSEL=0 WGMODE=5 PER=500 CMP0=125 CMP1=500" => "20000", ["1/4", "1"];

    // Up: ARR + 1 ticks, CCR of them; centre: 2 ARR ticks, 2 CCR of them.
    stm_servo: "stm32f411/tim3", "100MHz", "PSC=39 ARR=49999 CCR1=3750" => "50", ["3/40"];
    stm_second_mode: "stm32f411/tim3", "100MHz", "PSC=0 ARR=3999 CCR1=1000 OC1M=7" => "25000", ["3/4"];
    stm_down: "stm32f411/tim3", "100MHz", "PSC=0 ARR=3999 CCR1=999 CR1=0x91" => "25000", ["1/4"];
    stm_centre: "stm32f411/tim3", "100MHz", "PSC=0 ARR=2000 CCR1=500 CMS=1" => "25000", ["1/4"];
    stm_centre_three: "stm32f411/tim3", "100MHz", "PSC=0 ARR=2000 CCR1=500 CMS=3 OC1M=7" => "25000", ["3/4"];
    stm_toggle: "stm32f411/tim3", "100MHz", "PSC=99 ARR=499 CCR1=0 OC1M=3" => "1000", ["1/2"];
    stm_wide: "stm32f411/tim5", "100MHz", "PSC=0 ARR=4294967295 CCR1=2147483648" => "1562500/67108864", ["1/2"];
    stm_four_channels: "stm32f411/tim1", "100MHz", "PSC=0 ARR=99 CCR1=10 CCR2=20 CCR3=30 CCR4=40" => "1000000", ["1/10", "1/5", "3/10", "2/5"];
    stm_one_channel: "stm32f411/tim10", "100MHz", "PSC=0 ARR=99 CCR1=10" => "1000000", ["1/10"];

    stm_microseconds: "stm32f103/tim2", "72MHz", "PSC=71 ARR=19999 CCR1=1500" => "50", ["3/40"];
    stm_centre_at_180: "stm32f446/tim1", "180MHz", "PSC=0 ARR=4500 CCR1=1125 CMS=2" => "20000", ["1/4"];
    stm_up_only: "stm32f446/tim12", "90MHz", "PSC=0 ARR=899 CCR1=90 CCR2=450" => "100000", ["1/10", "1/2"];

    // 4 (PR + 1) source clocks, times the prescaler; the compare counts single ones.
    pic_20khz: "pic18f45k22/ccp1", "48MHz", "T2CKPS=1 PR2=149 CCPR1L=37 DC1B=2" => "20000", ["1/4"];
    pic_ten_bits: "pic18f45k22/ccp1", "64MHz", "T2CKPS=0 PR2=255 CCPR1L=128 DC1B=0" => "62500", ["1/2"];
    pic_slowest: "pic18f45k22/ccp3", "48MHz", "C3TSEL=0 T2CKPS=3 PR2=255 CCPR3L=0 DC3B=1" => "46875/16", ["1/1024"];
    pic_timer_two_only: "pic18f4550/ccp2", "48MHz", "T2CON=5 PR2=149 CCPR2L=37 CCP2CON=0x2c" => "20000", ["1/4"];
    pic_slowest_of_4550: "pic18f4550/ccp1", "48MHz", "T2CON=6 PR2=255 CCPR1L=128 CCP1CON=0x0c" => "46875/16", ["1/2"];
    pic_plain_module_with_other_code: "pic18f45k22/ccp4", "64MHz", "T2CKPS=1 PR2=199 CCPR4L=50 CCP4CON=0x0f" => "20000", ["1/4"];

    // DIV in sixteenths; CC of TOP + 1 ticks.
    rp_servo: "rp2040/slice0/a", "125MHz", "DIV=625 TOP=63999 CC=4800" => "50", ["3/40"];
    rp_phase_correct: "rp2040/slice0/a", "125MHz", "DIV=16 TOP=3124 CC=1250 CSR=2" => "20000", ["2/5"];
    rp_other_channel: "rp2040/slice7/b", "125MHz", "DIV=16 TOP=999 CC=16384000" => "125000", ["1/4"];
    rp_38khz: "rp2040/slice1", "125MHz", "DIV.INT=1 DIV.FRAC=0 TOP=3288 CC.A=0" => "125000000/3289", ["0"];

    rp_exact_at_133: "rp2040/slice1", "133MHz", "DIV=16 TOP=3499 CC=1750" => "38000", ["1/2", "0"];
    rp_twelfth_slice: "rp2350/slice11/b", "150MHz", "CH11_DIV=16 CH11_TOP=1499 CH11_CC=24576000" => "100000", ["1/4"];

    // PER + 1 ticks, CC of them; dual slope: 2 PER ticks, 2 CC (or 2 (PER - CC)) of them.
    sam_20khz: "samd21g18/tcc0", "48MHz", "PRESCALER=0 PER=2399 CC0=800 WAVEGEN=2" => "20000", ["1/3"];
    sam_44khz: "samd21g18/tcc0", "48MHz", "PRESCALER=0 PER=1087 CC3=544" => "750000/17", ["1/2"];
    sam_dual: "samd21g18/tcc0", "48MHz", "PRESCALER=0 PER=1200 CC0=400 WAVEGEN=5 POL0=1" => "20000", ["1/3"];
    sam_dual_default: "samd21g18/tcc1", "48MHz", "PRESCALER=0 PER=1200 CC0=400 WAVEGEN=7 POL0=0" => "20000", ["2/3"];
    sam_servo: "samd21g18/tc3", "48MHz", "CTRLA=0x0462 CC0=59999 CC1=4500" => "50", ["3/40"];
    sam_eight_bits: "samd21g18/tc4", "48MHz", "MODE=1 WAVEGEN=2 PRESCALER=0 PER=239 CC0=60 CC1=120" => "200000", ["1/4", "1/2"];
    sam_fixed_length: "samd21g18/tc5", "48MHz", "MODE=0 WAVEGEN=2 PRESCALER=0 CC0=16384" => "46875/64", ["1/4"];
    sam_match_frequency: "samd21g18/tc5", "48MHz", "MODE=0 WAVEGEN=1 PRESCALER=0 CC0=23999 CC1=0" => "1000", ["1/2"];
}

written! {
    counts: "pca9685/pwm", "25MHz", "1562500/15616Hz", ["2500us"] => "PRE_SCALE=60 LED0_ON.COUNT=0 LED0_OFF.COUNT=1025";
    lengths: "esp32c3/timer2", "80MHz", "25kHz", ["50%"] => "TIMER2_CONF.DUTY_RES=11 TIMER2_CONF.CLK_DIV=400 CH0_DUTY.TICKS=1024 CH0_CONF0.TIMER_SEL=2";
    nanoseconds: "kernel-pwm/pwm", "1GHz", "50Hz", ["1500us"] => "period=20000000 duty_cycle=1500000";
    avr_servo: "atmega328p/timer1", "16MHz", "50Hz", ["1500us"] => "ICR1=39999 OCR1A=2999 TCCR1B.CS1=2 TCCR1B.WGM1=3 TCCR1A.WGM1=2 TCCR1A.COM1A=2";
    avr_20khz: "atmega328p/timer1", "16MHz", "20kHz", ["25%"] => "ICR1=799 OCR1A=199 TCCR1B.CS1=1";
    avr_default: "atmega328p/timer0", "16MHz", "976.5625Hz", ["50%"] => "TCCR0B.CS0=3 OCR0A=127 TCCR0A.WGM0=3 TCCR0B.WGM02=0";
    stm_servo: "stm32f411/tim3", "100MHz", "50Hz", ["1500us"] => "PSC=39 ARR=49999 CCR1=3750";
    stm_wide_servo: "stm32f411/tim5", "100MHz", "50Hz", ["1500us"] => "PSC=0 ARR=1999999 CCR1=150000";
    stm_motor: "stm32f411/tim1", "100MHz", "25kHz", ["35%"] => "PSC=0 ARR=3999 CCR1=1400 BDTR.MOE=1 RCR=0";
    pic_20khz: "pic18f45k22/ccp2", "48MHz", "20kHz", ["25%"] => "T2CON.T2CKPS=1 PR2=149 CCPR2L=37 CCP2CON.DC2B=2 CCPTMRS0.C2TSEL=0";
    rp_servo: "rp2040/slice3", "125MHz", "50Hz", ["1.5ms"] => "DIV.INT=39 DIV.FRAC=1 TOP=63999 CC.A=4800";
    rp2350_nearest: "rp2350/slice0", "150MHz", "38kHz", [] => "DIV.INT=1 DIV.FRAC=0 TOP=3946";
    rp_exact_at_133: "rp2040/slice3", "133MHz", "38kHz", [] => "DIV.INT=1 DIV.FRAC=0 TOP=3499";
    sam_20khz: "samd21g18/tcc0", "48MHz", "20kHz", ["2=33%"] => "PER=2399 CC2=792";
    sam_servo: "samd21g18/tc3", "48MHz", "50Hz", ["1.5ms"] => "CTRLA.PRESCALER=4 CC0=59999 CC1=4500 CTRLA.WAVEGEN=3 CTRLA.MODE=0";
    sam_wide: "samd21g18/tcc1", "48MHz", "50Hz", ["1.5ms"] => "CTRLA.PRESCALER=0 PER=959999 CC0=72000";
    sam_two_on_one: "samd21g18/tcc2", "48MHz", "20kHz", ["25%", "50%"] => "PER=2399 CC0=600 CC1=1200";
}

#[test]
fn the_ends_of_each_law() {
    let constant =
        |place: &str, registers: &str| decoded(place, "16MHz", registers).setting.outputs[0].constant;
    assert_eq!(constant("stm32f411/tim3", "PSC=0 ARR=9 CCR1=0"), Some(Constant::Inactive));
    assert_eq!(constant("stm32f411/tim3", "PSC=0 ARR=9 CCR1=9"), None);
    assert_eq!(constant("stm32f411/tim3", "PSC=0 ARR=9 CCR1=10"), Some(Constant::Active));
    assert_eq!(constant("stm32f411/tim3", "PSC=0 ARR=9 CCR1=9 CMS=1"), Some(Constant::Active));
    assert_eq!(constant("atmega328p/timer0", "TCCR0A=0x83 TCCR0B=1 OCR0A=255"), Some(Constant::Active));
    assert_eq!(constant("atmega328p/timer0", "TCCR0A=0x83 TCCR0B=1 OCR0A=0"), None);
    assert_eq!(constant("atmega328p/timer0", "TCCR0A=0x81 TCCR0B=1 OCR0A=0"), Some(Constant::Inactive));
    assert_eq!(constant("pic18f45k22/ccp1", "T2CKPS=0 PR2=99 CCPR1L=100 DC1B=0"), Some(Constant::Active));
    assert_eq!(constant("pic18f45k22/ccp1", "T2CKPS=0 PR2=255 CCPR1L=255 DC1B=3"), None);
    assert_eq!(constant("rp2040/slice0", "DIV=16 TOP=9 CC=10"), Some(Constant::Active));
    assert_eq!(
        constant("samd21g18/tcc0", "PRESCALER=0 PER=9 CC0=9 WAVEGEN=5 POL0=0"),
        Some(Constant::Inactive)
    );
}
