//! Worked examples: register values and what they make, computed by hand from the formulas of the data sheets.

use kairotic_core::quantity::Rational;
use kairotic_core::setting::{Constant, Reading};

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
