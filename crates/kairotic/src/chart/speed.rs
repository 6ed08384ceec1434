//! A speed over time.

use plotters::coord::Shift;
use plotters::drawing::DrawingArea;
use plotters::prelude::DrawingBackend;
use plotters::style::Color;

use super::capture::Band;
use super::panel::{Axis, Panel};
use super::style::FAINT;
use super::{Drawing, PlotError};

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

impl Drawing for SpeedPlot {
    fn draw<B: DrawingBackend>(&self, ground: &DrawingArea<B, Shift>) -> Result<(), PlotError> {
        let top = self.speed.points.iter().map(|(_, _, fastest)| *fastest).fold(0.0, f64::max) * 1.08;
        let grey = if self.standing.is_empty() { "" } else { "; grey: stopped" };
        let time = format!("time, {}{grey}", self.speed.time_unit);
        let panel =
            Panel::new(Axis::linear((0.0, self.end), &time), Axis::linear((0.0, top), &self.speed.unit));
        let mut plane = panel.title(&self.title).draw(ground)?;
        for (from, to) in &self.standing {
            plane.field([(*from, 0.0), (*to, top)], FAINT.mix(0.5))?;
        }
        self.stretches().try_for_each(|stretch| plane.band(stretch))
    }
}

impl SpeedPlot {
    /// The points between two times at which it stood, and no speed in between.
    fn stretches(&self) -> impl Iterator<Item = &[(f64, f64, f64)]> {
        let stood = |from: f64, to: f64| self.standing.iter().any(|(at, _)| (from..to).contains(at));
        self.speed.points.chunk_by(move |left, right| !stood(left.0, right.0))
    }
}
