//! Everything between reset and the moving pin, and back from what a debugger shows.

use std::fs;

use crate::run::{json, run};

const SHUTTER: &str = "derive --board ../../demo/dome.toml --signal shutter --from-reset";

#[test]
fn a_board_s_signal_has_its_steps_with_addresses_and_masks() {
    let result = json(SHUTTER);
    let steps = result["program"]["steps"].as_array().unwrap();
    let last = &steps[steps.len() - 1];
    // CEN and ARPE in TIM3_CR1.
    assert_eq!((last["phase"].as_str(), last["why"].as_str()), (Some("start"), Some("counter on")));
    let write = &last["action"]["write"];
    assert_eq!(write["register"]["address"], 0x4000_0400);
    assert_eq!(
        (&write["value"], &write["mask"], &write["holds"]),
        (&0x81.into(), &0xFFFF_FFFF_u64.into(), &0x81.into())
    );
    let page = run(SHUTTER).stdout;
    assert!(page.contains("GPIOA_MODER      0x40020000   0x00002000   0x00003000"), "{page}");
    assert!(page.contains("until RCC_CFGR   0x40023808"), "{page}");
}

#[test]
fn what_nobody_said_is_to_be_supplied() {
    let page = run("derive --on stm32f411/tim3/1 --clock 96MHz --freq 25kHz --duty 35% --from-reset").stdout;
    assert!(page.contains("clock_of_tim3(): the APB1 timer"), "{page}");
    assert!(page.contains("connect_tim3_1(): tim3/1 is not"), "{page}");
    assert!(page.contains("PA6 (AF2)"), "{page}");
}

#[test]
fn a_pin_that_no_route_gives_is_refused() {
    let run = run("derive --on stm32f411/tim3/1 --source 12MHz --freq 25kHz --duty 35%");
    assert_eq!(run.code, 2);
    assert!(run.stderr.contains("--from-reset"), "{}", run.stderr);
}

/// Divider 31 in place of 30: 96 MHz / 31 / 64000.
#[test]
fn a_debugger_s_listing_is_read_as_registers() {
    let result = json("decode --on stm32f411/tim3 --clock 96MHz --dump ../../demo/timer.txt --expect 50Hz");
    assert_eq!(result["setting"]["frequency"]["exact"], "1500/31");
    assert_eq!(result["setting"]["outputs"][0]["compare"], 4320);
    assert_eq!(result["setting"]["outputs"][1]["compare"], 4800);
    assert_eq!(
        result["elsewhere"].as_array().unwrap().len(),
        6,
        "CR2, SMCR, DIER, SR, CNT and one without a register"
    );
    let by_address =
        json("decode --on stm32f411/tim3 --clock 96MHz 0x40000428=0x1e 0x4000042c=63999 0x40000434=0x10e0");
    assert_eq!(by_address["setting"]["frequency"], result["setting"]["frequency"]);
}

#[test]
fn addresses_that_are_not_the_timer_s_are_refused() {
    let run_line = |line: &str| run(&format!("decode --on stm32f411/tim3 {line}"));
    let elsewhere = run_line("0x40000828=1");
    assert_eq!(elsewhere.code, 2);
    assert!(elsewhere.stderr.contains("no register of stm32f411/tim3 at 0x40000828"), "{}", elsewhere.stderr);
    let folder = tempfile::tempdir().unwrap();
    let file = folder.path().join("dump.txt");
    for (text, told) in [
        ("0x20000000: 0x1\n", "has no register of stm32f411/tim3"),
        ("0x40000428: 0x1e\nslow shutter\n", "dump.txt:2: expected an address"),
    ] {
        fs::write(&file, text).unwrap();
        let run = run_line(&format!("--dump {}", file.display()));
        assert_eq!(run.code, 2, "{text}");
        assert!(run.stderr.contains(told), "{}", run.stderr);
    }
    let unknown = run("decode --on f28069/epwm1 0x6800=1");
    assert!(unknown.stderr.contains("does not know the addresses"), "{}", unknown.stderr);
}
