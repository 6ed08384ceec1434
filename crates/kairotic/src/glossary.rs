//! The words of the trade, of board files and of the pages that commands print, each with an example and what to do.

/// What a word is.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, serde::Serialize)]
#[serde(rename_all = "snake_case")]
pub enum WordKind {
    /// A word of the trade.
    Term,
    /// Something that is required of a signal, as `needs` has it.
    Requirement,
    /// A block of a page.
    Block,
}

impl WordKind {
    /// What it is called.
    pub const fn words(self) -> &'static str {
        match self {
            Self::Term => "a word of the trade",
            Self::Requirement => "a requirement of a signal",
            Self::Block => "a block of a page",
        }
    }
}

/// A word, explained.
#[derive(Debug, Clone, Copy, serde::Serialize)]
pub struct GlossaryEntry {
    /// The word.
    pub word: &'static str,
    /// What it is.
    pub kind: WordKind,
    /// What it means.
    pub means: &'static str,
    /// An example with numbers.
    pub example: &'static str,
    /// What to do with it.
    pub advice: &'static str,
}

const fn entry(
    kind: WordKind,
    word: &'static str,
    [means, example, advice]: [&'static str; 3],
) -> GlossaryEntry {
    GlossaryEntry { word, kind, means, example, advice }
}

/// All of them: the words of the trade, then the requirements, then the blocks, each in alphabetical order.
pub const GLOSSARY: &[GlossaryEntry] = &[
    entry(
        WordKind::Term,
        "board-file",
        [
            "A file in TOML that says what a controller drives, from which clock, and what is required of each signal.",
            "The dome's has six signals on an STM32F411 and a crystal of 12 MHz.",
            "`kairotic demo --save FOLDER` saves it; docs/board-files.md describes each key.",
        ],
    ),
    entry(
        WordKind::Term,
        "budget",
        [
            "Everything that takes a signal away from what is wanted, each contribution by itself: rounding, clock, temperature, \
         age, jitter, the load.",
            "30 ppm of a 1.35 ms pulse are 40.5 ns, which a servo of 120 degrees in 1200 us turns into 0.004 degrees.",
            "`kairotic budget --board FILE --signal NAME` lists them, and what would make the largest smaller.",
        ],
    ),
    entry(
        WordKind::Term,
        "capture",
        [
            "Edges that a logic analyser recorded.",
            "At 8 million samples a second an edge is known to 125 ns.",
            "`kairotic measure FILE --board FILE` holds it against the plan.",
        ],
    ),
    entry(
        WordKind::Term,
        "centre-aligned",
        [
            "The counter counts up and down again, and pulses lie around its top or its bottom.",
            "A top of 1000 makes periods of 2000 ticks, so that a tick is half as long as edge-aligned for the same steps.",
            "For bridges and several phases; a single servo or lamp gains nothing by it. `--mode centre` asks for it.",
        ],
    ),
    entry(
        WordKind::Term,
        "channel",
        [
            "One output of a timer with a compare value of its own, by the silicon's own label.",
            "`tim3/1`, `timer1/a`, `tcc0/2`; a complementary output is `tim1/1n`.",
            "All channels of a timer share its period. `kairotic parts PART/TIMER` lists them.",
        ],
    ),
    entry(
        WordKind::Term,
        "compare",
        [
            "The count at which the output changes: where it stands between zero and the top is the duty.",
            "672 of 1920 ticks are 35 %.",
            "Buffered ones change at the end of a period; others at once, which can cut or double a pulse.",
        ],
    ),
    entry(
        WordKind::Term,
        "dead-time",
        [
            "How long both outputs of a half bridge are off between one and the other.",
            "1 us at a tick of 10.4 ns is 96 ticks.",
            "Longer than the slower switch takes to turn off. `--dead-time 1us` asks for it where the timer has it.",
        ],
    ),
    entry(
        WordKind::Term,
        "divider",
        [
            "How many source clocks make one tick of the counter, all dividers together.",
            "100 MHz divided by 40 is a tick of 400 ns.",
            "Mostly one less than the division is written: `derive` says which.",
        ],
    ),
    entry(
        WordKind::Term,
        "duty",
        [
            "The share of a period for which the output is active.",
            "5 % of 20 ms is a pulse of 1 ms.",
            "Motors, lamps and heaters take a duty; servos take a pulse, whatever the period.",
        ],
    ),
    entry(
        WordKind::Term,
        "edge-aligned",
        [
            "The counter counts one way and starts again, and every pulse begins or ends at the same count.",
            "A top of 999 makes periods of 1000 ticks.",
            "The usual way; centre-aligned where pulses of several channels are to lie around one instant.",
        ],
    ),
    entry(
        WordKind::Term,
        "finding",
        [
            "One thing that is or may be wrong, with its consequence and a remedy. An `error` ends the run with exit code 1.",
            "`top-off-by-one`: ARR=1000 makes 1001 ticks a period.",
            "`kairotic why NAME` explains each; docs/findings.md has all.",
        ],
    ),
    entry(
        WordKind::Term,
        "frame",
        [
            "The period of a servo's or speed controller's signal; its pulse counts, and not its duty.",
            "50 Hz are a frame of 20 ms; many take 40 Hz to 400 Hz.",
            "State `frame` of the load: a rate outside is a finding.",
        ],
    ),
    entry(
        WordKind::Term,
        "jitter",
        [
            "How much periods or pulses differ from one to the next.",
            "A division of 5 15/16 at 125 MHz makes periods that differ by 8 ns.",
            "Whole divisions have none. `--prefer exact` asks for one, `--format json` has RMS and pattern.",
        ],
    ),
    entry(
        WordKind::Term,
        "load",
        [
            "What the signal drives, and in whose unit it is told: servo, speed controller, motor, lamp, heater, fan.",
            "A servo of 120 degrees in 1200 us: 45 degrees are 450 us above its shortest pulse.",
            "Name one in the board file, and everything is told in its unit.",
        ],
    ),
    entry(
        WordKind::Term,
        "microstep",
        [
            "A step of the driver that is a part of a full step of the motor.",
            "8 microsteps and 200 full steps: 1600 steps a turn.",
            "Fewer of them where steps come faster than interrupts can be served.",
        ],
    ),
    entry(
        WordKind::Term,
        "part",
        [
            "A device or family of the catalogue.",
            "`stm32f411`, `rp2040`, `atmega328p`.",
            "`kairotic parts` lists them; `--parts FILE` brings one of your own.",
        ],
    ),
    entry(
        WordKind::Term,
        "prescaler",
        ["The divider between the clock and the counter.", "PSC=39 divides by 40.", "See `divider`."],
    ),
    entry(
        WordKind::Term,
        "program",
        [
            "Every write between reset and the moving pin, in a safe order: clocks, gates, pins, values, outputs, start.",
            "The dome's six signals take 62 steps.",
            "`derive --from-reset` shows it, `emit` makes code of it.",
        ],
    ),
    entry(
        WordKind::Term,
        "s-curve",
        [
            "A ramp whose acceleration grows and falls, and does not jump.",
            "`jerk = \"200000steps/s3\"`: 10000 steps/s2 are reached in 50 ms.",
            "For loads that swing; without a jerk the ramp is a trapezoid.",
        ],
    ),
    entry(
        WordKind::Term,
        "setting",
        [
            "One complete choice of clock, divider, top and compare values, with what it realises.",
            "Divide by 40, top 49999, compare 3750: 50 Hz with 1.5 ms from 100 MHz.",
            "`derive` ranks them and says why the first leads.",
        ],
    ),
    entry(
        WordKind::Term,
        "signal",
        [
            "One named output of a board: where, how often, how long, for which load, and what is required of it.",
            "`shutter`: 50 Hz, 45 degrees, on tim3/1.",
            "`--board FILE --signal NAME` takes it where options would describe it.",
        ],
    ),
    entry(
        WordKind::Term,
        "span",
        [
            "The active times that a load uses, from the shortest to the longest.",
            "900 us to 2100 us are 3000 of 50000 steps at 50 Hz.",
            "Resolution counts inside it: `--span 900us..2100us`, or that of the load.",
        ],
    ),
    entry(
        WordKind::Term,
        "step",
        [
            "What one more of the compare value changes.",
            "400 ns of 1200 us for 120 degrees are 0.04 degrees.",
            "A smaller divider, a faster clock or a wider counter make it shorter.",
        ],
    ),
    entry(
        WordKind::Term,
        "tick",
        [
            "One count of the counter.",
            "100 MHz divided by 40: 400 ns.",
            "The larger the divider, the longer it is, and the fewer steps there are.",
        ],
    ),
    entry(
        WordKind::Term,
        "top",
        [
            "The count at which the counter starts again or turns round: it makes the period.",
            "Edge-aligned, a top of 49999 makes 50000 ticks.",
            "Mostly one less than the ticks is written: `derive` says which.",
        ],
    ),
    entry(
        WordKind::Term,
        "variant",
        [
            "A device that has fewer pins, timers or megahertz than the part that it is described with, and is the same otherwise.",
            "`stm32f401` is described with `stm32f411`, and has at most 84 MHz.",
            "Name it like a part, `--on stm32f401/tim3`, or by its order code; `kairotic parts` lists the variants.",
        ],
    ),
    entry(
        WordKind::Requirement,
        "clock",
        [
            "How far the clock may be off, all in all.",
            "`clock = \"100ppm\"` with a crystal of 30 ppm, 25 ppm of temperature and 5 ppm of age: 60 ppm at worst, met.",
            "A better oscillator, or measure the one that is there.",
        ],
    ),
    entry(
        WordKind::Requirement,
        "frequency",
        [
            "How far the frequency may be off, by registers and clock.",
            "`frequency = \"200ppm\"`: at 50 Hz that is 0.01 Hz.",
            "A clock that the frequency divides, or another tolerance.",
        ],
    ),
    entry(
        WordKind::Requirement,
        "jitter",
        [
            "The longest period less the shortest.",
            "`jitter = \"50ns\"`: a fractional division at 125 MHz has 8 ns.",
            "A division without a fraction, or a faster clock.",
        ],
    ),
    entry(
        WordKind::Requirement,
        "level",
        [
            "How far the load's level may be off, in its own unit.",
            "`level = \"0.5deg\"` of a servo that is itself 0.4 % off 120 degrees: 0.48 degrees are gone before anything else.",
            "`budget` says what takes most of it.",
        ],
    ),
    entry(
        WordKind::Requirement,
        "pulse",
        [
            "How far the pulse may be off.",
            "`pulse = \"2us\"`: half a step of 312.5 ns is 0.16 us of it.",
            "A shorter tick, or a better clock for long pulses.",
        ],
    ),
    entry(
        WordKind::Requirement,
        "step",
        [
            "The longest step that will do, in the load's unit.",
            "`step = \"0.5deg\"` needs 240 steps for 120 degrees.",
            "A smaller divider, a faster clock, or the timer that the finding names.",
        ],
    ),
    entry(
        WordKind::Requirement,
        "steps",
        [
            "The fewest steps inside the span.",
            "`steps = 500`: a speed controller from 1 ms to 2 ms at a tick of 312.5 ns has 3200.",
            "As for `step`.",
        ],
    ),
    entry(
        WordKind::Block,
        "again",
        [
            "What becomes of the rest of a step when a move is made again and again.",
            "`dropped 14.07 deg after 1000 moves`: 75 degrees are 2653.4979 steps, of which 2653 are made.",
            "Count positions from one zero, and nothing is dropped.",
        ],
    ),
    entry(
        WordKind::Block,
        "because",
        [
            "Why the setting leads; with `--explain` the arithmetic, line by line.",
            "`exact frequency and exact pulse with the most steps that a standard mode gets from this clock`.",
            "Read `or` where another property counts more for you.",
        ],
    ),
    entry(
        WordKind::Block,
        "board",
        [
            "What to write under `[clock]` in the board file, beside its `source`, for the setting that is shown.",
            "`sysclk = \"100MHz\"`, `bus = [\"apb1=2\"]`.",
            "`check` looks at the board as it is then.",
        ],
    ),
    entry(
        WordKind::Block,
        "code",
        [
            "Files that were made of a board, and whether they are what would be made now.",
            "`generated/dome.h   differs`.",
            "`emit` makes them again, with the line at their top.",
        ],
    ),
    entry(
        WordKind::Block,
        "findings",
        [
            "What is or may be wrong, worst first: name, sentence, remedy.",
            "`few-steps-in-span (error)`: 60 steps of 2 degrees, and 240 are needed.",
            "`kairotic why NAME` explains one.",
        ],
    ),
    entry(
        WordKind::Block,
        "found",
        [
            "Timers that were looked for with `parts --pin`, `--can` and `--search`.",
            "`stm32f411   tim1/1   AF1   up and down counter with four compare channels`.",
            "Several of these options have to hold together.",
        ],
    ),
    entry(
        WordKind::Block,
        "gives",
        [
            "What the pin will do, each figure with its error or `exact`, and in the load's unit where one is known.",
            "`frequency 50 Hz exact`, `angle step 0.031 deg`.",
            "Hold it against what you asked for in the heading.",
        ],
    ),
    entry(
        WordKind::Block,
        "line",
        [
            "The steps of a sequence as they follow one another: when each begins, how long its way and its stay take.",
            "`2 s   3   vent   0 % to 60 %   2 s   10 s   706`.",
            "`--format csv` has every compare value; `--plot` draws them.",
        ],
    ),
    entry(
        WordKind::Block,
        "naive",
        [
            "What the usual shortcuts make of the same map or move.",
            "`delays of whole microseconds   2.937 us late`.",
            "Take the arithmetic, or the ramp, that was found: it does not drift.",
        ],
    ),
    entry(
        WordKind::Block,
        "needs",
        [
            "What is required, what there is, and whether it is met.",
            "`step at most 0.5 deg   0.0313 deg   met, 6.25 % used`.",
            "One that is missed ends the run with exit code 1.",
        ],
    ),
    entry(
        WordKind::Block,
        "or",
        [
            "Other settings worth a look, each with what it is better at.",
            "`divide by 32   top 62499   62500 steps   more steps`.",
            "`--prefer` puts another property first; `--all` shows every one.",
        ],
    ),
    entry(
        WordKind::Block,
        "phases",
        [
            "The lines of a four-wire stepper that are on, step by step, and the bits of their port to set and to clear.",
            "`1   1100   PB 0x3000   PB 0xc000`.",
            "`--code c` prints them as a function of the position.",
        ],
    ),
    entry(
        WordKind::Block,
        "pins",
        [
            "Pins of a capture against a sequence or a move: pulses that were planned, seen, missing, too many, of another length.",
            "`slit   3175   3175   0   0   0   873.9 ps   40 ppm   met`.",
            "`because` says when the first of them was not as planned.",
        ],
    ),
    entry(
        WordKind::Block,
        "ramp",
        [
            "Ways for firmware to make a stepper's ramp: what data each carries, and how far its edges are off the ideal.",
            "`table of the ramp, 16 bits   308 bytes   0.9258   met`.",
            "The first keeps to `--max-error` with the least data; `--code c` prints it.",
        ],
    ),
    entry(
        WordKind::Block,
        "signals",
        [
            "A line for each signal of a board: place, pin, frequency, steps, the requirement nearest to its limit, verdict.",
            "`shutter   tim3/1   PA6   50 Hz   exact   3840`.",
            "`derive --board FILE --signal NAME` shows one of them whole.",
        ],
    ),
    entry(
        WordKind::Block,
        "steppers",
        [
            "The steppers of a board: their timers, and the whole travel of each as one move.",
            "`slit   tim10/1   PB8   12699   3.536 s   72.92 ns   made`.",
            "`move` plans any part of that travel.",
        ],
    ),
    entry(
        WordKind::Block,
        "supply",
        [
            "Functions that the firmware has to supply, since the catalogue does not know the step.",
            "`dome_clock_of_tim3()`: tim3 is to have 96 MHz, and nothing says where that comes from.",
            "Write them; the code does not compile until then.",
        ],
    ),
    entry(
        WordKind::Block,
        "together",
        [
            "Signals of a sequence that begin a step at the same instant, each with a period of its own.",
            "`at 2 s: shutter and vent, each with its own next period, up to 20 ms apart`.",
            "Channels of one timer change together; others as near as their periods are long.",
        ],
    ),
    entry(
        WordKind::Block,
        "windings",
        [
            "Compare values of two PWM signals that drive the windings of a stepper, microstep by microstep up to the first full step.",
            "`4   924   383   0.0025`.",
            "Less than zero is the other way; `--code c` prints all as functions of the position.",
        ],
    ),
    entry(
        WordKind::Block,
        "write",
        [
            "Register fields, the value of each, and what it means: the answer.",
            "`PSC   39   divide by 40`.",
            "All that the waveform needs; `--from-reset` adds clocks, gates and pins.",
        ],
    ),
    entry(
        WordKind::Block,
        "writes",
        [
            "What a sequence writes to the compare register of each signal: how many values, how far apart, in how much data.",
            "`shutter   stm32f411/tim3/1   20 ms   150   20 ms   301 bytes   0.49`.",
            "`--code c` prints them with the function that gives one for each period.",
        ],
    ),
];
