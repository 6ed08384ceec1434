//! A board file as it stands in the text: every key that there is, none of them needed yet.

use std::collections::BTreeMap;

use kairotic_core::clock::{Bus, SourceAsk};
use kairotic_core::part::Assignment;
use kairotic_core::quantity::{Deviation, Duty, Frequency, Range, Time, Tolerance, Voltage};
use kairotic_core::sequence::LevelShape;
use kairotic_core::target::{Aim, Level, Span};
#[cfg(feature = "schema")]
use schemars::JsonSchema;
use serde::Deserialize;
use serde::de::IgnoredAny;

use super::given::{Count, Flag, Given, Name, Raw, Words};
use super::words::{ConsumerWord, LoadWord};

/// Keys that nothing here knows.
pub(super) type Rest = BTreeMap<String, IgnoredAny>;

/// A part with the signals that it makes.
#[derive(Debug, Deserialize)]
#[cfg_attr(feature = "schema", derive(JsonSchema), schemars(rename = "board", title = "Kairotic board file"))]
#[serde(rename_all = "kebab-case")]
pub(super) struct RawBoard {
    /// The version of this format: 1.
    pub(super) schema: Option<Given<Count>>,
    /// The part, as `kairotic parts` lists it.
    pub(super) part: Option<Given<Words>>,
    /// The clock of its timers; the part's own after reset where nothing is said.
    pub(super) clock: Option<RawClock>,
    /// What is driven.
    #[serde(default)]
    pub(super) load: Vec<RawLoad>,
    /// The signals.
    #[serde(default)]
    pub(super) signal: Vec<RawSignal>,
    /// What signals do one after the other.
    #[serde(default)]
    pub(super) sequence: Vec<RawSequence>,
    #[serde(flatten)]
    #[cfg_attr(feature = "schema", schemars(skip))]
    pub(super) rest: Rest,
}

/// The clock of a board's timers.
#[derive(Debug, Deserialize)]
#[cfg_attr(feature = "schema", derive(JsonSchema), schemars(rename = "clock"))]
#[serde(rename_all = "kebab-case")]
pub(super) struct RawClock {
    /// Where the clock starts: `hsi`, `25MHz+-30ppm`, `hse=8MHz`. With nothing else, it takes the way that it has after
    /// reset.
    pub(super) source: Option<Given<SourceAsk>>,
    /// The clock that reaches the timers, perhaps with its tolerance: `16MHz+-30ppm`.
    pub(super) frequency: Option<Given<Tolerance<Frequency>>>,
    /// The system clock instead: the clock tree says what reaches each timer.
    pub(super) sysclk: Option<Given<Tolerance<Frequency>>>,
    /// Bus dividers and switches that are settled: `["apb1=4"]`.
    #[serde(default)]
    pub(super) bus: Vec<Given<Bus>>,
    /// Registers of the clock tree instead, as they stand in the code: `["PLLM=6", "PLLN=96"]`; those that are not
    /// given are as after reset.
    #[serde(default)]
    pub(super) registers: Vec<Given<Assignment>>,
    /// How far temperature takes the oscillator: `-2%..1%`.
    pub(super) temperature: Option<Given<Range<Deviation>>>,
    /// How far it drifts over its life, either way.
    pub(super) ageing: Option<Given<Deviation>>,
    /// The step of its trim, where the firmware trims it: half of it is left of the tolerance.
    pub(super) trim_step: Option<Given<Deviation>>,
    /// Root mean square of what a PLL moves an edge.
    pub(super) pll_jitter: Option<Given<Time>>,
    #[serde(flatten)]
    #[cfg_attr(feature = "schema", schemars(skip))]
    pub(super) rest: Rest,
}

/// Something that a signal drives. Which keys it has depends on its kind.
#[derive(Debug, Default, Deserialize)]
pub(super) struct RawLoad {
    pub(super) name: Option<Given<Name>>,
    pub(super) kind: Option<Given<LoadWord>>,
    pub(super) tolerance: Option<Given<Deviation>>,
    /// Those of its kind, and what no kind has.
    #[serde(flatten)]
    pub(super) keys: BTreeMap<String, Raw>,
}

/// One named output.
#[derive(Debug, Deserialize)]
#[cfg_attr(feature = "schema", derive(JsonSchema), schemars(rename = "signal"))]
#[serde(rename_all = "kebab-case")]
pub(super) struct RawSignal {
    /// Its name.
    pub(super) name: Option<Given<Name>>,
    /// The timer, and perhaps the channel: `tim3/1`.
    pub(super) on: Option<Given<Words>>,
    /// The pin, alone or beside `on`.
    pub(super) pin: Option<Given<Words>>,
    /// How often it repeats, or a window of frequencies: `50Hz`, `18kHz..25kHz`.
    pub(super) freq: Option<Given<Aim>>,
    /// The same as a time.
    pub(super) period: Option<Given<Time>>,
    /// The share of the period that it is active.
    pub(super) duty: Option<Given<Duty>>,
    /// The time that it is active.
    pub(super) pulse: Option<Given<Time>>,
    /// The same in the load's own unit: `45deg`, `60%`, `3W`.
    pub(super) at: Option<Given<Words>>,
    /// The active times that count; the load's where none are given.
    pub(super) span: Option<Given<Span>>,
    /// What it drives, by name.
    pub(super) load: Option<Given<Words>>,
    /// The pin's level while it is active: `high` or `low`.
    pub(super) active: Option<Given<Level>>,
    /// How long both complementary outputs shall be off between one and the other.
    pub(super) dead_time: Option<Given<Time>>,
    /// From the shortest to the longest time between a period's start and the firmware's write of a compare value.
    pub(super) latency: Option<Given<Range<Time>>>,
    /// How much longer a driver makes the pulse, or shorter where it is less than zero.
    pub(super) edges: Option<Given<Time>>,
    /// The signal on the other line of a motor that is wired to two.
    pub(super) second_line: Option<Given<Words>>,
    /// The pin of a stepper's direction.
    pub(super) direction: Option<Given<Words>>,
    /// The pins of a stepper's four wires, in the order in which they follow one another.
    #[serde(default)]
    pub(super) lines: Vec<Given<Words>>,
    /// The signals of a stepper's two windings, the second a full step later than the first.
    #[serde(default)]
    pub(super) windings: Vec<Given<Words>>,
    /// What a kernel's device tree takes it for; by its load where nothing is said.
    pub(super) consumer: Option<Given<ConsumerWord>>,
    /// What a regulator that follows the duty makes at 0 % and at 100 %: `0.8V..1.2V`.
    pub(super) regulates: Option<Given<Range<Voltage>>>,
    /// What is required of it.
    pub(super) needs: Option<RawNeeds>,
    #[serde(flatten)]
    #[cfg_attr(feature = "schema", schemars(skip))]
    pub(super) rest: Rest,
}

/// What signals do one after the other.
#[derive(Debug, Deserialize)]
#[cfg_attr(feature = "schema", derive(JsonSchema), schemars(rename = "sequence"))]
#[serde(rename_all = "kebab-case")]
pub(super) struct RawSequence {
    /// Its name.
    pub(super) name: Option<Given<Name>>,
    /// The signal of the steps that name none.
    pub(super) signal: Option<Given<Words>>,
    /// Its steps: each begins when the one before it ends, or at a time of its own.
    #[serde(default)]
    pub(super) steps: Vec<RawStep>,
    /// How often all of them are made: 1 where nothing is said.
    pub(super) repeat: Option<Given<Count>>,
    #[serde(flatten)]
    #[cfg_attr(feature = "schema", schemars(skip))]
    pub(super) rest: Rest,
}

/// A step of a sequence.
#[derive(Debug, Deserialize)]
#[cfg_attr(feature = "schema", derive(JsonSchema), schemars(rename = "step"))]
#[serde(rename_all = "kebab-case")]
pub(super) struct RawStep {
    /// The signal that it moves.
    pub(super) signal: Option<Given<Words>>,
    /// When it begins, from the beginning of the sequence; when the step before it ends, where nothing is said.
    pub(super) at: Option<Given<Time>>,
    /// Where it begins: a level, a duty or a pulse; where the signal is, if nothing is said.
    pub(super) from: Option<Given<Words>>,
    /// Where it goes: a level, a duty or a pulse; `arm` or `calibrate` for a speed controller. It stays where it is without.
    pub(super) to: Option<Given<Words>>,
    /// How long it is on its way; it goes at once where nothing is said, and a stepper as fast as it can.
    pub(super) over: Option<Given<Time>>,
    /// Levels of the way, both ends among them; as many as there are, where nothing is said.
    pub(super) levels: Option<Given<Count>>,
    /// How the level changes: `linear`, or `smooth`, which begins and ends slowly.
    pub(super) shape: Option<Given<LevelShape>>,
    /// How long it stays, at both ends of a way there and back.
    pub(super) hold: Option<Given<Time>>,
    /// Whether it goes back as it came.
    pub(super) there_and_back: Option<Given<Flag>>,
    /// How often it is made: 1 where nothing is said.
    pub(super) repeat: Option<Given<Count>>,
    #[serde(flatten)]
    #[cfg_attr(feature = "schema", schemars(skip))]
    pub(super) rest: Rest,
}

/// What is required of a signal.
#[derive(Debug, Deserialize)]
#[cfg_attr(feature = "schema", derive(JsonSchema), schemars(rename = "needs"))]
#[serde(rename_all = "kebab-case")]
pub(super) struct RawNeeds {
    /// How far the frequency may be off by the registers.
    pub(super) frequency: Option<Given<Deviation>>,
    /// How far the pulse may be off by the registers.
    pub(super) pulse: Option<Given<Time>>,
    /// How far the level may be off, in the load's unit; `budget` holds it against all that takes it away.
    pub(super) level: Option<Given<Words>>,
    /// The fewest steps, in the span if there is one.
    pub(super) steps: Option<Given<Count>>,
    /// The longest step, in the load's unit.
    pub(super) step: Option<Given<Words>>,
    /// The largest difference between periods.
    pub(super) jitter: Option<Given<Time>>,
    /// How far the clock may be off.
    pub(super) clock: Option<Given<Deviation>>,
    #[serde(flatten)]
    #[cfg_attr(feature = "schema", schemars(skip))]
    pub(super) rest: Rest,
}
