//! `survey`: one target on many timers.

use kairotic_core::survey::{self, Survey};

use crate::arguments::survey::SurveyArgs;
use crate::catalogue::Catalogue;
use crate::exit::Exit;
use crate::fault::Result;
use crate::render::Report;
use crate::show::survey::SurveyReport;

pub(super) fn run(arguments: &SurveyArgs, catalogue: &Catalogue) -> Result<(Box<dyn Report>, Exit)> {
    let request = arguments.read()?;
    let mut all = Survey::default();
    for name in arguments.matching(catalogue.names())? {
        let mut of_part = survey::survey(catalogue.part(&name)?, &request)?;
        if let Some(pin) = &arguments.pin {
            let outputs = catalogue.whole_part(&name)?.pin(pin, None).unwrap_or_default();
            let carries = |timer: &String| outputs.iter().any(|output| output.timer == *timer);
            of_part.rows.retain(|row| row.timers.iter().any(carries));
        }
        all.rows.append(&mut of_part.rows);
        all.unable.append(&mut of_part.unable);
    }
    all.rows.retain(|row| arguments.at_least_steps.is_none_or(|least| row.choice.steps() >= least));
    survey::sort(&mut all.rows, arguments.order());
    let within = all.rows.iter().any(|row| row.choice.fit.within);
    let exit = if within { Exit::Fine } else { Exit::Missed };
    Ok((Box::new(SurveyReport { survey: all, target: request.target }), exit))
}
