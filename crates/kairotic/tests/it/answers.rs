//! What is derived and decoded, against arithmetic done by hand.

use serde_json::{Value, json as value};

use crate::run::{json, leading, run};

/// The written values of the leading setting, by `REGISTER` or `REGISTER.FIELD`.
fn written(result: &Value, name: &str) -> u64 {
    let registers = leading(result)["registers"].as_array().unwrap();
    let found = registers.iter().find(|register| {
        let full = match register["field"].as_str() {
            Some(field) => format!("{}.{field}", register["register"].as_str().unwrap()),
            None => register["register"].as_str().unwrap().to_owned(),
        };
        full == name
    });
    found.unwrap_or_else(|| panic!("no {name} in {registers:?}"))["written"].as_u64().unwrap()
}

fn names(result: &Value) -> Vec<&str> {
    result["findings"].as_array().unwrap().iter().map(|finding| finding["name"].as_str().unwrap()).collect()
}

#[test]
fn the_dome_s_motor_on_a_control_counter() {
    // 48 MHz / 25 kHz = 1920 ticks, 35 % of them 672.
    let result = json("derive --on samd21g18/tcc0 --clock 48MHz --freq 25kHz --duty 35%");
    let setting = &leading(&result);
    assert_eq!(
        (written(&result, "CTRLA.PRESCALER"), written(&result, "PER"), written(&result, "CC0")),
        (0, 1919, 672)
    );
    assert_eq!((&setting["divider"]["exact"], &setting["steps"]), (&value!("1"), &value!(1920)));
    assert_eq!(
        (&setting["frequency_exact"], &setting["signals"][0]["exact"]),
        (&value!(true), &value!(true))
    );
    assert_eq!(setting["outputs"][0]["duty"]["exact"], "7/20");
}

#[test]
fn the_shutter_s_servo_on_sixteen_bits() {
    // Divider 40: 400 ns a tick, 50000 ticks in 20 ms, 3750 in 1.5 ms, 1.2 ms / 400 ns = 3000 steps.
    let line = "derive --on stm32f411/tim3 --clock 100MHz --freq 50Hz --span 900us..2100us --pulse 1500us";
    let result = json(line);
    assert_eq!(
        (written(&result, "PSC"), written(&result, "ARR"), written(&result, "CCR1")),
        (39, 49_999, 3750)
    );
    let setting = &leading(&result);
    assert_eq!((&setting["divider"]["exact"], &setting["span"]["steps"]), (&value!("40"), &value!(3000)));
    assert_eq!(
        (&setting["frequency_exact"], &setting["signals"][0]["exact"]),
        (&value!(true), &value!(true))
    );
    // Divider 32: 320 ns, which does not divide 1.5 ms, but gives more steps.
    let settings = result["others"].as_array().unwrap();
    let finer = settings.iter().find(|setting| setting["divider"]["exact"] == "32").unwrap();
    assert_eq!((&finer["frequency_exact"], &finer["signals"][0]["exact"]), (&value!(true), &value!(false)));
    assert!(finer["span"]["steps"].as_u64() > Some(3000));
    assert_eq!(finer["better"], value!(["more steps"]));
    let text = run(line).stdout;
    assert!(text.contains("divide by 32") && text.contains("pulse -160 ns"), "{text}");
}

#[test]
fn the_shutter_s_servo_on_thirty_two_bits() {
    let result =
        json("derive --on stm32f411/tim2 --clock 100MHz --freq 50Hz --span 900us..2100us --pulse 1500us");
    assert_eq!(
        (written(&result, "PSC"), written(&result, "ARR"), written(&result, "CCR1")),
        (0, 1_999_999, 150_000)
    );
    assert_eq!(leading(&result)["span"]["steps"], 120_000);
}

#[test]
fn a_servo_on_a_counter_that_is_high_for_one_tick_more() {
    // 16 MHz / 8 = 2 MHz: 40000 ticks, 3000 of them high, one less is written.
    let result = json("derive --on atmega328p/timer1 --clock 16MHz --freq 50Hz --pulse 1500us");
    assert_eq!(
        (written(&result, "TCCR1B.CS1"), written(&result, "ICR1"), written(&result, "OCR1A")),
        (2, 39_999, 2999)
    );
    assert_eq!(leading(&result)["outputs"][0]["ticks"]["exact"], "3000");
}

#[test]
fn a_counter_that_is_too_short_says_what_would_do() {
    // 16 MHz / (1024 * 510) and / (1024 * 256); 10 Hz * 1024 * 510 = 5.2224 MHz.
    let refused = run("derive --on atmega328p/timer2 --clock 16MHz --freq 10Hz");
    assert_eq!((refused.code, refused.stdout.as_str()), (2, ""));
    for part in ["30.637 Hz (phase)", "61.035 Hz", "(fast)", "5.2224 MHz", "timer1"] {
        assert!(refused.stderr.contains(part), "{part} is not in {}", refused.stderr);
    }
}

#[test]
fn a_compare_value_split_over_two_registers() {
    // 64 MHz / 4 / 4 / 200 = 20 kHz; a quarter of 800 quarter ticks is 200 = 50 * 4 + 0.
    let result = json("derive --on pic18f45k22/ccp1 --clock 64MHz --freq 20kHz --duty 25%");
    assert_eq!((written(&result, "T2CON.T2CKPS"), written(&result, "PR2")), (1, 199));
    assert_eq!((written(&result, "CCPR1L"), written(&result, "CCP1CON.DC1B")), (50, 0));
    let setting = &leading(&result);
    assert_eq!((&setting["divider"]["exact"], &setting["steps"]), (&value!("16"), &value!(800)));
}

#[test]
fn a_fractional_divider_without_jitter() {
    // 39 1/16 * 64000 = 2.5e6 source clocks; 39 1/16 * 4800 = 187500.
    let result = json("derive --on rp2040/slice0 --clock 125MHz --freq 50Hz --pulse 1.5ms");
    assert_eq!((written(&result, "DIV.INT"), written(&result, "DIV.FRAC")), (39, 1));
    assert_eq!((written(&result, "TOP"), written(&result, "CC.A")), (63_999, 4800));
    let setting = &leading(&result);
    assert_eq!(
        (&setting["divider"]["exact"], &setting["jitter"]["peak_to_peak"]["exact"]),
        (&value!("625/16"), &value!("0"))
    );
    assert_eq!(setting["frequency_exact"], true);
}

#[test]
fn a_fractional_divider_with_jitter_is_never_called_exact() {
    // 38 3/16 * 65465 is no whole number: 65465 * 3 mod 16 = 11, so the pattern takes 16 periods.
    let result = json("decode --on rp2040/slice0 --clock 125MHz DIV.INT=38 DIV.FRAC=3 TOP=65464 CC.A=4912");
    let jitter = &leading(&result)["jitter"];
    assert_eq!((&jitter["peak_to_peak"]["exact"], &jitter["repeats"]), (&value!("1/125000000"), &value!(16)));
    // The RMS of a part p = 11/16 of a clock: sqrt(p (1 - p)) * 8 ns.
    let rms = jitter["rms_s"].as_f64().unwrap();
    assert!((rms - (11.0_f64 / 16.0 * 5.0 / 16.0).sqrt() * 8e-9).abs() < 1e-15, "{rms}");
}

#[test]
fn a_frequency_that_does_not_divide() {
    // 16 MHz / 60 Hz = 266666.67: 5 * 53333 = 266665 is 1.67 clocks short, 6.25 ppm.
    let result = json("derive --on stm32f411/tim3 --clock 16MHz --freq 60Hz");
    assert_eq!((written(&result, "PSC"), written(&result, "ARR")), (4, 53_332));
    let error = leading(&result)["frequency_error"]["approx"].as_f64().unwrap() * 1e6;
    assert!((error - 6.25).abs() < 0.001, "{error}");
    assert_eq!(leading(&result)["frequency_exact"], false);
}

#[test]
fn two_registers_that_are_one_too_large() {
    // 100 MHz / (41 * 50001) where 40 * 50000 was meant.
    let line = "decode --on stm32f411/tim3 --clock 100MHz PSC=40 ARR=50000 CCR1=3750";
    for (line, severity, code) in
        [(line.to_owned(), "warning", 0), (format!("{line} --expect 50Hz"), "error", 1)]
    {
        let result = json(&line);
        assert_eq!(names(&result), ["top-off-by-one", "divider-off-by-one"]);
        let remedies: Vec<&str> = result["findings"]
            .as_array()
            .unwrap()
            .iter()
            .map(|finding| finding["remedy"].as_str().unwrap())
            .collect();
        assert!(remedies[0].contains("ARR=49999") && remedies[1].contains("PSC=39"), "{remedies:?}");
        assert_eq!(result["findings"][0]["severity"], severity);
        let frequency = leading(&result)["frequency"]["approx"].as_f64().unwrap();
        assert!((frequency - 100e6 / (41.0 * 50_001.0)).abs() < 1e-9, "{frequency}");
        assert_eq!(run(&line).code, code);
    }
}

#[test]
fn one_register_that_is_one_too_large() {
    let top = json("decode --on samd21g18/tcc0 --clock 48MHz CTRLA.PRESCALER=0 PER=1920 --expect 25kHz");
    assert_eq!(names(&top), ["top-off-by-one"]);
    let divider = json("decode --on stm32f411/tim3 --clock 100MHz PSC=40 ARR=49999 --expect 50Hz");
    assert_eq!(names(&divider), ["divider-off-by-one"]);
    // Right as it is: nothing to say.
    assert_eq!(
        names(&json("decode --on stm32f411/tim3 --clock 100MHz PSC=39 ARR=49999 --expect 50Hz")),
        [""; 0]
    );
    assert_eq!(names(&json("decode --on stm32f411/tim3 --clock 100MHz PSC=39 ARR=49999")), [""; 0]);
}

#[test]
fn registers_that_fit_another_clock() {
    let result = json("decode --on stm32f411/tim3 --clock 50MHz PSC=39 ARR=49999 --expect 50Hz");
    assert_eq!(names(&result), ["bus-clock-suspected"]);
    assert!(result["findings"][0]["message"].as_str().unwrap().contains("100 MHz"));
    // Not a clock that anything of this part has.
    let result = json("decode --on stm32f411/tim3 --clock 50MHz PSC=38 ARR=40000 --expect 50Hz");
    assert_eq!(names(&result), ["outside-tolerance"]);
}

#[test]
fn compare_values_at_and_past_the_ends() {
    let past = json("decode --on stm32f411/tim3 --clock 100MHz PSC=39 ARR=49999 CCR1=50001");
    assert_eq!(names(&past), ["compare-past-top"]);
    assert_eq!(leading(&past)["outputs"][0]["constant"], "active");
    let spike = json("decode --on atmega328p/timer0 --clock 16MHz TCCR0A=0x83 TCCR0B=3 OCR0A=0");
    assert_eq!(
        (names(&spike), &spike["findings"][0]["severity"]),
        (vec!["spike-at-zero"], &value!("warning"))
    );
    assert_eq!(leading(&spike)["outputs"][0]["ticks"]["exact"], "1");
    // The whole 16 bits: 65536 does not fit the compare register.
    let full = json("decode --on stm32f411/tim3 --clock 100MHz PSC=0 ARR=65535 CCR1=65535");
    assert_eq!(names(&full), ["full-on-unreachable"]);
}

#[test]
fn ends_that_a_mode_cannot_reach() {
    let zero = json("derive --on atmega328p/timer0 --clock 16MHz --freq 976.5625Hz --duty 0% --mode edge");
    assert_eq!(names(&zero), ["spike-at-zero"]);
    let full =
        json("derive --on rp2040/slice0 --clock 125MHz --freq 125/65536MHz --duty 100% --mode trailing");
    assert_eq!(
        (names(&full), leading(&full)["plan"]["top"].as_u64()),
        (vec!["full-on-unreachable"], Some(65_535))
    );
    let short = json("derive --on pic18f45k22/ccp1 --clock 64MHz --freq 20kHz --pulse 20ns");
    assert_eq!(names(&short), ["pulse-under-half-step"]);
}

#[test]
fn whole_registers_are_taken_apart() {
    let fields = json("decode --on pic18f45k22/ccp1 --clock 64MHz T2CKPS=1 PR2=199 CCPR1L=50 DC1B=1");
    let whole =
        json("decode --on pic18f45k22/ccp1 --clock 64MHz T2CON=0b101 PR2=0xc7 CCPR1L=0x32 CCP1CON=0x1C");
    assert_eq!(fields["settings"], whole["settings"]);
    assert_eq!(leading(&whole)["outputs"][0]["duty"]["exact"], "201/800");
    // With the prefix of the device header, and in any case.
    let prefixed = json("decode --on stm32f411/tim3 --clock 100MHz TIM3_PSC=39 tim3_arr=49_999");
    assert_eq!(leading(&prefixed)["frequency"]["exact"], "50");
}

#[test]
fn a_channel_that_is_connected_to_nothing_is_left_out() {
    // COM1B = 0: the pin is an ordinary port.
    let line =
        "decode --on atmega328p/timer1 --clock 16MHz TCCR1A=0x82 TCCR1B=0x1a ICR1=39999 OCR1A=2999 OCR1B=0";
    let result = json(line);
    let channels = leading(&result)["outputs"].as_array().unwrap();
    assert_eq!((channels.len(), &channels[0]["pulse"]["exact"]), (1, &value!("3/2000")));
    assert_eq!(result["assumed"], value!(["channel b is connected to no output"]));
}

#[test]
fn a_base_counter_is_found_from_its_registers() {
    let timer4 = json("decode --on pic18f45k22/ccp2 --clock 64MHz C2TSEL=1 T4CKPS=0 PR4=99 CCPR2L=25 DC2B=0");
    assert_eq!(leading(&timer4)["frequency"]["exact"], "160000");
    // Two channels on a counter whose 16-bit mode spends one of them on the top: the 8-bit view has both.
    let both = json("derive --on samd21g18/tc3 --clock 48MHz --freq 46.875kHz --duty 25% --duty 50%");
    assert_eq!((written(&both, "CTRLA.MODE"), written(&both, "PER")), (1, 255));
}

#[test]
fn signals_go_to_channels_by_name_and_in_order() {
    let result =
        json("derive --on stm32f411/tim3 --clock 100MHz --freq 1kHz --duty 3=35% --pulse 100us --duty 1=50%");
    assert_eq!(
        (written(&result, "CCR3"), written(&result, "CCR2"), written(&result, "CCR1")),
        (17_500, 5000, 25_000)
    );
}

#[test]
fn a_time_base() {
    let result = json("derive --on stm32f411/tim2 --clock 100MHz --tick 1us");
    assert_eq!((written(&result, "PSC"), &leading(&result)["tick_error"]["exact"]), (99, &value!("0")));
    // No tap makes 1 us from 20 MHz; the nearest are 400 ns and 3.2 us.
    let result = json("derive --on atmega328p/timer1 --clock 20MHz --tick 0.5us");
    assert_eq!(
        (&leading(&result)["tick"]["exact"], names(&result)),
        (&value!("1/2500000"), vec!["outside-tolerance"])
    );
}

#[test]
fn a_preference_replaces_the_score() {
    let line = "derive --on stm32f411/tim3 --clock 100MHz --freq 50Hz --pulse 1500us";
    let divider =
        |prefer: &str| leading(&json(&format!("{line} --prefer {prefer}")))["divider"]["exact"].clone();
    // 2e6 clocks / 65536 = 30.5: the finest is 31. Of the exact ones, and of those with a tick of one digit, the
    // smallest divider leads: 20, which counts 50000 up and 50000 down.
    assert_eq!(
        (divider("fine"), divider("exact"), divider("round-tick")),
        (value!("31"), value!("20"), value!("20"))
    );
    // Counting up only: 40 is the first whose tick divides 20 ms and 1.5 ms.
    assert_eq!(divider("exact --mode edge"), "40");
}

#[test]
fn a_clock_s_tolerance_is_kept_apart() {
    let result = json("derive --on stm32f411/tim3 --clock 100MHz+-30ppm --freq 50Hz --pulse 1500us");
    // 50 Hz * 30e-6 and 1.5 ms * 30e-6.
    assert_eq!(
        (&result["clock_error"]["frequency"]["exact"], &result["clock_error"]["pulse"]["exact"]),
        (&value!("3/2000"), &value!("9/200000000"))
    );
    assert_eq!(leading(&result)["frequency_error"]["exact"], "0");
}

#[test]
fn the_tour_runs_every_stop() {
    let demo = json("demo");
    let stops = demo["stops"].as_array().unwrap();
    let parts: std::collections::BTreeSet<_> =
        stops.iter().filter_map(|stop| stop["answer"]["result"]["timer"].as_str()).collect();
    assert!(stops.len() >= 5 && parts.len() >= 2, "{stops:?}");
    let text = run("demo");
    assert_eq!(text.code, 0);
    for stop in stops {
        assert!(text.stdout.contains(stop["run"].as_str().unwrap()));
    }
}

#[test]
fn a_top_a_few_ticks_away_makes_a_duty_exact() {
    // 100 MHz / 2049 Hz = 48804.3 ticks, whose nearest makes no 90 %; 48800 is +88 ppm off and does: 43920 of them.
    let found = json("derive --on stm32f411/tim3 --clock 100MHz --freq 2049Hz --duty 90%");
    let best = &leading(&found);
    assert_eq!(
        (&best["signals"][0]["exact"], &best["steps"]),
        (&serde_json::json!(true), &serde_json::json!(48_800))
    );
    // 133 MHz / 1714 Hz = 77596.3 clocks; by 5/4 they are 62077 ticks: 62080 of them are 77600 clocks, 15 % of which 11640.
    let found = json("derive --on rp2040/slice3 --clock 133MHz --freq 1714Hz --duty 15%");
    let best = &leading(&found);
    assert_eq!(
        (&best["divider"]["exact"], &best["steps"]),
        (&serde_json::json!("5/4"), &serde_json::json!(62_080))
    );
    assert_eq!(best["signals"][0]["exact"], true);
    // Closer than that it may not be looked for.
    let near = json("derive --on stm32f411/tim3 --clock 100MHz --freq 2049Hz --duty 90% --within 50ppm");
    assert_eq!(leading(&near)["steps"], 48_804);
}

#[test]
fn a_pulse_between_two_source_clocks_is_told_as_what_it_can_be() {
    // 7000 clocks in 5600 ticks of 5/4; 1750 of them are 2187.5 clocks: each pulse has 2187 or 2188.
    let line = "decode --on rp2040/slice0 --clock 125MHz DIV.INT=1 DIV.FRAC=4 TOP=5599 CC.A=1750";
    let found = json(line);
    let channel = &leading(&found)["outputs"][0];
    assert_eq!(channel["pulse_clocks"], serde_json::json!([2187, 2188]), "{found}");
    let text = run(line).stdout;
    assert!(text.contains("2187 or 2188 source clocks"), "{text}");
}

#[test]
fn the_one_register_that_would_make_it_is_named() {
    // 90 MHz / 90 / 2000 = 500 Hz. 50 Hz takes ten times as many ticks, or ten times the division.
    let found = json("decode --on stm32f446/tim2 --clock 90MHz PSC=89 ARR=1999 --expect 50Hz");
    let finding = &found["findings"][0];
    assert_eq!(finding["name"], "outside-tolerance");
    let remedy = "write ARR=19999 and keep PSC; or write PSC=899 and keep ARR";
    assert_eq!(finding["remedy"], remedy);
    // On 16 bits ten times 65 536 ticks are not to be had: only the divider.
    let found = json("decode --on stm32f411/tim3 --clock 100MHz PSC=9 ARR=65535 --expect 15.2587890625Hz");
    assert_eq!(found["findings"][0]["remedy"], "write PSC=99 and keep ARR");
}

#[test]
fn a_frequency_alone_is_a_source_from_outside() {
    // 8 MHz is also what the internal oscillator has.
    let found = json("clock --on stm32f103/tim2 --source 8MHz --reach 72MHz");
    let text = found.to_string();
    assert!(text.contains("HSE") && !text.contains("\"HSI\""), "{text}");
    let named = run("clock --on stm32f103/tim2 --source hsi --reach 64MHz").stdout;
    assert!(named.contains("from the HSI, 8 MHz"), "{named}");
}

#[test]
fn an_output_that_never_moves_ends_one_count_after_it_starts() {
    // A quarter of 4096 counts is 1024; start and end have to differ, or the channel would begin a pulse without length.
    let found = json("derive --on pca9685/pwm --freq 200Hz --duty led1=0% --phase led1=90deg");
    assert_eq!((written(&found, "LED1_ON.COUNT"), written(&found, "LED1_OFF.COUNT")), (1024, 1025));
}

#[test]
fn what_is_unsure_of_full_on_is_not_told_of_a_compare_past_the_top() {
    // With CMP above PER nothing clears the output, which is known; that nothing does with CMP = PER is in doubt.
    let says = |line: &str| -> String {
        let on = "--on stm32g474/hrtim-a/1 --clock 5.44GHz";
        let found = json(&format!("decode {on} TIMA_CR.CKPSC=0 TIMA_PERR=5440 {line}"));
        found["findings"].to_string()
    };
    let (at, past) = (says("TIMA_CMP1R=5440"), says("TIMA_CMP1R=6000"));
    let doubt = "what wins where CMP = PER";
    assert!(at.contains(doubt), "{at}");
    assert!(past.contains("past the top") && !past.contains(doubt), "{past}");
}

#[test]
fn a_compare_value_that_may_not_be_written_is_refused_with_those_that_may() {
    let (on, rest) = ("--on stm32g474/hrtim-a/1 --clock 5.44GHz", "TIMA_CR.CKPSC=0 TIMA_PERR=5440");
    let refused = run(&format!("decode {on} {rest} TIMA_CMP1R=95"));
    assert!(refused.code == 2 && refused.stderr.contains("96..65503"), "{refused:?}");
    let taken = json(&format!("decode {on} {rest} TIMA_CMP1R=96"));
    assert_eq!(leading(&taken)["outputs"][0]["ticks"]["exact"], "96", "{taken}");
}

#[test]
fn a_pulse_starts_later_on_the_channels_that_can_and_no_other() {
    let line = "--freq 20kHz --duty 25% --phase 90deg";
    let refused = run(&format!("derive --on stm32l432/tim1/2 {line}"));
    assert!(refused.code == 2 && refused.stderr.contains("those that can: 1, 3"), "{refused:?}");
    let found = json(&format!("derive --on stm32l432/tim1/3 --clock 80MHz {line}"));
    // 4000 ticks, from a quarter to a half of them.
    let registers = ["ARR", "CCR3", "CCR4", "CCMR2.OC3M", "CCMR2.OC3M_3", "CCMR2.OC4M"];
    assert_eq!(registers.map(|name| written(&found, name)), [3999, 1000, 2000, 5, 1, 6]);
}

#[test]
fn a_frequency_that_a_fixed_counter_cannot_make_is_found_in_a_mode_with_a_top() {
    // 16 MHz / 8 / 40 000: the modes of 8, 9 and 10 bits cannot be so slow in whole dividers and exact.
    let found = json("clock --on atmega328p/timer1 --source 16MHz --reach-pwm 50Hz");
    let text = leading(&found).to_string();
    assert!(text.contains("ICR1") && text.contains("39999"), "{text}");
}

#[test]
fn a_part_with_one_timer_needs_no_timer() {
    let of = |on: &str| json(&format!("derive --on {on} --freq 200Hz --duty 30%"))["settings"].clone();
    assert_eq!(of("pca9685"), of("pca9685/pwm"));
}

#[test]
fn timers_are_found_by_pin_ability_and_word() {
    let rows = |line: &str| -> Vec<String> {
        let found = json(line);
        let row = |one: &Value| {
            let text = |key: &str| one[key].as_str().unwrap_or_default().to_owned();
            [text("part"), text("timer"), text("channel"), text("chosen_by")].join(" ")
        };
        found["found"].as_array().unwrap().iter().map(row).collect()
    };
    // The data sheet of the STM32F411: TIM2 and TIM5 count 32 bits; PA8 has TIM1_CH1 as AF1; PA0 has channel 1 of both.
    assert_eq!(rows("parts stm32f411 --can 32-bit"), ["stm32f411 tim2  ", "stm32f411 tim5  "]);
    assert_eq!(rows("parts stm32f411 --pin pa8"), ["stm32f411 tim1 1 AF1"]);
    assert_eq!(rows("parts stm32f411 --pin PA0"), ["stm32f411 tim2 1 AF1", "stm32f411 tim5 1 AF2"]);
    assert_eq!(rows("parts --search STM32F411 --pin PA8 --can centre"), ["stm32f411 tim1 1 AF1"]);
    // All at once have to hold.
    let both = rows("parts --pin PA8 --can centre");
    assert!(both.len() > 5 && rows("parts --pin PA8").len() >= both.len());
    for (line, told) in [
        ("parts stm32f411 --pin PA8 --can 32-bit", "no timer that the catalogue knows has PA8, 32 bit"),
        ("parts --can wings", "a timer has no ability `wings`"),
        ("parts stm32f411 --pins --pin PA8", "cannot be used with"),
    ] {
        let refused = run(line);
        assert!(refused.code == 2 && refused.stderr.contains(told), "{refused:?}");
    }
}
