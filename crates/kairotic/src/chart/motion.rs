//! A move: rate and position over time, and how far each edge is off.

use plotters::coord::Shift;
use plotters::drawing::DrawingArea;
use plotters::element::Circle;
use plotters::prelude::DrawingBackend;
use plotters::style::Color;

use super::panel::{Axis, Panel};
use super::style::{LIMIT, MAIN};
use super::{Drawing, PlotError, bounds, failed};

/// A move.
#[derive(Debug, Clone, PartialEq)]
pub struct MovePlot {
    /// What it shows.
    pub title: String,
    /// Time and rate, in steps a second.
    pub rate: Vec<(f64, f64)>,
    /// Time and position, in steps.
    pub position: Vec<(f64, f64)>,
    /// Time and how far an edge is off, in ticks.
    pub off: Vec<(f64, f64)>,
    /// How far an edge may be off, in ticks.
    pub limit: f64,
}

impl Drawing for MovePlot {
    fn draw<B: DrawingBackend>(&self, ground: &DrawingArea<B, Shift>) -> Result<(), PlotError> {
        let (above, rest) = ground.split_vertically(310);
        let (middle, below) = rest.split_vertically(240);
        let end = self.position.last().map_or(1.0, |(time, _)| *time);
        let top = self.rate.iter().map(|(_, rate)| *rate).fold(0.0, f64::max) * 1.08;
        let mut plane = Panel::new(Axis::linear((0.0, end), ""), Axis::linear((0.0, top), "steps/s"))
            .title(&self.title)
            .draw(&above)?;
        plane.line(self.rate.iter().copied())?;

        let nothing = || PlotError::Empty("the move has no steps");
        let ends = bounds(self.position.iter().map(|point| point.1)).ok_or_else(nothing)?;
        let mut plane = Panel::new(Axis::linear((0.0, end), ""), Axis::linear(ends, "step")).draw(&middle)?;
        plane.line(self.position.iter().copied())?;

        let limits = [-self.limit, self.limit];
        let (low, high) = bounds(self.off.iter().map(|point| point.1).chain(limits)).ok_or_else(nothing)?;
        let axes = (Axis::linear((0.0, end), "time, s"), Axis::linear((low, high), "off, ticks"));
        let mut plane = Panel::new(axes.0, axes.1).draw(&below)?;
        for limit in limits {
            plane.level(limit, LIMIT, 2)?;
        }
        let dots = self.off.iter().map(|point| Circle::new(*point, 2, MAIN.filled()));
        plane.chart.draw_series(dots).map_err(failed).map(|_| ())
    }
}
