//! Board files: the demo's is sound, and each way to be wrong is pointed at.

use kairotic_core::board::{Board, place};
use kairotic_core::quantity::{Rational, Time};
use kairotic_core::target::Active;
use kairotic_formats::board_file;
use kairotic_formats::text_file::{FileError, Problem, Source};
use proptest::prelude::*;

use crate::catalogue::{PARTS, part};
use crate::spoil::{cuts, spoiled};

const SOUND: &str = include_str!("../../../../demo/dome.toml");

fn read(bytes: &[u8]) -> Result<Board, FileError> {
    let source = Source { file: "dome.toml".to_owned(), bytes: bytes.to_vec() };
    board_file::read(&source, &|name| {
        let known = PARTS.iter().map(|part| part.name.as_str());
        let unknown = || kairotic_core::Error::unknown("part", name, "the catalogue", known);
        PARTS.iter().find(|part| part.name == name).ok_or_else(unknown)
    })
}

fn problems(text: &str) -> Vec<Problem> {
    read(text.as_bytes()).unwrap_err().problems
}

/// One test for each line: name, what is replaced, by what, the key complained about, a piece of the message.
macro_rules! broken {
    ($($name:ident: $from:literal => $to:literal, $key:literal, $says:literal;)*) => {
        $(#[test]
        fn $name() {
            assert!(SOUND.contains($from), "the sound file has no `{}`", $from);
            let text = SOUND.replacen($from, $to, 1);
            let found = problems(&text);
            let problem = found.iter().find(|problem| problem.key == $key).unwrap_or_else(|| panic!("{found:?}"));
            assert!(problem.message.contains($says), "{problem:?}");
            // One thing is wrong, and one thing is told.
            assert_eq!(found.len(), 1, "{found:?}");
            let line = text.lines().nth(problem.line - 1).unwrap();
            assert!(line.trim().starts_with(&problem.excerpt), "{problem:?}");
        })*
    };
}

broken! {
    another_schema: "schema = 1" => "schema = 2", "schema", "expected 1, found 2";
    no_schema: "schema = 1\n" => "", "", "`schema` is missing";
    a_schema_in_quotes: "schema = 1" => "schema = \"1\"", "schema", "expected a whole number";
    an_unknown_part: "stm32f411" => "stm32f412", "part", "did you mean stm32f411";
    an_unknown_key: "dead-band" => "dead-bnad", "load[0].dead-bnad", "did you mean dead-band";
    an_unknown_key_of_a_signal: "freq = \"1kHz\"" => "period = \"1ms\"\nfrq = \"1kHz\"", "signal[3].frq", "did you mean freq";
    an_unknown_requirement: "jitter = \"50ns\"" => "jiter = \"50ns\"", "signal[5].needs.jiter", "did you mean jitter";
    an_unknown_clock_key: "bus = [" => "busses = [", "clock.busses", "did you mean bus";
    a_bus_that_is_not_there: "\"apb1=2\"" => "\"apb3=2\"", "clock.bus", "no bus divider or switch `apb3`";
    a_bus_without_number: "\"apb1=2\"" => "\"apb1\"", "clock.bus[0]", "expected NAME=NUMBER";
    a_system_clock_too_fast: "sysclk = \"96MHz\"" => "sysclk = \"101MHz\"", "clock.sysclk", "above";
    a_source_that_is_not_there: "12MHz+-30ppm" => "lsi", "clock.source", "its sources: hsi (16 MHz), hse";
    a_crystal_too_fast: "12MHz+-30ppm" => "90MHz+-30ppm", "clock.source", "1 MHz..50 MHz";
    registers_besides_a_system_clock: "bus = [\"apb1=2\", \"apb2=1\"]" => "registers = [\"PLLM=6\"]", "clock.registers", "leave `frequency` and `sysclk` out";
    registers_past_a_limit: "sysclk = \"96MHz\"\nbus = [\"apb1=2\", \"apb2=1\"]" => "registers = [\"PLLSRC=1\", \"PLLM=6\", \"PLLN=96\", \"SW=2\"]", "clock.registers", "above its 50 MHz";
    half_a_register: "sysclk = \"96MHz\"\nbus = [\"apb1=2\", \"apb2=1\"]" => "registers = [\"PLLM\"]", "clock.registers[0]", "expected NAME=VALUE";
    a_register_that_is_not_there: "sysclk = \"96MHz\"\nbus = [\"apb1=2\", \"apb2=1\"]" => "registers = [\"PLLX=6\"]", "clock.registers", "PLLX";
    a_load_without_kind: "kind = \"lamp\"\n" => "", "load[3]", "`kind` is missing";
    a_key_of_another_kind: "curve = \"perceptual\"" => "curve = \"perceptual\"\ntravel = \"0deg..9deg\"", "load[3].travel", "a lamp has no `travel`; it has curve, flicker-free";
    a_load_twice: "[[load]]\nname = \"dome\"" => "[[load]]\nname = \"shutter\"\nkind = \"plain\"\n\n[[load]]\nname = \"dome\"", "load[1].name", "there is a load `shutter` already";
    a_wrong_unit: "supply = \"24V\"" => "supply = \"24W\"", "load[2].supply", "units that fit here: V, mV";
    a_number_without_unit: "supply = \"24V\"" => "supply = 24", "load[2].supply", "expected a text in quotes, found the number 24";
    a_span_the_wrong_way_round: "\"1ms..2ms\"" => "\"2ms..1ms\"", "load[1].span", "the lower end first";
    a_neutral_outside_its_span: "neutral = \"1500us\"" => "neutral = \"2500us\"", "load[1].neutral", "expected a pulse inside";
    half_an_arming: "arm-hold = \"2s\"\n" => "", "load[1]", "belong together";
    a_travel_of_nothing: "\"0deg..120deg\"" => "\"0deg..0deg\"", "load[0].travel", "two different angles";
    a_start_above_full_throttle: "start = \"14%\"" => "start = \"40%\"", "load[2].start", "no less than the 37.5 % of full throttle";
    a_duty_past_the_whole: "lowest = \"20%\"" => "lowest = \"120%\"", "load[5].lowest", "expected 0 % to 100 %";
    a_wiring_that_is_none: "\"two-lines\"" => "\"three-lines\"", "load[2].wiring", "expected one-switch, two-lines, enable-and-direction";
    a_supply_of_nothing: "supply = \"12V\"" => "supply = \"0V\"", "load[4].supply", "greater than zero";
    a_stepper_without_steps: "steps-per-turn = 200\n" => "", "load[6]", "`steps-per-turn` is missing";
    a_stepper_of_no_steps: "steps-per-turn = 200" => "steps-per-turn = 0", "load[6].steps-per-turn", "at least one step";
    steps_and_their_angle: "steps-per-turn = 200" => "steps-per-turn = 200\nstep-angle = \"1.8deg\"", "load[6].step-angle", "not both";
    a_gear_of_nothing: "32/11 * 26/9" => "32/0 * 26/9", "load[6].gear", "expected a gear";
    a_stepper_without_drive: "drive = \"step-direction\"\nmicrosteps = 8\nstep-pulse = \"2us\"\ndirection-setup = \"5us\"\n" => "", "load[6]", "`drive` is missing";
    too_many_microsteps: "microsteps = 8" => "microsteps = 2000", "load[6].microsteps", "1 to 1024";
    a_mode_of_a_driver: "microsteps = 8" => "microsteps = 8\nmode = \"half\"", "load[6].mode", "is for `drive = \"four-wire\"`";
    a_start_rate_above_the_fastest: "start = \"200steps/s\"" => "start = \"5000steps/s\"", "load[6].start", "above the fastest, 4000 steps/s";
    an_acceleration_of_nothing: "\"10000steps/s2\"" => "\"0steps/s2\"", "load[6].acceleration", "greater than zero";
    a_travel_the_wrong_way_round: "\"0deg..340deg\"" => "\"340deg..0deg\"", "load[6].travel", "the lower end first";
    a_key_of_no_stepper: "steps-per-turn = 200" => "steps-per-turn = 200\nsupply = \"5V\"", "load[6].supply", "a stepper has no `supply`";
    a_tolerance_of_a_stepper: "steps-per-turn = 200" => "steps-per-turn = 200\ntolerance = \"5%\"", "load[6].tolerance", "no level that could be off";
    a_stepper_named_as_a_load: "[[load]]\nname = \"slit\"" => "[[load]]\nname = \"slit\"\nkind = \"plain\"\n\n[[load]]\nname = \"slit\"", "load[7].name", "there is a load `slit` already";
    a_stepper_with_a_duty: "direction = \"PB12\"" => "direction = \"PB12\"\nduty = \"30%\"", "signal[6].duty", "a stepper has steps";
    a_stepper_with_windings: "direction = \"PB12\"" => "windings = [\"vent\", \"dome\"]", "signal[6].windings", "two-windings";
    a_stepper_with_wires: "direction = \"PB12\"" => "direction = \"PB12\"\nlines = [\"PB13\"]", "signal[6].lines", "four-wire";
    a_pin_twice_in_a_stepper: "direction = \"PB12\"" => "direction = \"PB8\"", "signal[6]", "PB8 is named twice";
    a_pin_of_another_signal: "direction = \"PB12\"" => "direction = \"PB6\"", "signal[6]", "PB6 has the signal `dew-heater` already";
    a_timer_of_another_signal: "on = \"tim10/1\"\npin = \"PB8\"" => "on = \"tim4/3\"\npin = \"PB8\"", "signal[6].on", "cannot make the signal `dew-heater`";
    a_stepper_named_as_a_signal: "name = \"slit\"\non" => "name = \"vent\"\non", "signal[6].name", "there is a signal `vent` already";
    wires_of_another_signal: "at = \"3W\"" => "at = \"3W\"\ndirection = \"PB13\"", "signal[4].direction", "is for the signal of a stepper";
    a_sequence_without_name: "name = \"opens\"\n" => "", "sequence[0]", "`name` is missing";
    an_unknown_key_of_a_sequence: "name = \"opens\"" => "name = \"opens\"\nsignals = \"vent\"", "sequence[0].signals", "did you mean signal";
    a_sequence_of_no_times: "name = \"opens\"" => "name = \"opens\"\nrepeat = 0", "sequence[0].repeat", "at least 1";
    a_sequence_twice: "[[sequence]]" => "[[sequence]]\nname = \"opens\"\nsteps = [{ signal = \"vent\", to = \"0%\" }]\n\n[[sequence]]", "sequence[1].name", "there is a sequence `opens` already";
    a_step_of_no_signal: "{ signal = \"dome\", to = \"arm\" }" => "{ to = \"arm\" }", "sequence[0].steps[0]", "`signal` is missing";
    a_step_of_an_unknown_signal: "{ signal = \"dome\", to" => "{ signal = \"doem\", to", "sequence[0].steps[0].signal", "did you mean dome";
    a_step_to_another_unit: "to = \"120deg\"" => "to = \"120%\"", "sequence[0].steps[1].to", "expected an angle";
    a_step_beyond_the_load: "to = \"120deg\"" => "to = \"130deg\"", "sequence[0].steps[1]", "expected angle between 0 deg and 120 deg";
    a_step_that_arms_a_servo: "from = \"0deg\", to = \"120deg\"" => "to = \"arm\"", "sequence[0].steps[1]", "drives nothing that is armed";
    a_step_of_an_unknown_shape: "shape = \"smooth\"" => "shape = \"round\"", "sequence[0].steps[1].shape", "expected linear, smooth";
    a_step_in_no_time: "over = \"3s\"" => "over = \"0s\"", "sequence[0].steps[1].over", "greater than zero";
    a_step_back_in_words: "shape = \"smooth\"" => "there-and-back = \"yes\"", "sequence[0].steps[1].there-and-back", "expected true or false, found the text `yes`";
    a_name_that_is_true: "name = \"opens\"" => "name = true", "sequence[0].name", "expected a text in quotes, found true";
    steps_that_overlap: "at = \"14s\"" => "at = \"13s\"", "sequence[0].steps[4]", "it begins at 13 s, and `vent` is at step 3 until 14 s; begin it at 14s or later";
    a_sequence_longer_than_a_day: "hold = \"10s\"" => "hold = \"90000s\"", "sequence[0]", "at most 86400 s are planned";
    a_stepper_beyond_its_travel: "to = \"85deg\"" => "to = \"350deg\"", "sequence[0].steps[3]", "expected angle between 0 deg and 340 deg";
    a_stepper_in_levels: "to = \"85deg\"" => "to = \"85deg\", levels = 5", "sequence[0].steps[3]", "which has no `levels`";
    a_stepper_that_does_not_move: "to = \"85deg\"" => "to = \"0deg\"", "sequence[0].steps[3]", "there is nothing to move";
    a_sequence_without_steps: "[[sequence]]" => "[[sequence]]\nname = \"nothing\"\n\n[[sequence]]", "sequence[0]", "expected at least one step";
    a_kick_in_other_words: "pause = \"300ms\"" => "pause = \"300ms\"\nkick = \"60%\"", "load[2].kick", "expected a duty of at most 100 % and a time, found `60%`; for example 60% for 150ms";
    a_kick_of_too_much: "pause = \"300ms\"" => "pause = \"300ms\"\nkick = \"160% for 1s\"", "load[2].kick", "at most 100 %";
    a_slew_in_other_words: "slew = \"60deg in 240ms\"" => "slew = \"60deg\"", "load[0].slew", "expected an angle and the time for it";
    a_load_that_is_not_there: "load = \"camera-fan\"\nat = \"60%\"\n" => "load = \"camera-fam\"\n", "signal[5].load", "did you mean camera-fan";
    a_timer_that_is_not_there: "on = \"tim4/1\"\npin = \"PB6\"" => "on = \"tim6/1\"", "signal[4].on", "no timer `tim6`";
    a_channel_that_is_not_there: "on = \"tim4/1\"\npin = \"PB6\"" => "on = \"tim4/9\"", "signal[4].on", "no channel `9`";
    a_place_of_another_shape: "on = \"tim4/1\"" => "on = \"tim4/1/2/3\"", "signal[4].on", "expected TIMER or TIMER/CHANNEL";
    two_signals_on_one_channel: "on = \"tim3/2\"\npin = \"PA7\"" => "on = \"tim3/1\"", "signal[1].on", "has the signal `shutter` already";
    two_periods_on_one_timer: "pin = \"PA7\"\nfreq = \"50Hz\"" => "pin = \"PA7\"\nfreq = \"60Hz\"", "signal[1].on", "`shutter` wants another";
    a_pin_of_another_channel: "pin = \"PB6\"" => "pin = \"PB7\"", "signal[4].pin", "did you mean PB6?";
    a_pin_twice: "pin = \"PA7\"" => "pin = \"PA6\"", "signal[1].pin", "PA6 has the signal `shutter` already";
    a_pin_of_which_nothing_is_known: "on = \"tim4/1\"\npin = \"PB6\"" => "pin = \"PC13\"", "signal[4].pin", "no timer output on pin `PC13`";
    a_frequency_and_a_period: "period = \"2s\"" => "period = \"2s\"\nfreq = \"1Hz\"", "signal[4].period", "not both";
    a_period_of_nothing: "period = \"2s\"" => "period = \"0s\"", "signal[4].period", "greater than zero";
    a_window_the_wrong_way_round: "18kHz..25kHz" => "25kHz..18kHz", "signal[2].freq", "write 18kHz..25kHz";
    a_second_line_that_is_not_there: "at = \"60%\"\nneeds = { step = \"0.5%\" }" => "at = \"60%\"\nsecond-line = \"vnet\"", "signal[2].second-line", "did you mean vent";
    a_second_line_of_one_switch: "load = \"flat-field\"" => "load = \"flat-field\"\nsecond-line = \"vent\"", "signal[3].second-line", "whose `wiring` is `two-lines`";
    a_second_line_that_drives_something_else: "at = \"60%\"\nneeds = { step = \"0.5%\" }" => "at = \"60%\"\nsecond-line = \"dew-heater\"", "signal[2].second-line", "drives another load";
    its_own_second_line: "at = \"60%\"\nneeds = { step = \"0.5%\" }" => "at = \"60%\"\nsecond-line = \"vent\"", "signal[2].second-line", "not its own second line";
    a_second_line_with_a_level: "at = \"60%\"\nneeds = { step = \"0.5%\" }" => "at = \"60%\"\nsecond-line = \"back\"\n\n[[signal]]\nname = \"back\"\non = \"tim1/2\"\nfreq = \"18kHz..25kHz\"\nload = \"vent\"\nat = \"20%\"", "signal[2].second-line", "leave out its own `at`";
    a_second_line_of_another_frequency: "at = \"60%\"\nneeds = { step = \"0.5%\" }" => "at = \"60%\"\nsecond-line = \"back\"\n\n[[signal]]\nname = \"back\"\nfreq = \"20kHz\"\nload = \"vent\"", "signal[2].second-line", "give both lines one frequency";
    a_consumer_that_is_none: "at = \"60%\"\nneeds = { step = \"0.5%\" }" => "at = \"60%\"\nconsumer = \"radio\"", "signal[2].consumer", "expected fan, leds, backlight, beeper, regulator, plain";
    a_regulator_of_nothing: "at = \"60%\"\nneeds = { step = \"0.5%\" }" => "at = \"60%\"\nconsumer = \"regulator\"", "signal[2]", "`regulates` is missing";
    what_a_fan_regulates: "at = \"60%\"\nneeds = { step = \"0.5%\" }" => "at = \"60%\"\nconsumer = \"fan\"\nregulates = \"1V..2V\"", "signal[2].regulates", "is for a signal with";
    no_frequency: "period = \"2s\"\n" => "", "signal[4]", "missing `freq` or `period`";
    a_signal_twice: "name = \"dome\"\non" => "name = \"shutter\"\non", "signal[1].name", "there is a signal `shutter` already";
    a_level_past_the_load: "at = \"3W\"" => "at = \"9W\"", "signal[4].at", "between 0 W and 8 W";
    a_level_in_another_unit: "at = \"3W\"" => "at = \"3deg\"", "signal[4].at", "units that fit here: kW, W, mW";
    two_levels: "at = \"3W\"" => "at = \"3W\"\nduty = \"5%\"", "signal[4]", "give one of";
    a_span_outside_the_frame: "freq = \"50Hz\"\nload = \"dome\"" => "freq = \"50Hz\"\nspan = \"1ms..30ms\"\nload = \"dome\"", "signal[1].span", "longer than a period of 20 ms";
    a_pulse_outside_the_frame: "at = \"-35%\"" => "pulse = \"30ms\"", "signal[1].pulse", "longer than a period of 20 ms";
    a_requirement_below_zero: "jitter = \"50ns\"" => "jitter = \"-50ns\"", "signal[5].needs.jitter", "no less than zero";
    a_name_of_a_complement: "at = \"60%\"\nneeds = { step = \"0.5%\" }\n\n[[signal]]\nname = \"flat-field\"" => "at = \"60%\"\ndead-time = \"1us\"\n\n[[signal]]\nname = \"ventn\"", "signal[3].name", "what the complement of `vent` is called";
    a_requirement_that_allows_everything: " pulse = \"2us\"" => " pulse = \"20ms\"", "signal[0].needs.pulse", "no less than a whole period";
    a_clock_requirement_without_tolerance: "12MHz+-30ppm" => "12MHz", "signal[0].needs.clock", "deviation is not stated";
    a_step_in_another_unit: "step = \"0.5deg\"" => "step = \"5us\"", "signal[0].needs.step", "units that fit here: deg";
    an_active_level_that_is_none: "freq = \"1kHz\"" => "freq = \"1kHz\"\nactive = \"up\"", "signal[3].active", "expected high, low";
    a_list_for_a_text: "curve = \"perceptual\"" => "curve = [\"perceptual\"]", "load[3].curve", "found a list";
}

#[test]
fn the_demo_is_sound_and_places_every_signal() {
    let board = read(SOUND.as_bytes()).unwrap();
    let part = part(&board.part);
    let places: Vec<_> =
        board.signals.iter().map(|signal| place(&board, part, &signal.name).unwrap()).collect();
    // The fan may come out anywhere, and gets a timer that nobody else has.
    let (fan, others) = places.split_last().unwrap();
    assert!(others.iter().all(|other| other.timer != fan.timer), "{places:?}");
    let shutter = board.target(board.signal("shutter").unwrap()).unwrap();
    // 45 of 120 degrees over 900 to 2100 us.
    let wanted = Time::new(Rational::new(1350, 1_000_000).unwrap());
    assert_eq!(shutter.asks[0].active, Active::Pulse(wanted));
}

#[test]
fn a_signal_anywhere_has_the_clock_of_its_own_bus() {
    // 180 MHz: the timers of APB1 count 90 MHz, those of APB2 180 MHz; a 16-bit one there has twice the steps at 20 kHz.
    let text = "schema = 1\npart = \"stm32f446\"\n[clock]\nsysclk = \"180MHz\"\n[[signal]]\nname = \"s\"\nfreq = \"20kHz\"\nduty = \"25%\"\n";
    let board = read(text.as_bytes()).unwrap();
    let timer = place(&board, part("stm32f446"), "s").unwrap().timer;
    assert_eq!(part("stm32f446").timer(&timer, None).unwrap().clock.title, "the APB2 timer clock", "{timer}");
}

#[test]
fn a_clock_is_known_by_frequency_system_clock_or_registers() {
    let clock = |part_name: &str, lines: &str| {
        let text = format!(
            "schema = 1\npart = \"{part_name}\"\n[clock]\n{lines}\n[[signal]]\nname = \"s\"\nfreq = \"50Hz\"\n"
        );
        let known = part(part_name);
        let board = read(text.as_bytes()).unwrap_or_else(|error| panic!("{lines}: {error:?}"));
        let (clock, _) = board.clock.of(known, "tim3").unwrap();
        clock.map(|clock| format!("{} ± {}", clock.nominal, clock.deviation))
    };
    let (crystal, wanted) = ("source = \"12MHz+-30ppm\"", Some("96 MHz ± 30 ppm".to_owned()));
    // 12 MHz / 6 · 96 / 2 is 96 MHz; APB1 has half of it, and its timers twice that.
    let registers = "registers = [\"PLLSRC=1\", \"PLLM=6\", \"PLLN=96\", \"PLLP=0\", \"SW=2\", \"PPRE1=4\"]";
    assert_eq!(clock("stm32f411", "frequency = \"96MHz+-30ppm\""), wanted);
    assert_eq!(clock("stm32f411", &format!("{crystal}\nfrequency = \"96MHz\"")), wanted);
    assert_eq!(clock("stm32f411", &format!("{crystal}\nsysclk = \"96MHz\"")), wanted);
    assert_eq!(clock("stm32f411", &format!("{crystal}\n{registers}")), wanted);
    // After reset it is the 16 MHz oscillator, which the data sheet has off by 8 % at worst.
    assert_eq!(clock("stm32f411", "source = \"hsi\""), Some("16 MHz ± 8 %".to_owned()));
    assert_eq!(clock("stm32f411", ""), None);
}

#[test]
fn signals_anywhere_share_a_timer_only_at_one_frequency() {
    let signal = |name: &str, freq: &str| {
        format!("[[signal]]\nname = \"{name}\"\nfreq = \"{freq}\"\nduty = \"30%\"\n")
    };
    let many = (0..5)
        .map(|index| signal(&format!("s{index}"), &format!("{}Hz", 900 + index % 4)))
        .collect::<String>();
    let board = read(format!("schema = 1\npart = \"rp2040\"\n{many}").as_bytes()).unwrap();
    let at = |name: &str| place(&board, part("rp2040"), name).unwrap();
    let timers: Vec<String> = (0..4).map(|index| at(&format!("s{index}")).timer).collect();
    let mut different = timers.clone();
    different.sort();
    different.dedup();
    assert_eq!(different.len(), 4, "{timers:?}");
    // The fifth has the first one's frequency, and its other channel.
    assert_eq!(at("s4").timer, timers[0]);
    assert_ne!(at("s4").channel, at("s0").channel);
}

#[test]
fn twenty_problems_come_in_one_run() {
    let text = SOUND
        .replace("schema = 1", "schema = 3")
        .replace("12MHz+-30ppm", "12MHz")
        .replace("\"apb1=2\"", "\"apb9=2\"")
        .replace("travel = \"0deg..120deg\"", "travel = \"0..120\"")
        .replace("dead-band", "deadband")
        .replace("neutral = \"1500us\"", "neutral = \"500us\"")
        .replace("rated = \"9V\"", "rated = 9")
        .replace("wiring = \"two-lines\"", "wiring = \"bridge\"")
        .replace("curve = \"perceptual\"", "curve = \"round\"")
        .replace("resistance = \"18ohm\"", "resistance = \"18V\"")
        .replace("lowest = \"20%\"", "lowest = \"-20%\"")
        .replace("window = \"21kHz..28kHz\"", "window = \"28kHz..21kHz\"")
        .replace("on = \"tim3/1\"", "on = \"tim33/1\"")
        .replace("on = \"tim3/2\"", "on = \"\"")
        .replace("freq = \"18kHz..25kHz\"", "freq = \"25kHz..\"")
        .replace("on = \"tim2/1\"", "on = \"tim2/x\"")
        .replace("period = \"2s\"", "period = \"0s\"")
        .replace("freq = \"25kHz\"", "freq = \"fast\"")
        .replace("steps = 200", "steps = \"many\"")
        .replace("jitter = \"50ns\"", "jitter = \"-1ns\"");
    let found = problems(&text);
    assert!(found.len() >= 20, "{} {found:#?}", found.len());
    // In the order of the lines, each with its excerpt.
    assert!(found.is_sorted_by_key(|problem| (problem.line, problem.column)));
    assert!(found.iter().all(|problem| !problem.message.is_empty() && problem.line >= 1));
}

#[test]
fn the_schema_in_the_documents_is_that_of_the_types() {
    assert_eq!(board_file::schema(), include_str!("../../../../docs/board-file.schema.json"));
}

#[test]
fn the_schema_names_every_key_that_is_read() {
    let schema: serde_json::Value = serde_json::from_str(&board_file::schema()).unwrap();
    let keys =
        |of: &serde_json::Value| of["properties"].as_object().unwrap().keys().cloned().collect::<Vec<_>>();
    assert_eq!(keys(&schema).len(), 6);
    // A key that the reader does not know is refused; each that the schema names is not.
    let tables = ["load", "signal", "sequence"].map(|list| (list, format!("[[{list}]]\nKEY = true\n")));
    let step = ("step", "[[sequence]]\nsteps = [{ KEY = true }]\n".to_owned());
    for (list, table) in tables.into_iter().chain([step]) {
        for key in keys(&schema["$defs"][list]) {
            let table = table.replace("KEY", &key);
            let text = format!("schema = 1\npart = \"rp2040\"\n{table}");
            let unknown = problems(&text)
                .into_iter()
                .find(|problem| problem.message.contains(&format!("no key `{key}`")));
            assert!(unknown.is_none(), "{unknown:?}");
        }
    }
}

proptest! {
    #[test]
    fn a_board_with_other_bytes_in_it_makes_nothing_panic(cuts in cuts()) {
        if let Err(error) = read(&spoiled(SOUND, cuts)) {
            prop_assert!(error.problems.iter().all(|problem| problem.line >= 1 && !problem.message.is_empty()));
        }
    }
}
