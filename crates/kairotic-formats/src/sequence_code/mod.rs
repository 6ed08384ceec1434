//! A sequence as C or Rust: for each signal a function that gives the compare value of the next period.
//!
//! ```
//! use kairotic_core::search::DerivedSignal;
//! use kairotic_core::sequence::{Member, Sequence, SequencePlan, Setpoint, steps};
//! use kairotic_core::signal::SignalSpec;
//! use kairotic_formats::map_code::Language;
//! use kairotic_formats::sequence_code::module;
//! # use kairotic_core::part::TimerUse;
//! # use kairotic_core::quantity::units::{hz, mhz, us};
//! # use kairotic_core::target::Target;
//! # let catalogue = kairotic_parts::Catalogue::embedded();
//! let timer_use = TimerUse::of(catalogue.part("stm32f411")?, "tim3").clocked(mhz(96).exactly());
//! let target = Target::frequency(hz(50)).pulse(us(1100));
//! let signal = SignalSpec { name: "shutter".to_owned(), ..SignalSpec::of(timer_use, target) };
//! let name = "sweep".to_owned();
//! let steps = steps("shutter", "to 1900us over 6s in 12 levels", &|text| Setpoint::read(None, text))?;
//! let member = Member::Signal(Box::new(DerivedSignal::of(signal)?));
//! let plan = SequencePlan::of(&[member], &Sequence { name, steps, repeat: 1 })?;
//! assert!(module(Language::C, "sweep", &plan).contains("uint16_t sweep_shutter_next(void)"));
//! # Ok::<(), kairotic_core::Error>(())
//! ```

mod c;
mod moves;
mod rust;

use kairotic_core::motion::{Coding, TableWord};
use kairotic_core::sequence::{LevelTable, LevelTrack, SequencePlan};

use self::moves::MoveCode;
use crate::code_text::list;
use crate::map_code::Language;

/// The signals and steppers of a sequence as a file of its own. Nothing in it is allocated, and every number fits its type: the
/// compare values that it gives are those of the plan, period by period, and so are the ticks from step to step.
pub fn module(language: Language, name: &str, plan: &SequencePlan) -> String {
    let tracks: Vec<TrackCode<'_>> = plan.tracks.iter().map(TrackCode::of).collect();
    let moves = MoveCode::all(name, plan);
    match language {
        Language::C => c::module(name, plan, &tracks, &moves),
        Language::Rust => rust::module(name, plan, &tracks, &moves),
    }
}

/// The same in C as a header and a source, without the lines that include one in the other or guard it.
#[cfg(feature = "emit")]
pub(crate) fn c_parts(name: &str, plan: &SequencePlan) -> [String; 2] {
    let tracks: Vec<TrackCode<'_>> = plan.tracks.iter().map(TrackCode::of).collect();
    let moves = MoveCode::all(name, plan);
    let header = format!("{}\n{}", c::INCLUDES, c::declarations(name, plan, &tracks, &moves));
    [header, c::definitions(name, &tracks, &moves)]
}

/// A signal's name as part of a name in code.
fn part_of_name(signal: &str) -> String {
    signal.replace(|letter: char| !letter.is_ascii_alphanumeric(), "_").to_lowercase()
}

/// A track as both languages need it.
struct TrackCode<'p> {
    track: &'p LevelTrack,
    table: LevelTable,
    /// The signal's name as part of a name.
    name: String,
    /// What its function gives.
    value: TableWord,
    /// What counts its periods.
    counter: TableWord,
    /// What counts the entries of its tables.
    place: TableWord,
    /// What counts how often they are gone through.
    pass: TableWord,
}

impl<'p> TrackCode<'p> {
    fn of(track: &'p LevelTrack) -> Self {
        let table = track.table();
        let most = |numbers: &mut dyn Iterator<Item = u64>| numbers.max().unwrap_or(0);
        let word = |most: u64| TableWord::of(0, most.into());
        Self {
            track,
            name: part_of_name(&track.signal),
            value: table.value,
            counter: word(most(&mut table.periods.iter().copied())),
            place: word(table.values.len() as u64),
            pass: word(table.passes.into()),
            table,
        }
    }

    /// What is said of it.
    fn told(&self) -> String {
        let turned = if self.track.reverses { "; less than zero the other way" } else { "" };
        format!("The compare value of the next period of {}{turned}", self.track.on)
    }

    /// The first compare value.
    fn first(&self) -> i64 {
        self.table.values.first().copied().unwrap_or(0)
    }

    /// The last place in its tables.
    fn last(&self) -> usize {
        self.table.values.len().saturating_sub(1)
    }

    /// Its compare values as they are held, with the type and how many there are.
    fn values(&self) -> (TableWord, String, usize) {
        let numbers = self.table.values.len();
        match self.table.coding {
            Coding::Plain(word) => (word, list(self.table.values.iter()), numbers),
            Coding::Differences(word) => (word, list(self.table.differences()), numbers.saturating_sub(1)),
        }
    }

    const fn is_apart(&self) -> bool {
        matches!(self.table.coding, Coding::Differences(_))
    }
}
