//! What lies around a timer, and what lies beside it: clock trees, pins, other timers.

use serde_json::{Value, json as value};

use crate::run::{json, leading, result_of, run};

/// The named registers of a list, as `FIELD=value`.
fn assignments(registers: &Value) -> Vec<String> {
    let name = |register: &Value| match register["field"].as_str() {
        Some(field) => field.to_owned(),
        None => register["register"].as_str().unwrap().to_owned(),
    };
    let list = registers.as_array().unwrap().iter();
    list.map(|register| format!("{}={}", name(register), register["written"])).collect()
}

fn has(registers: &Value, wanted: &[&str]) {
    let all = assignments(registers);
    for field in wanted {
        assert!(all.iter().any(|known| known == field), "{field} is not in {all:?}");
    }
}

#[test]
fn a_clock_reaches_a_timer_through_the_tree() {
    let reached = json("clock --on stm32f411/tim3 --source 12MHz --reach 96MHz");
    let best = &reached["ways"][0];
    has(&best["arrangement"]["writes"], &["PLLM=6", "PLLN=96", "PLLP=0", "SW=2", "PPRE1=4"]);
    assert_eq!(
        (&best["arrangement"]["frequency"]["exact"], &best["arrangement"]["vco"]["exact"]),
        (&value!("96000000"), &value!("192000000"))
    );
    assert_eq!(best["error"]["exact"], "0");
    // 13 MHz cannot give it exactly: the nearest is told, and that it is missed.
    let near = run("clock --on stm32f411/tim3 --source 13MHz --reach 95.9MHz");
    assert!(near.code == 1 && near.stdout.contains("the nearest that is legal"), "{near:?}");
}

#[test]
fn the_bus_dividers_are_listed_with_their_rule() {
    let text = run("clock --on stm32f411/tim3 --sysclk 100MHz").stdout;
    let row =
        |clock: &str, settled: &str| text.lines().any(|line| line.contains(clock) && line.contains(settled));
    assert!(row("100 MHz", "ahb=1 apb1=2 timpre=0") && row("50 MHz", "ahb=1 apb1=4 timpre=0"), "{text}");
    assert!(row("100 MHz", "ahb=1 apb1=4 timpre=1") && text.contains("twice PCLK1"), "{text}");
    assert!(text.contains("PCLK1 would be 100 MHz, above its 50 MHz"), "{text}");
}

#[test]
fn registers_tell_what_reaches_each_timer() {
    // 8 MHz / 8 * 200 / 2 = 100 MHz; PCLK1 is not divided and has twice what it may have.
    let line = "clock --on stm32f411 --source 8MHz --registers PLLSRC=1 PLLM=8 PLLN=200 SW=2";
    let state = json(line);
    let timer = state["timers"].as_array().unwrap().iter().find(|timer| timer["timer"] == "tim1").unwrap();
    assert_eq!(timer["frequency"]["exact"], "100000000");
    let wrong = state["nodes"].as_array().unwrap().iter().find(|node| !node["illegal"].is_null()).unwrap();
    assert_eq!(wrong["node"], "apb1");
    assert_eq!(run(line).code, 1);
    // Nothing is known of a crystal that nobody names.
    let unknown = run("clock --on stm32f411 --registers PLLSRC=1 SW=2").stdout;
    assert!(unknown.contains("say which with --source"), "{unknown}");
}

#[test]
fn clock_and_timer_are_found_together() {
    // 12 MHz / 10 * 147 / 2 = 88.2 MHz = 2000 * 44.1 kHz.
    let found = json("clock --on stm32f411/tim3 --source 12MHz --reach-pwm 44.1kHz");
    let best = &leading(&found);
    assert_eq!((&best["error"]["exact"], &best["setting"]["steps"]), (&value!("0"), &value!(2000)));
    has(&best["arrangement"]["writes"], &["PLLM=10", "PLLN=147"]);
    has(&best["registers"], &["PSC=0", "ARR=1999"]);
    // The fastest clock makes half of that at best.
    assert_eq!(run("clock --on stm32f411/tim3 --source 12MHz --reach-pwm 99MHz").code, 1);
}

#[test]
fn a_wrong_bus_divider_is_suspected() {
    let line = "decode --on stm32f411/tim3 --sysclk 100MHz --bus apb1=4 PSC=39 ARR=49999 --expect 50Hz";
    let result = json(line);
    assert_eq!(result["clock"]["nominal"]["exact"], "50000000");
    assert_eq!(result["findings"][0]["name"], "bus-clock-suspected");
    let through = result["clock_route"]["passages"].as_array().unwrap();
    assert_eq!(through.last().unwrap()["how"], "PCLK1 is divided: twice PCLK1");
}

#[test]
fn a_survey_that_nothing_passes_says_what_to_try() {
    let nothing = run("survey --freq 50Hz --part stm32f103 --min-steps 9000000000");
    assert!(nothing.code == 1 && nothing.stdout.contains("try --clock max"), "{nothing:?}");
}

#[test]
fn a_pin_tells_timer_and_channel() {
    let result = json("derive --on stm32f446 --pin PB6 --clock 90MHz --freq 50Hz --pulse 1500us");
    assert_eq!(
        (&result["timer"], &result["pin"]["channel"], &result["pin"]["by"]),
        (&value!("stm32f446/tim4"), &value!("1"), &value!("AF2"))
    );
    let text = run("derive --on stm32f446 --pin PB6 --clock 90MHz --freq 50Hz --pulse 1500us").stdout;
    assert!(text.contains("one period with PB7 PB8 PB9"), "{text}");
    let many = run("budget --on stm32f446 --pin PA0 --freq 50Hz --pulse 1ms");
    assert!(many.code == 2 && many.stderr.contains("--on stm32f446/tim2 --pin PA0"), "{many:?}");
    // A remap moves all channels at once: PB3 belongs to two of its values.
    let moved = json("parts stm32f103 --pins");
    let pins = moved["pins"].as_array().unwrap();
    let codes = pins.iter().filter(|pin| pin["pin"] == "PB3").map(|pin| pin["by"].as_str().unwrap());
    assert_eq!(codes.collect::<Vec<_>>(), ["AFIO_MAPR.TIM2_REMAP = 1", "AFIO_MAPR.TIM2_REMAP = 3"]);
}

#[test]
fn of_several_places_the_best_is_taken() {
    // PA2 has two channels of 16 bits and one of 32: what the counters hold decides.
    let pin = json("derive --on stm32f446 --pin PA2 --clock 90MHz --freq 50Hz --pulse 1ms");
    assert_eq!((&pin["timer"], &pin["pin"]["channel"]), (&value!("stm32f446/tim2"), &value!("3")));
    let compared = pin["compared"].as_array().unwrap();
    let places: Vec<&Value> = compared.iter().map(|one| &one["place"]).collect();
    assert_eq!(places, [&value!("tim2/3"), &value!("tim5/3"), &value!("tim9/1")]);
    // As `survey` ranks them, of the whole part.
    let alone = json("derive --on stm32f411 --clock 48MHz --freq 50Hz");
    let survey = json("survey --part stm32f411 --clock 48MHz --freq 50Hz");
    assert_eq!(alone["timer"], survey["rows"][0]["timer"]);
    assert_eq!(leading(&alone)["score"], survey["rows"][0]["setting"]["score"]);
    // Where any pin will do, it is said how it gets there.
    let free = run("derive --on esp32c3 --pin GPIO4 --clock 80MHz --freq 50Hz --pulse 1ms").stdout;
    assert!(free.contains("GPIO4") && free.contains("OUT_SEL = 45 to 50"), "{free}");
}

#[test]
fn one_target_on_many_timers() {
    let result = json("survey --freq 50Hz --span 900us..2100us --part stm32f4* --clock max");
    let rows = result["rows"].as_array().unwrap();
    // 32 bits at 180 MHz: a step of one clock, 1.2 ms of them.
    assert_eq!(
        (&rows[0]["timer"], &rows[0]["timers"]),
        (&value!("stm32f446/tim2"), &value!(["tim2", "tim5"]))
    );
    assert_eq!(rows[0]["setting"]["span"]["steps"], 216_000);
    let least =
        json("survey --freq 50Hz --span 900us..2100us --part stm32f4* --clock max --min-steps 100000");
    // 1.2 ms at 180, 100 and 84 MHz: 216 000, 120 000 and 100 800 steps.
    assert_eq!(least["rows"].as_array().unwrap().len(), 3);
    let sorted = json("survey --freq 44.1kHz --clock max --sort error");
    let error = |row: &Value| row["setting"]["frequency_error"]["approx"].as_f64().unwrap().abs();
    let within: Vec<f64> = sorted["rows"]
        .as_array()
        .unwrap()
        .iter()
        .filter(|row| row["setting"]["within"] == true)
        .map(error)
        .collect();
    assert!(within.len() > 20 && within.is_sorted(), "{within:?}");
    assert!(run("survey --freq 50Hz --part z*").stderr.contains("no part matches z*"));
}

#[test]
fn dither_start_and_dead_time() {
    let dithered = json(
        "derive --on stm32g474/tim3 --clock 170MHz --freq 44.1kHz --duty 100/3% --dither --within 10ppm",
    );
    has(&leading(&dithered)["registers"], &["ARR=61662", "CCR1=20559", "DITHEN=1"]);
    assert_eq!(leading(&dithered)["frequency"]["exact"], "1360000000/30839");
    let counts = json("derive --on pca9685/pwm/led0 --freq 100Hz --within 1% --pulse 2500us --phase 90deg");
    has(&leading(&counts)["registers"], &["PRE_SCALE=60"]);
    let registers = &leading(&counts)["registers"];
    let count = |register: &str| {
        let found = registers
            .as_array()
            .unwrap()
            .iter()
            .find(|known| known["register"] == register && known["field"] == "COUNT");
        found.unwrap()["written"].as_u64().unwrap()
    };
    // A quarter of 4096 counts, and 1025 more.
    assert_eq!((count("LED0_ON"), count("LED0_OFF")), (1024, 2049));
    // 500 ns of 180 MHz are 90 clocks.
    let dead = json("derive --on stm32f446/tim1 --clock 180MHz --freq 20kHz --duty 37.5% --dead-time 500ns");
    has(&leading(&dead)["registers"], &["DTG=90", "CKD=0", "CC1NE=1"]);
    assert_eq!(leading(&dead)["dead_time"]["exact"], "1/2000000");
    for (line, why) in [
        ("derive --on stm32f446/tim3 --freq 20kHz --duty 5% --dead-time 1us", "no dead time generator"),
        (
            "derive --on stm32f446/tim1 --freq 20kHz --duty 4=5% --dead-time 1us",
            "channel 4 has no complementary output",
        ),
        ("derive --on stm32f446/tim3 --freq 20kHz --duty 5% --dither", "none of them dithers"),
        ("derive --on stm32f446/tim3 --freq 20kHz --duty 5% --phase 9deg", "none of them can move a pulse"),
        ("derive --on pca9685/pwm --freq 100Hz --phase 9deg", "no signal that it could belong to"),
    ] {
        let refused = run(line);
        assert!(refused.code == 2 && refused.stderr.contains(why), "{line}: {refused:?}");
    }
}

#[test]
fn any_frequency_of_a_window_will_do() {
    // 100 MHz / 18 kHz = 5555.6: the longest period with a third that is whole has 5553 ticks.
    let result =
        json("derive --on stm32f411/tim3 --clock 100MHz --freq 18kHz..25kHz --duty 100/3% --min-bits 10");
    has(&leading(&result)["registers"], &["PSC=0", "ARR=5552", "CCR1=1851"]);
    let few = run("derive --on stm32f411/tim3 --clock 10MHz --freq 18kHz..25kHz --duty 10% --min-bits 10");
    assert!(few.code == 1 && few.stdout.contains("too-few-steps"), "{few:?}");
}

#[test]
fn a_design_is_carried_over() {
    let words = [
        "derive",
        "--port-from",
        "atmega328p/timer1@16MHz",
        "--registers",
        "TCCR1A=0x82 TCCR1B=0x1a ICR1=39999 OCR1A=2999",
        "--on",
        "stm32f411/tim3",
        "--clock",
        "100MHz",
        "--format",
        "json",
    ];
    let result = crate::run::run_words(words, std::path::Path::new("."), &[]);
    let result: Value = result_of(&result.stdout);
    // 50 Hz and 7.5 %: 100 MHz / 40 / 50000.
    has(&leading(&result)["registers"], &["PSC=39", "ARR=49999", "CCR1=3750"]);
    let verdict = |what: &str| {
        result["changes"].as_array().unwrap().iter().find(|change| change["what"] == what).unwrap()["verdict"]
            .clone()
    };
    assert_eq!((verdict("frequency"), verdict("lowest duty")), (value!("same"), value!("better")));
}
