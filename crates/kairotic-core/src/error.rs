//! The one error type of this crate: each variant carries the values that make it understandable.

use crate::quantity::LoadLevel;
use crate::quantity::parse::Problem;
use crate::search::Unreachable;

/// A result with this crate's error.
pub type Result<T, E = Error> = std::result::Result<T, E>;

/// What can be wrong with a request.
#[derive(Debug, Clone, PartialEq, thiserror::Error)]
pub enum Error {
    /// A text that is no quantity of the kind that is needed.
    #[error("expected {}, found `{text}`: {}", with_article(quantity), problem_words(problem))]
    Quantity {
        /// The kind that is needed.
        quantity: &'static str,
        /// What came, shortened when long.
        text: String,
        /// What is wrong with it.
        problem: Problem,
        /// The units that fit.
        units: String,
    },
    /// A number that needs more bits than there are.
    #[error("the {quantity} needs more than the 127 bits that exact numbers have here")]
    Overflow {
        /// What did not fit.
        quantity: &'static str,
    },
    /// A quantity that must be above nought.
    #[error("expected {} above nought, found {value}", with_article(quantity))]
    NotPositive {
        /// The kind of quantity.
        quantity: &'static str,
        /// What came.
        value: String,
    },
    /// A duty outside 0 % to 100 %.
    #[error("expected a duty from 0 % to 100 %, found {found}")]
    DutyRange {
        /// What came.
        found: String,
    },
    /// A pulse that is negative or longer than the period.
    #[error("expected a pulse from nought to the period, {period}; found {pulse}")]
    PulseRange {
        /// What came.
        pulse: String,
        /// The period.
        period: String,
    },
    /// A span whose ends are reversed or equal.
    #[error("expected a span from its lower to its higher end, found {low}..{high}")]
    SpanReversed {
        /// The end that came first.
        low: String,
        /// The end that came last.
        high: String,
    },
    /// A window whose ends are reversed or equal.
    #[error("expected a window from its lower to its higher frequency, found {low}..{high}")]
    WindowReversed {
        /// The end that came first.
        low: String,
        /// The end that came last.
        high: String,
    },
    /// A name that is not in a list.
    #[error("{place} has no {kind} `{name}`")]
    UnknownName {
        /// What kind of thing was named.
        kind: &'static str,
        /// What came.
        name: String,
        /// Where it was looked for.
        place: String,
        /// Everything it could have been.
        known: Vec<String>,
        /// The nearest of those, best first.
        nearest: Vec<String>,
    },
    /// A channel that was asked for twice.
    #[error("channel {label} is asked for twice")]
    ChannelTwice {
        /// Its label.
        label: String,
    },
    /// More signals than a timer has channels.
    #[error("{asked} signals are asked for; {timer} has {free} channels for them")]
    TooFewChannels {
        /// The timer.
        timer: String,
        /// Signals asked for.
        asked: usize,
        /// Channels there are.
        free: usize,
    },
    /// No mode of a timer can do what was asked.
    #[error("no mode of {timer} fits: {why}")]
    NoMode {
        /// The timer.
        timer: String,
        /// What none of them can do.
        why: String,
        /// What to try.
        hint: String,
    },
    /// A timer that neither times pulses nor counts them.
    #[error("{timer} takes no pulses: it makes signals only")]
    NoInputs {
        /// The timer.
        timer: String,
        /// What does it instead.
        instead: Option<String>,
        /// Timers of the same part that take pulses.
        others: Vec<String>,
    },
    /// A clock above the timer's maximum.
    #[error("{clock} is above the {maximum} that {title} may have{doubt}")]
    ClockTooFast {
        /// What came.
        clock: String,
        /// The highest legal frequency.
        maximum: String,
        /// What the reference manual calls the clock.
        title: String,
        /// Why the limit itself is uncertain, if it is.
        doubt: String,
    },
    /// An inverted output that the silicon does not have.
    #[error("the outputs of {timer} cannot be inverted in mode {mode}")]
    NoInversion {
        /// The timer.
        timer: String,
        /// The mode.
        mode: String,
    },
    /// A frequency outside what a timer can make.
    #[error("{0}")]
    Unreachable(Box<Unreachable>),
    /// A register assignment that is no `NAME=VALUE`.
    #[error("expected NAME=VALUE with a decimal, 0x or 0b value, found `{text}`")]
    Assignment {
        /// What came.
        text: String,
    },
    /// A register value that does not fit.
    #[error("{name} holds 0..{max}, found {value}")]
    RegisterRange {
        /// The register or field.
        name: String,
        /// What came.
        value: u64,
        /// The largest value that fits.
        max: u64,
    },
    /// Two values for one place.
    #[error("{name} is given twice, as {first} and as {second}")]
    RegisterTwice {
        /// The register or field.
        name: String,
        /// The first value.
        first: u64,
        /// The second value.
        second: u64,
    },
    /// A register that is needed and was not given.
    #[error("{needed} is not among the registers given")]
    RegisterMissing {
        /// The register or field.
        needed: String,
        /// What it is needed for.
        why: String,
    },
    /// A register value that has no meaning, or one that stops the timer.
    #[error("{name}={value} {why}")]
    RegisterValue {
        /// The register or field.
        name: String,
        /// What came.
        value: u64,
        /// Why it will not do.
        why: String,
        /// The values that would.
        legal: String,
    },
    /// A register that contradicts the other registers.
    #[error("{name} {why}")]
    RegisterClash {
        /// The register or field.
        name: String,
        /// What it contradicts.
        why: String,
        /// What it may hold.
        legal: String,
    },
    /// A dead time that a timer does not have.
    #[error("{timer} cannot make that dead time: {why}")]
    NoDeadTime {
        /// The timer.
        timer: String,
        /// Why not.
        why: String,
    },
    /// A part whose clock tree is not described.
    #[error("the clock tree of {part} is not in the catalogue")]
    NoClockTree {
        /// The part.
        part: String,
    },
    /// A part whose pins are not described.
    #[error("the pins of {part} are not in the catalogue")]
    NoPinout {
        /// The part.
        part: String,
    },
    /// A pin that more than one output could have, or that carries no channel of its own.
    #[error("pin {pin} can carry {outputs}")]
    PinOutputs {
        /// The pin.
        pin: String,
        /// What it can carry.
        outputs: String,
        /// What to do.
        hint: String,
    },
    /// A clock source that the part does not have.
    #[error("{part} has no clock source that fits `{asked}`")]
    NoSource {
        /// The part.
        part: String,
        /// What came.
        asked: String,
        /// The sources that there are.
        known: String,
    },
    /// A frequency that no legal clock setting brings to a timer.
    #[error("no legal clock setting brings {wanted} to {timer}, nor anything within {within} of it")]
    ClockUnreachable {
        /// The timer.
        timer: String,
        /// The wanted frequency.
        wanted: String,
        /// How far off it was looked for.
        within: String,
        /// The sources that there are.
        sources: String,
    },
    /// A frequency that no clock setting lets a timer make.
    #[error("no legal clock setting lets {timer} make {wanted}")]
    JointUnreachable {
        /// The timer.
        timer: String,
        /// The wanted frequency.
        wanted: String,
        /// The sources that there are.
        sources: String,
    },
    /// A clock setting that breaks a limit.
    #[error("no such clock may reach {timer}: {why}")]
    ClockIllegal {
        /// The timer.
        timer: String,
        /// The limit that it breaks.
        why: String,
    },
    /// A bus divider that is no `NAME=NUMBER`.
    #[error("expected NAME=NUMBER, found `{text}`")]
    Bus {
        /// What came.
        text: String,
    },
    /// A signal for which the part has no timer left.
    #[error("no timer of the part is left that can make `{signal}`")]
    NoPlace {
        /// The signal.
        signal: String,
    },
    /// A budget of a target that has no pulse.
    #[error("{timer} makes no pulse here that could be off")]
    NoSignal {
        /// The timer.
        timer: String,
    },
    /// Boards that are none, or that are all alike.
    #[error("there is nothing to draw: no boards are asked for, or they do not differ")]
    NoPopulation,
    /// A pin alone says nothing of the timer, for every pin can have every output.
    #[error("any pin of {part} can have any output, by {select}")]
    AnyPin {
        /// The part.
        part: String,
        /// How a pin is given an output.
        select: String,
    },
    /// A clock that does not run after reset was not given.
    #[error("{clock} is off after reset; {field} switches it on: {choices}")]
    ClockOff {
        /// The clock.
        clock: String,
        /// The field that switches it on.
        field: String,
        /// Its values, each with what the clock then comes from.
        choices: String,
        /// What the clock is taken to have once it is on, as an option takes it.
        on: String,
    },
    /// A line from inputs to compare values that is none.
    #[error("there is no map: {why}")]
    NoMap {
        /// What is wrong.
        why: String,
    },
    /// What was observed of a load is not enough to calibrate it.
    #[error("no calibration: {why}")]
    NoCalibration {
        /// What is wrong.
        why: String,
    },
    /// A load none of whose numbers can be observed.
    #[error("a {load} load has no numbers that observations could give")]
    NothingToCalibrate {
        /// Its kind.
        load: &'static str,
    },
    /// A level that a load does not have.
    #[error("expected {} between {} and {}, found {}", .0.measures, .0.low, .0.high, .0.found)]
    LevelOutside(Box<LevelOutside>),
    /// A family file that contradicts itself.
    #[error("the description of {part} is broken: {what}")]
    BrokenPart {
        /// The part.
        part: String,
        /// What is wrong.
        what: String,
    },
}

/// A level that a load does not have.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct LevelOutside {
    /// What the load's unit measures.
    pub measures: &'static str,
    /// What came.
    pub found: LoadLevel,
    /// The lowest.
    pub low: LoadLevel,
    /// The highest.
    pub high: LoadLevel,
}

impl Error {
    /// A name that is not among `known`, with the nearest of those.
    pub fn unknown<'n>(
        kind: &'static str,
        name: &str,
        place: &str,
        known: impl Iterator<Item = &'n str>,
    ) -> Self {
        let known: Vec<String> = known.map(ToOwned::to_owned).collect();
        let nearest = nearest(name, &known);
        Self::UnknownName { kind, name: name.to_owned(), place: place.to_owned(), known, nearest }
    }

    /// What to try instead, one way a line, where there is something to say.
    pub fn hint(&self) -> Option<String> {
        Some(match self {
            Self::Quantity { problem, units, .. } => match problem {
                Problem::WrongUnit { nearest: Some(unit), .. } => format!("the unit is spelt {unit}"),
                Problem::TooLarge => "use fewer digits".to_owned(),
                Problem::MissingSeparator(separator) => {
                    format!("write two of them with `{separator}` between; units that fit: {units}")
                }
                _ => format!("units that fit here: {units}"),
            },
            Self::Overflow { .. } => "use fewer digits, or a simpler fraction".to_owned(),
            Self::SpanReversed { low, high } | Self::WindowReversed { low, high } => {
                format!("write {high}..{low}, without the spaces")
            }
            Self::PulseRange { .. } => "lower the frequency, or shorten the pulse".to_owned(),
            Self::UnknownName { known, nearest, kind, .. } => match (nearest.is_empty(), known.is_empty()) {
                (false, _) => format!("did you mean {}?", nearest.join(" or ")),
                (true, false) => format!("it has {}", known.join(", ")),
                (true, true) => format!("leave the {kind} out"),
            },
            Self::NoSignal { .. } => "give a duty or a pulse, or a signal of a board that has one".to_owned(),
            Self::NoPopulation => {
                "give the clock a tolerance, as in 16MHz+-1%, or a load one in the board file".to_owned()
            }
            Self::ChannelTwice { .. } => "name each channel once, as in --duty 1=35% --duty 2=50%".to_owned(),
            Self::TooFewChannels { .. } => "spread the signals over two timers".to_owned(),
            Self::NoMode { hint, .. } => hint.clone(),
            Self::NoInputs { instead, others, .. } => match (others.as_slice(), instead) {
                ([], None) => "a timer of another part".to_owned(),
                ([], Some(instead)) => format!("what can: {instead}"),
                _ => format!("timers of this part that do: {}", others.join(", ")),
            },
            Self::ClockTooFast { .. } => {
                "lower the clock, or accept the risk with --allow-overclock".to_owned()
            }
            Self::NoInversion { .. } => {
                "leave --active out and swap the levels in the load's wiring".to_owned()
            }
            Self::Unreachable(unreachable) => unreachable.hint(),
            Self::NoDeadTime { .. } => {
                "a timer whose page in `kairotic parts` names complementary outputs".to_owned()
            }
            Self::NoClockTree { .. } => {
                "derive and decode take the timer's clock itself, with --clock".to_owned()
            }
            Self::NoPinout { .. } => "name the timer and channel instead: --on PART/TIMER/CHANNEL".to_owned(),
            Self::PinOutputs { hint, .. } => hint.clone(),
            Self::NoSource { known, .. } => format!("its sources: {known}"),
            Self::ClockUnreachable { sources, .. } => {
                format!("allow more with --within, or start from another --source: {sources}")
            }
            Self::JointUnreachable { sources, .. } => {
                format!("a timer with more bits or divisions, or another --source: {sources}")
            }
            Self::NoPlace { .. } => {
                "let signals of one frequency share a timer, or give this one a place with `on`".to_owned()
            }
            Self::AnyPin { part, .. } => {
                format!("name the timer, and perhaps the channel: --on {part}/TIMER/CHANNEL")
            }
            Self::ClockOff { on, .. } => {
                format!("say what it will have, for example --clock {on}")
            }
            Self::NoMap { .. } => {
                "give two different ends for inputs and compare values, or a wider --word".to_owned()
            }
            Self::NoCalibration { .. } => {
                "observe the load at two or more different pulses or duties, all in one unit".to_owned()
            }
            Self::NothingToCalibrate { .. } => {
                "those that have are servo, speed-controller, motor, fan and heater".to_owned()
            }
            Self::LevelOutside(_) => "those are the load's ends, as the board file has them".to_owned(),
            Self::ClockIllegal { .. } => "`kairotic clock` lists what is legal".to_owned(),
            Self::Bus { .. } => "for example apb1=4: a division, or the code of a switch".to_owned(),
            Self::Assignment { .. } => "for example PSC=39, CR1=0x80 or CTRLA.PRESCALER=0b011".to_owned(),
            Self::RegisterMissing { needed, why } => format!("add {needed}=VALUE: {why}"),
            Self::RegisterTwice { name, .. } => format!("give {name} once"),
            Self::RegisterValue { legal, .. } | Self::RegisterClash { legal, .. } => {
                format!("legal: {legal}")
            }
            Self::RegisterRange { name, .. } => {
                format!("what was read out may be a whole register, or another one than {name}")
            }
            Self::DutyRange { .. } => {
                "a duty is the active share of the period; an active time is a pulse".to_owned()
            }
            Self::NotPositive { .. } | Self::BrokenPart { .. } => return None,
        })
    }
}

fn with_article(word: &str) -> String {
    let article = if word.starts_with(['a', 'e', 'i', 'o', 'u']) { "an" } else { "a" };
    format!("{article} {word}")
}

fn problem_words(problem: &Problem) -> String {
    match problem {
        Problem::Empty => "there is nothing".to_owned(),
        Problem::NotANumber => "it does not begin with a number".to_owned(),
        Problem::MissingUnit => "the unit is missing".to_owned(),
        Problem::WrongUnit { unit, .. } => format!("`{unit}` is not a unit of it"),
        Problem::MissingDigits => "digits are missing".to_owned(),
        Problem::TooLarge => "the number is too long to be held exactly".to_owned(),
        Problem::ZeroDenominator => "it divides by nought".to_owned(),
        Problem::MissingSeparator(separator) => format!("there is no `{separator}` in it"),
    }
}

/// Up to three names of `known` that a slip of the keyboard could have turned into `name`, best first.
pub fn nearest(name: &str, known: &[String]) -> Vec<String> {
    let wanted = name.to_lowercase();
    // One measure sees a common beginning, the other letters that changed places.
    let likeness = |candidate: &str| {
        let begins = strsim::jaro_winkler(&wanted, candidate);
        let edits = strsim::normalized_damerau_levenshtein(&wanted, candidate);
        (begins > 0.8 || edits > 0.6).then_some(begins.max(edits))
    };
    let mut scored: Vec<(f64, &String)> = known
        .iter()
        .filter_map(|candidate| Some((likeness(&candidate.to_lowercase())?, candidate)))
        .collect();
    scored.sort_by(|(left, _), (right, _)| right.total_cmp(left));
    scored.into_iter().take(3).map(|(_, candidate)| candidate.clone()).collect()
}
