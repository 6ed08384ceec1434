//! A map from inputs to compare values, and how far its arithmetic is off the line.

use plotters::coord::Shift;
use plotters::drawing::DrawingArea;
use plotters::element::Circle;
use plotters::prelude::DrawingBackend;
use plotters::style::Color;

use super::panel::{Axis, Panel};
use super::style::{LIMIT, MAIN};
use super::{Drawing, PlotError, bounds, failed};

/// A map.
#[derive(Debug, Clone, PartialEq)]
pub struct MapPlot {
    /// What it shows.
    pub title: String,
    /// What the inputs are.
    pub inputs: String,
    /// Input and compare value.
    pub values: Vec<(f64, f64)>,
    /// Input and error, in compare steps.
    pub errors: Vec<(f64, f64)>,
    /// The largest error that is allowed, in compare steps.
    pub limit: f64,
}

impl Drawing for MapPlot {
    fn draw<B: DrawingBackend>(&self, ground: &DrawingArea<B, Shift>) -> Result<(), PlotError> {
        let (above, below) = ground.split_vertically(430);
        self.panel(&above, Some(&self.title), &self.values, "compare value", None)?;
        self.panel(&below, None, &self.errors, "off the line, in steps", Some(self.limit))
    }
}

impl MapPlot {
    fn panel<B: DrawingBackend>(
        &self,
        area: &DrawingArea<B, Shift>,
        title: Option<&str>,
        points: &[(f64, f64)],
        measures: &str,
        limit: Option<f64>,
    ) -> Result<(), PlotError> {
        let nothing = PlotError::Empty("there are no inputs");
        let (left, right) = bounds(points.iter().map(|point| point.0)).ok_or(nothing)?;
        let limits = limit.into_iter().flat_map(|limit| [-limit, limit]);
        let ends = bounds(points.iter().map(|point| point.1).chain(limits));
        let (low, high) = ends.ok_or(PlotError::Empty("there are no values"))?;
        let mut panel =
            Panel::new(Axis::linear((left, right), &self.inputs), Axis::linear((low, high), measures));
        if let Some(title) = title {
            panel = panel.title(title);
        }
        let mut plane = panel.draw(area)?;
        for limit in limit.into_iter().flat_map(|limit| [-limit, limit]) {
            plane.level(limit, LIMIT, 2)?;
        }
        // Dots: a line through errors that jump from one input to the next would say nothing.
        let dots = points.iter().map(|point| Circle::new(*point, 2, MAIN.filled()));
        plane.chart.draw_series(dots).map_err(failed).map(|_| ())
    }
}
