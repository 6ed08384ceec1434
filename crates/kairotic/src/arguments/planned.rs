//! What is planned: a target given by options, a signal of a board, or all signals of one.

use std::path::PathBuf;

use clap::Args;
use kairotic_core::board::Needs;
use kairotic_core::load::Load;
use kairotic_core::setting::DeriveRequest;

use super::board::{BoardPlace, BoardSignal, open};
use super::clock::ClockOptions;
use super::place::{Place, PlaceOptions};
use super::shape::ShapeOptions;
use super::target::TargetOptions;
use crate::catalogue::Catalogue;
use crate::fault::{Fault, Result};

/// A plan, by options or by a board file.
#[derive(Debug, Args)]
pub struct PlanOptions {
    #[command(flatten)]
    place: PlaceOptions,
    #[command(flatten)]
    clock: ClockOptions,
    #[command(flatten)]
    target: TargetOptions,
    #[command(flatten)]
    shape: ShapeOptions,
    /// A board file: its signals are the plan
    #[arg(long, value_name = "FILE", help_heading = "Board", conflicts_with_all = DESCRIBED)]
    board: Option<PathBuf>,
    /// One signal of the board; all of them where none is named
    #[arg(long, value_name = "NAME", requires = "board", help_heading = "Board")]
    signal: Option<String>,
}

/// What describes a timer's signal: where a board file says it, it means nothing.
const DESCRIBED: [&str; 16] = [
    "on",
    "pin",
    "clock",
    "sysclk",
    "bus",
    "freq",
    "period",
    "duty",
    "pulse",
    "phase",
    "span",
    "at_least_bits",
    "active",
    "dead_time",
    "mode",
    "base",
];

/// One planned signal.
pub struct PlannedSignal {
    /// Its name on the board, or its place.
    pub name: String,
    /// The part's name.
    pub part: String,
    /// What is to be derived.
    pub derive: DeriveRequest,
    /// What is required.
    pub needs: Needs,
    /// What it drives.
    pub load: Option<Load>,
}

impl PlanOptions {
    /// Whether anything is planned.
    pub fn is_given(&self) -> bool {
        self.board.is_some() || self.place.is_given()
    }

    /// The planned signals, in the order of the board.
    ///
    /// # Errors
    /// [`Fault`] for a board file that cannot be read or is wrong, and for texts that are no quantities.
    pub fn read(&self, catalogue: &Catalogue) -> Result<Vec<PlannedSignal>> {
        if let Some(file) = &self.board {
            let board = open(file, catalogue)?;
            let names: Vec<String> = match &self.signal {
                Some(name) => vec![board.signal(name)?.name.clone()],
                None => board.signals.iter().map(|signal| signal.name.clone()).collect(),
            };
            let planned = names.into_iter().map(|name| {
                let signal = board.signal(&name)?.clone();
                let on = BoardSignal { board: board.clone(), signal };
                let BoardPlace { signal: on, place, clock, .. } = BoardPlace::of(on, catalogue)?;
                let target = on.board.target(&on.signal)?;
                Ok(PlannedSignal {
                    name,
                    part: place.part,
                    derive: DeriveRequest::plain(place.timer, place.channel, clock, target),
                    needs: on.signal.needs.clone(),
                    load: on.board.load_of(&on.signal).cloned(),
                })
            });
            return planned.collect();
        }
        let (place, _) = self.place.read(catalogue)?;
        let (clock, _) = self.clock.of(catalogue, &place.part, &place.timer)?;
        let aim = self.target.aim()?.ok_or_else(|| Fault::Usage {
            message: "how often does it repeat?".to_owned(),
            hint: "give --freq or --period, and --pulse or --duty".to_owned(),
        })?;
        let target = self.shape.of(self.target.target(aim)?)?;
        let Place { part, timer, channel } = place;
        let name = channel.as_ref().map_or(timer.clone(), |channel| format!("{timer}/{channel}"));
        let derive = DeriveRequest {
            mode: self.shape.mode.clone(),
            base: self.shape.base.clone(),
            ..DeriveRequest::plain(timer, channel, clock, target)
        };
        Ok(vec![PlannedSignal { name, part, derive, needs: Needs::default(), load: None }])
    }
}
