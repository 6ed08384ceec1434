//! Dead time between an output and its complement, against counts worked out by hand.

use kairotic_core::Error;
use kairotic_core::quantity::{Rational, Time};
use kairotic_core::search::Derivation;
use kairotic_core::target::Level;

use crate::catalogue::part;
use crate::request::{Request, assigned, decoded, derive, request};

fn ask(place: &str, clock: &str, channel: &str, nanoseconds: i64) -> (&'static str, Request) {
    let (name, timer) = place.split_once('/').unwrap();
    let mut request = request(timer, clock, "20kHz", &[&format!("{channel}=25%")]);
    request.target.dead_time = Some(Time::new(Rational::new(nanoseconds.into(), 1_000_000_000).unwrap()));
    (part(name).name.as_str(), request)
}

fn derived(place: &str, clock: &str, channel: &str, nanoseconds: i64) -> Derivation {
    let (name, request) = ask(place, clock, channel, nanoseconds);
    derive(part(name), &request).unwrap()
}

/// One test for each line: timer, clock, channel, wanted nanoseconds => registers, realised nanoseconds.
macro_rules! dead {
    ($($name:ident: $place:literal, $clock:literal, $channel:literal, $wanted:literal => $registers:literal, $realised:expr;)*) => {
        $(#[test]
        fn $name() {
            let derivation = derived($place, $clock, $channel, $wanted);
            let setting = &derivation.best.setting;
            let written: Vec<String> = assigned(&derivation.timer, setting)
                .into_iter()
                .map(|one| format!("{}={}", one.name, one.value))
                .collect();
            for register in $registers.split(' ') {
                assert!(written.iter().any(|known| known == register), "{register} not in {written:?}");
            }
            let (numerator, denominator) = $realised;
            let realised = Time::new(Rational::new(numerator, denominator * 1_000_000_000).unwrap());
            assert_eq!(setting.dead_time, Some(realised));
            // What the registers say is the same again.
            let reading = decoded($place, $clock, &written.join(" "));
            assert_eq!(reading.setting.dead_time, Some(realised));
        })*
    };
}

dead! {
    // 90 clocks of 180 MHz.
    f446_tim1: "stm32f446/tim1", "180MHz", "1", 500 => "BDTR.DTG=90 CR1.CKD=0 CCER.CC1NE=1", (500, 1);
    // 216 clocks of 72 MHz: (64 + 44) * 2.
    f103_tim1: "stm32f103/tim1", "72MHz", "2", 3000 => "BDTR.DTG=172 CCER.CC2NE=1", (3000, 1);
    // 24 of 48 MHz.
    samd21_tcc0: "samd21g18/tcc0", "48MHz", "0", 500 => "WEXCTRL.DTLS=24 WEXCTRL.DTHS=24", (500, 1);
    // 180 of 60 MHz are too many for 63: divided by 4, 45.
    k64_ftm0: "mk64fn1m0/ftm0", "60MHz", "2", 3000 => "DEADTIME.DTVAL=45 DEADTIME.DTPS=2 COMBINE.COMP1=1 COMBINE.DTEN1=1 MODE.FTMEN=1", (3000, 1);
    // 40 of 80 MHz.
    tm4c: "tm4c123/pwm0-1", "80MHz", "a", 500 => "PWM0_1_DBRISE=40 PWM0_1_DBFALL=40 PWM0_1_DBCTL.ENABLE=1", (500, 1);
    // 60 of 60 MHz; the time base runs undivided for 20 kHz.
    f28027: "f28027/epwm1", "60MHz", "a", 1000 => "DBRED=60 DBFED=60 DBCTL.OUT_MODE=3 DBCTL.POLSEL=2 DBCTL.IN_MODE=0", (1000, 1);
    // 64 clocks of 64 MHz are 16 instruction cycles; 1.01 us needs one more.
    pic18f45k22: "pic18f45k22/ccp1", "64MHz", "1", 1000 => "PWM1CON.P1DC=16 CCP1CON.P1M=2", (1000, 1);
    pic18f45k22_next: "pic18f45k22/ccp1", "64MHz", "1", 1010 => "PWM1CON.P1DC=17", (17_000, 16);
    // 48 MHz: twelve instruction cycles a microsecond.
    pic18f4550: "pic18f4550/ccp1", "48MHz", "1", 1000 => "ECCP1DEL.PDC=12 CCP1CON.P1M=2", (1000, 1);
    // 32 clocks of 64 MHz are too many for 15, and half of them as well: 8 quarters.
    m32u4_timer4: "atmega32u4/timer4", "64MHz", "a", 500 => "DT4.DT4H=8 DT4.DT4L=8 TCCR4B.DTPS4=2 TCCR4A.COM4A=1", (500, 1);
    // 48 clocks of 48 MHz; one less is written.
    efm32: "efm32gg/timer0", "48MHz", "0", 1000 => "DTTIME.DTRISET=47 DTTIME.DTFALLT=47 DTTIME.DTPRESC=0 DTCTRL.DTEN=1", (1000, 1);
    // 75 clocks of 150 MHz.
    rt1060: "mimxrt1060/pwm1-2", "150MHz", "a", 500 => "SM2DTCNT0=75 SM2DTCNT1=75 SM2CTRL2.INDEP=0", (500, 1);
}

#[test]
fn a_complement_that_fixes_the_level_is_not_inverted() {
    let (name, mut request) = ask("atmega32u4/timer4", "64MHz", "a", 500);
    request.target.level = Level::Low;
    let Err(Error::NoDeadTime { why, .. }) = derive(part(name), &request) else { panic!("inverted") };
    assert!(why.contains("active high"), "{why}");
}

#[test]
fn too_long_a_dead_time_names_the_longest() {
    // 63 sixteenths of 60 MHz are 16.8 us.
    let (name, request) = ask("mk64fn1m0/ftm0", "60MHz", "0", 17_000);
    let Err(Error::NoDeadTime { why, .. }) = derive(part(name), &request) else { panic!("17 us") };
    assert!(why.contains("16.8 us"), "{why}");
}
