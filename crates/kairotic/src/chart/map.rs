//! A map from inputs to compare values, and how far its arithmetic is off the line.

use plotters::chart::ChartBuilder;
use plotters::coord::Shift;
use plotters::drawing::DrawingArea;
use plotters::element::{Circle, PathElement};
use plotters::prelude::DrawingBackend;
use plotters::style::{Color, RGBColor};

use super::style::{FAINT, INK, LIMIT, MAIN, TITLE, number, text};
use super::{Figure, PlotError, bounds, failed};

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

impl Figure for MapPlot {
    fn draw<B: DrawingBackend>(&self, ground: &DrawingArea<B, Shift>) -> Result<(), PlotError> {
        let (above, below) = ground.split_vertically(430);
        self.panel(&above, Some(&self.title), &self.values, "compare value", MAIN, None)?;
        self.panel(&below, None, &self.errors, "off the line, in steps", MAIN, Some(self.limit))
    }
}

impl MapPlot {
    fn panel<B: DrawingBackend>(
        &self,
        area: &DrawingArea<B, Shift>,
        title: Option<&str>,
        points: &[(f64, f64)],
        measures: &str,
        colour: RGBColor,
        limit: Option<f64>,
    ) -> Result<(), PlotError> {
        let nothing = PlotError::Empty("there are no inputs");
        let (left, right) = bounds(points.iter().map(|point| point.0)).ok_or(nothing)?;
        let limits = limit.into_iter().flat_map(|limit| [-limit, limit]);
        let ends = bounds(points.iter().map(|point| point.1).chain(limits));
        let (low, high) = ends.ok_or(PlotError::Empty("there are no values"))?;
        let mut builder = ChartBuilder::on(area);
        if let Some(title) = title {
            builder.caption(title, text(TITLE));
        }
        let mut chart = builder
            .margin(20)
            .margin_right(48)
            .x_label_area_size(58)
            .y_label_area_size(110)
            .build_cartesian_2d(left..right, low..high)
            .map_err(failed)?;
        chart
            .configure_mesh()
            .x_desc(&self.inputs)
            .y_desc(measures)
            .y_labels(6)
            .axis_desc_style(text(20))
            .label_style(text(18))
            .bold_line_style(FAINT)
            .light_line_style(FAINT.mix(0.0))
            .axis_style(INK)
            .x_label_formatter(&|value| number(*value, right - left))
            .y_label_formatter(&|value| number(*value, high - low))
            .draw()
            .map_err(failed)?;
        for limit in limit.into_iter().flat_map(|limit| [-limit, limit]) {
            let line = PathElement::new(vec![(left, limit), (right, limit)], LIMIT.stroke_width(2));
            chart.draw_series([line]).map_err(failed)?;
        }
        // Dots: a line through errors that jump from one input to the next would say nothing.
        let dots = points.iter().map(|point| Circle::new(*point, 2, colour.filled()));
        chart.draw_series(dots).map_err(failed).map(|_| ())
    }
}
