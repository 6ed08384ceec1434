//! `survey`: one target on many timers.

use std::panic::resume_unwind;
use std::thread;

use kairotic_core::survey::{self, Survey, SurveyRequest};

use crate::arguments::survey::SurveyArgs;
use crate::catalogue::Catalogue;
use crate::exit::Exit;
use crate::fault::{Fault, Result};
use crate::render::Report;
use crate::show::survey::SurveyReport;

pub(super) fn run(arguments: &SurveyArgs, catalogue: &Catalogue) -> Result<(Box<dyn Report>, Exit)> {
    let request = arguments.read(catalogue)?;
    let names = arguments.matching(catalogue.names())?;
    let mut all = Survey::default();
    let mut known_pin = false;
    for (name, of_part) in names.iter().zip(surveys(&names, catalogue, &request)) {
        let mut of_part = of_part?;
        if let Some(pin) = &arguments.pin {
            let part = catalogue.whole_part(name)?;
            // A part without that pin is only left out, since a survey goes over many.
            let outputs = part.pin(pin, None).unwrap_or_default();
            known_pin |= !outputs.is_empty();
            let carries = |timer: &String| outputs.iter().any(|output| output.timer == *timer);
            of_part.rows.retain(|row| row.timers.iter().any(carries));
        }
        all.rows.append(&mut of_part.rows);
        all.unable.append(&mut of_part.unable);
    }
    if let (Some(pin), false) = (&arguments.pin, known_pin) {
        return Err(Fault::Usage {
            message: format!("--pin: none of these parts is known to have a timer output on `{pin}`"),
            hint: "`kairotic parts PART --pins` lists those of a part".to_owned(),
        });
    }
    all.rows.retain(|row| arguments.at_least_steps.is_none_or(|least| row.choice.steps() >= least));
    survey::sort(&mut all.rows, arguments.order());
    let within = all.rows.iter().any(|row| row.choice.fit.within);
    let exit = if within { Exit::Fine } else { Exit::Missed };
    Ok((Box::new(SurveyReport { survey: all, target: request.target }), exit))
}

/// The surveys of the parts of these names, in their order, made by as many threads as there are processors.
fn surveys(names: &[String], catalogue: &Catalogue, request: &SurveyRequest) -> Vec<Result<Survey>> {
    let threads = thread::available_parallelism().map_or(1, usize::from).min(names.len()).max(1);
    let of_part = |name: &String| Ok(survey::survey(catalogue.part(name)?, request)?);
    thread::scope(|scope| {
        // Families of one maker stand together and cost alike: each thread takes one in so many.
        let running: Vec<_> = (0..threads)
            .map(|first| {
                scope
                    .spawn(move || names.iter().skip(first).step_by(threads).map(of_part).collect::<Vec<_>>())
            })
            .collect();
        let finished =
            running.into_iter().map(|thread| thread.join().unwrap_or_else(|panic| resume_unwind(panic)));
        let mut shares: Vec<_> = finished.map(Vec::into_iter).collect();
        (0..names.len()).filter_map(|place| shares.get_mut(place % threads)?.next()).collect()
    })
}
