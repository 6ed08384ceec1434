//! `survey`: one target on many timers.

use std::panic::resume_unwind;
use std::thread;

use kairotic_core::quantity::{Frequency, Rational, show};
use kairotic_core::survey::{self, Survey, SurveyRequest, SurveyRow};

use crate::arguments::survey::SurveyArgs;
use crate::chart::StepsPlot;
use crate::exit::Exit;
use crate::fault::{Fault, Result};
use crate::format::Report;
use crate::part_library::PartLibrary;
use crate::report::survey::SurveyReport;

/// As many timers as a picture can tell apart.
const DRAWN_TIMERS: usize = 7;
/// Steps between one frequency of a picture and the next over four decades.
const DRAWN_FREQUENCIES: u32 = 400;

pub(super) fn run(arguments: &SurveyArgs, catalogue: &PartLibrary) -> Result<(Box<dyn Report>, Exit)> {
    let plot = arguments.plot.asked(None)?;
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
    all.rows.retain(|row| arguments.min_steps.is_none_or(|least| row.choice.steps() >= least));
    survey::sort(&mut all.rows, arguments.order());
    if let Some(plot) = plot {
        plot.save(&steps_plot(&all.rows, catalogue, &request)?)?;
    }
    let within = all.rows.iter().any(|row| row.choice.fit.within);
    let exit = if within { Exit::Fine } else { Exit::Missed };
    Ok((Box::new(SurveyReport { survey: all, target: request.target }), exit))
}

/// Steps of the leading timers against frequency: two decades either way of what is asked for.
fn steps_plot(rows: &[SurveyRow], catalogue: &PartLibrary, request: &SurveyRequest) -> Result<StepsPlot> {
    let asked = request.target.wanted_frequency()?.value().approx();
    let places = (0..=DRAWN_FREQUENCIES).map(|place| {
        let decades = 4.0 * f64::from(place) / f64::from(DRAWN_FREQUENCIES) - 2.0;
        let millihertz = (asked * 10_f64.powf(decades) * 1e3).round().max(1.0) as i128;
        Rational::new(millihertz, 1000).map(Frequency::new)
    });
    let frequencies: Vec<Frequency> = places.flatten().collect();
    let mut timers: Vec<(String, Vec<(f64, f64)>)> = Vec::new();
    for row in rows.iter().take(DRAWN_TIMERS) {
        let part = catalogue.part(&row.timer.part)?;
        let steps = survey::steps_at(part, row, &request.target, &frequencies);
        let points: Vec<(f64, f64)> =
            steps.into_iter().map(|(frequency, steps)| (frequency.value().approx(), steps as f64)).collect();
        // Lines that lie on one another are one line.
        match timers.iter_mut().find(|(_, known)| *known == points) {
            Some((name, _)) => name.push_str(&format!(", {}", row.timer.name)),
            None => {
                let name = format!(
                    "{} MHz: {}",
                    show::significant(row.clock.nominal.value().approx() / 1e6, 4),
                    row.timer.path()
                );
                timers.push((name, points));
            }
        }
    }
    let title = match rows.len() {
        count if count > DRAWN_TIMERS => {
            format!("Steps against frequency: the first {DRAWN_TIMERS} of {count} timers")
        }
        _ => "Steps against frequency".to_owned(),
    };
    Ok(StepsPlot { title, timers, asked })
}

/// The surveys of the parts of these names, in their order, made by as many threads as there are processors.
fn surveys(names: &[String], catalogue: &PartLibrary, request: &SurveyRequest) -> Vec<Result<Survey>> {
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
