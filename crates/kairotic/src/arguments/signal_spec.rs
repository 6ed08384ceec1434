//! What is planned: a target given by options, a signal of a board, or all signals of one.

use std::path::PathBuf;

use clap::Args;
use kairotic_core::load::Load;
use kairotic_core::requirement::Needs;
use kairotic_core::search::DeriveRequest;

use super::board::{BoardPlace, BoardSignal, open};
use super::signal_options::{DESCRIBED, DescribedSignal};
use crate::fault::Result;
use crate::part_library::PartLibrary;

/// A plan, by options or by a board file.
#[derive(Debug, Args)]
pub struct PlanOptions {
    #[command(flatten)]
    described: DescribedSignal,
    /// A board file: its signals are the plan
    #[arg(long, value_name = "FILE", help_heading = "Board", conflicts_with_all = DESCRIBED, conflicts_with = "on")]
    board: Option<PathBuf>,
    /// One signal of the board; all of them where none is named
    #[arg(long, value_name = "NAME", requires = "board", help_heading = "Board")]
    signal: Option<String>,
}

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
        self.board.is_some() || self.described.is_given()
    }

    /// The planned signals, in the order of the board.
    ///
    /// # Errors
    /// [`Fault`](crate::fault::Fault) for a board file that cannot be read or is wrong, and for texts that are no quantities.
    pub fn read(&self, catalogue: &PartLibrary) -> Result<Vec<PlannedSignal>> {
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
        let (part, derive) = self.described.read(catalogue)?;
        let name = match &derive.channel {
            Some(channel) => format!("{}/{channel}", derive.timer),
            None => derive.timer.clone(),
        };
        Ok(vec![PlannedSignal { name, part, derive, needs: Needs::default(), load: None }])
    }
}
