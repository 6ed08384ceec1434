//! Levels over time: several signals on one line of time, each as the compare values that its timer holds, period by period.
//!
//! Every level comes from the exact ends of its way, and every level begins in the period that is nearest to its time from
//! the beginning of the sequence: nothing is added up that was rounded, so that nothing drifts. A compare value stays for
//! whole periods, since it counts from the next period on.
//!
//! ```
//! use kairotic_core::search::DerivedSignal;
//! use kairotic_core::sequence::{Member, Sequence, SequencePlan, Setpoint, steps};
//! use kairotic_core::signal::SignalSpec;
//! # use kairotic_core::part::TimerUse;
//! # use kairotic_core::quantity::units::{hz, mhz, us};
//! # use kairotic_core::target::Target;
//! # let catalogue = kairotic_parts::Catalogue::embedded();
//! let timer_use = TimerUse::of(catalogue.part("stm32f411")?, "tim3").clocked(mhz(96).exactly());
//! let signal = SignalSpec::of(timer_use, Target::frequency(hz(50)).pulse(us(1100)));
//! let (name, place) = (signal.name.clone(), |text: &str| Setpoint::read(None, text));
//! let steps = steps(&name, "to 1900us over 6s in 12 levels", &place)?;
//! let member = Member::Signal(Box::new(DerivedSignal::of(signal)?));
//! let plan = SequencePlan::of(&[member], &Sequence { name, steps, repeat: 1 })?;
//! let levels = &plan.tracks[0].holds;
//! assert_eq!((levels.len(), levels[1].begins, levels[11].begins), (12, 25, 275));
//! # Ok::<(), kairotic_core::Error>(())
//! ```

mod compare_line;
mod judge;
mod leg;
mod level_move;
mod level_table;
mod level_way;
mod schedule;
mod setpoint;
mod step;
mod step_way;
mod text;
mod track;

pub use self::leg::LegCause;
pub use self::level_move::{LevelMove, LevelPace};
pub use self::level_table::LevelTable;
pub use self::schedule::{Actor, ActorKind, length};
pub use self::setpoint::Setpoint;
pub use self::step::{ARM, LevelShape, Sequence, SequenceStep, StepGoal, TEACH};
pub use self::step_way::{SequencedMove, SequencedStepper};
pub use self::text::steps;
pub use self::track::{LevelHold, LevelTrack, TrackWay};

use serde::Serialize;

use self::schedule::Schedule;
use self::track::TrackMaker;
use crate::error::Result;
use crate::finding::{self, Finding};
use crate::quantity::Time;
use crate::search::DerivedSignal;

/// Something that a sequence moves.
#[derive(Debug, Clone, PartialEq)]
pub enum Member<'p> {
    /// A signal that holds levels.
    Signal(Box<DerivedSignal<'p>>),
    /// A stepper.
    Stepper(Box<SequencedStepper<'p>>),
}

impl Member<'_> {
    /// Its name.
    pub fn name(&self) -> &str {
        match self {
            Self::Signal(signal) => &signal.spec.name,
            Self::Stepper(stepper) => &stepper.name,
        }
    }

    fn actor(&self) -> Actor<'_> {
        let kind = match self {
            Self::Signal(signal) => ActorKind::Signal {
                load: signal.spec.load.as_ref().map(|load| &load.kind),
                period: signal.derivation.best.setting.period,
                start: signal
                    .spec
                    .level
                    .map(Setpoint::Level)
                    .or_else(|| signal.spec.target.asks.first().map(|ask| Setpoint::Active(ask.active))),
            },
            Self::Stepper(of) => ActorKind::Stepper { stepper: &of.stepper, timer: Some(&of.timer) },
        };
        Actor { name: self.name(), kind }
    }
}

/// A sequence as it is made.
#[derive(Debug, Clone, PartialEq, Serialize)]
pub struct SequencePlan {
    /// Its name.
    pub name: String,
    /// How long it takes.
    pub length: Time,
    /// How often all steps are made.
    pub passes: u32,
    /// The signals, in the order of the members.
    pub tracks: Vec<LevelTrack>,
    /// What the steppers do, one after the other.
    pub moves: Vec<SequencedMove>,
    /// What is or may be wrong.
    #[serde(skip)]
    pub findings: Vec<Finding>,
}

impl SequencePlan {
    /// Plans a sequence.
    ///
    /// # Errors
    /// [`Error::SequenceStep`](crate::Error::SequenceStep) that names the step, for places that a signal does not have, a
    /// beginning that is not known, and steps that overlap; a sequence that is longer than a day; too many steps or levels;
    /// numbers that do not fit.
    pub fn of(members: &[Member<'_>], sequence: &Sequence) -> Result<Self> {
        let actors: Vec<Actor<'_>> = members.iter().map(Member::actor).collect();
        let Schedule { legs, moves, length } = Schedule::of(&actors, sequence)?;
        let (mut tracks, mut findings) = (Vec::new(), Vec::new());
        for (member, (start, legs)) in members.iter().zip(legs) {
            let Member::Signal(signal) = member else { continue };
            let track = TrackMaker::of(signal)?.track(start, &legs, sequence.repeat, length)?;
            findings.extend(judge::judge(signal, &track)?);
            tracks.push(track);
        }
        for made in moves.iter().filter(|made| made.pass == 1) {
            findings.extend(
                made.made.findings.iter().filter(|one| !findings.contains(one)).cloned().collect::<Vec<_>>(),
            );
        }
        finding::sort(&mut findings);
        Ok(Self { name: sequence.name.clone(), length, passes: sequence.repeat, tracks, moves, findings })
    }
}
