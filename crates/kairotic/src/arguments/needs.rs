//! `--need`: what is required of a signal.

use kairotic_core::load::LoadKind;
use std::str::FromStr;

use kairotic_core::load::Load;
use kairotic_core::quantity::{Deviation, Time};
use kairotic_core::signal::Needs;

use super::typed::{Refusal, positive};
use crate::fault::{Fault, Result};

/// The requirements that there are.
const NAMES: &str = "frequency, pulse, level, steps, step, jitter, clock";

/// One requirement.
#[derive(Debug, Clone)]
pub enum NeedText {
    Frequency(Deviation),
    Pulse(Time),
    Jitter(Time),
    Clock(Deviation),
    Steps(u64),
    /// In the load's unit, which only the load can read.
    Level(String),
    Step(String),
}

fn refused(what: String) -> Refusal {
    Refusal::new(what, format!("for example --need pulse=5us; there are {NAMES}"))
}

/// Reads one `NAME=LIMIT`.
impl FromStr for NeedText {
    type Err = Refusal;

    fn from_str(text: &str) -> Result<Self, Refusal> {
        let (name, limit) =
            text.split_once('=').ok_or_else(|| refused(format!("expected NAME=LIMIT, found `{text}`")))?;
        Ok(match name.trim() {
            "frequency" => Self::Frequency(positive(limit)?),
            "pulse" => Self::Pulse(positive(limit)?),
            "jitter" => Self::Jitter(positive(limit)?),
            "clock" => Self::Clock(positive(limit)?),
            "level" => Self::Level(limit.to_owned()),
            "step" => Self::Step(limit.to_owned()),
            "steps" => Self::Steps(
                limit
                    .trim()
                    .parse()
                    .map_err(|_| refused(format!("expected a whole number of steps, found `{limit}`")))?,
            ),
            _ => return Err(refused(format!("unknown requirement `{name}`"))),
        })
    }
}

impl NeedText {
    /// Adds the requirement to those of a signal with a load.
    ///
    /// # Errors
    /// A requirement in the load's unit that the load cannot read.
    pub fn require(&self, needs: &mut Needs, load: Option<&Load>) -> Result<()> {
        let level = |name: &str, text: &String| {
            let kind = &load
                .ok_or_else(|| Fault::Usage {
                    message: format!("--need: `{name}` is in the load's unit, and there is no load"),
                    hint: "name a board's signal with a load, or give --need pulse".to_owned(),
                })?
                .kind;
            kind.read_level(text)
                .map(Some)
                .map_err(|error| Fault::Option { option: "need", error: Box::new(error) })
        };
        match self {
            Self::Frequency(most) => needs.frequency = Some(*most),
            Self::Pulse(most) => needs.pulse = Some(*most),
            Self::Jitter(most) => needs.jitter = Some(*most),
            Self::Clock(most) => needs.clock = Some(*most),
            Self::Steps(least) => needs.steps = Some(*least),
            Self::Level(most) => needs.level = level("level", most)?,
            Self::Step(most) => needs.step = level("step", most)?,
        }
        Ok(())
    }
}
