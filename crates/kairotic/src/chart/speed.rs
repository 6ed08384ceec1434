//! A speed over time.

use plotters::coord::Shift;
use plotters::drawing::DrawingArea;
use plotters::element::{PathElement, Rectangle};
use plotters::prelude::DrawingBackend;
use plotters::series::LineSeries;
use plotters::style::Color;

use super::axes::{mesh, panel};
use super::capture::Band;
use super::style::{FAINT, MAIN, TITLE, text};
use super::{Figure, PlotError, failed};

/// A speed over time.
#[derive(Debug, Clone, PartialEq)]
pub struct SpeedPlot {
    /// What it shows.
    pub title: String,
    /// Time, slowest and fastest.
    pub speed: Band,
    /// From and to when it stood.
    pub standing: Vec<(f64, f64)>,
    /// The end of the capture.
    pub end: f64,
}

impl Figure for SpeedPlot {
    fn draw<B: DrawingBackend>(&self, ground: &DrawingArea<B, Shift>) -> Result<(), PlotError> {
        let ground = ground.margin(14, 14, 14, 14).titled(&self.title, text(TITLE)).map_err(failed)?;
        let top = self.speed.points.iter().map(|(_, _, fastest)| *fastest).fold(0.0, f64::max) * 1.08;
        let mut chart = panel(&ground, 0.0..self.end, 0.0..top)?;
        for (from, to) in &self.standing {
            let shade = Rectangle::new([(*from, 0.0), (*to, top)], FAINT.mix(0.5).filled());
            chart.draw_series([shade]).map_err(failed)?;
        }
        let axis = format!("time, {}; grey: stopped", self.speed.time_unit);
        let plain = format!("time, {}", self.speed.time_unit);
        let x = if self.standing.is_empty() { &plain } else { &axis };
        mesh(&mut chart, (x, &self.speed.unit), (self.end, top))?;
        for stretch in self.stretches() {
            let middle = stretch.iter().map(|(time, low, high)| (*time, (low + high) / 2.0));
            chart.draw_series(LineSeries::new(middle, MAIN.stroke_width(2))).map_err(failed)?;
            let ends = stretch.iter().map(|(time, low, high)| {
                PathElement::new(vec![(*time, *low), (*time, *high)], MAIN.stroke_width(2))
            });
            chart.draw_series(ends).map_err(failed)?;
        }
        Ok(())
    }
}

impl SpeedPlot {
    /// The points between two times at which it stood, and no speed in between.
    fn stretches(&self) -> impl Iterator<Item = &[(f64, f64, f64)]> {
        let stood = |from: f64, to: f64| self.standing.iter().any(|(at, _)| (from..to).contains(at));
        self.speed.points.chunk_by(move |left, right| !stood(left.0, right.0))
    }
}
