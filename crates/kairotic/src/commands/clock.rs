//! `clock`: what reaches a timer, and how to make a frequency reach it.

use kairotic_core::board::{self, ClockedBoard};
use kairotic_core::clock;

use crate::arguments::clock::{ClockArgs, Question};
use crate::exit::Exit;
use crate::fault::Result;
use crate::format::Report;
use crate::part_library::PartLibrary;
use crate::report::clock::{BoardClocksReport, BusReport, JointReport, ReachReport, StateReport};

pub(super) fn run(arguments: &ClockArgs, catalogue: &PartLibrary) -> Result<(Box<dyn Report>, Exit)> {
    let (part, question) = arguments.read(catalogue)?;
    let all = arguments.all;
    Ok(match question {
        Question::State(assignments, source) => {
            let state = clock::state(part, &assignments, source.as_ref())?;
            let illegal = state.nodes.iter().any(|node| node.illegal.is_some());
            (Box::new(StateReport { state }), if illegal { Exit::Missed } else { Exit::Fine })
        }
        Question::Buses(timer, system, given) => {
            (Box::new(BusReport { table: clock::buses(part, &timer, system, &given)?, all }), Exit::Fine)
        }
        Question::Reach(request) => {
            let reached = clock::reach(part, &request)?;
            let exact = reached.ways.first().is_some_and(|way| way.error.value().is_zero());
            (Box::new(ReachReport { reached, all }), if exact { Exit::Fine } else { Exit::Missed })
        }
        Question::Joint(request, within) => {
            let joint = clock::joint(part, &request)?;
            let error = joint.settings.first().map(|best| best.error.value().magnitude());
            let exit =
                if error.is_some_and(|error| error <= within.value()) { Exit::Fine } else { Exit::Missed };
            (Box::new(JointReport { joint }), exit)
        }
        Question::Board(board, source) => {
            let clocks = board::clocks(&board, part, source.as_ref())?;
            let within = clocks.settings.first().is_some_and(ClockedBoard::is_within);
            (Box::new(BoardClocksReport::of(clocks, part)), if within { Exit::Fine } else { Exit::Missed })
        }
    })
}
