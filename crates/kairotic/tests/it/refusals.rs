//! Bad input: one clear message, what to try, exit code 2, and nothing on standard output.

use crate::run::{run, run_words};

/// One test for each line: name, command line, pieces of what is said.
macro_rules! refused {
    ($($name:ident: $line:expr => $($says:literal),+;)*) => {
        $(#[test]
        fn $name() {
            let run = run(&$line);
            assert_eq!((run.code, run.stdout.as_str()), (2, ""), "{run:?}");
            let told = run.stderr.split_whitespace().collect::<Vec<_>>().join(" ");
            $(assert!(told.contains($says), "`{}` is not in: {told}", $says);)+
            assert!(run.stderr.lines().all(|line| line.chars().count() <= 100), "{run:?}");
        })*
    };
}

const MOVE: &str = "move --tick 1us --fastest 2000steps/s --acceleration 1000steps/s2";
const SLIT: &str = concat!("move --board ", env!("CARGO_MANIFEST_DIR"), "/../../demo/dome.toml --signal");

refused! {
    an_acceleration_of_nothing: "move --tick 1us --fastest 9steps/s --acceleration 0steps/s2 --steps 9" => "--acceleration: expected an acceleration greater than zero";
    a_start_above_the_fastest: format!("{MOVE} --start 3000steps/s --steps 9") => "the start rate 3000 steps/s is above the fastest, 2000 steps/s", "start at 2000steps/s or less";
    a_rate_above_the_fastest: format!("{MOVE} --steps 9 --rate 3000steps/s") => "3000 steps/s is above the fastest rate of the stepper";
    a_rate_of_another_kind: format!("{MOVE} --steps 9 --rate 3kHz") => "`kHz` is not a unit of it", "steps/s, deg/s, rpm";
    a_gear_of_nothing: format!("{MOVE} --to 9deg --gear 0") => "--gear: expected a gear", "found `0`", "32/11 * 26/9";
    no_steps: format!("{MOVE} --steps 0") => "--steps: expected a whole number of steps that is not zero";
    a_way_of_less_than_a_step: format!("{MOVE} --to 0.1deg") => "there is nothing to move", "at least a step away";
    more_steps_than_are_looked_at: format!("{MOVE} --steps 900000000000") => "the move has 900000000000 steps, and at most 100000000 are taken";
    a_timed_motor_of_less_than_a_tick: "move --tick 1s --speed 140rpm --by 60deg" => "it would run for 71.43 ms, less than half a tick";
    a_timed_motor_as_a_stepper: "move --tick 1ms --speed 140rpm --steps 60" => "--speed cannot be used with --steps";
    two_steps_on_one_tick: "move --tick 1ms --fastest 4000steps/s --acceleration 90000steps/s2 --steps 900" => "the fastest steps are 250 us apart", "none that are closer than 1 ms", "a finer tick";
    steps_that_a_top_is_too_small_for: "move --on stm32f411/tim3 --clock 1MHz --phases full --fastest 999000steps/s --start 999000steps/s --acceleration 9steps/s2 --steps 900" => "the fastest steps are 1 us apart";
    a_misspelt_stepper: format!("{SLIT} slti --to 85deg") => "the board has no signal `slti`", "did you mean slit?";
    no_way_at_all: MOVE => "missing one of --to, --by, --steps";
    a_slowest_step_past_the_counter: "move --on atmega328p/timer2 --clock 16MHz --fastest 2000steps/s --acceleration 1000steps/s2 --steps 9" => "the slowest step takes 44.72", "the longest period of atmega328p/timer2 is 16.384 ms", "start at a higher rate";
    a_timer_of_one_length: "move --on pca9685/pwm --fastest 20steps/s --acceleration 10steps/s2 --steps 9" => "none of them counts up to a period that is written", "period register";
    an_angle_outside_the_travel: format!("{SLIT} slit --to 385deg") => "expected angle between 0 deg and 340 deg, found 385 deg";
    a_signal_that_does_not_move: format!("{SLIT} flat-field --to 85deg") => "flat-field is no stepper";
    a_stepper_that_is_not_there: format!("{SLIT} slot --to 85deg") => "the board has no signal `slot`";
    a_stepper_as_a_signal: format!("{} slit", SLIT.replace("move", "derive")) => "`slit` is a stepper", "move --board FILE --signal slit --to ANGLE";
    a_stepper_with_a_tick: format!("{SLIT} slit --to 85deg --tick 1ms") => "slit is a stepper, and the board says which timer times it";
    a_timed_lamp: format!("{SLIT} flat-field --by 5deg --tick 1ms") => "flat-field has no `full-speed`", "scale --observed";
    a_timed_motor_that_stands: format!("{SLIT} vent --by 5deg --tick 1ms --level 0%") => "a speed greater than zero";
    a_timed_motor_to_an_angle: format!("{SLIT} vent --to 5deg --tick 1ms") => "vent is run for a time, and nothing tells where it is";
    a_timer_besides_a_tick: "move --on stm32f411/tim3 --tick 1ms --fastest 9steps/s --acceleration 9steps/s2 --steps 9" => "cannot be used with";
    a_timer_besides_a_board: format!("{SLIT} slit --to 85deg --on stm32f411/tim3") => "cannot be used with";
    a_servo_by_an_angle: format!("{SLIT} shutter --by 5deg") => "shutter is a servo, which goes to an angle";
    a_servo_in_steps: format!("{SLIT} shutter --to 85deg --rate 30steps/s") => "shutter is a servo, which has no steps", "--rate 30deg/s";
    a_servo_that_stays: format!("{SLIT} shutter --to 45deg") => "there is nothing to move";
    a_played_signal: "wave --board ../../demo/dome.toml --signal vent --move 0deg..5deg" => "vent is no stepper";
    periods_of_a_sequence: "wave --board ../../demo/dome.toml --sequence opens --periods 3" => "--sequence cannot be used with --periods";
    a_played_picture: "wave --board ../../demo/dome.toml --sequence opens --plot x.svg" => "a picture of pins shows a few periods", "`sequence --plot`";
    a_sequence_of_another_capture: "measure ../../demo/fan.vcd --board ../../demo/dome.toml --sequence opens" => "no signal of the capture is one of `opens`", "--map";
    a_clock_of_a_sequence: "measure ../../demo/fan.vcd --board ../../demo/dome.toml --sequence opens --fit-clock" => "are for signals that hold a level";
    an_unknown_sequence: "sequence opnes --board ../../demo/dome.toml" => "the board has no sequence `opnes`", "did you mean opens";
    no_sequence: "sequence --on stm32f411/tim3 --freq 50Hz" => "missing --steps";
    steps_of_no_sense: "sequence --on stm32f411/tim3 --freq 50Hz --steps 5%,over" => "step 2: expected a duty";
    steps_beyond_the_load: "sequence --board ../../demo/dome.toml --signal shutter --steps 150deg" => "step 1: expected angle between 0 deg and 120 deg, found 150 deg";
    steps_of_a_stepper: "sequence --board ../../demo/dome.toml --signal slit --steps 50deg" => "slit is a stepper", "`move` moves it";
    steps_that_begin_nowhere: "sequence --on stm32f411/tim3/1 --freq 50Hz --steps arm" => "step 1: `tim3/1` drives nothing that is armed";
    a_toggling_timer: "sequence --on stm32f411/tim3/1 --freq 50Hz --mode toggle --steps 5%" => "it makes square waves only";
    a_sequence_besides_steps: "sequence opens --board ../../demo/dome.toml --steps 5%" => "cannot be used with";
    an_unknown_part: "derive --on stm32f412/tim3 --freq 50Hz" => "no part `stm32f412`", "did you mean stm32f401 or stm32f411";
    a_part_unlike_any: "derive --on zx81/tim3 --freq 50Hz" => "no part `zx81`", "it has atmega168, atmega2560, atmega2561", "and 91 more";
    an_unknown_timer: "derive --on stm32f411/tim7 --freq 50Hz" => "no timer `tim7`", "did you mean";
    an_unknown_channel: "derive --on stm32f411/tim3/9 --freq 50Hz" => "no channel `9`", "it has 1, 2, 3, 4";
    an_unknown_mode: "derive --on stm32f411/tim3 --freq 50Hz --mode centered" => "no mode `centered`", "centre";
    an_unknown_base: "derive --on pic18f45k22/ccp1 --freq 5kHz --base timer3" => "no base counter `timer3`", "timer2";
    a_place_without_timer: "decode --on stm32f411 ARR=999" => "expected PART/TIMER", "found `stm32f411`", "its timers: tim1, tim2";
    a_clock_that_is_off: "derive --on esp32c3/timer0 --freq 50Hz" => "the LED PWM clock is off after reset", "LEDC_CONF.APB_CLK_SEL switches it on: 1 the PLL at 80 MHz, 2 RC_FAST, 3 XTAL", "--clock 80MHz";
    another_clock_that_is_off: "derive --on mkl25z128/tpm0 --freq 50Hz" => "off after reset", "--clock 20.97152MHz";
    a_pin_of_another_channel: "derive --on stm32f446/tim2/3 --pin PA0 --freq 50Hz" => "PA0 carries tim2/1, not the channel of --on stm32f446/tim2/3", "leave the channel out";
    any_pin_of_a_signal: "budget --on esp32c3 --pin GPIO4 --freq 50Hz --pulse 1.5ms" => "any pin of esp32c3 can have any output, by the GPIO matrix", "--on esp32c3/TIMER/CHANNEL";
    a_place_with_too_much: "derive --on a/b/c/d --freq 50Hz" => "expected PART/TIMER";
    a_frequency_without_unit: "derive --on stm32f411/tim3 --freq 50" => "--freq: expected a frequency, found `50`", "the unit is missing", "kHz";
    a_time_for_a_frequency: "derive --on stm32f411/tim3 --freq 20ms" => "`ms` is not a unit of it", "GHz, MHz, kHz, Hz";
    a_misspelt_unit: "derive --on stm32f411/tim3 --freq 25khz" => "the unit is spelt kHz";
    no_frequency_at_all: "derive --on stm32f411/tim3 --freq 0Hz" => "a frequency greater than zero, found 0 Hz";
    a_negative_frequency: "derive --on stm32f411/tim3 --freq -5Hz" => "a frequency greater than zero, found -5 Hz";
    a_period_of_nothing: "derive --on stm32f411/tim3 --period 0ms" => "a time greater than zero";
    a_duty_over_the_whole: "derive --on stm32f411/tim3 --freq 50Hz --duty 101%" => "from 0 % to 100 %, found 101 %", "an active time is a pulse";
    a_negative_duty: "derive --on stm32f411/tim3 --freq 50Hz --duty -1%" => "from 0 % to 100 %, found -1 %";
    a_duty_without_unit: "derive --on stm32f411/tim3 --freq 50Hz --duty 0.35" => "--duty: expected a duty", "the unit is missing";
    a_pulse_longer_than_the_period: "derive --on stm32f411/tim3 --freq 50Hz --pulse 21ms" => "to the period, 20 ms; found 21 ms";
    a_span_reversed: "derive --on stm32f411/tim3 --freq 50Hz --span 2100us..900us" => "found 2.1 ms..900 us", "write 900us..2.1ms";
    a_span_of_one_value: "derive --on stm32f411/tim3 --freq 50Hz --span 900us..900us" => "LOW..HIGH with LOW < HIGH", "two different ends";
    a_span_without_dots: "derive --on stm32f411/tim3 --freq 50Hz --span 900us" => "there is no `..` in it";
    a_span_past_the_period: "derive --on stm32f411/tim3 --freq 50Hz --span 1ms..30ms" => "to the period, 20 ms";
    four_hundred_digits: format!("derive --on stm32f411/tim3 --freq {}Hz", "9".repeat(400)) => "too long to be held exactly", "use fewer digits";
    four_hundred_digits_after_the_point: format!("derive --on stm32f411/tim3 --freq 50Hz --pulse 0.{}1us", "0".repeat(400)) => "too long to be held exactly";
    numbers_at_the_edge: format!("derive --on stm32f411/tim3 --freq {}Hz", "9".repeat(36)) => "cannot make";
    numbers_that_overflow_together: "derive --on stm32f411/tim3 --freq 1/99999999999999999999999999999999999Hz --duty 1/99999999999999999999999999999999999%" => "needs more than the 127 bits";
    a_clock_too_fast: "derive --on stm32f411/tim3 --clock 120MHz --freq 50Hz" => "120 MHz is above the 100 MHz", "--allow-overclock";
    a_clock_limit_in_doubt: "derive --on samd21g18/tcc0 --clock 90MHz --freq 50kHz" => "above the 80 MHz", "unsure";
    a_clock_of_nothing: "derive --on stm32f411/tim3 --clock 0MHz --freq 50Hz" => "greater than zero";
    a_frequency_too_high: "derive --on stm32f411/tim3 --clock 100MHz --freq 60MHz" => "its highest is 50 MHz", "at least 120 MHz";
    a_tolerance_below_zero: "derive --on stm32f411/tim3 --freq 50Hz --within -5ppm" => "tolerance greater than zero";
    more_signals_than_channels: "derive --on rp2040/slice0 --freq 50Hz --duty 1% --duty 2% --duty 3%" => "3 signals are asked for", "2 channels";
    a_channel_twice: "derive --on stm32f411/tim3 --freq 50Hz --duty 1=1% --duty 1=2%" => "channel 1 is asked for twice";
    an_inversion_that_is_not_there: "derive --on pic18f45k22/ccp4 --freq 5kHz --duty 10% --active low" => "cannot be inverted";
    a_square_mode_for_a_third: "derive --on stm32f411/tim3 --freq 50Hz --duty 33% --mode toggle" => "square waves only";
    a_tick_in_a_square_mode: "derive --on stm32f411/tim3 --clock 100MHz --tick 1us --mode toggle" => "square waves only", "leave --mode out";
    a_tick_in_an_unknown_mode: "derive --on stm32f411/tim3 --clock 100MHz --tick 1us --mode updown" => "no mode `updown`";
    a_tick_out_of_reach: "derive --on stm32f411/tim3 --clock 100MHz --tick 10s" => "a tick of 10 s is out of reach", "655.4 us";
    no_target: "derive --on stm32f411/tim3" => "--freq";
    a_tick_with_a_duty: "derive --on stm32f411/tim3 --tick 1us --duty 5%" => "cannot be used with";
    a_pin_that_no_part_has: "survey --freq 50Hz --pin XY99" => "timer output on `XY99`", "parts PART --pins";
    a_tree_that_is_not_there: "clock --on kernel-pwm/pwm --reach 48MHz" => "clock tree of kernel-pwm is not in the catalogue", "derive and decode take";
    a_clock_out_of_reach: "clock --on tm4c123/pwm0-0 --source 16MHz --reach 80MHz" => "no legal clock setting brings 80 MHz", "piosc (16 MHz), mosc (from outside, 4 MHz..25 MHz), pll (400 MHz)";
    an_unknown_source: "clock --on pic18f45k22/ccp1 --source hfintosc --reach-pwm 1Hz" => "no clock source that fits `hfintosc`", "its sources: hfintosc-16";
    a_board_and_a_timer: "clock --board ../../demo/dome.toml --on stm32f411/tim3" => "cannot be used with";
    a_board_from_a_source_that_is_none: "clock --board ../../demo/dome.toml --source 900kHz" => "no clock source that fits `900 kHz`", "from outside, 1 MHz..50 MHz";
    a_base_without_a_timer_search: "clock --on stm32f411/tim3 --reach 96MHz --base x" => "cannot be used with";
    no_registers: "decode --on stm32f411/tim3" => "NAME=VALUE";
    no_assignment: "decode --on stm32f411/tim3 PSC39" => "expected NAME=VALUE", "found `PSC39`";
    a_value_that_is_no_number: "decode --on stm32f411/tim3 PSC=0xZZ" => "expected NAME=VALUE";
    a_negative_value: "decode --on stm32f411/tim3 PSC=-1" => "expected NAME=VALUE";
    an_unknown_register: "decode --on stm32f411/tim3 PCS=1" => "no register `PCS`", "did you mean PSC";
    a_register_too_full: "decode --on stm32f411/tim3 PSC=65536 ARR=1" => "PSC holds 0..65535, found 65536", "another one than PSC";
    a_field_too_full: "decode --on rp2040/slice0 DIV.FRAC=16 DIV.INT=1 TOP=9" => "DIV.FRAC holds 0..15, found 16";
    a_register_twice: "decode --on stm32f411/tim3 PSC=1 TIM3_PSC=2 ARR=9" => "PSC is given twice, as 1 and as 2";
    a_register_missing: "decode --on stm32f411/tim3 PSC=1" => "ARR is not among", "add ARR=VALUE";
    half_a_compare_value: "decode --on pic18f45k22/ccp1 T2CKPS=0 PR2=9 CCPR1L=5" => "CCP1CON.DC1B is not among";
    a_stopped_counter: "decode --on atmega328p/timer0 TCCR0A=0x83 TCCR0B=0 OCR0A=5" => "stops the counter or chooses another clock", "1, 2, 3, 4, 5";
    a_divider_that_is_not_legal: "decode --on rp2040/slice0 DIV.INT=0 DIV.FRAC=5 TOP=9" => "DIV.INT:DIV.FRAC=5", "legal: 16..4095";
    a_top_that_is_not_legal: "decode --on stm32f411/tim3 PSC=0 ARR=0" => "ARR=0", "legal: 1..65535";
    mode_bits_of_no_mode: "decode --on stm32f411/tim3/1 PSC=0 ARR=9 CCR1=5 OC1M=4" => "the mode bits given belong to none";
    an_unknown_command: "drive --on stm32f411/tim3" => "no command `drive`", "did you mean derive";
    an_unknown_page: "manual drive" => "no command `drive`", "did you mean derive";
    an_unknown_option: "derive --on stm32f411/tim3 --frequ 50Hz" => "unknown option --frequ", "did you mean --freq?";
    a_value_that_is_missing: "derive --on stm32f411/tim3 --freq" => "--freq: a value is missing";
    an_option_given_twice: "derive --on stm32f411/tim3 --freq 50Hz --freq 60Hz" => "--freq cannot be given twice";
    a_choice_that_there_is_not: "survey --freq 50Hz --sort stps" => "--sort: unknown value `stps`", "did you mean steps?";
    a_number_out_of_range: "derive --on stm32f411/tim3 --freq 50Hz --min-bits 33" => "--min-bits: expected a whole number from 1 to 32, found `33`";
    a_board_besides_a_target: "wave --board dome.toml --span 1ms..2ms" => "--board cannot be used with --span";
    a_capture_besides_a_timer: "tach fan.vcd --on stm32f411/tim9 --resolve 5rpm --pulses-per-turn 2" => "FILE cannot be used with --on, --resolve";
    a_path_too_long: "parts stm32f411/tim3/1" => "expected PART or PART/TIMER";
}

#[test]
fn a_clock_too_fast_is_accepted_with_a_warning() {
    let run = run("derive --on stm32f411/tim3 --clock 120MHz --freq 50Hz --allow-overclock");
    assert_eq!(run.code, 0);
    assert!(run.stdout.contains("clock-above-maximum (warning)"), "{}", run.stdout);
}

#[test]
fn outside_the_tolerance_is_an_answer_and_a_miss() {
    let run = run("derive --on atmega328p/timer0 --clock 16MHz --freq 1kHz --duty 10% --mode fast");
    assert_eq!(run.code, 1);
    assert!(run.stdout.contains("outside-tolerance (error)"), "{}", run.stdout);
    // 976.5625 Hz is 2.34375 % low; what the remedy says is enough.
    assert!(run.stdout.contains("--within 3%"), "{}", run.stdout);
}

#[test]
fn without_a_command_there_is_help() {
    let run = run_words([], std::path::Path::new("."), &[]);
    assert!(run.code == 2 && run.stderr.contains("derive"), "{run:?}");
}
