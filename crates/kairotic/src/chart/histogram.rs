//! How many boards lie where, with what is allowed.

use plotters::chart::ChartBuilder;
use plotters::coord::Shift;
use plotters::drawing::DrawingArea;
use plotters::element::{PathElement, Rectangle};
use plotters::prelude::DrawingBackend;
use plotters::style::Color;

use super::style::{FAINT, GROUND, INK, LIMIT, MAIN, TITLE, note, number, text};
use super::{Figure, PlotError, bounds, failed};

/// A distribution.
#[derive(Debug, Clone, PartialEq)]
pub struct Histogram {
    /// What it shows.
    pub title: String,
    /// What is measured, and in what.
    pub unit: String,
    /// From, to, how many.
    pub bins: Vec<(f64, f64, u32)>,
    /// What is allowed either way.
    pub limit: Option<f64>,
    /// What is said of the limit.
    pub note: String,
}

impl Figure for Histogram {
    fn draw<B: DrawingBackend>(&self, ground: &DrawingArea<B, Shift>) -> Result<(), PlotError> {
        let ends = self.bins.iter().flat_map(|(low, high, _)| [*low, *high]);
        let limits = self.limit.into_iter().flat_map(|limit| [-limit, limit]);
        let (low, high) = bounds(ends.chain(limits)).ok_or(PlotError::Empty("there are no boards"))?;
        let most = f64::from(self.bins.iter().map(|(.., count)| *count).max().unwrap_or(0)) * 1.12 + 1.0;
        let mut chart = ChartBuilder::on(ground)
            .caption(&self.title, text(TITLE))
            .margin(24)
            .margin_right(48)
            .x_label_area_size(64)
            .y_label_area_size(90)
            .build_cartesian_2d(low..high, 0.0..most)
            .map_err(failed)?;
        chart
            .configure_mesh()
            .disable_x_mesh()
            .x_desc(&self.unit)
            .y_desc("boards")
            .axis_desc_style(text(20))
            .label_style(text(18))
            .bold_line_style(FAINT)
            .light_line_style(FAINT.mix(0.0))
            .axis_style(INK)
            .x_label_formatter(&|value| number(*value, high - low))
            .y_label_formatter(&|value| number(*value, most))
            .draw()
            .map_err(failed)?;
        for (from, to, count) in &self.bins {
            let corners = [(*from, 0.0), (*to, f64::from(*count))];
            chart.draw_series([Rectangle::new(corners, MAIN.filled())]).map_err(failed)?;
            chart.draw_series([Rectangle::new(corners, GROUND.stroke_width(1))]).map_err(failed)?;
        }
        for limit in self.limit.into_iter().flat_map(|limit| [-limit, limit]) {
            let line = PathElement::new(vec![(limit, 0.0), (limit, most)], LIMIT.stroke_width(3));
            chart.draw_series([line]).map_err(failed)?;
        }
        note(ground, &self.note)
    }
}
